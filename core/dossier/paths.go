package dossier

import (
	"net/netip"
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
	FallBack     ID[Path]     `json:"fallBack,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Fall-back" doc:"The path to use when this one fails."`
	Retired      bool         `json:"retired,omitzero" title:"Retired" doc:"No longer used. It is left out of the plan; its attempts are kept."`
}

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
