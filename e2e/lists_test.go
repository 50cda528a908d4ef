package e2e

import (
	"strconv"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A coordinator on the telephone finds the home by whatever the caller reads out, and works
// through the list with the keyboard alone.
func TestHouseholdsAreFoundSortedAndSaved(t *testing.T) {
	base := startFirm(t)
	sc := newScreen(t, base, desk)
	sc.logIn("ilona")
	sc.open("/households")
	sc.sees("Outer Skerry cabin")
	sc.audit("households")

	sc.do(chromedp.KeyEvent("/"))
	sc.wait("the search field to have the focus", `document.activeElement?.closest('[data-search]') !== null`)
	sc.fill("Find", "555 0142")
	sc.sees("555-0142")
	sc.seesNot("Outer Skerry cabin")
	sc.wait("the search to stand in the address", `location.search.includes('words=555')`)
	sc.do(chromedp.KeyEvent(kb.ArrowDown))
	sc.wait("the first row to have the focus", `document.activeElement?.innerText.includes('Sail Loft')`)
	sc.do(chromedp.KeyEvent(kb.Enter))
	sc.sees("To do next")
	sc.wait("the home", `location.pathname === '/households/H-0002'`)
	sc.do(chromedp.NavigateBack())
	sc.sees("555-0142")
	sc.seesNot("Outer Skerry cabin")

	sc.open("/households?words=XK-9")
	sc.sees("No household matches.")
	sc.open("/households")
	sc.choose("Custodian", "Petri Lokki")
	sc.seesNot("Sail Loft")
	sc.sees("Outer Skerry cabin")
	sc.open("/households?with=blockers")
	sc.seesNot("Sail Loft")
	sc.open("/households?sort=-unproven")
	sc.wait("the least proven first", `document.querySelector('[data-row]')?.innerText.includes('H-0004')`)

	_, err := chromedp.Run(sc.ctx, chromedp.Evaluate[int](`(() => { const make = URL.createObjectURL; URL.createObjectURL = (b) => { b.text().then((t) => { window.__saved = t }); return make(b) }; return 0 })()`))
	require.NoError(t, err)
	sc.tap("CSV")
	sc.wait("the file", `typeof window.__saved === 'string'`)
	saved, err := chromedp.Run(sc.ctx, chromedp.Evaluate[string](`window.__saved`))
	require.NoError(t, err)
	assert.Contains(t, saved, "Code,Name,Custodian,")
	assert.Contains(t, saved, "\r\nH-0002,Sail Loft,Maarit Suvanto,35,25,0,10,")
}

func TestRecordsAreFilteredAndSorted(t *testing.T) {
	sc := newScreen(t, startDemo(t), desk)
	sc.logIn("petri")
	sc.open("/households/H-0001/records/interface")
	first := func(name string) {
		t.Helper()
		sc.wait(name+" first", `document.querySelector('tbody tr')?.innerText.startsWith('`+name+`')`)
	}
	sc.tap("Name")
	sc.wait("sorted by name", `document.querySelector('th[aria-sort=ascending]') !== null`)
	names, err := chromedp.Run(sc.ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('tbody tr td:first-child a')].map(a => a.innerText)`))
	require.NoError(t, err)
	require.Greater(t, len(names), 4)
	sc.tap("Name")
	first(names[len(names)-1])
	sc.fill("Filter "+strconv.Itoa(len(names))+" network adapters", "127.77.")
	sc.wait("fewer rows", `document.querySelectorAll('tbody tr').length < `+strconv.Itoa(len(names)))
	sc.audit("records filtered")
}
