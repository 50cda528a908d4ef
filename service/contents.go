package service

import (
	"context"
	"errors"
	"time"

	"golang.org/x/time/rate"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/views"
	"kaiku/wire"
	"kaiku/wording"
)

// MaxContents is the largest reading of a folder that is taken from a laptop, in bytes.
const MaxContents = 32 << 20

// ReadFolder lets this machine read what lies in a folder, as a job. When it is stopped, what was read until then is
// kept, and the next reading goes on from it.
func (s *Service) ReadFolder(ctx context.Context, a Actor, code, id string, in wire.ReadFolder) (wire.Job, error) {
	d, f, err := s.folder(ctx, a, "read-folder", code, id)
	if err != nil {
		return wire.Job{}, err
	}
	if s.prober == nil {
		return wire.Job{}, refuse("not-on-site-folder", "code", code)
	}
	earlier, err := s.contents(ctx, d, f.ID)
	if err != nil {
		return wire.Job{}, err
	}
	what := contents.Wanted{Place: in.Place, HeadsOnly: in.HeadsOnly, User: in.ShareUser, Password: in.SharePassword, Known: earlier.Items}
	return s.startJob(ctx, a, "read-folder", code, 0, func(ctx context.Context, j *job) error {
		told := rate.Sometimes{First: 1, Interval: tellEvery}
		c, err := s.prober.ReadFolder(ctx, d, f, what, func(p contents.Progress) {
			told.Do(func() {
				j.tell(func() { j.Done, j.Of, j.Doing = p.Files, p.Listed, wording.ReadingOf(p) })
			})
		})
		switch {
		case errors.Is(err, contents.ErrPlace):
			return refuse("place-not-opened", "detail", err.Error())
		case err != nil:
			return refuse("place-not-read", "detail", err.Error())
		}
		c.Ended, c.By = dossier.At(s.now()), a.ID
		return s.keepContents(context.WithoutCancel(ctx), code, d, c)
	})
}

// AddContents keeps what a laptop in the home has read of a folder.
func (s *Service) AddContents(ctx context.Context, a Actor, code, id string, c contents.Contents) (wire.FolderContents, error) {
	d, f, err := s.folder(ctx, a, "add-contents", code, id)
	if err != nil {
		return wire.FolderContents{}, err
	}
	if c.Folder != f.ID {
		return wire.FolderContents{}, refuse("not-readable", "detail", "it is of another folder")
	}
	if err := c.Check(); err != nil {
		return wire.FolderContents{}, refuse("not-readable", "detail", err.Error())
	}
	if c.Ended.After(s.now().Add(clockSlack)) || c.Ended.Before(s.now().Add(-store.KeptScans)) {
		return wire.FolderContents{}, refuse("not-readable", "detail", "its time is not possible; check the laptop's clock")
	}
	c.By = a.ID
	if err := s.keepContents(ctx, code, d, c); err != nil {
		return wire.FolderContents{}, err
	}
	return s.Contents(ctx, a, code, id, wire.ContentsQuery{})
}

// keepContents stores a reading in place of the earlier one, of which it keeps what a stopped reading has not reached.
func (s *Service) keepContents(ctx context.Context, code string, d *dossier.Dossier, c contents.Contents) error {
	earlier, err := s.contents(ctx, d, c.Folder)
	if err != nil {
		return err
	}
	if err := s.store.PutContents(ctx, d.Home().ID, c.After(earlier).WithRates(earlier).Cut()); err != nil {
		return err
	}
	s.feed.publish(wire.Event{Household: code, Revision: d.Revision, By: c.By}) // pages ask again
	return nil
}

// Contents returns what the newest reading of a folder found.
func (s *Service) Contents(ctx context.Context, a Actor, code, id string, q wire.ContentsQuery) (wire.FolderContents, error) {
	d, f, err := s.folder(ctx, a, "show-contents", code, id)
	if err != nil {
		return wire.FolderContents{}, err
	}
	c, err := s.contents(ctx, d, f.ID)
	if err != nil {
		return wire.FolderContents{}, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return wire.FolderContents{}, err
	}
	out := views.Contents(d, f, c, q, people)
	out.MayWrite = a.require("read-folder", d, nil) == nil
	return out, nil
}

