package dossier

import (
	"net/netip"
	"time"
)

// Device is anything with a role in the home's media.
type Device struct {
	Meta[Device]
	Name         string        `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"What this device is called in this home."`
	Room         ID[Room]      `json:"room,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Room" doc:"Where it stands."`
	Roles        []Role        `json:"roles,omitzero" gorm:"serializer:cell" title:"Roles" doc:"What it does."`
	Make         string        `json:"make,omitzero" maxLength:"80" title:"Make" doc:"Maker."`
	Model        string        `json:"model,omitzero" maxLength:"80" title:"Model" doc:"Model as on its label."`
	Variant      string        `json:"variant,omitzero" maxLength:"80" title:"Variant" doc:"Hardware variant; weak variants are a known cause of trouble."`
	Firmware     string        `json:"firmware,omitzero" maxLength:"80" title:"Firmware" doc:"Version it runs now."`
	Serial       string        `json:"serial,omitzero" maxLength:"80" title:"Serial number" doc:"Serial number as on its label."`
	Handling     string        `json:"handling,omitzero" maxLength:"400" title:"Hands off" doc:"Why it must not be touched, such as the provider's own box."`
	Carried      bool          `json:"carried,omitzero" title:"Carried about" doc:"Carried about rather than standing in one place."`
	Menus        string        `json:"menus,omitzero" maxLength:"400" title:"Reaching its menus" doc:"How its menus are reached, for colleagues and the customer."`
	PowerSupply  string        `json:"powerSupply,omitzero" maxLength:"120" part:"Hardware" title:"Power supply" doc:"What feeds it: own supply and its rating, a screen's socket, the network cable."`
	SupplyWatts  float64       `json:"supplyWatts,omitzero" minimum:"0" title:"Supply gives (W)" doc:"What its supply can give, in watts."`
	NeedsWatts   float64       `json:"needsWatts,omitzero" minimum:"0" title:"Needs (W)" doc:"What it needs at most by its label or data sheet, in watts."`
	Cooling      string        `json:"cooling,omitzero" maxLength:"120" title:"Cooling" doc:"Fan, case, where the heat goes."`
	Medium       string        `json:"medium,omitzero" maxLength:"120" title:"Storage medium" doc:"What its system and its files lie on."`
	Remote       string        `json:"remote,omitzero" maxLength:"120" title:"Remote or keyboard" doc:"What it is worked with."`
	Standby      Answer        `json:"standby,omitzero" part:"Sleep and wake" title:"Sleeps" doc:"Whether it goes to sleep by itself."`
	Wake         Wake          `json:"wake,omitzero" title:"Woken by" doc:"What wakes it."`
	WakeProven   Answer        `json:"wakeProven,omitzero" title:"Wakes" doc:"Whether that was seen to work."`
	SendsWake    Answer        `json:"sendsWake,omitzero" title:"Wakes servers" doc:"Whether it can itself send the packet that wakes a sleeping server."`
	RecognisedAs string        `json:"recognisedAs,omitzero" maxLength:"120" part:"As the server sees it" title:"Recognised as" doc:"The kind the server takes it for; unknown if it is taken for none."`
	OfferedKinds []ContentKind `json:"offeredKinds,omitzero" gorm:"serializer:cell" title:"Offered" doc:"Content it should be offered; none means everything."`
	Admission    Admission     `json:"admission,omitzero" title:"Admission" doc:"Whether the server lets it in."`
	NetworkClass NetworkClass  `json:"networkClass,omitzero" part:"On the network" title:"Network class" doc:"How the host classes the network it is on; a public one keeps its openings shut."`
	UDN          string        `json:"udn,omitzero" maxLength:"120" title:"UDN" doc:"Unique device name of a screen or player, as it announces itself by UPnP; that of a server stands with its source."`
	HostName     string        `json:"hostName,omitzero" maxLength:"120" title:"Host name" doc:"The name by which name servers or mDNS know it."`
	Announces    string        `json:"announces,omitzero" maxLength:"200" title:"Announces itself as" doc:"What it says that it is in its announcements and requests: the SERVER and USER-AGENT lines of UPnP. Servers recognise it by that."`
	MapsPorts    Answer        `json:"mapsPorts,omitzero" title:"Opens ports by itself" doc:"Of a router: whether it opens ports when a device asks (IGD, PCP, NAT-PMP)."`
	RateCapMbps  float64       `json:"rateCapMbps,omitzero" minimum:"0" title:"Rate cap (Mb/s)" doc:"Limit set at the device, in Mb/s; empty for none."`
}

