package dossier

import (
	"net/netip"
	"slices"
	"time"
)

// End is one end of a path, as that end has it set.
type End struct {
	Address netip.Addr `json:"address,omitzero" title:"Address" doc:"Address of the server."`
	Port    int        `json:"port,omitzero" minimum:"0" maximum:"65535" title:"Port" doc:"Port of the source."`
	Name    string     `json:"name,omitzero" title:"Name" doc:"Name of the server."`
	Locator string     `json:"locator,omitzero" title:"Locator" doc:"The part of the address after the port."`
}

// Path is how one device gets media from one source.
type Path struct {
	Meta[Path]
	Name         string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What colleagues call it, such as lamp room films."`
	Device       ID[Device]   `json:"device" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device that plays."`
	Source       ID[Source]   `json:"source" onremove:"restrict" gorm:"serializer:cell" title:"Source" doc:"Where the media come from."`
	Folders      []ID[Folder] `json:"folders,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Folders" doc:"The folders it reaches; none means all of the source."`
	NoFolders    bool         `json:"noFolders,omitzero" title:"No folders left" doc:"All folders that it named have been removed. It reaches none until others are named, or this is taken back to mean all."`
	Kind         PathKind     `json:"kind" title:"Path kind" doc:"How media reach the device."`
	FoundBy      FoundBy      `json:"foundBy" title:"Server found by" doc:"How the device finds the server."`
	Mode         Mode         `json:"mode,omitzero" title:"Mode" doc:"Through the server or straight from the files."`
	ServerEnd    End          `json:"serverEnd,omitzero" gorm:"serializer:cell" title:"Server's end" doc:"Address, port, name and locator, as set on the server."`
	DeviceEnd    End          `json:"deviceEnd,omitzero" gorm:"serializer:cell" title:"Device's end" doc:"The same, as entered or shown on the device."`
	Account      ID[Account]  `json:"account,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Signed in with" doc:"The account entered on the device for this path."`
	Marks        MarksPlace   `json:"marks,omitzero" title:"Resume points kept" doc:"Where the resume points are kept."`
	ControlPoint ID[Device]   `json:"controlPoint,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Controlled from" doc:"The phone or program that controls playback, if it is a third device."`
	StartedBy    string       `json:"startedBy,omitzero" maxLength:"200" title:"Started by" doc:"Who or what starts it. A stream does not run by itself, and ends on seek and restart."`
	SentAs       string       `json:"sentAs,omitzero" maxLength:"120" title:"Sent as" doc:"For a stream: the form in which it is sent, such as 720p at 4 Mb/s."`
	DeviceKey    ID[Secret]   `json:"deviceKey,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Key of the device" doc:"For a list of streams: the key by which its page knows this device. Another device needs another one."`
	FallBack     ID[Path]     `json:"fallBack,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Fall-back" doc:"The path to use when this one fails."`
	Retired      bool         `json:"retired,omitzero" title:"Retired" doc:"No longer used. It is left out of the plan; its attempts are kept."`
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

// BusySet is a set of paths in use at once.
type BusySet struct {
	Meta[BusySet]
	Name  string     `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What the household calls it, such as Saturday evening."`
	Paths []ID[Path] `json:"paths,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Paths" doc:"The paths in use at once."`
	Note  string     `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"When and how often."`
}

// Prerequisite is the tick behind something that must be true before paths can work. What
// belongs to a host is ticked once, at the host, for all its paths.
type Prerequisite struct {
	Meta[Prerequisite]
	Subject Ref       `json:"subject" rule:"fixed" kinds:"segment device account path" onremove:"cascade" gorm:"serializer:cell" title:"Where" doc:"The device, segment, account or path that it concerns."`
	Side    Side      `json:"side" rule:"fixed" title:"Side" doc:"The side where it has to be in place."`
	What    string    `json:"what" rule:"fixed" label:"true" pattern:"^[a-z-]+$" title:"What" doc:"Code of the prerequisite."`
	DoneBy  PersonID  `json:"doneBy,omitzero" rule:"case" gorm:"serializer:cell" title:"Done by" doc:"Who ticked it."`
	DoneAt  time.Time `json:"doneAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Done at" doc:"When it was ticked."`
	Refused int       `json:"refused,omitzero" rule:"case" title:"Refused" doc:"How often it was refused, for example because a permission prompt was declined."`
	Why     string    `json:"why,omitzero" rule:"case" maxLength:"400" title:"Note" doc:"Why it was refused, or what was done."`
}

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
