package proving

import (
	"fmt"
	"os"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/pathkind"
	"kaiku/homes"
)

// Every member of every kind says which kinds of test it decides, or why none; nothing else does.
func TestEveryMemberIsDeclared(t *testing.T) {
	parts := map[Part]bool{}
	for _, k := range dossier.Kinds {
		declared := relevance[k.Name]
		var names []string
		for _, f := range k.Fields {
			if f.Name == "id" || f.Name == "revision" {
				continue
			}
			names = append(names, f.Name)
			r, known := declared[f.Name]
			if !assert.True(t, known, "%s.%s is not in the table of relevance: say which tests it decides, or why none", k.Name, f.Name) {
				continue
			}
			said := 0
			for _, one := range []bool{len(r.by) > 0, r.none != "", r.chooses != ""} {
				if one {
					said++
				}
			}
			assert.Equal(t, 1, said, "%s.%s decides, chooses, or does neither for a reason", k.Name, f.Name)
			assert.LessOrEqual(t, r.since, Version, "%s.%s", k.Name, f.Name)
			for p := range r.by {
				parts[p] = true
			}
		}
		for name := range declared {
			assert.Contains(t, names, name, "%s has no member %s", k.Name, name)
		}
	}
	for p := asPath; p <= asSet; p++ {
		assert.True(t, parts[p], "nothing decides in part %d", p)
	}
}

func TestKindsAndActsFitTogether(t *testing.T) {
	used := map[string]bool{}
	for _, k := range Kinds {
		used[k.Act] = true
		assert.True(t, slices.ContainsFunc(Acts, func(a Act) bool { return a.Name == k.Act }), "%s is proven by the act %s, which is not declared", k.Name, k.Act)
		assert.True(t, slices.ContainsFunc(pathkind.Kinds, func(p pathkind.Kind) bool { return p.Proves(k.Name) }), "no kind of path is proven by %s", k.Name)
		for _, before := range k.After {
			_, known := KindNamed(before)
			assert.True(t, known, before)
		}
		_, sets := witnessed[k.Name]
		assert.False(t, sets && k.About != AboutPath, "only a path can be witness for another: %s", k.Name)
	}
	for _, a := range Acts {
		assert.True(t, used[a.Name], "the act %s proves nothing", a.Name)
	}
	for _, p := range pathkind.Kinds {
		assert.NotEmpty(t, p.Speaks, p.Name)
		assert.NotEmpty(t, p.Found, p.Name)
		for _, name := range p.Tests {
			_, known := KindNamed(name)
			assert.True(t, known, "%s: no kind of test %s", p.Name, name)
		}
		last := -1
		for _, name := range p.Needs {
			at := slices.IndexFunc(Needs, func(n Need) bool { return n.What == name })
			assert.Greater(t, at, last, "%s: %s is unknown or stands in another order than it is met", p.Name, name)
			last = at
		}
	}
	for kind := range witnessed {
		_, known := KindNamed(kind)
		assert.True(t, known, kind)
	}
	assert.True(t, OnPlay.Takes(OnReach))
	assert.False(t, OnReach.Takes(OnPlay))
}

// naive finds what a test stands on by its own means: slowly, record by record, asking of each
// whether it plays a part for the test. It is held against what the plan computes.
// held is a record with the part it plays.
type held struct {
	playing
	record dossier.Record
}

type naive struct {
	*dossier.Index
	way  *view // only for the ways up to the root
	cast map[string][]held
}

func byHand(d *dossier.Dossier) naive {
	x := d.Index()
	return naive{x, look(x), map[string][]held{}}
}

// who lists every record that plays a part for a path with these folders.
func (n naive) who(p dossier.Path, folders []dossier.Folder) []held {
	key := string(p.ID)
	for _, f := range folders {
		key += string(f.ID)
	}
	if out, known := n.cast[key]; known {
		return out
	}
	var out []held
	for _, k := range dossier.Kinds {
		for part := range rows[k.Name] {
			list := k.In(n.Dossier)
			for i := range list.Len() {
				if r := list.At(i); n.plays(part, r, p, folders) {
					out = append(out, held{playing{part, dossier.Ref{Kind: k.Name, ID: r.Key()}}, r})
				}
			}
		}
	}
	n.cast[key] = out
	return out
}

