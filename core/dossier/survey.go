package dossier

import (
	"net/netip"
	"slices"
	"strings"
	"time"
)

// Household is the customer's home itself: the one record every dossier has.
type Household struct {
	Meta[Household]
	Code        string    `json:"code" rule:"fixed" pattern:"^H-[0-9]{4,6}$" patternDescription:"H- and four to six digits, such as H-0042" title:"Code" doc:"The firm's code for the home, such as H-0042."`
	Name        string    `json:"name" label:"true" minLength:"1" maxLength:"120" title:"Name" doc:"Short name for the home."`
	Address     string    `json:"address,omitzero" personal:"true" maxLength:"400" title:"Address" doc:"Postal address."`
	Contacts    []Contact `json:"contacts,omitzero" personal:"true" gorm:"serializer:cell" title:"Contacts" doc:"Who to speak to."`
	AccessNotes string    `json:"accessNotes,omitzero" personal:"true" maxLength:"2000" title:"Getting in" doc:"Key, alarm, dog, parking, who must be home. No door codes."`
	Custodian   PersonID  `json:"custodian" rule:"case" gorm:"serializer:cell" title:"Custodian" doc:"The technician responsible for this home now."`
	ErasedAt    time.Time `json:"erasedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Personal data erased" doc:"When personal data was last erased on request."`
}

// Contact is one person to speak to in a household.
type Contact struct {
	Name  string `json:"name" minLength:"1" title:"Name" doc:"Name of the person."`
	Phone string `json:"phone,omitzero" title:"Telephone" doc:"Telephone number."`
	Email string `json:"email,omitzero" title:"E-mail" doc:"E-mail address."`
	Note  string `json:"note,omitzero" title:"Note" doc:"When to call, what they are responsible for."`
}

// Room is a place in the home on a floor.
type Room struct {
	Meta[Room]
	Name  string `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"Name of the room, as the household calls it."`
	Floor int    `json:"floor,omitzero" minimum:"-5" maximum:"60" title:"Floor" doc:"0 is the ground floor, -1 the cellar."`
	Order int    `json:"order,omitzero" minimum:"0" maximum:"999" title:"Walking order" doc:"Position on the walk through this floor, counted from the stairs."`
	Power string `json:"power,omitzero" maxLength:"400" title:"Power" doc:"Mains sockets near the devices, and what is missing."`
	Note  string `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"What a colleague should know about this room."`
}

