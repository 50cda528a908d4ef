package suspects

import (
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/homes"
)

// cabled is threeRooms with a router and its line, a program on the server, an entry for the first screen, and the cables that the first two paths take:
// from the server to the router, and from there to each screen.
func cabled() (*dossier.Dossier, *load.Load) {
	d := threeRooms()
	router := dossier.Device{Name: "router", Roles: []dossier.Role{dossier.RoleRouter}}
	router.ID = homes.ID[dossier.Device](7)
	d.Devices.Put(router)
	line := dossier.Line{Name: "fibre", Router: router.ID}
	line.ID = homes.ID[dossier.Line](0)
	d.Lines.Put(line)
	program := dossier.Software{Device: homes.ID[dossier.Device](0), Name: "shelf"}
	program.ID = homes.ID[dossier.Software](0)
	d.Software.Put(program)
	entry := dossier.RegisterEntry{Device: homes.ID[dossier.Device](1), Server: homes.ID[dossier.Device](0)}
	entry.ID = homes.ID[dossier.RegisterEntry](0)
	d.RegisterEntries.Put(entry)
	guest := dossier.Interface{Device: homes.ID[dossier.Device](2), Name: "radio", Segment: homes.ID[dossier.Segment](1)}
	guest.ID = homes.ID[dossier.Interface](2)
	d.Interfaces.Put(guest)
	adapters := []dossier.ID[dossier.Interface]{homes.ID[dossier.Interface](0), homes.ID[dossier.Interface](1), guest.ID}
	for n, near := range adapters {
		port := dossier.Interface{Device: router.ID, Name: []string{"a", "b", "c"}[n]}
		port.ID = homes.ID[dossier.Interface](10 + n)
		d.Interfaces.Put(port)
		l := dossier.Link{Near: near, Far: port.ID, Kind: dossier.LinkCable}
		l.ID = homes.ID[dossier.Link](n)
		d.Links.Put(l)
	}
	link := homes.ID[dossier.Link]
	return d, &load.Load{Alone: []load.Case{
		{Flows: []load.Flow{{Path: d.Paths[0].ID, Links: []dossier.ID[dossier.Link]{link(0), link(1)}}}},
		{Flows: []load.Flow{{Path: d.Paths[1].ID, Links: []dossier.ID[dossier.Link]{link(0), link(2)}}}},
	}}
}

