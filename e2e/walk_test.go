package e2e

import (
	"bytes"
	"image"
	"image/jpeg"
	"io"
	"net"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
)

// lineIn is a line between the phone and Kaiku that can be cut, and that can lose what comes back.
type lineIn struct {
	t       *testing.T
	address string
	to      string
	mu      sync.Mutex
	cut     bool
	oneWay  bool
	open    map[net.Conn]bool
}

func newLine(t *testing.T, to string) *lineIn {
	u, err := url.Parse(to)
	require.NoError(t, err)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	w := &lineIn{t: t, address: "http://" + l.Addr().String(), to: u.Host, open: map[net.Conn]bool{}}
	t.Cleanup(func() { _ = l.Close(); w.set(true, false) })
	go func() {
		for {
			near, err := l.Accept()
			if err != nil {
				return
			}
			go w.carry(near)
		}
	}()
	return w
}

// set cuts the line or mends it; one way, what Kaiku answers is lost on it.
func (w *lineIn) set(cut, oneWay bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.cut, w.oneWay = cut, oneWay
	for c := range w.open {
		_ = c.Close()
	}
	w.open = map[net.Conn]bool{}
}

func (w *lineIn) carry(near net.Conn) {
	defer func() { _ = near.Close() }()
	far, err := net.Dial("tcp", w.to)
	if err != nil {
		return
	}
	defer func() { _ = far.Close() }()
	w.mu.Lock()
	if w.cut {
		w.mu.Unlock()
		return
	}
	w.open[near], w.open[far] = true, true
	oneWay := w.oneWay
	w.mu.Unlock()
	go func() { _, _ = io.Copy(far, near) }()
	if oneWay {
		_, _ = far.Read(make([]byte, 1)) // Kaiku has answered, so it has written; the phone never hears
		return
	}
	_, _ = io.Copy(near, far)
}

// onTheWalk puts Petri's phone on the walk of the Keeper's House, over a line that can be cut.
func onTheWalk(t *testing.T) (base string, line *lineIn, petri *screen) {
	base = startDemo(t)
	line = newLine(t, base)
	petri = newScreen(t, line.address, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/walk")
	petri.sees("Is everything on the same network?")
	return base, line, petri
}

// tool finds a button in one room of the walk.
func tool(room, words string) string {
	return `[...document.querySelector('article[aria-label="` + room + `"]').querySelectorAll('button')].find(e => e.innerText.trim() === "` + words + `" || e.getAttribute('aria-label') === "` + words + `")`
}

// A walk through the cellar without a line: everything is kept, sent afterwards with the time it
// was done, and written once, also when the answer was lost on the way.
func TestTheWalkWithoutALine(t *testing.T) {
	base, line, petri := onTheWalk(t)
	petri.settle()
	petri.audit("the walk")
	began := time.Now()

	line.set(true, false)
	petri.press(tool("parlour", "Outlets"), "outlets of the parlour")
	petri.choose("How many", "4")
	petri.sees("P2, P3, P4, P5")
	petri.fill("Tested at, Mb/s", "1000")
	petri.tap("Add 4 outlets")
	petri.sees("4 entries not sent yet")
	petri.sees("Not sent yet: outlet P5 in parlour")
	petri.press(tool("cellar", "Record: The mains sockets in cellar are not recorded."), "power")
	petri.fill("Power", "two sockets, one for the pump")
	petri.tap("Save")
	petri.press(tool("lamp room", "Reading"), "reading of the lamp room")
	petri.choose("At", "lamp room screen")
	petri.fill("down, Mb/s", "29,5")
	petri.fill("signal, dBm", "-74")
	petri.tap("Add the readings")
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, image.NewRGBA(image.Rect(0, 0, 400, 300)), nil))
	file := filepath.Join(t.TempDir(), "cellar.jpg")
	require.NoError(t, os.WriteFile(file, b.Bytes(), 0o600))
	petri.press(tool("cellar", "Photograph"), "photograph of the cellar")
	petri.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file}))
	petri.fill("What it shows", "rack and pump")
	petri.tap("Attach")
	petri.sees("8 entries not sent yet")
	petri.sees("no connection")
	petri.audit("the walk without a line")

	// The page is gone with the line still cut; another one of the same phone finds what was kept.
	petri.do(chromedp.Navigate("about:blank"))
	line.set(false, false)
	again, cancel := chromedp.NewContext(petri.ctx)
	t.Cleanup(cancel)
	second := &screen{t, again, line.address}
	second.do(chromedp.EmulateViewport(phone.width, phone.height))
	second.open("/households/H-0001/survey/walk")
	second.wait("everything to be sent", `!document.body.innerText.includes('not sent')`)
	second.sees("1 photograph")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	names := map[string]int{}
	for _, o := range d.Outlets {
		names[d.FullLabel(o.ID.Ref())]++
	}
	for _, n := range []string{"parlour P2", "parlour P3", "parlour P4", "parlour P5"} {
		assert.Equal(t, 1, names[n], n)
	}
	var values []float64
	for _, r := range d.Readings[len(d.Readings)-2:] {
		values = append(values, r.Value)
		assert.WithinRange(t, r.At, began, time.Now())
	}
	assert.ElementsMatch(t, []float64{29.5, -74}, values)
	photo := d.Attachments[len(d.Attachments)-1]
	assert.Equal(t, "rack and pump", photo.Caption)
	assert.Equal(t, "room", photo.Subject.Kind)
}

