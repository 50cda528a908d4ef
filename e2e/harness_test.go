// Package e2e drives the whole program from outside: the built binary, its demo, and its console
// in Chromium. It runs in a network namespace of its own, see scripts/own-net.
package e2e

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/demo"
)

var (
	binary  = env("KAIKU_BIN", "../bin/kaiku")
	axe     string
	browser context.Context
)

func env(name, otherwise string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return otherwise
}

func TestMain(m *testing.M) {
	// One Chromium for all tests; each has a browser context of its own in it.
	b, err := os.ReadFile("../console/node_modules/axe-core/axe.min.js")
	if err != nil {
		fmt.Fprintln(os.Stderr, "axe-core is missing; run: make console")
		os.Exit(1)
	}
	axe = string(b)
	alloc, cancel := chromedp.NewExecAllocator(context.Background(), chromedp.Headless, chromedp.NoSandbox, chromedp.DisableGPU, chromedp.NoFirstRun,
		chromedp.NoDefaultBrowserCheck, chromedp.Flag("disable-dev-shm-usage", true), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true), chromedp.Flag("force-prefers-reduced-motion", true),
		chromedp.Flag("host-resolver-rules", "MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"), chromedp.WSURLReadTimeout(60*time.Second))
	var stop context.CancelFunc
	browser, stop = chromedp.NewContext(alloc)
	code := 1
	if err := chromedp.Do(browser); err != nil {
		fmt.Fprintln(os.Stderr, "Chromium did not start:", err)
	} else {
		code = m.Run()
	}
	stop()
	cancel()
	os.Exit(code)
}

// startDemo runs the binary's demo with the Keeper's House alone on a free port and returns its address.
func startDemo(t *testing.T) string { return startFirm(t, "--home", "H-0001") }

// startFirm does so with all homes of the firm, or with those that the flags name.
func startFirm(t *testing.T, flags ...string) string {
	cmd := exec.Command(binary, append([]string{"demo", "--listen", "127.0.0.1:0"}, flags...)...)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		assert.NoError(t, cmd.Process.Signal(syscall.SIGINT))
		assert.NoError(t, cmd.Wait(), "the demo must end by itself on Ctrl-C")
	})
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, at, ok := strings.Cut(lines.Text(), "Hallakka Home Media, at "); ok {
			go func() {
				for lines.Scan() { // keep the pipe empty
				}
			}()
			return at
		}
	}
	t.Fatal("the demo printed no address")
	return ""
}

// screen is one browser window on the console.
type screen struct {
	t    *testing.T
	ctx  context.Context
	base string
}

type size struct{ width, height int64 }

var (
	desk  = size{1280, 800}
	phone = size{390, 844}
)

// newScreen opens a window of that size with nobody logged in. Each has a hard limit of time.
func newScreen(t *testing.T, base string, s size) *screen {
	ctx, cancel := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	ctx, stop := context.WithTimeout(ctx, 3*time.Minute)
	t.Cleanup(stop)
	sc := &screen{t, ctx, base}
	sc.do(chromedp.EmulateViewport(s.width, s.height))
	// Several windows of one browser are used side by side; each behaves as if it were in front.
	_, err := chromedp.Call(ctx, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	_, err = chromedp.Call(ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{
		Source: `window.__violations = []; window.__errors = [];
			document.addEventListener('securitypolicyviolation', e => window.__violations.push(e.violatedDirective + ' ' + e.blockedURI));
			window.addEventListener('error', e => window.__errors.push(String(e.message)));
			console.error = (...a) => window.__errors.push(a.map(x => x?.stack ?? String(x)).join(' ')); // where Vue tells of what failed
			window.addEventListener('unhandledrejection', e => window.__errors.push(String(e.reason)));
			const ask = window.fetch; window.__asking = 0; window.__since = 0;
			window.fetch = (...a) => { if (!window.__asking++) window.__since = Date.now(); return ask(...a).finally(() => setTimeout(() => window.__asking--, 50)) };`})
	require.NoError(t, err)
	return sc
}

// dark asks for the dark scheme.
func (s *screen) dark() {
	s.t.Helper()
	_, err := chromedp.Call(s.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
		Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: "dark"}}})
	require.NoError(s.t, err)
}

func (s *screen) do(steps ...chromedp.Action[chromedp.Void]) {
	s.t.Helper()
	require.NoError(s.t, chromedp.Do(s.ctx, steps...))
}

func (s *screen) open(path string) { s.t.Helper(); s.do(chromedp.Navigate(s.base + path)) }

func (s *screen) logIn(login string) { s.t.Helper(); s.logInWith(login, demo.Password) }

func (s *screen) logInWith(login, password string) {
	s.t.Helper()
	s.open("/login")
	s.wait("the first field to have the focus", `document.activeElement?.name === 'login'`)
	s.fill("Log-in name", login)
	s.fill("Password", password)
	s.tap("Log in")
	s.sees("Today,")
}

// wait polls a JavaScript expression until it is true.
func (s *screen) wait(what, expression string) {
	s.t.Helper()
	if _, err := chromedp.Run(s.ctx, chromedp.Poll[bool](expression, chromedp.WithPollingTimeout(15*time.Second))); err != nil {
		text, _ := chromedp.Run(s.ctx, chromedp.Evaluate[string](`document.body.innerText`))
		s.t.Fatalf("waited for %s: %v; the page says:\n%s", what, err, text)
	}
}

func (s *screen) sees(text string) {
	s.t.Helper()
	s.wait(text, fmt.Sprintf(`document.body.innerText.includes(%q)`, text))
}

func (s *screen) seesNot(text string) {
	s.t.Helper()
	s.wait("no "+text, fmt.Sprintf(`!document.body.innerText.includes(%q)`, text))
}

