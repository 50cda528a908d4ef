package views

import (
	"cmp"
	"slices"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
	"kaiku/wire"
	"kaiku/wording"
)

// Forecast says what of a home's folders plays on which device.
func Forecast(a *assess.Assessment) wire.Forecast {
	f := a.Forecast()
	out := wire.Forecast{Devices: []wire.Named{}, Folders: []wire.Named{}, Cells: []wire.ForecastCell{}, Helps: []wire.ForecastHelp{}, Ahead: []wire.ForecastAhead{}, Converters: []wire.ForecastConverter{}}
	devices, folders := map[dossier.ID[dossier.Device]]bool{}, map[dossier.ID[dossier.Folder]]bool{}
	tried, against := a.Against()
	for _, c := range f.Cells {
		devices[c.Device], folders[c.Folder] = true, true
		cell := forecastCell(a, c)
		for _, t := range tried[c.Path] {
			cell.Tried = append(cell.Tried, wire.ForecastTried{Test: t.Test, Title: wording.Tests[t.Kind].Title, Status: t.Status})
		}
		for _, one := range against {
			if one.Path == c.Path {
				attempt, _ := a.Attempts.Get(one.At)
				cell.Against = append(cell.Against, wording.Contradiction(one.Code, attempt.At.In(a.Now.Location()).Format("2 Jan 2006")))
			}
		}
		out.Cells = append(out.Cells, cell)
	}
	for _, v := range inWalkingOrder(a.Index) {
		if devices[v.ID] {
			out.Devices = append(out.Devices, Named(a.Dossier, v.ID.Ref()))
		}
	}
	names := map[string]int{}
	for _, v := range a.Folders {
		if folders[v.ID] {
			names[v.Name]++
		}
	}
	named := map[dossier.ID[dossier.Folder]]wire.Named{}
	for _, v := range a.Folders {
		if folders[v.ID] {
			one := Named(a.Dossier, v.ID.Ref())
			if names[v.Name] == 1 {
				one.Label = v.Name // its source needs no naming where no other folder is called so
			}
			named[v.ID] = one
			out.Folders = append(out.Folders, one)
		}
	}
	for _, h := range f.Helps {
		of := Named(a.Dossier, h.Device.Ref())
		out.Helps = append(out.Helps, wire.ForecastHelp{Kind: h.Kind, Device: of, Said: wording.ForecastHelp(h, of.Label, a.Label(h.Source.Ref()), a.Label(h.To.Ref())), Items: h.Gained.Items, Hours: h.Gained.Hours})
	}
	for _, one := range f.Ahead {
		out.Ahead = append(out.Ahead, forecastAhead(a, one, named[one.Folder]))
	}
	for _, c := range f.Converters {
		of := Named(a.Dossier, c.Source.Ref())
		out.Converters = append(out.Converters, wire.ForecastConverter{Source: of, Mpx: c.Mpx, Budget: c.Budget, AtOnce: c.AtOnce, Devices: c.Devices, Short: c.Short(),
			Said: wording.ForecastConverter(c, of.Label, a.Label(c.Device.Ref()), a.Label(c.Folder.Ref()))})
	}
	return out
}

func forecastAhead(a *assess.Assessment, one forecast.Ahead, named wire.Named) wire.ForecastAhead {
	folder, _ := a.Folders.Get(one.Folder)
	out := wire.ForecastAhead{Folder: named, From: wording.Format(folder.Mix[one.Entry]), Into: wording.Format(one.Into), Items: one.Gained.Items, Hours: one.Gained.Hours, Before: one.Before, After: one.After, For: []wire.Named{}}
	var devices []string
	for _, id := range one.For {
		out.For = append(out.For, Named(a.Dossier, id.Ref()))
		devices = append(devices, a.Label(id.Ref()))
	}
	out.Listed = slices.ContainsFunc(a.ConvertedCopies, func(c dossier.ConvertedCopy) bool { return c.Folder == one.Folder && c.From == out.From })
	out.Said = wording.ForecastAhead(one, folder.Name, devices)
	return out
}

func forecastCell(a *assess.Assessment, c forecast.Cell) wire.ForecastCell {
	folder, _ := a.Folders.Get(c.Folder)
	out := wire.ForecastCell{Device: c.Device, Folder: c.Folder, Path: Named(a.Dossier, c.Path.Ref()), Grade: c.Grade(), Said: wording.ForecastShares(c), Unread: c.Unread, Shares: []wire.ForecastShare{}, Lines: []wire.ForecastLine{}}
	for _, s := range c.Shares() {
		out.Shares = append(out.Shares, wire.ForecastShare{Outcome: s.Outcome, Items: s.Items, Hours: s.Hours, Percent: s.Percent})
	}
	most := -1
	for i, l := range c.Lines {
		e := folder.Mix[i]
		out.Lines = append(out.Lines, wire.ForecastLine{Format: wording.Format(e), Items: e.Items, Hours: e.Hours, Outcome: l.Outcome, Cause: l.Cause, Evidence: l.Evidence,
			Part: l.Decides.Part, Limit: l.Decides.Limit, Needed: l.Decides.Needed, Allowed: l.Decides.Allowed, Why: wording.ForecastWhy(*l, e), Beside: append([]string{}, wording.ForecastBeside(*l, a.Label(l.Chain.Ref()))...),
			Mpx: l.Mpx, Lowered: l.Lowered, Subtitles: l.Subtitles})
		if l.Outcome != forecast.NotKnown && (out.Evidence == "" || format.Weight(l.Evidence) < format.Weight(out.Evidence)) {
			out.Evidence = l.Evidence
		}
		if most < 0 || weighs(l, e, c.Lines[most], folder.Mix[most]) {
			most = i
		}
	}
	switch {
	case most >= 0:
		out.Why = out.Lines[most].Why
	case c.Unread > 0:
		out.Why = "The formats of this folder have not been read."
	default:
		out.Why = "No formats of this folder are recorded."
	}
	return out
}

// weighs reports whether a line tells more of why a cell is as it is: what does not play as it is before what does, and of
// that the greater part.
func weighs(l *forecast.Line, e dossier.FormatEntry, than *forecast.Line, other dossier.FormatEntry) bool {
	if a, b := l.Outcome != forecast.AsIs, than.Outcome != forecast.AsIs; a != b {
		return a
	}
	return cmp.Or(cmp.Compare(e.Hours, other.Hours), cmp.Compare(e.Items, other.Items)) > 0
}

// inWalkingOrder lists the devices of a home room by room, as one walks through it.
func inWalkingOrder(x *dossier.Index) []dossier.Device {
	return slices.SortedStableFunc(slices.Values(x.Devices), func(a, b dossier.Device) int {
		p, _ := x.Rooms.Get(a.Room)
		q, _ := x.Rooms.Get(b.Room)
		return cmp.Or(cmp.Compare(p.Floor, q.Floor), cmp.Compare(p.Order, q.Order), cmp.Compare(p.Name, q.Name), cmp.Compare(a.Name, b.Name))
	})
}
