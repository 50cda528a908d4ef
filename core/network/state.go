package network

import (
	"math"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/format"
	"kaiku/core/knowledge"
)

// writableShare finds shares that whoever may read may also write, without anything that must.
func writableShare(v *view) []Finding {
	var out []Finding
	for _, s := range v.Sources {
		share := s.Protocol == dossier.ProtocolSMB || s.Protocol == dossier.ProtocolNFS
		must := slices.ContainsFunc(v.Folders, func(f dossier.Folder) bool { return f.Source == s.ID && f.WrittenTo == dossier.Yes })
		if share && s.Writable == dossier.Yes && !must {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "source", v.FullLabel(s.ID.Ref())))
		}
	}
	return out
}

// serviceAccountCannotRead finds folders that the account of the server software may not read.
func serviceAccountCannotRead(v *view) []Finding {
	var out []Finding
	for _, f := range v.Folders {
		source, _ := v.Sources.Get(f.Source)
		for _, s := range v.Software {
			if s.Device == source.Device && s.Does == dossier.SoftwareServer && s.RunsAs != "" && len(f.ReadableBy) > 0 && !slices.Contains(f.ReadableBy, s.RunsAs) {
				out = append(out, about(refs(f.ID.Ref(), s.ID.Ref()), "folder", v.FullLabel(f.ID.Ref()), "software", s.Name, "account", s.RunsAs, "may", dossier.Named(f.ReadableBy...)))
			}
		}
	}
	return out
}

// neverIndexed finds folders with files of which a UPnP AV server has read none.
func neverIndexed(v *view) []Finding {
	var out []Finding
	for _, f := range v.Folders {
		source, _ := v.Sources.Get(f.Source)
		if source.Protocol == dossier.ProtocolUPnPAV && f.ItemsOnDisk > 0 && f.ItemsInIndex == 0 && f.IndexedAt.IsZero() {
			out = append(out, about(refs(f.ID.Ref(), f.Source.Ref()), "folder", v.FullLabel(f.ID.Ref()), "onDisk", dossier.Counted(f.ItemsOnDisk)))
		}
	}
	return out
}

// titlesMissing finds folders of which the index holds fewer items than lie on the disk.
func titlesMissing(v *view) []Finding {
	var out []Finding
	for _, f := range v.Folders {
		if f.ItemsInIndex > 0 && f.ItemsInIndex < f.ItemsOnDisk {
			out = append(out, about(refs(f.ID.Ref(), f.Source.Ref()), "folder", v.FullLabel(f.ID.Ref()), "onDisk", dossier.Counted(f.ItemsOnDisk), "inIndex", dossier.Counted(f.ItemsInIndex), "missing", dossier.Counted(f.ItemsOnDisk-f.ItemsInIndex)))
		}
	}
	return out
}

// mixedFolder finds folders in which content of another kind is taken for what it is not.
func mixedFolder(v *view) []Finding {
	var out []Finding
	for _, f := range v.Folders {
		others := slices.DeleteFunc(slices.Clone(f.AlsoHolds), func(k dossier.ContentKind) bool { return k == f.ContentKind })
		if len(others) > 0 {
			out = append(out, about(refs(f.ID.Ref()), "folder", v.FullLabel(f.ID.Ref()), "kind", dossier.Coded(f.ContentKind), "others", dossier.Coded(others...)))
		}
	}
	return out
}

// startsAtLogin finds server software that serves nothing after a power cut.
func startsAtLogin(v *view) []Finding {
	var out []Finding
	for _, s := range v.Software {
		if s.Does == dossier.SoftwareServer && (s.Starts == dossier.StartsAtLogin || s.Starts == dossier.StartsByHand) {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "software", s.Name, "device", v.Label(s.Device.Ref()), "starts", dossier.Coded(s.Starts)))
		}
	}
	return out
}

// marksKeptApart finds homes in which someone wishes to go on watching in another room, although
// the paths there keep their places apart.
func marksKeptApart(v *view) []Finding {
	wished := map[dossier.ID[dossier.Room]]bool{}
	for _, w := range v.Wishes {
		if w.What == dossier.WishResumeAcrossRooms {
			wished[w.Room] = true
		}
	}
	if len(wished) == 0 {
		return nil
	}
	f := about(nil)
	places, rooms := map[string]bool{}, map[dossier.ID[dossier.Room]]bool{}
	var said dossier.Value
	for _, p := range v.InUse {
		device, _ := v.Devices.Get(p.Device)
		source, _ := v.Sources.Get(p.Source)
		if p.Marks == "" || !wished[""] && !wished[device.Room] {
			continue
		}
		at := ""
		switch p.Marks {
		case dossier.MarksAtServer:
			at = v.Label(source.Device.Ref())
		case dossier.MarksOnDevice:
			at = device.Name
		}
		places[string(p.Marks)+" "+at], rooms[device.Room] = true, true
		f.Subjects = append(f.Subjects, p.ID.Ref())
		said = said.And(dossier.Said("marks-"+string(p.Marks), "path", p.Name, "at", at))
	}
	if len(places) < 2 || len(rooms) < 2 {
		return nil
	}
	f.Values["places"] = said
	return []Finding{f}
}

// powerSupplyWeak finds devices whose supply gives less than they need: they fail under load.
func powerSupplyWeak(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		if d.SupplyWatts > 0 && d.SupplyWatts < d.NeedsWatts {
			out = append(out, about(refs(d.ID.Ref()), "device", d.Name, "gives", dossier.Amount(d.SupplyWatts, dossier.UnitWatt, ""), "needs", dossier.Amount(d.NeedsWatts, dossier.UnitWatt, "")))
		}
	}
	return out
}