// Interface is one network adapter of a device.
type Interface struct {
	Meta[Interface]
	Device          ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device it belongs to."`
	Name            string       `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"40" title:"Name" doc:"Name of the adapter, such as eth0 or wired."`
	HardwareAddress HardwareAddr `json:"hardwareAddress,omitzero" gorm:"serializer:cell" title:"Hardware address" doc:"EUI-48 in any common spelling."`
	Addresses       []netip.Addr `json:"addresses,omitzero" gorm:"serializer:cell" title:"Addresses" doc:"Its IP addresses."`
	Segment         ID[Segment]  `json:"segment,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Segment" doc:"The segment it is in."`
	AddressBy       AddressBy    `json:"addressBy,omitzero" title:"Address by" doc:"How it comes by its addresses."`
	Randomised      Answer       `json:"randomised,omitzero" title:"Random hardware address" doc:"Whether the device is set to show a changing hardware address. It breaks reservations."`
	Medium          Medium       `json:"medium,omitzero" part:"Port" title:"Medium" doc:"Cable or radio."`
	PortMbps        float64      `json:"portMbps,omitzero" minimum:"0" title:"Port rate (Mb/s)" doc:"Highest rate of the port, in Mb/s. Many screens have 100."`
	Facing          Facing       `json:"facing,omitzero" title:"Faces" doc:"Of a router: which way this port faces."`
	SSID            string       `json:"ssid,omitzero" gorm:"column:ssid" maxLength:"32" part:"Radio" title:"SSID" doc:"Of an access point: the radio network this radio carries."`
	Band            Band         `json:"band,omitzero" title:"Band" doc:"Of an access point: the band of this radio."`
	Channel         int          `json:"channel,omitzero" minimum:"0" maximum:"233" title:"Channel" doc:"Of an access point: the channel of this radio."`
}

// Secret is a credential that is kept sealed outside the dossier. Here are only what it is for
// and where its sealed body lies; every showing is in the journal.
type Secret struct {
	Meta[Secret]
	Name     string     `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What it opens, such as door code or share password."`
	Kind     SecretKind `json:"kind" title:"Kind" doc:"What sort of credential it is."`
	Device   ID[Device] `json:"device,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Device" doc:"The device it belongs to."`
	Note     string     `json:"note,omitzero" maxLength:"400" title:"Note" doc:"Where it is used. Never the credential itself."`
	SealedAs string     `json:"sealedAs" searched:"no" rule:"case" maxLength:"60" title:"Sealed as" doc:"Where its sealed body lies."`
	SealedAt time.Time  `json:"sealedAt" rule:"case" gorm:"serializer:cell" title:"Sealed at" doc:"When it was last changed."`
	ShownAt  time.Time  `json:"shownAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Last shown" doc:"When somebody last looked at it."`
	ShownTo  PersonID   `json:"shownTo,omitzero" rule:"case" gorm:"serializer:cell" title:"Shown to" doc:"Who looked at it last."`
}

// Account is an account that something in the home is signed in with.
type Account struct {
	Meta[Account]
	Name     string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What colleagues call it."`
	Login    string       `json:"login,omitzero" personal:"true" maxLength:"120" title:"Log-in name" doc:"The name it is signed in with."`
	Secret   ID[Secret]   `json:"secret,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Secret" doc:"Its password or code, sealed."`
	SignedIn []ID[Device] `json:"signedIn,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Signed in at" doc:"Devices that are signed in with it."`
	Seats    int          `json:"seats,omitzero" minimum:"0" maximum:"9999" title:"Machines allowed" doc:"How many machines it allows; 0 if not limited."`
	Note     string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Whose it is, where it was made."`
}

