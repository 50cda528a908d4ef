package httpapi

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// The largest request body in bytes, with and without a log-in.
const (
	maxBody       = 1 << 20
	maxPublicBody = 8 << 10
)

// InHome is the place of every operation on a household. Embedded inputs must be exported for
// huma to fill them.
type InHome struct {
	Code string `path:"code" pattern:"^H-[0-9]{4,6}$" doc:"Code of the household."`
}

// OneOf is the place of one record of a household.
type OneOf struct {
	InHome
	ID string `path:"id" format:"uuid" doc:"Id of the record."`
}

// Keyed is a request that can be repeated without harm.
type Keyed struct {
	Key    string    `header:"Idempotency-Key" maxLength:"80" doc:"For a week, a request repeated with the same key is carried out only once."`
	DoneAt time.Time `header:"Kaiku-Done-At" timeFormat:"2006-01-02T15:04:05.999Z07:00" doc:"When it was done, if it is sent later, in RFC 3339 format."`
	Clock  time.Time `header:"Kaiku-Clock" timeFormat:"2006-01-02T15:04:05.999Z07:00" doc:"What the sender's clock says when it is sent. Where that is wrong by more than five minutes, Kaiku-Done-At is taken to be wrong by as much, and put right."`
}

// clockMayDiffer is by how much a sender's clock may differ before what it says is put right; a slow upload takes as long.
const clockMayDiffer = 5 * time.Minute

// doneAt is when a request was done by this machine's clock.
func (k Keyed) doneAt() time.Time {
	if k.DoneAt.IsZero() || k.Clock.IsZero() {
		return k.DoneAt
	}
	if wrong := time.Since(k.Clock); wrong.Abs() > clockMayDiffer {
		return k.DoneAt.Add(wrong).Truncate(time.Millisecond)
	}
	return k.DoneAt
}

type answer[T any] struct {
	ETag string `header:"ETag"`
	Body T
}

// operation registers a typed operation. Its id must be declared in the service's rights.
func operation[I, O any](s *Server, id, method, path, summary string, handle func(context.Context, service.Actor, *I) (*O, error)) {
	huma.Register(s.api, s.describe(id, method, path, summary), func(ctx context.Context, in *I) (*O, error) {
		out, err := handle(ctx, actorOf(ctx), in)
		if err != nil {
			return nil, s.problemOf(ctx, codeIn(in), err)
		}
		return out, nil
	})
}

func (h InHome) household() string { return h.Code }

func (s *Server) describe(id, method, path, summary string) huma.Operation {
	right, declared := service.RightOf(id)
	if !declared {
		panic("operation without a declared right: " + id)
	}
	op := huma.Operation{OperationID: id, Method: method, Path: Base + path, Summary: summary, MaxBodyBytes: maxBody,
		Metadata: map[string]any{"right": right}, Description: "Allowed for: " + string(right) + ".",
		Security: []map[string][]string{{"session": {}}, {"bearer": {}}}, Errors: []int{400, 401, 403, 404, 409, 412, 422, 428}}
	if right == service.Public {
		op.Security, op.MaxBodyBytes = nil, maxPublicBody
	}
	if method == http.MethodPost && id != "log-in" {
		op.DefaultStatus = http.StatusOK
	}
	return op
}

// placeKey is where a context holds what was asked for: the id of the operation and its address.
type placeKey struct{}

// keepPlace keeps what was asked for in the context, so that no operation has to say its own name.
func keepPlace(ctx huma.Context, next func(huma.Context)) {
	u := ctx.URL()
	next(huma.WithValue(ctx, placeKey{}, ctx.Operation().OperationID+" "+u.Path+"?"+u.RawQuery))
}

// request says what a use-case is asked by: its idempotency key, what the key is used for, and when the
// thing was done.
func request(ctx context.Context, k Keyed, body any) service.Request {
	if k.Key == "" {
		return service.Request{DoneAt: k.doneAt()}
	}
	b, err := json.Marshal(body)
	if err != nil {
		panic(err) // body came out of JSON
	}
	place, _ := ctx.Value(placeKey{}).(string)
	sum := sha256.Sum256(append([]byte(place+"\n"), b...))
	return service.Request{Key: k.Key, DoneAt: k.doneAt(), Hash: hex.EncodeToString(sum[:])}
}