// RecordContents writes the mix of formats and the number of items that the newest reading found to the folder's
// record. Nothing is recorded of a reading that was stopped, nor of one that is not the newest any more.
func (s *Service) RecordContents(ctx context.Context, a Actor, code, id string, read time.Time, r Request) (wire.ContentsRecorded, error) {
	return s.recordReading(ctx, a, "record-contents", code, id, read, r, func(f dossier.Folder, c contents.Contents) (dossier.Folder, error) {
		f.Mix, f.ItemsOnDisk = c.Mix, c.Readable()
		return f, nil
	})
}

// RecordListing writes how the list of the server differs from what the newest reading found to the folder's record.
// Nothing is recorded unless it is certain that the list is whole.
func (s *Service) RecordListing(ctx context.Context, a Actor, code, id string, read time.Time, r Request) (wire.ContentsRecorded, error) {
	return s.recordReading(ctx, a, "record-listing", code, id, read, r, func(f dossier.Folder, c contents.Contents) (dossier.Folder, error) {
		found, ok := c.Compare(f)
		if !ok || !c.Listing.Whole {
			return f, refuse("listing-not-whole", "folder", f.Name)
		}
		return found.Record(f), nil
	})
}

// recordReading changes a folder's record by its newest reading, which must be the one that was meant, and whole.
func (s *Service) recordReading(ctx context.Context, a Actor, operation, code, id string, read time.Time, r Request, with func(dossier.Folder, contents.Contents) (dossier.Folder, error)) (wire.ContentsRecorded, error) {
	d, f, err := s.folder(ctx, a, operation, code, id)
	if err != nil {
		return wire.ContentsRecorded{}, err
	}
	c, err := s.contents(ctx, d, f.ID)
	switch {
	case err != nil:
		return wire.ContentsRecorded{}, err
	case c.Ended.IsZero():
		return wire.ContentsRecorded{}, refuse("folder-not-read", "folder", f.Name)
	case !c.Ended.Equal(read):
		return wire.ContentsRecorded{}, refuse("folder-read-again", "folder", f.Name)
	case c.Stopped:
		return wire.ContentsRecorded{}, refuse("folder-read-in-part", "folder", f.Name)
	}
	w, err := s.write(ctx, a, operation, code, "recorded from a reading of the folder", r, func(d *dossier.Dossier) error {
		f, ok := d.Folders.Get(f.ID)
		if !ok {
			return refuse("no-such-record", "kind", "folder", "id", id)
		}
		if f, err = with(f, c); err != nil {
			return err
		}
		d.Folders.Put(f)
		return nil
	})
	if err != nil {
		return wire.ContentsRecorded{}, err
	}
	return wire.ContentsRecorded{Folder: f.ID, Revision: w.Dossier.Revision}, nil
}

// contents returns what the newest reading of a folder found; of one that has not been read, nothing.
func (s *Service) contents(ctx context.Context, d *dossier.Dossier, folder dossier.ID[dossier.Folder]) (contents.Contents, error) {
	c, err := s.store.Contents(ctx, d.Home().ID, folder)
	if errors.Is(err, store.ErrNotFound) {
		err = nil
	}
	return c, err
}

// folder returns a folder of a home, if the actor may carry out the operation there.
func (s *Service) folder(ctx context.Context, a Actor, operation, code, id string) (*dossier.Dossier, dossier.Folder, error) {
	d, err := s.Home(ctx, a, operation, code)
	if err != nil {
		return nil, dossier.Folder{}, err
	}
	f, ok := d.Folders.Get(dossier.ID[dossier.Folder](id))
	if !ok {
		return nil, dossier.Folder{}, refuse("no-such-record", "kind", "folder", "id", id)
	}
	return d, f, nil
}
