package e2e

import (
	"os"
	"testing"
)

// picture keeps what a window shows where KAIKU_KEEP says, to be looked at.
func (s *screen) picture(name string) {
	if dir := os.Getenv("KAIKU_KEEP"); dir != "" {
		s.shoot(dir + "/" + name + ".png")
	}
}

// TestTheNetworkIsScannedAndRecorded goes the technician's way: scan, say which device is which,
// record what is certain and what is new, ignore a value; on the desk and on the phone.
func TestTheNetworkIsScannedAndRecorded(t *testing.T) {
	base := startDemo(t)
	const at = "/households/H-0001/devices/observed"
	for _, window := range []struct {
		name string
		size size
	}{{"desk", desk}, {"phone", phone}} { // in this order: only the first finds a home that was not scanned yet
		sc := newScreen(t, base, window.size)
		sc.logIn("petri")
		sc.open(at)
		if window.size == desk {
			sc.sees("Not scanned yet.")
			sc.audit("before a scan")
		}
		sc.tap("Scan the network")
		if window.size == phone {
			sc.sees("Previous scan") // its own has ended: what stood there before is not taken for it
		}
		sc.sees("Recognised by same UPnP identifier")
		sc.audit("after a scan, " + window.name)
		sc.picture("observed-" + window.name)
	}
	sc := newScreen(t, base, desk)
	sc.logIn("petri")
	sc.open(at)
	sc.sees("Which device is this?")
	sc.tap("This is router")
	sc.sees("Recognised by same address")
	sc.sees("same UPnP identifier") // nothing of it is lost
	sc.tap("Ignore Announces itself as of device router")
	sc.seesNot("Pier/3.1")
	sc.wait("the changed ones", `(() => { const e = document.getElementById('g-changed'); e && e.scrollIntoView(); return !!e })()`)
	sc.picture("observed-changed")
	sc.offerCertain()
	sc.sees("These values would be recorded.")
	sc.audit("the certain values")
	sc.picture("observed-certain")
	sc.tap("Cancel")
	sc.seesNot("These values would be recorded.")
	sc.recordCertain()
	sc.tap("Undo")
	sc.sees("Taken back.")
	sc.recordCertain()
	sc.open("/households/H-0001/devices")
	sc.sees("Harbour view")
	sc.sees("Hallway frame")
	sc.sees("stream list")
	sc.open(at)
	sc.sees("As recorded")
	sc.audit("after recording")
	sc.picture("observed-after")
}

// offerCertain has everything listed that is certain, however much that is.
func (s *screen) offerCertain() {
	offer := `[...document.querySelectorAll('button')].find(b => /^Record \d+ certain values? …$/.test(b.innerText))`
	s.wait("the certain values to be offered", "!!"+offer)
	s.press(offer, "list what is certain")
}

// recordCertain records everything that is certain.
func (s *screen) recordCertain() {
	s.offerCertain()
	s.tap("Record these")
	s.sees("values recorded.")
}

// TestWhatDevicesSeeOfASource browses the server as two devices see it, and compares it with
// the file share.
func TestWhatDevicesSeeOfASource(t *testing.T) {
	base := startDemo(t)
	sc := newScreen(t, base, desk)
	sc.logIn("petri")
	sc.open("/households/H-0001/devices/observed")
	sc.tap("Scan the network")
	sc.tap("This is kitchen screen")
	sc.seesNot("This is kitchen screen")
	sc.recordCertain()
	for name, s := range map[string]size{"desk": desk, "phone": phone} {
		w := newScreen(t, base, s)
		w.logIn("petri")
		w.open("/households/H-0001/devices/shown")
		w.choose("Source", "granite server media server")
		w.choose("Compare with", "file store media share")
		w.tap("lamp room screen")
		w.tap("kitchen screen")
		w.tap("Browse")
		w.sees("differs")
		w.sees("not shown")
		w.sees("From the lamp room, 1")
		w.audit("what devices see, " + name)
		w.picture("shown-" + name)
	}
}