func (n naive) facts(t Test) map[string]string {
	out := map[string]string{}
	take := func(p dossier.Path, folders []dossier.Folder, on Basis) {
		for _, one := range n.who(p, folders) {
			for _, f := range dossier.KindNamed(one.ref.Kind).Fields {
				if from, decides := relevance[one.ref.Kind][f.Name].by[one.part]; decides && on.Takes(from) {
					n.put(out, one.ref, f, one.record)
				}
			}
		}
	}
	path, _ := n.Paths.Get(t.Path)
	switch {
	case t.Kind.About == AboutSet:
		set, _ := n.BusySets.Get(dossier.ID[dossier.BusySet](t.Subjects[0].ID))
		for _, id := range set.Paths {
			if p, ok := n.Paths.Get(id); ok && !p.Retired {
				take(p, n.folders(p), t.Kind.On)
			}
		}
		for _, name := range []string{"paths"} {
			f, _ := dossier.KindNamed("busy-set").Field(name)
			n.put(out, set.ID.Ref(), f, set)
		}
	case t.Kind.About == AboutFolder:
		folder, _ := n.Folders.Get(dossier.ID[dossier.Folder](t.Subjects[0].ID))
		take(path, []dossier.Folder{folder}, t.Kind.On)
	case t.Kind.On == OnFallBack:
		f, _ := dossier.KindNamed("path").Field("fallBack")
		n.put(out, path.ID.Ref(), f, path)
		if other, ok := n.Paths.Get(path.FallBack); ok {
			take(other, n.folders(other), OnPlay)
		}
	default:
		take(path, n.folders(path), t.Kind.On)
	}
	return out
}

func (n naive) put(out map[string]string, ref dossier.Ref, f dossier.Field, r dossier.Record) {
	row := relevance[ref.Kind][f.Name]
	one := dossier.Fact{Subject: ref, Name: f.Name, Value: text(f.Get(r))}
	switch {
	case row.as != nil:
		one, _ = row.as(n.Index, r)
	case row.class != nil:
		one.Value = row.class(r, f.Get(r))
	}
	if one.Value != "" {
		out[one.Subject.String()+" "+one.Name] = one.Value
	}
}

func (n naive) folders(p dossier.Path) (out []dossier.Folder) {
	for _, f := range n.Folders {
		if f.Source == p.Source && !p.NoFolders && (len(p.Folders) == 0 || slices.Contains(p.Folders, f.ID)) {
			out = append(out, f)
		}
	}
	return out
}

