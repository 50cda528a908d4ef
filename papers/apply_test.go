package papers_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/papers"
)

// Records come in the order in which kinds depend on each other, each with its line, and texts
// stay as they are written.
func TestADocumentOfSeveralKinds(t *testing.T) {
	got, err := papers.ReadApply([]byte("software:\n- {device: server, name: Ahtola, does: media-server, version: 3.10, endsOn: 2026-12-24}\nroom:\n- &c {name: \"01\", floor: -1}\nlongTasks:\n- {what: index, expectedAt: 2026-11-26T08:00:00Z, checkedBy: petri}\n"))
	require.NoError(t, err)
	var said []string
	for _, one := range got {
		b, err := json.Marshal(one.Members)
		require.NoError(t, err)
		said = append(said, one.Kind.Name+" "+string(b))
	}
	assert.Equal(t, []string{`room {"floor":-1,"name":"01"}`, `software {"device":"server","does":"media-server","endsOn":"2026-12-24","name":"Ahtola","version":"3.10"}`,
		`long-task {"checkedBy":"petri","expectedAt":"2026-11-26T08:00:00Z","what":"index"}`}, said)
	assert.Equal(t, []int{4, 2, 6}, []int{got[0].Line, got[1].Line, got[2].Line})
}

// Aliases that would come to billions of values are refused.
func TestADocumentOfManyAliasesIsRefused(t *testing.T) {
	document := "rooms:\n- &a {name: [x, x, x, x, x, x, x, x, x, x]}\n"
	for n := 'b'; n < 'k'; n++ {
		document += "- &" + string(n) + " {name: [" + strings.Repeat("*"+string(n-1)+", ", 9) + "*" + string(n-1) + "]}\n"
	}
	_, err := papers.ReadApply([]byte(document))
	assert.ErrorContains(t, err, "too large")
}

// Whatever a document says, it is read or refused, and what was read is JSON.
func FuzzReadApply(f *testing.F) {
	f.Add("rooms:\n- {name: cellar, floor: -1}\n")
	f.Add("rooms: &a\n- name: x\ndevices: *a\n")
	f.Add(`{"rooms":[{"name":"x"}]}`)
	f.Add("household: {name: x}\nrooms: [[1]]\n")
	f.Add("rooms:\n- &a {name: *a}\n")
	f.Add("rooms:\n- {floor: .nan, order: .inf, ? {a: b} : c}\n")
	f.Fuzz(func(t *testing.T, document string) {
		got, err := papers.ReadApply([]byte(document))
		if err != nil {
			assert.NotEmpty(t, err.Error())
			return
		}
		for _, one := range got {
			_, err := json.Marshal(one.Members)
			assert.NoError(t, err, document)
		}
	})
}
