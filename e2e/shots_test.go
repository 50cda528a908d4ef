package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestShots takes the pictures of the documentation, see make shots.
func TestShots(t *testing.T) {
	dir := os.Getenv("KAIKU_SHOTS")
	if dir == "" {
		t.Skip("taken by make shots")
	}
	dir, err := filepath.Abs(dir)
	require.NoError(t, err)
	base := startFirm(t)
	const home = "/households/H-0001"
	for _, s := range []struct {
		suffix string
		size   size
		places map[string]string
	}{
		{"", desk, map[string]string{"overview": home, "proving": home + "/proving", "paths": home + "/paths", "load": home + "/load", "drawing": home + "/survey/drawing"}},
		{"-phone", phone, map[string]string{"round": home + "/proving/round", "walk": home + "/survey/walk"}},
	} {
		sc := newScreen(t, base, s.size)
		sc.logIn("maarit")
		if s.size == desk {
			petri := newScreen(t, base, desk)
			petri.logIn("petri")
			petri.shoot(filepath.Join(dir, "today.png"))
		}
		for name, path := range s.places {
			sc.open(path)
			sc.shoot(filepath.Join(dir, name+s.suffix+".png"))
		}
		sc.open("/households/H-0002/forecast")
		sc.press(`document.querySelectorAll('.cell')[4]`, "what does not play")
		sc.sees("The device does not decode HEVC")
		if s.size == desk {
			sc.shoot(filepath.Join(dir, "forecast.png"))
		}
		sc.open("/")
		sc.tap("Handover from Petri Lokki, waiting for you to read it back")
		sc.sees("Points")
		if s.size == desk {
			sc.shoot(filepath.Join(dir, "handover.png"))
		}
	}
	ilona := newScreen(t, base, desk)
	ilona.logIn("ilona")
	ilona.open("/households?words=024b.4900.0110")
	ilona.sees("granite server")
	ilona.shoot(filepath.Join(dir, "households.png"))
	hand := newScreen(t, base, phone)
	hand.logIn("petri")
	hand.open(home + "/paths")
	hand.press(`[...document.querySelectorAll('a')].find(a => a.innerText.includes('What to enter on lamp room screen'))`, "the card")
	hand.sees("The firm's steps for this device")
	hand.shoot(filepath.Join(dir, "card-phone.png"))
	hand.open(home + "/forecast")
	hand.tap("Films")
	hand.press(`[...document.querySelectorAll('p a')].find(a => a.textContent === 'Films')`, "what is in it")
	hand.tap("Read the folder")
	hand.sees("Record this mix")
	hand.shoot(filepath.Join(dir, "folder-phone.png"))
	sc := newScreen(t, base, desk)
	sc.logIn("petri")
	sc.open(home + "/load")
	sc.press(`[...document.querySelectorAll('button')].find(b => b.textContent.trim() === 'Suppose it')`, "a change")
	sc.sees("Load of Saturday evening")
	sc.shoot(filepath.Join(dir, "suppose.png"))
	sc.tap("Drop it")
	sc.sees("Try a change before it is made")
	sc.open(home + "/issues")
	sc.press(`[...document.querySelectorAll('a')].find(a => a.innerText.includes('Films stutter'))`, "the issue")
	sc.sees("Tries")
	sc.sees("What would explain it")
	sc.shoot(filepath.Join(dir, "issue.png"))
	sc.open(home + "/proving")
	sc.tap("Run 7 tests")
	sc.sees("6 of 7 passed.")
	sc.change(home+"/records/source", "media server")
	sc.fill("Port", "40299")
	sc.tap("Save")
	sc.sees("History")
	sc.open(home + "/proving")
	sc.shoot(filepath.Join(dir, "stale.png"))
	sc.open(home + "/devices/observed")
	sc.tap("Scan the network")
	sc.sees("Which device is this?")
	sc.shoot(filepath.Join(dir, "observed.png"))
	sc.tap("This is kitchen screen")
	sc.seesNot("This is kitchen screen")
	sc.recordCertain()
	sc.open(home + "/devices/shown")
	sc.tap("lamp room screen")
	sc.tap("kitchen screen")
	sc.tap("Browse")
	sc.sees("differs")
	sc.shoot(filepath.Join(dir, "shown.png"))
}