// plays reports whether a record plays a part for a path.
func (n naive) plays(part Part, r dossier.Record, p dossier.Path, folders []dossier.Folder) bool {
	source, _ := n.Sources.Get(p.Source)
	server := source.Device
	if source.ID == "" {
		return part == asPath && r.Key() == string(p.ID) || n.playsAlone(part, r, p, folders)
	}
	served := n.ListensOn(source)
	from, at := n.SegmentsOf(served), n.SegmentsOf(n.InterfacesOf(p.Device))
	switch part {
	case asSource:
		return r.Key() == string(source.ID)
	case asOtherSource:
		return r.Key() != string(source.ID) && r.(dossier.Source).Protocol == dossier.ProtocolUPnPAV
	case asServer:
		return r.Key() == string(server)
	case asServerAdapter:
		return slices.ContainsFunc(served, func(i dossier.Interface) bool { return string(i.ID) == r.Key() })
	case asServerSegment:
		return slices.Contains(from, dossier.ID[dossier.Segment](r.Key()))
	case asServerSoftware:
		s := r.(dossier.Software)
		return s.Device == server && s.Does != dossier.SoftwarePlayer && s.Does != dossier.SoftwareControl
	case asServerSetting:
		return n.setOn(r.(dossier.Setting), server, func(s dossier.Software) bool {
			return s.Does != dossier.SoftwarePlayer && s.Does != dossier.SoftwareControl
		})
	case asServerOpening:
		o := r.(dossier.Opening)
		return o.Device == server && o.Direction == dossier.Inward && n.needs(o, p, source, pathkind.AtServer)
	case asDeviceOpening:
		o := r.(dossier.Opening)
		return o.Device == p.Device && (o.Direction == dossier.Inward && n.needs(o, p, source, pathkind.AtDevice) || o.Direction == dossier.Outward && n.needs(o, p, source, pathkind.AtServer))
	case asRouter:
		return n.routes(r.(dossier.Device), slices.Concat(from, at))
	case asRouterSetting:
		v, ok := n.Devices.Get(dossier.ID[dossier.Device](r.(dossier.Setting).Subject.ID))
		return ok && r.(dossier.Setting).Subject.Kind == "device" && n.routes(v, slices.Concat(from, at))
	case asDHCP:
		return slices.Contains(slices.Concat(from, at), r.(dossier.DHCPServer).Segment)
	case asRegister:
		e := r.(dossier.RegisterEntry)
		return e.Device == p.Device && e.Server == server
	case asAccount:
		return r.Key() == string(source.Account) || r.Key() == string(p.Account)
	case asSecret:
		for _, a := range n.Accounts {
			if (a.ID == source.Account || a.ID == p.Account) && string(a.Secret) == r.Key() {
				return true
			}
		}
		return false
	case asSignal:
		reading := r.(dossier.Reading)
		of := n.Index.MeasuredAt(reading.Subject)
		newest, ok := n.Index.Newest(of, dossier.SignalDbm)
		return ok && newest.ID == reading.ID && (of == p.Device || of == server)
	case asGear, asGearAdapter, asGearSetting, asLink, asOutlet:
		return n.between(part, r, server, p.Device)
	}
	return n.playsAlone(part, r, p, folders)
}

// playsAlone is what does not depend on the source.
func (n naive) playsAlone(part Part, r dossier.Record, p dossier.Path, folders []dossier.Folder) bool {
	source, _ := n.Sources.Get(p.Source)
	at := n.SegmentsOf(n.InterfacesOf(p.Device))
	switch part {
	case asPath:
		return r.Key() == string(p.ID)
	case asOther:
		o := r.(dossier.Path)
		x := n.Index
		return !o.Retired && o.Device != p.Device && brings(x, o, resumed) && brings(x, p, resumed)
	case asDevice:
		return r.Key() == string(p.Device)
	case asDeviceAdapter:
		return r.(dossier.Interface).Device == p.Device
	case asDeviceSegment:
		return slices.Contains(at, dossier.ID[dossier.Segment](r.Key()))
	case asNamingSegment:
		return p.FoundBy == dossier.ByName && slices.Contains(at, dossier.ID[dossier.Segment](r.Key()))
	case asDeviceSoftware:
		s := r.(dossier.Software)
		return s.Device == p.Device && (p.Device != source.Device || s.Does == dossier.SoftwarePlayer || s.Does == dossier.SoftwareControl)
	case asDeviceSetting:
		s := r.(dossier.Setting)
		if s.Subject == p.ControlPoint.Ref() && p.ControlPoint != "" {
			return true
		}
		return n.setOn(s, p.Device, func(one dossier.Software) bool {
			return p.Device != source.Device || one.Does == dossier.SoftwarePlayer || one.Does == dossier.SoftwareControl
		})
	case asFolder:
		return slices.ContainsFunc(folders, func(f dossier.Folder) bool { return string(f.ID) == r.Key() })
	case asStorage, asStorageAdapter, asStorageSetting:
		for _, f := range folders {
			if f.LiesOn == "" {
				continue
			}
			switch one := r.(type) {
			case dossier.Device:
				if one.ID == f.LiesOn {
					return true
				}
			case dossier.Interface:
				if one.Device == f.LiesOn {
					return true
				}
			case dossier.Setting:
				if one.Subject == f.LiesOn.Ref() {
					return true
				}
			}
		}
	case asController:
		return p.ControlPoint != "" && r.Key() == string(p.ControlPoint)
	case asControllerAdapter:
		return p.ControlPoint != "" && r.(dossier.Interface).Device == p.ControlPoint
	case asChainLink:
		return slices.Contains(n.chain(p.Device), r.(dossier.ChainLink).From)
	case asChained:
		return r.Key() != string(p.Device) && slices.Contains(n.chain(p.Device), dossier.ID[dossier.Device](r.Key()))
	case asRestriction:
		one := r.(dossier.Restriction)
		device, _ := n.Devices.Get(p.Device)
		here := one.Device == p.Device && one.Device != "" || one.Room != "" && one.Room == device.Room
		return here && brings(n.Index, p, one.Contents)
	case asLine:
		return true
	case asWiFiSecret:
		s := r.(dossier.Secret)
		return s.Segment != "" && slices.Contains(at, s.Segment)
	}
	return false
}

