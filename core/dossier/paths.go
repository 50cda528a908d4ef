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
	Locator string     `json:"locator,omitzero" title:"Locator" doc:"The part after the port."`
}

// Path is how one device gets media from one source.
type Path struct {
	Meta[Path]
	Name         string       `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What colleagues call it, such as lamp room films."`
	Device       ID[Device]   `json:"device" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device on which media comes out."`
	Source       ID[Source]   `json:"source" onremove:"restrict" gorm:"serializer:cell" title:"Source" doc:"Where it comes from."`
	Folders      []ID[Folder] `json:"folders,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Folders" doc:"Folders it reaches; none means all of the source."`
	Kind         PathKind     `json:"kind" title:"Kind" doc:"How media travels."`
	FoundBy      FoundBy      `json:"foundBy" title:"Found by" doc:"How the device finds the server."`
	Mode         Mode         `json:"mode,omitzero" title:"Mode" doc:"Through the server or straight from the files."`
	ServerEnd    End          `json:"serverEnd,omitzero" gorm:"serializer:cell" title:"Server's end" doc:"Address, port, name and locator as the server has them set."`
	DeviceEnd    End          `json:"deviceEnd,omitzero" gorm:"serializer:cell" title:"Device's end" doc:"The same, as they were entered or are shown on the device."`
	Account      ID[Account]  `json:"account,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Signed in with" doc:"The account that is entered on the device for this path."`
	Marks        MarksPlace   `json:"marks,omitzero" title:"Keeps its place" doc:"Where it is kept how far something was watched."`
	ControlPoint ID[Device]   `json:"controlPoint,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Directed from" doc:"The phone or program that directs it, where a third machine does."`
	StartedBy    string       `json:"startedBy,omitzero" maxLength:"200" title:"Started by" doc:"Who or what starts it. A stream is no standing service: it dies on seek and restart."`
	FallBack     ID[Path]     `json:"fallBack,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Fall-back" doc:"The path to use when this one fails."`
	Retired      bool         `json:"retired,omitzero" title:"Retired" doc:"No longer used. It leaves the plan, its attempts stay."`
}

// Together is a set of paths in use at once.
type Together struct {
	Meta[Together]
	Name  string     `json:"name" label:"true" unique:"household" minLength:"1" maxLength:"120" title:"Name" doc:"What the household calls it, such as Saturday evening."`
	Paths []ID[Path] `json:"paths,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Paths" doc:"The paths in use at once."`
	Note  string     `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"When and how often."`
}

// Prerequisite is the tick behind something that must be true before paths can work. What
// belongs to a host is ticked once, at the host, for all its paths.
type Prerequisite struct {
	Meta[Prerequisite]
	Subject Ref       `json:"subject" rule:"fixed" kinds:"segment device account path" onremove:"cascade" gorm:"serializer:cell" title:"Where" doc:"The device, segment or path at which it must be true."`
	Side    Side      `json:"side" rule:"fixed" title:"Side" doc:"The side that meets it."`
	What    string    `json:"what" rule:"fixed" label:"true" pattern:"^[a-z-]+$" title:"What" doc:"Code of what must be true."`
	DoneBy  PersonID  `json:"doneBy,omitzero" rule:"case" gorm:"serializer:cell" title:"Done by" doc:"Who ticked it."`
	DoneAt  time.Time `json:"doneAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Done at" doc:"When it was ticked."`
	Refused int       `json:"refused,omitzero" rule:"case" title:"Refused" doc:"How often it was refused, such as a permission prompt answered no."`
	Why     string    `json:"why,omitzero" rule:"case" maxLength:"400" title:"Why" doc:"Why it was refused, or what was done."`
}
