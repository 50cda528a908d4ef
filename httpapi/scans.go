package httpapi

import (
	"context"
	"net/http"

	"kaiku/core/matching"
	"kaiku/service"
	"kaiku/wire"
)

func (s *Server) registerObservations() {
	operation(s, "run-scan", http.MethodPost, "/households/{code}/scans/run", "Scan the home's network from this Kaiku; returns at once", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.RunScan
	}) (*answer[wire.Job], error) {
		v, err := s.service.Scan(ctx, a, in.Code, in.Body)
		return &answer[wire.Job]{Body: v}, err
	})
	operation(s, "show-scan", http.MethodGet, "/households/{code}/scans", "Show the latest scan, compared with the record", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Observations], error) {
		v, err := s.service.Observations(ctx, a, in.Code)
		return &answer[wire.Observations]{Body: v}, err
	})
	operation(s, "record-scan", http.MethodPost, "/households/{code}/scans/record", "Record results of the latest scan", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.RecordSeen
	}) (*answer[wire.SeenRecorded], error) {
		v, err := s.service.RecordSeen(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[wire.SeenRecorded]{Body: v}, err
	})
	operation(s, "review-scan", http.MethodPost, "/households/{code}/scans/review", "Identify hosts and ignore values", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.ReviewHosts
	}) (*answer[wire.Observations], error) {
		v, err := s.service.ReviewHosts(ctx, a, in.Code, in.Body)
		return &answer[wire.Observations]{Body: v}, err
	})
	operation(s, "browse-source", http.MethodPost, "/households/{code}/sources/{id}/browse", "Browse a source as given devices would", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Body wire.BrowseSource
	}) (*answer[wire.SourceBrowse], error) {
		v, err := s.service.BrowseSource(ctx, a, in.Code, in.ID, in.Body)
		return &answer[wire.SourceBrowse]{Body: v}, err
	})
	op := s.describe("add-scan", http.MethodPost, "/households/{code}/scans", "Hand in a scan made by a laptop on the home's network")
	op.MaxBodyBytes = service.MaxScan
	op.Metadata["members"] = 1_000_000 // the largest scan that is kept has 5,000 hosts
	register(s, op, func(ctx context.Context, in *struct {
		InHome
		Body matching.Scan
	}) (*answer[wire.Observations], error) {
		v, err := s.service.AddScan(ctx, actorOf(ctx), in.Code, in.Body)
		return &answer[wire.Observations]{Body: v}, err
	})
}
