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
	ErasedAt    time.Time `json:"erasedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Personal data erased" doc:"When personal data was last erased on request."`
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
	Power string `json:"power,omitzero" maxLength:"400" title:"Power" doc:"Mains sockets where devices stand, and what is missing."`
	Note  string `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"What a colleague should know of this room."`
}

// Segment is one IP subnet: what multicast reaches.
type Segment struct {
	Meta[Segment]
	Name         string        `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"Name of the segment, such as home or guest."`
	Prefix       netip.Prefix  `json:"prefix" gorm:"serializer:cell" title:"Prefix" doc:"Address range in prefix form, such as 10.20.4.0/24."`
	Prefix6      netip.Prefix  `json:"prefix6,omitzero" gorm:"serializer:cell" title:"IPv6 prefix" doc:"IPv6 prefix of the same segment, such as 2001:db8:4::/64."`
	VLAN         int           `json:"vlan,omitzero" minimum:"0" maximum:"4094" title:"VLAN" doc:"VLAN number, 0 for untagged."`
	SSID         string        `json:"ssid,omitzero" gorm:"column:ssid" maxLength:"32" title:"SSID" doc:"Name of its radio network, if it has one."`
	Gateway      netip.Addr    `json:"gateway,omitzero" gorm:"serializer:cell" title:"Gateway" doc:"Address of the gateway."`
	PoolFirst    netip.Addr    `json:"poolFirst,omitzero" gorm:"serializer:cell" title:"Lease pool from" doc:"First address of the lease pool."`
	PoolLast     netip.Addr    `json:"poolLast,omitzero" gorm:"serializer:cell" title:"Lease pool to" doc:"Last address of the lease pool."`
	LeaseServers []ID[Device]  `json:"leaseServers,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Lease servers" doc:"The devices that give out addresses here; there should be one."`
	NameServers  []netip.Addr  `json:"nameServers,omitzero" gorm:"serializer:cell" title:"Name servers" doc:"Addresses of the name servers its members are given."`
	NamePort     int           `json:"namePort,omitzero" minimum:"0" maximum:"65535" title:"Port for names" doc:"Port of the name servers, where it is not 53."`
	Reservations []Reservation `json:"reservations,omitzero" gorm:"serializer:cell" title:"Reservations" doc:"Addresses that the lease server keeps for one adapter each."`
	Isolation    Isolation     `json:"isolation,omitzero" part:"Who reaches whom" title:"Isolation" doc:"What this segment keeps apart."`
	MulticastTo  []ID[Segment] `json:"multicastTo,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Multicast to" doc:"Other segments to which the router passes multicast."`
	Snooping     Answer        `json:"snooping,omitzero" title:"Snooping" doc:"Whether its switches pass multicast only where somebody asked for it."`
	WakeRelay    Answer        `json:"wakeRelay,omitzero" title:"Wake packets" doc:"Whether something passes on wake packets that come from other segments."`
	Querier      Answer        `json:"querier,omitzero" title:"Querier" doc:"Whether something asks regularly who still wants it. Snooping without a querier loses devices after minutes."`
}

// LeaseOffer is what one lease server gives out in a segment, where it is not what the segment
// itself has recorded: a second lease server, or one that gives out other things.
type LeaseOffer struct {
	Meta[LeaseOffer]
	Device      ID[Device]   `json:"device" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Lease server" doc:"The device that gives out the addresses."`
	Segment     ID[Segment]  `json:"segment" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Segment" doc:"The segment in which it does."`
	PoolFirst   netip.Addr   `json:"poolFirst,omitzero" gorm:"serializer:cell" title:"Lease pool from" doc:"First address it gives out."`
	PoolLast    netip.Addr   `json:"poolLast,omitzero" gorm:"serializer:cell" title:"Lease pool to" doc:"Last address it gives out."`
	Gateway     netip.Addr   `json:"gateway,omitzero" gorm:"serializer:cell" title:"Gateway" doc:"The gateway it names."`
	NameServers []netip.Addr `json:"nameServers,omitzero" gorm:"serializer:cell" title:"Name servers" doc:"The name servers it names."`
	Note        string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Why it is there, whether it may be switched off."`
}