func (s *Server) registerAll() {
	s.registerSessions()
	s.registerHouseholds()
	s.registerKinds()
	s.registerProving()
	s.registerIssues()
	s.registerSecrets()
	s.registerWaivers()
	s.registerAttachments()
	s.registerImports()
	s.registerSheets()
	s.registerVisits()
	s.registerCodes()
	s.registerObservations()
	s.registerContents()
	s.registerHandovers()
	s.registerEvents()
	s.registerFirm()
	s.registerRecipes()
}

func (s *Server) registerSessions() {
	operation(s, "log-in", http.MethodPost, "/session", "Log in", func(ctx context.Context, _ service.Actor, in *struct{ Body wire.LogIn }) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
		Body      wire.Session
	}, error) {
		session, err := s.service.LogIn(ctx, remoteOf(ctx), in.Body)
		if err != nil {
			return nil, err
		}
		out := &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
			Body      wire.Session
		}{Body: session}
		if !in.Body.Bearer {
			out.SetCookie = s.cookie(session.Token, session.Until)
			out.Body.Token = ""
		}
		return out, nil
	})
	operation(s, "log-out", http.MethodDelete, "/session", "Log out", func(ctx context.Context, _ service.Actor, _ *struct{}) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
	}, error) {
		return &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}{s.cookie("", time.Unix(1, 0))}, s.service.LogOut(ctx, tokenOf(ctx))
	})
	operation(s, "whoami", http.MethodGet, "/me", "Show who is logged in", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.Session], error) {
		me, err := s.service.WhoAmI(ctx, a)
		return &answer[wire.Session]{Body: me}, err
	})
	operation(s, "list-people", http.MethodGet, "/people", "List the people of the firm", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.Person], error) {
		people, err := s.service.People(ctx, a)
		return &answer[[]wire.Person]{Body: people}, err
	})
	operation(s, "list-kinds", http.MethodGet, "/kinds", "Describe the kinds of record", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.Kind], error) {
		kinds, err := s.service.Kinds(ctx, a)
		return &answer[[]wire.Kind]{Body: kinds}, err
	})
	operation(s, "today", http.MethodGet, "/today", "List what there is for the person to do", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.Today], error) {
		today, err := s.service.Today(ctx, a)
		return &answer[wire.Today]{Body: today}, err
	})
}

// listWords puts the words that lists are narrowed and sorted by into their operation: they are declared
// with the columns.
func (s *Server) listWords() {
	for _, p := range s.api.OpenAPI().Paths[Base+"/households"].Get.Parameters {
		var words []any
		switch p.Name {
		case "with":
			for _, w := range wire.HomesWith {
				words = append(words, w)
			}
			p.Schema.Items.Enum = words
			p.Schema.Items.PrecomputeMessages()
		case "sort":
			for _, w := range wire.HomesBy {
				words = append(words, w, "-"+w)
			}
			p.Schema.Enum = words
			p.Schema.PrecomputeMessages()
		}
	}
}

func (s *Server) cookie(token string, until time.Time) http.Cookie {
	return http.Cookie{Name: s.cookieName(), Value: token, Path: "/", Expires: until, HttpOnly: true, Secure: s.secure, SameSite: http.SameSiteStrictMode}
}

