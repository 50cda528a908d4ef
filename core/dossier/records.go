package dossier

import (
	"net/netip"
	"time"
)

// Household is the customer's home itself: the one record every dossier has.
type Household struct {
	Meta[Household]
	Code        string    `json:"code" rule:"fixed" pattern:"^H-[0-9]{4,6}$" title:"Code" doc:"The firm's code for this home, such as H-0042."`
	Name        string    `json:"name" label:"true" minLength:"1" maxLength:"120" title:"Name" doc:"What colleagues call this home."`
	Address     string    `json:"address,omitzero" personal:"true" maxLength:"400" title:"Address" doc:"Where it is, as on an envelope."`
	Contacts    []Contact `json:"contacts,omitzero" personal:"true" gorm:"serializer:cell" title:"Contacts" doc:"Who to speak to."`
	AccessNotes string    `json:"accessNotes,omitzero" personal:"true" maxLength:"2000" title:"Getting in" doc:"Key, alarm, dog, parking, who must be home. No door codes."`
	Custodian   PersonID  `json:"custodian" rule:"case" gorm:"serializer:cell" title:"Custodian" doc:"The technician answerable for this home now."`
}

// Contact is one person to speak to in a household.
type Contact struct {
	Name  string `json:"name" minLength:"1" title:"Name" doc:"Name of the person."`
	Phone string `json:"phone,omitzero" title:"Telephone" doc:"Telephone number."`
	Email string `json:"email,omitzero" title:"E-mail" doc:"E-mail address."`
	Note  string `json:"note,omitzero" title:"Note" doc:"When to call, what they look after."`
}

// Room is a place in the home on a floor.
type Room struct {
	Meta[Room]
	Name  string `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"Name of the room, as the household says it."`
	Floor int    `json:"floor,omitzero" minimum:"-5" maximum:"60" title:"Floor" doc:"0 is the ground floor, -1 the cellar."`
	Order int    `json:"order,omitzero" minimum:"0" maximum:"999" title:"Walking order" doc:"Place in the walk through this floor, counted from the stairs."`
	Note  string `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"What a colleague should know of this room."`
}

// Segment is one IP subnet: what multicast reaches.
type Segment struct {
	Meta[Segment]
	Name      string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"Name of the segment, such as home or guest."`
	Prefix    netip.Prefix `json:"prefix" gorm:"serializer:cell" title:"Prefix" doc:"Address range in prefix form, such as 10.20.4.0/24."`
	VLAN      int          `json:"vlan,omitzero" minimum:"0" maximum:"4094" title:"VLAN" doc:"VLAN number, 0 for untagged."`
	SSID      string       `json:"ssid,omitzero" gorm:"column:ssid" maxLength:"32" title:"SSID" doc:"Name of its radio network, if it has one."`
	Gateway   netip.Addr   `json:"gateway,omitzero" gorm:"serializer:cell" title:"Gateway" doc:"Address of the gateway."`
	PoolFirst netip.Addr   `json:"poolFirst,omitzero" gorm:"serializer:cell" title:"Lease pool from" doc:"First address of the lease pool."`
	PoolLast  netip.Addr   `json:"poolLast,omitzero" gorm:"serializer:cell" title:"Lease pool to" doc:"Last address of the lease pool."`
	Isolation Isolation    `json:"isolation,omitzero" title:"Isolation" doc:"What this segment keeps apart."`
}

// Device is anything with a role in the home's media.
type Device struct {
	Meta[Device]
	Name     string   `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"What this device is called in this home."`
	Room     ID[Room] `json:"room,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Room" doc:"Where it stands."`
	Roles    []Role   `json:"roles,omitzero" gorm:"serializer:cell" title:"Roles" doc:"What it does."`
	Make     string   `json:"make,omitzero" maxLength:"80" title:"Make" doc:"Maker."`
	Model    string   `json:"model,omitzero" maxLength:"80" title:"Model" doc:"Model as on its label."`
	Variant  string   `json:"variant,omitzero" maxLength:"80" title:"Variant" doc:"Hardware variant; weak variants are a known cause of trouble."`
	Firmware string   `json:"firmware,omitzero" maxLength:"80" title:"Firmware" doc:"Version it runs now."`
	Serial   string   `json:"serial,omitzero" maxLength:"80" title:"Serial number" doc:"Serial number as on its label."`
	Carried  bool     `json:"carried,omitzero" title:"Carried about" doc:"Carried about rather than standing in one place."`
	Menus    string   `json:"menus,omitzero" maxLength:"400" title:"Reaching its menus" doc:"How its menus are reached, for colleagues and the customer."`
}

// Interface is one network adapter of a device.
type Interface struct {
	Meta[Interface]
	Device          ID[Device]   `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device it belongs to."`
	Name            string       `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"40" title:"Name" doc:"Name of the adapter, such as eth0 or wired."`
	HardwareAddress HardwareAddr `json:"hardwareAddress,omitzero" gorm:"serializer:cell" title:"Hardware address" doc:"EUI-48 in any common spelling."`
	Addresses       []netip.Addr `json:"addresses,omitzero" gorm:"serializer:cell" title:"Addresses" doc:"Its IP addresses."`
	Segment         ID[Segment]  `json:"segment,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Segment" doc:"The segment it is in."`
}

