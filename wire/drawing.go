package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/network"
)

// Drawing is the home's network, ready to be drawn: floors from the top, rooms in walking order,
// in each the devices with their way to the line.
type Drawing struct {
	Revision uint64       `json:"revision" doc:"Revision of the household that this is computed from."`
	Floors   []DrawnFloor `json:"floors" doc:"The floors, the highest first; devices without a room come last."`
	Links    []DrawnLink  `json:"links" doc:"All links."`
	Segments []Named      `json:"segments" doc:"All segments, those with the most devices first: the order of their tints."`
}

// DrawnFloor is one floor of the drawing.
type DrawnFloor struct {
	Floor int         `json:"floor" doc:"0 is the ground floor."`
	Rooms []DrawnRoom `json:"rooms" doc:"Its rooms in walking order."`
}

// DrawnRoom is one room of the drawing.
type DrawnRoom struct {
	Room    Named         `json:"room,omitzero" doc:"The room; none for devices without a room."`
	Devices []DrawnDevice `json:"devices" doc:"The devices there, those nearest to the internet line first."`
	Outlets []string      `json:"outlets" doc:"Its outlets, each with where it ends."`
}

// DrawnDevice is one box of the drawing.
type DrawnDevice struct {
	Device   Named     `json:"device" doc:"The device."`
	Roles    []string  `json:"roles" doc:"What it does, as words."`
	Segments []Named   `json:"segments" doc:"The segments it is in."`
	Parent   string    `json:"parent,omitzero" doc:"Id of the next device towards the internet line."`
	Depth    int       `json:"depth" doc:"Hops to the end of the internet line; -1 if it is not connected to it."`
	Up       DrawnLink `json:"up,omitzero" doc:"The link it takes."`
	Radios   []string  `json:"radios" doc:"Its Wi-Fi radios and what is connected to each, in words."`
	Findings []Finding `json:"findings" doc:"What is found on it."`
	Says     string    `json:"says" doc:"All of it in one sentence, for people who cannot see the drawing."`
}

// DrawnLink is one line of the drawing.
type DrawnLink struct {
	ID       dossier.ID[dossier.Link] `json:"id" doc:"The link."`
	From     string                   `json:"from" doc:"Id of the device at its near end."`
	To       string                   `json:"to" doc:"Id of the device at its far end."`
	Kind     dossier.LinkKind         `json:"kind" doc:"The transport."`
	Says     string                   `json:"says" doc:"Kind and rate as words."`
	Spare    bool                     `json:"spare,omitzero" doc:"No device uses it to reach the internet line."`
	Load     load.State               `json:"load,omitzero" enum:"room-left,tight,overloaded,not-known" doc:"The most that any path or busy set takes of it, or of the channel that it shares; none if nothing goes over it."`
	Taken    string                   `json:"taken,omitzero" doc:"The same in words."`
	Severity network.Severity         `json:"severity,omitzero" doc:"Severity of the worst finding about it; none if there is none."`
}

// AddressPlan shows what each address of the home's segments is there for.
type AddressPlan struct {
	Revision uint64         `json:"revision" doc:"Revision of the household that this is computed from."`
	Strips   []AddressStrip `json:"strips" doc:"One for each IPv4 segment."`
}

// AddressStrip is one segment's part of the plan. Places are shares of its prefix, from 0 to 1.
type AddressStrip struct {
	Segment  Named         `json:"segment" doc:"The segment."`
	Prefix   string        `json:"prefix" doc:"Its prefix."`
	Pool     string        `json:"pool,omitzero" doc:"Its DHCP pool in words."`
	PoolFrom float64       `json:"poolFrom,omitzero" doc:"Where the pool begins in the prefix, from 0 to 1."`
	PoolTill float64       `json:"poolTill,omitzero" doc:"Where it ends in the prefix, from 0 to 1."`
	Free     int           `json:"free" doc:"Addresses of the pool that no recorded adapter has."`
	Spots    []AddressSpot `json:"spots" doc:"Every address that is taken, in order."`
	Findings []Finding     `json:"findings" doc:"What is found on the segment."`
}

// AddressSpot is one address that is taken.
type AddressSpot struct {
	Address string          `json:"address" doc:"The address."`
	Share   float64         `json:"share" doc:"Its place in the prefix."`
	Uses    []network.UseOf `json:"uses" doc:"What it is used for."`
	Holders []Named         `json:"holders" doc:"The adapters that have it."`
	Clash   bool            `json:"clash,omitzero" doc:"More than one adapter has it."`
	InPool  bool            `json:"inPool,omitzero" doc:"The DHCP server may give it out."`
	Outside bool            `json:"outside,omitzero" doc:"It is outside the prefix."`
	Says    string          `json:"says" doc:"What it is used for, in words."`
}