// finder finds what a person would tap by its words: the innermost visible control with them.
const finder = `(words) => [...document.querySelectorAll('button, a, summary, [role=option], label')].filter(e =>
	e.getClientRects().length && !e.disabled && (e.innerText.trim() === words || e.getAttribute('aria-label') === words || e.innerText.trim().split('\n')[0] === words)).at(-1)`

// tap presses the control with these words, by a real press of the mouse.
func (s *screen) tap(words string) {
	s.t.Helper()
	s.press(fmt.Sprintf(`(%s)(%q)`, finder, words), words)
}

// still is true once nothing moves any more, except for what moves for ever.
const still = `document.getAnimations().every(a => a.playState !== 'running' || a.effect?.getComputedTiming().iterations === Infinity)`

// settled is true once the page has no answer to wait for, which would move what is on it; of an answer that does not come,
// after two seconds.
const settled = `(!window.__asking || Date.now() - window.__since > 2000)`

// change opens the form of the record of that name in the list at path.
func (s *screen) change(path, name string) {
	s.t.Helper()
	s.open(path)
	s.tap(name)
	s.tap("Change")
}

func (s *screen) press(find, what string) {
	s.t.Helper()
	s.wait(what, fmt.Sprintf(`(() => { const e = %s; if (!e || !(%s) || !(%s)) return false; e.scrollIntoView({block: 'center'}); return true })()`, find, still, settled))
	at, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]float64](fmt.Sprintf(
		`(async () => { const e = %s; let last = -1; for (;;) { const y = e.getBoundingClientRect().top; if (y === last) break; last = y; await new Promise(requestAnimationFrame) } const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`, find), chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	s.do(chromedp.MouseClickXY(at[0], at[1]))
}

func field(label string) string {
	return fmt.Sprintf(`[...document.querySelectorAll('input, textarea')].find(e => e.getClientRects().length && e.id && [...document.querySelectorAll('label')].some(l => l.htmlFor === e.id && l.innerText.replace(' (optional)', '').trim() === %q))`, label)
}

// fill types a value into the field with that label, in place of what is there.
func (s *screen) fill(label, value string) {
	s.t.Helper()
	s.wait("field "+label, fmt.Sprintf(`(() => { const e = %s; if (!e) return false; e.focus(); e.select && e.select(); return document.activeElement === e })()`, field(label)))
	s.do(chromedp.KeyEvent(value))
}

// choose opens the list with that label and takes one of its words.
func (s *screen) choose(label, option string) {
	s.t.Helper()
	list := fmt.Sprintf(`(() => { const l = [...document.querySelectorAll('label')].find(l => l.innerText.replace(' (optional)', '').trim() === %q && l.getClientRects().length); return l && l.closest('.v-field') })()`, label)
	s.press(list, "list "+label)
	s.press(fmt.Sprintf(`[...document.querySelectorAll('.v-overlay--active [role=option]')].find(e => e.innerText.trim() === %q)`, option), option)
	s.wait(label+" to be "+option, fmt.Sprintf(`(%s).innerText.includes(%q)`, list, option))
	s.do(chromedp.KeyEvent("\t"))
	s.wait("the list to close", `!document.querySelector('.v-overlay--active [role=option]')`)
}

// audit holds the page against the policy and the accessibility rules, and the phone's width.
func (s *screen) audit(where string) {
	s.t.Helper()
	violations, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]string](`window.__violations.concat(window.__errors)`))
	require.NoError(s.t, err)
	assert.Empty(s.t, violations, where+": policy violations and errors")
	_, err = chromedp.Run(s.ctx, chromedp.Evaluate[int](axe+";0"))
	require.NoError(s.t, err)
	found, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]string](
		`axe.run(document, {resultTypes: ['violations']}).then(r => r.violations.map(v => v.id + ' (' + v.impact + '): ' + v.nodes.map(n => n.html.slice(0, 160)).join(' | ')))`, chromedp.EvalAwaitPromise))
	require.NoError(s.t, err)
	assert.Empty(s.t, found, where+": accessibility")
	wider, err := chromedp.Run(s.ctx, chromedp.Evaluate[int](`document.documentElement.scrollWidth - document.documentElement.clientWidth`))
	require.NoError(s.t, err)
	assert.LessOrEqual(s.t, wider, 0, where+": scrolls sideways")
	unfilled, err := chromedp.Run(s.ctx, chromedp.Evaluate[[]string](`document.body.innerText.match(/\{[a-zA-Z]+\}|[a-z]\.\.(?=\s|$)|\bundefined\b|\bNaN\b|[a-z]\.[A-Z][a-z]/g) ?? []`))
	require.NoError(s.t, err)
	assert.Empty(s.t, unfilled, where+": texts with something left out")
}

// settle waits until nothing is loading and the fonts are there.
func (s *screen) settle() {
	s.t.Helper()
	s.wait("the page to settle", `!document.body.innerText.includes('Loading …') && !!document.querySelector('h1') && document.fonts.status === 'loaded' && `+still)
}

func (s *screen) shoot(file string) {
	s.t.Helper()
	s.settle()
	png, err := chromedp.Run(s.ctx, chromedp.CaptureScreenshot())
	require.NoError(s.t, err)
	require.NoError(s.t, os.MkdirAll(filepath.Dir(file), 0o755))
	require.NoError(s.t, os.WriteFile(file, png, 0o644))
}

func ptr[T any](v T) *T { return &v }

// keep writes what a test made into the folder KAIKU_KEEP, to be looked at.
func keep(t *testing.T, name string, b []byte) {
	if dir := os.Getenv("KAIKU_KEEP"); dir != "" {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), b, 0o644))
	}
}