// Source is one way a server gives media.
type Source struct {
	Meta[Source]
	Device    ID[Device]    `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Server" doc:"The device that serves it."`
	Name      string        `json:"name" label:"true" unique:"device" minLength:"1" maxLength:"80" title:"Name" doc:"What colleagues call this source."`
	Interface ID[Interface] `json:"interface,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Bound to" doc:"The adapter it listens on; empty for any."`
	Protocol  Protocol      `json:"protocol" title:"Protocol" doc:"What it speaks."`
	Port      int           `json:"port,omitzero" minimum:"0" maximum:"65535" title:"Port" doc:"Port it listens on."`
	Locator   string        `json:"locator,omitzero" maxLength:"400" title:"Locator" doc:"The part of its address after the port."`
	ShownName string        `json:"shownName,omitzero" maxLength:"120" title:"Shown name" doc:"The name it shows on the network."`
	UDN       string        `json:"udn,omitzero" maxLength:"120" title:"UDN" doc:"Unique device name of a UPnP device, as announced."`
}

// Folder is one media folder of one content kind.
type Folder struct {
	Meta[Folder]
	Source       ID[Source]  `json:"source" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Source" doc:"The source that shows it."`
	Name         string      `json:"name" label:"true" unique:"source" minLength:"1" maxLength:"120" title:"Name" doc:"Name as the source shows it."`
	ContentKind  ContentKind `json:"contentKind" title:"Content" doc:"The one kind of content it holds."`
	ItemsOnDisk  int         `json:"itemsOnDisk,omitzero" minimum:"0" title:"Items on disk" doc:"How many items lie in it."`
	ItemsInIndex int         `json:"itemsInIndex,omitzero" minimum:"0" title:"Items in index" doc:"How many items the source lists."`
}

// End is one end of a path, as that end has it set.
type End struct {
	Address netip.Addr `json:"address,omitzero" title:"Address" doc:"Address of the server."`
	Port    int        `json:"port,omitzero" minimum:"0" maximum:"65535" title:"Port" doc:"Port of the source."`
	Name    string     `json:"name,omitzero" title:"Name" doc:"Name of the server."`
	Locator string     `json:"locator,omitzero" title:"Locator" doc:"The part after the port."`
}

// Path is how one device gets media from one source.
type Path struct {
	Meta[Path]
	Name      string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What colleagues call it, such as lamp room films."`
	Device    ID[Device]   `json:"device" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device on which media comes out."`
	Source    ID[Source]   `json:"source" onremove:"restrict" gorm:"serializer:cell" title:"Source" doc:"Where it comes from."`
	Folders   []ID[Folder] `json:"folders,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Folders" doc:"Folders it reaches; none means all of the source."`
	Kind      PathKind     `json:"kind" title:"Kind" doc:"How media travels."`
	FoundBy   FoundBy      `json:"foundBy" title:"Found by" doc:"How the device finds the server."`
	Mode      Mode         `json:"mode,omitzero" title:"Mode" doc:"Through the server or straight from the files."`
	ServerEnd End          `json:"serverEnd,omitzero" gorm:"serializer:cell" title:"Server's end" doc:"Address, port, name and locator as the server has them set."`
	DeviceEnd End          `json:"deviceEnd,omitzero" gorm:"serializer:cell" title:"Device's end" doc:"The same, as they were entered or are shown on the device."`
	FallBack  ID[Path]     `json:"fallBack,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Fall-back" doc:"The path to use when this one fails."`
	Retired   bool         `json:"retired,omitzero" title:"Retired" doc:"No longer used. It leaves the plan, its attempts stay."`
}

