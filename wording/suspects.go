package wording

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/recurring"
	"kaiku/core/suspects"
)

// Complaints are what callers say is wrong, by code.
var Complaints = map[string]string{
	"not-listed": "The server is not in the list", "listed-empty": "The server is there, and its folders are empty", "never-opens": "A folder never opens",
	"refused": "It says that it cannot or may not", "does-not-start": "A title is chosen, and nothing comes", "stalls": "It starts and then stalls", "wrong-thing": "Something else comes than was chosen",
	"no-sound": "There is a picture and no sound", "sound-late": "Sound and lips do not match", "picture-cut": "The picture is cut off at its edges", "no-subtitles": "The subtitles are missing",
	"starts-over": "It begins from the start each time", "new-missing": "New files do not appear", "stalls-together": "It stalls when others watch too", "not-outside": "It does not work outside the home",
	suspects.Works: "It works",
}

// Likely are the words for probabilities.
var Likely = map[suspects.Word]string{
	suspects.AlmostCertain: "almost certain", suspects.Probable: "probable", suspects.Possible: "possible", suspects.Unlikely: "unlikely",
}

// Likelihood says a probability as a word and a rounded number.
func Likelihood(p float64) string {
	return fmt.Sprintf("%s (about %.0f %%)", Likely[suspects.WordFor(p)], 100*p)
}

// LinkBetween calls a link by what it joins.
func LinkBetween(a, b string) string { return "the link between " + a + " and " + b }

// AskComplaint asks whether what the complaint says is so on a path.
func AskComplaint(code, path string) string {
	if code == suspects.Works {
		return fmt.Sprintf("Does %s play?", path)
	}
	return Complaints[code] + ": " + path
}

// Failed says how something that is evidence failed or passed; seen is what was noted.
func Failed(title, about, seen string, failed bool, class dossier.Class) string {
	out := fmt.Sprintf("%s of %s passed", title, about)
	if failed {
		out = fmt.Sprintf("%s of %s failed", title, about)
		if class == dossier.ClassSlow {
			out = fmt.Sprintf("%s of %s was slow or stalled", title, about)
		}
	}
	if seen != "" && failed {
		out += ": " + seen
	}
	return out
}

// lower writes the beginning of a sentence as it stands in the middle of one.
func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }

// SuspectsSentence says how it stands with what is suspected.
func SuspectsSentence(s suspects.Suspects, first, at string) string {
	switch {
	case s.Failures == 0:
		return "Nothing is known to fail, so that there is nothing to explain. Record what the caller says, or a test that fails."
	case len(s.List) == 0:
		return "Nothing that Kaiku knows of explains what was seen."
	case s.Sure:
		return fmt.Sprintf("%s, at %s: %s. That is enough to act on.", first, at, Likelihood(s.List[0].P))
	case s.None > s.List[0].P:
		return fmt.Sprintf("None of the faults that Kaiku knows explains this well. The likeliest of them: %s, at %s, %s.", lower(first), at, Likelihood(s.List[0].P))
	}
	return fmt.Sprintf("Likeliest: %s, at %s, %s. It is not sure enough to act on: more has to be asked or tested first.", lower(first), at, Likelihood(s.List[0].P))
}

// StepKinds are the kinds of next step.
var StepKinds = map[string]string{"test": "Test", "question": "Ask", "look": "Look"}

// StepBy says who can take a step.
var StepBy = map[suspects.By]string{suspects.ByCaller: "the caller", suspects.ByTechnician: "the technician", suspects.ByMachine: "Kaiku by itself"}

// FaultLines says a fault mode line by line.
func FaultLines(m suspects.Mode) []string {
	out := []string{"At a " + string(m.At), fmt.Sprintf("Odds: %g", m.Odds)}
	for _, e := range m.Fails {
		line := fmt.Sprintf("Makes %s fail, chance %g", strings.Join(e.Tests, ", "), e.Chance)
		for _, class := range dossier.Class("").Values() {
			if share := e.Ends[dossier.Class(class)]; share > 0 {
				line += fmt.Sprintf("; %s %g", class, share)
			}
		}
		out = append(out, line)
	}
	for _, q := range slices.Sorted(maps.Keys(m.Answers)) {
		out = append(out, fmt.Sprintf("Answer to %s is yes: %g", q, m.Answers[q]))
	}
	if len(m.Finds) > 0 {
		out = append(out, "Told by "+strings.Join(m.Finds, ", "))
	}
	return append(out, "To see it: "+m.Look.Text, fmt.Sprintf("Remedy: %s (%s)", m.Remedy, Count(m.Minutes, "minute")), "Source: "+m.Source)
}

// Times says something with how often it was.
func Times(what string, n int) string {
	if n == 1 {
		return what + " (once)"
	}
	return fmt.Sprintf("%s (%d times)", what, n)
}

// Recurs says how often something comes back, or that there are too few cases to tell.
func Recurs(l recurring.Line) string {
	homes := fmt.Sprintf("%s in %s over %.1f years together", Count(l.Faults, "fault"), Count(l.Homes, "home"), l.Years)
	if !l.Enough {
		return homes + "; that is too little to tell a rate"
	}
	return fmt.Sprintf("%s; about %.2g in a year of one home, and with 90 %% between %.2g and %.2g", homes, l.Rate, l.Low, l.High)
}
