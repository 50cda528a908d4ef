package network

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
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
				out = append(out, about(refs(f.ID.Ref(), s.ID.Ref()), "folder", v.FullLabel(f.ID.Ref()), "software", s.Name, "account", s.RunsAs, "may", strings.Join(f.ReadableBy, ", ")))
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
			out = append(out, about(refs(f.ID.Ref(), f.Source.Ref()), "folder", v.FullLabel(f.ID.Ref()), "onDisk", fmt.Sprint(f.ItemsOnDisk)))
		}
	}
	return out
}

// titlesMissing finds folders of which the index holds fewer items than lie on the disk.
func titlesMissing(v *view) []Finding {
	var out []Finding
	for _, f := range v.Folders {
		if f.ItemsInIndex > 0 && f.ItemsInIndex < f.ItemsOnDisk {
			out = append(out, about(refs(f.ID.Ref(), f.Source.Ref()), "folder", v.FullLabel(f.ID.Ref()), "onDisk", fmt.Sprint(f.ItemsOnDisk), "inIndex", fmt.Sprint(f.ItemsInIndex), "missing", fmt.Sprint(f.ItemsOnDisk-f.ItemsInIndex)))
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
			out = append(out, about(refs(f.ID.Ref()), "folder", v.FullLabel(f.ID.Ref()), "kind", string(f.ContentKind), "others", plain(others)))
		}
	}
	return out
}

func plain[T ~string](list []T) string {
	var words []string
	for _, w := range list {
		words = append(words, strings.ReplaceAll(string(w), "-", " "))
	}
	return strings.Join(words, ", ")
}

// startsAtLogin finds server software that serves nothing after a power cut.
func startsAtLogin(v *view) []Finding {
	var out []Finding
	for _, s := range v.Software {
		if s.Does == dossier.SoftwareServer && (s.Starts == dossier.StartsAtLogin || s.Starts == dossier.StartsByHand) {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "software", s.Name, "device", v.Label(s.Device.Ref()), "starts", strings.ReplaceAll(string(s.Starts), "-", " ")))
		}
	}
	return out
}

// wakeImpossible finds paths whose server sleeps and cannot be woken by who wants to watch. A
// wake packet needs a wired adapter under power, the sleeper's own segment or a relay into it,
// and someone who sends it.
func wakeImpossible(v *view) []Finding {
	var out []Finding
	for _, p := range v.InUse {
		source, _ := v.Sources.Get(p.Source)
		server, _ := v.Devices.Get(source.Device)
		device, _ := v.Devices.Get(p.Device)
		why := ""
		switch {
		case server.Standby != dossier.Yes || server.Wake == "" || server.Wake == dossier.WakeNever:
		case server.Wake != dossier.WakePacket:
			why = "it is woken by " + map[dossier.Wake]string{dossier.WakeRemote: "its remote", dossier.WakeTimer: "a timer", dossier.WakeButton: "its button"}[server.Wake] + " only"
		case v.allRadio(server.ID):
			why = "it is on radio only, which sleeps with it"
		case device.SendsWake == dossier.No:
			why = device.Name + " cannot send the packet that wakes it"
		case !v.wakeReaches(p.Device, server.ID):
			why = "the packet that wakes it does not come into its segment"
		}
		if why != "" {
			out = append(out, about(refs(p.ID.Ref(), server.ID.Ref(), p.Device.Ref()), "server", server.Name, "device", device.Name, "why", why))
		}
	}
	return out
}

func (v *view) allRadio(device dossier.ID[dossier.Device]) bool {
	all := v.InterfacesOf(device)
	return len(all) > 0 && !slices.ContainsFunc(all, func(i dossier.Interface) bool { return i.Medium != dossier.OnRadio })
}

func (v *view) wakeReaches(from, to dossier.ID[dossier.Device]) bool {
	a, b := v.SegmentsAt(from), v.SegmentsAt(to)
	return len(a) == 0 || len(b) == 0 || shareOne(a, b) || slices.ContainsFunc(b, func(id dossier.ID[dossier.Segment]) bool {
		s, _ := v.Segments.Get(id)
		return s.WakeRelay == dossier.Yes
	})
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
	var said []string
	for _, p := range v.InUse {
		device, _ := v.Devices.Get(p.Device)
		source, _ := v.Sources.Get(p.Source)
		if p.Marks == "" || !wished[""] && !wished[device.Room] {
			continue
		}
		place := string(p.Marks)
		switch p.Marks {
		case dossier.MarksAtServer:
			place = "at " + v.Label(source.Device.Ref())
		case dossier.MarksOnDevice:
			place = "on " + device.Name
		}
		places[place], rooms[device.Room] = true, true
		f.Subjects = append(f.Subjects, p.ID.Ref())
		said = append(said, p.Name+" "+place)
	}
	if len(places) < 2 || len(rooms) < 2 {
		return nil
	}
	f.Values["places"] = strings.Join(said, ", ")
	return []Finding{f}
}

// powerSupplyWeak finds devices whose supply gives less than they need: they fail under load.
func powerSupplyWeak(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		if d.SupplyWatts > 0 && d.SupplyWatts < d.NeedsWatts {
			out = append(out, about(refs(d.ID.Ref()), "device", d.Name, "gives", number(d.SupplyWatts), "needs", number(d.NeedsWatts)))
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
			way := "fast"
			if r.Value < 0 {
				way = "slow"
			}
			out = append(out, about(refs(d.ID.Ref(), r.ID.Ref()), "device", d.Name, "off", span(math.Abs(r.Value)), "way", way))
		}
	}
	return out
}

// span writes a length of time in seconds for people: 3 h 5 min, 2 min 5 s.
func span(seconds float64) string {
	s := int(seconds)
	switch {
	case s >= 24*3600:
		return fmt.Sprintf("%d days %d h", s/86400, s%86400/3600)
	case s >= 3600:
		return fmt.Sprintf("%d h %d min", s/3600, s%3600/60)
	case s >= 60:
		return fmt.Sprintf("%d min %d s", s/60, s%60)
	}
	return fmt.Sprintf("%d s", s)
}

// unmaintained finds software that its maker has given up.
func unmaintained(v *view) []Finding {
	var out []Finding
	for _, s := range v.Software {
		if s.GivenUp {
			out = append(out, about(refs(s.ID.Ref(), s.Device.Ref()), "software", s.Name, "device", v.Label(s.Device.Ref())))
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
	for _, s := range v.Software {
		if s.EndsOn == "" || s.EndsOn > soon {
			continue
		}
		term := "licence"
		if s.Licence == dossier.LicenceTrial {
			term = "trial"
		}
		f := about(refs(s.ID.Ref(), s.Device.Ref()), "software", s.Name, "device", v.Label(s.Device.Ref()), "term", term, "on", string(s.EndsOn), "ends", "ends")
		if f.Severity = Advice; s.EndsOn < today {
			f.Severity, f.Keeps, f.Values["ends"] = Warning, KeepsPlaying, "ended"
		}
		out = append(out, f)
	}
	return out
}
