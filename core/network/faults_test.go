package network_test

import (
	"fmt"
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/network"
	"kaiku/homes"
	"kaiku/wording"
)

// said is one thing that must be found: its code and the record to change.
type said struct {
	code    string
	subject dossier.Ref
}

// fault is one thing that goes wrong in a sound home, and all that must be said of it.
type fault struct {
	name   string
	inject func(*homes.SoundHome) []said
}

// attic is a segment that a fault adds to the home.
func attic(h *homes.SoundHome, isolation dossier.Isolation) dossier.ID[dossier.Segment] {
	return homes.Put(h, dossier.Segment{Name: "attic", Prefix: netip.MustParsePrefix("10.20.60.0/24"), Isolation: isolation})
}

func move(h *homes.SoundHome, i dossier.ID[dossier.Interface], to dossier.ID[dossier.Segment]) {
	homes.Set(h, i, func(i *dossier.Interface) { i.Segment, i.Addresses = to, addr("10.20.60.7") })
}

func one(code string, subject dossier.Ref) []said { return []said{{code, subject}} }

// on changes one record of the home and expects one finding on it.
func on[T dossier.Record](code string, of func(*homes.SoundHome) dossier.ID[T], change func(*homes.SoundHome, *T)) func(*homes.SoundHome) []said {
	return func(h *homes.SoundHome) []said {
		homes.Set(h, of(h), func(r *T) { change(h, r) })
		return one(code, of(h).Ref())
	}
}

func server(h *homes.SoundHome) dossier.ID[dossier.Device]        { return h.Server }
func screenPort(h *homes.SoundHome) dossier.ID[dossier.Interface] { return h.ScreenPort }
func segment(h *homes.SoundHome) dossier.ID[dossier.Segment]      { return h.Home }
func source(h *homes.SoundHome) dossier.ID[dossier.Source]        { return h.Source }
func folder(h *homes.SoundHome) dossier.ID[dossier.Folder]        { return h.Folder }
func software(h *homes.SoundHome) dossier.ID[dossier.Software]    { return h.Software }
func screenPath(h *homes.SoundHome) dossier.ID[dossier.Path]      { return h.ScreenPath }

// byLease makes the server's address one that it has by lease, not reserved.
func byLease(h *homes.SoundHome) {
	homes.Set(h, h.ServerPort, func(i *dossier.Interface) { i.AddressBy = dossier.ByLease })
	homes.Set(h, h.Home, func(s *dossier.Segment) { s.Reservations = nil })
}

func secondSource(h *homes.SoundHome, s dossier.Source) dossier.ID[dossier.Source] {
	s.Device, s.Name = h.Server, "second"
	if s.Protocol == "" {
		s.Protocol = dossier.ProtocolHTTP
	}
	return homes.Put(h, s)
}

func reading(what dossier.Quantity, value float64) func(*homes.SoundHome) {
	return func(h *homes.SoundHome) {
		homes.Put(h, dossier.Reading{What: what, Value: value, Subject: h.ScreenPort.Ref(), How: dossier.KnownMeasured, At: homes.Day.Add(time.Hour)})
	}
}

