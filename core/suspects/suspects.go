package suspects

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/proving"
)

// Priors and limits. Judgement, except where said.
const (
	background  = 0.02 // how often a test fails for a reason that is none of the modes (computed with throughout)
	unnamed     = 0.05 // share of faults that no mode names
	unnamedFail = 0.3  // how often a test of a path that has a failure fails under such a fault
	twoAtOnce   = 0.08 // share of calls with two faults
	leastEffect = 0.02 // a mode explains a failure if it makes it at least so likely
	perhapsHas  = 0.3  // by how much a mode is less likely where it is not known whether the component can have it
	told        = 15.0 // by how much a finding that stands makes a mode likelier that it tells of
	changed     = 3.0  // by how much a change shortly before does
	wasReset    = 6.0  // and a reset
	shortly     = 14 * 24 * time.Hour
	// Sure is the probability from which a suspect is taken for the fault.
	Sure = 0.9
	// most is how sure Kaiku ever says that it is: what it knows of faults is judgement.
	most = 0.97
)

// Case is what suspects are worked out from.
type Case struct {
	Home     *dossier.Index
	Plan     *proving.Plan
	Statuses []proving.TestStatus
	Findings []network.Finding
	Load     *load.Load // for the ways that paths take; nil if that is not known
	Faults   *Faults
	Since    time.Time // when the fault began; zero if that is not known
	Answers  []dossier.Answered
	Changed  []dossier.Ref // records of which something was changed shortly before it began
	Now      time.Time
}

// Suspect is a fault that would explain what was seen.
type Suspect struct {
	Mode  *Mode
	About dossier.Ref
	P     float64 // how likely it is there, alone or beside another
	// With is the fault beside which it is likelier than alone, nil if there is none.
	With    *Beside
	For     []Ground
	Against []Ground
}

// Proves lists the tests that failed and speak for the suspect: its remedy has to make them pass.
func (s Suspect) Proves(home *dossier.Index) (tests []string) {
	for _, g := range s.For {
		if g.Evidence == nil || !g.Evidence.Failed {
			continue
		}
		if a, there := home.Attempts.Get(g.Evidence.Attempt); there {
			tests = append(tests, proving.TestID(a.Test, a.Subjects))
		}
	}
	return tests
}

// Beside is a fault beside which another is suspected.
type Beside struct {
	Mode  *Mode
	About dossier.Ref
}

// Ground is one thing that speaks for or against a suspect.
type Ground struct {
	Evidence *Evidence
	Question string // for an answer to a question
	Look     *Mode  // for a look at this,
	Swap     bool   // or for something else in its place
	Yes      bool   // what it showed, or what was answered
	Finding  *network.Finding
	After    dossier.Ref // the record whose change it came after
	// Unexplained says of a failure that the suspect leaves it unexplained.
	Unexplained bool
	Weight      float64 // natural logarithm of how much likelier it is under the suspect than without
}

// Suspects is what is made of a case.
type Suspects struct {
	List     []Suspect // the likeliest first
	None     float64   // how likely it is none of the known faults
	Entropy  float64   // in bits, over all hypotheses
	Failures int       // how much that failed is known
	Evidence int
	Sure     bool // the first is likely enough to act on
	Steps    []Step
}

// effect is what a mode does to one kind of test.
type effect struct {
	chance float64
	grave  [len(severities)]float64 // the chance by severity
	ends   [len(failing)]float64    // shares by class, in the order of failing
	seen   []dossier.Observed
	by     bool // it fails because what it needs fails, and not by itself
}

// hypothesis is a mode at a component.
type hypothesis struct {
	mode    *Mode
	effects map[string]*effect
	about   dossier.Ref
	paths   map[dossier.ID[dossier.Path]]bool
	folder  dossier.ID[dossier.Folder]
	outer   bool                 // it lies at the device's end, and what is seen at the server's end says nothing of it
	found   *network.Finding     // that points to it
	touched []touch              // in the order of the evidence
	near    map[dossier.Ref]bool // records of the component, of which a change may have brought it about
	prior   float64
	score   float64 // logarithm of prior and likelihood
	p       float64
}

