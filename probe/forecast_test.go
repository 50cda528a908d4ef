package probe

import (
	"net/netip"
	"net/url"
	"testing"

	"github.com/huin/goupnp"
	"github.com/huin/goupnp/dcps/av1"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/knowledge"
	"kaiku/homes"
	"kaiku/media"
	"kaiku/practice"
	"kaiku/practice/layout"
)

// What the forecast says of the screens of the practice house is seen to be true. It knows of them what a scan hears by
// ConnectionManager, and of the films what is read of their heads; each screen then gets each of them, and plays it, plays
// it without sound or refuses it by its own lists.
func TestTheForecastIsSeenToBeTrue(t *testing.T) {
	h := practice.New(101)
	var screens []*practice.Device
	for _, name := range []string{"lamp-room-screen", "kitchen-screen", "kielo", "frame", "parlour-stick"} {
		screens = append(screens, h.Device(name))
	}
	agreed, unknown := seenToBeTrue(t, h, screens)
	t.Logf("%d forecasts were seen to be true, of %d nothing was forecast", agreed, unknown)
	assert.Greater(t, agreed, unknown, "enough is forecast to be worth something")
}

// In houses that are drawn, what screens decode is not what the house was furnished with, and they say it in every way in
// which the standards let them.
func TestTheForecastIsSeenToBeTrueInHousesThatAreDrawn(t *testing.T) {
	agreed, unknown := 0, 0
	for seed := range uint64(6) {
		h := practice.Drawn(seed, 107, 8)
		yes, open := seenToBeTrue(t, h, h.Devices()[2:])
		agreed, unknown = agreed+yes, unknown+open
	}
	t.Logf("%d forecasts were seen to be true, of %d nothing was forecast", agreed, unknown)
	assert.Greater(t, agreed, unknown, "enough is forecast to be worth something")
}

// seenToBeTrue holds each forecast for these screens against what they do, and counts those that came true and those of
// which nothing was forecast.
func seenToBeTrue(t *testing.T, h *practice.House, screens []*practice.Device) (agreed, unknown int) {
	t.Helper()
	require.NoError(t, h.Start(t.Context()))
	defer h.Stop()
	g := gather(t, bare(h))
	d := bare(h)
	server := dossier.Device{Name: "granite"}
	server.ID = homes.ID[dossier.Device](1)
	d.Devices.Put(server)
	i := dossier.Interface{Device: server.ID, Name: "eth0", Addresses: []netip.Addr{h.Server.Address.Addr()}}
	i.ID = homes.ID[dossier.Interface](1)
	d.Interfaces.Put(i)
	source := dossier.Source{Device: server.ID, Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: layout.ServerPort, Locator: layout.Locator, Converts: dossier.ConvertsNothing}
	source.ID = homes.ID[dossier.Source](1)
	d.Sources.Put(source)

	// Each title is a folder of its own here, so that there is a cell for it.
	prober := Prober{Guard: everywhere()}
	addresses := map[dossier.ID[dossier.Folder]]string{}
	for n, folder := range []string{"Films", "Music", "Photos"} {
		fsys, err := prober.OpenDirectory(t.Context(), d, dossier.Folder{Source: source.ID, Name: folder})
		require.NoError(t, err)
		c, err := media.Folder(t.Context(), fsys, media.Reading{})
		require.NoError(t, err)
		list, whole, err := prober.Titles(t.Context(), d, dossier.Folder{Source: source.ID, Name: folder}, nil)
		require.NoError(t, err)
		require.True(t, whole)
		for k, item := range c.Items[:min(len(c.Items), 3)] {
			require.Empty(t, item.Trouble, "%s: %s", item.Path, item.Detail)
			f := dossier.Folder{Source: source.ID, Name: item.Path, ContentKind: item.Content(), ItemsOnDisk: 1, Mix: []dossier.FormatEntry{item.Format}}
			f.ID = homes.ID[dossier.Folder](100*n + k)
			f.Mix[0].Items = 1
			d.Folders.Put(f)
			for _, e := range list {
				if (e.Title == item.Path[:len(item.Path)-len(".mp4")] || e.Title == item.Path[:len(item.Path)-len(".flac")]) && e.At != "" {
					addresses[f.ID] = e.At
				}
			}
		}
	}
	for n, s := range screens {
		require.NotNil(t, s)
		name := s.HostName
		host := hostAt(t, g, s.Address.Addr())
		v := dossier.Device{Name: name}
		v.ID = homes.ID[dossier.Device](10 + n)
		d.Devices.Put(v)
		decodes := dossier.Decoding{Device: v.ID}
		decodes.ID = homes.ID[dossier.Decoding](n)
		for _, seen := range host.Seen {
			if entries, ok := seen.Members["entries"].([]dossier.DecodingEntry); ok && seen.Kind == "decoding" {
				decodes.Entries = append(decodes.Entries, entries...)
			}
		}
		require.NotEmpty(t, decodes.Entries, "%s declares what it decodes: %s", name, s.Says())
		d.Decodings.Put(decodes)
		p := dossier.Path{Name: name, Device: v.ID, Source: source.ID, Kind: dossier.AVPull}
		p.ID = homes.ID[dossier.Path](n)
		d.Paths.Put(p)
	}
	f := forecast.Of(d.Index(), knowledge.Knowledge{})
	require.Len(t, f.Cells, len(screens)*len(addresses))
	by := map[forecast.Outcome]int{}
	for _, c := range f.Cells {
		device, _ := d.Devices.Get(c.Device)
		folder, _ := d.Folders.Get(c.Folder)
		said := c.Lines[0].Outcome
		saw := shows(t, h.Device(device.Name), addresses[c.Folder])
		switch {
		case said == forecast.NotKnown:
			unknown++
		case said == saw:
			agreed++
			by[said]++
		default:
			t.Errorf("%s on %s: the forecast said %s, and it was %s (%+v; it says %s)", folder.Name, device.Name, said, saw, c.Lines[0].Decides, h.Device(device.Name).Says())
		}
	}
	t.Logf("seen to be true: %v; nothing was forecast of %d", by, unknown)
	return agreed, unknown
}

// shows pushes a title to a screen, and says what becomes of it.
func shows(t *testing.T, s *practice.Device, address string) forecast.Outcome {
	t.Helper()
	at := &url.URL{Scheme: "http", Host: s.Address.String(), Path: layout.Locator}
	root, err := goupnp.DeviceByURLCtx(t.Context(), at)
	require.NoError(t, err)
	players, err := av1.NewAVTransport1ClientsFromRootDevice(root, at)
	require.NoError(t, err)
	sounds, err := av1.NewRenderingControl1ClientsFromRootDevice(root, at)
	require.NoError(t, err)
	require.NotEmpty(t, address)
	if players[0].SetAVTransportURICtx(t.Context(), 0, address, "") != nil {
		return forecast.Unplayable
	}
	require.NoError(t, players[0].PlayCtx(t.Context(), 0, "1"))
	mute, err := sounds[0].GetMuteCtx(t.Context(), 0, "Master")
	require.NoError(t, err)
	require.NoError(t, players[0].StopCtx(t.Context(), 0))
	if mute {
		return forecast.Silent
	}
	return forecast.AsIs
}
