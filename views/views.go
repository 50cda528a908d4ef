// Package views says what is computed of a home: it turns assessments into the answers that people
// read, for the API and the papers alike. It decides nothing and stores nothing.
package views

import (
	"encoding/json"
	"strings"
	"time"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
)

// People are those of the firm, to be said by name.
type People []wire.Person

// Get returns the person with that id, or one of whom nothing but the id is known.
func (p People) Get(id dossier.PersonID) wire.Person {
	for _, one := range p {
		if one.ID == id {
			return one
		}
	}
	return wire.Person{ID: id}
}

// Name returns the name of the person with that id, "" if there is none.
func (p People) Name(id dossier.PersonID) string { return p.Get(id).Name }

// Reader is who reads: the person, whether that person reviews waivers, and when.
type Reader struct {
	ID      dossier.PersonID
	Reviews bool
	Now     time.Time
}

// Home is an assessed home, with the people and the changes behind what is said of it.
type Home struct {
	*assess.Assessment
	People  People
	changes map[memberOf]dossier.Entry // the newest change of each member, of what is stale or in doubt
	tried   map[string]int             // attempts by test
	look    map[dossier.ID[dossier.Path]]proving.Look
}

type memberOf struct {
	record dossier.Ref
	member string
}

// Since returns the revision after which the journal says who made proof stale or put it in doubt:
// that of the oldest such proof. It is the revision of the home if there is none.
func Since(h *assess.Assessment) uint64 {
	since := h.Revision
	for _, st := range h.Statuses {
		if st.Status == proving.Stale || st.Status == proving.InDoubt {
			since = min(since, begunAt(h, st))
		}
	}
	return since
}

// New returns a home to be said. Entries are those of its journal after Since.
func New(h *assess.Assessment, people People, entries []dossier.Entry) Home {
	t := Home{Assessment: h, People: people, changes: map[memberOf]dossier.Entry{}, tried: map[string]int{}, look: h.Plan.WhereToLook(h.Statuses)}
	for _, one := range h.Attempts {
		t.tried[proving.TestID(one.Test, one.Subjects)]++
	}
	for _, e := range entries {
		for _, members := range []map[string]json.RawMessage{e.Before, e.After} {
			for p := range members {
				t.changes[memberOf{e.Subject, strings.SplitN(p[1:], "/", 2)[0]}] = e
			}
		}
		t.changes[memberOf{e.Subject, ""}] = e
	}
	return t
}
