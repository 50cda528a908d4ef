package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/load"
	"kaiku/demo"
)

// A change is tried on paper: every page shows the home as it would be, nothing is written, and it is then made in one write.
func TestAChangeIsTriedOnPaper(t *testing.T) {
	base := startDemo(t)
	office := clientOf(t, base, "petri", demo.Password)
	before, err := office.Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/load")
	petri.sees("Saturday evening")
	petri.press(`[...document.querySelectorAll('button')].find(b => b.textContent.trim() === 'Suppose it')`, "the first change that is proposed")
	petri.sees("Supposed: ")
	petri.sees("Load of Saturday evening")
	petri.picture("suppose")
	petri.audit("what is supposed")
	petri.open("/households/H-0001/load")
	petri.sees("Nothing is written.")
	petri.seesNot("Little is left of")
	petri.picture("suppose-load")
	petri.audit("the load as supposed")

	// Another change, and a form that cannot be saved meanwhile.
	screen := before.Devices[0]
	petri.open("/households/H-0001/records/device/" + string(screen.ID))
	petri.tap("Change")
	petri.wait("the form to offer only supposing", `![...document.querySelectorAll("button")].some(b => b.textContent.trim() === "Save")`)
	petri.fill("Name", "cellar box")
	petri.tap("Suppose it")
	petri.sees("name cellar box")
	petri.open("/households/H-0001/proving")
	petri.press(`[...document.querySelectorAll('button')].find(b => /^Run \d+ tests?$/.test(b.textContent.trim()))`, "run the automatic tests")
	petri.sees("nothing is written")
	now, err := office.Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	require.Equal(t, before.Revision, now.Revision)

	petri.open("/households/H-0001/suppose")
	petri.tap("Make them all in one write")
	petri.sees("Made in revision")
	petri.seesNot("Nothing is written.")
	now, err = office.Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	require.Equal(t, before.Revision+1, now.Revision)
	renamed, _ := now.Devices.Get(screen.ID)
	assert.Equal(t, "cellar box", renamed.Name)
	l, err := office.Load(t.Context(), "H-0001")
	require.NoError(t, err)
	assert.Equal(t, load.Roomy, l.Sets[0].State)
}

// What is supposed on a phone is dropped again, and the home is as it was.
func TestWhatIsSupposedIsDropped(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, phone)
	petri.logIn("petri")
	petri.open("/households/H-0001/suppose")
	petri.sees("Try a change before it is made")
	petri.open("/households/H-0001/load")
	petri.press(`[...document.querySelectorAll('button')].find(b => b.textContent.trim() === 'Suppose it')`, "the first change that is proposed")
	petri.sees("Load of Saturday evening")
	petri.picture("suppose-phone")
	petri.audit("what is supposed, on the phone")
	petri.tap("Show the home as it is")
	petri.seesNot("Nothing is written.")
	petri.sees("Load of Saturday evening")
	petri.press(`[...document.querySelectorAll('button')].find(b => b.textContent.trim().startsWith('Drop') && !b.getAttribute('aria-label'))`, "drop")
	petri.sees("Try a change before it is made")
}