// restartDue finds changes that wait for a restart to take effect.
func restartDue(v *view) []Finding {
	var out []Finding
	for _, c := range v.Changes {
		if slices.Contains(c.Outstanding(), dossier.FollowUpRestart) {
			out = append(out, about(refs(c.ID.Ref(), c.Device.Ref()), "change", c.What, "device", v.Label(c.Device.Ref())))
		}
	}
	return out
}

// settingsCopyMissing finds servers in use without a copy of their settings.
func settingsCopyMissing(v *view) []Finding {
	var out []Finding
	for _, s := range v.Software {
		kept := slices.ContainsFunc(v.SettingsCopies, func(c dossier.SettingsCopy) bool { return c.Device == s.Device })
		if s.Does == dossier.SoftwareServer && !kept && len(v.Using(s.Device)) > 0 {
			out = append(out, about(refs(s.Device.Ref(), s.ID.Ref()), "device", v.Label(s.Device.Ref()), "software", s.Name))
		}
	}
	return out
}

// clockOff is how far a device's clock may be off, in seconds, before hours of blocking, guides
// and recordings are visibly wrong.
const clockOff = 60

// clockWrong finds devices whose newest clock reading is too far off.
func clockWrong(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		if r, found := v.Newest(d.ID, dossier.ClockOffsetS); found && math.Abs(r.Value) > clockOff {
			way := "clock-fast"
			if r.Value < 0 {
				way = "clock-slow"
			}
			out = append(out, about(refs(d.ID.Ref(), r.ID.Ref()), "device", d.Name, "off", dossier.Amount(math.Abs(r.Value), dossier.UnitSecond, r.How), "way", dossier.Said(way)))
		}
	}
	return out
}

// versions lists how the programs and the firmware of a home stand, as far as something is known of them.
func (v *view) versions() []version {
	var out []version
	for _, s := range v.Software {
		if at := v.known.OfSoftware(s); at.Known {
			out = append(out, version{at, refs(s.ID.Ref(), s.Device.Ref()), dossier.Said("program-of", "software", s.Name, "device", v.Label(s.Device.Ref()))})
		}
	}
	for _, d := range v.Devices {
		if at := v.known.OfFirmware(d); at.Known {
			out = append(out, version{at, refs(d.ID.Ref()), dossier.Said("firmware-of", "device", d.Name)})
		}
	}
	return out
}

type version struct {
	knowledge.Standing
	subjects []dossier.Ref
	what     dossier.Value
}

// source tells where the firm has it from; the record of the home needs none.
func (v version) source() dossier.Value {
	if v.Source == "" {
		return dossier.Said("as-recorded")
	}
	return dossier.Said("by-source", "source", v.Source)
}

// unmaintained finds software and devices that their makers have given up.
func unmaintained(v *view) []Finding {
	var out []Finding
	for _, one := range v.versions() {
		if one.GivenUp {
			out = append(out, about(one.subjects, "what", one.what, "source", one.source()))
		}
	}
	return out
}

// behind finds software and firmware of which there is a newer version, or perhaps one.
func behind(v *view) []Finding {
	var out []Finding
	for _, one := range v.versions() {
		if one.Older == knowledge.No || one.GivenUp {
			continue
		}
		how := "older"
		if one.Older == knowledge.Perhaps {
			how = "perhaps-older"
		}
		out = append(out, about(one.subjects, "what", one.what, "installed", one.Installed, "newest", one.Newest, "how", dossier.Said(how, "newest", one.Newest), "source", one.source()))
	}
	return out
}

// decodingContradicts finds devices of which one line says that they decode what another says they do not.
func decodingContradicts(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		recorded, subjects := dossier.Decoding{}, refs(d.ID.Ref())
		for _, r := range v.Decodings {
			if r.Device == d.ID {
				recorded, subjects = r, append(subjects, r.ID.Ref())
			}
		}
		told := map[dossier.FormatTerm]bool{}
		for _, pair := range format.Contradictions(v.known.Profile(d, recorded)) {
			yes, no := pair[0], pair[1]
			if told[yes.Format] {
				continue
			}
			told[yes.Format] = true
			out = append(out, about(subjects, "device", d.Name, "format", dossier.Coded(yes.Format), "yes", dossier.Coded(yes.Evidence), "no", dossier.Coded(no.Evidence)))
		}
	}
	return out
}

// daysAhead is how long before its end a licence is spoken of: time for a visit and an order.
const daysAhead = 30

// endsSoon finds trials and licences that end within daysAhead, as advice, or have ended.
func endsSoon(v *view) []Finding {
	today, soon := dossier.Date(v.now.Format(time.DateOnly)), dossier.Date(v.now.AddDate(0, 0, daysAhead).Format(time.DateOnly))
	var out []Finding
	ends := func(of dossier.Ref, device dossier.ID[dossier.Device], name, term string, on dossier.Date) {
		if on == "" || on > soon {
			return
		}
		f := about(refs(of, device.Ref()), "software", name, "device", v.Label(device.Ref()), "term", dossier.Said(term), "on", string(on), "ends", dossier.Said("ends"))
		if f.Severity = Advice; on < today {
			f.Severity, f.Keeps, f.Values["ends"] = Warning, KeepsPlaying, dossier.Said("ended")
		}
		out = append(out, f)
	}
	for _, s := range v.Software {
		term := "term-licence"
		if s.Licence == dossier.LicenceTrial {
			term = "term-trial"
		}
		ends(s.ID.Ref(), s.Device, s.Name, term, s.EndsOn)
	}
	for _, s := range v.Sources {
		ends(s.ID.Ref(), s.Device, s.Name, "term-source", s.EndsOn)
	}
	return out
}
