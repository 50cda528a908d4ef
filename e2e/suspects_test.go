package e2e

import (
	"testing"
)

// A coordinator with a telephone notes what the caller says and asks one question after the other; what would explain it is on the page of the issue.
func TestTheCallerIsAskedOneQuestionAScreen(t *testing.T) {
	base := startDemo(t)
	for name, of := range map[string]size{"phone": phone, "desk": desk} {
		ilona := newScreen(t, base, of)
		ilona.logIn("ilona")
		ilona.open("/households/H-0001/issues")
		ilona.press(`[...document.querySelectorAll('a')].find(a => a.innerText.includes('Films stutter'))`, "the issue")
		ilona.sees("What would explain it")
		ilona.sees("What to do next")
		ilona.press(`document.querySelector('details > summary')`, "why the first is suspected")
		ilona.sees("To see it")
		ilona.picture("suspects-" + name)
		ilona.audit("the suspects")
		ilona.tap("Ask the caller")
		ilona.sees("So far")
		ilona.picture("question-" + name)
		ilona.audit("a question")
		ilona.tap("I don't know")
		ilona.sees("not known")
		ilona.tap("Take back")
		ilona.wait("the answer is gone", `!document.body.innerText.includes('not known')`)
		ilona.press(`[...document.querySelectorAll('a')].find(a => a.innerText === 'The issue')`, "the way back")
		ilona.sees("What would explain it")
		ilona.press(`document.querySelector('details > summary')`, "why the first is suspected")
		ilona.tap("It was this")
		ilona.sees("Recorded as:")
		ilona.picture("found-" + name)
		ilona.audit("what it was")
		ilona.tap("Cancel")
	}
}

// An issue of which nothing is known yet begins with what the caller says is wrong.
func TestAnIssueBeginsWithAComplaint(t *testing.T) {
	base := startFirm(t)
	ilona := newScreen(t, base, phone)
	ilona.logIn("ilona")
	ilona.open("/households/H-0002/issues")
	ilona.tap("Open an issue")
	ilona.fill("Symptom, as observed", "No list on the office screen")
	ilona.picture("open-phone")
	ilona.audit("the form of an issue")
	ilona.tap("Open and ask the caller")
	ilona.sees("What does the caller say is wrong?")
	ilona.picture("complaint-phone")
	ilona.audit("the complaints")
	ilona.tap("The server is not in the list")
	ilona.sees("On which path?")
	ilona.press(`[...document.querySelectorAll('button')].find(b => b.innerText.includes('office'))`, "the path")
	ilona.sees("So far")
	ilona.press(`[...document.querySelectorAll('a')].find(a => a.innerText === 'The issue')`, "the way back")
	ilona.sees("Noted so far")
	ilona.tap("Take back")
	ilona.sees("Nothing is known to fail")
}
