package service

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"kaiku/core/custody"
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
		out[i] = wire.JournalEntry{Entry: e, ByName: people.Name(e.By), Label: views.LabelThen(d, e), Plain: e.Undoable(), Follows: custody.WasOutdated(e), Members: wording.Members(e, func(id string) string { return views.Said(d, people, id) })}
	}
	return out, err
}

// UndoEntry writes the reverse of one journal entry; both stay in the journal.
func (s *Service) UndoEntry(ctx context.Context, a Actor, code string, revision uint64, n int, r Request) (wire.Undone, error) {
	number := fmt.Sprintf("%d.%d", revision, n)
	return s.undo(ctx, a, "undo-entry", code, revision, "entry "+number, number, r, func(e dossier.Entry) bool { return e.N == n })
}

// UndoRevision writes the reverse of all entries of a revision, such as everything that was recorded from a
// scan at once: all of it or nothing.
func (s *Service) UndoRevision(ctx context.Context, a Actor, code string, revision uint64, r Request) (wire.Undone, error) {
	number := fmt.Sprint(revision)
	return s.undo(ctx, a, "undo-revision", code, revision, "revision "+number, number, r, func(dossier.Entry) bool { return true })
}

func (s *Service) undo(ctx context.Context, a Actor, operation, code string, revision uint64, what, number string, r Request, of func(dossier.Entry) bool) (wire.Undone, error) {
	d, err := s.Home(ctx, a, operation, code)
	if err != nil {
		return wire.Undone{}, err
	}
	entries, err := s.store.Journal(ctx, d.Home().ID, store.JournalQuery{After: revision - 1, Before: revision + 1})
	if err != nil {
		return wire.Undone{}, err
	}
	entries = slices.DeleteFunc(entries, func(e dossier.Entry) bool { return !of(e) })
	again := len(entries) > 1 && slices.ContainsFunc(entries, custody.WasOutdated)
	if again { // it followed from the rest, and undoing the rest is one more change
		entries = slices.DeleteFunc(entries, custody.WasOutdated)
	}
	if len(entries) == 0 {
		return wire.Undone{}, refuse("no-such-entry", "entry", number)
	}
	w, err := s.write(ctx, a, operation, code, "undo of "+what, r, func(d *dossier.Dossier) error {
		for _, e := range slices.Backward(entries) { // what was added last may belong to what was added before
			if s.slipped(a, e) {
				dossier.RemoveRecord(d, e.Subject)
				continue
			}
			switch err := dossier.Undo(d, e); {
			case errors.Is(err, dossier.ErrNotUndoable):
				return refuse("not-undoable", "entry", fmt.Sprintf("%d.%d", e.Revision, e.N))
			case errors.Is(err, dossier.ErrChangedSince):
				return refuse("changed-since", "entry", fmt.Sprintf("%d.%d", e.Revision, e.N), "label", views.LabelThen(d, e))
			case err != nil:
				return err
			}
		}
		return nil
	})
	if err != nil {
		return wire.Undone{}, err
	}
	return wire.Undone{Revision: w.Dossier.Revision, Label: views.LabelThen(w.Dossier, entries[0]), Entries: len(entries), OfferAgain: again}, nil
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

// slipTime is for how long a result that somebody recorded by mistake can be taken back: after that it may have been read.
const slipTime = time.Minute

// slipped reports whether an entry is a result that the same person recorded just now.
func (s *Service) slipped(a Actor, e dossier.Entry) bool {
	return e.Subject.Kind == "attempt" && e.Act == dossier.Added && e.By == a.ID && s.now().Sub(e.At) <= slipTime
}
