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
	operation(s, "show-kit", http.MethodGet, "/households/{code}/kit", "What the next visit must bring and have ready", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Kit], error) {
		v, err := s.service.Kit(ctx, a, in.Code)
		return &answer[wire.Kit]{Body: v}, err
	})
	operation(s, "set-ready", http.MethodPost, "/households/{code}/kit/ready", "Say whether a thing is ready for the next visit", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.SupplyReady
	}) (*struct{}, error) {
		return &struct{}{}, s.service.SetReady(ctx, a, in.Code, in.Body, request(in.Keyed, "set-ready "+in.Code, in.Body))
	})
	operation(s, "show-leaving", http.MethodGet, "/households/{code}/leaving", "What is still to be settled before the door closes", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Remark], error) {
		v, err := s.service.Leaving(ctx, a, in.Code)
		return &answer[[]wire.Remark]{Body: v}, err
	})
	operation(s, "show-here", http.MethodGet, "/households/{code}/here", "Where this Kaiku's machine is, and what differs from the record", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Remark], error) {
		v, err := s.service.Here(ctx, a, in.Code)
		return &answer[[]wire.Remark]{Body: v}, err
	})
	operation(s, "add-feed", http.MethodPost, "/me/calendar", "Make a secret address for a calendar of one's visits", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.FeedMade], error) {
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
