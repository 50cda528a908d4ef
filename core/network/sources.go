package network

import (
	"fmt"
	"slices"
	"strings"

	"kaiku/core/demand"
	"kaiku/core/dossier"
	"kaiku/core/pathkind"
)

// portBlocked finds ports that paths need and that their server's firewall is recorded to keep shut.
func portBlocked(v *view) []Finding {
	var out []Finding
	said := map[string]int{}
	for _, p := range v.InUse {
		s, _ := v.Sources.Get(p.Source)
		for _, need := range pathkind.PortsFor(p, s) {
			if need.At != pathkind.AtServer || need.Direction != dossier.Inward {
				continue
			}
			shut, open := v.openings(s.Device, need)
			if open || shut.ID == "" {
				continue
			}
			key := fmt.Sprint(s.Device, need.Transport, need.Number)
			if n, again := said[key]; again {
				out[n].Subjects = append(out[n].Subjects, p.ID.Ref())
				continue
			}
			said[key] = len(out)
			out = append(out, about(refs(shut.ID.Ref(), s.Device.Ref(), p.ID.Ref()), "server", v.Label(s.Device.Ref()), "transport", strings.ToUpper(string(need.Transport)),
				"port", fmt.Sprint(need.Number), "for", dossier.Said(need.For), "path", p.Name, "state", dossier.Coded(shut.State)))
		}
	}
	return out
}

// openings returns an opening inward that is recorded as shut for the port, and whether there is
// one that is open.
func (v *view) openings(host dossier.ID[dossier.Device], need pathkind.Port) (shut dossier.Opening, open bool) {
	for _, o := range v.Openings {
		if o.Device != host || o.Transport != need.Transport || o.Direction != dossier.Inward || need.Number < o.Port || need.Number > max(o.Port, o.LastPort) {
			continue
		}
		switch o.State {
		case dossier.OpeningOpen:
			open = true
		case dossier.OpeningBlocked, dossier.OpeningRefused:
			shut = o
		}
	}
	return shut, open
}

// portClash finds two sources that want one port of one host: the second to start serves nothing.
// The ports that SSDP and mDNS share by design are no clash.
func portClash(v *view) []Finding {
	var out []Finding
	for n, s := range v.Sources {
		for _, o := range v.Sources[:n] {
			if s.Port == 0 || s.Port != o.Port || s.Device != o.Device || s.Port == 1900 || s.Port == 5353 || s.Interface != "" && o.Interface != "" && s.Interface != o.Interface || oneProgram(s, o) {
				continue
			}
			out = append(out, about(refs(s.ID.Ref(), o.ID.Ref(), s.Device.Ref()), "source", s.Name, "other", o.Name, "port", fmt.Sprint(s.Port), "device", v.Label(s.Device.Ref())))
		}
	}
	return out
}

// oneProgram reports whether two sources at one port are what one program gives: shares and exports of
// one file server, places of one web server.
func oneProgram(a, b dossier.Source) bool {
	family := func(p dossier.Protocol) dossier.Protocol {
		switch p {
		case dossier.ProtocolM3U, dossier.ProtocolHLS:
			return dossier.ProtocolHTTP
		case dossier.ProtocolUPnPAV:
			return ""
		}
		return p
	}
	return family(a.Protocol) != "" && family(a.Protocol) == family(b.Protocol) && a.Locator != b.Locator
}

