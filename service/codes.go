package service

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/hex"
	"net/netip"
	"slices"
	"strings"
	"sync"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/format"
	"kaiku/core/throughput"
	"kaiku/papers"
	"kaiku/wire"
	"kaiku/wording"
)

// codes let phones and browsers in. They live in memory: a restart ends them all,
// which is what one wants of them. One run measures at a time, since two would measure each other.
type codes struct {
	mu       sync.Mutex
	invites  map[string]*invite
	joins    map[string]*joining
	run      *run
	echoPort int
}

// invite lets any browser deliver readings of one place in one home.
type invite struct {
	home   string
	room   dossier.ID[dossier.Room]
	device dossier.ID[dossier.Device]
	place  string
	by     dossier.PersonID
	maker  Actor // who made it, with the role of now
	ends   time.Time
}

// joining lets one phone log in once.
type joining struct {
	person Actor
	ends   time.Time
}

// run is one measurement under way.
type run struct {
	id     string
	invite string
	ends   time.Time
	up     throughput.Meter
}

const (
	inviteMinutes = 30
	joinMinutes   = 5
	runTime       = 40 * time.Second
)

// alphabet has no characters that are mistaken for each other when read aloud.
const alphabet = "ABCDEFGHJKMNPQRSTVWXYZ23456789"

// newCode makes a code of ten characters, 49 bits.
func newCode() string {
	b := make([]byte, 10)
	_, _ = rand.Read(b) // never fails, see crypto/rand
	for i := range b {
		b[i] = alphabet[int(b[i])%len(alphabet)]
	}
	return string(b)
}

// tidied drops what has ended. The lock must be held.
func (c *codes) tidied(now time.Time) {
	for code, i := range c.invites {
		if now.After(i.ends) {
			delete(c.invites, code)
		}
	}
	for code, j := range c.joins {
		if now.After(j.ends) {
			delete(c.joins, code)
		}
	}
	if c.run != nil && now.After(c.run.ends) {
		c.run = nil
	}
}

func codeAt(origin, place, code string, ends time.Time) (wire.Code, error) {
	address := strings.TrimRight(origin, "/") + place + code
	qr, err := papers.QR(address)
	return wire.Code{Code: code, Address: address, Ends: dossier.At(ends), QR: qr}, err
}

// Invite makes a code with which any browser that reaches this Kaiku measures at one place.
func (s *Service) Invite(ctx context.Context, a Actor, code string, in wire.NewInvite, origin string) (wire.Code, error) {
	d, err := s.Home(ctx, a, "invite-measuring", code)
	if err != nil {
		return wire.Code{}, err
	}
	i := &invite{home: code, room: in.Room, device: in.Device, by: a.ID, place: d.Home().Name}
	switch {
	case in.Device != "" && !d.Has(in.Device.Ref()):
		return wire.Code{}, refuse("no-such-record", "kind", "device", "id", string(in.Device))
	case in.Room != "" && !d.Has(in.Room.Ref()):
		return wire.Code{}, refuse("no-such-record", "kind", "room", "id", string(in.Room))
	case in.Device != "":
		v, _ := d.Devices.Get(in.Device)
		i.place = v.Name
		if i.room == "" {
			i.room = v.Room
		}
	case in.Room != "":
		i.place = d.Label(in.Room.Ref())
	}
	if in.Minutes == 0 {
		in.Minutes = inviteMinutes
	}
	i.ends = s.now().Add(time.Duration(in.Minutes) * time.Minute)
	made := newCode()
	s.codes.mu.Lock()
	s.codes.tidied(s.now())
	s.codes.invites[made] = i
	s.codes.mu.Unlock()
	return codeAt(origin, "/measure/", made, i.ends)
}

// invited returns the invite of a code, or the refusal that it has ended or never was: it ends with the right
// of whoever made it. Who asks with too many wrong ones is asked to wait.
func (s *Service) invited(ctx context.Context, who, code string) (*invite, error) {
	of := by{"codes from " + who, 5}
	if wait := s.patience.try(s.now(), of); wait > 0 {
		return nil, tooMany("too-many-guesses", wait)
	}
	s.codes.mu.Lock()
	s.codes.tidied(s.now())
	i := s.codes.invites[strings.ToUpper(code)]
	s.codes.mu.Unlock()
	if i == nil {
		return nil, refuse("code-ended")
	}
	s.patience.right(of)
	p, err := s.store.PersonByID(ctx, i.by)
	if err != nil {
		return nil, err
	}
	d, err := s.home(ctx, i.home)
	if err != nil {
		return nil, err
	}
	maker := s.actor(p)
	if p.SuspendedAt != nil || maker.require("invite-measuring", d, nil) != nil {
		return nil, refuse("code-ended")
	}
	out := *i
	out.maker = maker
	return &out, nil
}

