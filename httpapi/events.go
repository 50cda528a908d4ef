package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/wire"
)

// heartbeat keeps proxies from ending a quiet stream. A listener that takes nothing for sendTime is gone.
const (
	heartbeat = 15 * time.Second
	sendTime  = 30 * time.Second
)

// registerEvents serves every write as a server-sent event: `change` with the household, `job` with
// how far long work is, or
// `reset` when the listener has been away too long and must ask for all again.
func (s *Server) registerEvents() {
	op := s.describe("follow-events", http.MethodGet, "/events", "Follow every change as server-sent events")
	op.Responses = map[string]*huma.Response{"200": {Description: "A stream of events named change and reset.", Content: map[string]*huma.MediaType{
		"text/event-stream": {Schema: s.api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[wire.Event](), true, "Event")}}}}
	huma.Register(s.api, op, func(_ context.Context, in *struct {
		LastEventID string `header:"Last-Event-ID" doc:"Id of the newest event that the client has seen."`
	}) (*huma.StreamResponse, error) {
		return &huma.StreamResponse{Body: func(c huma.Context) { s.stream(c, in.LastEventID) }}, nil
	})
}

func (s *Server) stream(c huma.Context, seen string) {
	after, err := strconv.ParseInt(seen, 10, 64)
	fresh := seen == ""
	if fresh {
		after = s.service.LastEvent()
	}
	missed, complete, events, stop := s.service.Follow(after)
	defer stop()
	s.figures.streams.Inc()
	defer s.figures.streams.Dec()
	c.SetHeader("Content-Type", "text/event-stream")
	c.SetHeader("Cache-Control", "no-store")
	c.SetStatus(http.StatusOK)
	control := http.NewResponseController(c.BodyWriter().(http.ResponseWriter))
	send := func(format string, args ...any) bool {
		if err := control.SetWriteDeadline(time.Now().Add(sendTime)); err != nil && !errors.Is(err, http.ErrNotSupported) {
			return false
		}
		_, werr := fmt.Fprintf(c.BodyWriter(), format, args...)
		return werr == nil && control.Flush() == nil
	}
	_ = control.SetReadDeadline(time.Time{}) // nothing more is read: the time for the request ends no stream
	token, ended := tokenOf(c.Context()), s.service.SessionsEnded()
	if !s.service.Holds(c.Context(), token) { // it ended before somebody listened for that
		return
	}
	if !send("retry: 1000\n: following\n\n") {
		return
	}
	if !fresh && (err != nil || !complete) && !send("id: %d\nevent: reset\ndata: {}\n\n", s.service.LastEvent()) {
		return
	}
	for _, e := range missed {
		if !sendEvent(send, e) {
			return
		}
	}
	tick := time.NewTicker(heartbeat)
	defer tick.Stop()
	for {
		select {
		case <-c.Context().Done():
			return
		case <-s.closing:
			return
		case <-tick.C:
			if !s.service.Holds(c.Context(), token) || !send(": still here\n\n") {
				return
			}
		case <-ended:
			if ended = s.service.SessionsEnded(); !s.service.Holds(c.Context(), token) {
				return
			}
		case e, open := <-events:
			if !open || !sendEvent(send, e) {
				return
			}
		}
	}
}

func sendEvent(send func(string, ...any) bool, e wire.Event) bool {
	b, err := json.Marshal(e)
	name := "change"
	if e.Job != nil {
		name = "job"
	}
	return err == nil && send("id: %d\nevent: %s\ndata: %s\n\n", e.ID, name, b)
}

// CloseStreams ends all streams of events, so that a shutdown need not wait for them.
func (s *Server) CloseStreams() { s.closeOnce.Do(func() { close(s.closing) }) }
