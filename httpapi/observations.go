package httpapi

import (
	"context"
	"net/http"

	"kaiku/core/matching"
	"kaiku/service"
	"kaiku/wire"
)

func (s *Server) registerObservations() {
	operation(s, "gather-observations", http.MethodPost, "/households/{code}/observations/gather", "Look at the home's network from this Kaiku; returns at once", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Job], error) {
		v, err := s.service.Gather(ctx, a, in.Code)
		return &answer[wire.Job]{Body: v}, err
	})
	operation(s, "list-observations", http.MethodGet, "/households/{code}/observations", "What was seen on the network, beside the record", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Observations], error) {
		v, err := s.service.Observations(ctx, a, in.Code)
		return &answer[wire.Observations]{Body: v}, err
	})
	operation(s, "take-observations", http.MethodPost, "/households/{code}/observations/take", "Take over into the record what was seen", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.TakeOver
	}) (*answer[wire.TakenOver], error) {
		v, err := s.service.TakeOver(ctx, a, in.Code, in.Body, request(in.Keyed, "take-observations "+in.Code, in.Body))
		return &answer[wire.TakenOver]{Body: v}, err
	})
	operation(s, "say-of-observations", http.MethodPost, "/households/{code}/observations/say", "Say which device a host is, or set what was seen aside", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.SayOfHosts
	}) (*answer[wire.Observations], error) {
		v, err := s.service.SayOfHosts(ctx, a, in.Code, in.Body)
		return &answer[wire.Observations]{Body: v}, err
	})
	operation(s, "look-into-source", http.MethodPost, "/households/{code}/sources/{id}/look", "Look into a source as devices would", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Body wire.LookInto
	}) (*answer[wire.SourceLook], error) {
		v, err := s.service.LookInto(ctx, a, in.Code, in.ID, in.Body)
		return &answer[wire.SourceLook]{Body: v}, err
	})
	op := s.describe("add-gathering", http.MethodPost, "/households/{code}/observations", "Keep what a laptop in the home has seen")
	op.MaxBodyBytes = service.MaxGathering
	register(s, op, func(ctx context.Context, in *struct {
		InHome
		Body matching.Gathering
	}) (*answer[wire.Observations], error) {
		v, err := s.service.AddGathering(ctx, actorOf(ctx), in.Code, in.Body)
		return &answer[wire.Observations]{Body: v}, err
	})
}