var faults = []fault{
	{"a device takes the router's address", func(h *homes.SoundHome) []said {
		homes.Set(h, h.ScreenPort, func(i *dossier.Interface) { i.Addresses = []netip.Addr{h.Address(1)} })
		return one("address-clash", h.ScreenPort.Ref())
	}},
	{"no lease server answered", on("no-lease", screenPort, func(_ *homes.SoundHome, i *dossier.Interface) { i.Addresses = addr("169.254.7.9") })},
	{"an address of another network", on("address-outside-segment", screenPort, func(_ *homes.SoundHome, i *dossier.Interface) { i.Addresses = addr("10.99.0.7") })},
	{"a gateway nobody reaches", on("gateway-outside-segment", segment, func(_ *homes.SoundHome, s *dossier.Segment) { s.Gateway = netip.MustParseAddr("10.99.0.1") })},
	{"a pool outside its segment", on("pool-outside-segment", segment, func(_ *homes.SoundHome, s *dossier.Segment) {
		s.PoolFirst, s.PoolLast = netip.MustParseAddr("10.99.0.100"), netip.MustParseAddr("10.99.0.199")
	})},
	{"a segment within another", func(h *homes.SoundHome) []said {
		return one("segments-overlap", homes.Put(h, dossier.Segment{Name: "half", Prefix: netip.MustParsePrefix("10.20.4.128/25")}).Ref())
	}},
	{"an access point gives out addresses too", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.DHCPServer{Device: h.AP, Segment: h.Home, PoolFirst: h.Address(150), PoolLast: h.Address(160), Gateway: h.Address(2)})
		return one("two-dhcp-servers", h.Home.Ref())
	}},
	{"a second router before the line", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Wish{What: dossier.WishOutsideViewing})
		homes.Set(h, h.Line, func(l *dossier.Line) {
			l.OuterAddress, l.OuterPrefix = netip.MustParseAddr("10.77.0.2"), netip.Prefix{}
		})
		return one("outer-address-private", h.Line.Ref())
	}},
	{"a second router behind the provider's box, at which the line ends", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Wish{What: dossier.WishOutsideViewing})
		homes.Set(h, h.Line, func(l *dossier.Line) { l.OuterPrefix = netip.Prefix{} })
		inner := homes.Put(h, dossier.Device{Name: "own router", Room: homes.RoomID(0), Roles: []dossier.Role{dossier.RoleRouter}})
		homes.Put(h, dossier.Interface{Device: inner, Name: "wan", Facing: dossier.FacingOutside, Medium: dossier.OnCable, Addresses: []netip.Addr{h.Address(3)}, Segment: h.Home, AddressBy: dossier.BySetting})
		return one("outer-address-private", h.Line.Ref())
	}},
	{"nobody knows whether the outside needs a password", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Wish{What: dossier.WishOutsideViewing})
		homes.Set(h, h.Source, func(s *dossier.Source) { s.OutsidePort, s.OutsidePassword = 8443, dossier.Yes })
		return one("outside-not-known", h.Source.Ref())
	}},
	{"a screen on radio beside an outlet, of which no port is recorded", func(h *homes.SoundHome) []said {
		room := homes.Put(h, dossier.Room{Name: "den"})
		homes.Set(h, h.Screen, func(v *dossier.Device) { v.Room = room })
		homes.Put(h, dossier.Outlet{Room: room, Name: "free", TestedMbps: 1000})
		return one("wireless-beside-outlet", h.Screen.Ref())
	}},
	{"the carrier shares an address", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Wish{What: dossier.WishOutsideViewing})
		homes.Set(h, h.Line, func(l *dossier.Line) {
			l.OuterAddress, l.OuterPrefix = netip.MustParseAddr("100.70.1.2"), netip.Prefix{}
		})
		return one("carrier-shared-address", h.Line.Ref())
	}},
	{"the screen joins another segment", func(h *homes.SoundHome) []said {
		move(h, h.ScreenPort, attic(h, dossier.IsolationNone))
		return one("different-segments", h.ScreenPath.Ref())
	}},
	{"the player joins the guests", func(h *homes.SoundHome) []said {
		move(h, h.PlayerPort, attic(h, dossier.IsolationGuestToHome))
		return one("kept-apart", h.PlayerPath.Ref())
	}},
	{"the server listens on its other adapter", func(h *homes.SoundHome) []said {
		other := homes.Put(h, dossier.Interface{Device: h.Server, Name: "eth1", Medium: dossier.OnCable, Addresses: addr("10.20.60.10"), Segment: attic(h, dossier.IsolationNone), AddressBy: dossier.BySetting})
		homes.Set(h, h.Source, func(s *dossier.Source) { s.Interface = other })
		return one("listens-elsewhere", h.Source.Ref())
	}},
	{"the server has another adapter", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Interface{Device: h.Server, Name: "eth1", Medium: dossier.OnCable, Addresses: addr("10.20.60.10"), Segment: attic(h, dossier.IsolationNone), AddressBy: dossier.BySetting})
		return one("several-adapters", h.Source.Ref())
	}},
	{"the firewall keeps the port shut", func(h *homes.SoundHome) []said {
		homes.Set(h, h.Opening, func(o *dossier.Opening) { o.State = dossier.OpeningRefused })
		return one("port-blocked", h.Opening.Ref())
	}},
	{"two sources want one port", func(h *homes.SoundHome) []said {
		return one("port-clash", secondSource(h, dossier.Source{Port: 40210}).Ref())
	}},
	{"a port typed wrongly", on("ends-disagree", screenPath, func(_ *homes.SoundHome, p *dossier.Path) { p.DeviceEnd.Port = 8201 })},
	{"signed in with another account", func(h *homes.SoundHome) []said {
		theirs, ours := homes.Put(h, dossier.Account{Name: "theirs"}), homes.Put(h, dossier.Account{Name: "ours"})
		homes.Set(h, h.Source, func(s *dossier.Source) { s.Account = ours })
		homes.Set(h, h.ScreenPath, func(p *dossier.Path) { p.Account = theirs })
		return one("account-differs", h.ScreenPath.Ref())
	}},
	{"the service's account may not read", on("service-account-cannot-read", folder, func(_ *homes.SoundHome, f *dossier.Folder) { f.ReadableBy = []string{"keeper"} })},
	{"open to everybody outside", on("open-to-outside", source, func(_ *homes.SoundHome, s *dossier.Source) {
		s.OutsidePort, s.OutsidePassword, s.OutsideEncrypted = 8443, dossier.No, dossier.Yes
	})},
	{"plain outside", on("plain-remote", source, func(_ *homes.SoundHome, s *dossier.Source) {
		s.OutsidePort, s.OutsidePassword, s.OutsideEncrypted = 8080, dossier.Yes, dossier.No
	})},
	{"a copied hardware address", func(h *homes.SoundHome) []said {
		homes.Set(h, h.PlayerPort, func(i *dossier.Interface) {
			screen, _ := h.Interfaces.Get(h.ScreenPort)
			i.HardwareAddress = screen.HardwareAddress
		})
		return one("hardware-address-clash", h.PlayerPort.Ref())
	}},
	{"an address set within the pool", on("address-in-lease-pool", screenPort, func(_ *homes.SoundHome, i *dossier.Interface) { i.AddressBy = dossier.BySetting })},
	{"a reservation nobody can use", on("reservation-outside-segment", segment, func(_ *homes.SoundHome, s *dossier.Segment) {
		s.Reservations = append(s.Reservations, dossier.Reservation{HardwareAddress: "02:4b:49:00:77:77", Address: netip.MustParseAddr("10.99.0.7")})
	})},
	{"a pool for one", on("pool-nearly-full", segment, func(h *homes.SoundHome, s *dossier.Segment) {
		s.PoolFirst, s.PoolLast = h.Address(100), h.Address(100)
	})},
	{"an address that is typed and only leased", func(h *homes.SoundHome) []said {
		byLease(h)
		return one("typed-address-not-reserved", h.ServerPort.Ref())
	}},
	{"a source bound to a leased address", func(h *homes.SoundHome) []said {
		byLease(h)
		homes.Set(h, h.Source, func(s *dossier.Source) { s.Interface = h.ServerPort })
		return []said{{"typed-address-not-reserved", h.ServerPort.Ref()}, {"bound-to-lease", h.ServerPort.Ref()}}
	}},
	{"a random hardware address", on("hardware-address-randomised", screenPort, func(_ *homes.SoundHome, i *dossier.Interface) { i.Randomised = dossier.Yes })},
	{"a device parked with the guests", func(h *homes.SoundHome) []said {
		d := homes.Put(h, dossier.Device{Name: "frame", Roles: []dossier.Role{dossier.RoleRenderer}})
		homes.Put(h, dossier.Interface{Device: d, Name: "radio", Segment: attic(h, dossier.IsolationBoth), Addresses: addr("10.20.60.9")})
		return one("on-guest-segment", d.Ref())
	}},
	{"nobody asks who listens", on("snooping-without-querier", segment, func(_ *homes.SoundHome, s *dossier.Segment) { s.Snooping, s.Querier = dossier.Yes, dossier.No })},
	{"two servers of one name", func(h *homes.SoundHome) []said {
		other := homes.Put(h, dossier.Device{Name: "other", Room: homes.RoomID(0), Roles: []dossier.Role{dossier.RoleServer}})
		return one("same-name", homes.Put(h, dossier.Source{Device: other, Name: "media", Protocol: dossier.ProtocolUPnPAV, Port: 8300, ShownName: "GRANITE"}).Ref())
	}},
	{"a second cable to the access point", func(h *homes.SoundHome) []said {
		a := homes.Put(h, dossier.Interface{Device: h.AP, Name: "second", Medium: dossier.OnCable})
		b := homes.Put(h, dossier.Interface{Device: h.Switch, Name: "port 99", Medium: dossier.OnCable})
		return one("cable-loop", homes.Put(h, dossier.Link{Near: a, Far: b, Kind: dossier.LinkPowerline}).Ref())
	}},
	{"two outlets at one port", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Outlet{Room: homes.RoomID(0), Name: "A1", PatchedTo: h.APPort})
		return one("outlets-share-port", homes.Put(h, dossier.Outlet{Room: homes.RoomID(1), Name: "A1", PatchedTo: h.APPort}).Ref())
	}},
	{"a damaged pair", func(h *homes.SoundHome) []said {
		homes.Set(h, h.ServerLink, func(l *dossier.Link) { l.RateMbps = 100 })
		return one("link-below-port", h.ServerLink.Ref())
	}},
	{"a door that was shut", func(h *homes.SoundHome) []said {
		reading(dossier.SignalDbm, -71)(h)
		return one("weak-signal", h.Screen.Ref())
	}},
	{"the host takes the home for a public place", on("network-class-untrusted", server, func(_ *homes.SoundHome, d *dossier.Device) { d.NetworkClass = dossier.ClassUntrusted })},
	{"the server does not know the screen", func(h *homes.SoundHome) []said {
		return one("unknown-kind", homes.Put(h, dossier.RegisterEntry{Device: h.Screen, Server: h.Server, RecognisedAs: "Unknown"}).Ref())
	}},
	{"the server keeps the screen out", func(h *homes.SoundHome) []said {
		return one("kept-out", homes.Put(h, dossier.RegisterEntry{Device: h.Screen, Server: h.Server, Admission: dossier.KeptOut}).Ref())
	}},
	{"the server lets in nobody new, and does not know the screen", func(h *homes.SoundHome) []said {
		homes.Set(h, h.Source, func(s *dossier.Source) { s.Newcomers = dossier.KeptOut })
		devices := map[dossier.ID[dossier.Device]]bool{}
		for _, p := range h.Paths {
			if p.Source == h.Source && p.Device != h.Screen {
				devices[p.Device] = true
			}
		}
		for d := range devices {
			homes.Put(h, dossier.RegisterEntry{Device: d, Server: h.Server, Admission: dossier.LetIn})
		}
		return one("newcomer-kept-out", h.Screen.Ref())
	}},
	{"a path whose last folder was removed", func(h *homes.SoundHome) []said {
		homes.Set(h, h.ScreenPath, func(p *dossier.Path) { p.Folders, p.NoFolders = nil, true })
		return one("no-folders-left", h.ScreenPath.Ref())
	}},
	{"an outlet that failed its test", func(h *homes.SoundHome) []said {
		for _, o := range h.Outlets {
			if o.Name == "player" {
				homes.Set(h, o.ID, func(o *dossier.Outlet) { o.Tested = dossier.TestFailed })
				return one("outlet-failed", o.ID.Ref())
			}
		}
		return nil
	}},
	{"a setting that is not what it must be", func(h *homes.SoundHome) []said {
		return one("setting-differs", homes.Put(h, dossier.Setting{Subject: h.Server.Ref(), Name: "Guest access", Value: "on", MustBe: "off"}).Ref())
	}},
	{"a share that can be written", func(h *homes.SoundHome) []said {
		return one("writable-share", secondSource(h, dossier.Source{Protocol: dossier.ProtocolSMB, Writable: dossier.Yes}).Ref())
	}},
	{"a share for one at a time", on("share-seats-short", source, func(_ *homes.SoundHome, s *dossier.Source) { s.Seats = 1 })},
	{"a licence for one machine", on("licence-seats-short", software, func(_ *homes.SoundHome, s *dossier.Software) { s.Seats = 1 })},
	{"a way left open", func(h *homes.SoundHome) []said {
		return one("remote-service-left-open", homes.Put(h, dossier.Opening{Device: h.Router, Transport: dossier.TCP, Port: 22, Direction: dossier.Inward, State: dossier.OpeningOpen, Temporary: dossier.Yes}).Ref())
	}},
	{"nobody let it index", on("never-indexed", folder, func(_ *homes.SoundHome, f *dossier.Folder) { f.ItemsInIndex = 0 })},
	{"titles that the index lacks", on("titles-missing", folder, func(_ *homes.SoundHome, f *dossier.Folder) { f.ItemsOnDisk++ })},
	{"series among the films", on("mixed-folder", folder, func(_ *homes.SoundHome, f *dossier.Folder) {
		f.AlsoHolds = []dossier.ContentKind{dossier.Film, dossier.Series}
	})},
	{"a forgotten limit", on("rate-capped", source, func(_ *homes.SoundHome, s *dossier.Source) { s.RateCapMbps = 17 })}, // 20 x 30/35 = 17.14
	{"serves only once somebody logged in", on("starts-at-login-only", software, func(_ *homes.SoundHome, s *dossier.Software) { s.Starts = dossier.StartsAtLogin })},
	{"the screen cannot wake the server", func(h *homes.SoundHome) []said {
		homes.Set(h, h.Server, func(d *dossier.Device) { d.Standby, d.Wake = dossier.Yes, dossier.WakePacket })
		homes.Set(h, h.Screen, func(d *dossier.Device) { d.SendsWake = dossier.No })
		return one("wake-impossible", h.ScreenPath.Ref())
	}},
	{"the server cannot wake what has its files", func(h *homes.SoundHome) []said {
		store := homes.Put(h, dossier.Device{Name: "file store", Standby: dossier.Yes, Wake: dossier.WakeButton})
		homes.Set(h, h.Folder, func(f *dossier.Folder) { f.LiesOn = store })
		return one("wake-impossible", h.ScreenPath.Ref())
	}},
	{"two places of marks", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Wish{What: dossier.WishResumeAcrossRooms})
		homes.Set(h, h.ScreenPath, func(p *dossier.Path) { p.Marks = dossier.MarksAtServer })
		homes.Set(h, h.PlayerPath, func(p *dossier.Path) { p.Marks = dossier.MarksOnDevice })
		return one("marks-kept-apart", h.ScreenPath.Ref())
	}},
	{"a weak supply", on("power-supply-weak", server, func(_ *homes.SoundHome, d *dossier.Device) { d.SupplyWatts = 30 })},
	{"a restart that is owed", func(h *homes.SoundHome) []said {
		return one("restart-due", homes.Put(h, dossier.Change{Device: h.Server, What: "new folder", FollowUps: []dossier.FollowUp{dossier.FollowUpRestart}}).Ref())
	}},
	{"no copy of the settings", func(h *homes.SoundHome) []said {
		dossier.RemoveRecord(h.Dossier, h.SettingsCopy.Ref())
		return one("settings-copy-missing", h.Server.Ref())
	}},
	{"a clock that is off", func(h *homes.SoundHome) []said {
		reading(dossier.ClockOffsetS, -61)(h)
		return one("clock-wrong", h.Screen.Ref())
	}},
	{"an outlet beside the screen", func(h *homes.SoundHome) []said {
		homes.Put(h, dossier.Interface{Device: h.Screen, Name: "wired", Medium: dossier.OnCable, PortMbps: 100})
		den := homes.Put(h, dossier.Room{Name: "den"})
		homes.Set(h, h.Screen, func(v *dossier.Device) { v.Room = den })
		homes.Put(h, dossier.Outlet{Room: den, Name: "B7", TestedMbps: 1000})
		return one("wireless-beside-outlet", h.Screen.Ref())
	}},
	{"a second access point on the channel", func(h *homes.SoundHome) []said {
		d := homes.Put(h, dossier.Device{Name: "repeater", Roles: []dossier.Role{dossier.RoleRepeater}})
		return one("same-channel-crowded", homes.Put(h, dossier.Interface{Device: d, Name: "radio", Medium: dossier.OnRadio, Band: dossier.Band5, Channel: 44}).Ref())
	}},
	{"given up by its maker", on("unmaintained", software, func(_ *homes.SoundHome, s *dossier.Software) { s.GivenUp = true })},
	{"a newer version", on("behind", software, func(_ *homes.SoundHome, s *dossier.Software) { s.Version, s.NewestKnown = "9.1", "10.0" })},
	{"two lines that contradict each other", func(h *homes.SoundHome) []said {
		line := dossier.DecodingEntry{Part: dossier.PartVideo, Format: "hevc", Able: dossier.Yes, Evidence: dossier.EvidenceDeclared}
		other := line
		other.Able, other.Evidence = dossier.No, dossier.EvidenceDataSheet
		homes.Put(h, dossier.Decoding{Device: h.Screen, Entries: []dossier.DecodingEntry{line, other}})
		return one("decoding-contradicts", h.Screen.Ref())
	}},
	{"a trial that ends", on("ends-soon", software, func(_ *homes.SoundHome, s *dossier.Software) {
		s.EndsOn = dossier.Date(homes.Day.AddDate(0, 0, 30).Format(time.DateOnly))
	})},
	{"a list of streams that ends", on("ends-soon", source, func(_ *homes.SoundHome, s *dossier.Source) {
		s.EndsOn = dossier.Date(homes.Day.AddDate(0, 0, 30).Format(time.DateOnly))
	})},
}

