package service_test

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

const password = "seven wet granite steps"

// firm is a firm of two coordinators, a lead technician and a technician; its clock is moved by hand.
type firm struct {
	*service.Service
	t     *testing.T
	store *store.Store
	now   atomic.Pointer[time.Time]
	id    map[string]wire.Person
}

func newFirm(t *testing.T, o service.Options) *firm {
	f := &firm{t: t, id: map[string]wire.Person{}}
	at := time.Now()
	f.now.Store(&at)
	o.Now = func() time.Time { return *f.now.Load() }
	var err error
	f.store, err = store.Open(t.Context(), t.TempDir(), store.Options{Now: o.Now})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, f.store.Close()) })
	f.Service = service.New(f.store, o)
	for login, role := range map[string]service.Role{"ilona": service.Coordinator, "oona": service.Coordinator, "aino": service.Lead, "petri": service.Technician} {
		f.id[login], err = f.AddPerson(t.Context(), login, login, role, password)
		require.NoError(t, err)
	}
	return f
}

func (f *firm) passes(d time.Duration) {
	at := f.now.Load().Add(d)
	f.now.Store(&at)
}

// in logs somebody in and returns who then asks.
func (f *firm) in(login string) (string, service.Actor) {
	s, err := f.LogIn(f.t.Context(), "here", wire.LogIn{Login: login, Password: password})
	require.NoError(f.t, err)
	a, err := f.Actor(f.t.Context(), s.Token)
	require.NoError(f.t, err)
	return s.Token, a
}

func (f *firm) who(token string) string {
	a, err := f.Actor(f.t.Context(), token)
	require.NoError(f.t, err)
	return a.Name
}

// Guessing from one address does not keep the right person out who comes from another; hundreds of log-ins at
// once take turns, and no more memory than two.
func TestGuessingSlowsDownAndLocksNobodyOut(t *testing.T) {
	f := newFirm(t, service.Options{})
	ctx := t.Context()
	for range 5 {
		_, err := f.LogIn(ctx, "192.0.2.9", wire.LogIn{Login: "petri", Password: "guess"})
		assertRefused(t, err, "wrong-login")
	}
	_, err := f.LogIn(ctx, "192.0.2.9", wire.LogIn{Login: "petri", Password: password})
	assertRefused(t, err, "too-many-tries")
	var no *service.Refusal
	require.ErrorAs(t, err, &no)
	assert.Equal(t, 1, no.Problem().RetryAfter)
	_, err = f.LogIn(ctx, "192.0.2.10", wire.LogIn{Login: "petri", Password: password})
	require.NoError(t, err)
	f.passes(time.Second)
	_, err = f.LogIn(ctx, "192.0.2.9", wire.LogIn{Login: "petri", Password: password})
	require.NoError(t, err)

	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	var all sync.WaitGroup
	codes := make(chan string, 400)
	for n := range 400 {
		all.Go(func() {
			_, err := f.LogIn(ctx, fmt.Sprint("198.51.100.", n%200), wire.LogIn{Login: "petri", Password: "guess"})
			var no *service.Refusal
			if errors.As(err, &no) {
				codes <- no.Code
			}
		})
	}
	all.Wait()
	close(codes)
	runtime.ReadMemStats(&after)
	count := map[string]int{}
	for c := range codes {
		count[c]++
	}
	assert.Equal(t, 400, count["wrong-login"]+count["log-in-busy"], "%v", count)
	assert.Positive(t, count["log-in-busy"], "not everybody's turn comes in three seconds")
	assert.Less(t, after.Sys-before.Sys, uint64(200<<20), "bytes taken from the system")
}