// Measuring tells a browser with a code what it is to measure.
func (s *Service) Measuring(ctx context.Context, who, code string) (wire.Measuring, error) {
	i, err := s.invited(ctx, who, code)
	if err != nil {
		return wire.Measuring{}, err
	}
	return wire.Measuring{Place: i.place, OfDevice: i.device != "", Ends: dossier.At(i.ends), EchoPort: s.codes.echoPort}, nil
}

// BeginRun begins a measurement. While another one runs it is refused: they would measure each other.
func (s *Service) BeginRun(ctx context.Context, who, code string) (wire.MeasureRun, error) {
	if _, err := s.invited(ctx, who, code); err != nil {
		return wire.MeasureRun{}, err
	}
	s.codes.mu.Lock()
	defer s.codes.mu.Unlock()
	s.codes.tidied(s.now())
	if s.codes.run != nil {
		return wire.MeasureRun{}, refuse("measuring-already")
	}
	id := make([]byte, 16)
	_, _ = rand.Read(id)
	s.codes.run = &run{id: hex.EncodeToString(id), invite: strings.ToUpper(code), ends: s.now().Add(runTime)}
	return wire.MeasureRun{Run: s.codes.run.id}, nil
}

// Running reports whether a run of a code is under way.
func (s *Service) Running(code, id string) error {
	s.codes.mu.Lock()
	defer s.codes.mu.Unlock()
	s.codes.tidied(s.now())
	return s.codes.running(code, id)
}

func (c *codes) running(code, id string) error {
	if c.run == nil || c.run.invite != strings.ToUpper(code) || subtle.ConstantTimeCompare([]byte(c.run.id), []byte(id)) != 1 {
		return refuse("run-ended")
	}
	return nil
}

// Arrived counts bytes that arrived from the device in a run.
func (s *Service) Arrived(code, id string, n int) error {
	s.codes.mu.Lock()
	defer s.codes.mu.Unlock()
	if err := s.codes.running(code, id); err != nil {
		return err
	}
	s.codes.run.up.Add(time.Now(), n)
	return nil
}

// UpRate is the throughput at which bytes arrived in a run.
func (s *Service) UpRate(code, id string) (wire.UpRate, error) {
	s.codes.mu.Lock()
	defer s.codes.mu.Unlock()
	if err := s.codes.running(code, id); err != nil {
		return wire.UpRate{}, err
	}
	mbps, err := wire.RateOf(s.codes.run.up)
	return wire.UpRate{UpMbps: mbps, Measured: err == nil}, nil
}

// Echoes reports whether a packet that begins with these bytes is of the run under way, and is sent back.
func (s *Service) Echoes(head []byte) bool {
	s.codes.mu.Lock()
	defer s.codes.mu.Unlock()
	if s.codes.run == nil || len(head) < 16 {
		return false
	}
	id, err := hex.DecodeString(s.codes.run.id)
	return err == nil && subtle.ConstantTimeCompare(id, head[:16]) == 1
}

// EchoAt tells at which UDP port packets of a run are sent back.
func (s *Service) EchoAt(port int) { s.codes.echoPort = port }

// EndRun ends a run and stores what it measured, in the name of who made the code. What arrived
// from the device was counted here, and is stored as it was counted.
func (s *Service) EndRun(ctx context.Context, who, code string, in wire.MeasureResult) (wire.Measured, error) {
	i, err := s.invited(ctx, who, code)
	if err != nil {
		return wire.Measured{}, err
	}
	s.codes.mu.Lock()
	if err := s.codes.running(code, in.Run); err != nil {
		s.codes.mu.Unlock()
		return wire.Measured{}, err
	}
	up, uploaded := s.codes.run.up.Rate()
	s.codes.run = nil
	s.codes.mu.Unlock()

	now := s.now()
	var readings []dossier.Reading
	keep := func(what dossier.Quantity, v *float64) {
		if v == nil || *v <= 0 && (what == dossier.DownMbps || what == dossier.UpMbps) { // nothing that arrived is no rate
			return
		}
		r := dossier.Reading{What: what, Value: *v, Room: i.room, How: dossier.KnownMeasured, At: dossier.At(now), MeasuredWith: in.With, Conditions: in.Conditions}
		if i.device != "" {
			r.Subject = i.device.Ref()
		}
		r.ID = dossier.ID[dossier.Reading](newID())
		readings = append(readings, r)
	}
	keep(dossier.LatencyMs, in.LatencyMs)
	keep(dossier.JitterMs, in.JitterMs)
	keep(dossier.LossPercent, in.LossPercent)
	keep(dossier.DownMbps, in.DownMbps)
	if uploaded {
		keep(dossier.UpMbps, &up)
	}
	if len(readings) == 0 {
		return wire.Measured{}, refuse("nothing-measured")
	}
	w, err := s.write(ctx, i.maker, "add-reading", i.home, "measured by code", Request{}, func(d *dossier.Dossier) error {
		for _, r := range readings {
			d.Readings.Put(r)
		}
		return nil
	})
	if err != nil {
		return wire.Measured{}, err
	}
	out := wire.Measured{Readings: []dossier.Reading{}}
	for _, r := range readings {
		stored, _ := w.Dossier.Readings.Get(r.ID)
		out.Readings = append(out.Readings, stored)
	}
	return out, nil
}

