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

// TestTheNetworkIsLookedAtAndTakenOver goes the technician's way: look, confirm who is who, take
// over what is sure, record what is new, set aside; on the desk and on the phone.
func TestTheNetworkIsLookedAtAndTakenOver(t *testing.T) {
	base := startDemo(t)
	const at = "/households/H-0001/devices/observed"
	for _, window := range []struct {
		name string
		size size
	}{{"desk", desk}, {"phone", phone}} { // in this order: only the first finds that nobody has looked yet
		sc := newScreen(t, base, window.size)
		sc.logIn("petri")
		sc.open(at)
		if window.size == desk {
			sc.sees("Nobody has looked yet.")
			sc.audit("before a look")
		}
		sc.tap("Look at the network")
		sc.sees("Known by: same unique name")
		sc.audit("after a look, " + window.name)
		sc.picture("observed-" + window.name)
	}
	sc := newScreen(t, base, desk)
	sc.logIn("petri")
	sc.open(at)
	sc.sees("Which device is this?")
	sc.tap("It is router")
	sc.sees("Known by: same address")
	sc.sees("same unique name") // nothing of it is lost
	sc.tap("Set aside Announces itself as of device router")
	sc.seesNot("Pier/3.2.1")
	sc.wait("the changed ones", `(() => { const e = document.getElementById('g-changed'); e && e.scrollIntoView(); return !!e })()`)
	sc.picture("observed-changed")
	sc.takeOverSure()
	sc.open("/households/H-0001/devices")
	sc.sees("Harbour view")
	sc.sees("Hallway frame")
	sc.sees("stream list")
	sc.open(at)
	sc.sees("As recorded")
	sc.audit("after taking over")
	sc.picture("observed-after")
}

// takeOverSure takes over everything that is sure, however much that is.
func (s *screen) takeOverSure() {
	offer := `[...document.querySelectorAll('button')].find(b => /^Take over \d+ sure values?$/.test(b.innerText))`
	s.wait("the sure values to be offered", "!!"+offer)
	s.press(offer, "take over what is sure")
	s.sees("values taken over.")
}

// TestASourceThroughTheEyesOfDevices looks into the server as two devices see it, and holds it
// against the file share.
func TestASourceThroughTheEyesOfDevices(t *testing.T) {
	base := startDemo(t)
	sc := newScreen(t, base, desk)
	sc.logIn("petri")
	sc.open("/households/H-0001/devices/observed")
	sc.tap("Look at the network")
	sc.takeOverSure()
	for name, s := range map[string]size{"desk": desk, "phone": phone} {
		w := newScreen(t, base, s)
		w.logIn("petri")
		w.open("/households/H-0001/devices/shown")
		w.choose("Source", "granite server media server")
		w.choose("Held against", "file store media share")
		w.tap("lamp room screen")
		w.tap("Kielo in the kitchen")
		w.tap("Look into it")
		w.sees("differs")
		w.sees("not shown")
		w.sees("From the lamp room, 1")
		w.audit("through a device's eyes, " + name)
		w.picture("shown-" + name)
	}
}
