package cli

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) browseCommand() *cobra.Command {
	var within, as []string
	var against string
	var titles, service bool
	var shares shareLogin
	c := &cobra.Command{Use: "browse SOURCE", Short: "Show the folders of a source, as given devices see them", ValidArgsFunction: a.completeRecords(dossier.KindNamed("source")),
		Long:    "Browses a source in the way that devices of the home would, announcing itself as each device does. A server may also go by the address of the device, which cannot be imitated. With --against, lists the titles that only one of two sources shows.",
		Example: "  kaiku source browse media --as \"kitchen screen\" --probe-within 10.20.4.0/24\n  kaiku source browse media --against \"film share\" --from-service",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			source, err := a.sourceNamed(ctx, args[0])
			if err != nil {
				return err
			}
			in := wire.BrowseSource{}
			if against != "" {
				if in.Against, err = a.sourceNamed(ctx, against); err != nil {
					return err
				}
			}
			for _, name := range as {
				_, r, err := a.recordNamed(ctx, dossier.KindNamed("device"), []string{name}, reading)
				if err != nil {
					return err
				}
				in.As = append(in.As, dossier.ID[dossier.Device](r.Key()))
			}
			var shown wire.SourceBrowse
			if service {
				shown, err = a.client().BrowseSource(ctx, a.household, source, in)
			} else {
				shown, err = a.browseFromHere(ctx, source, in, within, shares)
			}
			if err != nil {
				return err
			}
			return a.showBrowse(shown, titles)
		}}
	a.withinFlag(c, &within)
	c.Flags().StringSliceVar(&as, "as", nil, "a device to browse as; may be repeated")
	c.Flags().StringVar(&against, "against", "", "another source to compare the titles with")
	c.Flags().BoolVar(&titles, "titles", false, "list all titles")
	fromServiceFlag(c, &service)
	a.shareFlags(c, &shares)
	a.checkFlag(c, "the source did not answer or titles are missing")
	return c
}

func (a *App) sourceNamed(ctx context.Context, name string) (dossier.ID[dossier.Source], error) {
	_, r, err := a.recordNamed(ctx, dossier.KindNamed("source"), []string{name}, reading)
	if err != nil {
		return "", err
	}
	return dossier.ID[dossier.Source](r.Key()), nil
}

func (a *App) browseFromHere(ctx context.Context, source dossier.ID[dossier.Source], in wire.BrowseSource, within []string, shares shareLogin) (wire.SourceBrowse, error) {
	g, err := guard(within)
	if err != nil {
		return wire.SourceBrowse{}, err
	}
	d, err := a.home(ctx)
	if err != nil {
		return wire.SourceBrowse{}, err
	}
	login, err := a.shares(shares)
	if err != nil {
		return wire.SourceBrowse{}, err
	}
	p := probe.Prober{Guard: g, Shares: login}
	announced := a.announcements(ctx)
	views, unknown, against, err := in.Views(source, func(source dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) (matching.View, error) {
		v, err := p.View(ctx, announced(d, as), source, as)
		if errors.Is(err, probe.ErrNotAnnounced) {
			err = fmt.Errorf("how %s announces itself is not known; run kaiku scan run while it is on, or set it with kaiku device set --announces", d.Label(as.Ref()))
		}
		return v, err
	})
	if err != nil {
		return wire.SourceBrowse{}, err
	}
	return wire.SourceBrowseOf(d, views, unknown, against, wire.Sayings{Asked: wording.Browsed, Recognised: wording.Recognised}), nil
}

// announcements fills in how devices announce themselves from the latest scan, where that has been
// seen but not recorded.
func (a *App) announcements(ctx context.Context) func(*dossier.Dossier, dossier.ID[dossier.Device]) *dossier.Dossier {
	return func(d *dossier.Dossier, device dossier.ID[dossier.Device]) *dossier.Dossier {
		v, ok := d.Devices.Get(device)
		if !ok || v.Announces != "" {
			return d
		}
		o, err := a.client().Observations(ctx, a.household)
		if err != nil {
			return d
		}
		for _, h := range o.Hosts {
			for _, x := range h.Differences {
				if h.Device.ID == string(device) && x.Record.Kind == "device" && x.Member == "announces" {
					v.Announces = x.Seen
					next := d.Clone()
					next.Devices.Put(v)
					return next
				}
			}
		}
		return d
	}
}

func (a *App) showBrowse(shown wire.SourceBrowse, titles bool) error {
	header := []string{"Folder"}
	for _, v := range shown.Views {
		name := v.As.Label
		if name == "" {
			name = "an unknown device"
		}
		header = append(header, "as "+name)
		a.found(v.Ended != matching.Answered)
	}
	rows := [][]string{}
	for _, f := range shown.Folders {
		row := []string{f.Folder}
		for _, n := range f.Items {
			count := fmt.Sprint(n)
			if n < 0 {
				count = "not shown"
			}
			row = append(row, count)
		}
		rows = append(rows, row)
	}
	if err := a.show(shown, header, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("")
	for n, v := range shown.Views {
		a.say("%s: %s %s", header[n+1], v.Sentence, v.Remark)
	}
	if titles {
		for _, f := range shown.Views[0].Folders {
			a.say("\n%s", f.Name)
			for _, t := range f.Titles {
				a.say("  %s", t)
			}
		}
	}
	if shown.Against != nil {
		a.say("\nCompared with %s: %s", shown.Against.Source.Label, shown.Against.Sentence)
		a.sayMissing("Shown only there", shown.MissingHere, titles)
		a.sayMissing("Shown only here", shown.MissingThere, titles)
	}
	return nil
}

// mostMissing is how many missing titles of one folder are listed unless all are asked for.
const mostMissing = 10

func (a *App) sayMissing(what string, titles []wire.MissingTitle, all bool) {
	if len(titles) == 0 {
		a.say("%s: none.", what)
		return
	}
	a.found(true)
	a.say("%s (%d):", what, len(titles))
	counts := map[string]int{}
	for _, t := range titles {
		counts[t.Folder]++
	}
	said := map[string]int{}
	for _, t := range titles {
		switch said[t.Folder]++; {
		case all || said[t.Folder] <= mostMissing:
			a.say("  %s", strings.TrimPrefix(t.Folder+": "+t.Title, ": "))
		case said[t.Folder] == mostMissing+1:
			a.say("  %s: %d more; --titles lists them", t.Folder, counts[t.Folder]-mostMissing)
		}
	}
}