// Reservation is an address that a lease server keeps for one adapter.
type Reservation struct {
	HardwareAddress HardwareAddr `json:"hardwareAddress" title:"Hardware address" doc:"Hardware address of the adapter."`
	Address         netip.Addr   `json:"address" title:"Address" doc:"The address kept for it."`
	Name            string       `json:"name,omitzero" title:"Name" doc:"Name given in the lease server."`
}

// Outlet is a socket in a room where a cable ends.
type Outlet struct {
	Meta[Outlet]
	Room       ID[Room]      `json:"room" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Room" doc:"The room it is in."`
	Name       string        `json:"name" label:"true" unique:"room" minLength:"1" maxLength:"40" title:"Name" doc:"What is written on it, such as A1."`
	Cable      Cable         `json:"cable,omitzero" title:"Cable" doc:"What cable ends in it."`
	PatchedTo  ID[Interface] `json:"patchedTo,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Patched to" doc:"The switch or router port at the other end."`
	Patching   string        `json:"patching,omitzero" maxLength:"200" title:"By way of" doc:"Patch panel and port on the way, as labelled."`
	TestedMbps float64       `json:"testedMbps,omitzero" minimum:"0" title:"Tested at (Mb/s)" doc:"Rate it was tested at, in Mb/s; empty while untested."`
	TestedOn   Date          `json:"testedOn,omitzero" gorm:"serializer:cell" title:"Tested on" doc:"Day of that test."`
	Note       string        `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Damage, what stands before it."`
}

// Line is an internet line of the home.
type Line struct {
	Meta[Line]
	Name         string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"80" title:"Name" doc:"What colleagues call it, such as fibre or mobile."`
	Kind         LineKind     `json:"kind" title:"Kind" doc:"How it comes into the home."`
	Provider     string       `json:"provider,omitzero" maxLength:"80" title:"Provider" doc:"Who provides it."`
	Router       ID[Device]   `json:"router,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Ends at" doc:"The device it ends at."`
	SoldDownMbps float64      `json:"soldDownMbps,omitzero" minimum:"0" part:"Rates" title:"Sold down (Mb/s)" doc:"Rate towards the home by contract, in Mb/s."`
	SoldUpMbps   float64      `json:"soldUpMbps,omitzero" minimum:"0" title:"Sold up (Mb/s)" doc:"Rate from the home by contract, in Mb/s."`
	DownMbps     float64      `json:"downMbps,omitzero" minimum:"0" title:"Measured down (Mb/s)" doc:"Measured rate towards the home, in Mb/s."`
	UpMbps       float64      `json:"upMbps,omitzero" minimum:"0" title:"Measured up (Mb/s)" doc:"Measured rate from the home, in Mb/s."`
	MeasuredAt   time.Time    `json:"measuredAt,omitzero" gorm:"serializer:cell" title:"Measured at" doc:"When it was measured: evenings are busier."`
	OuterAddress netip.Addr   `json:"outerAddress,omitzero" gorm:"serializer:cell" part:"Seen from outside" title:"Router's outer address" doc:"Address the router has on this line."`
	SeenAddress  netip.Addr   `json:"seenAddress,omitzero" gorm:"serializer:cell" title:"Address seen outside" doc:"Address from which the home is seen outside. When it is another one, something stands in between."`
	SeenAddress6 netip.Addr   `json:"seenAddress6,omitzero" gorm:"serializer:cell" title:"IPv6 address seen outside" doc:"IPv6 address from which a machine of the home is seen outside."`
	OuterPrefix  netip.Prefix `json:"outerPrefix,omitzero" gorm:"serializer:cell" title:"IPv6 prefix" doc:"IPv6 prefix the home is given, if any."`
	WaysIn       []WayIn      `json:"waysIn,omitzero" gorm:"serializer:cell" title:"Ways in" doc:"What is set up so that the home can be reached from outside."`
	Note         string       `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Box that must not be touched, customer number, hot-line hours."`
}