// Software is a program on a device that matters for the media.
type Software struct {
	Meta[Software]
	Device      ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The machine it runs on."`
	Name        string       `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"120" title:"Name" doc:"What it is called."`
	Does        SoftwareKind `json:"does" title:"Does" doc:"What it is there for."`
	Version     string       `json:"version,omitzero" maxLength:"80" part:"Versions" title:"Installed" doc:"The version that runs."`
	NewestHere  string       `json:"newestHere,omitzero" maxLength:"80" title:"Newest offered here" doc:"The newest version the machine's own package source offers."`
	NewestKnown string       `json:"newestKnown,omitzero" maxLength:"80" title:"Newest at all" doc:"The newest version there is."`
	GivenUp     bool         `json:"givenUp,omitzero" title:"Given up" doc:"Its maker no longer looks after it."`
	Licence     Licence      `json:"licence,omitzero" part:"Licence" title:"Licence" doc:"On what terms it runs."`
	EndsOn      Date         `json:"endsOn,omitzero" gorm:"serializer:cell" title:"Ends on" doc:"Last day of the trial or licence."`
	Seats       int          `json:"seats,omitzero" minimum:"0" maximum:"9999" title:"Machines allowed" doc:"How many machines the licence allows; 0 if not limited."`
	Starts      Start        `json:"starts,omitzero" part:"Running" title:"Starts" doc:"When it starts. At log-in only, nothing serves after a power cut."`
	RunsAs      string       `json:"runsAs,omitzero" maxLength:"80" title:"Runs as" doc:"The account it runs under, whose rights decide which folders it reads."`
	NetworkMove string       `json:"networkMove,omitzero" maxLength:"400" title:"When the network changes" doc:"What it does when the network changes under it."`
}

// Source is one way a server gives media.
type Source struct {
	Meta[Source]
	Device           ID[Device]    `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Server" doc:"The device that serves it."`
	Name             string        `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"80" title:"Name" doc:"What colleagues call this source."`
	Interface        ID[Interface] `json:"interface,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Bound to" doc:"The adapter it listens on; empty for any."`
	Protocol         Protocol      `json:"protocol" title:"Protocol" doc:"What it speaks."`
	Port             int           `json:"port,omitzero" minimum:"0" maximum:"65535" title:"Port" doc:"Port it listens on."`
	Locator          string        `json:"locator,omitzero" maxLength:"400" title:"Locator" doc:"The part of its address after the port."`
	ShownName        string        `json:"shownName,omitzero" maxLength:"120" title:"Shown name" doc:"The name it shows on the network."`
	UDN              string        `json:"udn,omitzero" maxLength:"120" title:"UDN" doc:"Unique device name of a UPnP device, as announced."`
	Guide            string        `json:"guide,omitzero" maxLength:"400" title:"Guide" doc:"Of a list of channels: where its guide (XMLTV) lies."`
	Account          ID[Account]   `json:"account,omitzero" onremove:"clear" gorm:"serializer:cell" part:"Opening it" title:"Account" doc:"The account it is opened with; empty if it asks for none."`
	Writable         Answer        `json:"writable,omitzero" title:"Can be written" doc:"Whether whoever may read may also write."`
	Seats            int           `json:"seats,omitzero" minimum:"0" maximum:"9999" title:"Users at once" doc:"How many may use it at the same time; 0 if not limited."`
	Converts         Conversion    `json:"converts,omitzero" part:"Conversion" title:"Converts" doc:"What it can convert for a device."`
	BudgetMpx        float64       `json:"budgetMpx,omitzero" minimum:"0" title:"Budget (Mpx/s)" doc:"Pixels it decodes and encodes per second, in millions. One 1080p30 picture is 62.2."`
	RateCapMbps      float64       `json:"rateCapMbps,omitzero" minimum:"0" title:"Rate cap (Mb/s)" doc:"Limit set at the server, in Mb/s; empty for none."`
	OutsidePort      int           `json:"outsidePort,omitzero" minimum:"0" maximum:"65535" part:"From outside" title:"Outside port" doc:"Port at which it is reached from outside; empty if it is not."`
	OutsideBy        WayIn         `json:"outsideBy,omitzero" title:"Reached by" doc:"How it is reached from outside."`
	OutsidePassword  Answer        `json:"outsidePassword,omitzero" title:"Asks for a password" doc:"Whether it asks callers from outside for a password."`
	OutsideEncrypted Answer        `json:"outsideEncrypted,omitzero" title:"Encrypted" doc:"Whether what goes outside is encrypted."`
}

