package e2e

import "testing"

// A room's card is reached from the walk, and turned to the customer it leaves out what is for technicians.
func TestARoomsCardIsTurnedToTheCustomer(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/walk")
	petri.press(`document.querySelector('article[aria-label="lamp room"] a[href$="/card"]')`, "the card of the lamp room")
	petri.sees("On lamp room screen, open the list of media servers and choose Granite.")
	petri.sees("Films stutter on the lamp room screen")
	petri.picture("room-card-phone")
	petri.audit("a room's card")
	petri.tap("For the customer")
	petri.seesNot("Films stutter on the lamp room screen")
	petri.sees("Something is still open here. We are seeing to it.")
	petri.sees("On lamp room screen, open the list")
	petri.picture("room-card-customer")
	petri.audit("a room's card for the customer")
}
