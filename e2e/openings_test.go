package e2e

import "testing"

// What the firewalls have to let in is read from its page, and taken along as a sheet.
func TestOpeningsAreReadFromTheirPage(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/paths")
	petri.tap("Openings in firewalls")
	petri.sees("UDP port 1900")
	petri.sees("UDP, answers to its own search")
	petri.sees("from 127.77.1.0/24, 127.77.2.0/24, for fetching")
	petri.tap("As rules (nftables)")
	petri.picture("openings-desk")
	petri.audit("openings")

	tilit := newScreen(t, base, phone)
	tilit.logIn("tilit")
	tilit.open("/households/H-0001/paths/openings")
	tilit.sees("being found")
	tilit.picture("openings-phone")
	tilit.audit("openings, on the phone")
}