// What Kaiku wrote although its answer was lost is not written again.
func TestALostAnswerIsNotWrittenTwice(t *testing.T) {
	base, line, petri := onTheWalk(t)
	petri.tap("Add a room")
	petri.settle()
	line.set(false, true)
	petri.fill("Name of the room", "fog horn room")
	petri.tap("Add the room")
	office := clientOf(t, base, "ilona", demo.Password)
	require.Eventually(t, func() bool {
		d, err := office.Dossier(t.Context(), "H-0001")
		return err == nil && strings.Contains(roomsOf(d), "fog horn room")
	}, 10*time.Second, 50*time.Millisecond)
	petri.sees("1 entry not sent yet")
	line.set(false, false)
	petri.tap("Send now")
	petri.wait("it to be sent", `!document.body.innerText.includes('not sent')`)
	d, err := office.Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(roomsOf(d), "fog horn room"))
}

func roomsOf(d *dossier.Dossier) string {
	var names []string
	for _, r := range d.Rooms {
		names = append(names, r.Name)
	}
	return strings.Join(names, ", ")
}

// What the server refuses stays with the reason until someone decides, and holds nothing else up.
func TestARefusedEntryIsNotLost(t *testing.T) {
	base, line, petri := onTheWalk(t)
	line.set(true, false)
	petri.tap("Add a room")
	petri.fill("Name of the room", "cellar")
	petri.tap("Add the room")
	petri.tap("Add a room")
	petri.fill("Name of the room", "oil store")
	petri.tap("Add the room")
	petri.sees("2 entries not sent yet")
	line.set(false, false)
	petri.tap("Send now")
	petri.sees("1 entry refused.")
	petri.sees("cellar")
	petri.audit("a refused entry")
	petri.tap("Log out")
	petri.sees("They stay on this device")
	petri.tap("Stay")
	petri.tap("Discard")
	petri.wait("nothing to be left", `!document.body.innerText.includes('refused')`)
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	assert.Contains(t, roomsOf(d), "oil store")
	assert.Equal(t, 1, strings.Count(roomsOf(d), "cellar"))
}

// A table is looked at line by line before it is written.
func TestATableIsBroughtIn(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/import")
	petri.fill("Or paste it here", "1772500000 02:4b:49:00:01:33 127.77.1.133 stick *")
	petri.tap("Preview")
	petri.sees("Preview: 1 line")
	petri.sees("addresses changed from 127.77.2.133 to 127.77.1.133, segment home")
	petri.audit("a document brought in")
	petri.tap("Import")
	petri.sees("Imported: 1 line")
	d, err := clientOf(t, base, "petri", demo.Password).Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	for _, i := range d.Interfaces {
		if i.HardwareAddress == "02:4b:49:00:01:33" {
			assert.Equal(t, "127.77.1.133", i.Addresses[0].String())
		}
	}
}

// What to bring is ticked with the visit; before the door closes all that is outstanding is told.
func TestTheNextVisit(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/visits")
	petri.sees("Next visit:")
	petri.sees("measuring laptop")
	petri.sees("Before you leave")
	petri.audit("visits")
	petri.press(`[...document.querySelectorAll('label')].find(l => l.innerText.includes('measuring laptop'))`, "the laptop")
	petri.wait("it to be ready", `[...document.querySelectorAll('label')].find(l => l.innerText.includes('measuring laptop')).innerText.includes('ready') && ![...document.querySelectorAll('label')].find(l => l.innerText.includes('measuring laptop')).innerText.includes('not ready')`)
	petri.open("/me")
	petri.tap("Create an address")
	petri.sees("/calendar/")
	petri.audit("my account")
}