// Every part of a home stands once among the components, with the paths that depend on it, the device at which a change may have brought it about, and the
// records that a finding about it may name.
func TestThePartsOfAHome(t *testing.T) {
	d, ways := cabled()
	s := &solving{Case: Case{Home: d.Index(), Load: ways, Faults: Shipped()}}
	device, path, link := homes.ID[dossier.Device], homes.ID[dossier.Path], homes.ID[dossier.Link]
	adapter, program := homes.ID[dossier.Interface], homes.ID[dossier.Software](0).Ref()
	source, server, router := d.Sources[0].ID.Ref(), device(0).Ref(), device(7)
	entry := d.RegisterEntries[0].ID.Ref()
	type part struct {
		about  dossier.Ref
		device dossier.ID[dossier.Device]
		paths  []int
		names  []dossier.Ref
		outer  bool
	}
	all := []int{0, 1, 2}
	want := map[Part][]part{
		AtServer: {{server, device(0), all, []dossier.Ref{adapter(0).Ref(), server, program, source}, false}},
		AtSource: {{source, device(0), all, []dossier.Ref{program, server}, false}},
		AtFolder: {{d.Folders[0].ID.Ref(), device(0), []int{0, 1}, []dossier.Ref{source}, false}, {d.Folders[1].ID.Ref(), device(0), []int{2}, []dossier.Ref{source}, false}},
		AtDevice: {
			{device(1).Ref(), device(1), []int{0}, []dossier.Ref{adapter(1).Ref(), device(1).Ref(), path(0).Ref()}, true},
			{device(2).Ref(), device(2), []int{1}, []dossier.Ref{adapter(2).Ref(), device(2).Ref(), path(1).Ref()}, true},
			{device(3).Ref(), device(3), []int{2}, []dossier.Ref{device(3).Ref(), path(2).Ref()}, true},
		},
		AtPath: {
			{path(0).Ref(), device(1), []int{0}, []dossier.Ref{device(1).Ref(), source}, true},
			{path(1).Ref(), device(2), []int{1}, []dossier.Ref{device(2).Ref(), source}, true},
			{path(2).Ref(), device(3), []int{2}, []dossier.Ref{device(3).Ref(), source}, true},
		},
		AtPairing: {
			{device(1).Ref(), device(1), []int{0}, []dossier.Ref{source, path(0).Ref(), entry}, true},
			{device(2).Ref(), device(2), []int{1}, []dossier.Ref{source, path(1).Ref()}, true},
			{device(3).Ref(), device(3), []int{2}, []dossier.Ref{source, path(2).Ref()}, true},
		},
		AtSegment: {{homes.ID[dossier.Segment](0).Ref(), "", all, nil, false}, {homes.ID[dossier.Segment](1).Ref(), "", []int{1}, nil, false}},
		AtLink: {
			{link(0).Ref(), "", []int{0, 1}, []dossier.Ref{adapter(0).Ref(), adapter(10).Ref()}, false},
			{link(1).Ref(), "", []int{0}, []dossier.Ref{adapter(1).Ref(), adapter(11).Ref()}, true},
			{link(2).Ref(), "", []int{1}, []dossier.Ref{adapter(2).Ref(), adapter(12).Ref()}, true},
		},
		AtGateway: {{router.Ref(), router, all, nil, false}},
		AtLine:    {{d.Lines[0].ID.Ref(), router, all, nil, false}},
	}
	got := s.components()
	require.Len(t, got, len(AtServer.Values()), "a kind of part of which this home has none")
	for kind, parts := range want {
		require.Len(t, got[kind], len(parts), kind)
		for n, p := range parts {
			c := got[kind][n]
			assert.Equal(t, p.about, c.ref)
			assert.Equal(t, p.device, c.device, "%s %d", kind, n)
			assert.Equal(t, p.outer, c.outer, "%s %d", kind, n)
			var paths []int
			for n, x := range d.Paths {
				if c.paths[x.ID] {
					paths = append(paths, n)
				}
			}
			assert.Equal(t, p.paths, paths, "%s %d", kind, n)
			for _, r := range p.names {
				assert.True(t, c.alias[r], "%s %d: %v", kind, n, r)
			}
			assert.Len(t, c.alias, len(p.names), "%s %d", kind, n)
		}
	}
	straight := &load.Load{Alone: []load.Case{{Flows: []load.Flow{{Path: d.Paths[0].ID, Links: []dossier.ID[dossier.Link]{link(1)}}}}}}
	assert.True(t, (&solving{Case: Case{Home: d.Index(), Load: straight}}).components()[AtLink][0].outer, "the last cable is at the device, even if it is the first too")
	assert.Empty(t, (&solving{Case: Case{Home: d.Index()}}).components()[AtLink], "ways that are not known pass no cable")

	// A second server of the same device is a pairing of its own, and the device is still one.
	other := d.Devices[0]
	other.ID, other.Name = device(8), "second server"
	d.Devices.Put(other)
	from := d.Sources[0]
	from.ID, from.Device = homes.ID[dossier.Source](1), other.ID
	d.Sources.Put(from)
	more := d.Paths[0]
	more.ID, more.Name, more.Source, more.Folders = path(3), "lamp room again", from.ID, nil
	d.Paths.Put(more)
	got = (&solving{Case: Case{Home: d.Index()}}).components()
	assert.Len(t, got[AtDevice], 3)
	assert.Len(t, got[AtPairing], 4)
	assert.Len(t, got[AtServer], 2)
}

