package httpapi

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
	"kaiku/wording"
)

// problem makes the answer for a row of the error table.
func problem(code string, values map[string]string) *wire.Problem {
	return (&service.Refusal{Code: code, Values: values}).Problem()
}

// problemOf turns what a use-case returned into the answer. What is not foreseen is logged with
// the request's number, and tells nothing of the inside.
func (s *Server) problemOf(ctx context.Context, code string, err error) error {
	var p *wire.Problem
	var refusal *service.Refusal
	var faults dossier.Faults
	switch {
	case errors.As(err, &p):
		return p
	case errors.As(err, &refusal):
		p = refusal.Problem()
		if len(refusal.Changes) > 0 {
			p.Changes = s.changesOf(ctx, code, refusal.Changes)
		}
		if p.RetryAfter > 0 {
			return huma.ErrorWithHeaders(p, http.Header{"Retry-After": {strconv.Itoa(p.RetryAfter)}})
		}
		return p
	case errors.As(err, &faults):
		return faultsProblem(faults)
	}
	request := requestNumber(ctx)
	if ctx.Err() != nil {
		return problem("internal", map[string]string{"request": request}) // the client is gone and reads no answer
	}
	s.log.ErrorContext(ctx, "failed", "request", request, "error", err)
	if trouble := service.TroubleOf(err); trouble != "" && wording.Errors[trouble].Status > 0 {
		return problem(trouble, nil)
	}
	return problem("internal", map[string]string{"request": request})
}

func (s *Server) changesOf(ctx context.Context, code string, entries []dossier.Entry) []wire.Change {
	say, err := s.service.Said(ctx, code)
	if err != nil {
		return nil
	}
	var out []wire.Change
	for _, e := range entries {
		out = append(out, wire.Change{Revision: e.Revision, At: e.At, By: say(string(e.By)), Members: wording.Members(e, say)})
	}
	return out
}

func faultsProblem(faults dossier.Faults) *wire.Problem {
	p := problem("not-valid", map[string]string{"n": things(len(faults))})
	if faults[0].Code == dossier.FaultStillUsed {
		p = problem("still-used", map[string]string{"label": "It"})
	}
	for _, f := range faults[:min(len(faults), mostFaults)] {
		p.Faults = append(p.Faults, wire.Fault{In: "body", Pointer: f.Pointer, Code: string(f.Code), Detail: wording.Fault(f), Subject: f.Subject})
	}
	return p
}

// mostFaults is how many faults of a request are listed.
const mostFaults = 50

// bodyLimit finds the limit in what huma says of a body that is too large.
var bodyLimit = regexp.MustCompile(`limit=(\d+)`)

// size writes a number of bytes.
func size(n int) string {
	if n < 1<<20 {
		return strconv.Itoa(n>>10) + " kB"
	}
	return strconv.Itoa(n>>20) + " MB"
}

func things(n int) string {
	if n == 1 {
		return "one error"
	}
	return fmt.Sprintf("%d errors", n)
}

func init() {
	huma.DefaultArrayNullable = false
	huma.ValidateStrictCasing = true
	huma.NewError = newError
}

// newError gives huma's own errors the form of ours.
func newError(status int, message string, errs ...error) huma.StatusError {
	var p *wire.Problem
	switch status {
	case http.StatusRequestEntityTooLarge:
		limit := maxBody
		if m := bodyLimit.FindStringSubmatch(message); m != nil {
			limit, _ = strconv.Atoi(m[1])
		}
		p = problem("too-large", map[string]string{"limit": size(limit)})
	case http.StatusUnprocessableEntity:
		p = problem("not-valid", map[string]string{"n": things(len(errs))})
	case http.StatusInternalServerError:
		p = problem("internal", nil)
	default:
		p = problem("bad-request", map[string]string{"detail": message})
		p.Status = status
	}
	for _, err := range errs[:min(len(errs), mostFaults)] {
		if err == nil {
			continue
		}
		f := wire.Fault{In: "body", Code: "schema"}
		var d huma.ErrorDetailer
		if errors.As(err, &d) {
			detail := d.ErrorDetail()
			f.In, f.Pointer = place(detail.Location)
			f.Detail = detail.Message
		} else {
			f.Detail = err.Error()
		}
		p.Faults = append(p.Faults, f)
	}
	return p
}

var steps = regexp.MustCompile(`[^.\[\]]+`)

// place turns huma's body.rooms[0].name into the part of the request and a JSON pointer.
func place(location string) (in, where string) {
	in, rest, _ := strings.Cut(location, ".")
	switch in {
	case "path", "query", "header":
		return in, rest
	}
	if in != "body" {
		return "body", ""
	}
	return "body", pointer(steps.FindAllString(rest, -1))
}
