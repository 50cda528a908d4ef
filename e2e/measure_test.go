package e2e

import (
	"bytes"
	"image/jpeg"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
)

// A browser without an account measures with a code, and its readings stand at the device.
func TestABrowserMeasures(t *testing.T) {
	base, _, petri := onTheWalk(t)
	petri.press(tool("lamp room", "Reading"), "reading of the lamp room")
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
	stranger.sees("Download rate")
	stranger.wait("the picture", `(document.querySelector('polyline')?.getAttribute('points') ?? '').split(' ').length > 3`)
	stranger.sees("Measured and recorded")
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
	stranger.sees("This code has expired")
}

// The browser of a device says what it decodes, and the forecast knows it.
func TestABrowserSaysWhatItDecodes(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/forecast")
	petri.press(`document.querySelectorAll('.cell')[1]`, "the cell of the lamp room screen")
	petri.tap("Ask the browser of lamp room screen")
	petri.wait("the code", `!!document.querySelector('figure svg[role=img]')`)
	petri.audit("the forecast with a code")
	address, err := chromedp.Run(petri.ctx, chromedp.Evaluate[string](`new URL(document.querySelector('figure a').href).pathname`))
	require.NoError(t, err)
	stranger := newScreen(t, base, phone)
	stranger.open(address)
	stranger.sees("What this browser decodes")
	stranger.tap("Ask this browser")
	stranger.sees("Decodes VP9")
	stranger.audit("what the browser said")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	said := map[dossier.FormatTerm]dossier.Answer{}
	for _, p := range d.Decodings {
		if d.Label(p.Device.Ref()) == "lamp room screen" {
			for _, e := range p.Entries {
				if e.Evidence == dossier.EvidenceDeclared {
					said[e.Format] = e.Able
				}
			}
		}
	}
	assert.Equal(t, dossier.Yes, said["vp9"])
	assert.Equal(t, dossier.Yes, said["opus"])
	assert.Equal(t, dossier.Yes, said["webm"])
	petri.open("/measure/AAAAAAAAAA")
	petri.sees("This code has expired")
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
	small.tap("Log in")
	small.sees("Petri Lokki")
	small.sees("Today")
	again := newScreen(t, base, phone)
	again.open(address)
	again.tap("Log in")
	again.sees("This code has expired")
	again.audit("a code that has ended")
}

// The label of a device is photographed, and its numbers land in the form.
func TestALabelLandsInTheForm(t *testing.T) {
	base := startDemo(t)
	var b bytes.Buffer
	m, err := qrcode.NewQRCodeWriter().Encode("S/N: PV2-55012; MAC: 02-4B-49-00-01-77", gozxing.BarcodeFormat_QR_CODE, 500, 500, nil)
	require.NoError(t, err)
	require.NoError(t, jpeg.Encode(&b, m, nil))
	file := filepath.Join(t.TempDir(), "label.jpg")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/walk")
	petri.sees("Is everything on the same network?")
	petri.press(tool("kitchen", "Device"), "device of the kitchen")
	petri.do(chromedp.SetUploadFiles(`input.label-photo`, []string{file}))
	petri.sees("serial number PV2-55012, MAC address 02:4b:49:00:01:77")
	petri.audit("a label that was read")
	petri.fill("Name", "kitchen stick")
	petri.choose("Roles", "player")
	petri.choose("Connected by", "radio")
	petri.tap("Add the device")
	petri.wait("it to be sent", `!document.body.innerText.includes('not sent') && document.body.innerText.includes('kitchen stick')`)
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	made := d.Devices[len(d.Devices)-1]
	assert.Equal(t, "PV2-55012", made.Serial)
	adapters := d.InterfacesOf(made.ID)
	require.Len(t, adapters, 1)
	assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:01:77"), adapters[0].HardwareAddress)
}