// A home in order has nothing found; one fault in it is found, on its subject, and nothing else.
func TestOneFaultIsFoundAndNothingElse(t *testing.T) {
	covered := map[string]bool{}
	rapid.Check(t, func(t *rapid.T) {
		sound := homes.Sound(t)
		require.Empty(t, network.Findings(sound.Dossier.Index(), knowledge.Knowledge{}, homes.Day), "a sound home")
		for _, f := range faults {
			h := sound.Copy()
			want := f.inject(h)
			got := map[said]bool{}
			for _, found := range network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, homes.Day) {
				got[said{found.Code, found.Subjects[0]}] = true
				for _, slot := range slots[found.Code] {
					require.Contains(t, found.Values, slot, found.Code)
				}
				for _, v := range found.Values {
					for _, p := range v.Phrases {
						require.Contains(t, wording.Phrases, p.Code, found.Code)
						for _, slot := range wording.Slots(wording.Phrases[p.Code]) {
							require.True(t, p.Of[slot] != "" || found.Values[slot].Unit != "", "%s: {%s}", p.Code, slot)
						}
					}
				}
			}
			require.Len(t, got, len(want), "%s: %v", f.name, got)
			for _, s := range want {
				require.True(t, got[s], "%s: %s on %s is missing: %v", f.name, s.code, h.Label(s.subject), got)
				covered[s.code] = true
			}
		}
	})
	covered[network.ConvertingShort] = true // the forecast finds it, and is tested for that
	for _, c := range network.Codes {
		assert.True(t, covered[c.Name], "no fault makes %s", c.Name)
	}
}

