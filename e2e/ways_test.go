package e2e

import "testing"

// The ways for a device are compared on its page, and one of them is recorded with one press.
func TestAWayIsRecordedFromItsPage(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/paths")
	petri.tap("Ways for a device")
	petri.choose("Device", "parlour stick")
	petri.sees("Multicast does not pass between them, so the device cannot find the server.")
	petri.sees("not possible now")
	petri.audit("ways that are not possible")
	petri.choose("Device", "kitchen screen")
	petri.sees("Wished for here: music")
	petri.sees("The device is recorded as a renderer. The server is found by multicast only.")
	petri.sees("From a feed: no source is recorded that speaks HTTP. It would take a feed.")
	petri.picture("ways-desk")
	petri.audit("ways for a device")
	petri.press(`[...document.querySelectorAll('article')].find(e => e.innerText.includes('Sent to the device'))?.querySelector('button')`, "the way by a phone")
	petri.sees("What to enter")
	petri.open("/households/H-0001/paths")
	petri.sees("kitchen screen music")

	tilit := newScreen(t, base, phone)
	tilit.logIn("tilit")
	tilit.open("/households/H-0001/paths/ways")
	tilit.choose("Device", "lamp room screen")
	tilit.sees("The device does this already, by a recorded path.")
	tilit.seesNot("Record this way")
	tilit.picture("ways-phone")
	tilit.audit("ways for a device, on the phone")
}
