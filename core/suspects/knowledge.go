// Package suspects works out which faults would explain what is known of a home, and what to ask or try next.
//
// A hypothesis is one fault mode at one component of the home. Each has odds of its own before anything is seen, and says of each test how likely it
// then fails and how. What was seen weighs hypotheses against each other by the rule of Bayes; the next step is the one from which the greatest drop of
// entropy per minute is expected (de Kleer and Williams, Artificial Intelligence 32, 1987; Heckerman, Breese and Rommelse, CACM 38(3), 1995).
package suspects

import (
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"sync"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/core/proving"
)

// Format names the form in which fault modes are handed from firm to firm.
const Format = "kaiku-faults/1"

// Faults is what is known of faults.
type Faults struct {
	Format    string     `json:"format" enum:"kaiku-faults/1" doc:"The form of this file."`
	Questions []Question `json:"questions" maxItems:"200" doc:"What a caller can be asked."`
	Modes     []Mode     `json:"modes" maxItems:"2000" doc:"The ways in which something can be faulty."`
	learned   []Learned
}

// Learned returns how the odds of the mode with that id have moved; nil if they are as they came.
func (f *Faults) Learned(id string) *Learned {
	i := slices.IndexFunc(f.learned, func(l Learned) bool { return l.Mode.ID == id })
	if i < 0 {
		return nil
	}
	return &f.learned[i]
}

// Question is one that a layman can answer from the sofa.
type Question struct {
	ID       string  `json:"id" maxLength:"60" doc:"Its id."`
	Text     string  `json:"text" maxLength:"300" doc:"The question, as it is asked."`
	Yes      float64 `json:"yes" minimum:"0.001" maximum:"0.999" doc:"How likely the answer is yes where a mode says nothing of it."`
	Reliable float64 `json:"reliable" minimum:"0.5" maximum:"0.999" doc:"How often the answer is right."`
}

// Part is a kind of component of a home at which a mode can be.
type Part string

// Parts.
const (
	AtServer Part = "server"
	AtSource Part = "source"
	AtFolder Part = "folder"
	AtDevice Part = "device"
	AtPath   Part = "path"
	// AtPairing is what a server holds of one device, or a device of one server; it is said to be at the device.
	AtPairing Part = "pairing"
	AtSegment Part = "segment"
	AtLink    Part = "link"
	AtGateway Part = "gateway"
	AtLine    Part = "line"
)

// Values lists them, outward from the source.
func (Part) Values() []string {
	return []string{string(AtServer), string(AtSource), string(AtFolder), string(AtSegment), string(AtLink), string(AtGateway), string(AtLine), string(AtPairing), string(AtPath), string(AtDevice)}
}

// Mode is one way in which a component can be faulty.
type Mode struct {
	ID      string             `json:"id" maxLength:"60" doc:"Its id."`
	At      Part               `json:"at" enum:"server,source,folder,segment,link,gateway,line,pairing,path,device" doc:"The kind of component that it is at."`
	Title   string             `json:"title" maxLength:"200" doc:"What is wrong, in one sentence."`
	Odds    float64            `json:"odds" minimum:"0.001" maximum:"1000" doc:"How often it happens, beside the others: of a thousand calls, about how many are this, for each component of the kind."`
	Only    Only               `json:"only,omitzero" doc:"Which components can have it; any, if nothing is said."`
	Fails   []Effect           `json:"fails" maxItems:"20" doc:"Which tests it makes fail, and how."`
	Finds   []string           `json:"finds,omitempty" maxItems:"10" doc:"Codes of findings that tell of it."`
	Answers map[string]float64 `json:"answers,omitempty" doc:"How likely a question is answered with yes."`
	After   []After            `json:"after,omitempty" maxItems:"4" doc:"What makes it more likely, if it was done shortly before."`
	Look    Look               `json:"look" doc:"How to see that it is this."`
	Swap    string             `json:"swap,omitempty" maxLength:"60" doc:"What to swap in for the suspect part to see whether it then works, such as another cable. One swap tests all modes of a component that name the same replacement."`
	Remedy  string             `json:"remedy" maxLength:"400" doc:"What to do about it."`
	Minutes int                `json:"minutes" minimum:"1" maximum:"600" doc:"How long the remedy takes."`
	Parts   []string           `json:"parts,omitempty" maxItems:"10" doc:"What to bring for it."`
	Source  string             `json:"source" maxLength:"300" doc:"Where the numbers come from, or the word judgement."`
}

