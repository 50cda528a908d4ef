package wording_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/wording"
)

// Every code the product can utter has words, and no words are left over.
func TestEveryCodeHasWords(t *testing.T) {
	var findings, tests, needs []string
	for _, c := range network.Codes {
		findings = append(findings, c.Name)
	}
	for _, k := range proving.Kinds {
		tests = append(tests, k.Name)
	}
	for _, n := range proving.Needs {
		needs = append(needs, n.What)
	}
	assert.ElementsMatch(t, findings, keys(wording.Findings))
	assert.ElementsMatch(t, tests, keys(wording.Tests))
	assert.ElementsMatch(t, needs, keys(wording.Prerequisites))
	for _, state := range proving.Status("").Values() {
		assert.Contains(t, wording.States, proving.Status(state))
		assert.Contains(t, wording.Points, "test-"+state)
	}
	for _, act := range dossier.Act("").Values() {
		assert.Contains(t, wording.Points, "record-"+act)
	}
	for name, e := range wording.Errors {
		assert.NotEmpty(t, e.Title, name)
		assert.NotEmpty(t, e.Remedy, name)
		assert.True(t, e.Status == 0 || e.Status >= 400 && e.Status < 600, name)
		assert.True(t, strings.HasSuffix(e.Remedy, ".") || strings.HasSuffix(e.Remedy, "}"), "%s: %s", name, e.Remedy)
	}
}

func keys[V any](m map[string]V) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	return out
}

func TestFillPutsValuesIntoSlots(t *testing.T) {
	assert.Equal(t, "10.0.0.1 at home", wording.Fill("{address} at {place}", map[string]string{"address": "10.0.0.1", "place": "home"}))
	assert.Equal(t, "at ", wording.Fill("at {nowhere}", nil))
	assert.Equal(t, []string{"a", "b"}, wording.Slots("{a} {b} {}"))
	assert.Equal(t, "1 test", wording.Count(1, "test"))
	assert.Equal(t, "3 tests", wording.Count(3, "test"))
	assert.Equal(t, "in hand", wording.Plain("in-hand"))
}

func TestAFindingSaysItsNumbers(t *testing.T) {
	said := wording.Finding(network.Finding{Code: "address-clash", Values: map[string]dossier.Value{"address": dossier.Named("10.20.4.10"), "devices": dossier.Named("a", "b")}})
	assert.Equal(t, "10.20.4.10 is recorded for more than one device: a, b. Each will work only intermittently.", said.Sentence)
	assert.Equal(t, `address of granite server was 10.0.0.1 and is no longer recorded`, wording.Fact("granite server", "interface", "addresses", "10.0.0.1", ""))
	assert.Contains(t, wording.Fact("x", "device", "shoe size", "1", "2"), "shoe size of x")
	assert.Equal(t, "the connection to 10.0.0.1:80 was refused", wording.Result(proving.Result{Observed: "refused", Said: map[string]string{"address": "10.0.0.1:80"}}))
}

func TestPoints(t *testing.T) {
	for _, c := range []struct {
		p    dossier.Point
		want string
	}{
		{dossier.Point{Code: "issue-open", Values: map[string]string{"state": "in-hand", "symptom": "hum", "waitingOn": "the provider"}}, "Issue in hand: hum. Next step: none recorded. Waiting for: the provider."},
		{dossier.Point{Code: "test-stale", Values: map[string]string{"test": "reach, plays", "path": "films"}}, "Needs repeating on films, because something it depends on has changed: Source answers, Plays"},
		{dossier.Point{Code: "record-added", Values: map[string]string{"kind": "room", "label": "cellar, attic"}}, "Added room: cellar, attic"},
		{dossier.Point{Code: "finding", Values: map[string]string{"finding": "address-clash"}, Found: map[string]dossier.Value{"address": dossier.Named("10.0.0.1"), "devices": dossier.Named("a", "b")}},
			"10.0.0.1 is recorded for more than one device: a, b. Each will work only intermittently. Give one of them another address, or correct the record that is wrong."},
	} {
		assert.Equal(t, c.want, wording.Point(c.p))
	}
}

const deviceID = "01990000-0000-7000-8000-000000000010"