func (s *Server) registerHouseholds() {
	operation(s, "list-households", http.MethodGet, "/households", "List households", func(ctx context.Context, a service.Actor, in *struct {
		Words     string   `query:"words" maxLength:"120" doc:"Words that all occur in the home, each as the beginning of a word: codes, names, addresses, serial numbers, MAC addresses in any form, issue texts, telephone numbers."`
		Custodian string   `query:"custodian" doc:"Log-in name or id of the custodian."`
		With      []string `query:"with" doc:"What the homes have, separated by commas; all must apply. \"due\" is a date within a fortnight, \"review\" a waiver due for review."`
		Sort      string   `query:"sort" doc:"What the list is sorted by, with - in front to reverse it; the code by default."`
		After     string   `query:"after" doc:"Code of the home after which the list continues."`
		Limit     int      `query:"limit" minimum:"1" maximum:"200" default:"50" doc:"Maximum number of rows in the answer."`
	}) (*answer[[]wire.HouseholdRow], error) {
		rows, err := s.service.Households(ctx, a, wire.HomesQuery{Words: in.Words, Custodian: in.Custodian, With: in.With, Sort: in.Sort, After: in.After, Limit: in.Limit})
		return &answer[[]wire.HouseholdRow]{Body: rows}, err
	})
	s.listWords()
	operation(s, "begin-household", http.MethodPost, "/households", "Add a household", func(ctx context.Context, a service.Actor, in *struct {
		Keyed
		Body wire.NewHousehold
	}) (*answer[dossier.Household], error) {
		d, err := s.service.Begin(ctx, a, in.Body, request(ctx, in.Keyed, in.Body))
		if err != nil {
			return nil, err
		}
		return &answer[dossier.Household]{ETag: etag(d.Home().Revision), Body: d.Home()}, nil
	})
	operation(s, "show-overview", http.MethodGet, "/households/{code}/overview", "Summarise a household: proof, open issues, custodian, what to do next", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Overview], error) {
		o, err := s.service.Overview(ctx, a, in.Code)
		return &answer[wire.Overview]{ETag: etag(o.Revision), Body: o}, err
	})
	operation(s, "assign-household", http.MethodPost, "/households/{code}/assign", "Make a person the custodian, with a reason", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.Assign
	}) (*struct{}, error) {
		return &struct{}{}, s.service.Assign(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
	})
	operation(s, "list-journal", http.MethodGet, "/households/{code}/journal", "List the journal, newest first", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Before uint64    `query:"before" doc:"Revision before which the list continues."`
		Record string    `query:"record" doc:"Id of a record."`
		By     string    `query:"by" doc:"Id of a person."`
		Since  time.Time `query:"since" doc:"Only entries from this time on."`
		Word   string    `query:"word" maxLength:"80" doc:"Text in a value or in the reason."`
		Limit  int       `query:"limit" minimum:"1" maximum:"200" default:"50" doc:"Maximum number of entries in the answer."`
	}) (*answer[[]wire.JournalEntry], error) {
		entries, err := s.service.Journal(ctx, a, in.Code, service.JournalQuery{Before: in.Before, Record: in.Record,
			By: dossier.PersonID(in.By), Since: in.Since, Word: in.Word, Limit: in.Limit})
		return &answer[[]wire.JournalEntry]{Body: entries}, err
	})
	operation(s, "erase-personal", http.MethodPost, "/households/{code}/erase", "Erase the household's personal data for good", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.Erase
	}) (*answer[wire.ErasedData], error) {
		done, err := s.service.ErasePersonal(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.ErasedData]{Body: done}, err
	})
	operation(s, "undo-revision", http.MethodPost, "/households/{code}/journal/{revision}/undo", "Undo all entries of a revision, or none", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Revision uint64 `path:"revision" minimum:"1" doc:"The revision."`
	}) (*answer[wire.Undone], error) {
		done, err := s.service.UndoRevision(ctx, a, in.Code, in.Revision, request(ctx, in.Keyed, nil))
		return &answer[wire.Undone]{Body: done}, err
	})
	operation(s, "undo-entry", http.MethodPost, "/households/{code}/journal/{revision}/{n}/undo", "Undo one entry", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Revision uint64 `path:"revision" minimum:"1" doc:"Revision of the entry."`
		N        int    `path:"n" minimum:"1" doc:"Position of the entry within its revision."`
	}) (*answer[wire.Undone], error) {
		done, err := s.service.UndoEntry(ctx, a, in.Code, in.Revision, in.N, request(ctx, in.Keyed, nil))
		return &answer[wire.Undone]{Body: done}, err
	})
}