// effectsOf are the effects of a mode by kind of test, the strongest of each.
func effectsOf(m *Mode) map[string]*effect {
	out := map[string]*effect{}
	put := func(kind string, e effect) {
		was, there := out[kind]
		if !there || was.by && !e.by || was.by == e.by && e.chance > was.chance {
			for k, severity := range severities {
				e.grave[k] = 1 - math.Pow(1-e.chance, severity)
			}
			out[kind] = &e
		}
	}
	for _, e := range m.Fails {
		var ends [len(failing)]float64
		for n, c := range failing { // a tenth is for what nobody thought of
			ends[n] = .1 / float64(len(failing))
			if len(e.Ends) > 0 {
				ends[n] += .9 * e.Ends[c]
			} else {
				ends[n] += .9 / float64(len(failing))
			}
		}
		for _, t := range e.Tests {
			kind, all := strings.CutSuffix(t, "*")
			put(kind, effect{chance: e.Chance, ends: ends, seen: e.Seen})
			// What needs a test to have passed fails with it; but a server that was found once may go on playing while it is not found.
			if all || kind != "found" {
				for _, k := range needing[kind] {
					put(k, effect{chance: e.Chance * .97, ends: ends, by: true})
				}
			}
		}
	}
	return out
}

// touches reports whether what was seen can have to do with where the hypothesis is.
func (h *hypothesis) touches(e *Evidence) bool {
	if h.outer && e.inside {
		return false
	}
	if e.Folder != "" {
		if h.folder != "" {
			return h.folder == e.Folder
		}
		return h.paths[e.Path]
	}
	if len(e.Paths) > 0 {
		return slices.ContainsFunc(e.Paths, func(p dossier.ID[dossier.Path]) bool { return h.paths[p] })
	}
	return h.paths[e.Path]
}

// likelihood is how likely an observation is, if a test fails for the reasons of two faults, either of which may do nothing to it, and of the background.
func likelihood(e *Evidence, a, b *effect, severity int) float64 {
	ca, cb := a.grave[severity], b.grave[severity]
	f := 1 - (1-ca)*(1-cb)*(1-background)
	p, wrong := f, 1-f
	switch {
	case !e.Failed:
		p, wrong = 1-f, f
	case e.class >= 0:
		// What is seen is of one of the causes, in the proportion of their chances.
		p = background / float64(len(failing))
		if ca > 0 {
			p += ca * a.ends[e.class] * a.typical(e.Observed)
		}
		if cb > 0 {
			p += cb * b.ends[e.class] * b.typical(e.Observed)
		}
		p *= f / (ca + cb + background)
		wrong = (1 - f) / float64(len(failing))
	}
	return e.trust*p + (1-e.trust)*wrong
}

// nothing is what a hypothesis does where it does nothing, and usual is the severity that is neither grave nor slight.
var nothing = &effect{}

const usual = 1

// typical is how far what a machine saw is what it sees under the effect: one that names what is seen is seldom seen otherwise.
func (of *effect) typical(seen dossier.Observed) float64 {
	switch {
	case seen == "" || len(of.seen) == 0:
		return .6
	case slices.Contains(of.seen, seen):
		return 1
	}
	return .1
}

// Of works out the suspects of a case.
func Of(c Case) Suspects {
	s := &solving{Case: c, evidence: gather(c.Plan, c.Statuses, c.Home.Attempts.Get, c.Since, c.Answers)}
	out := Suspects{Evidence: len(s.evidence)}
	for _, e := range s.evidence {
		if e.Failed {
			out.Failures++
		}
	}
	if out.Failures == 0 {
		return out // nothing is wrong that is known of
	}
	s.hypotheses()
	s.weigh()
	s.pairs()
	s.normalise()
	out.None, out.Entropy = s.none, s.entropy()
	out.List = s.list()
	out.Sure = len(out.List) > 0 && out.List[0].P >= Sure
	out.Steps = s.steps()
	return out
}

type solving struct {
	Case
	evidence []Evidence
	hyps     []hypothesis
	doubles  []double
	none     float64
	bases    []float64 // logarithm of how likely each observation is if only the background is at work
	base     float64   // logarithm of how likely all that was seen is if only the background is at work
}

// double is two faults at once.
type double struct {
	a, b  int
	score float64
	p     float64
}

// other is the fault beside one of the two.
func (d double) other(than int) int {
	if d.a == than {
		return d.b
	}
	return d.a
}

