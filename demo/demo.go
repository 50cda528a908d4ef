// Package demo is the made-up firm and its homes, built through the use-cases themselves, so that
// journal, proofs and handovers are real. All dates are computed back from the day it starts.
package demo

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"net/netip"
	"reflect"
	"slices"
	"sync"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/practice/layout"
	"kaiku/probe"
	"kaiku/service"
	"kaiku/wire"
	"kaiku/wording"
)

// Password is everyone's in the demo firm.
const Password = "granite-and-gulls"

// Person is someone of the demo firm, Hallakka Home Media.
type Person struct {
	Login, Name string
	Role        service.Role
}

// Firm lists the people.
var Firm = []Person{
	{"ilona", "Ilona Kettu", service.Coordinator},
	{"aino", "Aino Saarni", service.Lead},
	{"petri", "Petri Lokki", service.Technician},
	{"maarit", "Maarit Suvanto", service.Technician},
	{"tilit", "Accountant", service.Observer},
}

// sheets are what the firm knows of models and of versions.
//
//go:embed knowledge.json
var sheets []byte

// recipes are those of the firm.
//
//go:embed recipes.yaml
var recipes []byte

// Clock is the time in the demo while it is built; it moves only when told.
type Clock struct{ now, today time.Time }

// NewClock returns a clock that stands months before the day the demo starts.
func NewClock(today time.Time) *Clock {
	c := &Clock{today: today}
	c.now = c.ago(daysOfHistory)
	return c
}

// daysOfHistory is how far back the demo firm's work reaches.
const daysOfHistory = 120

// ago returns the morning of a day before the demo starts.
func (c *Clock) ago(days int) time.Time {
	y, m, d := c.today.AddDate(0, 0, -days).Date()
	return time.Date(y, m, d, 9, 5, 0, 0, c.today.Location())
}

// Now returns the clock's time.
func (c *Clock) Now() time.Time { return c.now }

// builder builds homes as people would.
type builder struct {
	ctx    context.Context
	s      *service.Service
	clock  *Clock
	people map[string]service.Actor
	err    error
}

// AddFirm adds the people of the firm and returns them by log-in name.
func AddFirm(ctx context.Context, s *service.Service) (map[string]service.Actor, error) {
	out := map[string]service.Actor{}
	for _, p := range Firm {
		made, err := s.AddPerson(ctx, p.Login, p.Name, p.Role, Password)
		if err != nil {
			return nil, fmt.Errorf("add %s: %w", p.Login, err)
		}
		out[p.Login] = service.Actor{ID: made.ID, Name: p.Name, Role: p.Role}
	}
	return out, nil
}

// Where the practice houses of Sail Loft and Alder Row stand, from the octet of the Keeper's House.
const (
	sailLoftAt  = 10
	alderRowAt  = 20
	alderRowNow = 30 // since its router was replaced
)

// Codes are the homes of the demo.
var Codes = []string{"H-0001", "H-0002", "H-0003", "H-0004", "H-0005"}

// living are the homes with practice houses, and where each stands, from the octet of the first; the last is
// where it stands now.
var living = []struct {
	code, name, form string
	at               []byte
}{
	{"H-0001", "the Keeper's House", layout.KeepersHouse, []byte{0}},
	{"H-0002", "Sail Loft", layout.SailLoft, []byte{sailLoftAt}},
	{"H-0004", "Alder Row 6", layout.AlderRow, []byte{alderRowAt, alderRowNow}},
}

// Houses are the practice houses that must stand while these homes are filled, all if none is
// named, as form:octet: what is proven in them is carried out there. The Keeper's House always stands.
func Houses(octet byte, codes ...string) (out []string) {
	for n, h := range living {
		if n > 0 && len(codes) > 0 && !slices.Contains(codes, h.code) {
			continue
		}
		for _, at := range h.at {
			out = append(out, fmt.Sprintf("%s:%d", h.form, octet+at))
		}
	}
	return out
}

// Living says which of these homes, all if none is named, have simulated devices, and where.
func Living(octet byte, codes ...string) (out []string) {
	for _, h := range living {
		if len(codes) == 0 || slices.Contains(codes, h.code) {
			out = append(out, fmt.Sprintf("%s (%s) in 127.77.%d.0/24", h.name, h.code, octet+h.at[len(h.at)-1]))
		}
	}
	return out
}