// endsDisagree finds paths whose device has something else set than their source is recorded with:
// its own address, port, name and locator, or, where the source has none of these, what is set at the
// server's end of the path. What one end leaves open is no disagreement. Paths that disagree in the
// same are one finding: a server that has moved is one change.
func endsDisagree(v *view) []Finding {
	var out []Finding
	said := map[string]int{}
	for _, p := range v.InUse {
		source, _ := v.Sources.Get(p.Source)
		s, addresses := v.ServerSide(p)
		d := p.DeviceEnd
		var what dossier.Value
		differ := func(name, server, device string) {
			if server != "" && device != "" && server != device {
				what = what.And(dossier.Said(name+"-differs", "server", server, "device", device))
			}
		}
		var own []string
		for _, a := range addresses {
			own = append(own, a.String())
		}
		if d.Address.IsValid() && len(own) > 0 && !v.boundElsewhere(p, source) && !slices.Contains(own, d.Address.String()) {
			differ("address", strings.Join(own, ", "), d.Address.String())
		}
		if s.Port != 0 && d.Port != 0 {
			differ("port", fmt.Sprint(s.Port), fmt.Sprint(d.Port))
		}
		differ("name", s.Name, d.Name)
		differ("locator", strings.Trim(s.Locator, "/"), strings.Trim(d.Locator, "/"))
		if len(what.Phrases) == 0 {
			continue
		}
		key := fmt.Sprint(source.ID, what.Phrases)
		if n, again := said[key]; again {
			out[n].Subjects = append(out[n].Subjects, p.ID.Ref(), p.Device.Ref())
			out[n].Values["path"] = out[n].Values["path"].And(dossier.Named(p.Name))
			continue
		}
		said[key] = len(out)
		out = append(out, about(refs(p.ID.Ref(), p.Device.Ref(), source.Device.Ref()),
			"path", p.Name, "server", v.Label(source.Device.Ref()), "device", v.Label(p.Device.Ref()), "what", what))
	}
	return out
}

// sameName finds sources that show one name on the network.
func sameName(v *view) []Finding {
	var out []Finding
	for n, s := range v.Sources {
		for _, o := range v.Sources[:n] {
			if s.ShownName != "" && s.Device != o.Device && strings.EqualFold(s.ShownName, o.ShownName) {
				out = append(out, about(refs(s.ID.Ref(), o.ID.Ref()), "name", s.ShownName, "source", v.FullLabel(s.ID.Ref()), "other", v.FullLabel(o.ID.Ref())))
			}
		}
	}
	return out
}

// networkClassUntrusted finds servers whose system classes the home's network as a public one, for
// which it keeps its openings shut.
func networkClassUntrusted(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		if d.NetworkClass == dossier.ClassUntrusted && len(v.Using(d.ID)) > 0 {
			out = append(out, about(refs(d.ID.Ref()), "device", d.Name))
		}
	}
	return out
}

// openToOutside finds sources that anybody outside can open.
func openToOutside(v *view) []Finding {
	return eachOutside(v, func(s dossier.Source) bool { return s.OutsidePassword == dossier.No })
}

// plainRemote finds sources whose passwords and pictures go outside unencrypted.
func plainRemote(v *view) []Finding {
	return eachOutside(v, func(s dossier.Source) bool { return s.OutsideEncrypted == dossier.No })
}

func eachOutside(v *view, wrong func(dossier.Source) bool) []Finding {
	var out []Finding
	for _, s := range v.Sources {
		if s.OutsidePort != 0 && wrong(s) {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "source", v.FullLabel(s.ID.Ref()), "port", fmt.Sprint(s.OutsidePort)))
		}
	}
	return out
}

// outsideNotKnown finds sources that are to be used from outside, of which nobody recorded whether they
// ask for a password and encrypt.
func outsideNotKnown(v *view) []Finding {
	wished := slices.ContainsFunc(v.Wishes, func(w dossier.Wish) bool { return w.What == dossier.WishOutsideViewing })
	var out []Finding
	for _, s := range v.Sources {
		var what dossier.Value
		if s.OutsidePassword == "" {
			what = what.And(dossier.Said("password"))
		}
		if s.OutsideEncrypted == "" {
			what = what.And(dossier.Said("encryption"))
		}
		if wished && s.OutsidePort != 0 && len(what.Phrases) > 0 {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "source", v.FullLabel(s.ID.Ref()), "port", fmt.Sprint(s.OutsidePort), "what", what))
		}
	}
	return out
}