// hypotheses lists every mode at every component that it can be at and that something that failed, or passed, has to do with.
func (s *solving) hypotheses() {
	x := s.Home
	found := map[string][]*network.Finding{}
	for i := range s.Findings {
		f := &s.Findings[i]
		found[f.Code] = append(found[f.Code], f)
	}
	begun := s.Since
	if begun.IsZero() {
		begun = s.Now
	}
	lately := map[dossier.ID[dossier.Device]]After{}
	for _, ch := range x.Changes {
		if ch.At.After(begun.Add(-shortly)) && !ch.At.After(s.Now) {
			if ch.Effect == dossier.EffectReset {
				lately[ch.Device] = AfterReset
			} else if lately[ch.Device] == "" {
				lately[ch.Device] = AfterChange
			}
		}
	}
	parts := s.components()
	for i := range s.Faults.Modes {
		m := &s.Faults.Modes[i]
		effects := effectsOf(m)
		for _, at := range parts[m.At] {
			fits := s.fits(m, at)
			if fits == 0 {
				continue
			}
			h := hypothesis{mode: m, effects: effects, about: at.ref, paths: at.paths, outer: at.outer, near: at.alias, prior: m.Odds * fits}
			if at.ref.Kind == "folder" {
				h.folder = dossier.ID[dossier.Folder](at.ref.ID)
			}
			for _, code := range m.Finds {
				named := func(f *network.Finding) bool {
					return slices.ContainsFunc(f.Subjects, func(r dossier.Ref) bool { return r == at.ref || at.alias[r] })
				}
				if n := slices.IndexFunc(found[code], named); n >= 0 {
					h.found = found[code][n]
					h.prior *= told
					break
				}
			}
			if done := lately[at.device]; done != "" && at.device != "" {
				switch {
				case done == AfterReset && slices.Contains(m.After, AfterReset):
					h.prior *= wasReset
				case slices.Contains(m.After, AfterChange):
					h.prior *= changed
				}
			} else if slices.Contains(m.After, AfterChange) && slices.ContainsFunc(s.Changed, h.changedBy) {
				h.prior *= changed
			}
			s.hyps = append(s.hyps, h)
		}
	}
}

// component is a part of the home at which a mode can be.
type component struct {
	ref    dossier.Ref
	device dossier.ID[dossier.Device] // that it is, or is at
	paths  map[dossier.ID[dossier.Path]]bool
	alias  map[dossier.Ref]bool // records that a finding about it may name
	outer  bool
	path   dossier.Path // one of those that use it
	link   dossier.Link
}