// Fill adds the firm and its homes, or only those named by their codes. The service must run on
// the clock, and the practice houses of those homes must stand.
func Fill(ctx context.Context, s *service.Service, clock *Clock, octet byte, codes ...string) error {
	people, err := AddFirm(ctx, s)
	if err != nil {
		return err
	}
	if _, err := s.ImportRecipes(ctx, people["aino"], recipes); err != nil {
		return fmt.Errorf("add the recipes: %w", err)
	}
	if _, err := s.ImportKnowledge(ctx, people["aino"], sheets, false); err != nil {
		return fmt.Errorf("add what the firm knows: %w", err)
	}
	s.Settle() // the demo's clock is turned by hand, and nothing else may read it meanwhile
	b := &builder{ctx: ctx, s: s, clock: clock, people: people}
	for _, step := range []struct {
		daysAgo int
		code    string
		build   func()
	}{
		{daysOfHistory, "H-0002", func() { b.sailLoft(octet + sailLoftAt) }}, {90, "H-0004", func() { b.alderRow(octet + alderRowAt) }}, {45, "H-0003", b.ryeCorner}, {28, "H-0005", b.outerSkerry},
		{21, "H-0001", func() { b.keepersHouse(octet) }}, {2, "H-0004", func() { b.alderRowAgain(octet+alderRowAt, octet+alderRowNow) }},
		{1, "H-0002", b.sailLoftYesterday},
	} {
		if b.err == nil && (len(codes) == 0 || slices.Contains(codes, step.code)) {
			b.on(step.daysAgo)
			step.build()
		}
	}
	return b.err
}

// on moves the clock to the morning of a day before the demo starts. It never goes back.
func (b *builder) on(daysAgo int) {
	at := b.clock.ago(daysAgo)
	if at.Before(b.clock.now) {
		b.err = fmt.Errorf("the demo's clock would go back from %s to %s", b.clock.now, at)
	}
	b.clock.now = at
}

func (b *builder) wait(d time.Duration) { b.clock.now = b.clock.now.Add(d) }

// put adds a record as someone and returns it as stored; after a first error it does nothing.
func put[T dossier.Record](b *builder, as, code string, t T) (made T) {
	if b.err != nil {
		return made
	}
	b.wait(90 * time.Second)
	k := dossier.KindOf(reflect.TypeFor[T]())
	r, _, err := b.s.Add(b.ctx, b.people[as], code, service.Change{Kind: k, Record: &t}, service.Request{})
	if err != nil {
		b.err = fmt.Errorf("add %s: %w", k.Name, err)
		return made
	}
	return r.(T)
}

func (b *builder) do(what string, f func() error) {
	if b.err != nil {
		return
	}
	b.wait(4 * time.Minute)
	if err := f(); err != nil {
		b.err = fmt.Errorf("%s: %w", what, err)
	}
}

func (b *builder) home(code string) *dossier.Dossier {
	if b.err != nil {
		return &dossier.Dossier{}
	}
	d, err := b.s.Home(b.ctx, b.people["petri"], "show-household", code)
	b.err = err
	return d
}

func (b *builder) sourceOf(code string, p dossier.Path) dossier.Source {
	s, _ := b.home(code).Sources.Get(p.Source)
	return s
}

func (b *builder) today() dossier.Date { return dossier.Date(b.clock.now.Format(time.DateOnly)) }

func named[T dossier.Record](list dossier.Records[T], is func(T) bool) (none T) {
	for _, one := range list {
		if is(one) {
			return one
		}
	}
	return none
}

// site is a home that one person of the firm builds.
type site struct {
	*builder
	code, as string
	net      byte // third part of its MAC addresses
	made     byte
}

// begin opens a home in the name of the coordinator.
func (b *builder) begin(custodian string, net byte, h wire.NewHousehold) *site {
	h.Custodian = custodian
	b.do("begin "+h.Code, func() error {
		_, err := b.s.Begin(b.ctx, b.people["ilona"], h, service.Request{})
		return err
	})
	return &site{builder: b, code: h.Code, as: custodian, net: net}
}

func add[T dossier.Record](h *site, t T) T { return put(h.builder, h.as, h.code, t) }

func (h *site) room(name string, floor, order int, power string) dossier.ID[dossier.Room] {
	return add(h, dossier.Room{Name: name, Floor: floor, Order: order, Power: power}).ID
}

// device adds a device with its adapters, which get the next MAC addresses.
func (h *site) device(d dossier.Device, adapters ...dossier.Interface) (dossier.Device, []dossier.ID[dossier.Interface]) {
	made := add(h, d)
	var ids []dossier.ID[dossier.Interface]
	for _, i := range adapters {
		h.made++
		i.Device, i.HardwareAddress = made.ID, dossier.HardwareAddr(fmt.Sprintf("02:4b:49:%02x:00:%02x", h.net, h.made))
		ids = append(ids, add(h, i).ID)
	}
	return made, ids
}

