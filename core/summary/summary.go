// Package summary declares the columns that homes are listed by: one row each. They hold numbers and
// dates, never ages or verdicts that time changes.
package summary

import (
	"fmt"
	"hash/fnv"
	"slices"
	"time"

	"kaiku/core/assess"
	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
)

// Where says which homes a filter lets through, by the value of its column.
type Where int

// Conditions of filters.
const (
	Positive  Where = iota // a number above 0
	Given                  // a text that is not empty
	Today                  // a day that is today or past
	Fortnight              // a day that is past or within a fortnight
)

// Column is one thing that homes are listed by: a number or a text, a day or an instant as text.
type Column struct {
	Name  string
	Of    func(*assess.Assessment) any
	With  string // word by which a list is narrowed to homes that have it; "" for none
	Title string // what people call these
	Where Where
	By    string // word by which a list is sorted; "" for none
}

// Columns lists all. A new one is one entry here.
var Columns = []Column{
	count("required", func(a *assess.Assessment) int { return a.Coverage.Required }),
	count("proven", func(a *assess.Assessment) int { return a.Coverage.Proven }),
	count("marginal", func(a *assess.Assessment) int { return a.Coverage.Marginal }),
	count("untried", func(a *assess.Assessment) int { return a.Coverage.Untried }),
	count("blockers", (*assess.Assessment).Blockers).with("blockers", "blockers").by("blockers"),
	count("openIssues", openIssues).with("open-issues", "open issues").by("open-issues"),
	count("unproven", func(a *assess.Assessment) int { return a.Coverage.Required - a.Coverage.Proven }).with("unproven", "tests not proven").by("unproven"),
	count("failed", func(a *assess.Assessment) int { return a.Coverage.Failed }).with("failed", "failed tests"),
	count("inDoubt", func(a *assess.Assessment) int { return a.Coverage.InDoubt }).with("in-doubt", "tests in doubt"),
	count("stale", func(a *assess.Assessment) int { return a.Coverage.Stale }).with("stale", "stale tests"),
	count("notServed", func(a *assess.Assessment) int { return a.Coverage.NotServed }).with("not-served", "wishes without a path"),
	count("outdated", outdated).with("outdated", "old or unmaintained versions").by("outdated"),
	count("waived", func(a *assess.Assessment) int { return a.Coverage.Waived }).with("waived", "waived tests"),
	{Name: "reviewOn", Of: reviewOn, With: "review", Title: "waivers to review", Where: Today},
	{Name: "offeredTo", Of: offeredTo, With: "offered", Title: "an offered handover", Where: Given},
	{Name: "dueOn", Of: dueOn, With: "due", Title: "dates due within a fortnight", Where: Fortnight, By: "due"},
	{Name: "longTaskAt", Of: longTaskAt, With: "long-tasks", Title: "running long tasks", Where: Given},
}

func count(name string, of func(*assess.Assessment) int) Column {
	return Column{Name: name, Of: func(a *assess.Assessment) any { return of(a) }}
}

func (c Column) with(word, title string) Column { c.With, c.Title = word, title; return c }
func (c Column) by(word string) Column          { c.By = word; return c }

// Row holds the value of each column by its name.
type Row map[string]any

// Of returns the row of a home.
func Of(a *assess.Assessment) Row {
	out := Row{}
	for _, c := range Columns {
		out[c.Name] = c.Of(a)
	}
	return out
}

// Number returns a column that counts, also of a row that was read from JSON.
func (r Row) Number(name string) int {
	switch n := r[name].(type) {
	case int:
		return n
	case float64:
		return int(n)
	}
	return 0
}

// Text returns a column that is a text.
func (r Row) Text(name string) string {
	s, _ := r[name].(string)
	return s
}

// Coverage returns the required tests by where they stand.
func (r Row) Coverage() proving.Coverage {
	return proving.Coverage{Required: r.Number("required"), Proven: r.Number("proven"), Marginal: r.Number("marginal"), Failed: r.Number("failed"), InDoubt: r.Number("inDoubt"),
		Stale: r.Number("stale"), Untried: r.Number("untried"), Waived: r.Number("waived"), NotServed: r.Number("notServed")}
}

// With lists the words by which lists are narrowed, sorted.
func With() []string { return words(func(c Column) string { return c.With }) }

// By lists the words by which lists are sorted, sorted.
func By() []string { return words(func(c Column) string { return c.By }) }

func words(of func(Column) string) []string {
	var out []string
	for _, c := range Columns {
		if w := of(c); w != "" {
			out = append(out, w)
		}
	}
	slices.Sort(out)
	return out
}

// Version names what the rows are made by: it is another when columns, findings, kinds of test or
// what decides them are others, so that rows of an older program are known and made anew.
var Version = func() string {
	h := fnv.New64a()
	for _, c := range Columns {
		fmt.Fprintln(h, c.Name)
	}
	for _, c := range network.Codes {
		fmt.Fprintln(h, c.Name, c.Severity, c.Keeps)
	}
	for _, k := range proving.Kinds {
		fmt.Fprintln(h, k.Name, k.On)
	}
	for _, k := range dossier.Kinds {
		for _, f := range k.Fields {
			tests, why, _ := proving.Decides(k.Name, f.Name)
			fmt.Fprintln(h, k.Name, f.Name, tests, why)
		}
	}
	return fmt.Sprintf("%x", h.Sum64())
}()

// outdated counts the programs and devices whose version is old, or perhaps old, or no longer maintained.
func outdated(a *assess.Assessment) int {
	n := 0
	for _, f := range a.Findings {
		if f.Code == "behind" || f.Code == "unmaintained" {
			n++
		}
	}
	return n
}

func openIssues(a *assess.Assessment) int {
	n := 0
	for _, i := range a.Issues {
		if i.State != dossier.IssueClosed {
			n++
		}
	}
	return n
}

func offeredTo(a *assess.Assessment) any {
	if h, ok := custody.Latest(a.Dossier); ok && h.State == dossier.Offered {
		return string(h.To)
	}
	return ""
}

func dueOn(a *assess.Assessment) any {
	if len(a.Dues) == 0 {
		return ""
	}
	return string(a.Dues[0].On)
}

func reviewOn(a *assess.Assessment) any {
	first := ""
	for _, w := range a.Waivers {
		first = earlier(first, string(w.Until))
	}
	return first
}

func longTaskAt(a *assess.Assessment) any {
	first := ""
	for _, t := range a.LongTasks {
		if t.EndedAt.IsZero() {
			first = earlier(first, t.ExpectedAt.UTC().Format(time.RFC3339))
		}
	}
	return first
}

// earlier returns the earlier of two days or instants written alike; "" is none.
func earlier(a, b string) string {
	if a == "" || b != "" && b < a {
		return b
	}
	return a
}
