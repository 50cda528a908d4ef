package httpapi_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/wire"
)

// What a preview says of load and of what plays is what comes of making the change; until then it is as before.
func TestWhatIsSupposedIsWhatComesOfMakingIt(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	alone := func() wire.LoadCase {
		l, err := petri.Load(ctx, "H-0701")
		require.NoError(t, err)
		require.Len(t, l.Alone, 1)
		return l.Alone[0]
	}
	assert.Equal(t, load.NotKnown, alone().State)
	assert.Equal(t, "No chain of links is recorded from server to screen.", alone().Said)

	link := wire.PreviewStep{Verb: "add", Kind: "link", Members: map[string]any{"near": ids["wired"], "far": ids["interface"], "kind": "cable", "rateMbps": 100}}
	p, err := petri.Preview(ctx, "H-0701", link)
	require.NoError(t, err)
	require.Equal(t, []wire.PreviewChange{{What: "films", Before: "not known", After: "room left, about 17 % (assumed)"}}, p.Load)
	assert.Empty(t, p.Plays)
	assert.Equal(t, load.NotKnown, alone().State, "nothing was stored")
	made, err := petri.Add(ctx, "H-0701", dossier.KindNamed("link"), link.Members)
	require.NoError(t, err)
	assert.Equal(t, "The most taken is the cable from server to screen, with about 17 % (assumed).", alone().Said)
	assert.Equal(t, 5, alone().AtOnce)

	mix := map[string]any{"mix": []map[string]any{{"container": "mp4", "video": "h264", "height": 1080, "items": 3, "hours": 5, "needed5Mbps": 76}}}
	p, err = petri.Preview(ctx, "H-0701", wire.PreviewStep{Verb: "set", Kind: "folder", ID: ids["folder"], Members: mix})
	require.NoError(t, err)
	assert.Equal(t, []wire.PreviewChange{{What: "films", Before: "room left, about 17 % (assumed)", After: "overloaded, 97 %"}}, p.Load)
	together, err := petri.LoadTogether(ctx, "H-0701", []string{ids["path"]})
	require.NoError(t, err)
	assert.Equal(t, "films", together.Name)
	_, err = petri.LoadTogether(ctx, "H-0701", []string{ids["room"]})
	assert.ErrorContains(t, err, "There is no path")

	p, err = petri.Preview(ctx, "H-0701", wire.PreviewStep{Verb: "remove", Kind: "link", ID: made["id"].(string)})
	require.NoError(t, err)
	assert.Equal(t, "not known", p.Load[0].After)
}

// A way that is proposed is recorded as it stands in the answer; it is then the recorded one.
func TestAProposedWayIsRecordedAsItIs(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	p, err := petri.Proposal(ctx, "H-0701", ids["device"])
	require.NoError(t, err)
	require.Len(t, p.Wished, 1)
	ways := p.Wished[0].Ways
	assert.NotNil(t, ways[0].Recorded, "the one that is recorded stands first")
	for _, w := range ways {
		if w.Recorded == nil && w.Kind == dossier.AVPush {
			made, err := petri.Add(ctx, "H-0701", dossier.KindNamed("path"), w.Draft)
			require.NoError(t, err)
			assert.Equal(t, "screen media", made["name"])
			assert.Equal(t, map[string]any{"address": "10.20.4.10", "port": float64(40210)}, made["serverEnd"])
			assert.Equal(t, ids["path"], made["fallBack"])
		}
	}
	p, err = petri.Proposal(ctx, "H-0701", ids["device"])
	require.NoError(t, err)
	recorded := 0
	for _, w := range p.Wished[0].Ways {
		if w.Recorded != nil {
			recorded++
		}
	}
	assert.Equal(t, 2, recorded)
	_, err = petri.Proposal(ctx, "H-0701", ids["room"])
	assert.ErrorContains(t, err, "There is no device")

	o, err := petri.Openings(ctx, "H-0701")
	require.NoError(t, err)
	require.Len(t, o.Sheets, 3)
	assert.Contains(t, o.Sheets[1].Body, `ip saddr { 10.20.4.0/24 } tcp dport 40210 accept comment "fetching"`)
}

// Television that switches pass to everybody takes the air of whoever is on Wi-Fi; what is proposed against it is made as it is proposed.
func TestTelevisionThatGoesEverywhere(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	add := func(kind string, members wire.Record) string { return s.add("H-0701", kind, members) }
	set := func(steps ...wire.PreviewStep) {
		for _, step := range steps {
			s.set("H-0701", step.Kind, step.ID, step.Members)
		}
	}
	gear := add("device", wire.Record{"name": "closet", "roles": []string{"switch", "access-point"}})
	phone := add("device", wire.Record{"name": "telephone"})
	port := func(device, name string) string {
		return add("interface", wire.Record{"device": device, "name": name, "segment": ids["segment"]})
	}
	add("link", wire.Record{"near": ids["interface"], "far": port(gear, "one"), "kind": "cable", "rateMbps": 1000})
	add("link", wire.Record{"near": ids["wired"], "far": port(gear, "two"), "kind": "cable", "rateMbps": 1000})
	add("link", wire.Record{"near": port(phone, "radio"), "far": port(gear, "air"), "kind": "radio", "rateMbps": 400, "band": "5-ghz", "channel": 36})
	alone := func() wire.LoadCase {
		l, err := petri.Load(ctx, "H-0701")
		require.NoError(t, err)
		return l.Alone[0]
	}
	require.Equal(t, load.Roomy, alone().State)
	set(wire.PreviewStep{Kind: "source", ID: ids["source"], Members: wire.Record{"multicast": "yes"}})
	assert.Equal(t, "It is not recorded whether the switches of the segment home pass multicast only to ports that have asked for it; if not, films goes to every device there.", alone().Said)
	set(wire.PreviewStep{Kind: "segment", ID: ids["segment"], Members: wire.Record{"snooping": "no"}})
	c := alone()
	assert.Equal(t, load.Overloaded, c.State)
	assert.Contains(t, c.Said, "Wi-Fi channel 36 (5 GHz)")
	require.NotEmpty(t, c.Changes)
	assert.Equal(t, load.SnoopingOn, c.Changes[0].Kind)
	assert.Equal(t, "Turn on multicast snooping in home, and a querier with it", c.Changes[0].Said)
	assert.Equal(t, "segment", c.Changes[0].Subject.Kind)
	set(c.Changes[0].Steps...)
	assert.Equal(t, c.Changes[0].State, alone().State)
	assert.InDelta(t, c.Changes[0].Share, alone().Uses[0].Share, 1e-9)
	got, _, err := petri.Show(ctx, "H-0701", dossier.KindNamed("segment"), ids["segment"])
	require.NoError(t, err)
	assert.Equal(t, "yes", got["querier"])

	// A server that is carried around reads its files from anything.
	set(wire.PreviewStep{Kind: "device", ID: ids["server"], Members: wire.Record{"carried": true}})
	assert.Contains(t, alone().Said, "Nothing says how fast the storage of server is read, which is carried around.")
	set(wire.PreviewStep{Kind: "device", ID: ids["server"], Members: wire.Record{"diskMbps": 15}})
	c = alone()
	assert.Equal(t, load.Overloaded, c.State)
	assert.Contains(t, c.Uses[0].Said, "The storage of server: ")
	assert.Equal(t, load.Disk, c.Uses[0].Kind)
}
