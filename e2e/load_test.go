package e2e

import "testing"

// What the network carries is read from its page: the busy evening, each path, and paths that somebody adds up.
func TestTheLoadOfTheNetwork(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/paths")
	petri.tap("Whether the network carries them")
	petri.sees("Little is left of Wi-Fi channel 44 (5 GHz): about 81 % (assumed) is taken.")
	petri.sees("Patch the outlet P1 and connect parlour stick to it by cable (reckoned with 100 Mb/s)")
	petri.sees("A reading taken at parlour stick in the evening would help most to make this certain.")
	petri.picture("load-desk")
	petri.audit("the load of the network")
	petri.press(`document.querySelector('button.line')`, "the first path")
	petri.sees("granite server → router → bedroom repeater → lamp room screen")

	tilit := newScreen(t, base, phone)
	tilit.logIn("tilit")
	tilit.open("/households/H-0001/load")
	tilit.sees("3 such streams fit over this way at once.")
	tilit.press(`[...document.querySelectorAll('label.check')].find(e => e.innerText.trim() === 'parlour films')`, "a path to add up")
	tilit.tap("Add up")
	tilit.sees("The most taken is Wi-Fi channel 44 (5 GHz), with about 26 % (assumed).")
	tilit.picture("load-phone")
	tilit.audit("the load of the network, on the phone")
}
