package httpapi_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/wire"
)

// What lists can be narrowed and sorted by is the same in the store, the API and the commands.
func TestListsKnowTheSameWords(t *testing.T) {
	assert.Equal(t, store.HomesWith(), wire.HomesWith)
	assert.Equal(t, store.HomesBy(), wire.HomesBy)
	b, err := newSite(t, nil).api.OpenAPI()
	require.NoError(t, err)
	var doc struct {
		Paths map[string]map[string]struct {
			Parameters []struct {
				Name   string
				Schema struct {
					Enum  []string
					Items struct{ Enum []string }
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(b, &doc))
	var sorts []string
	for _, by := range wire.HomesBy {
		sorts = append(sorts, by, "-"+by)
	}
	for _, p := range doc.Paths["/api/v1/households"]["get"].Parameters {
		switch p.Name {
		case "with":
			assert.ElementsMatch(t, wire.HomesWith, p.Schema.Items.Enum)
		case "sort":
			assert.ElementsMatch(t, sorts, p.Schema.Enum)
		}
	}
}

func TestHouseholdsOverTheAPI(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	_, err := s.as["maarit"].Begin(t.Context(), wire.NewHousehold{Code: "H-0702", Name: "Net Loft", Contacts: []dossier.Contact{{Name: "Lempi", Phone: "555-0133"}}})
	require.NoError(t, err)
	list := func(q wire.HomesQuery) []wire.HouseholdRow {
		rows, err := s.as["tilit"].Households(t.Context(), q)
		require.NoError(t, err)
		return rows
	}
	rows := list(wire.HomesQuery{Words: "555 0133"})
	require.Len(t, rows, 1)
	assert.Equal(t, "H-0702", rows[0].Code)
	assert.Equal(t, []wire.FoundRecord{{Named: wire.Named{Ref: wire.Ref{Kind: "household", ID: string(rows[0].ID)}, Label: "Net Loft"}, Text: "555-0133"}}, rows[0].Found)
	assert.Len(t, list(wire.HomesQuery{Custodian: "maarit"}), 1)
	assert.Equal(t, "H-0701", list(wire.HomesQuery{With: []string{"unproven"}})[0].Code)
	names := list(wire.HomesQuery{Sort: "-name"})
	assert.True(t, slices.IsSortedFunc(names, func(a, b wire.HouseholdRow) int { return strings.Compare(b.Name, a.Name) }), names)
	_, err = s.as["tilit"].Households(t.Context(), wire.HomesQuery{Custodian: "nobody"})
	assert.True(t, client.IsProblem(err, "no-such-person"), err)
	_, err = s.as["tilit"].Households(t.Context(), wire.HomesQuery{With: []string{"charm"}})
	assert.True(t, client.IsProblem(err, "not-valid"), err)
}

// A list says what people call its records and those that they refer to, so that nobody has to ask for
// them one by one.
func TestListsSayWhatPeopleCallTheirRecords(t *testing.T) {
	s := newSite(t, nil)
	ids := s.full("H-0701")
	for _, k := range dossier.Kinds {
		if k.Name == "household" {
			continue
		}
		resp := s.request("petri", http.MethodGet, "/api/v1/households/H-0701/"+k.Plural, nil, nil)
		var list struct {
			Records []map[string]any
			Labels  map[string]string
		}
		require.NoError(t, json.NewDecoder(resp.Body).Decode(&list))
		require.NoError(t, resp.Body.Close())
		require.NotEmpty(t, list.Records, k.Name)
		for _, r := range list.Records {
			assert.Contains(t, list.Labels, r["id"], k.Name)
			for _, f := range k.Fields {
				if id, ok := r[f.Name].(string); ok && f.Refers != "" && f.Refers != "person" && f.Refers != "any" && slices.Contains(slices.Collect(maps.Values(ids)), id) {
					assert.NotEmpty(t, list.Labels[id], "%s.%s", k.Name, f.Name)
				}
			}
		}
	}
}

// Whatever the pages hold, together they are the whole list, each record once.
func TestListsOfRecordsComeInPages(t *testing.T) {
	s := newSite(t, nil)
	s.full("H-0701")
	for n := range 4 {
		_, err := s.as["ilona"].Add(t.Context(), "H-0701", dossier.KindNamed("room"), wire.Record{"name": fmt.Sprint("room ", n)})
		require.NoError(t, err)
	}
	page := func(query string) (ids []string) {
		resp := s.request("petri", http.MethodGet, "/api/v1/households/H-0701/rooms?"+query, nil, nil)
		defer resp.Body.Close()
		require.Equal(t, http.StatusOK, resp.StatusCode)
		var list struct{ Records []struct{ ID string } }
		require.NoError(t, json.NewDecoder(resp.Body).Decode(&list))
		for _, r := range list.Records {
			ids = append(ids, r.ID)
		}
		return ids
	}
	all := page("")
	require.GreaterOrEqual(t, len(all), 5)
	for limit := 1; limit <= len(all)+1; limit++ {
		var got []string
		for after := ""; ; {
			one := page(fmt.Sprintf("limit=%d&after=%s", limit, after))
			require.LessOrEqual(t, len(one), limit)
			if len(one) == 0 {
				break
			}
			got = append(got, one...)
			after = one[len(one)-1]
		}
		assert.Equal(t, all, got, "pages of %d", limit)
	}
}