// components lists the parts of a home by kind, each with the paths that depend on it.
func (s *solving) components() map[Part][]*component {
	x := s.Home
	out := map[Part][]*component{}
	by := map[dossier.Ref]*component{}
	at := func(part Part, ref dossier.Ref, device dossier.ID[dossier.Device], p dossier.Path, alias ...dossier.Ref) *component {
		if ref.ID == "" {
			return nil
		}
		key := dossier.Ref{Kind: string(part), ID: ref.ID}
		if part == AtPairing {
			_, server := x.ServerOf(p)
			key.ID += " " + string(server.ID)
		}
		c := by[key]
		if c == nil {
			c = &component{ref: ref, device: device, paths: map[dossier.ID[dossier.Path]]bool{}, alias: map[dossier.Ref]bool{}, path: p}
			by[key] = c
			out[part] = append(out[part], c)
		}
		c.paths[p.ID] = true
		for _, a := range alias {
			if a.ID != "" {
				c.alias[a] = true
			}
		}
		return c
	}
	ways := map[dossier.ID[dossier.Path]]load.Flow{}
	if s.Load != nil {
		for _, one := range s.Load.Alone {
			for _, f := range one.Flows {
				ways[f.Path] = f
			}
		}
	}
	router := x.Router()
	for _, p := range x.InUse {
		source, server := x.ServerOf(p)
		adapters := func(d dossier.ID[dossier.Device]) (refs []dossier.Ref) {
			for _, i := range x.InterfacesOf(d) {
				refs = append(refs, i.ID.Ref())
			}
			return append(refs, d.Ref())
		}
		programs := func(d dossier.ID[dossier.Device]) (refs []dossier.Ref) {
			for _, one := range x.SoftwareOf(d) {
				refs = append(refs, one.ID.Ref())
			}
			return refs
		}
		at(AtServer, server.ID.Ref(), server.ID, p, append(append(adapters(server.ID), programs(server.ID)...), source.ID.Ref())...)
		at(AtSource, source.ID.Ref(), server.ID, p, append(programs(server.ID), server.ID.Ref())...)
		if c := at(AtDevice, p.Device.Ref(), p.Device, p, append(adapters(p.Device), p.ID.Ref())...); c != nil {
			c.outer = true
		}
		if c := at(AtPath, p.ID.Ref(), p.Device, p, p.Device.Ref(), source.ID.Ref()); c != nil {
			c.outer = true
		}
		if c := at(AtPairing, p.Device.Ref(), p.Device, p, source.ID.Ref(), p.ID.Ref()); c != nil {
			c.outer = true
			if e, there := x.Register(p.Device, server.ID); there {
				c.alias[e.ID.Ref()] = true
			}
		}
		for _, f := range x.Reached(p) {
			at(AtFolder, f.ID.Ref(), server.ID, p, source.ID.Ref())
		}
		for _, d := range []dossier.ID[dossier.Device]{p.Device, server.ID} {
			for _, seg := range x.SegmentsAt(d) {
				at(AtSegment, seg.Ref(), "", p)
			}
		}
		for n, id := range ways[p.ID].Links {
			l, _ := x.Links.Get(id)
			near, far := x.EndsOf(l)
			if c := at(AtLink, id.Ref(), "", p, l.Near.Ref(), l.Far.Ref(), l.Outlet.Ref()); c != nil {
				c.link = l
				c.outer = c.outer || n > 0 || near == p.Device || far == p.Device
			}
		}
		at(AtGateway, router.Ref(), router, p)
		for _, l := range x.Lines {
			at(AtLine, l.ID.Ref(), l.Router, p)
		}
	}
	return out
}

// fits is how far a component can have a mode: 0 if it cannot, 1 if it can, and something between where what decides it is not recorded.
func (s *solving) fits(m *Mode, at *component) float64 {
	o, x := m.Only, s.Home
	source, server := x.ServerOf(at.path)
	if len(o.Protocols) > 0 && !slices.Contains(o.Protocols, source.Protocol) ||
		len(o.Paths) > 0 && !slices.Contains(o.Paths, at.path.Kind) ||
		len(o.Links) > 0 && !slices.Contains(o.Links, at.link.Kind) {
		return 0
	}
	out := 1.0
	if len(o.Media) > 0 {
		adapters := x.InterfacesOf(at.device)
		switch {
		case slices.ContainsFunc(adapters, func(i dossier.Interface) bool { return slices.Contains(o.Media, i.Medium) }):
		case len(adapters) == 0 || slices.ContainsFunc(adapters, func(i dossier.Interface) bool { return i.Medium == "" }):
			out *= perhapsHas
		default:
			return 0
		}
	}
	if o.Sleeps {
		switch server.Standby {
		case dossier.Yes:
		case "":
			out *= perhapsHas
		default:
			return 0
		}
	}
	if o.Converts {
		switch source.Converts {
		case "":
			out *= perhapsHas
		case dossier.ConvertsNothing:
			return 0
		}
	}
	return out
}