// set changes a record.
func set[T dossier.Record](h *site, id dossier.ID[T], change func(*T)) {
	h.do("change a record", func() error {
		k := dossier.KindOf(reflect.TypeFor[T]())
		r, ok := k.In(h.home(h.code)).Lookup(string(id))
		if !ok {
			return fmt.Errorf("no %s %s", k.Name, id)
		}
		changed := r.(T)
		change(&changed)
		_, _, err := h.s.Set(h.ctx, h.people[h.as], h.code, service.Change{Kind: k, ID: string(id), Record: &changed, IfRevision: r.Changed()}, service.Request{})
		return err
	})
}

// required is what a home is proven with, except for some kinds of test.
func required(without ...string) func(wire.Test) bool {
	return func(t wire.Test) bool { return t.Required && !slices.Contains(without, t.Kind) }
}

// prove carries out the tests that are wanted in the practice house in that octet, and records the
// results in the order of the plan. A test that cannot be carried out there stays untried.
func (h *site) prove(octet byte, wanted func(wire.Test) bool) {
	if h.err != nil {
		return
	}
	plan, err := h.s.Plan(h.ctx, h.people[h.as], h.code)
	if err != nil {
		h.err = err
		return
	}
	tests := slices.DeleteFunc(plan.Tests, func(t wire.Test) bool { return !wanted(t) })
	for i, seen := range h.carryOut(octet, tests) {
		if seen.Outcome != "" {
			h.attempt(seen, tests[i].ID)
		}
	}
}

func (h *site) attempt(seen wire.NewAttempt, test string) {
	seen.Test, seen.Conditions = test, "practice house"
	h.do("record "+test, func() error {
		_, err := h.s.RecordAttempt(h.ctx, h.people[h.as], h.code, seen, service.Request{})
		return err
	})
}

// carryOut carries out tests: those for a machine by the same probe as everywhere, all others on the
// devices of the house. All machines' tests come first, because a restart would disturb them.
func (h *site) carryOut(octet byte, tests []wire.Test) []wire.NewAttempt {
	out, errs := make([]wire.NewAttempt, len(tests)), make([]error, len(tests))
	d := h.home(h.code)
	if h.err != nil {
		return nil
	}
	planned := proving.NewPlan(d.Index())
	prober := probe.Prober{Guard: probe.Guard{Within: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}}}
	for _, by := range []proving.By{proving.Automatic, proving.Eye} {
		var all sync.WaitGroup
		for i, t := range tests {
			if t.By != by {
				continue
			}
			all.Go(func() {
				if by == proving.Eye {
					out[i], errs[i] = byEye(h.ctx, octet, d, t)
					return
				}
				test, _ := planned.Find(t.ID)
				result, err := prober.Probe(h.ctx, d, test)
				out[i], errs[i] = wire.MachineAttempt(result, wording.Result(result)), err
				out[i].At = time.Time{} // when it is recorded, by the demo's clock
			})
		}
		all.Wait()
	}
	h.err = errors.Join(errs...)
	return out
}

// byEye does what a technician would do in front of the device. A test that cannot be carried out
// there gives no result.
func byEye(ctx context.Context, octet byte, d *dossier.Dossier, t wire.Test) (wire.NewAttempt, error) {
	path, _ := d.Paths.Get(dossier.ID[dossier.Path](t.Path.ID))
	folder := ""
	if len(path.Folders) > 0 {
		folder = d.Label(path.Folders[0].Ref())
	}
	seen, err := layout.Send(ctx, octet, layout.Errand{Test: t.Kind, Screen: d.Label(path.Device.Ref()), Folder: folder})
	if errors.Is(err, layout.ErrNoErrand) {
		return wire.NewAttempt{}, nil
	}
	return judged(seen), err
}

func judged(seen layout.Seen) wire.NewAttempt {
	out := wire.NewAttempt{Outcome: dossier.Fail, How: dossier.ByEye, Note: seen.Says}
	if seen.Passed {
		out.Outcome = dossier.Pass
	}
	return out
}

func ip(s string) netip.Addr { return netip.MustParseAddr(s) }

func ips(s ...string) []netip.Addr {
	var out []netip.Addr
	for _, one := range s {
		out = append(out, ip(one))
	}
	return out
}

func day(t time.Time) dossier.Date { return dossier.Date(t.Format(time.DateOnly)) }