func (s *Server) registerProving() {
	operation(s, "show-drawing", http.MethodGet, "/households/{code}/drawing", "Show the home's network by floor and room, for a drawing", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Drawing], error) {
		v, err := s.service.Drawing(ctx, a, in.Code)
		return &answer[wire.Drawing]{Body: v}, err
	})
	operation(s, "show-address-plan", http.MethodGet, "/households/{code}/address-plan", "Show what each address in the home is used for", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.AddressPlan], error) {
		v, err := s.service.AddressPlan(ctx, a, in.Code)
		return &answer[wire.AddressPlan]{Body: v}, err
	})
	operation(s, "show-survey", http.MethodGet, "/households/{code}/survey", "Show the survey walk: what is there, missing and wrong in each room", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Survey], error) {
		v, err := s.service.Survey(ctx, a, in.Code)
		return &answer[wire.Survey]{Body: v}, err
	})
	operation(s, "answer-gap", http.MethodPost, "/households/{code}/survey/answers", "Say that nothing is to be recorded for a gap, or withdraw that", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.AnswerGap
	}) (*struct{}, error) {
		return nil, s.service.AnswerGap(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
	})
	operation(s, "list-findings", http.MethodGet, "/households/{code}/findings", "List findings", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Finding], error) {
		f, err := s.service.Findings(ctx, a, in.Code)
		return &answer[[]wire.Finding]{Body: f}, err
	})
	operation(s, "list-tests", http.MethodGet, "/households/{code}/tests", "Show the test plan with the status of each test", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Plan], error) {
		p, err := s.service.Plan(ctx, a, in.Code)
		return &answer[wire.Plan]{ETag: etag(p.Revision), Body: p}, err
	})
	operation(s, "preview-changes", http.MethodPost, "/households/{code}/preview", "Tell what changes would do to what is proven, without storing them", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.PreviewChanges
	}) (*answer[wire.Preview], error) {
		p, err := s.service.Preview(ctx, a, in.Code, s.steps(in.Body.Changes))
		return &answer[wire.Preview]{Body: p}, err
	})
	operation(s, "make-supposed", http.MethodPost, "/households/{code}/preview/make", "Make changes that were supposed, all in one write or none", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.MakeSupposed
	}) (*answer[wire.Made], error) {
		made, err := s.service.MakeSupposed(ctx, a, in.Code, in.Body.AsOf, s.steps(in.Body.Changes), request(ctx, in.Keyed, in.Body))
		return &answer[wire.Made]{Body: made}, err
	})
	operation(s, "run-tests", http.MethodPost, "/households/{code}/tests/run", "Run automatic tests from this machine; returns at once", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.Run
	}) (*answer[wire.Job], error) {
		job, err := s.service.RunTests(ctx, a, in.Code, in.Body)
		return &answer[wire.Job]{Body: job}, err
	})
	operation(s, "watch-source", http.MethodPost, "/households/{code}/tests/watch", "Watch a source from this machine while a person carries out a test; returns at once", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.Watch
	}) (*answer[wire.Job], error) {
		job, err := s.service.Watch(ctx, a, in.Code, in.Body)
		return &answer[wire.Job]{Body: job}, err
	})
	operation(s, "list-samples", http.MethodGet, "/samples", "List the sample clips that tests are done with", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.Sample], error) {
		list, err := s.service.Samples(ctx, a)
		return &answer[[]wire.Sample]{Body: list}, err
	})
	operation(s, "show-coverage", http.MethodGet, "/households/{code}/tests/coverage", "Show how the proof came about, room by room and day by day", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.CoverageHistory], error) {
		out, err := s.service.Coverage(ctx, a, in.Code)
		return &answer[wire.CoverageHistory]{Body: out}, err
	})
	operation(s, "show-nightly", http.MethodGet, "/households/{code}/tests/nightly", "Show when tests are repeated overnight, and what came of the last time", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Nightly], error) {
		n, err := s.service.Nightly(ctx, a, in.Code)
		return &answer[wire.Nightly]{Body: n}, err
	})
	operation(s, "set-nightly", http.MethodPut, "/households/{code}/tests/nightly", "Set at what time this machine repeats tests overnight", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.SetNightly
	}) (*answer[wire.Nightly], error) {
		n, err := s.service.SetNightly(ctx, a, in.Code, in.Body)
		return &answer[wire.Nightly]{Body: n}, err
	})
	operation(s, "list-jobs", http.MethodGet, "/households/{code}/jobs", "List jobs, newest first", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Job], error) {
		jobs, err := s.service.Jobs(ctx, a, in.Code)
		return &answer[[]wire.Job]{Body: jobs}, err
	})
	operation(s, "show-job", http.MethodGet, "/households/{code}/jobs/{id}", "Show a job, and wait for it to end if asked", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Wait int `query:"wait" minimum:"0" maximum:"30" doc:"How many seconds to wait for it to end."`
	}) (*answer[wire.Job], error) {
		job, err := s.service.Job(ctx, a, in.Code, in.ID, time.Duration(in.Wait)*time.Second)
		return &answer[wire.Job]{Body: job}, err
	})
	operation(s, "stop-job", http.MethodPost, "/households/{code}/jobs/{id}/stop", "Stop a job; what it has recorded is kept", func(ctx context.Context, a service.Actor, in *OneOf) (*answer[wire.Job], error) {
		job, err := s.service.StopJob(ctx, a, in.Code, in.ID)
		return &answer[wire.Job]{Body: job}, err
	})
	operation(s, "record-attempt", http.MethodPost, "/households/{code}/attempts", "Record an attempt", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.NewAttempt
	}) (*answer[wire.AttemptMade], error) {
		made, err := s.service.RecordAttempt(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.AttemptMade]{Body: made}, err
	})
	operation(s, "record-round", http.MethodPost, "/households/{code}/attempts/round", "Record what was seen at several tests in one go", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.NewRound
	}) (*answer[wire.RoundMade], error) {
		made, err := s.service.RecordRound(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.RoundMade]{Body: made}, err
	})
	operation(s, "list-needed", http.MethodGet, "/households/{code}/needed", "List prerequisites in the order of work", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Prerequisite], error) {
		p, err := s.service.Needed(ctx, a, in.Code)
		return &answer[[]wire.Prerequisite]{Body: p}, err
	})
	for _, t := range []struct {
		verb, summary string
		do            func(context.Context, service.Actor, string, wire.Tick, service.Request) error
	}{
		{"tick", "Tick a prerequisite as done", s.service.Tick},
		{"refuse", "Note that a prerequisite was refused", s.service.Refuse},
		{"untick", "Take a tick back", s.service.Untick},
	} {
		operation(s, t.verb+"-prerequisite", http.MethodPost, "/households/{code}/needed/"+t.verb, t.summary, func(ctx context.Context, a service.Actor, in *struct {
			InHome
			Keyed
			Body wire.Tick
		}) (*struct{}, error) {
			return &struct{}{}, t.do(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		})
	}
}