// remoteServiceLeftOpen finds openings that were made for the work only and still are open.
func remoteServiceLeftOpen(v *view) []Finding {
	var out []Finding
	for _, o := range v.Openings {
		if o.Temporary == dossier.Yes && o.State == dossier.OpeningOpen {
			out = append(out, about(refs(o.ID.Ref(), o.Device.Ref()), "device", v.Label(o.Device.Ref()), "transport", strings.ToUpper(string(o.Transport)), "port", fmt.Sprint(o.Port)))
		}
	}
	return out
}

// rateCapped finds paths on which a limit set at the server or at the device lies below what a
// folder's heaviest files need.
func rateCapped(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		s, _ := v.Sources.Get(p.Source)
		d, _ := v.Devices.Get(p.Device)
		limit, subject := s.RateCapMbps, s.ID.Ref()
		if limit == 0 || d.RateCapMbps > 0 && d.RateCapMbps < limit {
			limit, subject = d.RateCapMbps, d.ID.Ref()
		}
		if limit == 0 {
			continue
		}
		var needed demand.Rate
		var of string
		for _, f := range v.Reached(p) {
			for _, e := range f.Mix {
				if n := demand.RateNeeded(e); n.Mbps > needed.Mbps {
					needed, of = n, v.FullLabel(f.ID.Ref())
				}
			}
		}
		if limit < needed.Mbps {
			known := needed.Known
			if known == dossier.KnownRead {
				known = "" // as it is recorded
			}
			out = append(out, about(refs(subject, p.ID.Ref()), "at", v.FullLabel(subject), "limit", mbps(limit, ""), "needed", mbps(needed.Mbps, known), "folder", of, "path", p.Name))
		}
	}
	return out
}

// shareSeatsShort finds sets of paths that are more than their source lets in at once.
func shareSeatsShort(v *view) []Finding {
	var out []Finding
	eachBusySet(v, func(t dossier.BusySet, bySource map[dossier.ID[dossier.Source]][]dossier.Path) {
		for _, s := range v.Sources {
			if n := len(bySource[s.ID]); s.Seats > 0 && n > s.Seats {
				out = append(out, about(refs(s.ID.Ref(), t.ID.Ref()), "source", v.FullLabel(s.ID.Ref()), "seats", dossier.Counted(s.Seats), "set", t.Name, "paths", dossier.Counted(n)))
			}
		}
	})
	return out
}

func eachBusySet(v *view, each func(dossier.BusySet, map[dossier.ID[dossier.Source]][]dossier.Path)) {
	for _, t := range v.BusySets {
		by := map[dossier.ID[dossier.Source]][]dossier.Path{}
		for _, p := range v.InUse {
			if slices.Contains(t.Paths, p.ID) {
				by[p.Source] = append(by[p.Source], p)
			}
		}
		each(t, by)
	}
}

// licenceSeatsShort finds accounts and licences used by more machines than they allow.
func licenceSeatsShort(v *view) []Finding {
	var out []Finding
	for _, a := range v.Accounts {
		if a.Seats > 0 && len(a.SignedIn) > a.Seats {
			out = append(out, about(refs(a.ID.Ref()), "what", dossier.Said("the-account", "name", a.Name), "seats", dossier.Counted(a.Seats), "machines", dossier.Counted(len(a.SignedIn))))
		}
	}
	for _, s := range v.Software {
		devices := map[dossier.ID[dossier.Device]]bool{}
		for _, p := range v.Using(s.Device) {
			devices[p.Device] = true
		}
		if s.Does == dossier.SoftwareServer && s.Seats > 0 && len(devices) > s.Seats {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "what", dossier.Said("the-licence", "name", v.FullLabel(s.ID.Ref())), "seats", dossier.Counted(s.Seats), "machines", dossier.Counted(len(devices))))
		}
	}
	return out
}