// odds puts one mode at a part and returns its odds at each component that can have it, before anything is weighed.
func odds(s *solving, m Mode) map[dossier.Ref]float64 {
	m.ID = "one"
	s.Faults, s.hyps = &Faults{Modes: []Mode{m}}, nil
	s.hypotheses()
	out := map[dossier.Ref]float64{}
	for _, h := range s.hyps {
		out[h.about] = h.prior
	}
	return out
}

// A change of a device shortly before makes likelier what a change brings about, and a reset what only a reset does.
func TestWhatAChangeBringsAbout(t *testing.T) {
	screen, other := homes.ID[dossier.Device](1), homes.ID[dossier.Device](2)
	since := homes.Day
	day := 24 * time.Hour
	type done struct {
		device dossier.ID[dossier.Device]
		at     time.Duration
		effect dossier.Effect
	}
	for name, c := range map[string]struct {
		done  []done
		after []After
		began time.Time
		want  float64
	}{
		"nothing was done":                {nil, []After{AfterChange, AfterReset}, since, 1},
		"a change":                        {[]done{{screen, -day, ""}}, []After{AfterChange}, since, changed},
		"of another device":               {[]done{{other, -day, ""}}, []After{AfterChange}, since, 1},
		"that brings nothing about":       {[]done{{screen, -day, ""}}, nil, since, 1},
		"a change is no reset":            {[]done{{screen, -day, ""}}, []After{AfterReset}, since, 1},
		"a reset":                         {[]done{{screen, -day, dossier.EffectReset}}, []After{AfterReset}, since, wasReset},
		"a reset is a change":             {[]done{{screen, -day, dossier.EffectReset}}, []After{AfterChange}, since, changed},
		"of both, the graver":             {[]done{{screen, -day, dossier.EffectReset}}, []After{AfterChange, AfterReset}, since, wasReset},
		"a reset, and a change after it":  {[]done{{screen, -2 * day, dossier.EffectReset}, {screen, -day, ""}}, []After{AfterReset}, since, wasReset},
		"a change, and a reset after it":  {[]done{{screen, -2 * day, ""}, {screen, -day, dossier.EffectReset}}, []After{AfterReset}, since, wasReset},
		"just within two weeks":           {[]done{{screen, -14*day + time.Second, ""}}, []After{AfterChange}, since, changed},
		"two weeks ago":                   {[]done{{screen, -14 * day, ""}}, []After{AfterChange}, since, 1},
		"since it began":                  {[]done{{screen, day, ""}}, []After{AfterChange}, since, changed},
		"at this moment":                  {[]done{{screen, 20 * day, ""}}, []After{AfterChange}, since, changed},
		"only later":                      {[]done{{screen, 20*day + time.Second, ""}}, []After{AfterChange}, since, 1},
		"it is not known when it began":   {[]done{{screen, 7 * day, ""}}, []After{AfterChange}, time.Time{}, changed},
		"nor was it done in the last two": {[]done{{screen, 6 * day, ""}}, []After{AfterChange}, time.Time{}, 1},
	} {
		d, _ := cabled()
		for n, x := range c.done {
			ch := dossier.Change{Device: x.device, What: name, At: since.Add(x.at), Effect: x.effect}
			ch.ID = homes.ID[dossier.Change](n)
			d.Changes.Put(ch)
		}
		s := &solving{Case: Case{Home: d.Index(), Since: c.began, Now: since.Add(20 * day)}}
		got := odds(s, Mode{At: AtDevice, Odds: 2, After: c.after})
		assert.InDelta(t, 2*c.want, got[screen.Ref()], 1e-12, name)
		assert.InDelta(t, 2, got[homes.ID[dossier.Device](3).Ref()], 1e-12, name)
	}
}