// Questions tells a browser with the code of a device what it is asked about what it decodes.
func (s *Service) Questions(ctx context.Context, who, code string) (wire.DecodingQuestions, error) {
	i, err := s.invited(ctx, who, code)
	if err != nil {
		return wire.DecodingQuestions{}, err
	}
	if i.device == "" {
		return wire.DecodingQuestions{}, refuse("code-of-no-device")
	}
	out := wire.DecodingQuestions{Place: i.place}
	for _, q := range format.Questions {
		out.Questions = append(out.Questions, wire.DecodingQuestion{Type: q.Type, Width: q.Width, Height: q.Height, FrameRate: q.FrameRate, BitsPerSecond: int(q.Mbps * 1e6), Range: q.Range, Channels: q.Channels, SampleRate: q.Rate})
	}
	return out, nil
}

// DeclareDecoding records what a browser says that it decodes, for the device of the code and in the name of who made it.
func (s *Service) DeclareDecoding(ctx context.Context, who, code string, in wire.DecodingAnswers) (wire.DecodingDeclared, error) {
	i, err := s.invited(ctx, who, code)
	if err != nil {
		return wire.DecodingDeclared{}, err
	}
	now := format.Answered(in.Answers, in.PlaysHere)
	switch {
	case i.device == "":
		return wire.DecodingDeclared{}, refuse("code-of-no-device")
	case len(now) == 0:
		return wire.DecodingDeclared{}, refuse("nothing-declared")
	}
	_, err = s.write(ctx, i.maker, "add-decoding", i.home, "declared by its browser", Request{}, func(d *dossier.Dossier) error {
		one := dossier.Decoding{Device: i.device}
		one.ID = dossier.ID[dossier.Decoding](newID())
		if at := slices.IndexFunc(d.Decodings, func(p dossier.Decoding) bool { return p.Device == i.device }); at >= 0 {
			one = d.Decodings[at]
		}
		one.Entries = format.Declared(one.Entries, now)
		d.Decodings.Put(one)
		return nil
	})
	if err != nil {
		return wire.DecodingDeclared{}, err
	}
	return wire.DecodingDeclared{Lines: wording.DecodingLines(now)}, nil
}

// Join makes a code with which one phone logs in once as the person who asks.
func (s *Service) Join(_ context.Context, a Actor, origin string) (wire.Code, error) {
	if err := a.require("add-join", nil, nil); err != nil {
		return wire.Code{}, err
	}
	made, ends := newCode(), s.now().Add(joinMinutes*time.Minute)
	s.codes.mu.Lock()
	s.codes.tidied(s.now())
	s.codes.joins[made] = &joining{a, ends}
	s.codes.mu.Unlock()
	return codeAt(origin, "/join/", made, ends)
}

// Joined spends a code and returns a session of the person who made it.
func (s *Service) Joined(ctx context.Context, who, code, client string) (wire.Session, error) {
	of := by{"codes from " + who, 5}
	if wait := s.patience.try(s.now(), of); wait > 0 {
		return wire.Session{}, tooMany("too-many-guesses", wait)
	}
	code = strings.ToUpper(code)
	s.codes.mu.Lock()
	s.codes.tidied(s.now())
	j := s.codes.joins[code]
	delete(s.codes.joins, code)
	s.codes.mu.Unlock()
	if j == nil {
		return wire.Session{}, refuse("code-ended")
	}
	s.patience.right(of)
	return s.logInAs(ctx, j.person.ID, client, j.person.Session)
}

// OwnAddress is an address of this machine in its network, where a phone beside it reaches it.
func (s *Service) OwnAddress() (netip.Addr, bool) {
	if s.prober == nil {
		return netip.Addr{}, false
	}
	place, err := s.prober.Where()
	if err != nil {
		return netip.Addr{}, false
	}
	for _, a := range place.Adapters {
		for _, p := range a.Prefixes {
			if p.Addr().Is4() && p.Addr().IsPrivate() {
				return p.Addr(), true
			}
		}
	}
	return netip.Addr{}, false
}
