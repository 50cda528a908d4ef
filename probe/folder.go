package probe

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"strings"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/titles"
	"kaiku/media"
)

// OpenedFolder is a place that is open for reading what lies in it.
type OpenedFolder struct {
	FS    fs.FS
	Place string // in words, for people
	Parts bool   // it is read in parts only: no file is read through
	Close func()
}

// OpenFolder opens the place at which a folder is read: the one that is given, as smb:// or nfs:// with an address of
// the home, or the folder's own, which is its share, its export, or its source title by title. Shares are opened by
// the prober's login. Errors: contents.ErrPlace, ErrOutside, and what the place answers.
func (p Prober) OpenFolder(ctx context.Context, d *dossier.Dossier, f dossier.Folder, place string) (OpenedFolder, error) {
	source, _ := d.Sources.Get(f.Source)
	if scheme := string(source.Protocol); place == "" && placePorts[scheme] != 0 {
		at := contents.PlaceIn(d, source, f.Name)
		if at == nil {
			return OpenedFolder{}, fmt.Errorf("%w: no address is recorded for the source %s; say where the folder is, such as %s://10.20.4.10/media/Films", contents.ErrPlace, source.Name, scheme)
		}
		if at.Port() == "" {
			at.Host += fmt.Sprintf(":%d", placePorts[scheme])
		}
		place = at.String()
	}
	if place == "" {
		fsys, err := p.OpenDirectory(ctx, d, f)
		return OpenedFolder{FS: fsys, Place: "the source " + source.Name, Parts: true, Close: func() {}}, err
	}
	at, err := url.Parse(place)
	switch {
	case err != nil || at.Host == "":
		return OpenedFolder{}, fmt.Errorf("%w: write it as smb://10.20.4.10/media/Films", contents.ErrPlace)
	case at.User != nil:
		return OpenedFolder{}, fmt.Errorf("%w: a password does not belong into the address of a place", contents.ErrPlace)
	}
	fsys, end, err := p.Guard.ForHome(d).OpenPlace(ctx, at, p.Shares)
	if err != nil {
		return OpenedFolder{}, err
	}
	return OpenedFolder{FS: fsys, Place: at.String(), Close: end}, nil
}

// mostInPlace bounds what a place can make the service keep in memory.
const mostInPlace = 200_000

// ReadFolder reads what lies in a folder: the heads of all files, then the rates of the heaviest films. When ctx ends,
// or the place stops answering, what was read until then is returned as stopped.
func (p Prober) ReadFolder(ctx context.Context, d *dossier.Dossier, f dossier.Folder, what contents.Wanted, tell func(contents.Progress)) (contents.Contents, error) {
	if strings.HasPrefix(what.Place, "/") {
		return contents.Contents{}, fmt.Errorf("%w: a directory is read by kaiku folder read on the machine that has it", contents.ErrPlace)
	}
	if what.User != "" {
		p.Shares = Login{User: what.User, Password: what.Password}
	}
	open, err := p.OpenFolder(ctx, d, f, what.Place)
	if err != nil {
		return contents.Contents{}, err
	}
	defer open.Close()
	known := map[string]contents.File{}
	for _, i := range what.Known {
		known[i.Path] = i
	}
	c, err := media.Folder(ctx, open.FS, media.Reading{Known: known, Tell: tell, Most: mostInPlace})
	switch c.Folder, c.Place = f.ID, open.Place; {
	case errors.Is(err, media.ErrSilent):
		c.Stopped = true
		return c, nil
	case err != nil || c.Stopped:
		return c, err
	}
	if source, _ := d.Sources.Get(f.Source); !open.Parts && source.Protocol == dossier.ProtocolUPnPAV {
		c.Listing = p.listing(ctx, d, f, tell)
	}
	if what.HeadsOnly {
		return c, nil
	}
	todo := media.ToDeepen(c.Items, open.Parts)
	for n, i := range todo {
		tell(contents.Progress{Files: n, Listed: len(todo), Path: c.Items[i].Path, Rates: true})
		item, err := media.Deepen(ctx, open.FS, c.Items[i], nil)
		if ctx.Err() != nil {
			return c, nil // the heads are whole; rates that were not read are estimated
		}
		if err == nil {
			c.Items[i] = item
		}
	}
	return c, nil
}

// listing asks the server for what it lists of a folder; nil if ctx ends before it has told.
func (p Prober) listing(ctx context.Context, d *dossier.Dossier, f dossier.Folder, tell func(contents.Progress)) *contents.Listing {
	list, whole, err := p.Titles(ctx, d, f, func(n int) { tell(contents.Progress{Files: n, Listed: n, Listing: true}) })
	switch {
	case ctx.Err() != nil:
		return nil
	case err != nil:
		return &contents.Listing{Entries: []titles.Entry{}, Trouble: matching.Clean(err.Error())}
	}
	return &contents.Listing{Entries: append([]titles.Entry{}, list...), Whole: whole}
}
