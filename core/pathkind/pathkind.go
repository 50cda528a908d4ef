// Package pathkind declares the kinds of path: what a source must speak for each, how it can be
// found, which ports it needs, what must be true before it works, what it cannot do, and which
// tests prove it. A new kind is one entry here, beside its word in core/dossier.
package pathkind

import (
	"cmp"
	"slices"

	"kaiku/core/dossier"
)

// Limit is something that a kind of path cannot do.
type Limit string

// What a kind of path may be unable to do.
const (
	Seek      Limit = "seek"      // start from another place in what is playing
	Resume    Limit = "resume"    // go on another day where it was left
	Subtitles Limit = "subtitles" // show subtitles that lie beside the file
	Convert   Limit = "convert"   // have the source convert what the device cannot decode
	Restrict  Limit = "restrict"  // keep hours or content from a device
	Several   Limit = "several"   // serve several devices with different things at once
	Restart   Limit = "restart"   // go on by itself after what sends it was restarted
	Replace   Limit = "replace"   // still be there when the device is replaced
)

// Limits lists all of them.
var Limits = []Limit{Seek, Resume, Subtitles, Convert, Restrict, Several, Restart, Replace}

// End is one end of a path.
type End string

// The two ends.
const (
	AtServer End = "server"
	AtDevice End = "device"
)

// Port is a port that a kind of path needs beside the source's own, at one of its ends.
type Port struct {
	At        End
	Transport dossier.Transport
	Direction dossier.Direction
	Number    int                // 0 for one that the system chooses
	Protocols []dossier.Protocol // of the sources that need it; none means any
	FoundBy   []dossier.FoundBy  // ways of finding that need it; none means any
	For       string             // code of what it is needed for
}

// Kind declares one kind of path.
type Kind struct {
	Name   dossier.PathKind
	Speaks []dossier.Protocol
	Found  []dossier.FoundBy // ways in which a device can find the source, the usual first
	Ports  []Port
	Needs  []string // codes of prerequisites, in the order in which they are met
	Cannot []Limit
	Tests  []string // kinds of test that can prove it
}

// Ports of finding. SSDP searches go to UDP 1900 and are answered to the searcher's own port (UPnP
// Device Architecture 2.0, section 1.3); mDNS is UDP 5353 at both ends (RFC 6762, section 3);
// WS-Discovery is UDP 3702 (OASIS WS-Discovery 1.1, section 2.4). The NetBIOS name service of old
// devices is UDP 137 (RFC 1002, section 4.2). NFS before version 4 needs the port mapper at 111
// (RFC 1833, section 3).
var (
	ssdp      = Port{At: AtServer, Transport: dossier.UDP, Direction: dossier.Inward, Number: 1900, FoundBy: byMulticast, For: "being-found"}
	ssdpReply = Port{At: AtDevice, Transport: dossier.UDP, Direction: dossier.Inward, FoundBy: byMulticast, For: "hearing-answers"}
	mdns      = Port{At: AtServer, Transport: dossier.UDP, Direction: dossier.Inward, Number: 5353, FoundBy: byMulticast, For: "being-found"}
	discovery = Port{At: AtServer, Transport: dossier.UDP, Direction: dossier.Inward, Number: 3702, Protocols: []dossier.Protocol{dossier.ProtocolSMB}, FoundBy: byMulticast, For: "being-found"}

	byMulticast = []dossier.FoundBy{dossier.ByMulticast}
)

// What is proven of every kind, of what is played from files, and of what runs by itself.
var (
	every    = []string{"reach", "opens", "plays", "stops", "sound", "lip-sync", "picture-fits", "top-quality", "long-play", "after-device-restart", "survives-restart", "survives-power-cut", "wakes", "blocked", "hours-kept", "fall-back", "busy-set", "outside"}
	ofFiles  = []string{"complete", "seeks", "resumes", "resumes-elsewhere", "watched-mark", "subtitles", "gapless", "converted-ahead", "sample-appears", "removed-disappears"}
	searched = []string{"found", "told-apart", "stays-found"}
	served   = []string{"converts", "search"}
)