func (n naive) setOn(s dossier.Setting, device dossier.ID[dossier.Device], of func(dossier.Software) bool) bool {
	if s.Subject == device.Ref() {
		return true
	}
	one, ok := n.Software.Get(dossier.ID[dossier.Software](s.Subject.ID))
	return ok && s.Subject.Kind == "software" && one.Device == device && of(one)
}

func (n naive) needs(o dossier.Opening, p dossier.Path, s dossier.Source, end pathkind.End) bool {
	for _, port := range pathkind.PortsFor(p, s) {
		if port.At == end && port.Direction == dossier.Inward && o.Transport == port.Transport && (port.Number == 0 || port.Number >= o.Port && port.Number <= max(o.Port, o.LastPort)) {
			return true
		}
	}
	return false
}

func (n naive) routes(v dossier.Device, segments []dossier.ID[dossier.Segment]) bool {
	if !slices.Contains(v.Roles, dossier.RoleRouter) {
		return false
	}
	in := n.SegmentsOf(n.InterfacesOf(v.ID))
	return len(in) == 0 || slices.ContainsFunc(in, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(segments, s) })
}

func (n naive) chain(from dossier.ID[dossier.Device]) []dossier.ID[dossier.Device] {
	out := []dossier.ID[dossier.Device]{from}
	for again := true; again; {
		again = false
		for _, l := range n.ChainLinks {
			if slices.Contains(out, l.From) && !slices.Contains(out, l.To) {
				out, again = append(out, l.To), true
			}
		}
	}
	return out
}

// between reports whether a record lies on the way between two devices: on the way of one of them to
// the root, but not on that of both, or where the two meet.
func (n naive) between(part Part, r dossier.Record, a, b dossier.ID[dossier.Device]) bool {
	mine, other := n.way.upwards(a), n.way.upwards(b)
	var devices []dossier.ID[dossier.Device]
	var links []dossier.ID[dossier.Link]
	met := false
	for _, x := range mine {
		shared := false
		for _, y := range other {
			shared = shared || x.Device == y.Device
		}
		if shared && met {
			break
		}
		devices = append(devices, x.Device)
		if shared {
			met = true
			continue
		}
		links = append(links, x.Up)
	}
	for _, y := range other {
		shared := false
		for _, x := range mine {
			shared = shared || x.Device == y.Device
		}
		if shared {
			break
		}
		devices, links = append(devices, y.Device), append(links, y.Up)
	}
	joined := len(mine) > 0 && len(other) > 0 && mine[len(mine)-1].Device == other[len(other)-1].Device
	gear := func(id dossier.ID[dossier.Device]) bool {
		one, _ := n.Devices.Get(id)
		if !joined {
			in := n.SegmentsOf(n.InterfacesOf(id))
			near := slices.Concat(n.SegmentsOf(n.InterfacesOf(a)), n.SegmentsOf(n.InterfacesOf(b)))
			carries := slices.ContainsFunc(one.Roles, func(r dossier.Role) bool {
				return slices.Contains([]dossier.Role{dossier.RoleSwitch, dossier.RoleAccessPoint, dossier.RoleRepeater, dossier.RolePowerline}, r)
			})
			if carries && id != a && id != b && !slices.Contains(one.Roles, dossier.RoleRouter) && (len(in) == 0 || slices.ContainsFunc(in, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(near, s) })) {
				return true
			}
		}
		return id != a && id != b && slices.Contains(devices, id) && !slices.Contains(one.Roles, dossier.RoleRouter)
	}
	on := func(l dossier.Link) bool { return l.ID != "" && slices.Contains(links, l.ID) }
	switch part {
	case asGear:
		return gear(dossier.ID[dossier.Device](r.Key()))
	case asGearSetting:
		s := r.(dossier.Setting)
		return s.Subject.Kind == "device" && gear(dossier.ID[dossier.Device](s.Subject.ID))
	case asLink:
		return on(r.(dossier.Link))
	case asGearAdapter:
		i := r.(dossier.Interface)
		return i.Device != a && i.Device != b && slices.ContainsFunc(n.Links, func(l dossier.Link) bool { return on(l) && (l.Near == i.ID || l.Far == i.ID) })
	case asOutlet:
		return slices.ContainsFunc(n.Links, func(l dossier.Link) bool { return on(l) && string(l.Outlet) == r.Key() })
	}
	return false
}

