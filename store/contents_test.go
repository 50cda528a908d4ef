package store_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/store"
)

func TestTheNewestContentsOfAFolderAreKept(t *testing.T) {
	s := open(t, t.TempDir())
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	d := homes.Small()
	putHome(t, s, d)
	home := d.Home().ID
	_, err := s.Contents(t.Context(), home, "films")
	require.ErrorIs(t, err, store.ErrNotFound)

	at := time.Date(2026, 3, 30, 8, 0, 0, 0, time.UTC)
	first := contents.Contents{Folder: "films", Place: "the source Kelp", Ended: at, By: "p", Items: []contents.File{
		{Path: "Größe/花崗岩.mkv", Bytes: 7, Modified: at, Seconds: 1.5, Format: dossier.FormatEntry{Container: dossier.Matroska, Video: dossier.HEVC}, Beside: []string{"x.srt"}},
		{Path: "half.mp4", Modified: at, Trouble: contents.HalfCopied, Detail: "ends early"},
	}}.Cut()
	require.NoError(t, s.PutContents(t.Context(), home, first))
	got, err := s.Contents(t.Context(), home, "films")
	require.NoError(t, err)
	assert.Equal(t, first, got)

	second := first
	second.Ended, second.Items = at.Add(time.Hour), first.Items[:1]
	require.NoError(t, s.PutContents(t.Context(), home, second))
	got, err = s.Contents(t.Context(), home, "films")
	require.NoError(t, err)
	assert.Equal(t, second, got, "in place of the earlier one")
	_, err = s.Contents(t.Context(), "another", "films")
	require.ErrorIs(t, err, store.ErrNotFound, "of another home")

	_, err = s.Erase(t.Context(), home, store.Cause{Why: "asked for by letter"}, func(*dossier.Dossier) error { return nil })
	require.NoError(t, err)
	_, err = s.Contents(t.Context(), home, "films")
	require.ErrorIs(t, err, store.ErrNotFound, "names of files are erased with what else is personal")
}