// weigh gives each hypothesis its score.
func (s *solving) weigh() {
	byPath := map[dossier.ID[dossier.Path]][]int{}
	var sets []int
	s.bases = make([]float64, len(s.evidence))
	for n := range s.evidence {
		e := &s.evidence[n]
		s.bases[n] = e.weight * math.Log(likelihood(e, nothing, nothing, usual))
		s.base += s.bases[n]
		if len(e.Paths) > 0 {
			sets = append(sets, n)
			continue
		}
		byPath[e.Path] = append(byPath[e.Path], n)
	}
	for i := range s.hyps {
		h := &s.hyps[i]
		add := func(n int) {
			if of := h.at(&s.evidence[n]); of != nothing {
				h.touched = append(h.touched, touch{n: n, of: of})
			}
		}
		for p := range h.paths {
			for _, n := range byPath[p] {
				add(n)
			}
		}
		for _, n := range sets {
			add(n)
		}
		slices.SortFunc(h.touched, func(a, b touch) int { return cmp.Compare(a.n, b.n) }) // one order of adding up, so that equals stay equal
	}
	// What is looked for has made something fail; a fault that explains nothing is not what anybody asks about.
	s.hyps = slices.DeleteFunc(s.hyps, func(h hypothesis) bool {
		return !slices.ContainsFunc(h.touched, func(t touch) bool { return s.evidence[t.n].Failed && t.of.chance >= leastEffect })
	})
	total := 0.0
	for i := range s.hyps {
		total += s.hyps[i].prior
	}
	for i := range s.hyps {
		h := &s.hyps[i]
		h.prior /= total
		var sums [len(severities)]float64
		for k := range h.touched {
			t := &h.touched[k]
			e := &s.evidence[t.n]
			for m := range severities {
				t.more[m] = e.weight*math.Log(likelihood(e, t.of, nothing, m)) - s.bases[t.n]
				sums[m] += t.more[m]
			}
		}
		h.score = math.Log(h.prior) + s.base + s.answered(h) + mean(sums)
	}
}

// touch is what a hypothesis does to one observation, and how much likelier that makes it than the background, as a logarithm by severity.
type touch struct {
	n    int
	of   *effect
	more [len(severities)]float64
}

// severities are how grave a fault may be, each as likely as the others: with a grave one nearly all fails that can, with a slight one less than is
// usual. So what fails together does not count as so many independent signs.
var severities = [...]float64{0.4, 1, 3}

// mean is the logarithm of the mean of what the numbers are logarithms of.
func mean(logs [len(severities)]float64) float64 {
	top := slices.Max(logs[:])
	sum := 0.0
	for _, l := range logs {
		sum += math.Exp(l - top)
	}
	return top + math.Log(sum/float64(len(logs)))
}

// answered is the logarithm of how likely the answers to questions are under hypotheses; without one, under none of them.
func (s *solving) answered(of ...*hypothesis) float64 {
	out := 0.0
	for _, a := range s.Answers {
		if a.Said == "" {
			continue
		}
		yes := wrongLook
		if shows := s.Faults.shown(a.Question); shows != nil {
			if slices.ContainsFunc(of, func(h *hypothesis) bool { return shows(h.mode) && h.about == a.About }) {
				yes = rightLook
			}
		} else if a.Question == AfterThat {
			yes = elseAfter
			if slices.ContainsFunc(of, func(h *hypothesis) bool { return len(h.mode.After) > 0 && h.changedBy(a.About) }) {
				yes = rightAfter
			}
		} else if q := s.Faults.Question(a.Question); q != nil {
			var modes []*Mode
			for _, h := range of {
				modes = append(modes, h.mode)
			}
			yes = s.yes(q, modes...)
		} else {
			continue
		}
		if a.Said == dossier.No {
			yes = 1 - yes
		}
		out += math.Log(yes)
	}
	return out
}

// changedBy reports whether a change of the record is one of the component.
func (h *hypothesis) changedBy(r dossier.Ref) bool { return r == h.about || h.near[r] }

// How often it is said to have come after a change that brought it about, and after one that did not. Judgement.
const (
	rightAfter = 0.6
	elseAfter  = 0.1
)

// yes is how likely a caller says yes to a question under modes, of which the one counts that makes it likeliest; without one, under none of them.
func (s *solving) yes(q *Question, under ...*Mode) float64 {
	p := q.Yes
	for n, m := range under {
		own, said := m.Answers[q.ID]
		if !said {
			own = q.Yes
		}
		if n == 0 || own > p {
			p = own
		}
	}
	return q.Reliable*p + (1-q.Reliable)*(1-p)
}

// at is what a hypothesis does to what an observation is of. Where what that needs is known to work, it does so only by itself.
func (h *hypothesis) at(e *Evidence) *effect {
	if of := h.effects[e.Kind]; of != nil && (!of.by || !e.settled) && h.touches(e) {
		return of
	}
	return nothing
}

