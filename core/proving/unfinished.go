package proving

import (
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// UnfinishedChange is a change with what it still needs: follow-ups that are to be done, and, after a reset that was not confirmed, what has to be looked at.
type UnfinishedChange struct {
	Change dossier.ID[dossier.Change]
	Items  []network.Remark // each about a record
}

// ToDoCodes are the codes of what may be to do beside follow-ups, which are named as they are.
var ToDoCodes = []string{"effect-unknown", "copy-holds", "copy-holds-catalogue", "no-copy", "shown-name", "address", "offers", "admissions", "start-up", "openings", "settings"}

// Unfinished returns the changes that are not finished, the oldest first.
func (p *Plan) Unfinished() []UnfinishedChange {
	x := p.view.Index
	var out []UnfinishedChange
	for _, c := range x.Changes {
		one := UnfinishedChange{Change: c.ID}
		for _, f := range c.Outstanding() {
			one.Items = append(one.Items, network.NewRemark(string(f), c.ID.Ref(), "losses", c.Losses))
		}
		if c.Effect == "" {
			one.Items = append(one.Items, network.NewRemark("effect-unknown", c.ID.Ref()))
		}
		if p.unconfirmed(c) {
			one.Items = append(one.Items, p.afterReset(c)...)
		}
		if len(one.Items) > 0 {
			out = append(out, one)
		}
	}
	slices.SortStableFunc(out, func(a, b UnfinishedChange) int {
		ca, _ := x.Changes.Get(a.Change)
		cb, _ := x.Changes.Get(b.Change)
		return ca.At.Compare(cb.At)
	})
	return out
}

// afterReset returns what has to be looked at on a device that was reset to its defaults: what the copy gives back and what it does not, and
// everything that is recorded of the device and that such a reset takes away.
func (p *Plan) afterReset(c dossier.Change) []network.Remark {
	x := p.view.Index
	var out []network.Remark
	add := func(code string, about dossier.Ref, pairs ...string) {
		out = append(out, network.NewRemark(code, about, pairs...))
	}
	switch s, there := x.SettingsCopies.Get(c.SettingsCopy); {
	case there && s.Holds == dossier.CopyCatalogue:
		add("copy-holds-catalogue", s.ID.Ref(), "where", s.Where)
	case there:
		add("copy-holds", s.ID.Ref(), "where", s.Where)
	default:
		add("no-copy", c.ID.Ref(), "losses", c.Losses)
	}
	for _, s := range x.SourcesOf(c.Device) {
		if s.ShownName != "" {
			add("shown-name", s.ID.Ref(), "name", s.ShownName)
		}
		if s.Port != 0 {
			add("address", s.ID.Ref(), "source", s.Name, "port", strconv.Itoa(s.Port), "locator", s.Locator)
		}
		var names []string
		for _, f := range x.Folders {
			if f.Source == s.ID {
				names = append(names, f.Name)
			}
		}
		if len(names) > 0 {
			add("offers", s.ID.Ref(), "source", s.Name, "folders", strings.Join(names, ", "))
		}
	}
	admitted := 0
	for _, e := range x.RegisterEntries {
		if e.Server == c.Device {
			admitted++
		}
	}
	if admitted > 0 {
		add("admissions", c.Device.Ref(), "n", strconv.Itoa(admitted))
	}
	for _, s := range x.SoftwareOf(c.Device) {
		if s.Starts != "" {
			add("start-up", s.ID.Ref(), "program", s.Name, "starts", string(s.Starts))
		}
	}
	if n := len(x.OpeningsOf(c.Device)); n > 0 {
		add("openings", c.Device.Ref(), "n", strconv.Itoa(n))
	}
	if n := len(p.settingsOn(c.Device)); n > 0 {
		add("settings", c.Device.Ref(), "n", strconv.Itoa(n))
	}
	return out
}