// Prerequisite is the tick behind something that must be true before paths can work. What
// belongs to a host is ticked once, at the host, for all its paths.
type Prerequisite struct {
	Meta[Prerequisite]
	Subject Ref       `json:"subject" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Where" doc:"The device, segment or path at which it must be true."`
	Side    Side      `json:"side" rule:"fixed" title:"Side" doc:"The side that meets it."`
	What    string    `json:"what" rule:"fixed" label:"true" pattern:"^[a-z-]+$" title:"What" doc:"Code of what must be true."`
	DoneBy  PersonID  `json:"doneBy,omitzero" rule:"case" gorm:"serializer:cell" title:"Done by" doc:"Who ticked it."`
	DoneAt  time.Time `json:"doneAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Done at" doc:"When it was ticked."`
	Refused int       `json:"refused,omitzero" rule:"case" title:"Refused" doc:"How often it was refused, such as a permission prompt answered no."`
	Why     string    `json:"why,omitzero" rule:"case" maxLength:"400" title:"Why" doc:"Why it was refused, or what was done."`
}

// Fact is one value of the dossier that a proof stands on.
type Fact struct {
	Subject Ref    `json:"subject" doc:"The record whose fact it is."`
	Name    string `json:"name" doc:"What is said of it, such as address."`
	Value   string `json:"value" doc:"The value; empty when it was not recorded."`
}

// Attempt is one carrying-out of a test. It is never changed and never removed.
type Attempt struct {
	Meta[Attempt]
	Test       string             `json:"test" rule:"case" label:"true" title:"Test" doc:"Kind of the test, such as reach."`
	Subjects   []Ref              `json:"subjects" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Subjects" doc:"What was tested, sorted."`
	Outcome    Outcome            `json:"outcome" rule:"case" title:"Outcome" doc:"What came of it."`
	Observed   string             `json:"observed,omitzero" rule:"case" title:"Observed" doc:"Code of what was seen, such as refused or time-out."`
	Values     map[string]float64 `json:"values,omitzero" rule:"case" gorm:"serializer:cell" title:"Values" doc:"Measured values; the name carries the unit, such as roundTripMs."`
	Conditions string             `json:"conditions,omitzero" rule:"case" maxLength:"400" title:"Conditions" doc:"Under which conditions, such as evening, door closed."`
	Note       string             `json:"note,omitzero" rule:"case" maxLength:"2000" title:"Note" doc:"What was seen, in words."`
	How        How                `json:"how" rule:"case" title:"Judged by" doc:"A machine or a person's eye."`
	By         PersonID           `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who carried it out."`
	At         time.Time          `json:"at" rule:"case" gorm:"serializer:cell" title:"At" doc:"When."`
	Facts      []Fact             `json:"facts,omitzero" rule:"case" gorm:"serializer:cell" title:"Facts" doc:"The fingerprint: what the result stands on."`
}

// Try is one thing done about an issue, with what it showed.
type Try struct {
	ID     string    `json:"id" doc:"Id of the try."`
	At     time.Time `json:"at" doc:"When."`
	By     PersonID  `json:"by" doc:"Who."`
	What   string    `json:"what" doc:"What was done."`
	Showed string    `json:"showed,omitzero" doc:"What it showed."`
}

