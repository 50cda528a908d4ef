package httpapi

import (
	"context"
	"net/http"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// OnePerson is the place of someone of the firm, or of one of one's own log-ins.
type OnePerson struct {
	ID string `path:"id" format:"uuid" doc:"Id."`
}

func (s *Server) registerFirm() {
	operation(s, "add-person", http.MethodPost, "/people", "Add a person to the firm", func(ctx context.Context, a service.Actor, in *struct{ Body wire.NewPerson }) (*answer[wire.PersonMade], error) {
		p, err := s.service.NewPerson(ctx, a, in.Body)
		return &answer[wire.PersonMade]{Body: p}, err
	})
	operation(s, "change-person", http.MethodPatch, "/people/{id}", "Change, suspend or restore a person", func(ctx context.Context, a service.Actor, in *struct {
		OnePerson
		Body wire.PersonChange
	}) (*answer[wire.Person], error) {
		p, err := s.service.ChangePerson(ctx, a, dossier.PersonID(in.ID), in.Body)
		return &answer[wire.Person]{Body: p}, err
	})
	operation(s, "reset-person", http.MethodPost, "/people/{id}/reset", "Give a person a new password", func(ctx context.Context, a service.Actor, in *OnePerson) (*answer[wire.PersonMade], error) {
		p, err := s.service.ResetPerson(ctx, a, dossier.PersonID(in.ID))
		return &answer[wire.PersonMade]{Body: p}, err
	})
	operation(s, "change-password", http.MethodPost, "/me/password", "Change your own password; all log-ins end", func(ctx context.Context, a service.Actor, in *struct{ Body wire.NewPassword }) (*struct{}, error) {
		return &struct{}{}, s.service.ChangePassword(ctx, a, in.Body)
	})
	operation(s, "list-logins", http.MethodGet, "/me/logins", "List your own log-ins and tokens", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.LogInRow], error) {
		l, err := s.service.LogIns(ctx, a, tokenOf(ctx))
		return &answer[[]wire.LogInRow]{Body: l}, err
	})
	operation(s, "end-login", http.MethodDelete, "/me/logins/{id}", "End a log-in or token", func(ctx context.Context, a service.Actor, in *OnePerson) (*struct{}, error) {
		return &struct{}{}, s.service.EndLogIn(ctx, a, in.ID)
	})
	operation(s, "add-token", http.MethodPost, "/me/tokens", "Create a token for a program", func(ctx context.Context, a service.Actor, in *struct{ Body wire.NewToken }) (*answer[wire.TokenMade], error) {
		t, err := s.service.NewToken(ctx, a, in.Body)
		return &answer[wire.TokenMade]{Body: t}, err
	})
}