// pairs weighs two faults at once, where no single one explains all that failed.
func (s *solving) pairs() {
	best := -1
	for i := range s.hyps {
		if best < 0 || s.hyps[i].score > s.hyps[best].score {
			best = i
		}
	}
	if best < 0 || s.explainsAll(&s.hyps[best]) {
		return
	}
	// Of each failure, those that explain it best.
	chosen := map[int]bool{}
	for n := range s.evidence {
		e := &s.evidence[n]
		if !e.Failed {
			continue
		}
		var list []int
		for i := range s.hyps {
			if s.hyps[i].at(e).chance > .2 {
				list = append(list, i)
			}
		}
		slices.SortFunc(list, func(a, b int) int { return cmp.Compare(s.hyps[b].score, s.hyps[a].score) })
		for _, i := range list[:min(len(list), 8)] {
			chosen[i] = true
		}
	}
	var list []int
	for i := range chosen {
		list = append(list, i)
	}
	slices.SortFunc(list, func(a, b int) int {
		return cmp.Or(cmp.Compare(s.hyps[b].score, s.hyps[a].score), cmp.Compare(a, b))
	})
	list = list[:min(len(list), 60)]
	for k, i := range list {
		for l := k + 1; l < len(list); l++ {
			j := list[l]
			if s.hyps[i].about == s.hyps[j].about && s.hyps[i].mode == s.hyps[j].mode {
				continue
			}
			score := math.Log(twoAtOnce) + math.Log(2*s.hyps[i].prior*s.hyps[j].prior) + s.answered(&s.hyps[i], &s.hyps[j])
			score += s.base + mean(s.together(s.hyps[i].touched, s.hyps[j].touched))
			s.doubles = append(s.doubles, double{a: i, b: j, score: score})
		}
	}
}

// together adds up what two hypotheses do to all observations, by severity; both lists are in the order of the observations.
func (s *solving) together(a, b []touch) (sums [len(severities)]float64) {
	for len(a) > 0 || len(b) > 0 {
		switch {
		case len(b) == 0 || len(a) > 0 && a[0].n < b[0].n:
			for m := range sums {
				sums[m] += a[0].more[m]
			}
			a = a[1:]
		case len(a) == 0 || b[0].n < a[0].n:
			for m := range sums {
				sums[m] += b[0].more[m]
			}
			b = b[1:]
		default:
			e := &s.evidence[a[0].n]
			for m := range severities {
				sums[m] += e.weight*math.Log(likelihood(e, a[0].of, b[0].of, m)) - s.bases[a[0].n]
			}
			a, b = a[1:], b[1:]
		}
	}
	return sums
}

// explainsAll reports whether a hypothesis makes each failure likelier than not.
func (s *solving) explainsAll(h *hypothesis) bool {
	for n := range s.evidence {
		if e := &s.evidence[n]; e.Failed && e.weight >= 1 && h.at(e).chance < .2 {
			return false
		}
	}
	return true
}

// normalise turns scores into probabilities, with what none of the modes names beside them.
func (s *solving) normalise() {
	broken := map[dossier.ID[dossier.Path]]bool{}
	for n := range s.evidence {
		if s.evidence[n].Failed {
			broken[s.evidence[n].Path] = true
		}
	}
	none := math.Log(unnamed) + s.answered()
	for n := range s.evidence {
		e := &s.evidence[n]
		of := nothing
		if broken[e.Path] {
			of = unnamedFault
		}
		none += e.weight * math.Log(likelihood(e, of, nothing, usual))
	}
	top := none
	for i := range s.hyps {
		top = max(top, s.hyps[i].score)
	}
	for i := range s.doubles {
		top = max(top, s.doubles[i].score)
	}
	sum := math.Exp(none - top)
	for i := range s.hyps {
		s.hyps[i].p = math.Exp(s.hyps[i].score - top)
		sum += s.hyps[i].p
	}
	for i := range s.doubles {
		s.doubles[i].p = math.Exp(s.doubles[i].score - top)
		sum += s.doubles[i].p
	}
	for i := range s.hyps {
		s.hyps[i].p /= sum
	}
	for i := range s.doubles {
		s.doubles[i].p /= sum
	}
	s.none = math.Exp(none-top) / sum
}

// anything is an effect of which nothing is known but its chance.
func anything(chance float64) *effect {
	out := &effect{chance: chance, grave: [len(severities)]float64{chance, chance, chance}}
	for n := range out.ends {
		out.ends[n] = 1 / float64(len(failing))
	}
	return out
}