// accountDiffers finds paths whose device is signed in with another account than its source is
// opened with.
func accountDiffers(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		s, _ := v.Sources.Get(p.Source)
		if p.Account != "" && s.Account != "" && p.Account != s.Account {
			out = append(out, about(refs(p.ID.Ref(), p.Account.Ref(), s.Account.Ref()), "path", p.Name, "device", v.Label(p.Device.Ref()),
				"account", v.Label(p.Account.Ref()), "other", v.Label(s.Account.Ref()), "source", v.FullLabel(s.ID.Ref())))
		}
	}
	return out
}

// unknownKind finds devices that a server serves without knowing what they are.
func unknownKind(v *view) []Finding {
	var out []Finding
	for _, e := range v.RegisterEntries {
		if strings.EqualFold(e.RecognisedAs, "unknown") {
			out = append(out, about(refs(e.ID.Ref(), e.Device.Ref(), e.Server.Ref()), "device", v.Label(e.Device.Ref()), "server", v.Label(e.Server.Ref())))
		}
	}
	return out
}

// keptOut finds devices that a server does not let in although a path of theirs starts there.
func keptOut(v *view) []Finding {
	var out []Finding
	said := map[dossier.ID[dossier.RegisterEntry]]int{}
	for _, p := range v.InUse {
		_, server := v.ServerOf(p)
		if e, known := v.Register(p.Device, server.ID); known && e.Admission == dossier.KeptOut {
			if n, again := said[e.ID]; again {
				out[n].Subjects = append(out[n].Subjects, p.ID.Ref())
				out[n].Values["path"] = out[n].Values["path"].And(dossier.Named(p.Name))
				continue
			}
			said[e.ID] = len(out)
			out = append(out, about(refs(e.ID.Ref(), p.ID.Ref(), p.Device.Ref()), "device", v.Label(p.Device.Ref()), "server", server.Name, "path", p.Name))
		}
	}
	return out
}

// newcomerKeptOut finds devices that a server is not recorded to know, although it lets in none that is new to it. They may
// be known to it all the same, so nothing is said to be kept from working.
func newcomerKeptOut(v *view) []Finding {
	var out []Finding
	said := map[[2]string]bool{}
	for _, p := range v.InUse {
		source, server := v.ServerOf(p)
		if _, known := v.Register(p.Device, server.ID); known || source.Newcomers != dossier.KeptOut || said[[2]string{string(p.Device), string(source.ID)}] {
			continue
		}
		said[[2]string{string(p.Device), string(source.ID)}] = true
		out = append(out, about(refs(p.Device.Ref(), source.ID.Ref(), p.ID.Ref()), "device", v.Label(p.Device.Ref()), "source", v.FullLabel(source.ID.Ref()), "server", server.Name))
	}
	return out
}

// settingDiffers finds settings that are not what they must be.
func settingDiffers(v *view) []Finding {
	var out []Finding
	for _, s := range v.Settings {
		if s.MustBe != "" && s.Value != "" && !strings.EqualFold(s.Value, s.MustBe) {
			out = append(out, about(refs(s.ID.Ref(), s.Subject), "setting", s.Name, "at", v.FullLabel(s.Subject), "value", s.Value, "must", s.MustBe))
		}
	}
	return out
}

// noFoldersLeft finds paths whose last folder was removed: they reach nothing.
func noFoldersLeft(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		if p.NoFolders {
			out = append(out, about(refs(p.ID.Ref(), p.Device.Ref()), "path", p.Name))
		}
	}
	return out
}

// outletFailed finds outlets that failed their test and carry a link.
func outletFailed(v *view) []Finding {
	var out []Finding
	for _, o := range v.Outlets {
		if o.Tested != dossier.TestFailed {
			continue
		}
		for _, l := range v.Links {
			if l.Outlet == o.ID {
				near, _ := v.EndsOf(l)
				out = append(out, about(refs(o.ID.Ref(), l.ID.Ref(), near.Ref()), "outlet", v.FullLabel(o.ID.Ref()), "device", v.Label(near.Ref())))
			}
		}
	}
	return out
}