// histories is how many changes are tried; KAIKU_HISTORIES asks for more.
func histories() int {
	if n, err := strconv.Atoi(os.Getenv("KAIKU_HISTORIES")); err == nil {
		return n
	}
	return 800
}

// A change of a member that decides makes exactly the tests stale that stand on it; any other makes
// none. Homes, records, members and values are drawn; what a test stands on is found a second time
// by other means.
func TestAChangeMakesExactlyWhatStandsOnItStale(t *testing.T) {
	perHome := 50
	left := histories()
	made, decided := 0, 0
	for left > 0 {
		left -= perHome
		rapid.Custom(func(r *rapid.T) bool {
			base := homes.Furnished(r).Clone()
			proveEverything(base)
			before := map[string]map[string]string{}
			then := byHand(base)
			for _, one := range NewPlan(base.Index()).Tests {
				before[one.id] = then.facts(one)
			}
			for range perHome {
				d := base.Clone()
				k := rapid.SampledFrom(changeable()).Draw(r, "kind")
				rows := k.In(d)
				if rows.Len() == 0 {
					continue
				}
				ref := dossier.Ref{Kind: k.Name, ID: rows.At(rapid.IntRange(0, rows.Len()-1).Draw(r, "record")).Key()}
				f := rapid.SampledFrom(k.Fields).Draw(r, "member")
				if !homes.Redraw(r, d, ref, f) {
					continue
				}
				made++
				why := fmt.Sprintf("%s of %s changed", f.Name, ref)
				row := relevance[k.Name][f.Name]
				after := byHand(d)
				for _, s := range Statuses(NewPlan(d.Index()), Against{}) {
					then, planned := before[s.Test.id]
					if !planned {
						continue // it is asked for only now
					}
					now := after.facts(s.Test)
					taken := map[string]string{}
					for _, f := range s.Test.Facts() {
						taken[f.Subject.String()+" "+f.Name] = f.Value
					}
					require.Equal(t, now, taken, "%s: what %s stands on", why, s.Test.id)
					differs := len(then) != len(now)
					for key, value := range now {
						differs = differs || then[key] != value
					}
					if differs {
						decided++
					}
					require.Equal(t, differs, s.Status == Stale, "%s: %s is %s, %v", why, s.Test.id, s.Status, s.Changes)
					if row.none != "" {
						require.False(t, differs, "%s decides nothing, as the table says, but %s stands on it", why, s.Test.id)
					}
				}
			}
			return true
		}).Example(made + 1)
	}
	t.Logf("%d changes, %d tests made stale", made, decided)
	assert.Greater(t, decided, made/20, "changes that decide are drawn often enough")
}

func changeable() []*dossier.Kind {
	return slices.DeleteFunc(slices.Clone(dossier.Kinds), func(k *dossier.Kind) bool {
		return slices.Contains([]string{"household", "attempt", "waiver", "handover", "gap-answer", "attachment"}, k.Name)
	})
}

func proveEverything(d *dossier.Dossier) {
	for n, one := range NewPlan(d.Index()).Tests {
		a := dossier.Attempt{Test: one.Kind.Name, Subjects: one.Subjects, Outcome: dossier.Pass, Facts: one.Facts(), Version: Version, At: homes.Day.Add(time.Hour), By: homes.Person}
		a.ID = homes.AttemptID(1000 + n)
		d.Attempts.Put(a)
	}
}