// Kinds lists all kinds of path.
var Kinds = []Kind{
	{Name: dossier.AVPull,
		Found: []dossier.FoundBy{dossier.ByMulticast, dossier.ByName, dossier.ByTypedAddress},
		Ports: []Port{ssdp, ssdpReply},
		Needs: []string{"server-software-runs", "starts-with-machine", "folders-added", "server-opening", "address-reserved", "multicast-passes", "device-on-network", "device-let-in", "server-chosen"},
		Tests: tests(every, ofFiles, searched, served)},
	{Name: dossier.AVPush,
		Found:  []dossier.FoundBy{dossier.ByMulticast},
		Ports:  []Port{ssdp, ssdpReply},
		Needs:  []string{"server-software-runs", "starts-with-machine", "folders-added", "server-opening", "address-reserved", "multicast-passes", "device-on-network", "device-let-in", "consent-given"},
		Cannot: []Limit{Restrict},
		Tests:  tests(every, ofFiles, searched, []string{"converts"})},
	{Name: dossier.OwnPlayer,
		Found: []dossier.FoundBy{dossier.ByMulticast, dossier.ByTypedAddress, dossier.ByName, dossier.ByPairingCode},
		Ports: []Port{mdns},
		Needs: []string{"server-software-runs", "starts-with-machine", "folders-added", "server-opening", "address-reserved", "device-on-network", "device-let-in", "player-installed", "signed-in"},
		Tests: tests(every, ofFiles, searched, served)},
	{Name: dossier.Share,
		Found:  []dossier.FoundBy{dossier.ByTypedAddress, dossier.ByName, dossier.ByMulticast},
		Ports:  []Port{discovery, mdns},
		Needs:  []string{"share-created", "share-read-only", "share-opening", "address-reserved", "device-on-network", "share-entered", "share-account"},
		Cannot: []Limit{Convert, Restrict},
		Tests:  tests(every, ofFiles, []string{"write-refused"})},
	{Name: dossier.Copy,
		Found:  []dossier.FoundBy{dossier.ByNothing, dossier.ByTypedAddress, dossier.ByName},
		Needs:  []string{"copy-made"},
		Cannot: []Limit{Convert, Restrict, Several, Replace},
		Tests:  []string{"plays", "stops", "seeks", "resumes", "watched-mark", "sound", "lip-sync", "picture-fits", "top-quality", "subtitles", "gapless", "converted-ahead", "long-play", "complete", "after-device-restart", "survives-power-cut", "blocked", "hours-kept", "fall-back", "busy-set"}},
	{Name: dossier.Stream,
		Found:  []dossier.FoundBy{dossier.ByTypedAddress, dossier.ByName},
		Needs:  []string{"stream-started", "stream-opening", "address-reserved", "device-on-network", "stream-entered"},
		Cannot: []Limit{Seek, Resume, Subtitles, Restrict, Several, Restart},
		Tests:  every},
	{Name: dossier.StreamList,
		Found:  []dossier.FoundBy{dossier.ByTypedAddress, dossier.ByName},
		Needs:  []string{"stream-opening", "address-reserved", "device-on-network", "list-entered"},
		Cannot: []Limit{Seek, Resume, Convert, Restrict, Replace},
		Tests:  tests(every, []string{"live-channel", "guide"})},
	{Name: dossier.Tuner,
		Found:  []dossier.FoundBy{dossier.ByMulticast, dossier.ByTypedAddress, dossier.ByName},
		Ports:  []Port{ssdp, ssdpReply},
		Needs:  []string{"aerial-connected", "channels-found", "server-opening", "address-reserved", "device-on-network", "device-let-in", "server-chosen"},
		Cannot: []Limit{Seek, Resume, Restrict},
		Tests:  tests(every, searched, []string{"live-channel", "guide", "recording"})},
	{Name: dossier.Feed,
		Found:  []dossier.FoundBy{dossier.ByTypedAddress, dossier.ByName},
		Needs:  []string{"device-on-network", "feed-entered"},
		Cannot: []Limit{Convert, Restrict},
		Tests:  tests(every, []string{"resumes", "feed"})},
}

func init() {
	for i := range Kinds {
		Kinds[i].Speaks = Kinds[i].Name.Speaks()
	}
}

func tests(lists ...[]string) []string { return slices.Concat(lists...) }

// Of returns the declaration of a kind of path; the zero value, which proves nothing, for none.
func Of(name dossier.PathKind) Kind {
	for _, k := range Kinds {
		if k.Name == name {
			return k
		}
	}
	return Kind{Name: name}
}

// Proves reports whether tests of that kind can prove paths of this one.
func (k Kind) Proves(test string) bool { return slices.Contains(k.Tests, test) }

// Can reports whether paths of this kind can do that.
func (k Kind) Can(what Limit) bool { return !slices.Contains(k.Cannot, what) }

// mainPorts holds the port of each protocol where a source has none recorded: SMB2 (registered with
// IANA), NFS (RFC 7530, section 3.1), RTSP (RFC 7826, section 4.2).
var mainPorts = map[dossier.Protocol]int{dossier.ProtocolSMB: 445, dossier.ProtocolNFS: 2049, dossier.ProtocolRTSP: 554}

// MainPort returns the port that sources of a protocol listen on where none is recorded; 0 for a protocol that has none of its own.
func MainPort(p dossier.Protocol) int { return mainPorts[p] }

// PortsFor returns the ports that a path needs at its ends: those of its kind, and the source's own,
// which beats that of its protocol. A copy needs none.
func PortsFor(p dossier.Path, s dossier.Source) []Port {
	var out []Port
	for _, port := range Of(p.Kind).Ports {
		if (len(port.FoundBy) == 0 || slices.Contains(port.FoundBy, p.FoundBy)) && (len(port.Protocols) == 0 || slices.Contains(port.Protocols, s.Protocol)) {
			out = append(out, port)
		}
	}
	number := cmp.Or(s.Port, MainPort(s.Protocol))
	if number != 0 && p.Kind != dossier.Copy {
		out = append(out, Port{At: AtServer, Transport: dossier.TCP, Direction: dossier.Inward, Number: number, For: "fetching"})
	}
	return out
}