// slots holds what the words of each finding ask for.
var slots = func() map[string][]string {
	out := map[string][]string{}
	for code, words := range wording.Findings {
		out[code] = wording.Slots(words.Sentence + words.Remedy)
	}
	return out
}()

// A sound home is a valid one: it passes the checks of a write.
func TestSoundHomesAreValid(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := homes.Sound(t)
		next := h.Clone()
		entries, err := dossier.Seal(&dossier.Dossier{}, next, dossier.Cause{Actor: homes.Person, At: homes.Day})
		require.NoError(t, err)
		require.Empty(t, dossier.Check(next, entries))
	})
}

// Findings hold until the instant that Until names, and are others then.
func TestFindingsHoldUntil(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := homes.Sound(t)
		homes.Set(h, h.Software, func(s *dossier.Software) {
			s.EndsOn = dossier.Date(homes.Day.AddDate(0, 0, rapid.IntRange(-40, 40).Draw(t, "days")).Format(time.DateOnly))
		})
		now := homes.Day
		for range 3 {
			next := network.Until(h.Dossier, now)
			if next.IsZero() {
				assert.Equal(t, network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, now), network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, now.AddDate(1, 0, 0)))
				return
			}
			assert.Equal(t, network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, now), network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, next.Add(-time.Second)))
			assert.NotEqual(t, network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, now), network.Findings(h.Dossier.Index(), knowledge.Knowledge{}, next))
			now = next
		}
		t.Fatal("findings never come to rest")
	})
}