// Issue is something open in the home.
type Issue struct {
	Meta[Issue]
	Symptom       string      `json:"symptom" label:"true" minLength:"1" maxLength:"400" title:"Symptom" doc:"What is wrong, as it shows."`
	Subjects      []Ref       `json:"subjects,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The records it is about."`
	Reporter      string      `json:"reporter,omitzero" personal:"true" maxLength:"120" title:"Said by" doc:"Who said so."`
	Since         time.Time   `json:"since,omitzero" gorm:"serializer:cell" title:"Since" doc:"Since when it shows."`
	State         IssueState  `json:"state" rule:"case" title:"State" doc:"Where it stands."`
	Owner         PersonID    `json:"owner,omitzero" rule:"case" gorm:"serializer:cell" title:"Owner" doc:"Who has it in hand."`
	NextStep      string      `json:"nextStep,omitzero" rule:"case" maxLength:"400" title:"Next step" doc:"What to do next."`
	WaitingOn     string      `json:"waitingOn,omitzero" rule:"case" maxLength:"120" title:"Waiting on" doc:"Whom or what it waits for."`
	PromisedUntil time.Time   `json:"promisedUntil,omitzero" rule:"case" gorm:"serializer:cell" title:"Promised until" doc:"What the customer was promised."`
	OpenedBy      PersonID    `json:"openedBy" rule:"case" gorm:"serializer:cell" title:"Opened by" doc:"Who opened it."`
	OpenedAt      time.Time   `json:"openedAt" rule:"case" gorm:"serializer:cell" title:"Opened at" doc:"When."`
	FailedAttempt ID[Attempt] `json:"failedAttempt,omitzero" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Opened from" doc:"The failed attempt it was opened from."`
	Tries         []Try       `json:"tries,omitzero" rule:"case" gorm:"serializer:cell" title:"Tries" doc:"What was done about it, in order."`
	Cause         string      `json:"cause,omitzero" rule:"case" maxLength:"400" title:"Cause" doc:"What it was."`
	Remedy        string      `json:"remedy,omitzero" rule:"case" maxLength:"400" title:"Remedy" doc:"What was done for good."`
	RemediedAt    time.Time   `json:"remediedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Remedied at" doc:"When."`
	Proof         ID[Attempt] `json:"proof,omitzero" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Proof" doc:"The passed attempt after the remedy."`
	ClosedAt      time.Time   `json:"closedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Closed at" doc:"When."`
	ClosedWhy     string      `json:"closedWhy,omitzero" rule:"case" maxLength:"400" title:"Closed because" doc:"The reason, where no test could prove it."`
}

// Point is one thing that the receiver of a handover reads back.
type Point struct {
	ID        string            `json:"id" doc:"Id of the point within its handover, such as p03."`
	Code      string            `json:"code" doc:"What is told, such as issue-open or test-stale."`
	Subject   Ref               `json:"subject,omitzero" doc:"The record it is about."`
	Values    map[string]string `json:"values,omitzero" doc:"The particulars."`
	Confirmed bool              `json:"confirmed,omitzero" doc:"Read back by the receiver."`
	Question  string            `json:"question,omitzero" doc:"What the receiver asks about it."`
	Answer    string            `json:"answer,omitzero" doc:"What the giver answers."`
}

// Handover is the transfer of custody from one technician to another. It is never removed.
type Handover struct {
	Meta[Handover]
	From          PersonID      `json:"from" rule:"case" gorm:"serializer:cell" title:"From" doc:"The giver, responsible until it is accepted."`
	To            PersonID      `json:"to" rule:"case" gorm:"serializer:cell" title:"To" doc:"The receiver."`
	State         HandoverState `json:"state" rule:"case" label:"true" title:"State" doc:"Where it stands."`
	SinceRevision uint64        `json:"sinceRevision,omitzero" rule:"case" title:"Since revision" doc:"The digest tells what changed after this revision."`
	UntilRevision uint64        `json:"untilRevision" rule:"case" title:"Until revision" doc:"The digest tells what changed up to this revision."`
	Note          string        `json:"note,omitzero" rule:"case" maxLength:"2000" title:"Note" doc:"What not to touch and why, what to bring, what was promised."`
	Points        []Point       `json:"points,omitzero" rule:"case" gorm:"serializer:cell" title:"Points" doc:"What is read back."`
	DraftedAt     time.Time     `json:"draftedAt" rule:"case" gorm:"serializer:cell" title:"Drafted at" doc:"When."`
	OfferedAt     time.Time     `json:"offeredAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Offered at" doc:"When."`
	EndedAt       time.Time     `json:"endedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Ended at" doc:"When it was accepted, returned or outdated."`
	ReturnedWhy   string        `json:"returnedWhy,omitzero" rule:"case" maxLength:"400" title:"Returned because" doc:"Why it was returned."`
}
