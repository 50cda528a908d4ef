package httpapi

import (
	"context"
	"net/http"

	"kaiku/core/contents"
	"kaiku/service"
	"kaiku/wire"
)

func (s *Server) registerContents() {
	operation(s, "read-folder", http.MethodPost, "/households/{code}/folders/{id}/contents/read", "Read what lies in a folder from this Kaiku; returns at once", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Body wire.ReadFolder
	}) (*answer[wire.Job], error) {
		v, err := s.service.ReadFolder(ctx, a, in.Code, in.ID, in.Body)
		return &answer[wire.Job]{Body: v}, err
	})
	operation(s, "show-contents", http.MethodGet, "/households/{code}/folders/{id}/contents", "Show what the newest reading of a folder found", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		wire.ContentsQuery
	}) (*answer[wire.FolderContents], error) {
		v, err := s.service.Contents(ctx, a, in.Code, in.ID, in.ContentsQuery)
		return &answer[wire.FolderContents]{Body: v}, err
	})
	operation(s, "record-contents", http.MethodPost, "/households/{code}/folders/{id}/contents/record", "Record the mix of formats and the number of items that a reading found", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Keyed
		Body wire.RecordContents
	}) (*answer[wire.ContentsRecorded], error) {
		v, err := s.service.RecordContents(ctx, a, in.Code, in.ID, in.Body.Read, request(ctx, in.Keyed, in.Body))
		return &answer[wire.ContentsRecorded]{Body: v}, err
	})
	operation(s, "record-listing", http.MethodPost, "/households/{code}/folders/{id}/contents/record-listing", "Record which titles are missing from the server's list, by a reading and the list that came with it", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Keyed
		Body wire.RecordContents
	}) (*answer[wire.ContentsRecorded], error) {
		v, err := s.service.RecordListing(ctx, a, in.Code, in.ID, in.Body.Read, request(ctx, in.Keyed, in.Body))
		return &answer[wire.ContentsRecorded]{Body: v}, err
	})
	op := s.describe("add-contents", http.MethodPost, "/households/{code}/folders/{id}/contents", "Hand in what a laptop in the home has read of a folder")
	op.MaxBodyBytes = service.MaxContents
	op.Metadata["members"] = 1_000_000 // 20,000 items with their formats
	register(s, op, func(ctx context.Context, in *struct {
		OneOf
		Body contents.Contents
	}) (*answer[wire.FolderContents], error) {
		v, err := s.service.AddContents(ctx, actorOf(ctx), in.Code, in.ID, in.Body)
		return &answer[wire.FolderContents]{Body: v}, err
	})
}
