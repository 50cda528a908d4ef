package network_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/homes"
)

// twoPaths draws a home with the paths of its screen and its player alone.
func twoPaths(rt *rapid.T) *homes.SoundHome {
	h := homes.Sound(rt)
	for _, p := range h.Paths {
		homes.Set(h, p.ID, func(p *dossier.Path) { p.Retired = p.ID != h.ScreenPath && p.ID != h.PlayerPath })
	}
	return h
}

// Who has to wake a machine, and whether that is possible, follows from what is recorded; what is not recorded is never taken to work.
func TestWhoWakesWhom(t *testing.T) {
	type facts struct {
		standby       dossier.Answer
		wake          dossier.Wake
		sends, proven dossier.Answer
		radio         bool
		elsewhere     bool // the server's adapter is in another segment
	}
	for _, c := range []struct {
		name  string
		facts facts
		state network.WakeState
		why   string
		gaps  []network.WakeGap
	}{
		{"nothing is recorded", facts{}, network.WakeUnknown, "", []network.WakeGap{network.GapSleeps}},
		{"it does not sleep", facts{standby: dossier.No}, network.WakeNeedNot, "", nil},
		{"it never sleeps", facts{standby: dossier.Yes, wake: dossier.WakeNever}, network.WakeNeedNot, "", nil},
		{"it sleeps", facts{standby: dossier.Yes}, network.WakeUnknown, "", []network.WakeGap{network.GapWokenBy, network.GapSends}},
		{"its button", facts{standby: dossier.Yes, wake: dossier.WakeButton}, network.WakeCannot, "woken-by-button-only", nil},
		{"a packet, who sends it is not known", facts{standby: dossier.Yes, wake: dossier.WakePacket}, network.WakeUnknown, "", []network.WakeGap{network.GapSends}},
		{"a packet that the device sends", facts{standby: dossier.Yes, wake: dossier.WakePacket, sends: dossier.Yes}, network.WakeShould, "", nil},
		{"a packet that it does not send", facts{standby: dossier.Yes, wake: dossier.WakePacket, sends: dossier.No}, network.WakeCannot, "cannot-send-wake", nil},
		{"a packet over radio", facts{standby: dossier.Yes, wake: dossier.WakePacket, sends: dossier.Yes, radio: true}, network.WakeCannot, "radio-only", nil},
		{"a packet from another segment", facts{standby: dossier.Yes, wake: dossier.WakePacket, sends: dossier.Yes, elsewhere: true}, network.WakeCannot, "wake-stays-out", nil},
		{"seen to work", facts{standby: dossier.Yes, wake: dossier.WakePacket, proven: dossier.Yes}, network.WakeSeen, "", []network.WakeGap{network.GapSends}},
		{"seen once, and now with a device that cannot", facts{standby: dossier.Yes, wake: dossier.WakePacket, sends: dossier.No, proven: dossier.Yes}, network.WakeCannot, "cannot-send-wake", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			rapid.Check(t, func(rt *rapid.T) {
				h := twoPaths(rt)
				homes.Set(h, h.Server, func(d *dossier.Device) {
					d.Standby, d.Wake, d.WakeProven = c.facts.standby, c.facts.wake, c.facts.proven
				})
				homes.Set(h, h.Screen, func(d *dossier.Device) { d.SendsWake = c.facts.sends })
				homes.Set(h, h.Player, func(d *dossier.Device) { d.SendsWake = c.facts.sends })
				homes.Set(h, h.ServerPort, func(i *dossier.Interface) {
					if c.facts.radio {
						i.Medium = dossier.OnRadio
					}
					if c.facts.elsewhere {
						i.Segment = homes.Put(h, dossier.Segment{Name: "attic"})
					}
				})
				list := network.Wakings(h.Index())
				require.NotEmpty(rt, list)
				for _, w := range list {
					assert.Equal(rt, h.Server, w.Sleeper)
					assert.Equal(rt, c.state, w.State)
					assert.Equal(rt, c.gaps, w.Unknown)
					if c.why != "" {
						assert.Equal(rt, c.why, w.Why.Phrases[0].Code)
					}
					assert.Equal(rt, c.facts.standby == dossier.Yes, w.By != "", "where it does not sleep nobody has to wake it")
				}
				if c.facts.standby == dossier.Yes {
					assert.Len(rt, list, 2, "each device wakes it for its own path")
				}
			})
		})
	}
}

// A machine with the files is woken by the server, or by the device where that opens the files itself; what is controlled from a telephone is woken
// by that if the device cannot.
func TestWhoWakesWhatHasTheFiles(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		h := twoPaths(rt)
		store := homes.Put(h, dossier.Device{Name: "file store", Standby: dossier.Yes, Wake: dossier.WakeTimer})
		homes.Set(h, h.Folder, func(f *dossier.Folder) { f.LiesOn = store })
		homes.Set(h, h.Server, func(d *dossier.Device) { d.Standby = dossier.No })
		files := func() (out []network.Waking) {
			for _, w := range network.Wakings(h.Index()) {
				if w.Sleeper == store {
					assert.True(rt, w.HasFiles)
					assert.Equal(rt, network.WakeCannot, w.State)
					out = append(out, w)
				}
			}
			return out
		}
		require.Len(rt, files(), 1)
		assert.Equal(rt, h.Server, files()[0].By)
		assert.Len(rt, files()[0].Paths, 2, "it counts for every path through it")
		homes.Set(h, h.PlayerPath, func(p *dossier.Path) { p.Mode = dossier.FromFiles })
		require.Len(rt, files(), 2)
		homes.Set(h, h.PlayerPath, func(p *dossier.Path) { p.Kind = dossier.Copy })
		require.Len(rt, files(), 1, "a copy needs nothing of another machine")

		phone := homes.Put(h, dossier.Device{Name: "telephone", SendsWake: dossier.Yes})
		homes.Set(h, h.Server, func(d *dossier.Device) { d.Standby, d.Wake = dossier.Yes, dossier.WakePacket })
		homes.Set(h, h.Screen, func(d *dossier.Device) { d.SendsWake = dossier.No })
		homes.Set(h, h.ScreenPath, func(p *dossier.Path) { p.ControlPoint = phone })
		for _, w := range network.Wakings(h.Index()) {
			if w.Sleeper == h.Server {
				assert.Equal(rt, phone, w.By)
				assert.NotEqual(rt, network.WakeCannot, w.State)
			}
		}
	})
}
