package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) forecastCommand() *cobra.Command {
	var help, ahead, record bool
	c := &cobra.Command{Use: "forecast", Short: "What of each folder plays on which device, and why not", Args: cobra.NoArgs,
		Long:    "Compares the format mix of every folder with what each device decodes, on the path that serves it best: what plays as it is, what the server has to convert, what stays silent, what does not play, and what is not known. The shares are of hours, or of items where no lengths are recorded.\n\nWhat is not recorded is not known: read the folders (kaiku folder read), record what devices declare (kaiku scan record), or take up the data sheets of their models (kaiku knowledge).",
		Example: "  kaiku forecast\n  kaiku forecast --what-helps\n  kaiku forecast --convert-ahead --to-record\n  kaiku forecast why \"projector player\" Films",
		RunE: func(cmd *cobra.Command, _ []string) error {
			f, err := a.forecast(cmd.Context())
			if err != nil {
				return err
			}
			switch {
			case record && !ahead:
				return wrongUse("--to-record goes with --convert-ahead")
			case help:
				return a.showHelps(f)
			case ahead:
				return a.showAhead(cmd.Context(), f, record)
			}
			return a.showForecast(f)
		}}
	c.Flags().BoolVar(&help, "what-helps", false, "list the single changes that would make most play as it is")
	c.Flags().BoolVar(&ahead, "convert-ahead", false, "list what would be worth converting ahead of time, and into which form")
	c.Flags().BoolVar(&record, "to-record", false, "write what was found to the record")
	a.checkFlag(c, "something does not play, stays silent or is not known")
	c.AddCommand(a.forecastWhy())
	return c
}

func (a *App) forecast(ctx context.Context) (wire.Forecast, error) {
	code, err := a.code()
	if err != nil {
		return wire.Forecast{}, err
	}
	return a.client().Forecast(ctx, code)
}

func (a *App) showForecast(f wire.Forecast) error {
	label := map[string]string{}
	for _, n := range slices.Concat(f.Devices, f.Folders) {
		label[n.ID] = n.Label
	}
	rows := [][]string{}
	var against []string
	for _, v := range f.Devices {
		for _, c := range f.Cells {
			if string(c.Device) == v.ID {
				a.found(c.Grade != forecast.Plays && c.Grade != forecast.Converted)
				rows = append(rows, []string{v.Label, label[string(c.Folder)], c.Said, c.Why, triedSaid(c)})
				for _, one := range c.Against {
					against = append(against, v.Label+", "+label[string(c.Folder)]+": "+one)
				}
			}
		}
	}
	for _, c := range f.Converters {
		a.found(c.Short)
	}
	heads := []string{"Device", "Folder", "Plays", "Why", "Tested"}
	if !slices.ContainsFunc(rows, func(r []string) bool { return r[4] != "" }) {
		heads = heads[:4]
		for i := range rows {
			rows[i] = rows[i][:4]
		}
	}
	if err := a.show(f, heads, rows); err != nil || a.format != "table" {
		return err
	}
	for _, c := range f.Converters {
		a.say("%s", c.Said)
	}
	for _, one := range against {
		a.say("%s", one)
	}
	return nil
}

func (a *App) showHelps(f wire.Forecast) error {
	rows := [][]string{}
	for _, h := range f.Helps {
		rows = append(rows, []string{h.Said, wording.PlayingTime(h.Hours), fmt.Sprint(h.Items)})
	}
	if len(rows) == 0 && a.format == "table" {
		a.say("No single change would make more of this play as it is. To see what is in the way, run kaiku forecast why DEVICE FOLDER.")
		return nil
	}
	return a.show(f.Helps, []string{"Change", "Gained", "Items"}, rows)
}

// showAhead lists what would be worth converting ahead, and puts what is not there yet on the list of converted copies.
func (a *App) showAhead(ctx context.Context, f wire.Forecast, record bool) error {
	rows := [][]string{}
	for _, one := range f.Ahead {
		state := ""
		if one.Listed {
			state = "on the list"
		}
		rows = append(rows, []string{one.Folder.Label, one.From, one.Into, one.Said, state})
	}
	if len(rows) == 0 && a.format == "table" {
		a.say("Nothing that is known not to play would be played by more devices in another form.")
		return nil
	}
	if err := a.show(f.Ahead, []string{"Folder", "Form now", "Convert into", "What that brings", ""}, rows); err != nil || !record {
		return err
	}
	added := 0
	for _, one := range f.Ahead {
		if one.Listed {
			continue
		}
		var devices []string
		for _, d := range one.For {
			devices = append(devices, d.ID)
		}
		_, err := a.client().Add(ctx, a.household, dossier.KindNamed("converted-copy"), wire.Record{"folder": one.Folder.ID, "title": "All of this form", "items": one.Items, "for": devices, "from": one.From, "into": one.Into, "state": dossier.CopyWanted, "gigabytesBefore": one.Before, "gigabytesAfter": one.After})
		if err != nil {
			return err
		}
		added++
	}
	a.note("Added %d to the list of converted copies; kaiku converted-copy list shows it.", added)
	return nil
}

func (a *App) forecastWhy() *cobra.Command {
	return &cobra.Command{Use: "why DEVICE FOLDER", Short: "Why something plays or does not, format by format", Args: cobra.ExactArgs(2), Example: "  kaiku forecast why \"lamp room screen\" Films",
		RunE: func(cmd *cobra.Command, args []string) error {
			d, device, err := a.recordNamed(cmd.Context(), dossier.KindNamed("device"), args[:1], reading)
			if err != nil {
				return err
			}
			folder, err := find(d, dossier.KindNamed("folder"), args[1:], reading)
			if err != nil {
				return err
			}
			f, err := a.forecast(cmd.Context())
			if err != nil {
				return err
			}
			for _, c := range f.Cells {
				if string(c.Device) == device.Key() && string(c.Folder) == folder.Key() {
					return a.showCell(c)
				}
			}
			return fmt.Errorf("no path in use leads from %s to %s; kaiku path lists the paths", d.FullLabel(dossier.Ref{Kind: "folder", ID: folder.Key()}), d.Label(dossier.Ref{Kind: "device", ID: device.Key()}))
		}}
}

// triedSaid says how the tests stand that show whether a forecast is right.
func triedSaid(c wire.ForecastCell) string {
	var out []string
	for _, t := range c.Tried {
		if t.Status != proving.Untried {
			out = append(out, strings.ToLower(t.Title)+" "+wording.Plain(string(t.Status)))
		}
	}
	return strings.Join(out, ", ")
}

func (a *App) showCell(c wire.ForecastCell) error {
	rows := [][]string{}
	for _, l := range c.Lines {
		why := l.Why
		for _, one := range l.Beside {
			why += " " + one
		}
		rows = append(rows, []string{fmt.Sprint(l.Items), wording.PlayingTime(l.Hours), l.Format, wording.Outcomes[l.Outcome], why})
	}
	if a.format == "table" {
		a.say("By the path %s.", c.Path.Label)
		if c.Unread > 0 {
			a.say("The formats of %s are not recorded; nothing is said of them.", wording.Count(c.Unread, "item"))
		}
	}
	return a.show(c, []string{"Items", "Length", "Format", "Plays", "Why"}, rows)
}
