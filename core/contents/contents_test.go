package contents

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
)

func film(path string) File {
	return File{Path: path, Bytes: 4e9, Seconds: 3600, Format: dossier.FormatEntry{Container: dossier.Matroska, Video: dossier.HEVC, Height: 1080, Width: 1920, Hours: 1, Gigabytes: 4}}
}

// What is left out of the list stays in the mix, and what is in trouble is never left out for what is not.
func TestWhatIsTooMuchIsCutAndSaid(t *testing.T) {
	var c Contents
	for n := range MostItems + 10 {
		c.Items = append(c.Items, film(fmt.Sprintf("%06d.mkv", n)))
	}
	c.Items = append(c.Items, File{Path: "999999.mkv", Trouble: HalfCopied})
	cut := c.Cut()
	assert.Len(t, cut.Items, MostItems)
	assert.Equal(t, 11, cut.Left)
	assert.Equal(t, MostItems+10, cut.Readable())
	assert.Equal(t, "999999.mkv", cut.Items[MostItems-1].Path)
	require.NoError(t, cut.Check(), "sorted by path again")
	assert.Equal(t, cut, cut.Cut(), "what is left out stays in the mix when it is kept elsewhere")
	assert.Len(t, c.Items, MostItems+11, "what was read is left as it is")

	small := Contents{Items: []File{film("a.mkv"), {Path: "b.mkv", Trouble: Damaged}}}.Cut()
	assert.Zero(t, small.Left)
	assert.Equal(t, 1, small.Readable())
	empty := Contents{}.Cut()
	assert.NotNil(t, empty.Items, "nothing is a list as well")
	assert.NotNil(t, empty.Mix)
}

func TestContentsFromElsewhereAreChecked(t *testing.T) {
	good := Contents{Items: []File{film("a.mkv"), film("b.mkv")}}.Cut()
	require.NoError(t, good.Check())
	for name, c := range map[string]struct {
		spoil func(*Contents)
		says  string
	}{
		"no path":                {func(c *Contents) { c.Items[0].Path = "" }, "item"},
		"out of order":           {func(c *Contents) { c.Items[0].Path = "c.mkv" }, "item"},
		"twice":                  {func(c *Contents) { c.Items[0].Path = "b.mkv" }, "item"},
		"a very long path":       {func(c *Contents) { c.Items[1].Path = strings.Repeat("b", 4001) }, "item"},
		"a negative size":        {func(c *Contents) { c.Items[0].Bytes = -1 }, "item"},
		"a negative length":      {func(c *Contents) { c.Items[0].Seconds = -1 }, "item"},
		"no length at all":       {func(c *Contents) { c.Items[0].Seconds = math.NaN() }, "item"},
		"an endless length":      {func(c *Contents) { c.Items[0].Seconds = math.Inf(1) }, "item"},
		"an unknown trouble":     {func(c *Contents) { c.Items[0].Trouble = "tired" }, "item"},
		"more than all left out": {func(c *Contents) { c.Left = -1 }, "larger than what is kept"},
		"a negative count":       {func(c *Contents) { c.Covers = -1 }, "larger than what is kept"},
		"a long place":           {func(c *Contents) { c.Place = strings.Repeat("x", 1001) }, "larger than what is kept"},
		"a long machine":         {func(c *Contents) { c.With = strings.Repeat("x", 81) }, "larger than what is kept"},
		"too many items":         {func(c *Contents) { c.Items = make([]File, MostItems+1) }, "larger than what is kept"},
		"too large a mix":        {func(c *Contents) { c.Mix = make([]dossier.FormatEntry, 501) }, "larger than what is kept"},
	} {
		spoilt := Contents{Items: []File{film("a.mkv"), film("b.mkv")}}.Cut()
		c.spoil(&spoilt)
		assert.ErrorContains(t, spoilt.Check(), c.says, name)
	}
}

func TestAReadingThatWasStoppedKeepsWhatItHadNotReached(t *testing.T) {
	earlier := Contents{Place: "a share", Items: []File{film("a.mkv"), film("b.mkv"), film("c.mkv")}}
	grown := film("b.mkv")
	grown.Bytes++
	c := Contents{Place: "a share", Stopped: true, Items: []File{grown}}.After(earlier)
	require.Len(t, c.Items, 3)
	assert.Equal(t, grown, c.Items[1], "the newer one counts")
	require.NoError(t, c.Cut().Check())
	assert.Len(t, Contents{Place: "another", Stopped: true, Items: []File{grown}}.After(earlier).Items, 1)
	assert.Len(t, Contents{Place: "a share", Items: []File{grown}}.After(earlier).Items, 1, "a whole reading is the whole")
}