// Link is a cable or radio association between two adapters.
type Link struct {
	Meta[Link]
	Near     ID[Interface] `json:"near" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"From" doc:"One end."`
	Far      ID[Interface] `json:"far" label:"true" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"To" doc:"The other end, nearer to the router."`
	Kind     LinkKind      `json:"kind" title:"Kind" doc:"What carries it."`
	RateMbps float64       `json:"rateMbps,omitzero" minimum:"0" title:"Rate (Mb/s)" doc:"Rate both ends agreed on, in Mb/s. Of radio and powerline it is no throughput."`
	Band     Band          `json:"band,omitzero" title:"Band" doc:"Radio band."`
	Channel  int           `json:"channel,omitzero" minimum:"0" maximum:"233" title:"Channel" doc:"Radio channel number."`
	Outlet   ID[Outlet]    `json:"outlet,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Through outlet" doc:"The wall outlet it goes through."`
	Note     string        `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Why it is so: stone, distance, what was tried."`
}

// Reading is one measured value at a place and time.
type Reading struct {
	Meta[Reading]
	What       Quantity  `json:"what" label:"true" title:"What" doc:"What was measured; the word carries the unit."`
	Value      float64   `json:"value" title:"Value" doc:"The measured value, in the unit of its kind."`
	Subject    Ref       `json:"subject,omitzero" label:"true" kinds:"device interface link line" onremove:"cascade" gorm:"serializer:cell" title:"At" doc:"The device, adapter or link it was measured at."`
	Room       ID[Room]  `json:"room,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Room" doc:"Where it was measured."`
	How        Known     `json:"how" title:"How" doc:"How the value is known."`
	At         time.Time `json:"at" gorm:"serializer:cell" title:"When" doc:"When it was measured."`
	With       string    `json:"with,omitzero" maxLength:"80" title:"Measured with" doc:"What measured it, such as a laptop; empty for the device itself."`
	Conditions string    `json:"conditions,omitzero" maxLength:"400" title:"Conditions" doc:"Under which conditions, such as evening, door closed, channel busy."`
}

// Wish is something the customer wants.
type Wish struct {
	Meta[Wish]
	What WishKind `json:"what" label:"true" title:"What" doc:"What is wished."`
	Room ID[Room] `json:"room,omitzero" label:"true" onremove:"restrict" gorm:"serializer:cell" title:"In room" doc:"Where it is wished; empty for the whole home."`
	Need Need     `json:"need,omitzero" title:"How much" doc:"Whether the work is done without it."`
	Note string   `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"In the customer's words."`
}

// Restriction is what a room, a device or a person may not have, or not at every hour.
type Restriction struct {
	Meta[Restriction]
	Name     string        `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What the household calls it, such as children after eight."`
	Room     ID[Room]      `json:"room,omitzero" onremove:"restrict" gorm:"serializer:cell" title:"Room" doc:"The room it holds for."`
	Device   ID[Device]    `json:"device,omitzero" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device it holds for."`
	Person   string        `json:"person,omitzero" personal:"true" maxLength:"120" title:"For whom" doc:"The person of the household it holds for."`
	Contents []ContentKind `json:"contents,omitzero" gorm:"serializer:cell" title:"Content" doc:"What may not be had; none means everything."`
	Days     []Weekday     `json:"days,omitzero" gorm:"serializer:cell" title:"Days" doc:"On which days; none means every day."`
	From     Clock         `json:"from,omitzero" gorm:"serializer:cell" title:"From" doc:"Blocked from this time of day; empty for always."`
	Until    Clock         `json:"until,omitzero" gorm:"serializer:cell" title:"Until" doc:"Blocked until this time of day."`
	SetWhere string        `json:"setWhere,omitzero" maxLength:"400" title:"Set where" doc:"In which machine and menu it is set."`
}
