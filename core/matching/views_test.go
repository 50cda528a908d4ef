package matching_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/matching"
)

func view(folders map[string][]string, order ...string) matching.View {
	var v matching.View
	for _, name := range order {
		v.Folders = append(v.Folders, matching.ViewFolder{Name: name, Items: len(folders[name]), Titles: folders[name], Whole: true})
	}
	return v
}

func TestTwoDevicesSideBySide(t *testing.T) {
	screen := view(map[string][]string{"Films": {"a", "b"}, "Music": {"c"}}, "Films", "Music")
	player := view(map[string][]string{"music": {"c"}, "Radio": {}}, "music", "Radio")
	assert.Equal(t, []matching.Side{{"Films", []int{2, -1}, true}, {"Music", []int{1, 1}, false}, {"Radio", []int{-1, 0}, true}}, matching.SideBySide([]matching.View{screen, player}))
	assert.Empty(t, matching.SideBySide(nil))
}

func TestTitlesMissingAgainstAnotherSource(t *testing.T) {
	server := view(map[string][]string{"Films": {"The Long Ebb", "Fog Signal", "A Winter of Oil Lamps"}}, "Films")
	share := view(map[string][]string{"Films": {"the-long-ebb.mp4", "oil-lamps.mp4", "Launch of the Petrel (1961).mkv", "x.mp4"}}, "Films")
	assert.Equal(t, []matching.Missing{{"Films", "Launch of the Petrel (1961).mkv"}, {"Films", "x.mp4"}}, matching.MissingFrom(share, server))
	assert.Equal(t, []matching.Missing{{"Films", "Fog Signal"}}, matching.MissingFrom(server, share))
	assert.Empty(t, matching.MissingFrom(server, server))
}

func TestHowASourceTakesADevice(t *testing.T) {
	all := view(map[string][]string{"Films": {"a"}, "Music": {"b"}}, "Films", "Music")
	all.Asked.Ended = matching.Answered
	music := view(map[string][]string{"Music": {"b"}}, "Music")
	music.Asked.Ended = matching.Answered
	nothing, hangs := matching.View{Asked: matching.Question{Ended: matching.Empty}}, matching.View{Asked: matching.Question{Ended: matching.Silent}}
	for _, c := range []struct {
		device, unknown matching.View
		want            matching.Recognition
	}{{music, all, matching.OwnView}, {all, all, matching.AsUnknown}, {nothing, all, matching.ShutOut}, {nothing, nothing, matching.AsUnknown}, {hangs, all, matching.NoAnswer}, {all, hangs, matching.NoAnswer}} {
		assert.Equal(t, c.want, matching.Recognised(c.device, c.unknown))
	}
}
