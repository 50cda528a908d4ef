package httpapi_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

func TestPersonalDataIsErasedByACoordinatorAlone(t *testing.T) {
	s := newSite(t, nil)
	_, err := s.as["petri"].Begin(t.Context(), wire.NewHousehold{Code: "H-0701", Name: "Quay House", Address: "Quay 1", Contacts: []dossier.Contact{{Name: "Aune", Phone: "555-0117"}}})
	require.NoError(t, err)
	_, err = s.as["petri"].ErasePersonal(t.Context(), "H-0701", wire.Erase{Code: "H-0701", Why: "asked"})
	require.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	_, err = s.as["ilona"].ErasePersonal(t.Context(), "H-0701", wire.Erase{Code: "H-0702", Why: "asked"})
	require.True(t, client.IsProblem(err, "erase-other"), "%v", err)
	done, err := s.as["ilona"].ErasePersonal(t.Context(), "H-0701", wire.Erase{Code: "H-0701", Why: "asked for by letter"})
	require.NoError(t, err)
	assert.Equal(t, 1, done.Records)
	d, err := s.as["petri"].Dossier(t.Context(), "H-0701")
	require.NoError(t, err)
	assert.Equal(t, dossier.Erased, d.Home().Address)
	assert.False(t, d.Home().ErasedAt.IsZero())
	entries, err := s.as["petri"].Journal(t.Context(), "H-0701", nil)
	require.NoError(t, err)
	assert.Len(t, entries, 2)
	assert.Equal(t, "Ilona Kettu", entries[0].ByName)
	for _, e := range entries {
		for _, m := range e.Members {
			assert.NotContains(t, m, "555")
			assert.NotContains(t, m, "Quay 1")
		}
	}
	_, err = s.as["ilona"].Undo(t.Context(), "H-0701", entries[0].Revision, entries[0].N)
	require.True(t, client.IsProblem(err, "not-undoable"), "%v", err)
}
