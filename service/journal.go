package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

// JournalQuery selects journal entries. Zero members select all.
type JournalQuery struct {
	Before uint64 // revisions less than this
	Record string // id of a record
	By     dossier.PersonID
	Since  time.Time
	Word   string
	Limit  int
}

// Journal returns entries of a home's journal with names, newest first.
func (s *Service) Journal(ctx context.Context, a Actor, code string, q JournalQuery) ([]wire.JournalEntry, error) {
	d, err := s.Home(ctx, a, "list-journal", code)
	if err != nil {
		return nil, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return nil, err
	}
	entries, err := s.store.Journal(ctx, d.Home().ID, store.JournalQuery{Before: q.Before, Record: q.Record, By: q.By, Since: q.Since, Word: q.Word, Limit: q.Limit, Newest: true})
	out := make([]wire.JournalEntry, len(entries))
	for i, e := range entries {
		out[i] = wire.JournalEntry{Entry: e, ByName: people.Name(e.By), Label: views.LabelThen(d, e), Plain: e.Undoable(), Members: wording.Members(e, func(id string) string { return views.Said(d, people, id) })}
	}
	return out, err
}

// UndoEntry writes the reverse of one journal entry; both stay in the journal.
func (s *Service) UndoEntry(ctx context.Context, a Actor, code string, revision uint64, n int, r Request) (wire.Undone, error) {
	d, err := s.Home(ctx, a, "undo-entry", code)
	if err != nil {
		return wire.Undone{}, err
	}
	entries, err := s.store.Journal(ctx, d.Home().ID, store.JournalQuery{After: revision - 1, Before: revision + 1})
	if err != nil {
		return wire.Undone{}, err
	}
	number := fmt.Sprintf("%d.%d", revision, n)
	i := slices.IndexFunc(entries, func(e dossier.Entry) bool { return e.N == n })
	if i < 0 {
		return wire.Undone{}, refuse("no-such-entry", "entry", number)
	}
	e := entries[i]
	w, err := s.write(ctx, a, "undo-entry", code, "undo of entry "+number, r, func(d *dossier.Dossier) error {
		switch err := dossier.Undo(d, e); {
		case errors.Is(err, dossier.ErrNotUndoable):
			return refuse("not-undoable", "entry", number)
		case errors.Is(err, dossier.ErrChangedSince):
			return refuse("changed-since", "entry", number, "label", views.LabelThen(d, e))
		default:
			return err
		}
	})
	if err != nil {
		return wire.Undone{}, err
	}
	return wire.Undone{Revision: w.Dossier.Revision, Label: views.LabelThen(w.Dossier, e)}, nil
}

// Said returns a function that turns an id of that home into what people call the record.
func (s *Service) Said(ctx context.Context, code string) (func(id string) string, error) {
	d, err := s.home(ctx, code)
	if err != nil {
		return nil, err
	}
	people, err := s.staff(ctx)
	return func(id string) string { return views.Said(d, people, id) }, err
}