// So does a change of one of its records, and a finding that names it.
func TestWhatARecordTells(t *testing.T) {
	d, ways := cabled()
	x := d.Index()
	adapter, screen := homes.ID[dossier.Interface](1).Ref(), homes.ID[dossier.Device](1).Ref()
	mode := Mode{At: AtDevice, Odds: 2, After: []After{AfterChange}, Finds: []string{"first-code", "other-code"}}
	with := func(changed []dossier.Ref, findings ...network.Finding) *solving {
		return &solving{Case: Case{Home: x, Load: ways, Now: homes.Day, Changed: changed, Findings: findings}}
	}
	finding := func(code string, about ...dossier.Ref) network.Finding {
		return network.Finding{Code: code, Subjects: about}
	}
	for name, c := range map[string]struct {
		s    *solving
		want float64
		told bool
	}{
		"nothing":                {with(nil), 1, false},
		"the device was changed": {with([]dossier.Ref{screen}), changed, false},
		"its adapter was":        {with([]dossier.Ref{adapter}), changed, false},
		"another was":            {with([]dossier.Ref{homes.ID[dossier.Interface](0).Ref()}), 1, false},
		"a finding about it":     {with(nil, finding("other-code", screen)), told, true},
		"about its adapter":      {with(nil, finding("other-code", homes.ID[dossier.Segment](0).Ref(), adapter)), told, true},
		"about another":          {with(nil, finding("other-code", homes.ID[dossier.Device](3).Ref())), 1, false},
		"of another kind":        {with(nil, finding("third-code", screen)), 1, false},
		"the second of two":      {with(nil, finding("first-code", homes.ID[dossier.Device](2).Ref()), finding("first-code", screen)), told, true},
		"two count once":         {with(nil, finding("first-code", screen), finding("other-code", screen)), told, true},
		"a finding and a change": {with([]dossier.Ref{screen}, finding("first-code", screen)), told * changed, true},
	} {
		got := odds(c.s, mode)
		assert.InDelta(t, 2*c.want, got[screen], 1e-12, name)
		for _, h := range c.s.hyps {
			if h.about == screen {
				assert.Equal(t, c.told, h.found != nil, name)
				if h.found != nil {
					assert.True(t, slices.Contains(h.found.Subjects, screen) || slices.Contains(h.found.Subjects, adapter), name)
					grounds, _ := c.s.grounds(&h)
					require.NotEmpty(t, grounds, name)
					assert.Same(t, h.found, grounds[0].Finding, name)
					assert.InDelta(t, math.Log(told), grounds[0].Weight, 1e-12, name)
				}
			}
		}
	}
	s := with(nil)
	odds(s, Mode{At: AtFolder, Odds: 1})
	require.Len(t, s.hyps, 2)
	assert.Equal(t, d.Folders[1].ID, s.hyps[1].folder)
	odds(s, Mode{At: AtSource, Odds: 1})
	assert.Empty(t, s.hyps[0].folder)
	assert.False(t, s.hyps[0].outer)
	odds(s, Mode{At: AtPath, Odds: 1})
	assert.True(t, s.hyps[0].outer)
}

