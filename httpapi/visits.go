package httpapi

import (
	"context"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"kaiku/service"
	"kaiku/wire"
)

func (s *Server) registerVisits() {
	operation(s, "show-kit", http.MethodGet, "/households/{code}/kit", "List what to bring to the next visit and what to prepare", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Kit], error) {
		v, err := s.service.Kit(ctx, a, in.Code)
		return &answer[wire.Kit]{Body: v}, err
	})
	operation(s, "set-ready", http.MethodPost, "/households/{code}/kit/ready", "Mark an item for the next visit as ready", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.SupplyReady
	}) (*struct{}, error) {
		return &struct{}{}, s.service.SetReady(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
	})
	operation(s, "show-departure", http.MethodGet, "/households/{code}/departure", "List what needs doing before leaving", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Remark], error) {
		v, err := s.service.Departure(ctx, a, in.Code)
		return &answer[[]wire.Remark]{Body: v}, err
	})
	operation(s, "show-arrival", http.MethodGet, "/households/{code}/arrival", "Show where this Kaiku's machine is on the network and what differs from the record", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Remark], error) {
		v, err := s.service.Arrival(ctx, a, in.Code)
		return &answer[[]wire.Remark]{Body: v}, err
	})
	operation(s, "add-feed", http.MethodPost, "/me/calendar", "Create a private address for a calendar of your visits", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.FeedMade], error) {
		v, err := s.service.NewFeed(ctx, a)
		return &answer[wire.FeedMade]{Body: v}, err
	})
	s.echo.GET("/calendar/:secret", s.calendar)
}

// calendar serves a person's calendar to whoever has its secret address.
func (s *Server) calendar(c *echo.Context) error {
	origin := s.origin
	if origin == "" {
		origin = c.Scheme() + "://" + c.Request().Host
	}
	b, err := s.service.Feed(c.Request().Context(), strings.TrimSuffix(c.Param("secret"), ".ics"), origin)
	if err != nil {
		return s.problemOf(c.Request().Context(), "", err)
	}
	c.Response().Header().Set("Cache-Control", "private, max-age=300")
	return c.Blob(http.StatusOK, "text/calendar; charset=utf-8", b)
}