// Only says which components can have a mode.
type Only struct {
	Protocols []dossier.Protocol `json:"protocols,omitempty" doc:"Sources that speak one of these."`
	Paths     []dossier.PathKind `json:"paths,omitempty" doc:"Paths of one of these kinds."`
	Links     []dossier.LinkKind `json:"links,omitempty" doc:"Links of one of these kinds."`
	Media     []dossier.Medium   `json:"media,omitempty" doc:"Devices with an adapter of one of these."`
	Sleeps    bool               `json:"sleeps,omitempty" doc:"Only what goes to sleep."`
	Converts  bool               `json:"converts,omitempty" doc:"Only what converts."`
}

// Effect is what a mode does to tests.
type Effect struct {
	// Tests are kinds of test; a trailing asterisk includes every kind that depends on it.
	Tests  []string                  `json:"tests" maxItems:"40" doc:"Kinds of test; a trailing asterisk includes every kind that depends on it."`
	Chance float64                   `json:"chance" minimum:"0.001" maximum:"0.999" doc:"How likely the test fails."`
	Ends   map[dossier.Class]float64 `json:"ends,omitempty" doc:"How it then ends: shares by class."`
	// Seen is what a machine sees in that case, if it distinguishes this from others that end the same way.
	Seen []dossier.Observed `json:"seen,omitempty" maxItems:"20" doc:"What a machine sees in that case, if it distinguishes this from others that end the same way."`
}

// After is something that makes a mode more likely when it was done shortly before.
type After string

// What was done before.
const (
	AfterChange After = "change" // any change of the component that is recorded
	AfterReset  After = "reset"  // a reset to defaults
)

// Values lists them.
func (After) Values() []string { return []string{string(AfterChange), string(AfterReset)} }

// Look is how to see that it is a mode and no other.
type Look struct {
	Text    string `json:"text" maxLength:"400" doc:"What to look at, and what is seen if it is this."`
	Minutes int    `json:"minutes" minimum:"1" maximum:"240" doc:"How long it takes."`
	By      By     `json:"by" enum:"caller,technician" doc:"Who can do it."`
}

// By is who can take a step.
type By string

// Who can.
const (
	ByCaller     By = "caller"
	ByTechnician By = "technician"
	ByMachine    By = "machine"
)

// Values lists them.
func (By) Values() []string {
	return []string{string(ByCaller), string(ByMachine), string(ByTechnician)}
}

//go:embed faults.json
var shipped []byte

// Shipped returns the fault modes that come with Kaiku.
var Shipped = sync.OnceValue(func() *Faults {
	f, err := Read(shipped)
	if err != nil {
		panic(err) // it is built in, and tested
	}
	return f
})

// ErrFaults is returned for a file of fault modes that cannot be used; the error says where and why.
var ErrFaults = errors.New("these fault modes cannot be used")

// Read reads a whole file of fault modes, and refuses what could make nonsense of all that follows from it.
func Read(text []byte) (*Faults, error) {
	f, err := Parse(text)
	if err != nil {
		return nil, err
	}
	return f, f.Check()
}

// Parse reads a file that may hold only some modes and questions, for others to be added; together they have to be checked.
func Parse(text []byte) (*Faults, error) {
	var f Faults
	d := json.NewDecoder(strings.NewReader(string(text)))
	d.DisallowUnknownFields()
	if err := d.Decode(&f); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrFaults, err)
	}
	if f.Format != Format {
		return nil, fmt.Errorf("%w: the format is %q, not %s", ErrFaults, f.Format, Format)
	}
	return &f, nil
}

// Check says whether the modes can be used.
func (f *Faults) Check() error {
	if f.Format != Format {
		return fmt.Errorf("%w: the format is %q, not %s", ErrFaults, f.Format, Format)
	}
	asked := map[string]bool{}
	for _, q := range f.Questions {
		if q.ID == "" || asked[q.ID] || q.Text == "" {
			return fmt.Errorf("%w: question %q has no id or text, or stands twice", ErrFaults, q.ID)
		}
		if !odd(q.Yes) || q.Reliable < .5 || !odd(q.Reliable) {
			return fmt.Errorf("%w: question %s: yes must lie between 0.001 and 0.999, and reliable between 0.5 and 0.999", ErrFaults, q.ID)
		}
		asked[q.ID] = true
	}
	seen := map[string]bool{}
	for _, m := range f.Modes {
		if m.ID == "" || seen[m.ID] || m.Title == "" {
			return fmt.Errorf("%w: mode %q has no id or title, or stands twice", ErrFaults, m.ID)
		}
		seen[m.ID] = true
		if err := m.check(asked); err != nil {
			return fmt.Errorf("%w: mode %s: %w", ErrFaults, m.ID, err)
		}
	}
	return nil
}

// leastOdds and mostOdds bound the odds of a mode.
const (
	leastOdds = 0.001
	mostOdds  = 1000.0
)

// odd reports whether a probability is neither certain nor impossible: nothing that is seen later could weigh against either.
func odd(p float64) bool { return p >= .001 && p <= .999 }

