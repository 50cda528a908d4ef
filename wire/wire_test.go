package wire_test

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
)

func member(t *testing.T, kind, name string) wire.Member {
	k := wire.KindOf(dossier.KindNamed(kind))
	for _, m := range k.Members {
		if m.Name == name {
			return m
		}
	}
	t.Fatalf("%s has no member %s", kind, name)
	return wire.Member{}
}

func TestKindsDescribeTheirMembers(t *testing.T) {
	for _, c := range []struct {
		kind, name, is string
		list, required bool
		refers         string
	}{
		{"room", "name", "text", false, true, ""},
		{"room", "floor", "whole", false, false, ""},
		{"segment", "prefix", "prefix", false, true, ""},
		{"interface", "addresses", "address", true, false, ""},
		{"interface", "hardwareAddress", "hardware-address", false, false, ""},
		{"device", "room", "reference", false, false, "room"},
		{"device", "carried", "yes-no", false, false, ""},
		{"path", "folders", "reference", true, false, "folder"},
		{"path", "serverEnd", "group", false, false, ""},
		{"household", "contacts", "group", true, false, ""},
		{"household", "custodian", "reference", false, true, "person"},
		{"issue", "subjects", "reference", true, false, "any"},
		{"issue", "openedAt", "time", false, true, ""},
		{"attempt", "values", "map", false, false, ""},
	} {
		m := member(t, c.kind, c.name)
		assert.Equal(t, c.is, m.Type, "%s.%s", c.kind, c.name)
		assert.Equal(t, c.list, m.List, "%s.%s", c.kind, c.name)
		assert.Equal(t, c.required, m.Required, "%s.%s", c.kind, c.name)
		assert.Equal(t, c.refers, m.Refers, "%s.%s", c.kind, c.name)
	}
	assert.Contains(t, member(t, "device", "roles").Enum, "control-point")
	end := member(t, "path", "deviceEnd")
	require.Len(t, end.Group, 4)
	assert.Equal(t, "address", end.Group[0].Type)
	for _, m := range wire.KindOf(dossier.KindNamed("attempt")).Members {
		assert.Equal(t, dossier.ByCase, m.Rule, "an attempt cannot be set: %s", m.Name)
	}
}

// A form can be made of every kind: each member has a title, help and a known type, and the
// schema's list of types knows every one.
func TestEveryMemberCanBeShown(t *testing.T) {
	f, _ := reflect.TypeFor[wire.Member]().FieldByName("Type")
	known := strings.Split(f.Tag.Get("enum"), ",")
	for _, k := range dossier.Kinds {
		d := wire.KindOf(k)
		assert.NotEmpty(t, d.Members, k.Name)
		for _, m := range d.Members {
			assert.Contains(t, known, m.Type, "%s.%s", k.Name, m.Name)
			assert.NotEmpty(t, m.Title, "%s.%s", k.Name, m.Name)
			for _, g := range m.Group {
				assert.Contains(t, known, g.Type, "%s.%s.%s", k.Name, m.Name, g.Name)
			}
		}
		_, err := json.Marshal(d)
		require.NoError(t, err)
	}
}

func TestAMachinesAttemptSaysSo(t *testing.T) {
	a := wire.MachineAttempt(proving.Result{Test: "reach:x", Outcome: dossier.Fail, Observed: "refused", Values: map[string]float64{"connectMs": 1}}, "the connection was refused")
	assert.Equal(t, dossier.ByMachine, a.How)
	assert.Equal(t, "the connection was refused", a.Note)
	assert.Equal(t, "reach:x", a.Test)
}

func TestAProblemReadsAsSentences(t *testing.T) {
	p := &wire.Problem{Detail: "Nothing was stored.", Remedy: "Correct it.", Status: 422, Faults: []wire.Fault{{Pointer: "/a", Detail: "this is needed"}}}
	assert.Equal(t, "Nothing was stored.\n  /a: this is needed\nCorrect it.", p.Error())
	assert.Equal(t, 422, p.GetStatus())
	assert.Equal(t, "application/problem+json", p.ContentType("application/json"))
}