func (s *Server) registerIssues() {
	operation(s, "open-issue", http.MethodPost, "/households/{code}/issues", "Open an issue", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.NewIssue
	}) (*answer[wire.Issue], error) {
		i, err := s.service.OpenIssue(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.Issue]{Body: i}, err
	})
	operation(s, "view-issue", http.MethodGet, "/households/{code}/issues/{id}/view", "Show an issue with names and possible steps", func(ctx context.Context, a service.Actor, in *OneOf) (*answer[wire.Issue], error) {
		i, err := s.service.Issue(ctx, a, in.Code, dossier.ID[dossier.Issue](in.ID))
		return &answer[wire.Issue]{ETag: etag(i.Record.Revision), Body: i}, err
	})
	operation(s, "list-suspects", http.MethodGet, "/households/{code}/suspects", "List the faults that would explain what is known, and what to do next", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Issue string `query:"issue" doc:"Id of an issue: what its caller said then counts too, and passes from before it began hardly do."`
	}) (*answer[wire.Suspects], error) {
		out, err := s.service.Suspects(ctx, a, in.Code, dossier.ID[dossier.Issue](in.Issue))
		return &answer[wire.Suspects]{Body: out}, err
	})
	operation(s, "answer-issue", http.MethodPost, "/households/{code}/issues/{id}/answer", "Note what the caller said to a question, or take it back", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Keyed
		Body wire.IssueAnswer
	}) (*answer[wire.Suspects], error) {
		out, err := s.service.AnswerIssue(ctx, a, in.Code, dossier.ID[dossier.Issue](in.ID), in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.Suspects]{Body: out}, err
	})
	for verb, summary := range map[string]string{"take": "Take an issue in hand", "next": "Set the next step", "try": "Note something that was tried", "wait": "Put an issue on hold",
		"give": "Give an issue to someone else", "remedy": "Record the remedy", "close": "Close an issue, proven by a test or with a reason", "reopen": "Reopen an issue", "join": "Say that an issue is one more symptom of another"} {
		operation(s, verb+"-issue", http.MethodPost, "/households/{code}/issues/{id}/"+verb, summary, func(ctx context.Context, a service.Actor, in *struct {
			OneOf
			Keyed
			Body wire.IssueStep
		}) (*answer[wire.Issue], error) {
			i, err := s.service.StepIssue(ctx, a, in.Code, dossier.ID[dossier.Issue](in.ID), verb, in.Body, request(ctx, in.Keyed, in.Body))
			return &answer[wire.Issue]{Body: i}, err
		})
	}
}