// A mode is only where it can be; where what decides that is not recorded it is less likely, but possible.
func TestWhereAModeCanBe(t *testing.T) {
	server, screen, films, first := homes.ID[dossier.Device](0).Ref(), homes.ID[dossier.Device](1).Ref(), homes.ID[dossier.Source](0).Ref(), homes.ID[dossier.Link](0).Ref()
	medium := func(number int, m dossier.Medium) func(*dossier.Dossier) {
		return func(d *dossier.Dossier) { d.Interfaces.Find(homes.ID[dossier.Interface](number)).Medium = m }
	}
	sleeps := func(a dossier.Answer) func(*dossier.Dossier) {
		return func(d *dossier.Dossier) { d.Devices.Find(homes.ID[dossier.Device](0)).Standby = a }
	}
	converts := func(c dossier.Conversion) func(*dossier.Dossier) {
		return func(d *dossier.Dossier) { d.Sources.Find(homes.ID[dossier.Source](0)).Converts = c }
	}
	radio := Only{Media: []dossier.Medium{dossier.OnRadio}}
	for name, c := range map[string]struct {
		at     Part
		only   Only
		record func(*dossier.Dossier)
		about  dossier.Ref
		want   float64
	}{
		"anything":                    {AtDevice, Only{}, nil, screen, 1},
		"the protocol":                {AtSource, Only{Protocols: []dossier.Protocol{dossier.ProtocolUPnPAV}}, nil, films, 1},
		"another protocol":            {AtSource, Only{Protocols: []dossier.Protocol{dossier.ProtocolSMB}}, nil, films, 0},
		"the kind of path":            {AtDevice, Only{Paths: []dossier.PathKind{dossier.AVPull}}, nil, screen, 1},
		"another kind of path":        {AtDevice, Only{Paths: []dossier.PathKind{dossier.Share}}, nil, screen, 0},
		"the kind of link":            {AtLink, Only{Links: []dossier.LinkKind{dossier.LinkCable}}, nil, first, 1},
		"another kind of link":        {AtLink, Only{Links: []dossier.LinkKind{dossier.LinkRadio}}, nil, first, 0},
		"on the radio":                {AtDevice, radio, medium(1, dossier.OnRadio), screen, 1},
		"on a cable":                  {AtDevice, radio, medium(1, dossier.OnCable), screen, 0},
		"on what is not known":        {AtDevice, radio, medium(1, ""), screen, perhapsHas},
		"no adapter is known":         {AtDevice, radio, nil, homes.ID[dossier.Device](3).Ref(), perhapsHas},
		"goes to sleep":               {AtServer, Only{Sleeps: true}, sleeps(dossier.Yes), server, 1},
		"never sleeps":                {AtServer, Only{Sleeps: true}, sleeps(dossier.No), server, 0},
		"may sleep":                   {AtServer, Only{Sleeps: true}, sleeps(""), server, perhapsHas},
		"converts":                    {AtSource, Only{Converts: true}, converts(dossier.ConvertsAll), films, 1},
		"converts nothing":            {AtSource, Only{Converts: true}, converts(dossier.ConvertsNothing), films, 0},
		"may convert":                 {AtSource, Only{Converts: true}, converts(""), films, perhapsHas},
		"may convert, and may sleep":  {AtSource, Only{Converts: true, Sleeps: true}, nil, films, perhapsHas * perhapsHas},
		"may sleep, and may be radio": {AtServer, Only{Sleeps: true, Media: radio.Media}, nil, server, perhapsHas * perhapsHas},
	} {
		d, ways := cabled()
		if c.record != nil {
			c.record(d)
		}
		s := &solving{Case: Case{Home: d.Index(), Load: ways, Now: homes.Day}}
		got, there := odds(s, Mode{At: c.at, Odds: 2, Only: c.only})[c.about]
		assert.InDelta(t, 2*c.want, got, 1e-12, name)
		assert.Equal(t, c.want > 0, there, name)
	}
}

