package proving

import (
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
)

// UnfinishedChange is a change with what it still needs: follow-ups that are to be done, and, after a reset that was not confirmed, what has to be looked at.
type UnfinishedChange struct {
	Change dossier.ID[dossier.Change]
	Items  []ToDo
}

// ToDo is one thing that is still to be done. Subject is the record that it is about.
type ToDo struct {
	Code    string
	Subject dossier.Ref
	Values  map[string]string
}

// ToDoCodes are the codes of what may be to do beside follow-ups, which are named as they are.
var ToDoCodes = []string{"effect-unknown", "copy-holds", "copy-holds-catalogue", "no-copy", "shown-name", "address", "offers", "admissions", "start-up", "openings", "settings"}

// Unfinished returns the changes that are not finished, the oldest first.
func Unfinished(x *dossier.Index) []UnfinishedChange {
	p := &Plan{view: look(x)}
	var out []UnfinishedChange
	for _, c := range x.Changes {
		one := UnfinishedChange{Change: c.ID}
		for _, f := range c.Outstanding() {
			values := map[string]string{}
			if f == dossier.FollowUpRebuild {
				values["losses"] = c.Losses
			}
			one.Items = append(one.Items, ToDo{string(f), c.ID.Ref(), values})
		}
		if c.Effect == "" {
			one.Items = append(one.Items, ToDo{"effect-unknown", c.ID.Ref(), nil})
		}
		if c.Effect == dossier.EffectReset && c.ConfirmedAt.IsZero() && !p.confirmed(c) {
			one.Items = append(one.Items, afterReset(x, c)...)
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
func afterReset(x *dossier.Index, c dossier.Change) []ToDo {
	var out []ToDo
	add := func(code string, about dossier.Ref, pairs ...string) {
		values := map[string]string{}
		for i := 0; i+1 < len(pairs); i += 2 {
			values[pairs[i]] = pairs[i+1]
		}
		out = append(out, ToDo{code, about, values})
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
	settings := slices.Clone(x.SettingsOf(c.Device.Ref()))
	for _, s := range x.SoftwareOf(c.Device) {
		settings = append(settings, x.SettingsOf(s.ID.Ref())...)
		if s.Starts != "" {
			add("start-up", s.ID.Ref(), "program", s.Name, "starts", string(s.Starts))
		}
	}
	if n := len(x.OpeningsOf(c.Device)); n > 0 {
		add("openings", c.Device.Ref(), "n", strconv.Itoa(n))
	}
	if len(settings) > 0 {
		add("settings", c.Device.Ref(), "n", strconv.Itoa(len(settings)))
	}
	return out
}
