package e2e

import "testing"

// A technician goes through the steps on the phone: one tap where all is as expected, one more for what is not, and a slip is taken back.
func TestARoundIsGoneThroughOnThePhone(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/proving/round")
	petri.sees("Step 2 of 6, about 32 minutes to go")
	petri.sees("Play something from the path lamp room films and check everything on the screen")
	petri.picture("round-phone")
	petri.audit("a round")
	petri.press(`[...document.querySelectorAll('button')].filter(b => b.textContent.trim() === 'Otherwise')[4]`, "the last of five tests")
	petri.tap("Failed")
	petri.fill("What you saw", "The left channel is silent")
	petri.sees("Record: 4 passed, 1 failed")
	petri.picture("round-otherwise")
	petri.audit("a round with one failure")
	petri.tap("Record: 4 passed, 1 failed")
	petri.sees("Recorded: 4 passed, 1 failed.")
	petri.tap("Take back")
	petri.sees("Taken back.")
	petri.tap("All 5 as expected")
	petri.sees("Recorded: 5 passed.")
	petri.sees("Copy the sample clip")
	petri.tap("Later")
	petri.sees("Unplug lamp room screen")

	tilit := newScreen(t, base, desk)
	tilit.logIn("tilit")
	tilit.open("/households/H-0001/proving/round")
	tilit.sees("Copy the sample clip")
	tilit.seesNot("As expected")
	tilit.picture("round-desk")
	tilit.audit("a round, as one who reads")
}