func (m *Mode) check(asked map[string]bool) error {
	if !slices.Contains(m.At.Values(), string(m.At)) {
		return fmt.Errorf("%q is not a kind of component", m.At)
	}
	if m.Odds < leastOdds || m.Odds > mostOdds {
		return errors.New("odds must lie between 0.001 and 1000")
	}
	if len(m.Fails) == 0 {
		return errors.New("it makes no test fail, so that nothing could show it")
	}
	for _, e := range m.Fails {
		if !odd(e.Chance) {
			return errors.New("a chance must lie between 0.001 and 0.999")
		}
		for _, t := range e.Tests {
			if _, known := proving.KindNamed(strings.TrimSuffix(t, "*")); !known {
				return fmt.Errorf("%q is not a kind of test", t)
			}
		}
		sum := 0.0
		for class, share := range e.Ends {
			if !slices.Contains(failing[:], class) || share < 0 || share > 1 {
				return fmt.Errorf("a test cannot fail with %q, or not with a share of %g", class, share)
			}
			sum += share
		}
		for _, code := range e.Seen {
			if !slices.Contains(failing[:], code.Class()) {
				return fmt.Errorf("a test cannot fail with %q", code)
			}
		}
		if len(e.Ends) > 0 && (sum < .99 || sum > 1.01) {
			return fmt.Errorf("the shares of how %s ends add up to %g, not to 1", strings.Join(e.Tests, ", "), sum)
		}
	}
	for q, yes := range m.Answers {
		if !asked[q] || !odd(yes) {
			return fmt.Errorf("question %q does not exist, or its chance is not between 0.001 and 0.999", q)
		}
	}
	for _, code := range m.Finds {
		if !slices.ContainsFunc(network.Codes, func(c network.Code) bool { return c.Name == code }) {
			return fmt.Errorf("%q is not a finding", code)
		}
	}
	for _, a := range m.After {
		if !slices.Contains(a.Values(), string(a)) {
			return fmt.Errorf("%q is not something that happens beforehand", a)
		}
	}
	if m.Look.Text == "" || m.Look.Minutes < 1 || m.Remedy == "" || m.Minutes < 1 || m.Source == "" {
		return errors.New("its look, its remedy, their minutes and the source of its numbers are needed")
	}
	if m.Look.By != ByCaller && m.Look.By != ByTechnician {
		return fmt.Errorf("looking is for the caller or the technician, not for %q", m.Look.By)
	}
	return nil
}

// failing are the classes by which a test can fail.
var failing = [...]dossier.Class{dossier.ClassRefused, dossier.ClassSilent, dossier.ClassEmpty, dossier.ClassWrong, dossier.ClassLying, dossier.ClassSlow}

// needs are for each kind of test those that have to pass before it, near or far; needing are for each those that need it.
var needs, needing = func() (needs, needing map[string][]string) {
	needs, needing = map[string][]string{}, map[string][]string{}
	for _, k := range proving.Kinds {
		all := slices.Clone(k.After)
		for i := 0; i < len(all); i++ {
			before, _ := proving.KindNamed(all[i])
			for _, b := range before.After {
				if !slices.Contains(all, b) {
					all = append(all, b)
				}
			}
		}
		needs[k.Name] = all
		for _, n := range all {
			needing[n] = append(needing[n], k.Name)
		}
	}
	return needs, needing
}()

// Key tells modes apart.
func (m Mode) Key() string { return m.ID }

// Key tells questions apart.
func (q Question) Key() string { return q.ID }

// Mode returns the mode with that id; nil if there is none.
func (f *Faults) Mode(id string) *Mode { return named(f.Modes, id) }

// Question returns the question with that id; nil if there is none.
func (f *Faults) Question(id string) *Question { return named(f.Questions, id) }

func named[T knowledge.Keyed](list []T, id string) *T {
	i := slices.IndexFunc(list, func(one T) bool { return one.Key() == id })
	if i < 0 {
		return nil
	}
	return &list[i]
}

// With returns the modes and questions with those of a firm, which take the place of those with the same id.
func (f *Faults) With(own Faults) *Faults {
	if len(own.Modes) == 0 && len(own.Questions) == 0 {
		return f
	}
	return &Faults{Format: Format, Questions: knowledge.Merged(f.Questions, own.Questions, false), Modes: knowledge.Merged(f.Modes, own.Modes, false)}
}

// Own returns what of some modes and questions is not as it is here.
func (f *Faults) Own(of Faults) Faults {
	return Faults{Modes: unlike(f.Modes, of.Modes), Questions: unlike(f.Questions, of.Questions)}
}

func unlike[T any](list, own []T) []T {
	return slices.DeleteFunc(slices.Clone(own), func(one T) bool {
		return slices.ContainsFunc(list, func(x T) bool { return reflect.DeepEqual(x, one) })
	})
}
