package propose

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/load"
	"kaiku/core/network"
	"kaiku/core/pathkind"
)

// way makes one that is possible, plays all as it is, over a network with room left, on a device that does it, and lacks nothing.
func way(change ...func(*Way)) Way {
	w := Way{Seen: ByRecord}
	w.Plays.Of = map[forecast.Outcome]forecast.Share{forecast.AsIs: {Items: 100}}
	w.Load.State = load.Roomy
	for _, c := range change {
		c(&w)
	}
	return w
}

func plays(of map[forecast.Outcome]forecast.Share) func(*Way) {
	return func(w *Way) { w.Plays.Of = of }
}

func carries(s load.State) func(*Way) { return func(w *Way) { w.Load.State = s } }

// Each of what is compared decides where all before it is alike, and is decided by none that comes after it.
func TestWhatDecidesWhichWayIsBetter(t *testing.T) {
	blocked := func(w *Way) { w.Blocks = []network.Finding{{Severity: network.Blocker}} }
	unsure := func(w *Way) { w.Seen = None }
	lacks := func(w *Way) { w.Cannot = []pathkind.Limit{pathkind.Seek} }
	busy := func(w *Way) { w.Open = []string{"copy-made"} }
	half := plays(map[forecast.Outcome]forecast.Share{forecast.AsIs: {Items: 50}, forecast.Unplayable: {Items: 50}})
	converted := plays(map[forecast.Outcome]forecast.Share{forecast.PictureConverted: {Items: 100}})
	for _, c := range []struct {
		name          string
		better, worse Way
	}{
		{"what is possible", way(half, unsure, lacks, busy), way(blocked)},
		{"what plays", way(carries(load.Overloaded), unsure), way(half)},
		{"what is converted plays", way(converted, unsure), way(half)},
		{"what the network carries", way(unsure, lacks), way(carries(load.Overloaded))},
		{"what the device surely does", way(lacks, carries(load.NotKnown)), way(unsure)},
		{"what lacks less", way(carries(load.NotKnown), converted), way(lacks)},
		{"what surely is carried", way(carries(load.Tight), converted), way(carries(load.NotKnown))},
		{"what plays as it is", way(busy), way(converted)},
		{"what leaves less to do", way(), way(busy)},
		{"97 and 100 % are alike", way(plays(map[forecast.Outcome]forecast.Share{forecast.AsIs: {Items: 98}, forecast.Unplayable: {Items: 2}})), way(busy)},
	} {
		for _, list := range [][]Way{{c.better, c.worse}, {c.worse, c.better}} {
			rank(list)
			assert.Equal(t, c.better, list[0], c.name)
		}
	}
	alike := []Way{way(func(w *Way) { w.Path.Name = "first" }), way(func(w *Way) { w.Path.Name = "second" })}
	rank(alike)
	assert.Equal(t, "first", alike[0].Path.Name, "what is alike stays as it was")
	for percent, step := range map[float64]int{0: 0, 2.4: 0, 2.5: 1, 97.4: 19, 97.5: 20, 100: 20} {
		assert.Equal(t, step, round(percent), percent)
	}
}

// A fall-back is another way to the same kind of content: of another kind or another source, on the same device.
func TestWhichPathIsAFallBack(t *testing.T) {
	d := &dossier.Dossier{}
	folder := dossier.Folder{Name: "Films", Source: "s1", ContentKind: dossier.Film}
	folder.ID = "f1"
	other := dossier.Folder{Name: "Films", Source: "s2", ContentKind: dossier.Film}
	other.ID = "f2"
	music := dossier.Folder{Name: "Music", Source: "s2", ContentKind: dossier.Music}
	music.ID = "f3"
	d.Folders.Put(folder)
	d.Folders.Put(other)
	d.Folders.Put(music)
	for _, id := range []dossier.ID[dossier.Source]{"s1", "s2"} {
		s := dossier.Source{Name: string(id)}
		s.ID = id
		d.Sources.Put(s)
	}
	w := Way{Path: dossier.Path{Device: "v", Source: "s1", Kind: dossier.AVPull}, Folders: []dossier.ID[dossier.Folder]{"f1"}}
	for _, c := range []struct {
		name string
		path dossier.Path
		is   bool
	}{
		{"the same way", dossier.Path{Device: "v", Source: "s1", Kind: dossier.AVPull}, false},
		{"another kind", dossier.Path{Device: "v", Source: "s1", Kind: dossier.AVPush}, true},
		{"another source", dossier.Path{Device: "v", Source: "s2", Kind: dossier.AVPull, Folders: []dossier.ID[dossier.Folder]{"f2"}}, true},
		{"another source, and other content", dossier.Path{Device: "v", Source: "s2", Kind: dossier.AVPull, Folders: []dossier.ID[dossier.Folder]{"f3"}}, false},
		{"another device", dossier.Path{Device: "u", Source: "s1", Kind: dossier.AVPush}, false},
	} {
		c.path.ID, c.path.Name = "p", "p"
		d.Paths = dossier.Records[dossier.Path]{c.path}
		assert.Equal(t, c.is, fallBack(d.Index(), w) == "p", c.name)
	}
	w.Exists, w.Path.FallBack = true, "q"
	assert.Equal(t, dossier.ID[dossier.Path]("q"), fallBack(d.Index(), w), "what is recorded stays")
}
