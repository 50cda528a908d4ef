package dossier

import (
	"fmt"
	"net"
	"slices"
	"strings"
	"time"
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

// Kinds of path. AV pull and push are UPnP AV in its two-box form, in which the device browses the
// server and fetches by itself, and its three-box form, in which a control point tells a renderer
// what to fetch.
const (
	AVPull     PathKind = "av-pull"
	AVPush     PathKind = "av-push"
	OwnPlayer  PathKind = "own-player"  // the server's own player application
	Share      PathKind = "share"       // the device opens the files of an SMB or NFS share
	Copy       PathKind = "copy"        // the files were copied to the device
	Stream     PathKind = "stream"      // one stream that someone started
	StreamList PathKind = "stream-list" // a list of streams (M3U)
	Tuner      PathKind = "tuner"       // a tuner host on the network
	Feed       PathKind = "feed"        // a feed with enclosures
)

// speaks says, for each kind of path, what a source must speak for it.
var speaks = []struct {
	kind PathKind
	any  []Protocol
}{
	{AVPull, []Protocol{ProtocolUPnPAV}},
	{AVPush, []Protocol{ProtocolUPnPAV}},
	{OwnPlayer, []Protocol{ProtocolHTTP, ProtocolHLS}},
	{Share, []Protocol{ProtocolSMB, ProtocolNFS}},
	{Copy, []Protocol{ProtocolSMB, ProtocolNFS, ProtocolHTTP, ProtocolUPnPAV}},
	{Stream, []Protocol{ProtocolHTTP, ProtocolHLS, ProtocolRTSP}},
	{StreamList, []Protocol{ProtocolM3U}},
	{Tuner, []Protocol{ProtocolHTTP, ProtocolRTSP, ProtocolUPnPAV}},
	{Feed, []Protocol{ProtocolHTTP}},
}

// Values lists the kinds of path.
func (PathKind) Values() []string {
	var out []string
	for _, one := range speaks {
		out = append(out, string(one.kind))
	}
	return out
}

// Speaks returns the protocols of which a source must speak one for this kind of path.
func (k PathKind) Speaks() []Protocol {
	for _, one := range speaks {
		if one.kind == k {
			return slices.Clone(one.any)
		}
	}
	return nil
}

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

// Answer is the answer to a yes-or-no question; empty until someone has looked.
type Answer string

// Answers.
const (
	Yes Answer = "yes"
	No  Answer = "no"
)

// Values lists the answers.
func (Answer) Values() []string {
	return words(Yes, No)
}

// Cable is what cable ends in an outlet.
type Cable string

// Kinds of cable; the categories are those of ISO/IEC 11801.
const (
	Cat5           Cable = "cat-5"
	Cat5e          Cable = "cat-5e"
	Cat6           Cable = "cat-6"
	Cat6a          Cable = "cat-6a"
	Cat7           Cable = "cat-7"
	Coax           Cable = "coax"
	Fibre          Cable = "fibre"
	CableTelephone Cable = "telephone"
)

// Values lists the kinds of cable.
func (Cable) Values() []string {
	return words(Cat5, Cat5e, Cat6, Cat6a, Cat7, Coax, Fibre, CableTelephone)
}

// TestResult is how the test of a cable went.
type TestResult string

// Results of testing a cable.
const (
	TestPassed TestResult = "passed"
	TestFailed TestResult = "failed"
)

// Values lists the results.
func (TestResult) Values() []string { return words(TestPassed, TestFailed) }

// GapReply is why nothing is to be recorded for a gap.
type GapReply string

// Replies to a gap.
const (
	NoneHere  GapReply = "none-here"
	NotNeeded GapReply = "not-needed"
)

// Values lists the replies.
func (GapReply) Values() []string { return words(NoneHere, NotNeeded) }

// LineKind is how an internet line comes into the home.
type LineKind string

// Kinds of internet line.
const (
	LineFibre     LineKind = "fibre"
	LineCable     LineKind = "cable"
	LineDSL       LineKind = "dsl"
	LineMobile    LineKind = "mobile"
	LineRadio     LineKind = "fixed-radio"
	LineSatellite LineKind = "satellite"
)

// Values lists the kinds of line.
func (LineKind) Values() []string {
	return words(LineFibre, LineCable, LineDSL, LineMobile, LineRadio, LineSatellite)
}

// LinkKind is what carries a link.
type LinkKind string

// Kinds of link; display is one of a display chain.
const (
	LinkCable     LinkKind = "cable"
	LinkRadio     LinkKind = "radio"
	LinkPowerline LinkKind = "powerline"
	LinkCoax      LinkKind = "coax"
	LinkFibre     LinkKind = "fibre"
	LinkDisplay   LinkKind = "display"
)

// Values lists the kinds of link.
func (LinkKind) Values() []string {
	return words(LinkCable, LinkRadio, LinkPowerline, LinkCoax, LinkFibre, LinkDisplay)
}

// Band is a radio band.
type Band string

// Radio bands, in GHz.
const (
	Band2 Band = "2.4-ghz"
	Band5 Band = "5-ghz"
	Band6 Band = "6-ghz"
)

// Values lists the bands.
func (Band) Values() []string {
	return words(Band2, Band5, Band6)
}

// Quantity is what a reading measures, with its unit.
type Quantity string

// Measured quantities with their units.
const (
	DownMbps           Quantity = "down-mbps"
	UpMbps             Quantity = "up-mbps"
	LatencyMs          Quantity = "latency-ms"
	JitterMs           Quantity = "jitter-ms"
	LossPercent        Quantity = "loss-percent"
	SignalDbm          Quantity = "signal-dbm"
	NoiseDbm           Quantity = "noise-dbm"
	RadioRateMbps      Quantity = "radio-rate-mbps"
	ChannelBusyPercent Quantity = "channel-busy-percent"
	ClockOffsetS       Quantity = "clock-offset-s"
)

// Values lists the quantities.
func (Quantity) Values() []string {
	return words(DownMbps, UpMbps, LatencyMs, JitterMs, LossPercent, SignalDbm, NoiseDbm, RadioRateMbps, ChannelBusyPercent, ClockOffsetS)
}

// Known is how a value is known.
type Known string

// Ways a value is known, the surest first.
const (
	KnownMeasured  Known = "measured"
	KnownRead      Known = "read"
	KnownDeclared  Known = "declared"
	KnownDataSheet Known = "data-sheet"
	KnownEstimated Known = "estimated"
	KnownAssumed   Known = "assumed"
)

// Values lists the ways.
func (Known) Values() []string {
	return words(KnownMeasured, KnownRead, KnownDeclared, KnownDataSheet, KnownEstimated, KnownAssumed)
}

// WishKind is what a customer can wish: a content kind, or one of two things more.
type WishKind string

// Wishes beyond a kind of content.
const (
	WishResumeAcrossRooms WishKind = "resume-across-rooms"
	WishOutsideViewing    WishKind = "outside-viewing"
)

// Values lists all wishes: the kinds of content, then the others.
func (WishKind) Values() []string {
	return append(ContentKind("").Values(), words(WishResumeAcrossRooms, WishOutsideViewing)...)
}

// Need says how much a wish weighs.
type Need string

// Weights of a wish.
const (
	Needed  Need = "needed"
	Welcome Need = "welcome"
)

// Values lists the weights.
func (Need) Values() []string {
	return words(Needed, Welcome)
}

// Weekday is a day of the week.
type Weekday string

// Days of the week.
const (
	Monday    Weekday = "monday"
	Tuesday   Weekday = "tuesday"
	Wednesday Weekday = "wednesday"
	Thursday  Weekday = "thursday"
	Friday    Weekday = "friday"
	Saturday  Weekday = "saturday"
	Sunday    Weekday = "sunday"
)

// Values lists the days.
func (Weekday) Values() []string {
	return words(Monday, Tuesday, Wednesday, Thursday, Friday, Saturday, Sunday)
}

// Wake is what wakes a device.
type Wake string

// Ways to wake a device.
const (
	WakeNever  Wake = "never-sleeps"
	WakePacket Wake = "network-packet"
	WakeRemote Wake = "its-remote"
	WakeTimer  Wake = "timer"
	WakeButton Wake = "button-only"
)

// Values lists the ways.
func (Wake) Values() []string {
	return words(WakeNever, WakePacket, WakeRemote, WakeTimer, WakeButton)
}

// Admission says whether a server lets a device in.
type Admission string

// Admissions.
const (
	LetIn   Admission = "let-in"
	KeptOut Admission = "kept-out"
	Asked   Admission = "asked" // the server asks each time
	ByHours Admission = "by-hours"
)

// Values lists the admissions.
func (Admission) Values() []string {
	return words(LetIn, KeptOut, Asked, ByHours)
}

// AddressBy is how an adapter comes by its addresses.
type AddressBy string

// Ways to an address.
const (
	ByLease         AddressBy = "lease"
	ByReservation   AddressBy = "reservation"
	BySetting       AddressBy = "set-on-device"
	ByAdvertisement AddressBy = "router-advertisement"
)

// Values lists the ways.
func (AddressBy) Values() []string {
	return words(ByLease, ByReservation, BySetting, ByAdvertisement)
}

// WayIn is how a home is reached from outside.
type WayIn string

// Ways in; a relay is a machine outside that both ends call.
const (
	WayForwarding WayIn = "port-forwarding"
	WayIPv6       WayIn = "ipv6-opening"
	WayRelay      WayIn = "relay"
)

// Values lists the ways.
func (WayIn) Values() []string { return words(WayForwarding, WayIPv6, WayRelay) }

// MarksPlace is where it is kept how far something was watched.
type MarksPlace string

// Places of such marks.
const (
	MarksAtServer MarksPlace = "at-the-server"
	MarksOnDevice MarksPlace = "on-the-device"
	MarksNowhere  MarksPlace = "nowhere"
)

// Values lists the places.
func (MarksPlace) Values() []string { return words(MarksAtServer, MarksOnDevice, MarksNowhere) }

// Medium is what an adapter sends through.
type Medium string

// Media of an adapter.
const (
	OnCable     Medium = "wired"
	OnRadio     Medium = "radio"
	OnPowerline Medium = "powerline"
)

// Values lists the media.
func (Medium) Values() []string {
	return words(OnCable, OnRadio, OnPowerline)
}

// Facing is which way a router's port faces.
type Facing string

// Sides of a router.
const (
	FacingHome    Facing = "home"
	FacingOutside Facing = "outside"
)

// Values lists the sides.
func (Facing) Values() []string {
	return words(FacingHome, FacingOutside)
}

// Conversion is what a source can convert.
type Conversion string

// Abilities to convert.
const (
	ConvertsNothing   Conversion = "nothing"
	ConvertsContainer Conversion = "container"
	ConvertsSound     Conversion = "sound"
	ConvertsAll       Conversion = "sound-and-picture"
)

// Values lists the abilities.
func (Conversion) Values() []string {
	return words(ConvertsNothing, ConvertsContainer, ConvertsSound, ConvertsAll)
}

// Form is who writes a location so.
type Form string

// Forms of a location.
const (
	FormLocal  Form = "on-the-machine"
	FormSMB    Form = "smb"
	FormNFS    Form = "nfs"
	FormHTTP   Form = "http"
	FormDevice Form = "on-the-device"
)

// Values lists the forms.
func (Form) Values() []string {
	return words(FormLocal, FormSMB, FormNFS, FormHTTP, FormDevice)
}

// SecretKind is a sort of credential.
type SecretKind string

// Sorts of credential.
const (
	SecretPassword    SecretKind = "password"
	SecretDoorCode    SecretKind = "door-code"
	SecretPairingCode SecretKind = "pairing-code"
	SecretKey         SecretKind = "key"
	SecretLicenceKey  SecretKind = "licence-key"
)

// Values lists the sorts.
func (SecretKind) Values() []string {
	return words(SecretPassword, SecretDoorCode, SecretPairingCode, SecretKey, SecretLicenceKey)
}

// SoftwareKind is what a program is there for.
type SoftwareKind string

// Purposes of software.
const (
	SoftwareServer  SoftwareKind = "media-server"
	SoftwareFiles   SoftwareKind = "file-server"
	SoftwareTuner   SoftwareKind = "tuner-host"
	SoftwareStream  SoftwareKind = "stream-sender"
	SoftwarePlayer  SoftwareKind = "player"
	SoftwareControl SoftwareKind = "control-point"
	SoftwareSystem  SoftwareKind = "operating-system"
)

// Values lists the purposes.
func (SoftwareKind) Values() []string {
	return words(SoftwareServer, SoftwareFiles, SoftwareTuner, SoftwareStream, SoftwarePlayer, SoftwareControl, SoftwareSystem)
}

// Licence is on what terms software runs.
type Licence string

// Terms of a licence.
const (
	LicenceFree   Licence = "free"
	LicenceBought Licence = "bought"
	LicenceYearly Licence = "subscription"
	LicenceTrial  Licence = "trial"
	LicenceEnded  Licence = "ended"
)

// Values lists the terms.
func (Licence) Values() []string {
	return words(LicenceFree, LicenceBought, LicenceYearly, LicenceTrial, LicenceEnded)
}

// Start is when software starts.
type Start string

// When software starts.
const (
	StartsWithMachine Start = "with-the-machine"
	StartsAtLogin     Start = "at-log-in"
	StartsByHand      Start = "by-hand"
)

// Values lists them.
func (Start) Values() []string {
	return words(StartsWithMachine, StartsAtLogin, StartsByHand)
}

// FormatPart is the part of a file that a decoding entry is about.
type FormatPart string

// Parts of a file.
const (
	PartContainer FormatPart = "container"
	PartVideo     FormatPart = "video"
	PartSound     FormatPart = "sound"
	PartSubtitles FormatPart = "subtitles"
)

// Values lists the parts.
func (FormatPart) Values() []string {
	return words(PartContainer, PartVideo, PartSound, PartSubtitles)
}

// Evidence is how a decoding entry is known.
type Evidence string

// Evidence, the strongest first.
const (
	EvidenceProven    Evidence = "proven"
	EvidenceDeclared  Evidence = "declared"
	EvidenceDataSheet Evidence = "data-sheet"
	EvidenceAssumed   Evidence = "assumed"
)

// Values lists the evidence.
func (Evidence) Values() []string {
	return words(EvidenceProven, EvidenceDeclared, EvidenceDataSheet, EvidenceAssumed)
}

// Transport is a transport protocol.
type Transport string

// Transport protocols.
const (
	TCP Transport = "tcp"
	UDP Transport = "udp"
)

// Values lists the protocols.
func (Transport) Values() []string {
	return words(TCP, UDP)
}

// Direction is which way an opening goes.
type Direction string

// Directions, seen from the host.
const (
	Inward  Direction = "in"
	Outward Direction = "out"
)

// Values lists the directions.
func (Direction) Values() []string {
	return words(Inward, Outward)
}

// NetworkClass is how a host classes the network it is on.
type NetworkClass string

// Classes of network.
const (
	ClassTrusted   NetworkClass = "private"
	ClassUntrusted NetworkClass = "public"
	ClassAny       NetworkClass = "any"
)

// Values lists the classes.
func (NetworkClass) Values() []string {
	return words(ClassTrusted, ClassUntrusted, ClassAny)
}

// OpeningState is whether an opening is open.
type OpeningState string

// States of an opening.
const (
	OpeningOpen    OpeningState = "open"
	OpeningBlocked OpeningState = "blocked"
	OpeningAsked   OpeningState = "asked"
	OpeningRefused OpeningState = "refused"
)

// Values lists the states.
func (OpeningState) Values() []string {
	return words(OpeningOpen, OpeningBlocked, OpeningAsked, OpeningRefused)
}

// FollowUp is what a change still needs for it to work.
type FollowUp string

// Follow-ups, in the order in which they are done.
const (
	FollowUpIndex   FollowUp = "index-again"
	FollowUpTell    FollowUp = "tell-devices"
	FollowUpClear   FollowUp = "clear-device-cache"
	FollowUpRestart FollowUp = "restart"
	FollowUpRebuild FollowUp = "rebuild-catalogue"
)

// Values lists the follow-ups.
func (FollowUp) Values() []string {
	return words(FollowUpIndex, FollowUpTell, FollowUpClear, FollowUpRestart, FollowUpRebuild)
}

// Effect is what a change on a device means for what was proven on it before.
type Effect string

// Effects of a change.
const (
	EffectNone  Effect = "none"
	EffectReset Effect = "reset-to-defaults"
)

// Values lists the effects.
func (Effect) Values() []string { return words(EffectNone, EffectReset) }

// SoundReturn is how sound comes back from a screen.
type SoundReturn string

// Ways of sound return.
const (
	SoundReturnNone     SoundReturn = "none"
	SoundReturnPlain    SoundReturn = "plain"
	SoundReturnEnhanced SoundReturn = "enhanced"
	SoundReturnOptical  SoundReturn = "optical"
)

// Values lists the ways.
func (SoundReturn) Values() []string {
	return words(SoundReturnNone, SoundReturnPlain, SoundReturnEnhanced, SoundReturnOptical)
}

// CopyContent is what a settings copy holds.
type CopyContent string

// Contents of a settings copy.
const (
	CopySettings  CopyContent = "settings-only"
	CopyCatalogue CopyContent = "settings-and-catalogue"
)

// Values lists the contents.
func (CopyContent) Values() []string {
	return words(CopySettings, CopyCatalogue)
}

// DueKind is a sort of date in aftercare.
type DueKind string

// Sorts of date.
const (
	DueTrial       DueKind = "trial"
	DueLicence     DueKind = "licence"
	DueCertificate DueKind = "certificate"
	DueReview      DueKind = "device-list-review"
	DueCopy        DueKind = "settings-copy"
	DueWarranty    DueKind = "warranty"
	DueOther       DueKind = "other"
)

// Values lists the sorts.
func (DueKind) Values() []string {
	return words(DueTrial, DueLicence, DueCertificate, DueReview, DueCopy, DueWarranty, DueOther)
}

// Date is a day without a time, as ISO 8601 writes it, or "" for none.
type Date string

// ParseDate reads a day written as 2026-03-31.
func ParseDate(s string) (Date, error) {
	t, err := time.Parse(time.DateOnly, strings.TrimSpace(s))
	if err != nil || t.Year() < 1970 {
		return "", fmt.Errorf("%q is not a date; write it as 2026-03-31", s)
	}
	return Date(t.Format(time.DateOnly)), nil
}

// MarshalText writes the canonical form.
func (d Date) MarshalText() ([]byte, error) { return []byte(d), nil }

// UnmarshalText reads a day; empty text means none.
func (d *Date) UnmarshalText(b []byte) error {
	return readText(d, b, ParseDate)
}

// Clock is a time of day as 20:30, or "" for none.
type Clock string

// ParseClock reads a time of day of the 24-hour clock.
func ParseClock(s string) (Clock, error) {
	t, err := time.Parse("15:04", strings.TrimSpace(s))
	if err != nil {
		return "", fmt.Errorf("%q is not a time of day; write it as 20:30", s)
	}
	return Clock(t.Format("15:04")), nil
}

// MarshalText writes the canonical form.
func (c Clock) MarshalText() ([]byte, error) { return []byte(c), nil }

// UnmarshalText reads a time of day; empty text means none.
func (c *Clock) UnmarshalText(b []byte) error {
	return readText(c, b, ParseClock)
}

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
		return "", fmt.Errorf("%q is not a MAC address; write it as 02:4b:49:00:00:10", s)
	}
	return HardwareAddr(hw.String()), nil
}

// MarshalText writes the canonical form.
func (h HardwareAddr) MarshalText() ([]byte, error) { return []byte(h), nil }

// UnmarshalText reads any common spelling; empty text means unknown.
func (h *HardwareAddr) UnmarshalText(b []byte) error {
	return readText(h, b, ParseHardwareAddr)
}

// readText reads the text form of a value; empty text means none.
func readText[T ~string](into *T, b []byte, parse func(string) (T, error)) (err error) {
	if *into = ""; len(b) > 0 {
		*into, err = parse(string(b))
	}
	return err
}
