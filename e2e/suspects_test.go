package e2e

import (
	"testing"
)

// A coordinator with a telephone notes what the caller says and asks one question after the other; what would explain it is on the page of the issue.
func TestTheCallerIsAskedOneQuestionAScreen(t *testing.T) {
	base := startDemo(t)
	for name, of := range map[string]size{"phone": phone, "desk": desk} {
		ilona := newScreen(t, base, of)
		ilona.logIn("ilona")
		ilona.open("/households/H-0001/issues")
		ilona.press(`[...document.querySelectorAll('a')].find(a => a.innerText.includes('Films stutter'))`, "the issue")
		ilona.sees("What would explain it")
		ilona.sees("What to do next")
		ilona.press(`document.querySelector('details > summary')`, "why the first is suspected")
		ilona.sees("To see it")
		ilona.picture("suspects-" + name)
		ilona.audit("the suspects")
		ilona.tap("Ask the caller")
		ilona.sees("So far")
		ilona.picture("question-" + name)
		ilona.audit("a question")
		ilona.tap("I don't know")
		ilona.sees("not known")
		ilona.tap("Take back")
		ilona.wait("the answer is gone", `!document.body.innerText.includes('not known')`)
		ilona.press(`[...document.querySelectorAll('a')].find(a => a.innerText === 'The issue')`, "the way back")
		ilona.sees("What would explain it")
		ilona.press(`document.querySelector('details > summary')`, "why the first is suspected")
		ilona.tap("It was this")
		ilona.sees("Recorded as:")
		ilona.picture("found-" + name)
		ilona.audit("what it was")
		ilona.tap("Cancel")
	}
}

// An issue of which nothing is known yet begins with what the caller says is wrong.
func TestAnIssueBeginsWithAComplaint(t *testing.T) {
	base := startFirm(t)
	ilona := newScreen(t, base, phone)
	ilona.logIn("ilona")
	ilona.open("/households/H-0002/issues")
	ilona.tap("Open an issue")
	ilona.fill("Symptom, as observed", "No list on the office screen")
	ilona.picture("open-phone")
	ilona.audit("the form of an issue")
	ilona.tap("Open and ask the caller")
	ilona.sees("What does the caller say is wrong?")
	ilona.picture("complaint-phone")
	ilona.audit("the complaints")
	ilona.tap("The server is not in the list")
	ilona.sees("On which path?")
	ilona.press(`[...document.querySelectorAll('button')].find(b => b.innerText.includes('office'))`, "the path")
	ilona.sees("So far")
	ilona.press(`[...document.querySelectorAll('a')].find(a => a.innerText === 'The issue')`, "the way back")
	ilona.sees("Noted so far")
	ilona.tap("Take back")
	ilona.sees("Nothing is known to fail")
}

// The faults of all homes together: one in several homes, what keeps coming back, and odds that a lead keeps as they came. What comes back is said at the
// device and where a way is chosen, and what an issue asks for stands with the visit.
func TestFaultsOfTheFirm(t *testing.T) {
	base := startFirm(t)
	for name, of := range map[string]size{"phone": phone, "desk": desk} {
		aino := newScreen(t, base, of)
		aino.logIn("aino")
		aino.open("/faults")
		aino.sees("2 of 3 homes that have Ahtola 3.1 report it")
		aino.sees("Rye Corner")
		aino.sees("odds 7.3 instead of 5")
		aino.picture("faults-" + name)
		aino.audit("the faults of the firm")
		aino.tap("Keep as it came")
		aino.sees("Follow what is found")
		aino.tap("Follow what is found")
		aino.wait("the odds follow again", `!document.body.innerText.includes('Follow what is found')`)
		aino.open("/households/H-0001/visits")
		aino.sees("To prove the remedies of open issues")
		aino.picture("visits-" + name)
		aino.audit("the visits")
	}
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0003/records/device")
	petri.press(`[...document.querySelectorAll('a')].find(a => a.innerText.includes('counter server'))`, "the server")
	petri.sees("What keeps coming back")
	petri.sees("too little to tell a rate")
	petri.picture("recurring-phone")
	petri.audit("a device whose program has had faults")
}

// A second call about the same thing is joined to the first.
func TestASecondCallIsJoined(t *testing.T) {
	base := startDemo(t)
	ilona := newScreen(t, base, phone)
	ilona.logIn("ilona")
	ilona.open("/households/H-0001/issues")
	ilona.tap("Open an issue")
	ilona.fill("Symptom, as observed", "It stands still in the lamp room")
	ilona.press(`document.querySelector('form button[type=submit]')`, "the way to open it")
	ilona.tap("Same as another")
	ilona.choose("The issue of which it is one more symptom", "Films stutter on the lamp room screen")
	ilona.picture("join-phone")
	ilona.audit("joining an issue")
	ilona.press(`document.querySelector('form button[type=submit]')`, "the step")
	ilona.sees("as one more symptom of another issue")
	ilona.press(`[...document.querySelectorAll('dd a')].find(a => a.innerText.includes('Films stutter'))`, "the other issue")
	ilona.sees("It stands still in the lamp room")
}
