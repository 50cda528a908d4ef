package wording

// Nights holds what is said of the tests that are repeated overnight.
var Nights = map[string]string{
	"conditions": "repeated overnight",
	"again":      "{tests} failed; tried again in {minutes}",
	"under-way":  "Under way since {when}.",
	"cut-off":    "Begun on {when}, and cut off when Kaiku was stopped.",
	"done":       "{tests} repeated on {when}: {result}.",
	"nothing":    "On {when} there was nothing to repeat.",
	"as-before":  "{n} as before",
	"changed":    "{n} changed",
	"undone":     "{n} could not be carried out",
	"asleep":     "{tests} left out, because the server may be asleep at night.",
	"missed":     "It did not run in the nights since: this machine was off, or busy.",

	"no-place":  "The tests were not repeated on {when}: the network of this machine could not be read ({detail}).",
	"no-right":  "The tests were not repeated on {when}: {name}, in whose name they are, may not run tests here any more. Set the time again in your own name.",
	"elsewhere": "The tests were not repeated on {when}: this machine was not in the home, or could not tell that it was, because no gateway is recorded or another stood in its place.",
	"stopped":   "Somebody stopped it before the end.",
}

// Night says something of the tests that are repeated overnight.
func Night(code string, values map[string]string) string { return Fill(Nights[code], values) }