func (s *Server) registerHandovers() {
	operation(s, "draft-handover", http.MethodPost, "/households/{code}/handovers", "Draft a handover", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.NewHandover
	}) (*answer[wire.Handover], error) {
		h, err := s.service.DraftHandover(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.Handover]{Body: h}, err
	})
	operation(s, "view-handover", http.MethodGet, "/households/{code}/handovers/{id}/view", "Show a handover with names and possible steps", func(ctx context.Context, a service.Actor, in *OneOf) (*answer[wire.Handover], error) {
		h, err := s.service.Handover(ctx, a, in.Code, dossier.ID[dossier.Handover](in.ID))
		return &answer[wire.Handover]{ETag: etag(h.Record.Revision), Body: h}, err
	})
	for verb, summary := range map[string]string{"offer": "Offer a handover to its receiver", "answer": "Answer a question", "confirm": "Read a point back",
		"ask": "Ask about a point", "accept": "Accept a handover and become the custodian", "return": "Return a handover to the giver"} {
		operation(s, verb+"-handover", http.MethodPost, "/households/{code}/handovers/{id}/"+verb, summary, func(ctx context.Context, a service.Actor, in *struct {
			OneOf
			Keyed
			Body wire.HandoverStep
		}) (*answer[wire.Handover], error) {
			h, err := s.service.StepHandover(ctx, a, in.Code, dossier.ID[dossier.Handover](in.ID), verb, in.Body, request(ctx, in.Keyed, in.Body))
			return &answer[wire.Handover]{Body: h}, err
		})
	}
}

func (s *Server) registerSecrets() {
	operation(s, "add-secret", http.MethodPost, "/households/{code}/secrets", "Store a secret", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.NewSecret
	}) (*answer[dossier.Secret], error) {
		made, err := s.service.AddSecret(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[dossier.Secret]{ETag: etag(made.Revision), Body: made}, err
	})
	operation(s, "rotate-secret", http.MethodPost, "/households/{code}/secrets/{id}/rotate", "Replace a secret by a new one", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Keyed
		Body wire.SecretBody
	}) (*answer[dossier.Secret], error) {
		now, err := s.service.RotateSecret(ctx, a, in.Code, dossier.ID[dossier.Secret](in.ID), in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[dossier.Secret]{ETag: etag(now.Revision), Body: now}, err
	})
	operation(s, "reveal-secret", http.MethodPost, "/households/{code}/secrets/{id}/reveal", "Show a secret; the reason stays in the journal", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Body wire.Why
	}) (*answer[wire.SecretShown], error) {
		shown, err := s.service.RevealSecret(ctx, a, in.Code, dossier.ID[dossier.Secret](in.ID), in.Body.Why)
		return &answer[wire.SecretShown]{Body: shown}, err
	})
}

func (s *Server) registerWaivers() {
	operation(s, "waive-test", http.MethodPost, "/households/{code}/waivers/set", "Waive a test", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.NewWaiver
	}) (*answer[wire.Test], error) {
		t, err := s.service.WaiveTest(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.Test]{Body: t}, err
	})
	operation(s, "require-test", http.MethodPost, "/households/{code}/waivers/end", "End the waiver of a test", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.TestNamed
	}) (*answer[wire.Test], error) {
		t, err := s.service.RequireTest(ctx, a, in.Code, in.Body.Test, request(ctx, in.Keyed, in.Body))
		return &answer[wire.Test]{Body: t}, err
	})
}