// unnamedFault is what a fault that no mode names does to a path that has a failure, and likelyUnnamed what it does to one of which nothing is known.
var unnamedFault, likelyUnnamed = anything(unnamedFail), anything(unnamedFail / 2)

// entropy is that of all hypotheses together, in bits.
func (s *solving) entropy() float64 {
	out := bits(s.none)
	for i := range s.hyps {
		out += bits(s.hyps[i].p)
	}
	for i := range s.doubles {
		out += bits(s.doubles[i].p)
	}
	return out
}

func bits(p float64) float64 {
	if p <= 0 {
		return 0
	}
	return -p * math.Log2(p)
}

// shown is how many suspects are named at most, and from which probability.
const (
	shownMost  = 8
	shownLeast = 0.01
)

// list names the likeliest, alone or beside another.
func (s *solving) list() []Suspect {
	present := make([]float64, len(s.hyps)) // alone or beside another
	closest := map[int]double{}             // the likeliest pair that each is one of
	for i := range s.hyps {
		present[i] = s.hyps[i].p
	}
	for _, d := range s.doubles {
		for _, i := range []int{d.a, d.b} {
			present[i] += d.p
			if d.p > closest[i].p {
				closest[i] = d
			}
		}
	}
	order := make([]int, len(s.hyps))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(present[b], present[a]) })
	var out []Suspect
	for _, i := range order[:min(len(order), shownMost)] {
		if present[i] < shownLeast {
			break
		}
		one := Suspect{Mode: s.hyps[i].mode, About: s.hyps[i].about, P: min(present[i], most)}
		if alone := s.hyps[i].p; present[i]-alone > alone {
			other := &s.hyps[closest[i].other(i)]
			one.With = &Beside{other.mode, other.about}
		}
		one.For, one.Against = s.grounds(&s.hyps[i])
		out = append(out, one)
	}
	return out
}

// grounds are what speaks for a hypothesis and against it, the weightiest first.
func (s *solving) grounds(h *hypothesis) (yes, no []Ground) {
	for n := range s.evidence {
		e := &s.evidence[n]
		of := h.at(e)
		weight := e.weight*math.Log(likelihood(e, of, nothing, usual)) - s.bases[n]
		switch {
		case weight > .4:
			yes = append(yes, Ground{Evidence: e, Weight: weight})
		case weight < -.05:
			no = append(no, Ground{Evidence: e, Weight: weight})
		case e.Failed && of.chance < .1:
			no = append(no, Ground{Evidence: e, Unexplained: true, Weight: -.04})
		}
	}
	for _, a := range s.Answers {
		q := s.Faults.Question(a.Question)
		if shows := s.Faults.shown(a.Question); shows != nil && shows(h.mode) && a.About == h.about && a.Said != "" {
			g := Ground{Look: h.mode, Swap: s.Faults.Swapped(a.Question) != nil, Yes: a.Said == dossier.Yes, Weight: math.Log(rightLook / wrongLook)}
			if g.Yes {
				yes = append(yes, g)
			} else {
				g.Weight = math.Log((1 - rightLook) / (1 - wrongLook))
				no = append(no, g)
			}
		}
		if a.Question == AfterThat && a.Said == dossier.Yes && len(h.mode.After) > 0 && h.changedBy(a.About) {
			yes = append(yes, Ground{After: a.About, Yes: true, Weight: math.Log(rightAfter / elseAfter)})
		}
		if q == nil || a.Said == "" {
			continue
		}
		own, other := s.yes(q, h.mode), s.yes(q)
		if a.Said == dossier.No {
			own, other = 1-own, 1-other
		}
		g := Ground{Question: q.ID, Yes: a.Said == dossier.Yes, Weight: math.Log(own) - math.Log(other)}
		switch {
		case g.Weight > .2:
			yes = append(yes, g)
		case g.Weight < -.2:
			no = append(no, g)
		}
	}
	if h.found != nil {
		yes = append(yes, Ground{Finding: h.found, Weight: math.Log(told)})
	}
	slices.SortStableFunc(yes, func(a, b Ground) int { return cmp.Compare(b.Weight, a.Weight) })
	slices.SortStableFunc(no, func(a, b Ground) int { return cmp.Compare(a.Weight, b.Weight) })
	return yes, no
}
