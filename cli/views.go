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
	var against, user string
	var titles, service bool
	c := &cobra.Command{Use: "browse SOURCE", Short: "Look into a source, as a given device would see it", Args: cobra.ExactArgs(1),
		Long: "Looks into a source as devices of the home would: under the name by which each announces itself. The server may also go by the address of who asks, which cannot be borrowed. With --against it says which titles one of two sources shows and the other does not.",
		RunE: func(cmd *cobra.Command, args []string) error {
			ctx := cmd.Context()
			source, err := a.sourceNamed(ctx, args[0])
			if err != nil {
				return err
			}
			in := wire.LookInto{}
			if against != "" {
				if in.Against, err = a.sourceNamed(ctx, against); err != nil {
					return err
				}
			}
			for _, name := range as {
				_, r, err := a.recordNamed(ctx, dossier.KindNamed("device"), []string{name})
				if err != nil {
					return err
				}
				in.As = append(in.As, dossier.ID[dossier.Device](r.Key()))
			}
			var look wire.SourceLook
			if service {
				look, err = a.client().LookInto(ctx, a.household, source, in)
			} else {
				look, err = a.lookFromHere(ctx, source, in, within, probe.Login{User: user, Password: a.env("KAIKU_SHARE_PASSWORD", "")})
			}
			if err != nil {
				return err
			}
			return a.showLook(look, titles)
		}}
	a.withinFlag(c, &within)
	c.Flags().StringSliceVar(&as, "as", nil, "a device in whose name to ask; may be given several times")
	c.Flags().StringVar(&against, "against", "", "another source, to see which titles are missing")
	c.Flags().BoolVar(&titles, "titles", false, "list the titles too")
	c.Flags().BoolVar(&service, "by-kaiku", false, "let the Kaiku that stands in the home look, not this machine")
	c.Flags().StringVar(&user, "share-user", "", "open shares as this user, with the password in KAIKU_SHARE_PASSWORD; without it as a guest")
	return c
}

func (a *App) sourceNamed(ctx context.Context, name string) (dossier.ID[dossier.Source], error) {
	_, r, err := a.recordNamed(ctx, dossier.KindNamed("source"), []string{name})
	if err != nil {
		return "", err
	}
	return dossier.ID[dossier.Source](r.Key()), nil
}

func (a *App) lookFromHere(ctx context.Context, source dossier.ID[dossier.Source], in wire.LookInto, within []string, shares probe.Login) (wire.SourceLook, error) {
	g, err := guard(within)
	if err != nil {
		return wire.SourceLook{}, err
	}
	d, err := a.home(ctx)
	if err != nil {
		return wire.SourceLook{}, err
	}
	p := probe.Prober{Guard: g, Shares: shares}
	views, unknown, against, err := in.Views(source, func(source dossier.ID[dossier.Source], as dossier.ID[dossier.Device]) (matching.View, error) {
		v, err := p.View(ctx, d, source, as)
		if errors.Is(err, probe.ErrNotAnnounced) {
			err = fmt.Errorf("%s: %w; look at the network while it is on: kaiku observation gather", d.Label(as.Ref()), err)
		}
		return v, err
	})
	if err != nil {
		return wire.SourceLook{}, err
	}
	return wire.SourceLookOf(d, views, unknown, against, wire.Sayings{Asked: wording.Looked, Recognised: wording.Recognised}), nil
}

func (a *App) showLook(look wire.SourceLook, titles bool) error {
	header := []string{"Folder"}
	for _, v := range look.Views {
		name := v.As.Label
		if name == "" {
			name = "an unknown device"
		}
		header = append(header, "as "+name)
		a.attention = a.attention || v.Ended != matching.Answered
	}
	rows := [][]string{}
	for _, f := range look.Folders {
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
	if err := a.show(look, header, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("")
	for n, v := range look.Views {
		a.say("%s: %s %s", header[n+1], v.Sentence, v.Remark)
	}
	if titles {
		for _, f := range look.Views[0].Folders {
			a.say("\n%s", f.Name)
			for _, t := range f.Titles {
				a.say("  %s", t)
			}
		}
	}
	if look.Against != nil {
		a.say("\nAgainst %s: %s", look.Against.Source.Label, look.Against.Sentence)
		a.sayMissing("Not shown here, but there", look.MissingHere, titles)
		a.sayMissing("Shown here, but not there", look.MissingThere, titles)
	}
	return nil
}

// mostMissing is how many missing titles of one folder are listed unless all are asked for.
const mostMissing = 10

func (a *App) sayMissing(what string, titles []wire.MissingTitle, all bool) {
	if len(titles) == 0 {
		a.say("%s: nothing.", what)
		return
	}
	a.attention = true
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
			a.say("  %s: and %d more; --titles lists them", t.Folder, counts[t.Folder]-mostMissing)
		}
	}
}
