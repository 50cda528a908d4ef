// Package service holds the use-cases: who may do what, in which order. It knows nothing of
// HTTP or of flags.
package service

import (
	"errors"
	"fmt"
	"maps"
	"math"
	"strings"
	"time"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

// Role is what a person is in the firm.
type Role string

// Roles.
const (
	Coordinator Role = "coordinator"
	Lead        Role = "lead"
	Technician  Role = "technician"
	Observer    Role = "observer"
)

// Roles are all roles.
var Roles = []Role{Coordinator, Lead, Technician, Observer}

// Right says who may carry out an operation.
type Right string

// Rights. Whether a technician writes depends on custody, so a right is decided with the home
// at hand.
const (
	Public   Right = "public"   // anyone, without a log-in
	Reads    Right = "reads"    // everyone logged in
	Begins   Right = "begins"   // begins a household: all but observers
	Writes   Right = "writes"   // custodian, technician on a visit, lead, coordinator
	Waives   Right = "waives"   // lead
	Assigns  Right = "assigns"  // lead, coordinator
	Receives Right = "receives" // the person a handover is made out to
	Runs     Right = "runs"     // coordinator
	Erases   Right = "erases"   // coordinator
)

var rightWords = map[Right]string{
	Begins:   "everyone except observers",
	Writes:   "the custodian, a technician with a visit there yesterday, today or tomorrow, lead technicians and coordinators",
	Waives:   "lead technicians",
	Assigns:  "lead technicians and coordinators",
	Receives: "the receiver of the handover",
	Runs:     "coordinators",
	Erases:   "coordinators",
}

// operations declares, for every operation that is not a general one, who may.
var operations = map[string]Right{
	"log-in": Public, "log-out": Reads, "whoami": Reads, "list-people": Reads, "list-kinds": Reads, "today": Reads,
	"list-households": Reads, "begin-household": Begins, "show-overview": Reads, "list-findings": Reads, "show-survey": Reads, "show-kit": Reads, "set-ready": Writes, "show-departure": Reads, "show-arrival": Reads, "export-records": Reads, "import-records": Writes, "show-drawing": Reads, "show-address-plan": Reads, "list-tests": Reads, "preview-changes": Reads, "make-supposed": Writes, "show-dossier": Reads,
	"run-tests": Writes, "show-nightly": Reads, "show-coverage": Reads, "list-samples": Reads, "set-nightly": Writes, "watch-source": Writes, "stop-job": Writes, "list-jobs": Reads, "show-job": Reads, "record-attempt": Writes, "record-round": Writes, "list-needed": Reads, "tick-prerequisite": Writes, "refuse-prerequisite": Writes,
	"untick-prerequisite": Writes, "open-issue": Writes, "answer-issue": Writes, "list-suspects": Reads, "export-faults": Reads, "list-recurring": Reads, "list-shared-faults": Reads, "list-odds": Reads, "keep-odds": Assigns, "compare-faults": Reads, "import-faults": Assigns, "remove-fault": Assigns, "view-issue": Reads, "take-issue": Writes, "next-issue": Writes, "try-issue": Writes,
	"wait-issue": Writes, "give-issue": Writes, "remedy-issue": Writes, "close-issue": Writes, "join-issue": Writes, "reopen-issue": Writes,
	"draft-handover": Writes, "view-handover": Reads, "offer-handover": Writes, "answer-handover": Writes, "confirm-handover": Receives,
	"ask-handover": Receives, "accept-handover": Receives, "return-handover": Receives, "assign-household": Assigns, "list-journal": Reads, "follow-events": Reads,
	"add-person": Runs, "change-person": Runs, "reset-person": Runs, "change-password": Reads, "list-logins": Reads, "end-login": Reads, "add-token": Reads, "add-feed": Reads, "read-label": Reads, "add-join": Reads, "join": Public, "invite-measuring": Writes, "show-measuring": Public, "begin-measuring": Public, "end-measuring": Public,
	"add-secret": Writes, "reveal-secret": Writes, "rotate-secret": Writes, "add-attachment": Writes, "show-body": Reads,
	"run-scan": Writes, "add-scan": Writes, "show-scan": Reads, "record-scan": Writes, "review-scan": Writes, "browse-source": Writes,
	"read-folder": Writes, "add-contents": Writes, "show-contents": Reads, "record-contents": Writes, "record-listing": Writes,
	"offer-second-factor": Reads, "set-second-factor": Reads, "remove-second-factor": Reads,
	"list-recipes": Reads, "import-recipes": Assigns, "export-recipes": Reads, "remove-recipe": Assigns, "list-recipe-steps": Reads, "show-forecast": Reads, "show-load": Reads, "show-openings": Reads, "show-ends": Reads, "show-room-card": Reads, "show-sheet": Reads, "write-sheet": Reads, "list-waking": Reads, "propose-paths": Reads, "show-load-together": Reads, "list-decoding-questions": Public, "declare-decoding": Public, "list-knowledge": Reads, "export-knowledge": Reads, "compare-knowledge": Reads, "list-knowledge-changes": Reads, "import-knowledge": Assigns, "remove-knowledge": Assigns, "show-entry-card": Reads, "show-wifi-code": Writes, "set-recipe-step": Writes,
	"undo-entry": Writes, "undo-revision": Writes, "erase-personal": Erases, "answer-gap": Writes, "apply-document": Writes, "apply-new-household": Begins, "waive-test": Waives, "require-test": Waives,
}

// RightOf returns who may carry out the operation with that id, and whether it is declared. The
// general operations of every kind are declared by their verb.
func RightOf(operation string) (Right, bool) {
	if r, ok := operations[operation]; ok {
		return r, true
	}
	for _, k := range dossier.Kinds {
		switch operation {
		case "list-" + k.Plural, "show-" + k.Name:
			return Reads, true
		}
		for _, v := range k.Verbs {
			if operation == string(v)+"-"+k.Name {
				return Writes, true
			}
		}
	}
	return "", false
}

// Actor is the person who asks.
type Actor struct {
	ID   dossier.PersonID
	Name string
	Role Role
	Now  time.Time // when the request came, in the firm's time zone: a visit gives rights by the day

	Session string // hash of the log-in or token by which it came
	Enrols  bool   // the firm asks for a second factor, and there is none yet
}

// may reports whether the actor has the right in this home. For Receives the handover decides.
func (a Actor) may(r Right, d *dossier.Dossier, h *dossier.Handover) bool {
	switch r {
	case Public:
		return true
	case Reads:
		return a.ID != ""
	case Begins:
		return a.ID != "" && a.Role != Observer
	case Writes:
		return a.Role == Lead || a.Role == Coordinator || a.Role == Technician && (d.Home().Custodian == a.ID || custody.Visiting(d, a.ID, a.Now))
	case Waives:
		return a.Role == Lead
	case Runs, Erases:
		return a.Role == Coordinator
	case Assigns:
		return a.Role == Lead || a.Role == Coordinator
	case Receives:
		return h != nil && h.To == a.ID && a.Role != Observer
	}
	return false
}

func (a Actor) require(operation string, d *dossier.Dossier, h *dossier.Handover) error {
	r, declared := RightOf(operation)
	if declared && a.may(r, d, h) {
		return nil
	}
	if a.ID == "" {
		return refuse("not-logged-in")
	}
	return refuse("not-allowed", "person", a.Name, "role", string(a.Role), "who", rightWords[r])
}

// visits reports whether the actor's right to write rests on a visit alone.
func (a Actor) visits(d *dossier.Dossier) bool {
	return a.Role == Technician && d.Home().Custodian != a.ID
}

// plans refuses a change to who goes when: whose right rests on a visit does not give himself further visits.
func (a Actor) plans(was dossier.Records[dossier.Visit], d *dossier.Dossier) error {
	planned := func(all dossier.Records[dossier.Visit]) map[string]string {
		out := map[string]string{}
		for _, v := range all {
			out[v.Key()] = fmt.Sprint(v.Technician, v.Starts.UTC(), v.Cancelled)
		}
		return out
	}
	if maps.Equal(planned(was), planned(d.Visits)) {
		return nil
	}
	return refuse("not-allowed", "person", a.Name, "role", string(a.Role), "who", "the custodian, lead technicians and coordinators")
}

// Refusal is a use-case's "no": a row of the error table with its values.
type Refusal struct {
	Code   string
	Values map[string]string
	After  time.Duration // when to come back, if that is known
	// Changes are journal entries since the version the client started from.
	Changes []dossier.Entry
}

func (r *Refusal) Error() string {
	e := wording.Errors[r.Code]
	return wording.Fill(e.Sentence+" "+e.Remedy, r.Values)
}

// Problem is the refusal as an answer says it.
func (r *Refusal) Problem() *wire.Problem {
	e, ok := wording.Errors[r.Code]
	if !ok {
		panic("error code without words: " + r.Code)
	}
	return &wire.Problem{RetryAfter: int(math.Ceil(r.After.Seconds())), Type: "/docs/errors#" + r.Code, Title: e.Title, Status: e.Status, Code: r.Code, Detail: wording.Fill(e.Sentence, r.Values), Remedy: wording.Fill(e.Remedy, r.Values)}
}

// refuse makes a refusal; pairs are names and values.
func refuse(code string, pairs ...string) *Refusal {
	r := &Refusal{Code: code, Values: map[string]string{}}
	for i := 0; i+1 < len(pairs); i += 2 {
		r.Values[pairs[i]] = pairs[i+1]
	}
	return r
}

// refusalOf returns the refusal by which a rule of the core said no, or nil.
func refusalOf(err error) error {
	var no *dossier.Refusal
	var state *dossier.WrongState
	var gates custody.Closed
	switch {
	case errors.As(err, &no):
		return &Refusal{Code: no.Code, Values: no.Values}
	case errors.As(err, &state):
		return refuse("wrong-state", "kind", wording.Noun(state.Subject.Kind), "state", wording.Plain(state.State), "needed", wording.Or(state.Needed))
	case errors.As(err, &gates):
		var all []string
		for _, g := range gates {
			said := wording.Gate(g)
			all = append(all, said.Sentence+" "+said.Remedy)
		}
		return refuse("gate-closed", "said", strings.Join(all, " "))
	}
	return nil
}
