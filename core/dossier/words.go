package dossier

import (
	"fmt"
	"net"
	"strings"
)

// Enum is a closed list of words. Values returns them in the order a form should offer them.
type Enum interface{ Values() []string }

func words[T ~string](all ...T) []string {
	out := make([]string, len(all))
	for i, w := range all {
		out[i] = string(w)
	}
	return out
}

// Role says what a device does for the home's media. A device may have several.
type Role string

// Roles a device can have; control-point is the UPnP word for what only directs others.
const (
	RoleRouter       Role = "router"
	RoleSwitch       Role = "switch"
	RoleAccessPoint  Role = "access-point"
	RoleRepeater     Role = "repeater"
	RolePowerline    Role = "powerline-adapter"
	RoleServer       Role = "server"
	RoleStorage      Role = "storage"
	RolePlayer       Role = "player"
	RoleRenderer     Role = "renderer"
	RoleScreen       Role = "screen"
	RoleReceiver     Role = "receiver"
	RoleControlPoint Role = "control-point"
	RoleTuner        Role = "tuner"
)

// Values lists all roles.
func (Role) Values() []string {
	return words(RoleServer, RoleStorage, RoleScreen, RolePlayer, RoleRenderer, RoleReceiver, RoleControlPoint, RoleTuner,
		RoleRouter, RoleSwitch, RoleAccessPoint, RoleRepeater, RolePowerline)
}

// Isolation says what a segment keeps apart.
type Isolation string

// Kinds of isolation between stations and segments.
const (
	IsolationNone         Isolation = "none"
	IsolationRadioToRadio Isolation = "radio-to-radio"
	IsolationGuestToHome  Isolation = "guest-to-home"
	IsolationBoth         Isolation = "both"
)

// Values lists all kinds of isolation.
func (Isolation) Values() []string {
	return words(IsolationNone, IsolationRadioToRadio, IsolationGuestToHome, IsolationBoth)
}

// Protocol is what a source speaks.
type Protocol string

// Protocols of sources.
const (
	ProtocolUPnPAV Protocol = "upnp-av"
	ProtocolHTTP   Protocol = "http"
	ProtocolSMB    Protocol = "smb"
	ProtocolNFS    Protocol = "nfs"
	ProtocolRTSP   Protocol = "rtsp"
	ProtocolHLS    Protocol = "hls"
	ProtocolM3U    Protocol = "m3u"
)

// Values lists all protocols.
func (Protocol) Values() []string {
	return words(ProtocolUPnPAV, ProtocolHTTP, ProtocolSMB, ProtocolNFS, ProtocolRTSP, ProtocolHLS, ProtocolM3U)
}

// ContentKind is the one kind of content a folder holds.
type ContentKind string

// Kinds of content.
const (
	Film      ContentKind = "film"
	Series    ContentKind = "series"
	Music     ContentKind = "music"
	Photo     ContentKind = "photo"
	LiveTV    ContentKind = "live-tv"
	Radio     ContentKind = "radio"
	HomeVideo ContentKind = "home-video"
	Audiobook ContentKind = "audiobook"
)

// Values lists all kinds of content.
func (ContentKind) Values() []string {
	return words(Film, Series, Music, Photo, LiveTV, Radio, HomeVideo, Audiobook)
}

// PathKind says how media reaches the device.
type PathKind string

// AVPull is UPnP AV in its two-box form: the device browses the server and fetches by itself.
const AVPull PathKind = "av-pull"

// Values lists the kinds of path that can be recorded.
func (PathKind) Values() []string { return words(AVPull) }

// FoundBy says how a path finds its server.
type FoundBy string

// Ways of finding a server.
const (
	ByMulticast    FoundBy = "multicast"
	ByTypedAddress FoundBy = "typed-address"
	ByPairingCode  FoundBy = "pairing-code"
	ByName         FoundBy = "name"
	ByNothing      FoundBy = "none"
)

// Values lists all ways of finding a server.
func (FoundBy) Values() []string {
	return words(ByMulticast, ByTypedAddress, ByPairingCode, ByName, ByNothing)
}

// Mode says whether media comes straight from the files or through the server.
type Mode string

// Modes of a path.
const (
	ThroughServer Mode = "through-server"
	FromFiles     Mode = "from-files"
)

// Values lists all modes.
func (Mode) Values() []string { return words(ThroughServer, FromFiles) }

// Side is where a prerequisite is met.
type Side string

// Sides of a prerequisite.
const (
	SideServer  Side = "server"
	SideDevice  Side = "device"
	SideNetwork Side = "network"
	SideAccount Side = "account"
)

// Values lists all sides.
func (Side) Values() []string { return words(SideServer, SideDevice, SideNetwork, SideAccount) }

// Outcome is what came of an attempt.
type Outcome string

// Outcomes of an attempt. Impossible means the test could not be carried out; it proves nothing.
const (
	Pass       Outcome = "pass"
	Marginal   Outcome = "marginal"
	Fail       Outcome = "fail"
	Impossible Outcome = "impossible"
)

// Values lists all outcomes.
func (Outcome) Values() []string { return words(Pass, Marginal, Fail, Impossible) }

// How says who judged an attempt.
type How string

// Ways an attempt is judged.
const (
	ByMachine How = "machine"
	ByEye     How = "eye"
)

// Values lists the ways.
func (How) Values() []string { return words(ByMachine, ByEye) }

// IssueState is the state of an issue.
type IssueState string

// States of an issue.
const (
	IssueOpen     IssueState = "open"
	IssueInHand   IssueState = "in-hand"
	IssueWaiting  IssueState = "waiting"
	IssueRemedied IssueState = "remedied"
	IssueClosed   IssueState = "closed"
)

// Values lists all states in the order an issue usually runs through them.
func (IssueState) Values() []string {
	return words(IssueOpen, IssueInHand, IssueWaiting, IssueRemedied, IssueClosed)
}

// HandoverState is the state of a handover.
type HandoverState string

// States of a handover.
const (
	Drafted  HandoverState = "drafted"
	Offered  HandoverState = "offered"
	Accepted HandoverState = "accepted"
	Returned HandoverState = "returned"
	Outdated HandoverState = "outdated"
)

// Values lists all states.
func (HandoverState) Values() []string { return words(Drafted, Offered, Accepted, Returned, Outdated) }

// HardwareAddr is an EUI-48 in lower case with colons, or "" for unknown.
type HardwareAddr string

// ParseHardwareAddr accepts an EUI-48 with colons, hyphens or dots, or bare.
func ParseHardwareAddr(s string) (HardwareAddr, error) {
	text := strings.TrimSpace(s)
	if len(text) == 12 && !strings.ContainsAny(text, ":-.") {
		text = text[0:4] + "." + text[4:8] + "." + text[8:12]
	}
	hw, err := net.ParseMAC(text)
	if err != nil || len(hw) != 6 {
		return "", fmt.Errorf("%q is not a hardware address; write it as 02:4b:49:00:00:10", s)
	}
	return HardwareAddr(hw.String()), nil
}

// MarshalText writes the canonical form.
func (h HardwareAddr) MarshalText() ([]byte, error) { return []byte(h), nil }

// UnmarshalText reads any common spelling; empty text means unknown.
func (h *HardwareAddr) UnmarshalText(b []byte) error {
	if len(b) == 0 {
		*h = ""
		return nil
	}
	parsed, err := ParseHardwareAddr(string(b))
	*h = parsed
	return err
}
