package e2e

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/demo"
	"kaiku/practice/layout"
)

// A technician goes through the steps on the phone: one tap where all is as expected, one more for what is not, and a slip is taken back.
func TestARoundIsGoneThroughOnThePhone(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/proving/round")
	petri.sees("Step 2 of 6, about 31 minutes to go")
	petri.sees("Play something from the path lamp room films and check everything on the screen")
	petri.picture("round-phone")
	petri.audit("a round")
	petri.press(`[...document.querySelectorAll('button')].filter(b => b.textContent.trim() === 'Otherwise')[6]`, "the last of seven tests")
	petri.tap("Failed")
	petri.fill("What you saw", "The left channel is silent")
	petri.sees("Record: 6 passed, 1 failed")
	petri.picture("round-otherwise")
	petri.audit("a round with one failure")
	petri.tap("Record: 6 passed, 1 failed")
	petri.sees("Recorded: 6 passed, 1 failed.")
	petri.tap("Take back")
	petri.sees("Taken back.")
	petri.tap("All 7 as expected")
	petri.sees("Recorded: 7 passed.")
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

// What is read off the sample clip is computed, and a photograph of the screen belongs to the attempt.
func TestATestIsComputedFromTimeCodes(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/proving/round")
	petri.sees("Play something from the path lamp room films")
	petri.press(`[...document.querySelectorAll('li')].find(l => l.textContent.includes('Seeks')).querySelector('button')`, "the test of jumping")
	petri.press(`[...document.querySelectorAll('summary')].find(s => s.textContent.includes('time codes'))`, "the reading")
	petri.fill("Jumped to", "0:30:00")
	petri.fill("Time code on the screen", "0:37:10")
	petri.fill("Seconds after the jump", "2")
	file := filepath.Join(t.TempDir(), "screen.png")
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewRGBA(image.Rect(0, 0, 640, 360))))
	require.NoError(t, os.WriteFile(file, picture.Bytes(), 0o600))
	petri.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	petri.sees("screen.png")
	petri.picture("round-reading")
	petri.audit("a round with a reading")
	petri.tap("Record: 6 passed, 1 to be computed")
	petri.sees("Recorded: 6 passed, 1 to be computed.")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	var jump dossier.Attempt
	for _, a := range d.Attempts {
		if a.Test == "seeks" {
			jump = a
		}
	}
	assert.Equal(t, dossier.Marginal, jump.Outcome)
	assert.InDelta(t, 5.4, jump.Values["jumpErrorS"], 0.001)
	petri.wait("the photograph", `!document.body.innerText.includes('not sent')`)
	petri.open("/households/H-0001/proving/" + proving.TestID("seeks", jump.Subjects))
	petri.wait("the photograph beside the attempt", `document.querySelector('img.shot')?.naturalWidth > 0`)
	petri.tap("Record")
	petri.press(`[...document.querySelectorAll('summary')].find(s => s.textContent.includes('time codes'))`, "the reading")
	petri.picture("record-reading")
	petri.fill("Jumped to", "0:30:00")
	petri.fill("Time code on the screen", "0:32:00")
	petri.fill("Seconds after the jump", "2")
	petri.tap("Compute and record")
	petri.sees("The jump ended 0 s from where it should")
}

// A round in the cellar without a line: the page goes on to the next step, and what was seen is sent afterwards with the time it was seen.
func TestARoundWithoutALine(t *testing.T) {
	base := startDemo(t)
	line := newLine(t, base)
	petri := newScreen(t, line.address, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/proving/round")
	petri.sees("Play something from the path lamp room films")
	petri.settle()
	began := time.Now()
	line.set(true, false)
	petri.tap("All 7 as expected")
	petri.sees("Kept on this device: 7 passed.")
	petri.sees("1 entry not sent yet")
	petri.sees("Copy the sample clip")
	cut := time.Now()
	line.set(false, false)
	petri.tap("Send now")
	petri.wait("it to be sent", `!document.body.innerText.includes('not sent')`)
	petri.seesNot("Play something from the path lamp room films")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	made := 0
	for _, a := range d.Attempts {
		if a.At.After(began) {
			assert.WithinRange(t, a.At, began, cut)
			assert.Equal(t, dossier.Pass, a.Outcome)
			made++
		}
	}
	assert.Equal(t, 7, made)
}

// Kaiku watches the server while a person restarts it, and what it saw is recorded with what the person says.
func TestTheServerIsWatchedDuringARestart(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/proving/round")
	petri.sees("All steps")
	petri.press(`[...document.querySelectorAll('.steps button')].find(b => b.textContent.includes('Restart granite server'))`, "the restart")
	petri.tap("Let Kaiku watch the server")
	petri.sees("The server answers. Restart it now.")
	_, err := layout.Ask(t.Context(), 1, http.MethodPut, "/faults/goodbye/on", nil)
	require.NoError(t, err)
	petri.sees("The server is away.")
	_, err = layout.Ask(t.Context(), 1, http.MethodPut, "/faults/goodbye/off", nil)
	require.NoError(t, err)
	petri.sees("Its folders open again")
	petri.sees("Watch again")
	petri.picture("round-watch")
	petri.audit("a round while the server is watched")
	petri.tap("As expected")
	petri.sees("Recorded: 1 passed.")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	last := d.Attempts[len(d.Attempts)-1]
	assert.Equal(t, "survives-restart", last.Test)
	assert.Contains(t, last.Values, "opensAfterS")
	assert.Contains(t, last.Note, "The server answered again after")
}

// The proving page shows how the proof came about, and what is repeated overnight; the page of forecasts what tests say to them.
func TestThePicturesOfTheProof(t *testing.T) {
	base := startFirm(t)
	for name, of := range map[string]size{"phone": phone, "desk": desk} {
		petri := newScreen(t, base, of)
		petri.logIn("petri")
		petri.open("/households/H-0002/proving")
		petri.press(`[...document.querySelectorAll('summary')].find(s => s.textContent.includes('room by room'))`, "the history")
		petri.wait("the strips", `document.querySelectorAll('svg rect').length > 3`)
		petri.sees("3 of 13")
		petri.picture("strips-" + name)
		petri.audit("the strips")
		petri.open("/households/H-0001/proving")
		petri.sees("Nothing is repeated overnight.")
		petri.tap("Repeat every night")
		petri.picture("nightly-" + name)
		petri.audit("the form of the night")
		petri.tap("Cancel")
		petri.open("/households/H-0002/forecast")
		petri.sees("path plays: stale")
		petri.picture("forecast-tried-" + name)
		petri.audit("forecasts with results")
	}
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/proving")
	petri.tap("Repeat every night")
	petri.tap("Set")
	petri.sees("Tests that disturb nobody are repeated every night at 03:00, in the name of Petri Lokki.")
}
