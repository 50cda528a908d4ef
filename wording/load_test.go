package wording_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/wording"
)

// Every state, gap and change has words of its own.
func TestLoadIsSaid(t *testing.T) {
	for _, s := range load.States {
		assert.NotEmpty(t, wording.LoadStates[s])
	}
	said := map[string]bool{}
	for _, k := range load.ChangeKinds {
		words := wording.LoadChange(load.Change{Kind: k, Mbps: 1000, Channel: 11}, "screen", "A1")
		assert.NotEqual(t, wording.Plain(string(k)), words)
		assert.False(t, said[words])
		said[words] = true
	}
	for _, g := range load.Gaps {
		words := wording.LoadGap(g, "films", "screen", "server")
		assert.NotEqual(t, string(g), words)
		assert.False(t, said[words])
		said[words] = true
	}
}

func TestLoadCasesAreSaid(t *testing.T) {
	with := func(s load.State, share float64, k dossier.Known) load.Case {
		return load.Case{State: s, Paths: []dossier.ID[dossier.Path]{"p"}, Uses: []load.Use{{Share: share, Known: k}}}
	}
	for want, c := range map[string]load.Case{
		"No path in use is in it.":                                                                                    {},
		"No chain. No rate.":                                                                                          with(load.NotKnown, 0.2, ""),
		"The most taken is the mains wiring, with 40 %.":                                                              with(load.Roomy, 0.4, dossier.KnownMeasured),
		"The most taken is the mains wiring, with less than 1 %.":                                                     with(load.Roomy, 0.001, dossier.KnownAssumed),
		"Little is left of the mains wiring: about 81 % (assumed) is taken.":                                          with(load.Tight, 0.81, dossier.KnownAssumed),
		"More is asked of the mains wiring than it carries: 120 %. Pictures will stall.":                              with(load.Overloaded, 1.2, dossier.KnownMeasured),
		"Too little is left of the mains wiring: 95 % is taken. Pictures may stall as soon as anything else happens.": with(load.Overloaded, 0.95, dossier.KnownRead),
		"Nothing goes over the network: it is played where the files are.":                                            {State: load.Roomy, Paths: []dossier.ID[dossier.Path]{"p"}},
	} {
		assert.Equal(t, want, wording.LoadCase(c, "the mains wiring", []string{"No chain.", "No rate."}))
	}
	use := func(use load.Use) string { return wording.LoadUse(use, "the cable from a to b") }
	assert.Equal(t, "The cable from a to b: how much is taken is not known.", use(load.Use{Medium: load.Medium{Kind: load.Wire}, More: true}))
	assert.Equal(t, "The cable from a to b: at least 20 % of 94 Mb/s taken; something on it is not known.", use(load.Use{Medium: load.Medium{Kind: load.Wire}, More: true, Share: .2, Mbps: 94}))
	assert.Equal(t, "The cable from a to b: about 20 % (estimated) of its air time taken.", use(load.Use{Medium: load.Medium{Kind: load.Channel}, Share: .2, Known: dossier.KnownEstimated}))
	assert.Equal(t, "Wi-Fi channel 36 (5 GHz)", wording.LoadMedium(load.Medium{Kind: load.Channel, Band: dossier.Band5, Channel: 36}, "", "", "", nil))
	assert.Equal(t, "the Wi-Fi of router, channel not recorded", wording.LoadMedium(load.Medium{Kind: load.Channel}, "", "", "", []string{"router"}))
	assert.Equal(t, "the storage of server", wording.LoadMedium(load.Medium{Kind: load.Disk}, "server", "", "", nil))
	assert.Equal(t, "The storage of server: about 150 % (estimated) of 80 Mb/s taken.", wording.LoadUse(load.Use{Medium: load.Medium{Kind: load.Disk}, Share: 1.5, Mbps: 80, Known: dossier.KnownEstimated}, "the storage of server"))
	for want, use := range map[string]load.Use{"load not known": {More: true}, "at least 20 % taken": {More: true, Share: .2}, "about 20 % taken": {Share: .2, Known: dossier.KnownAssumed}, "20 % taken": {Share: .2, Known: dossier.KnownRead}} {
		assert.Equal(t, want, wording.LoadTaken(use))
	}
	up := load.Uplink{Mbps: 20, Known: dossier.KnownAssumed, Qualities: []load.Quality{{Lines: 1080, Mbps: 16, AtOnce: 1}, {Lines: 720, Mbps: 8, AtOnce: 2}, {Lines: 576, Mbps: 7.9, AtOnce: 2}}}
	assert.Equal(t, "Mobile leaves 20 Mb/s for watching from outside, if it is as in the contract: 1 with 1080 lines (about 16 Mb/s each) or 2 with 720 lines (about 8 Mb/s each).", wording.LoadUplink(up, "mobile"))
	up.Qualities = nil
	assert.Equal(t, "Mobile leaves 20 Mb/s for watching from outside, if it is as in the contract: too little for any picture of 576 lines or more.", wording.LoadUplink(up, "mobile"))
}
