package views

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// TestTitle is what people call a test: what is tested, and of what.
func TestTitle(d *dossier.Dossier, t proving.Test) string {
	return wording.Tests[t.Kind.Name].Title + ", " + d.FullLabel(t.Subjects[0])
}

// aNight is how long after a repetition the next one has to have come.
const aNight = 26 * time.Hour

// NightSaid says what came of a repetition overnight. A run that has no end was cut off, unless it is under way.
func NightSaid(r wire.NightRun, underWay bool, now time.Time) string {
	when := map[string]string{"when": r.Began.In(now.Location()).Format("2 Jan 15:04")}
	switch {
	case underWay:
		return wording.Night("under-way", when)
	case r.Ended.IsZero():
		return wording.Night("cut-off", when)
	case r.Failed != "" && r.Repeated == 0:
		return r.Failed
	}
	var parts []string
	for _, one := range []struct {
		code string
		n    int
	}{{"as-before", r.AsBefore}, {"changed", len(r.Changed)}, {"undone", len(r.Undone)}} {
		if one.n > 0 {
			parts = append(parts, wording.Night(one.code, map[string]string{"n": fmt.Sprint(one.n)}))
		}
	}
	when["tests"], when["result"] = wording.Count(r.Repeated, "test"), strings.Join(parts, ", ")
	out := []string{wording.Night(map[bool]string{true: "done", false: "nothing"}[r.Repeated > 0], when)}
	if r.Failed != "" {
		out = append(out, r.Failed)
	}
	if r.Asleep > 0 {
		out = append(out, wording.Night("asleep", map[string]string{"tests": wording.Agree(r.Asleep, "test was", "tests were")}))
	}
	if now.Sub(r.Began) > aNight {
		out = append(out, wording.Night("missed", nil))
	}
	return strings.Join(out, " ")
}

// NightTodo says, on the day after, what a repetition overnight found that is still so, or why there was none.
func NightTodo(h *assess.Assessment, r wire.NightRun, now time.Time) []wire.Todo {
	l := todos{h: h, now: now}
	if now.Sub(r.Began) > aNight || r.Ended.IsZero() {
		return nil
	}
	if r.Failed != "" {
		l.add("night-failed", "proving", "said", r.Failed)
	}
	for _, c := range r.Changed {
		still := slices.ContainsFunc(h.Statuses, func(st proving.TestStatus) bool { return st.Test.ID() == c.Test && st.Status == c.Is })
		if still && c.Is != proving.Proven {
			l.add("night-found", "proving/"+c.Test, "test", c.Title, "was", wording.Plain(string(c.Was)), "is", wording.Plain(string(c.Is)), "said", c.Said)
		}
	}
	return l.list
}
