package probe

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/papers"
)

// viewTime bounds the look into one source.
const viewTime = 20 * time.Second

// ErrNotAnnounced is returned when a device's own announcement is not recorded: a server would take
// who asks for someone else.
var ErrNotAnnounced = errors.New("what the device announces itself as is not recorded")

// agent names who asks in every request.
type agent struct {
	http.RoundTripper
	name string
}

// RoundTrip sends the request under the name.
func (a agent) RoundTrip(r *http.Request) (*http.Response, error) {
	r = r.Clone(r.Context())
	r.Header.Set("User-Agent", a.name)
	return a.RoundTripper.RoundTrip(r)
}

// view is one look into a source while it is under way.
type view struct{ matching.View }

// View looks into a source as a device would: under its name, by the source's own protocol. With no
// device it asks as an unknown device. Only the name can be borrowed, not the address.
func (p Prober) View(ctx context.Context, d *dossier.Dossier, source dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) (matching.View, error) {
	one, ok := d.Sources.Get(source)
	if !ok {
		return matching.View{}, errors.New("no such source")
	}
	v := view{matching.View{Source: source, As: as}}
	if as != "" {
		device, _ := d.Devices.Get(as)
		if v.Agent = device.Announces; v.Agent == "" {
			return v.View, ErrNotAnnounced
		}
	}
	v.Asked.Way = matching.ByDirectory
	ctx, cancel := context.WithTimeout(ctx, viewTime)
	defer cancel()
	began := time.Now()
	guard := p.Guard.ForHome(d)
	at := netip.AddrPortFrom(d.AddressOf(one), uint16(one.Port))
	switch {
	case !at.Addr().IsValid() || one.Port == 0:
		v.Asked = matching.Question{Ended: matching.NotAsked, Detail: "no address and port are recorded"}
	case guard.Allow(at.Addr()) != nil:
		v.Asked = matching.Question{Ended: matching.NotAsked, Detail: "outside the networks that may be asked"}
	case one.Protocol == dossier.ProtocolUPnPAV:
		v.directory(ctx, guard, at, one)
	case one.Protocol == dossier.ProtocolSMB:
		v.share(ctx, guard, at, one, p.Shares)
	case one.Protocol == dossier.ProtocolM3U:
		v.list(ctx, guard, at, one)
	default:
		v.Asked = matching.Question{Ended: matching.NotAsked, Detail: "a source of this protocol has no folders to look into"}
	}
	v.Asked.Port, v.Asked.Seconds = one.Port, secondsSince(began)
	return v.View, nil // running out of time is one of its ends
}

func place(at netip.AddrPort, locator string) *url.URL {
	return &url.URL{Scheme: "http", Host: at.String(), Path: "/" + strings.TrimPrefix(locator, "/")}
}

// client asks under the name of the view's device.
func (v *view) client(g HomeGuard) *http.Client {
	c := g.Client()
	if v.Agent != "" {
		c.Transport = agent{c.Transport, v.Agent}
	}
	return c
}

func (v *view) directory(ctx context.Context, g HomeGuard, at netip.AddrPort, one dossier.Source) {
	client, where := v.client(g), place(at, one.Locator)
	root, err := Describe(ctx, client, where)
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = notDescribed(ctx, err), err.Error()
		return
	}
	v.Name = matching.Clean(root.Device.Name)
	directory, err := root.directory()
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = matching.Broken, "no ContentDirectory"
		return
	}
	top, err := children(ctx, directory, "0")
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = browseEnd(ctx, err), err.Error()
		return
	}
	v.Asked.Ended = matching.Empty
	for _, o := range top.all {
		if !o.container {
			continue
		}
		if v.Asked.Answers >= mostFolders {
			v.Asked.LeftOut++
			continue
		}
		look, err := countContents(ctx, directory, o.id, mostObjects)
		v.add(o.title, matching.ContentOf(o.title, look.classes), look.items, look.titles, look.whole)
		if err != nil {
			v.Asked.Ended, v.Asked.Detail = browseEnd(ctx, err), "folder "+o.title+": "+err.Error()
			return
		}
	}
}

func (v *view) add(name string, content dossier.ContentKind, items int, titles []string, whole bool) {
	for i := range titles {
		titles[i] = matching.Clean(titles[i])
	}
	v.Folders = append(v.Folders, matching.ViewFolder{Name: matching.Clean(name), Content: content, Items: items, Titles: titles, Whole: whole})
	v.Asked.Ended = matching.Answered
	v.Asked.Answers++
}

func (v *view) share(ctx context.Context, g HomeGuard, at netip.AddrPort, one dossier.Source, login Login) {
	v.Asked.Way = matching.BySMB
	session, err := g.openSession(ctx, at, login)
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = smbEnd(ctx, err), err.Error()
		return
	}
	defer session.close()
	v.Name = strings.Trim(one.Locator, "/")
	share, err := session.Mount(v.Name)
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = smbEnd(ctx, err), err.Error()
		return
	}
	defer func() { _ = share.Umount() }()
	share = share.WithContext(ctx)
	top, _, err := listShare(share, "", mostOfFolder)
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = smbEnd(ctx, err), err.Error()
		return
	}
	v.Asked.Ended = matching.Empty
	for _, name := range foldersOf(top) {
		files, whole := filesIn(share, name)
		v.add(name, matching.ContentOf(name, nil), len(files), files[:min(len(files), matching.MostTitles)], whole)
	}
}

func (v *view) list(ctx context.Context, g HomeGuard, at netip.AddrPort, one dossier.Source) {
	v.Asked.Way = matching.ByStreamList
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, place(at, one.Locator).String(), nil)
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = matching.NotAsked, err.Error()
		return
	}
	resp, err := v.client(g).Do(r)
	if err != nil {
		v.Asked.Ended, v.Asked.Detail = endOf(err), err.Error()
		return
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(io.LimitReader(resp.Body, mostPage))
	list, ok := papers.ReadStreamList(body)
	if err != nil || !ok {
		v.Asked.Ended, v.Asked.Detail = matching.Broken, resp.Status
		return
	}
	var titles []string
	for _, s := range list.Streams[:min(len(list.Streams), matching.MostTitles)] {
		titles = append(titles, s.Name)
	}
	v.add("Channels", dossier.LiveTV, len(list.Streams), titles, true)
}
