package e2e

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Network drawing: every device a named box, in reading order by the arrow keys; lines that touch
// no other box; a tree on the phone; one sheet of paper.
func TestTheHomeDrawn(t *testing.T) {
	base := startFirm(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/drawing")
	petri.sees("bedroom repeater")
	petri.settle()
	petri.audit("the drawing")
	petri.wait("the lines", `document.querySelectorAll('path.link').length === 4`)
	crossed, err := chromedp.Run(petri.ctx, chromedp.Evaluate[[]string](`(() => {
		const origin = document.querySelector('svg.lines').getBoundingClientRect()
		const boxes = [...document.querySelectorAll('[data-device]')].map(e => { const r = e.getBoundingClientRect(); return { name: e.innerText.split('\n')[0], l: r.left - origin.left + 2, r: r.right - origin.left - 2, t: r.top - origin.top + 2, b: r.bottom - origin.top - 2 } })
		const hits = []
		for (const p of document.querySelectorAll('path.link')) {
			const n = p.getTotalLength()
			for (let i = 0; i <= n; i += 2) { const at = p.getPointAtLength(i); for (const b of boxes) if (at.x > b.l && at.x < b.r && at.y > b.t && at.y < b.b) hits.push(b.name) }
		}
		return hits })()`))
	require.NoError(t, err)
	assert.Empty(t, crossed, "a line runs through a box")

	names, err := chromedp.Run(petri.ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('[data-device] a')].map(a => document.getElementById(a.getAttribute('aria-describedby')).textContent)`))
	require.NoError(t, err)
	assert.Contains(t, names, "lamp room screen, screen and renderer, by radio 5 GHz channel 44 173 Mb/s to bedroom repeater (about 81 % taken by Saturday evening), in home. Warning: lamp room screen has a signal of -72 dBm, measured by the device itself. Below -70 dBm the signal is too weak for what the device plays.")
	tabs, err := chromedp.Run(petri.ctx, chromedp.Evaluate[int](`document.querySelectorAll('[data-device] a[tabindex="0"]').length`))
	require.NoError(t, err)
	assert.Equal(t, 1, tabs, "the drawing is one stop of the tab key")
	_, err = chromedp.Run(petri.ctx, chromedp.Evaluate[int](`(document.querySelector('[data-device] a[tabindex="0"]').focus(), 0)`))
	require.NoError(t, err)
	for n := 1; n < len(names); n++ {
		petri.do(chromedp.KeyEvent("\u0303")) // the right arrow
		petri.wait("the next box", fmt.Sprintf(`document.getElementById(document.activeElement.getAttribute('aria-describedby'))?.textContent === %q`, names[n]))
	}
	printed, err := chromedp.Call(petri.ctx, page.PrintToPDF, page.PrintToPDFParams{PreferCSSPageSize: ptr(true), PrintBackground: ptr(true)})
	require.NoError(t, err)
	sheets := bytes.Count(printed.Data, []byte("/Type /Page\n"))
	assert.Equal(t, 1, sheets, "sheets of paper")
	keep(t, "drawing.pdf", printed.Data)

	small := newScreen(t, base, phone)
	small.logIn("petri")
	small.open("/households/H-0001/survey/drawing")
	small.sees("bedroom repeater")
	small.settle()
	small.audit("the drawing on the phone")
	small.open("/households/H-0003/survey/addresses")
	small.sees("10.20.3.101")
	small.audit("the address plan")
}

// What flows is drawn as threads along the links from where the files are to the screens, and said in words.
func TestFlowsAreDrawn(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/survey/drawing")
	petri.sees("bedroom repeater")
	petri.choose("Show what flows", "Saturday evening")
	petri.wait("threads along the links", `document.querySelectorAll('path.thread').length === 4 && document.querySelectorAll('path.thread.narrow').length >= 1`)
	petri.sees("Little is left of Wi-Fi channel 44")
	petri.picture("flows-desk")
	petri.audit("what flows, drawn")

	small := newScreen(t, base, phone)
	small.logIn("petri")
	small.open("/households/H-0001/survey/drawing")
	small.choose("Show what flows", "parlour films")
	small.sees("The most taken is Wi-Fi channel 44")
	small.picture("flows-phone")
	small.audit("what flows, on the phone")
}
