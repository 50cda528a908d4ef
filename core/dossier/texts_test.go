package dossier_test

import (
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/homes"
)

func TestTextsOfARecord(t *testing.T) {
	for _, c := range []struct {
		name string
		kind string
		in   dossier.Record
		want []string
	}{
		{"a contact's telephone", "household", dossier.Household{Code: "H-0042", Name: "Quay House", Contacts: []dossier.Contact{{Name: "Aune", Phone: "555-0123"}}, Custodian: "p"},
			[]string{"H-0042", "Quay House", "Aune", "555-0123"}},
		{"no words of a list, no references", "device", dossier.Device{Name: "granite server", Roles: []dossier.Role{"server"}, Room: "r", Serial: "TK-4471"}, []string{"granite server", "TK-4471"}},
		{"addresses", "interface", dossier.Interface{Name: "eth0", HardwareAddress: "02:4b:49:00:00:10", Addresses: []netip.Addr{netip.MustParseAddr("10.20.4.10")}},
			[]string{"eth0", "02:4b:49:00:00:10", "10.20.4.10"}},
		{"what was tried", "issue", dossier.Issue{Symptom: "it stutters", Tries: []dossier.Try{{ID: "x", By: "p", What: "moved the antenna", Showed: "better"}}},
			[]string{"it stutters", "moved the antenna", "better"}},
		{"no sum", "attachment", dossier.Attachment{Caption: "label", SHA256: "abc", MediaType: "image/jpeg", FileName: "p.jpg"}, []string{"label", "p.jpg"}},
	} {
		assert.Equal(t, c.want, dossier.KindNamed(c.kind).Texts(c.in), c.name)
	}
}

func TestSearchKeys(t *testing.T) {
	for in, want := range map[string][]string{
		"02:4B:49:00:00:10": {"024b49000010", "000010", "0010"},
		"024b.4900.0010":    {"024b49000010", "000010", "0010"},
		"555-0123":          {"5550123"},
		"H-0042":            {"h0042"},
		"TK/4471-022":       {"tk4471022", "471022", "1022"},
		"lamp room":         nil,
		"":                  nil,
	} {
		assert.Equal(t, want, dossier.SearchKeys(in), in)
	}
}

// Every kind says something by which it is found, or its label does.
func TestEveryRecordCanBeFound(t *testing.T) {
	d := homes.Full()
	for _, k := range dossier.Kinds {
		r := k.In(d).At(0)
		assert.True(t, len(k.Texts(r)) > 0 || d.FullLabel(dossier.Ref{Kind: k.Name, ID: r.Key()}) != "", k.Name)
	}
}

func TestEveryEndHasAClass(t *testing.T) {
	for _, code := range dossier.Observed("").Values() {
		assert.Contains(t, dossier.Class("").Values(), string(dossier.Observed(code).Class()), code)
	}
	assert.Empty(t, dossier.Observed("dreamt").Class())
}