func TestMembersSayWhatChanged(t *testing.T) {
	at := time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)
	raw := func(v any) json.RawMessage { b, _ := json.Marshal(v); return b }
	say := func(id string) string { return map[string]string{"01890000-0001-7000-8000-000000000001": "cellar"}[id] }
	e := dossier.Entry{At: at, By: "p1", Act: dossier.Changed, Subject: dossier.Ref{Kind: "device", ID: "x"},
		Before: map[string]json.RawMessage{"/firmware": raw("6"), "/note": raw("wet")},
		After:  map[string]json.RawMessage{"/firmware": raw("7"), "/room": raw("01890000-0001-7000-8000-000000000001"), "/carried": raw(true)}}
	assert.Equal(t, []string{"Portable: yes", "Firmware: 6 → 7", "note: wet removed", "Room: cellar"}, wording.Members(e, say))

	e = dossier.Entry{At: at, By: "p1", Act: dossier.Changed, Subject: dossier.Ref{Kind: "issue", ID: "x"}, After: map[string]json.RawMessage{
		"/tries/@01890000-000b-7000-8000-000000000001/what": raw("moved it"), "/tries/@01890000-000b-7000-8000-000000000001/by": raw("p1"), "/openedAt": raw(at), "/openedBy": raw("p1")}}
	assert.Equal(t, []string{"Tries what: moved it"}, wording.Members(e, say), "its own time and author are told by the entry")

	e = dossier.Entry{At: at, Act: dossier.Added, Subject: dossier.Ref{Kind: "handover", ID: "x"}, After: map[string]json.RawMessage{
		"/points/@p001/code": raw("finding"), "/points/@p002/code": raw("finding"), "/points/@p002/values/label": raw("x")}}
	assert.Equal(t, []string{"Points: 2 points"}, wording.Members(e, nil))
	e.After = map[string]json.RawMessage{"/points/@p002/confirmed": raw(true)}
	assert.Equal(t, []string{"Points p002 confirmed: yes"}, wording.Members(e, nil))

	named := func(id string) string { return map[string]string{deviceID: "granite server"}[id] }
	e = dossier.Entry{Subject: dossier.Ref{Kind: "due"}, After: map[string]json.RawMessage{"/subject/kind": raw("device"), "/subject/id": raw(deviceID)}}
	assert.Equal(t, []string{"About: device granite server"}, wording.Members(e, named), "a reference is one line")
	e = dossier.Entry{Subject: dossier.Ref{Kind: "visit"}, After: map[string]json.RawMessage{"/bring": json.RawMessage(`[{"what":"long cable","ready":true},{"what":"drill","ready":false}]`)}}
	assert.Equal(t, []string{"Bring: long cable (ready), drill"}, wording.Members(e, nil), "items of a list read as people write them")
}

func TestNotReadableSaysHowToWriteIt(t *testing.T) {
	for goType, want := range map[string]string{"netip.Addr": "numbers from 0 to 255", "netip.Prefix": "10.20.4.0/24", "dossier.HardwareAddr": "02:4b:49:00:00:10", "time.Time": "2026-11-25T14:30:00Z", "int": "is not possible here"} {
		assert.Contains(t, wording.NotReadable(goType, []byte(`"10.20.4.300"`)), want)
	}
	all := keys(wording.Faults)
	slices.Sort(all)
	for _, code := range all {
		assert.NotEmpty(t, wording.Fault(dossier.Fault{Code: dossier.FaultCode(code), Values: map[string]string{"detail": "d"}}), code)
	}
}

// Everything that the core can say in a code has its words here.
func TestWhatProofSaysHasWords(t *testing.T) {
	for _, code := range dossier.Observed("").Values() {
		assert.NotEmpty(t, wording.Observed[dossier.Observed(code)], code)
	}
	for _, a := range proving.Acts {
		assert.NotEmpty(t, wording.Act(a.Name, "x"), a.Name)
	}
	for _, n := range proving.Needs {
		assert.NotEmpty(t, wording.Prerequisites[n.What].Sentence, n.What)
		assert.NotEmpty(t, wording.Prerequisites[n.What].Remedy, n.What)
	}
	for _, k := range proving.Kinds {
		assert.NotEmpty(t, wording.Tests[k.Name].Do, k.Name)
	}
	for _, s := range proving.Status("").Values() {
		assert.NotEmpty(t, wording.States[proving.Status(s)], s)
		if s != string(proving.Untried) {
			assert.Contains(t, wording.Points, "test-"+s)
		}
	}
	for _, code := range []proving.DoubtCode{proving.DoubtFinding, proving.DoubtSeen, proving.DoubtFollowUp, proving.DoubtReset, proving.DoubtChange, proving.DoubtIssue, proving.DoubtEarlier} {
		assert.NotEmpty(t, wording.Doubts[code], code)
	}
	for _, w := range dossier.WishKind("").Values() {
		for _, f := range proving.Fulfilment("").Values() {
			said := wording.Wish(w, "in kitchen", proving.Fulfilment(f), 2)
			assert.Regexp(t, `^[A-Z][a-z -]+ in kitchen: .*\.$`, said, w)
		}
		assert.Regexp(t, `^The wish for [a-z -]+ on tablet has no path$`, wording.NotServed(w, wording.Where("", "tablet")))
	}
	assert.Equal(t, "This would make 1 proven test stale and put 2 proven tests in doubt. Proving the required ones again takes about 7 minutes.", wording.Preview(1, 2, 0, 7))
	assert.Empty(t, wording.Preview(0, 0, 0, 0))
	assert.Equal(t, "port of media changed from 1 to 2", wording.Fact("media", "source", "port", "1", "2"))
	assert.Equal(t, "admission of screen was not recorded and is now kept out", wording.Fact("screen", "register-entry", "admission", "", "kept-out"))
	assert.Equal(t, "MAC address of eth0 was 02:4b:49:00:00:10 and is no longer recorded", wording.Fact("eth0", "interface", "hardwareAddress", "02:4b:49:00:00:10", ""))
}