func TestASecondFactor(t *testing.T) {
	f := newFirm(t, service.Options{SecondFactorFor: []service.Role{service.Coordinator}})
	ctx := t.Context()
	elsewhere, _ := f.in("petri")
	token, petri := f.in("petri")
	program, err := f.NewToken(ctx, petri, wire.NewToken{Name: "program", Days: 9})
	require.NoError(t, err)
	offer, err := f.OfferSecondFactor(ctx, petri)
	require.NoError(t, err)
	assert.Contains(t, offer.Address, "otpauth://totp/Kaiku:petri?")
	assert.NotEmpty(t, offer.QR)
	code := func() string {
		c, err := totp.GenerateCode(offer.Secret, *f.now.Load())
		require.NoError(t, err)
		return c
	}
	assertRefused(t, f.SetSecondFactor(ctx, petri, wire.SetSecondFactor{Password: password, Secret: offer.Secret, Code: "000000"}), "wrong-code")
	assertRefused(t, f.SetSecondFactor(ctx, petri, wire.SetSecondFactor{Password: "guess", Secret: offer.Secret, Code: code()}), "wrong-password")
	require.NoError(t, f.SetSecondFactor(ctx, petri, wire.SetSecondFactor{Password: password, Secret: offer.Secret, Code: code()}))
	assert.Equal(t, "petri", f.who(token))
	assert.Empty(t, f.who(elsewhere), "it was made without the second factor")
	assert.Equal(t, "petri", f.who(program.Token))

	in := wire.LogIn{Login: "petri", Password: password}
	_, err = f.LogIn(ctx, "here", in)
	assertRefused(t, err, "code-needed")
	_, err = f.LogIn(ctx, "here", wire.LogIn{Login: "petri", Password: "guess", Code: code()})
	assertRefused(t, err, "wrong-login")
	in.Code = code()
	_, err = f.LogIn(ctx, "here", in)
	assertRefused(t, err, "wrong-code")
	f.passes(30 * time.Second)
	in.Code = code()
	s, err := f.LogIn(ctx, "here", in)
	require.NoError(t, err)
	assert.Equal(t, wire.FactorOn, s.SecondFactor)
	_, err = f.LogIn(ctx, "there", in)
	assertRefused(t, err, "wrong-code")
	p, err := f.store.PersonByLogin(ctx, "petri")
	require.NoError(t, err)
	assert.NotContains(t, string(p.SecondFactor), offer.Secret)

	f.passes(time.Minute)
	assertRefused(t, f.RemoveSecondFactor(ctx, petri, wire.RemoveSecondFactor{Password: password, Code: in.Code}), "wrong-code")
	require.NoError(t, f.RemoveSecondFactor(ctx, petri, wire.RemoveSecondFactor{Password: password, Code: code()}))
	f.in("petri")

	// Who must have one can do nothing else before; a reset takes a lost one away.
	_, ilona := f.in("ilona")
	assert.True(t, ilona.Enrols)
	assertRefused(t, ilona.MayNow("list-households"), "second-factor-needed")
	require.NoError(t, ilona.MayNow("set-second-factor"))
	me, err := f.WhoAmI(ctx, ilona)
	require.NoError(t, err)
	assert.Equal(t, wire.FactorNeeded, me.SecondFactor)
	offer, err = f.OfferSecondFactor(ctx, ilona)
	require.NoError(t, err)
	require.NoError(t, f.SetSecondFactor(ctx, ilona, wire.SetSecondFactor{Password: password, Secret: offer.Secret, Code: code()}))
	_, oona := f.in("oona")
	made, err := f.ResetPerson(ctx, oona, f.id["ilona"].ID)
	require.NoError(t, err)
	s, err = f.LogIn(ctx, "here", wire.LogIn{Login: "ilona", Password: made.Password})
	require.NoError(t, err)
	assert.Equal(t, wire.FactorNeeded, s.SecondFactor)
}

func TestPasswordsThatAreGuessedFirst(t *testing.T) {
	f := newFirm(t, service.Options{})
	_, petri := f.in("petri")
	for _, c := range []struct{ new, code string }{
		{"qwertyuiop", "password-common"}, {"Password2026!", "password-common"}, {"P4ssw0rd12345", "password-common"}, {"1234567890", "password-common"},
		{"aabbaabbaabb", "password-common"}, {"petri-petri", "password-named"}, {"kaikupetri1", "password-named"},
		{"seven wet granite steps down", ""}, {"gull-password-heron", ""},
	} {
		err := f.ChangePassword(t.Context(), petri, wire.NewPassword{Old: password, New: c.new})
		if c.code != "" {
			assert.ErrorContains(t, err, c.code, c.new)
			continue
		}
		require.NoError(t, err, c.new)
		require.NoError(t, f.ChangePassword(t.Context(), petri, wire.NewPassword{Old: c.new, New: password}))
	}
	for range 5 {
		assertRefused(t, f.ChangePassword(t.Context(), petri, wire.NewPassword{Old: "guess", New: strings.Repeat("granite ", 3)}), "wrong-password")
	}
	assertRefused(t, f.ChangePassword(t.Context(), petri, wire.NewPassword{Old: password, New: strings.Repeat("granite ", 3)}), "too-many-tries")
}

// What a token makes lasts no longer than the token, and ends with it.
func TestWhatATokenMakesEndsWithIt(t *testing.T) {
	f := newFirm(t, service.Options{})
	ctx := t.Context()
	login, petri := f.in("petri")
	made, err := f.NewToken(ctx, petri, wire.NewToken{Name: "program", Days: 10})
	require.NoError(t, err)
	program, err := f.Actor(ctx, made.Token)
	require.NoError(t, err)
	child, err := f.NewToken(ctx, program, wire.NewToken{Name: "child", Days: 300})
	require.NoError(t, err)
	assert.Equal(t, made.Ends, child.Ends)
	feed, err := f.NewFeed(ctx, program)
	require.NoError(t, err)
	assert.Equal(t, made.Ends, feed.Ends)
	code, err := f.Join(ctx, program, "https://kaiku.example.org")
	require.NoError(t, err)
	phone, err := f.Joined(ctx, "here", code.Code, "phone")
	require.NoError(t, err)
	assert.Equal(t, made.Ends, phone.Until)
	onPhone, err := f.Actor(ctx, phone.Token)
	require.NoError(t, err)
	grand, err := f.NewToken(ctx, onPhone, wire.NewToken{Name: "grandchild", Days: 300})
	require.NoError(t, err)
	assert.Equal(t, made.Ends, grand.Ends)
	late, err := f.Join(ctx, program, "https://kaiku.example.org")
	require.NoError(t, err)

	all, err := f.LogIns(ctx, petri, login)
	require.NoError(t, err)
	for _, one := range all {
		if one.Name == "program" {
			require.NoError(t, f.EndLogIn(ctx, petri, one.ID))
		}
	}
	for what, token := range map[string]string{"token": made.Token, "child": child.Token, "phone": phone.Token, "grandchild": grand.Token} {
		assert.Empty(t, f.who(token), what)
	}
	_, err = f.Joined(ctx, "here", late.Code, "phone")
	assertRefused(t, err, "code-ended")
	assert.Equal(t, "petri", f.who(login))
	_, err = f.NewToken(ctx, program, wire.NewToken{Name: "late", Days: 1})
	assertRefused(t, err, "not-logged-in")

	// A token of a log-in outlives it: that is what it is for.
	own, err := f.NewToken(ctx, petri, wire.NewToken{Name: "own", Days: 10})
	require.NoError(t, err)
	require.NoError(t, f.LogOut(ctx, login))
	assert.Equal(t, "petri", f.who(own.Token))
}

