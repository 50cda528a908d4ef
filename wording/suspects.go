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
	likeliest := fmt.Sprintf("Likeliest: %s, at %s, %s. It is not sure enough to act on", lower(first), at, Likelihood(s.List[0].P))
	if len(s.Steps) == 0 {
		return likeliest + ", and no question, test or look that Kaiku knows would tell much more. Note what a visit shows as a try."
	}
	return likeliest + ": more has to be asked or tested first."
}

// StepKinds are the kinds of next step.
var StepKinds = map[string]string{"test": "Test", "question": "Ask", "look": "Look", "swap": "Swap"}

// Then says what follows a step if it comes out one way: what it then is for sure, or what to do next.
func Then(test, yes bool, p float64, sure, next string) string {
	out := "If the answer is no"
	switch {
	case test && yes:
		out = "If it fails"
	case test:
		out = "If it passes"
	case yes:
		out = "If the answer is yes"
	}
	out += fmt.Sprintf(" (about %.0f %%), ", 100*p)
	switch {
	case sure != "":
		return out + "it is almost certain: " + sure
	case next != "":
		return out + "then " + next
	}
	return out + "nothing that Kaiku knows would tell much more"
}

// NextStep words a step for use in the middle of a sentence.
func NextStep(kind, sentence string) string {
	switch kind {
	case "test":
		return "test: " + lower(sentence)
	case "question":
		return "ask: " + sentence
	}
	return lower(sentence)
}

// Swap says what to put in the place of what, and asks whether it then works.
func Swap(what, at string) string {
	return fmt.Sprintf("Put %s in the place of %s. Does it work then?", what, at)
}

// AskAfter asks whether it came after a change.
func AskAfter(what string) string { return "Did it begin after " + what + " was changed?" }

// CameAfter says that it did.
func CameAfter(what string) string { return "It began after " + what + " was changed" }

// OddsLearned says how the odds of a fault have moved, and by what.
func OddsLearned(l suspects.Learned) string {
	found := fmt.Sprintf("%d of %s at components of this kind; about %.2g would be expected", l.Found, Count(l.Of, "fault"), l.Expected)
	if l.Kept {
		return fmt.Sprintf("kept at %.2g, whatever is found: %s", l.Mode.Odds, found)
	}
	return fmt.Sprintf("odds %.2g instead of %.2g: %s", l.Odds, l.Mode.Odds, found)
}

// SharedBy says in how many homes a fault shows that have something in common.
func SharedBy(what string, reporting, found, homes int) string {
	out := fmt.Sprintf("%d of %s that have %s report it", reporting, Count(homes, "home"), what)
	switch {
	case found == 0:
		return out + "; it is suspected in all of them and was found in none, so that it may be more than one fault"
	case found == 1:
		return out + "; it was found once"
	}
	return out + fmt.Sprintf("; it was found %d times", found)
}

// DoWithShared says what to do in a home about a fault that others have too.
func DoWithShared(reports, found bool, state dossier.IssueState, proven bool, look string) string {
	switch {
	case found && state == dossier.IssueClosed && proven:
		return "Nothing: it was remedied here, and a test proved it then"
	case found && state == dossier.IssueClosed:
		return "Test it: it was closed with a reason, and no test has proven the remedy"
	case found:
		return "Prove the remedy"
	case reports:
		return "Look first: " + look
	}
	return "Ask whether it shows here too, and apply the remedy at the next visit if it does"
}

// Swapped says what came of that.
func Swapped(what string, works bool) string {
	return fmt.Sprintf("With %s in its place it %s", what, map[bool]string{true: "works", false: "does not work either"}[works])
}

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
	if m.Swap != "" {
		out = append(out, "Seen with "+m.Swap+" in its place")
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
