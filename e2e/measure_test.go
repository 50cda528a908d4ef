package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
)

// A browser without an account measures with a code, and its readings stand at the device.
func TestABrowserMeasures(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/walk")
	petri.sees("Is everything on the same network?")
	petri.press(`[...document.querySelector('article[aria-label="lamp room"]').querySelectorAll('button')].find(e => e.innerText.trim() === 'Reading')`, "reading of the lamp room")
	petri.choose("At", "lamp room screen")
	petri.tap("Measure with a browser")
	petri.wait("the code", `!!document.querySelector('figure svg[role=img]')`)
	petri.audit("a code to be photographed")
	address, err := chromedp.Run(petri.ctx, chromedp.Evaluate[string](`new URL(document.querySelector('figure a').href).pathname`))
	require.NoError(t, err)

	stranger := newScreen(t, base, phone)
	stranger.open(address)
	stranger.sees("how well lamp room screen reaches")
	stranger.audit("the measuring page")
	stranger.fill("Conditions", "stair door open")
	stranger.tap("Measure")
	stranger.sees("Throughput towards here")
	stranger.wait("the picture", `(document.querySelector('polyline')?.getAttribute('points') ?? '').split(' ').length > 3`)
	stranger.sees("Measured and kept")
	stranger.audit("measured")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	got := map[dossier.Quantity]float64{}
	for _, r := range d.Readings {
		if r.Conditions == "stair door open" {
			got[r.What] = r.Value
			assert.Equal(t, "lamp room screen", d.Label(r.Subject))
		}
	}
	for _, what := range []dossier.Quantity{dossier.LatencyMs, dossier.JitterMs, dossier.DownMbps, dossier.UpMbps} {
		assert.Positive(t, got[what], what)
	}
	stranger.open("/measure/AAAAAAAAAA")
	stranger.sees("This code has ended")
}

// A phone comes in by a code from the screen, once, without typing.
func TestAPhoneJoins(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/me")
	petri.tap("Show a code")
	petri.wait("the code", `!!document.querySelector('figure a')`)
	petri.audit("a code for a phone")
	address, err := chromedp.Run(petri.ctx, chromedp.Evaluate[string](`new URL(document.querySelector('figure a').href).pathname`))
	require.NoError(t, err)
	small := newScreen(t, base, phone)
	small.open(address)
	small.tap("Come in")
	small.sees("Petri Lokki")
	small.sees("Today")
	again := newScreen(t, base, phone)
	again.open(address)
	again.tap("Come in")
	again.sees("This code has ended")
	again.audit("a code that has ended")
}