// Folder is one media folder of one content kind.
type Folder struct {
	Meta[Folder]
	Source       ID[Source]    `json:"source" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Source" doc:"The source that shows it."`
	Name         string        `json:"name" label:"true" unique:"source" minLength:"1" maxLength:"120" title:"Name" doc:"Name as the source shows it."`
	ContentKind  ContentKind   `json:"contentKind" title:"Content" doc:"The one kind of content it holds."`
	AlsoHolds    []ContentKind `json:"alsoHolds,omitzero" gorm:"serializer:cell" title:"Holds besides" doc:"Other content that lies among it and is easily taken for something else."`
	ItemsOnDisk  int           `json:"itemsOnDisk,omitzero" minimum:"0" title:"Items on disk" doc:"How many items lie in it."`
	ItemsInIndex int           `json:"itemsInIndex,omitzero" minimum:"0" title:"Items in index" doc:"How many items the source lists."`
	LiesOn       ID[Device]    `json:"liesOn,omitzero" onremove:"clear" gorm:"serializer:cell" part:"Where the files are" title:"Files lie on" doc:"The machine the files are on, if it is not the server: its sleep and its link are then part of every path."`
	Locations    []Location    `json:"locations,omitzero" gorm:"serializer:cell" title:"Locations" doc:"The same place, as each kind of user writes it."`
	ReadableBy   []string      `json:"readableBy,omitzero" gorm:"serializer:cell" title:"Readable by" doc:"Accounts that may read."`
	WritableBy   []string      `json:"writableBy,omitzero" gorm:"serializer:cell" title:"Writable by" doc:"Accounts that may write."`
	WrittenTo    Answer        `json:"writtenTo,omitzero" title:"Must be written" doc:"Whether something must write here: recordings, converted copies, artwork."`
	IndexedAt    time.Time     `json:"indexedAt,omitzero" gorm:"serializer:cell" part:"Index" title:"Last indexed" doc:"When the server last read it."`
	IndexMinutes int           `json:"indexMinutes,omitzero" minimum:"0" title:"Indexing took (minutes)" doc:"How long that took, in minutes."`
	Missing      []string      `json:"missing,omitzero" gorm:"serializer:cell" title:"Missing or mistaken" doc:"Titles that are missing in the index or were taken for something else."`
	Mix          []FormatEntry `json:"mix,omitzero" gorm:"serializer:cell" title:"Format mix" doc:"What its files are made of, one entry for files alike."`
}

// Location is a place of files in one form.
type Location struct {
	Form Form   `json:"form" title:"Form" doc:"Who writes it so."`
	Text string `json:"text" minLength:"1" title:"Location" doc:"The place, in that form."`
}

