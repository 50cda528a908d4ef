package network

import (
	"cmp"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// Waking is a machine that paths need awake, who has to wake it, and whether that is possible.
type Waking struct {
	Sleeper  dossier.ID[dossier.Device]
	By       dossier.ID[dossier.Device] // "" where the machine does not sleep, or it is not recorded whether it does
	HasFiles bool                       // it has the files of the server that wakes it, or to which the path leads
	Paths    []dossier.ID[dossier.Path]
	Segments []dossier.ID[dossier.Segment] // in which it would be woken
	Medium   dossier.Medium                // of the adapter by which; "" if it is not recorded
	Wake     dossier.Wake                  // what wakes it, as it is set; "" if it is not recorded
	State    WakeState
	Why      dossier.Value // why it cannot be woken
	Unknown  []WakeGap     // what is not recorded, where it is not known whether it can
}

// WakeState says whether a machine can be woken by who needs it.
type WakeState string

// States of waking, the worst first.
const (
	WakeCannot  WakeState = "cannot"
	WakeUnknown WakeState = "not-known"
	WakeShould  WakeState = "should" // nothing recorded speaks against it; nobody has seen it
	WakeSeen    WakeState = "seen"   // it was seen to work
	WakeNeedNot WakeState = "stays-awake"
)

// Values lists them, the worst first.
func (WakeState) Values() []string {
	return []string{string(WakeCannot), string(WakeUnknown), string(WakeShould), string(WakeSeen), string(WakeNeedNot)}
}

// WakeGap is something about waking that is not recorded.
type WakeGap string

// Gaps about waking.
const (
	GapSleeps  WakeGap = "sleeps"   // whether the machine goes to sleep
	GapWokenBy WakeGap = "woken-by" // what wakes it
	GapMedium  WakeGap = "adapters" // how it is connected
	GapSends   WakeGap = "sends"    // whether who needs it can send the packet that wakes
	GapSegment WakeGap = "segments" // where one of the two is
)

// Wakings returns for all paths in use which machines have to be awake and who has to wake them: the server by the device, and a machine with
// the server's files by the server, or by the device if that opens the files itself. What cannot be woken comes first.
func Wakings(x *dossier.Index) []Waking {
	v := &view{x, knowledge.Knowledge{}, time.Time{}}
	out := v.wakings()
	slices.SortStableFunc(out, func(a, b Waking) int {
		rank := func(w Waking) int { return slices.Index(w.State.Values(), string(w.State)) }
		return cmp.Or(cmp.Compare(rank(a), rank(b)), cmp.Compare(v.Label(a.Sleeper.Ref()), v.Label(b.Sleeper.Ref())))
	})
	return out
}

func (v *view) wakings() (out []Waking) {
	at := map[[2]dossier.ID[dossier.Device]]int{}
	need := func(sleeper, by dossier.ID[dossier.Device], files bool, p dossier.Path) {
		if sleeper == "" || sleeper == by {
			return
		}
		if s, _ := v.Devices.Get(sleeper); s.Standby != dossier.Yes {
			by = ""
		}
		key := [2]dossier.ID[dossier.Device]{sleeper, by}
		n, known := at[key]
		if !known {
			n = len(out)
			at[key] = n
			out = append(out, v.waking(sleeper, by, p))
		}
		out[n].HasFiles = out[n].HasFiles || files
		if !slices.Contains(out[n].Paths, p.ID) {
			out[n].Paths = append(out[n].Paths, p.ID)
		}
	}
	for _, p := range v.InUse {
		if p.Kind == dossier.Copy {
			continue // it plays from the device's own medium
		}
		_, server := v.ServerOf(p)
		need(server.ID, p.Device, false, p)
		by := server.ID
		if p.Mode == dossier.FromFiles {
			by = p.Device
		}
		for _, f := range v.Reached(p) {
			need(f.LiesOn, by, true, p)
		}
	}
	return out
}

// waking says whether one machine can be woken by another. A packet that wakes needs a wired adapter under power, the sleeper's own segment or a
// relay into it, and someone who sends it: the device, or what it is controlled from.
func (v *view) waking(sleeper, by dossier.ID[dossier.Device], p dossier.Path) Waking {
	s, _ := v.Devices.Get(sleeper)
	w := Waking{Sleeper: sleeper, By: by, Wake: s.Wake, Segments: v.SegmentsAt(sleeper)}
	adapters := v.InterfacesOf(sleeper)
	for _, i := range adapters {
		if w.Medium == "" || i.Medium == dossier.OnCable {
			w.Medium = i.Medium
		}
	}
	sender, _ := v.Devices.Get(by)
	if c, there := v.Devices.Get(p.ControlPoint); there && by == p.Device && sender.SendsWake != dossier.Yes && c.SendsWake == dossier.Yes {
		sender, w.By = c, c.ID
	}
	switch {
	case s.Standby == dossier.No || s.Wake == dossier.WakeNever:
		w.State = WakeNeedNot
		return w
	case s.Standby == "":
		w.State, w.Unknown = WakeUnknown, []WakeGap{GapSleeps}
		return w
	case s.Wake != "" && s.Wake != dossier.WakePacket:
		w.Why = dossier.Said("woken-by-" + string(s.Wake))
	case s.Wake == "": // nothing is known of what would have to reach it
	case v.allRadio(sleeper):
		w.Why = dossier.Said("radio-only")
	case sender.SendsWake == dossier.No:
		w.Why = dossier.Said("cannot-send-wake", "device", sender.Name)
	case !v.wakeReaches(sender.ID, sleeper):
		w.Why = dossier.Said("wake-stays-out")
	}
	if len(w.Why.Phrases) > 0 {
		w.State = WakeCannot
		return w
	}
	for _, gap := range []struct {
		of   WakeGap
		open bool
	}{
		{GapWokenBy, s.Wake == ""}, {GapMedium, len(adapters) == 0}, {GapSends, sender.SendsWake == ""},
		{GapSegment, len(v.SegmentsAt(sleeper)) == 0 || len(v.SegmentsAt(sender.ID)) == 0},
	} {
		if gap.open {
			w.Unknown = append(w.Unknown, gap.of)
		}
	}
	switch {
	case s.WakeProven == dossier.Yes:
		w.State = WakeSeen
	case len(w.Unknown) > 0:
		w.State = WakeUnknown
	default:
		w.State = WakeShould
	}
	return w
}

// wakeImpossible finds machines that sleep and cannot be woken by who needs them awake.
func wakeImpossible(v *view) []Finding {
	var out []Finding
	for _, w := range v.wakings() {
		if w.State != WakeCannot {
			continue
		}
		s, _ := v.Devices.Get(w.Sleeper)
		by, _ := v.Devices.Get(w.By)
		var subjects []dossier.Ref
		for _, p := range w.Paths {
			subjects = append(subjects, p.Ref())
		}
		out = append(out, about(append(subjects, w.Sleeper.Ref(), w.By.Ref()), "server", s.Name, "device", by.Name, "why", w.Why))
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