// A suspension is not undone by a change of password, name or role at the same moment.
func TestASuspensionHoldsWhateverHappensBesideIt(t *testing.T) {
	f := newFirm(t, service.Options{})
	ctx := t.Context()
	_, ilona := f.in("ilona")
	yes := true
	for range 8 {
		_, petri := f.in("petri")
		var both sync.WaitGroup
		both.Go(func() {
			_ = f.ChangePassword(ctx, petri, wire.NewPassword{Old: password, New: password}) // refused, if it came too late
		})
		both.Go(func() {
			_, err := f.ChangePerson(ctx, ilona, petri.ID, wire.PersonChange{Suspended: &yes})
			assert.NoError(t, err)
		})
		both.Wait()
		p, err := f.store.PersonByID(ctx, petri.ID)
		require.NoError(t, err)
		require.NotNil(t, p.SuspendedAt)
		left, err := f.store.Sessions(ctx, petri.ID)
		require.NoError(t, err)
		require.Empty(t, left)
		no := false
		_, err = f.ChangePerson(ctx, ilona, petri.ID, wire.PersonChange{Suspended: &no})
		require.NoError(t, err)
	}
}

// Two coordinators who suspend each other at once leave one of them.
func TestCoordinatorsDoNotSuspendEachOtherIntoNone(t *testing.T) {
	f := newFirm(t, service.Options{})
	ctx := t.Context()
	_, ilona := f.in("ilona")
	_, oona := f.in("oona")
	yes := true
	_, err := f.ChangePerson(ctx, ilona, oona.ID, wire.PersonChange{Suspended: &yes})
	require.NoError(t, err)
	_, err = f.ChangePerson(ctx, oona, ilona.ID, wire.PersonChange{Suspended: &yes}) // it was on its way already
	assertRefused(t, err, "not-logged-in")
	_, err = f.ChangePerson(ctx, ilona, ilona.ID, wire.PersonChange{Suspended: &yes})
	assertRefused(t, err, "yourself")
	people, err := f.People(context.WithoutCancel(ctx), ilona)
	require.NoError(t, err)
	active := 0
	for _, p := range people {
		if p.Role == "coordinator" && !p.Suspended {
			active++
		}
	}
	assert.Equal(t, 1, active)
}

// Whoever was offered a home and becomes an observer since does not accept it; nor does anybody else than the receiver.
func TestOnlyTheReceiverAcceptsAndNoObserver(t *testing.T) {
	f := newFirm(t, service.Options{})
	ctx := t.Context()
	_, ilona := f.in("ilona")
	_, aino := f.in("aino")
	_, err := f.Begin(ctx, aino, wire.NewHousehold{Code: "H-0001", Name: "Quay House"}, service.Request{})
	require.NoError(t, err)
	h, err := f.DraftHandover(ctx, aino, "H-0001", wire.NewHandover{To: "petri"}, service.Request{})
	require.NoError(t, err)
	_, err = f.StepHandover(ctx, aino, "H-0001", h.Record.ID, "offer", wire.HandoverStep{}, service.Request{})
	require.NoError(t, err)
	for _, other := range []service.Actor{ilona, aino} {
		_, err = f.StepHandover(ctx, other, "H-0001", h.Record.ID, "accept", wire.HandoverStep{}, service.Request{})
		assertRefused(t, err, "not-allowed")
	}
	_, err = f.ChangePerson(ctx, ilona, f.id["petri"].ID, wire.PersonChange{Role: string(service.Observer)})
	require.NoError(t, err)
	_, petri := f.in("petri")
	require.Equal(t, service.Observer, petri.Role)
	for _, step := range []string{"confirm", "accept"} {
		_, err = f.StepHandover(ctx, petri, "H-0001", h.Record.ID, step, wire.HandoverStep{Points: []string{"p001"}}, service.Request{})
		assertRefused(t, err, "not-allowed")
	}
}
