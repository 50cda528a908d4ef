package e2e

import (
	"bytes"
	"image"
	"image/jpeg"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/inspector"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
)

// The phone throws the page away in the middle of a form: what was typed is there again.
func TestADraftSurvivesAKilledTab(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	const place = "/households/H-0001/records/device/new"
	petri.open(place)
	petri.fill("Name", "attic screen")
	petri.fill("Model", "NV-50")
	petri.wait("the draft to be kept", `(async () => { const db = await new Promise(r => { const q = indexedDB.open('kaiku-drafts'); q.onsuccess = () => r(q.result) }); const all = await new Promise(r => { const q = db.transaction('drafts').objectStore('drafts').getAll(); q.onsuccess = () => r(q.result) }); db.close(); return all.some(d => d.values.model === 'NV-50') })()`)
	// The tab goes without a chance to say good-bye; another one of the same browser is opened.
	crashed := make(chan struct{})
	require.NoError(t, chromedp.Listen(petri.ctx, func(ev any) {
		if _, ok := ev.(*inspector.EventTargetCrashed); ok {
			close(crashed)
		}
	}))
	go func() { _, _ = chromedp.Call(petri.ctx, page.Crash, cdp.Empty{}) }() // a crashed page answers nothing
	select {
	case <-crashed:
	case <-petri.ctx.Done():
		t.Fatal("the tab did not go")
	}
	again, cancel := chromedp.NewContext(petri.ctx)
	t.Cleanup(cancel)
	second := &screen{t, again, base}
	second.do(chromedp.EmulateViewport(phone.width, phone.height))
	second.open(place)
	second.sees("is still here.")
	second.wait("what was typed", `[...document.querySelectorAll('input')].some(i => i.value === 'attic screen') && [...document.querySelectorAll('input')].some(i => i.value === 'NV-50')`)
	second.tap("Add")
	second.sees("History")
	second.open(place)
	second.sees("New device")
	second.settle()
	second.seesNot("is still here.")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	n := 0
	for _, v := range d.Devices {
		if v.Name == "attic screen" {
			n++
		}
	}
	require.Equal(t, 1, n)
}

// A session that ends in a half-filled form takes nothing of it along.
func TestASessionThatEndsLeavesTheFormAlone(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/records/room/new")
	petri.fill("Name", "net store")
	c := clientOf(t, base, "petri", demo.Password)
	logins, err := c.LogIns(t.Context())
	require.NoError(t, err)
	for _, l := range logins {
		if !l.Current {
			require.NoError(t, c.EndLogIn(t.Context(), l.ID))
		}
	}
	petri.tap("Add")
	petri.sees("Open the log-in page in another tab")
	petri.logIn("petri")
	petri.open("/households/H-0001/records/room/new")
	petri.sees("is still here.")
	petri.tap("Add")
	petri.sees("net store")
	petri.sees("History")
}

// Recording is quicker than not recording: another like this one, the same in other rooms, an
// address that begins as its segment does, and lists edited in place.
func TestFormsHelp(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	home := "/households/H-0001"
	petri.open(home + "/records/outlet/new")
	petri.choose("Room", "kitchen")
	petri.fill("Name", "K01")
	petri.choose("Cable", "cat 6a")
	petri.choose("Add the same in these rooms", "parlour")
	petri.tap("Add")
	petri.sees("History")
	petri.tap("Another like this")
	petri.sees("New outlet")
	petri.wait("the next name", `[...document.querySelectorAll('input')].some(i => i.value === 'K02')`)
	petri.tap("Add")
	petri.sees("History")

	petri.open(home + "/records/interface/new")
	petri.choose("Device", "granite server")
	petri.fill("Name", "spare")
	petri.choose("Segment", "guest")
	petri.wait("the field of addresses", field("Addresses")+` && (`+field("Addresses")+`.focus(), true)`)
	petri.wait("the address to begin as its segment", field("Addresses")+`.value === '127.77.2.'`)
	petri.fill("Addresses", "127.77.2.9")
	petri.tap("Add")
	petri.sees("127.77.2.9")

	petri.change(home+"/records/household", "The Keeper's House")
	petri.tap("Add to contacts")
	petri.press(`[...document.querySelectorAll('.rowfields')].at(-1).querySelector('input[name=name]')`, "the new contact's name")
	petri.do(chromedp.KeyEvent("Keeper's cousin"))
	petri.audit("a form with a list")
	petri.tap("Save")
	petri.sees("Keeper's cousin")

	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	where := map[string]string{}
	for _, o := range d.Outlets {
		where[d.FullLabel(o.ID.Ref())] = string(o.Cable)
	}
	require.Equal(t, string(dossier.Cat6a), where["kitchen K01"])
	require.Equal(t, string(dossier.Cat6a), where["kitchen K02"])
	require.Equal(t, string(dossier.Cat6a), where["parlour K01"])
}

// A photograph is scaled on the phone, kept with its record, and shown small.
func TestAPhotographFromThePhone(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewRGBA(image.Rect(0, 0, 3600, 2400)), nil))
	file := filepath.Join(t.TempDir(), "label.jpg")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	petri.open("/households/H-0001/records/device")
	petri.press(`[...document.querySelectorAll('a')].find(a => a.innerText.includes('lamp room screen'))`, "the screen")
	petri.sees("None yet.")
	petri.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	petri.fill("What it shows", "Label on the back")
	petri.tap("Attach")
	petri.sees("Petri Lokki")
	petri.wait("the small picture", `[...document.querySelectorAll('.pictures img')].some(i => i.complete && i.naturalWidth === 360)`)
	petri.audit("a record with a photograph")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	made := d.Attachments[len(d.Attachments)-1]
	require.Equal(t, "Label on the back", made.Caption)
	require.Equal(t, 2560, made.Width)
}

// A secret is looked at for a reason, and not seen before.
func TestASecretIsShownForAReason(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/records/secret")
	petri.tap("Add a secret")
	petri.fill("What it is for", "cellar door")
	petri.fill("The secret itself", "amber-quay")
	petri.tap("Save")
	petri.tap("cellar door")
	petri.sees("Hidden.")
	petri.seesNot("amber-quay")
	petri.tap("Show")
	petri.fill("Why you need it", "the key is lost")
	petri.tap("Show it for a minute")
	petri.sees("amber-quay")
	petri.open("/households/H-0001/journal")
	petri.sees("the key is lost")
	petri.seesNot("amber-quay")
}
