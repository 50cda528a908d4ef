package matching

import (
	"fmt"
	"reflect"
	"strings"

	"kaiku/core/dossier"
)

// Take writes what was seen into d: the differences that wanted lets through, and, for a host that
// is new, the records they need. NewID makes the ids. It returns the records that it wrote.
func Take(d *dossier.Dossier, b Beside, wanted func(Difference) bool, newID func() string) []dossier.Ref {
	var out []dossier.Ref
	records := append([]dossier.Ref(nil), b.Records...)
	for n := range b.Host.Seen {
		var members []Difference
		for _, diff := range b.Differences {
			if diff.Place == n && diff.Relation != Same && wanted(diff) {
				members = append(members, diff)
			}
		}
		if len(members) == 0 || n > 0 && records[n] == (dossier.Ref{}) && records[b.Host.Seen[n].Of] == (dossier.Ref{}) {
			continue // it belongs to something that is not recorded
		}
		k := dossier.KindNamed(b.Host.Seen[n].Kind)
		p := reflect.New(k.Type)
		if _, r, ok := d.Record(records[n]); ok {
			p.Elem().Set(reflect.ValueOf(r))
		} else {
			dossier.SetID(p.Interface(), newID())
			b.begin(n, p, records)
		}
		for _, m := range members {
			f, _ := k.Field(m.Member)
			f.In(p).Set(reflect.ValueOf(m.After))
		}
		fit(d, k, p)
		k.In(d).PutAny(p.Interface())
		records[n] = dossier.Ref{Kind: k.Name, ID: p.Elem().Interface().(dossier.Record).Key()}
		out = append(out, records[n])
	}
	return out
}

// begin fills in what a new record needs beside what was seen: whose it is, and what its kind
// requires.
func (b Beside) begin(n int, p reflect.Value, records []dossier.Ref) {
	s := b.Host.Seen[n]
	owner := records[s.Of].ID
	switch r := p.Interface().(type) {
	case *dossier.Device:
		r.Name = b.Host.Called()
	case *dossier.Interface:
		r.Device, r.Name = dossier.ID[dossier.Device](owner), "adapter"
	case *dossier.Source:
		r.Device = dossier.ID[dossier.Device](owner)
		protocol, _ := s.Members["protocol"].(dossier.Protocol)
		r.Protocol, r.Name = protocol, sourceName(protocol, s)
	case *dossier.Folder:
		r.Source = dossier.ID[dossier.Source](owner)
		r.Name, r.ContentKind = "folder", dossier.HomeVideo
	case *dossier.Software:
		r.Device = dossier.ID[dossier.Device](owner)
		does, _ := s.Members["does"].(dossier.SoftwareKind)
		r.Does, r.Name = does, string(does)
	case *dossier.Decoding:
		r.Device = dossier.ID[dossier.Device](owner)
	case *dossier.Reading:
		r.Subject = dossier.ID[dossier.Device](owner).Ref()
	}
}

// sourceName is what a source is called until it is given a name.
func sourceName(p dossier.Protocol, s Seen) string {
	locator, _ := s.Members["locator"].(string)
	locator = strings.Trim(locator, "/")
	switch p {
	case dossier.ProtocolUPnPAV:
		return "media server"
	case dossier.ProtocolSMB:
		return cut("share "+locator, 80)
	case dossier.ProtocolNFS:
		return cut("export "+locator, 80)
	case dossier.ProtocolM3U:
		return "stream list"
	}
	return "stream"
}

// Called is what a host is called until it is given a name: as it shows itself, by its host
// name, by make and model, or by its address.
func (h Host) Called() string {
	for _, name := range []string{h.text(0, "name"), hostName(h.text(0, "hostName")), strings.TrimSpace(h.text(0, "make") + " " + h.text(0, "model"))} {
		if name != "" {
			return cut(name, 80)
		}
	}
	return h.Address.String()
}

// fit sees that texts fit their members, and that a name is not given twice: the second one is
// numbered.
func fit(d *dossier.Dossier, k *dossier.Kind, p reflect.Value) {
	for _, f := range k.Fields {
		if f.Type.Kind() != reflect.String || f.List {
			continue
		}
		text := f.In(p)
		if f.Most > 0 {
			text.SetString(cut(text.String(), f.Most))
		}
		given := text.String()
		for n := 2; f.Unique != "" && f.Refers == "" && dossier.NameGiven(d, k, p.Elem().Interface().(dossier.Record), f); n++ {
			number := fmt.Sprintf(" %d", n)
			text.SetString(cut(given, max(f.Most, 40)-len(number)) + number)
		}
	}
}

func cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return strings.TrimSpace(string(r[:most-1])) + "…"
	}
	return s
}
