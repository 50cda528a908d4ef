package dossier

import (
	"net/netip"
	"slices"
	"time"
)

// Device is anything with a role in the home's media.
type Device struct {
	Meta[Device]
	Name         string        `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"What this device is called in this home."`
	Room         ID[Room]      `json:"room,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Room" doc:"The room it is in."`
	Roles        []Role        `json:"roles,omitzero" gorm:"serializer:cell" title:"Roles" doc:"What it does."`
	Make         string        `json:"make,omitzero" maxLength:"80" title:"Make" doc:"Manufacturer."`
	Model        string        `json:"model,omitzero" maxLength:"80" title:"Model" doc:"Model, as on the label."`
	Variant      string        `json:"variant,omitzero" maxLength:"80" title:"Hardware variant" doc:"Hardware variant. Weak variants are a known cause of trouble."`
	Firmware     string        `json:"firmware,omitzero" maxLength:"80" title:"Firmware" doc:"Firmware version."`
	Serial       string        `json:"serial,omitzero" maxLength:"80" title:"Serial number" doc:"Serial number, as on the label."`
	Handling     string        `json:"handling,omitzero" maxLength:"400" title:"Hands off" doc:"Why it must not be touched, for example because it belongs to the provider."`
	Carried      bool          `json:"carried,omitzero" title:"Portable" doc:"It is carried around and has no fixed place."`
	Menus        string        `json:"menus,omitzero" maxLength:"400" title:"How to reach its menus" doc:"How to reach its menus, for colleagues and the customer."`
	PowerSupply  string        `json:"powerSupply,omitzero" maxLength:"120" part:"Hardware" title:"Power supply" doc:"How it is powered: own power supply and rating, a screen's USB socket, the network cable."`
	SupplyWatts  float64       `json:"supplyWatts,omitzero" minimum:"0" title:"Supply rating (W)" doc:"What its power supply can deliver, in watts."`
	SupplyAmps   float64       `json:"supplyAmps,omitzero" minimum:"0" title:"Supply current (A)" doc:"What its power supply can deliver, in amperes, as on the label."`
	NeedsWatts   float64       `json:"needsWatts,omitzero" minimum:"0" title:"Maximum draw (W)" doc:"The most it needs according to its label or data sheet, in watts."`
	Cooling      string        `json:"cooling,omitzero" maxLength:"120" title:"Cooling" doc:"Fan, case, where the heat goes."`
	Medium       string        `json:"medium,omitzero" maxLength:"120" title:"Storage medium" doc:"What its system and files are stored on."`
	DiskMbps     float64       `json:"diskMbps,omitzero" minimum:"0" title:"Storage rate (Mb/s)" doc:"Rate at which a large file is read from its storage medium, in Mb/s (1 MB/s is 8 Mb/s); empty if it is not known."`
	Remote       string        `json:"remote,omitzero" maxLength:"120" title:"Remote or keyboard" doc:"What it is controlled with."`
	Standby      Answer        `json:"standby,omitzero" part:"Sleep and wake" title:"Goes to sleep" doc:"Whether it goes to sleep by itself."`
	Wake         Wake          `json:"wake,omitzero" title:"Woken by" doc:"What wakes it."`
	WakeProven   Answer        `json:"wakeProven,omitzero" title:"Waking works" doc:"Whether waking was seen to work."`
	SendsWake    Answer        `json:"sendsWake,omitzero" title:"Can wake servers" doc:"Whether it can send the packet that wakes a sleeping server."`
	ContentKinds []ContentKind `json:"contentKinds,omitzero" gorm:"serializer:cell" part:"Playing" title:"Plays" doc:"The kinds of content that it plays; none means all."`
	NetworkClass NetworkClass  `json:"networkClass,omitzero" part:"On the network" title:"Network class" doc:"How the device classes the network it is on. On an untrusted network it blocks incoming connections."`
	UDN          string        `json:"udn,omitzero" maxLength:"120" title:"UPnP identifier (UDN)" doc:"Unique device name of a screen or player, as it announces itself by UPnP. For a server it is recorded with the source."`
	HostName     string        `json:"hostName,omitzero" maxLength:"120" title:"Host name" doc:"Its name in DNS or mDNS."`
	Announces    string        `json:"announces,omitzero" maxLength:"200" title:"Announces itself as" doc:"How it identifies itself in announcements and requests: the SERVER and USER-AGENT lines of UPnP. Servers recognise devices by this."`
	MapsPorts    Answer        `json:"mapsPorts,omitzero" title:"Opens ports automatically" doc:"For a router: whether it opens ports when a device asks (IGD, PCP, NAT-PMP)."`
	RateCapMbps  float64       `json:"rateCapMbps,omitzero" minimum:"0" title:"Rate limit (Mb/s)" doc:"Limit set on the device, in Mb/s; empty for none."`
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

// Is reports whether a device has one of the roles.
func (d Device) Is(any ...Role) bool {
	return slices.ContainsFunc(d.Roles, func(r Role) bool { return slices.Contains(any, r) })
}

// IsGear reports whether a device carries the network for others.
func (d Device) IsGear() bool {
	return d.Is(RoleRouter, RoleSwitch, RoleAccessPoint, RoleRepeater, RolePowerline)
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

// Interface is one network adapter of a device.
type Interface struct {
	Meta[Interface]
	Device          ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device it belongs to."`
	Name            string       `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"40" title:"Name" doc:"Name of the adapter, such as eth0 or wired."`
	HardwareAddress HardwareAddr `json:"hardwareAddress,omitzero" gorm:"serializer:cell" title:"MAC address" doc:"MAC address (EUI-48) in any common form."`
	Addresses       []netip.Addr `json:"addresses,omitzero" gorm:"serializer:cell" title:"Addresses" doc:"Its IP addresses."`
	Segment         ID[Segment]  `json:"segment,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Segment" doc:"The segment it is in."`
	AddressBy       AddressBy    `json:"addressBy,omitzero" title:"Address from" doc:"How it gets its addresses."`
	Randomised      Answer       `json:"randomised,omitzero" title:"Random MAC address" doc:"Whether the device is set to use a random MAC address. Reservations do not work with it."`
	Medium          Medium       `json:"medium,omitzero" part:"Port" title:"Medium" doc:"Cable, Wi-Fi or powerline."`
	PortMbps        float64      `json:"portMbps,omitzero" minimum:"0" title:"Port rate (Mb/s)" doc:"Highest rate of the port, in Mb/s. Many screens have only 100."`
	Facing          Facing       `json:"facing,omitzero" title:"Faces" doc:"For a router: which side this port is on."`
	SSID            string       `json:"ssid,omitzero" gorm:"column:ssid" maxLength:"32" part:"Radio" title:"Wi-Fi name (SSID)" doc:"For an access point: the Wi-Fi network of this radio."`
	Band            Band         `json:"band,omitzero" title:"Band" doc:"For an access point: the band of this radio."`
	Channel         int          `json:"channel,omitzero" minimum:"0" maximum:"233" title:"Channel" doc:"For an access point: the channel of this radio."`
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

// Secret is a credential that is kept sealed outside the dossier. Here are only what it is for
// and where its sealed body lies; every showing is in the journal.
type Secret struct {
	Meta[Secret]
	Name     string      `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What it opens, such as door code or share password."`
	Kind     SecretKind  `json:"kind" title:"Type" doc:"What it is."`
	Device   ID[Device]  `json:"device,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Device" doc:"The device it belongs to."`
	Segment  ID[Segment] `json:"segment,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Wi-Fi of" doc:"For a Wi-Fi password: the segment that it opens."`
	Note     string      `json:"note,omitzero" maxLength:"400" title:"Note" doc:"Where it is used. Never the secret itself."`
	SealedAs string      `json:"sealedAs" searched:"no" rule:"case" maxLength:"60" title:"Stored as" doc:"Where the encrypted secret is stored."`
	SealedAt time.Time   `json:"sealedAt" rule:"case" gorm:"serializer:cell" title:"Changed" doc:"When it was last changed."`
	ShownAt  time.Time   `json:"shownAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Last shown" doc:"When it was last shown."`
	ShownTo  PersonID    `json:"shownTo,omitzero" rule:"case" gorm:"serializer:cell" title:"Shown to" doc:"Who it was last shown to."`
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

// Account is an account that something in the home is signed in with.
type Account struct {
	Meta[Account]
	Name     string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What colleagues call it."`
	Login    string       `json:"login,omitzero" personal:"true" maxLength:"120" title:"Log-in name" doc:"The name to sign in with."`
	Secret   ID[Secret]   `json:"secret,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Secret" doc:"Its password or code, stored encrypted."`
	SignedIn []ID[Device] `json:"signedIn,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Signed in on" doc:"Devices that are signed in with it."`
	Region   string       `json:"region,omitzero" maxLength:"2" pattern:"^([A-Z]{2})?$" patternDescription:"the two capital letters of a country, such as FI" title:"Region" doc:"The country for which it was opened, where that decides what can be watched (ISO 3166-1)."`
	Seats    int          `json:"seats,omitzero" minimum:"0" maximum:"9999" title:"Devices allowed" doc:"How many devices it allows; 0 for no limit."`
	Note     string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Whose account it is, where it was created."`
}

// Software is a program on a device that matters for the media.
type Software struct {
	Meta[Software]
	Device         ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The machine it runs on."`
	Name           string       `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"120" title:"Name" doc:"What it is called."`
	Does           SoftwareKind `json:"does" title:"Purpose" doc:"What it is for."`
	Version        string       `json:"version,omitzero" maxLength:"80" part:"Versions" title:"Installed version" doc:"The version that is running."`
	NewestPackaged string       `json:"newestPackaged,omitzero" maxLength:"80" title:"Newest packaged version" doc:"The newest version in the machine's own package source."`
	NewestKnown    string       `json:"newestKnown,omitzero" maxLength:"80" title:"Newest version" doc:"The newest version there is."`
	GivenUp        bool         `json:"givenUp,omitzero" title:"No longer maintained" doc:"Its maker no longer maintains it."`
	Licence        Licence      `json:"licence,omitzero" part:"Licence" title:"Licence" doc:"Its licence."`
	EndsOn         Date         `json:"endsOn,omitzero" gorm:"serializer:cell" title:"Ends on" doc:"Last day of the trial or licence."`
	Seats          int          `json:"seats,omitzero" minimum:"0" maximum:"9999" title:"Devices allowed" doc:"How many devices the licence covers; 0 for no limit."`
	PaidBy         string       `json:"paidBy,omitzero" personal:"true" maxLength:"120" title:"Paid by" doc:"Who pays for it, and from which account."`
	StopsUnpaid    string       `json:"stopsUnpaid,omitzero" maxLength:"400" title:"Stops when unpaid" doc:"What no longer works when it is not paid."`
	Starts         Start        `json:"starts,omitzero" part:"Running" title:"Starts" doc:"When it starts. If only at log-in, it is not running after a power cut."`
	RunsAs         string       `json:"runsAs,omitzero" maxLength:"80" title:"Runs as" doc:"The account it runs under, which decides which folders it can read."`
	NetworkMove    string       `json:"networkMove,omitzero" maxLength:"400" title:"When the network changes" doc:"What it does when the network changes while it is running."`
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

// RegisterEntry is one device as one server knows it.
type RegisterEntry struct {
	Meta[RegisterEntry]
	Device       ID[Device]    `json:"device" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device that is served."`
	Server       ID[Device]    `json:"server" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Known to" doc:"The server that knows it."`
	RecognisedAs string        `json:"recognisedAs,omitzero" maxLength:"120" title:"Recognised as" doc:"The type that the server takes it for; unknown if it is taken for none."`
	Offered      []ContentKind `json:"offered,omitzero" gorm:"serializer:cell" title:"Offered" doc:"The kinds of content that the server offers it; none means all."`
	Admission    Admission     `json:"admission,omitzero" title:"Admission" doc:"Whether the server lets it in."`
	Days         []Weekday     `json:"days,omitzero" gorm:"serializer:cell" part:"Hours" title:"Days" doc:"The days on which it is let in; none means every day."`
	From         Clock         `json:"from,omitzero" gorm:"serializer:cell" title:"From" doc:"Let in from this time of day; empty for always."`
	Until        Clock         `json:"until,omitzero" gorm:"serializer:cell" title:"Until" doc:"Let in until this time of day."`
	Note         string        `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Where it is set, and why."`
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

// Setting is one named value set on a device or in a program.
type Setting struct {
	Meta[Setting]
	Subject     Ref       `json:"subject" label:"true" rule:"fixed" kinds:"device software" onremove:"cascade" gorm:"serializer:cell" title:"Set on" doc:"The device or the program on which it is set."`
	Name        string    `json:"name" label:"true" minLength:"1" maxLength:"120" title:"Setting" doc:"Its name, as the menu shows it."`
	Menu        string    `json:"menu,omitzero" maxLength:"200" title:"Menu" doc:"Where in the menus it is found."`
	Value       string    `json:"value,omitzero" maxLength:"200" title:"Value" doc:"The value that is set now."`
	MustBe      string    `json:"mustBe,omitzero" maxLength:"200" title:"Must be" doc:"The value that it must have for this home."`
	Why         string    `json:"why,omitzero" maxLength:"400" title:"Reason" doc:"Why it must have that value."`
	ConfirmedAt time.Time `json:"confirmedAt,omitzero" gorm:"serializer:cell" title:"Last confirmed" doc:"When somebody last looked and found this value set."`
}

// Source is one way a server gives media.
type Source struct {
	Meta[Source]
	Device           ID[Device]    `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Server" doc:"The device that serves it."`
	Name             string        `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"80" title:"Name" doc:"What colleagues call this source."`
	Interface        ID[Interface] `json:"interface,omitzero" onremove:"restrict" gorm:"serializer:cell" title:"Bound to" doc:"The adapter it listens on; empty for all."`
	Protocol         Protocol      `json:"protocol" title:"Protocol" doc:"The protocol it uses."`
	Port             int           `json:"port,omitzero" minimum:"0" maximum:"65535" title:"Port" doc:"The port it listens on."`
	Locator          string        `json:"locator,omitzero" maxLength:"400" title:"Locator" doc:"The part of its address after the port."`
	ShownName        string        `json:"shownName,omitzero" maxLength:"120" title:"Announced name" doc:"The name it shows on the network."`
	UDN              string        `json:"udn,omitzero" maxLength:"120" title:"UPnP identifier (UDN)" doc:"Unique device name of a UPnP device, as announced."`
	Language         string        `json:"language,omitzero" maxLength:"35" pattern:"^([A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*)?$" patternDescription:"a language tag such as fi or pt-BR" title:"Language of titles" doc:"The language in which it names titles (BCP 47)."`
	Region           string        `json:"region,omitzero" maxLength:"2" pattern:"^([A-Z]{2})?$" patternDescription:"the two capital letters of a country, such as FI" title:"Region" doc:"The country whose titles, channels or ratings it gives (ISO 3166-1)."`
	Guide            string        `json:"guide,omitzero" maxLength:"400" title:"Programme guide" doc:"For a list of channels: where its guide (XMLTV) is."`
	KeptAt           string        `json:"keptAt,omitzero" maxLength:"400" title:"Kept at" doc:"For a list of streams or a feed: whose page or service it is kept at."`
	EndsOn           Date          `json:"endsOn,omitzero" gorm:"serializer:cell" title:"Ends on" doc:"Last day of its trial or of the source itself; empty if none is known."`
	Account          ID[Account]   `json:"account,omitzero" onremove:"restrict" gorm:"serializer:cell" part:"Opening it" title:"Account" doc:"The account that opens it; empty if it needs none."`
	Writable         Answer        `json:"writable,omitzero" title:"Writable" doc:"Whether the account that can read can also write."`
	Newcomers        Admission     `json:"newcomers,omitzero" title:"Devices new to it" doc:"What it does with a device that it has not seen before."`
	Seats            int           `json:"seats,omitzero" minimum:"0" maximum:"9999" title:"Users at once" doc:"How many can use it at the same time; 0 for no limit."`
	Multicast        Answer        `json:"multicast,omitzero" title:"Sends by multicast" doc:"Whether it sends each channel once for all who watch it, to a multicast group, instead of to each device."`
	Converts         Conversion    `json:"converts,omitzero" part:"Conversion" title:"Converts" doc:"What it can convert for a device."`
	BudgetMpx        float64       `json:"budgetMpx,omitzero" minimum:"0" title:"Conversion power (Mpx/s)" doc:"Pixels it can decode and encode per second, in millions. One 1080p30 picture stream is 62.2."`
	RateCapMbps      float64       `json:"rateCapMbps,omitzero" minimum:"0" title:"Rate limit (Mb/s)" doc:"Limit set on the server, in Mb/s; empty for none."`
	OutsidePort      int           `json:"outsidePort,omitzero" minimum:"0" maximum:"65535" part:"From outside" title:"Outside port" doc:"The port at which it can be reached from outside; empty if it cannot."`
	OutsideBy        WayIn         `json:"outsideBy,omitzero" title:"Reached by" doc:"How it can be reached from outside."`
	OutsidePassword  Answer        `json:"outsidePassword,omitzero" title:"Asks for a password" doc:"Whether callers from outside need a password."`
	OutsideEncrypted Answer        `json:"outsideEncrypted,omitzero" title:"Encrypted" doc:"Whether traffic to the outside is encrypted."`
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

// Folder is one media folder of one content kind.
type Folder struct {
	Meta[Folder]
	Source       ID[Source]    `json:"source" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Source" doc:"The source that shows it."`
	Name         string        `json:"name" label:"true" unique:"source" minLength:"1" maxLength:"120" title:"Name" doc:"Name, as the source shows it."`
	ContentKind  ContentKind   `json:"contentKind" title:"Content" doc:"The kind of content it contains."`
	AlsoHolds    []ContentKind `json:"alsoHolds,omitzero" gorm:"serializer:cell" title:"Also contains" doc:"Other content mixed in, which is easily taken for something else."`
	ItemsOnDisk  int           `json:"itemsOnDisk,omitzero" minimum:"0" title:"Items on disk" doc:"How many items are in it."`
	ItemsInIndex int           `json:"itemsInIndex,omitzero" minimum:"0" title:"Items in index" doc:"How many items the source lists."`
	LiesOn       ID[Device]    `json:"liesOn,omitzero" onremove:"clear" gorm:"serializer:cell" part:"Where the files are" title:"Files are on" doc:"The machine with the files, if it is not the server. Its sleep and its link are then part of every path."`
	Locations    []Location    `json:"locations,omitzero" gorm:"serializer:cell" title:"Locations" doc:"The same place, as each user writes it."`
	ReadableBy   []string      `json:"readableBy,omitzero" gorm:"serializer:cell" title:"Readable by" doc:"Accounts that can read it."`
	WritableBy   []string      `json:"writableBy,omitzero" gorm:"serializer:cell" title:"Writable by" doc:"Accounts that can write to it."`
	WrittenTo    Answer        `json:"writtenTo,omitzero" title:"Needs to be writable" doc:"Whether something needs to write here: recordings, converted copies, artwork."`
	IndexedAt    time.Time     `json:"indexedAt,omitzero" gorm:"serializer:cell" part:"Index" title:"Last indexed" doc:"When the server last indexed it."`
	IndexMinutes int           `json:"indexMinutes,omitzero" minimum:"0" title:"Indexing time (minutes)" doc:"How long that took, in minutes."`
	Missing      []string      `json:"missing,omitzero" gorm:"serializer:cell" title:"Missing or misidentified" doc:"Titles that are missing from the index or were taken for something else."`
	Mix          []FormatEntry `json:"mix,omitzero" gorm:"serializer:cell" title:"Format mix" doc:"The formats of its files, one entry for each format."`
}

// ConvertedCopy is something that is converted ahead of time, by the customer's own means: Kaiku only keeps the list.
type ConvertedCopy struct {
	Meta[ConvertedCopy]
	Folder          ID[Folder]   `json:"folder" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Folder" doc:"The folder that has the original."`
	Title           string       `json:"title" label:"true" minLength:"1" maxLength:"300" title:"What" doc:"The title or file, or all titles of one form."`
	Items           int          `json:"items,omitzero" minimum:"0" title:"Items" doc:"How many items that is."`
	For             []ID[Device] `json:"for,omitzero" onremove:"clear" gorm:"serializer:cell" title:"For" doc:"The devices that cannot play the original."`
	From            string       `json:"from,omitzero" maxLength:"200" title:"Form now" doc:"The form of the original."`
	Into            string       `json:"into" minLength:"1" maxLength:"200" title:"Form of the copy" doc:"The form into which it is converted."`
	State           CopyState    `json:"state" title:"State" doc:"How far it is."`
	To              string       `json:"to,omitzero" maxLength:"400" part:"The copy" title:"Where the copy goes" doc:"Where the copy is put. In the folder itself, the server will list both."`
	GigabytesBefore float64      `json:"gigabytesBefore,omitzero" minimum:"0" title:"Size before (GB)" doc:"Size of the originals in GB (10^9 bytes)."`
	GigabytesAfter  float64      `json:"gigabytesAfter,omitzero" minimum:"0" title:"Size after (GB)" doc:"Size of the copies in GB (10^9 bytes); an estimate until it is done."`
	DoneOn          Date         `json:"doneOn,omitzero" gorm:"serializer:cell" title:"Done on" doc:"The day on which it was done."`
	Note            string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Who converts it and with what, what to mind."`
}

// CopyState is how far a converted copy is.
type CopyState string

// States of copies.
const (
	CopyWanted CopyState = "wanted"
	CopyQueued CopyState = "queued"
	CopyDone   CopyState = "done"
)

// Values lists the states.
func (CopyState) Values() []string { return words(CopyWanted, CopyQueued, CopyDone) }

// Location is a place of files in one form.
type Location struct {
	Form Form   `json:"form" title:"Form" doc:"Who writes it in this way."`
	Text string `json:"text" minLength:"1" title:"Location" doc:"The place, in that form."`
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

// Decoding is what a device can decode.
type Decoding struct {
	Meta[Decoding]
	Device   ID[Device]      `json:"device" label:"true" rule:"fixed" unique:"household" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device."`
	Entries  []DecodingEntry `json:"entries,omitzero" gorm:"serializer:cell" title:"Entries" doc:"One entry for each format that it can or cannot decode."`
	Complete []FormatPart    `json:"complete,omitzero" gorm:"serializer:cell" title:"Complete for" doc:"The parts of which every format that it decodes is listed: what is missing there, it cannot decode."`
	Note     string          `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Settings that it depends on."`
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

// ChainLink is one cable of a display chain: player to receiver or sound bar, that one to the
// screen. What a device decodes is worth only what its chain lets through.
type ChainLink struct {
	Meta[ChainLink]
	From           ID[Device]  `json:"from" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"From" doc:"The device that sends picture or sound."`
	To             ID[Device]  `json:"to" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"To" doc:"The next device in the chain."`
	Input          string      `json:"input,omitzero" maxLength:"80" title:"Input" doc:"The input used, as the device names it."`
	BestMode       string      `json:"bestMode,omitzero" maxLength:"120" title:"Best mode" doc:"The best mode that both ends and the cable support: size, rate, bit depth, dynamic range."`
	CopyProtection string      `json:"copyProtection,omitzero" maxLength:"80" title:"Copy protection" doc:"The version that both ends support. Content that needs a newer one shows no picture."`
	SoundReturn    SoundReturn `json:"soundReturn,omitzero" title:"Sound return" doc:"How sound comes back from the screen. A plain return channel carries stereo PCM or lossy 5.1."`
	Note           string      `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Cable, length, what was tried."`
}

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

// Opening is a firewall opening on a host.
type Opening struct {
	Meta[Opening]
	Device       ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Host" doc:"The host whose firewall it is in."`
	Transport    Transport    `json:"transport" label:"true" title:"Transport" doc:"Transport protocol."`
	Port         int          `json:"port" label:"true" minimum:"1" maximum:"65535" title:"Port" doc:"Port, or the first port of a range."`
	LastPort     int          `json:"lastPort,omitzero" minimum:"0" maximum:"65535" title:"Last port" doc:"Last port of a range."`
	Direction    Direction    `json:"direction" title:"Direction" doc:"Incoming or outgoing."`
	NetworkClass NetworkClass `json:"networkClass,omitzero" title:"Network class" doc:"The class of network for which the host opens it."`
	State        OpeningState `json:"state" title:"State" doc:"Whether it is open."`
	Temporary    Answer       `json:"temporary,omitzero" title:"Only for the work" doc:"Whether it was opened only for the work and is to be closed before leaving."`
	For          string       `json:"for,omitzero" maxLength:"200" title:"For" doc:"What needs it."`
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