// Segment is one IP subnet: what multicast reaches.
type Segment struct {
	Meta[Segment]
	Name         string        `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"Name of the segment, such as home or guest."`
	Prefix       netip.Prefix  `json:"prefix" gorm:"serializer:cell" title:"Prefix" doc:"Address range, such as 10.20.4.0/24."`
	Prefix6      netip.Prefix  `json:"prefix6,omitzero" gorm:"serializer:cell" title:"IPv6 prefix" doc:"IPv6 prefix of the same segment, such as 2001:db8:4::/64."`
	VLAN         int           `json:"vlan,omitzero" minimum:"0" maximum:"4094" title:"VLAN" doc:"VLAN number; 0 for untagged."`
	SSID         string        `json:"ssid,omitzero" gorm:"column:ssid" maxLength:"32" title:"Wi-Fi name (SSID)" doc:"Name of its Wi-Fi network, if it has one."`
	Gateway      netip.Addr    `json:"gateway,omitzero" gorm:"serializer:cell" title:"Gateway" doc:"Address of the gateway."`
	PoolFirst    netip.Addr    `json:"poolFirst,omitzero" gorm:"serializer:cell" title:"DHCP pool from" doc:"First address of the DHCP pool."`
	PoolLast     netip.Addr    `json:"poolLast,omitzero" gorm:"serializer:cell" title:"DHCP pool to" doc:"Last address of the DHCP pool."`
	DHCPServers  []ID[Device]  `json:"dhcpServers,omitzero" onremove:"clear" gorm:"serializer:cell" title:"DHCP servers" doc:"The devices that give out addresses here. There should be only one."`
	NoDHCP       bool          `json:"noDhcp,omitzero" title:"No DHCP server" doc:"There is no DHCP server here, on purpose."`
	NameServers  []netip.Addr  `json:"nameServers,omitzero" gorm:"serializer:cell" title:"DNS servers" doc:"Addresses of the DNS servers given to its members."`
	NamePort     int           `json:"namePort,omitzero" minimum:"0" maximum:"65535" title:"DNS port" doc:"Port of the DNS servers, if it is not 53."`
	Reservations []Reservation `json:"reservations,omitzero" gorm:"serializer:cell" title:"Reservations" doc:"Addresses that the DHCP server reserves, each for one adapter."`
	Isolation    Isolation     `json:"isolation,omitzero" part:"Who reaches whom" title:"Isolation" doc:"What this segment isolates."`
	MulticastTo  []ID[Segment] `json:"multicastTo,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Multicast to" doc:"Other segments to which the router passes multicast."`
	Snooping     Answer        `json:"snooping,omitzero" title:"Multicast snooping" doc:"Whether its switches pass multicast only to ports that have asked for it."`
	WakeRelay    Answer        `json:"wakeRelay,omitzero" title:"Wake packets relayed" doc:"Whether wake packets from other segments are passed on here."`
	Querier      Answer        `json:"querier,omitzero" title:"Multicast querier" doc:"Whether something regularly asks who still wants multicast. With snooping but no querier, devices disappear after a few minutes."`
	CastMbps     float64       `json:"castMbps,omitzero" minimum:"0" title:"Multicast rate on Wi-Fi (Mb/s)" doc:"Rate at which its access points send multicast, in Mb/s: the lowest that all stations have to know, unless another is set."`
	CastToEach   Answer        `json:"castToEach,omitzero" title:"Multicast to each station" doc:"Whether its access points send multicast to each station that has asked for it, at that station's own rate."`
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

// DHCPServer is what one DHCP server gives out in a segment, where it differs from what is recorded with
// the segment itself: a second DHCP server, or one with other settings.
type DHCPServer struct {
	Meta[DHCPServer]
	Device      ID[Device]   `json:"device" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device that gives out the addresses."`
	Segment     ID[Segment]  `json:"segment" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Segment" doc:"The segment where it does so."`
	PoolFirst   netip.Addr   `json:"poolFirst,omitzero" gorm:"serializer:cell" title:"DHCP pool from" doc:"First address it gives out."`
	PoolLast    netip.Addr   `json:"poolLast,omitzero" gorm:"serializer:cell" title:"DHCP pool to" doc:"Last address it gives out."`
	Gateway     netip.Addr   `json:"gateway,omitzero" gorm:"serializer:cell" title:"Gateway" doc:"The gateway it announces."`
	NameServers []netip.Addr `json:"nameServers,omitzero" gorm:"serializer:cell" title:"DNS servers" doc:"The DNS servers it announces."`
	Note        string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Why it is there, and whether it may be switched off."`
}

// Reservation is an address that a DHCP server reserves for one adapter.
type Reservation struct {
	HardwareAddress HardwareAddr `json:"hardwareAddress" title:"MAC address" doc:"MAC address of the adapter."`
	Address         netip.Addr   `json:"address" title:"Address" doc:"The address reserved for it."`
	Name            string       `json:"name,omitzero" title:"Name" doc:"Name given in the DHCP server."`
}

// Outlet is a socket in a room where a cable ends.
type Outlet struct {
	Meta[Outlet]
	Room       ID[Room]      `json:"room" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Room" doc:"The room it is in."`
	Name       string        `json:"name" label:"true" unique:"room" minLength:"1" maxLength:"40" title:"Name" doc:"The label on it, such as A1."`
	Cable      Cable         `json:"cable,omitzero" title:"Cable" doc:"The type of cable that ends in it."`
	PatchedTo  ID[Interface] `json:"patchedTo,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Patched to" doc:"The switch or router port at the other end."`
	NotPatched bool          `json:"notPatched,omitzero" title:"Left unpatched" doc:"Left unpatched on purpose."`
	Patching   string        `json:"patching,omitzero" maxLength:"200" title:"Patch panel" doc:"Patch panel and port in between, as labelled."`
	TestedMbps float64       `json:"testedMbps,omitzero" minimum:"0" title:"Tested rate (Mb/s)" doc:"The rate measured in the test, in Mb/s."`
	Tested     TestResult    `json:"tested,omitzero" title:"Test result" doc:"How the test of the cable went."`
	TestedOn   Date          `json:"testedOn,omitzero" gorm:"serializer:cell" title:"Tested on" doc:"Day of the test."`
	Note       string        `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Damage, furniture in front of it."`
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

// Line is an internet line of the home.
type Line struct {
	Meta[Line]
	Name         string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"What colleagues call it, such as fibre or mobile."`
	Kind         LineKind     `json:"kind" title:"Type" doc:"How the line reaches the home."`
	Provider     string       `json:"provider,omitzero" maxLength:"80" title:"Provider" doc:"Who provides it."`
	Router       ID[Device]   `json:"router,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Ends at" doc:"The device it ends at."`
	SoldDownMbps float64      `json:"soldDownMbps,omitzero" minimum:"0" part:"Rates" title:"Contract download (Mb/s)" doc:"Download rate in the contract, in Mb/s."`
	SoldUpMbps   float64      `json:"soldUpMbps,omitzero" minimum:"0" title:"Contract upload (Mb/s)" doc:"Upload rate in the contract, in Mb/s."`
	DownMbps     float64      `json:"downMbps,omitzero" minimum:"0" title:"Measured download (Mb/s)" doc:"Measured download rate, in Mb/s."`
	UpMbps       float64      `json:"upMbps,omitzero" minimum:"0" title:"Measured upload (Mb/s)" doc:"Measured upload rate, in Mb/s."`
	MeasuredAt   time.Time    `json:"measuredAt,omitzero" gorm:"serializer:cell" title:"Measured at" doc:"When it was measured. Lines are busier in the evening."`
	OuterAddress netip.Addr   `json:"outerAddress,omitzero" gorm:"serializer:cell" part:"Seen from outside" title:"Router's outer address" doc:"The address that the router has on this line."`
	SeenAddress  netip.Addr   `json:"seenAddress,omitzero" gorm:"serializer:cell" title:"Address seen outside" doc:"The address that the home is seen from outside. If it is a different one, something in between translates addresses."`
	SeenAddress6 netip.Addr   `json:"seenAddress6,omitzero" gorm:"serializer:cell" title:"IPv6 address seen outside" doc:"The IPv6 address that a machine in the home is seen from outside."`
	OuterPrefix  netip.Prefix `json:"outerPrefix,omitzero" gorm:"serializer:cell" title:"IPv6 prefix" doc:"The IPv6 prefix that the home is given, if any."`
	WaysIn       []WayIn      `json:"waysIn,omitzero" gorm:"serializer:cell" title:"Ways in" doc:"What has been set up to reach the home from outside."`
	Note         string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Boxes not to be touched, customer number, support hours."`
}

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

// Link is a cable or radio association between two adapters.
type Link struct {
	Meta[Link]
	Near     ID[Interface] `json:"near" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"From" doc:"One end."`
	Far      ID[Interface] `json:"far" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"To" doc:"The other end, the one nearer to the router."`
	Kind     LinkKind      `json:"kind" title:"Type" doc:"What carries the link."`
	RateMbps float64       `json:"rateMbps,omitzero" minimum:"0" title:"Rate (Mb/s)" doc:"The rate agreed by both ends, in Mb/s. For Wi-Fi and powerline this is more than the throughput."`
	Band     Band          `json:"band,omitzero" title:"Band" doc:"Wi-Fi band."`
	Channel  int           `json:"channel,omitzero" minimum:"0" maximum:"233" title:"Channel" doc:"Wi-Fi channel number."`
	Outlet   ID[Outlet]    `json:"outlet,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Through outlet" doc:"The wall outlet it goes through."`
	Note     string        `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Why it is like this: stone walls, distance, what was tried."`
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

// Overlap reports whether two channels of the band hear each other. In 2.4 GHz channels lie 5 MHz apart and are 20 MHz wide (IEEE 802.11,
// clause 15.4.4.3), so that less than five apart they do.
func (b Band) Overlap(a, c int) bool {
	return a == c || b == Band2 && a-c < 5 && c-a < 5
}

// Reading is one measured value at a place and time.
type Reading struct {
	Meta[Reading]
	What         Quantity  `json:"what" label:"true" title:"Quantity" doc:"What was measured; the word includes the unit."`
	Value        float64   `json:"value" title:"Value" doc:"The measured value, in the unit of the quantity."`
	Subject      Ref       `json:"subject,omitzero" label:"true" kinds:"device interface link line" onremove:"cascade" gorm:"serializer:cell" title:"About" doc:"The device, adapter, link or line that was measured."`
	Room         ID[Room]  `json:"room,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Room" doc:"Where it was measured."`
	How          Known     `json:"how" title:"Known by" doc:"How the value is known."`
	At           time.Time `json:"at" gorm:"serializer:cell" title:"When" doc:"When it was measured."`
	MeasuredWith string    `json:"measuredWith,omitzero" maxLength:"80" title:"Measured with" doc:"What measured it, such as a laptop; empty if the device itself did."`
	Conditions   string    `json:"conditions,omitzero" maxLength:"400" title:"Conditions" doc:"Circumstances that may matter, such as evening, door closed, busy channel."`
}

// How says who judged an attempt.
type How string

// Ways an attempt is judged.
const (
	ByMachine How = "machine"
	ByEye     How = "eye"
)

// Values lists the ways.
func (How) Values() []string { return words(ByMachine, ByEye) }

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

// Wish is something the customer wants.
type Wish struct {
	Meta[Wish]
	What   WishKind   `json:"what" label:"true" title:"Wish" doc:"What the customer wants."`
	Room   ID[Room]   `json:"room,omitzero" label:"true" onremove:"restrict" gorm:"serializer:cell" title:"In room" doc:"Where it is wanted; empty for the whole home."`
	Device ID[Device] `json:"device,omitzero" label:"true" onremove:"restrict" gorm:"serializer:cell" title:"On device" doc:"The carried device on which it is wanted, wherever that is."`
	Need   Need       `json:"need,omitzero" title:"Importance" doc:"Whether the work is complete without it."`
	Note   string     `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"In the customer's words."`
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

// Restriction is what a room, a device or a person may not have, or not at every hour.
type Restriction struct {
	Meta[Restriction]
	Name     string        `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What the household calls it, such as children after eight."`
	Room     ID[Room]      `json:"room,omitzero" onremove:"restrict" gorm:"serializer:cell" title:"Room" doc:"The room it applies to."`
	Device   ID[Device]    `json:"device,omitzero" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device it applies to."`
	Person   string        `json:"person,omitzero" personal:"true" maxLength:"120" title:"For" doc:"The person in the household it applies to."`
	Contents []ContentKind `json:"contents,omitzero" gorm:"serializer:cell" title:"Content" doc:"The kinds of content that are restricted; none means all."`
	Days     []Weekday     `json:"days,omitzero" gorm:"serializer:cell" title:"Days" doc:"The days it applies; none means every day."`
	From     Clock         `json:"from,omitzero" gorm:"serializer:cell" title:"From" doc:"Restricted from this time of day; empty for always."`
	Until    Clock         `json:"until,omitzero" gorm:"serializer:cell" title:"Until" doc:"Restricted until this time of day."`
	SetWhere string        `json:"setWhere,omitzero" maxLength:"400" title:"Set in" doc:"The machine and menu where it is set."`
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

// HoldsAt reports whether it holds at an instant, by the clock of that instant's place. Hours that reach over midnight belong to the day on
// which they begin.
func (r Restriction) HoldsAt(t time.Time) bool {
	day := func(t time.Time) bool {
		return len(r.Days) == 0 || slices.Contains(r.Days, Weekday(strings.ToLower(t.Weekday().String())))
	}
	now := Clock(t.Format("15:04"))
	switch {
	case r.From == r.Until:
		return day(t)
	case r.From < r.Until:
		return now >= r.From && now < r.Until && day(t)
	}
	return now >= r.From && day(t) || now < r.Until && day(t.AddDate(0, 0, -1))
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

// GapAnswer is the answer to a gap of the survey that nothing is to be recorded for: there is none
// here, or it is not needed. The gap then counts as answered.
type GapAnswer struct {
	Meta[GapAnswer]
	Gap     string    `json:"gap" label:"true" rule:"case" searched:"no" title:"Gap" doc:"Code of the gap, such as no-outlets."`
	Subject Ref       `json:"subject,omitzero" label:"true" rule:"case" onremove:"cascade" gorm:"serializer:cell" title:"About" doc:"The record that the gap is about; none for the whole home."`
	Answer  GapReply  `json:"answer" rule:"case" title:"Answer" doc:"Why nothing is to be recorded."`
	Note    string    `json:"note,omitzero" rule:"case" maxLength:"400" title:"Note" doc:"How this is known."`
	By      PersonID  `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who answered it."`
	At      time.Time `json:"at" rule:"case" gorm:"serializer:cell" title:"When" doc:"When it was answered."`
}

// GapReply is why nothing is to be recorded for a gap.
type GapReply string

// Replies to a gap.
const (
	NoneHere  GapReply = "none-here"
	NotNeeded GapReply = "not-needed"
)

// Values lists the replies.
func (GapReply) Values() []string { return words(NoneHere, NotNeeded) }