// large is a home of 60 devices, 200 interfaces and 12 segments.
func large() *dossier.Dossier {
	d := homes.Small().Clone()
	for n := 2; n < 12; n++ {
		s := dossier.Segment{Name: fmt.Sprint("segment ", n), Prefix: netip.MustParsePrefix(fmt.Sprintf("10.20.%d.0/24", 4+n))}
		s.ID = homes.ID[dossier.Segment](n)
		d.Segments.Put(s)
	}
	for n := 2; n < 60; n++ {
		v := dossier.Device{Name: fmt.Sprint("device ", n), Room: d.Rooms[n%2].ID, Roles: []dossier.Role{dossier.RolePlayer}}
		v.ID = homes.ID[dossier.Device](n)
		d.Devices.Put(v)
		p := dossier.Path{Name: fmt.Sprint("path ", n), Device: v.ID, Source: d.Sources[0].ID, Kind: dossier.AVPull, FoundBy: dossier.ByMulticast}
		p.ID = homes.ID[dossier.Path](n)
		d.Paths.Put(p)
	}
	for n := 2; n < 200; n++ {
		i := dossier.Interface{Device: d.Devices[n%60].ID, Name: fmt.Sprint("if", n), Segment: d.Segments[n%12].ID, Addresses: addr(fmt.Sprintf("10.20.%d.%d", 4+n%12, 20+n/12)), Medium: dossier.OnRadio, Band: dossier.Band5, Channel: n}
		i.ID = homes.ID[dossier.Interface](n)
		d.Interfaces.Put(i)
		l := dossier.Link{Near: i.ID, Far: d.Interfaces[0].ID, Kind: dossier.LinkCable, RateMbps: 100}
		l.ID = homes.ID[dossier.Link](n)
		d.Links.Put(l)
		r := dossier.Reading{What: dossier.SignalDbm, Value: -60, Subject: i.ID.Ref(), At: homes.Day}
		r.ID = homes.ID[dossier.Reading](n)
		d.Readings.Put(r)
	}
	return d
}

func BenchmarkFindings(b *testing.B) {
	d := large()
	for b.Loop() {
		network.Findings(d.Index(), knowledge.Knowledge{}, homes.Day)
	}
	b.ReportMetric(5, "aim-ms")
	b.ReportMetric(float64(b.Elapsed().Microseconds())/1000/float64(b.N), "measured-ms")
	b.ReportMetric(float64(b.Elapsed().Microseconds())/5000/float64(b.N), "ratio")
}