// What was answered makes a fault likelier or less likely by how much likelier the answer is under it, and is named as its ground.
func TestWhatAnAnswerTells(t *testing.T) {
	here, there, part := dossier.Ref{Kind: "device", ID: "here"}, dossier.Ref{Kind: "device", ID: "there"}, dossier.Ref{Kind: "interface", ID: "part"}
	f := &Faults{Questions: []Question{{ID: "hot", Yes: .2, Reliable: .9}, {ID: "dark", Yes: .5, Reliable: .9}},
		Modes: []Mode{{ID: "one", After: []After{AfterChange}, Swap: "another cable", Answers: map[string]float64{"hot": .9}}, {ID: "two", Answers: map[string]float64{"hot": .05}}, {ID: "three", Swap: "another cable"}}}
	heard := func(p float64) float64 { return .9*p + .1*(1-p) }
	yes := func(question string, about dossier.Ref) dossier.Answered {
		return dossier.Answered{Question: question, About: about, Said: dossier.Yes}
	}
	for name, c := range map[string]struct {
		answer dossier.Answered
		mode   int
		chance float64 // of yes under the mode; 0 if the answer says nothing
		other  float64 // and without it
		ground Ground
		no     bool // whether a no is a ground too
	}{
		"a question that the mode knows":         {yes("hot", dossier.Ref{}), 0, heard(.9), heard(.2), Ground{Question: "hot"}, true},
		"one that it makes less likely":          {yes("hot", dossier.Ref{}), 1, heard(.05), heard(.2), Ground{Question: "hot"}, false},
		"one of which it says nothing":           {yes("dark", dossier.Ref{}), 0, heard(.5), heard(.5), Ground{}, false},
		"a look at it":                           {yes(LookAt+"one", here), 0, rightLook, wrongLook, Ground{Look: &f.Modes[0]}, true},
		"a look at another place":                {yes(LookAt+"one", there), 0, wrongLook, wrongLook, Ground{}, false},
		"a look at another mode":                 {yes(LookAt+"two", here), 0, wrongLook, wrongLook, Ground{}, false},
		"an exchange":                            {yes(SwapFor+"one", here), 0, rightLook, wrongLook, Ground{Look: &f.Modes[0], Swap: true}, true},
		"the exchange of another mode, the same": {yes(SwapFor+"three", here), 0, rightLook, wrongLook, Ground{Look: &f.Modes[0], Swap: true}, true},
		"after a change of it":                   {yes(AfterThat, here), 0, rightAfter, elseAfter, Ground{After: here}, false},
		"after a change of a part of it":         {yes(AfterThat, part), 0, rightAfter, elseAfter, Ground{After: part}, false},
		"after a change of another":              {yes(AfterThat, there), 0, elseAfter, elseAfter, Ground{}, false},
		"after what brings it not about":         {yes(AfterThat, here), 1, elseAfter, elseAfter, Ground{}, false},
		"what nobody asks any more":              {yes("gone", here), 0, 0, 0, Ground{}, false},
	} {
		h := &hypothesis{mode: &f.Modes[c.mode], about: here, near: map[dossier.Ref]bool{part: true}}
		for _, said := range []dossier.Answer{dossier.Yes, dossier.No, ""} {
			a := c.answer
			a.Said = said
			s := &solving{Case: Case{Faults: f, Answers: []dossier.Answered{a}}}
			p, other := c.chance, c.other
			if said == dossier.No {
				p, other = 1-p, 1-other
			}
			if said == "" || c.chance == 0 {
				p, other = 1, 1
			}
			assert.InDelta(t, math.Log(p), s.answered(h), 1e-12, "%s: %s", name, said)
			assert.InDelta(t, math.Log(other), s.answered(), 1e-12, "%s: %s", name, said)
			both := max(c.chance, c.other) // of two faults the one counts that makes a yes likelier
			if said == dossier.No {
				both = 1 - both
			}
			if said == "" || c.chance == 0 {
				both = 1
			}
			assert.InDelta(t, math.Log(both), s.answered(h, &hypothesis{mode: &Mode{}}), 1e-12, "%s: %s", name, said)
			assert.InDelta(t, math.Log(both), s.answered(&hypothesis{mode: &Mode{}}, h), 1e-12, "%s: %s", name, said)
			speaks, against := s.grounds(h)
			want := c.ground
			if want == (Ground{}) || said == "" || said == dossier.No && !c.no {
				assert.Empty(t, speaks, "%s: %s", name, said)
				assert.Empty(t, against, "%s: %s", name, said)
				continue
			}
			want.Yes, want.Weight = said == dossier.Yes, math.Log(p)-math.Log(other)
			got, none := speaks, against
			if want.Weight < 0 {
				got, none = against, speaks
			}
			assert.Empty(t, none, "%s: %s", name, said)
			require.Len(t, got, 1, "%s: %s", name, said)
			assert.InDelta(t, want.Weight, got[0].Weight, 1e-12, "%s: %s", name, said)
			got[0].Weight = want.Weight
			assert.Equal(t, want, got[0], "%s: %s", name, said)
		}
	}
}