// FormatEntry is one row of a folder's format mix.
type FormatEntry struct {
	Container   string  `json:"container" title:"Container" doc:"Container, such as mp4 or mkv."`
	Video       string  `json:"video,omitzero" title:"Video" doc:"Video codec with profile, such as hevc main10."`
	Width       int     `json:"width,omitzero" minimum:"0" title:"Width (px)" doc:"Width of the picture in pixels."`
	Height      int     `json:"height,omitzero" minimum:"0" title:"Height (px)" doc:"Height of the picture in pixels."`
	FrameRate   float64 `json:"frameRate,omitzero" minimum:"0" title:"Frames per second" doc:"Frames per second."`
	Sound       string  `json:"sound,omitzero" title:"Sound" doc:"Sound codec and channels, such as ac3 5.1."`
	Subtitles   string  `json:"subtitles,omitzero" title:"Subtitles" doc:"Kind and place of subtitles, such as image inside."`
	Items       int     `json:"items,omitzero" minimum:"0" title:"Items" doc:"How many items are so."`
	Hours       float64 `json:"hours,omitzero" minimum:"0" title:"Hours" doc:"How many hours they last together."`
	AverageMbps float64 `json:"averageMbps,omitzero" minimum:"0" title:"Average (Mb/s)" doc:"Average bit rate in Mb/s."`
	PeakMbps    float64 `json:"peakMbps,omitzero" minimum:"0" title:"Peak (Mb/s)" doc:"Highest bit rate over 30 s, in Mb/s."`
}

// Decoding is what a device can decode.
type Decoding struct {
	Meta[Decoding]
	Device  ID[Device]      `json:"device" label:"true" rule:"fixed" unique:"household" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device."`
	Entries []DecodingEntry `json:"entries,omitzero" gorm:"serializer:cell" title:"Entries" doc:"One entry for each thing it can or cannot decode."`
	Note    string          `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Settings it depends on."`
}

// DecodingEntry is one row of a decoding profile.
type DecodingEntry struct {
	Part     FormatPart `json:"part" title:"Part" doc:"What part of a file it is about."`
	Format   string     `json:"format" minLength:"1" title:"Format" doc:"Container, codec or kind, such as hevc main10."`
	Able     Answer     `json:"able" title:"Decodes" doc:"Whether the device can."`
	Limits   string     `json:"limits,omitzero" title:"Limits" doc:"Up to which size, rate, level or channels."`
	Evidence Evidence   `json:"evidence" title:"Known by" doc:"How it is known."`
}

// ChainLink is one cable of a display chain: player to receiver or sound bar, that one to the
// screen. What a device decodes is worth only what its chain lets through.
type ChainLink struct {
	Meta[ChainLink]
	From           ID[Device]  `json:"from" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"From" doc:"The device whose picture or sound goes on."`
	To             ID[Device]  `json:"to" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"To" doc:"The next device, nearer to eye and ear."`
	Input          string      `json:"input,omitzero" maxLength:"80" title:"Input" doc:"The input it comes in at, as the device names it."`
	BestMode       string      `json:"bestMode,omitzero" maxLength:"120" title:"Best mode" doc:"The highest mode that both ends and the cable agree on: size, rate, bit depth, dynamic range."`
	CopyProtection string      `json:"copyProtection,omitzero" maxLength:"80" title:"Copy protection" doc:"The version both ends agree on; what needs a newer one stays dark."`
	SoundReturn    SoundReturn `json:"soundReturn,omitzero" title:"Sound return" doc:"How sound comes back from the screen. A plain return channel carries stereo PCM or lossy 5.1."`
	Note           string      `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Cable, length, what was tried."`
}

// Opening is a firewall opening on a host.
type Opening struct {
	Meta[Opening]
	Device       ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Host" doc:"The host whose firewall it is in."`
	Transport    Transport    `json:"transport" label:"true" title:"Transport" doc:"Transport protocol."`
	Port         int          `json:"port" label:"true" minimum:"1" maximum:"65535" title:"Port" doc:"Port, or first port."`
	LastPort     int          `json:"lastPort,omitzero" minimum:"0" maximum:"65535" title:"Last port" doc:"Last port of a range."`
	Direction    Direction    `json:"direction" title:"Direction" doc:"Into the host or out of it."`
	NetworkClass NetworkClass `json:"networkClass,omitzero" title:"Network class" doc:"For which class of network the host opens it."`
	State        OpeningState `json:"state" title:"State" doc:"Whether it is open."`
	Temporary    Answer       `json:"temporary,omitzero" title:"For the work only" doc:"Whether it was opened for the work only, to be shut before leaving."`
	For          string       `json:"for,omitzero" maxLength:"200" title:"For" doc:"What needs it."`
}
