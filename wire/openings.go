package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/network"
)

// Openings lists what the firewalls of a home have to let in for its paths.
type Openings struct {
	Needed []NeededOpening `json:"needed" doc:"What is needed, host by host."`
	Spare  []SpareOpening  `json:"spare" doc:"What is recorded as open and needed by no path."`
	Sheets []OpeningSheet  `json:"sheets" doc:"The same to take along, in several forms. Advice: read it before use."`
}

// NeededOpening is one opening inward that paths need.
type NeededOpening struct {
	Host      Named               `json:"host" doc:"The machine whose firewall it is."`
	Transport dossier.Transport   `json:"transport" enum:"tcp,udp" doc:"The transport."`
	Port      int                 `json:"port" doc:"The port; 0 for whichever port the host has sent its search from."`
	From      []string            `json:"from" doc:"From where packets come; none if that is not known."`
	Outside   bool                `json:"outside" doc:"They come from outside the home."`
	To        []string            `json:"to" doc:"The addresses of the host, or of the server to which a router passes them."`
	ToPort    int                 `json:"toPort,omitzero" doc:"The port of that server."`
	For       string              `json:"for" doc:"What it is needed for."`
	Paths     []Named             `json:"paths" doc:"The paths that need it."`
	State     network.OpeningNeed `json:"state" enum:"shut,refused,contradicts,other-class,asked,not-recorded,open" doc:"How it stands, by the record."`
	Record    *Named              `json:"record,omitempty" doc:"What is recorded of it, if anything is."`
	Seen      matching.Ended      `json:"seen,omitzero" enum:"answered,empty,refused,denied,silent,broken" doc:"How the port answered the latest scan, from where that looked; empty if nobody asked there."`
	SeenSaid  string              `json:"seenSaid" doc:"What that says beside the record; empty if nothing."`
	Said      string              `json:"said" doc:"The same in words."`
}

// SpareOpening is one that is open for nothing.
type SpareOpening struct {
	Opening   Named             `json:"opening" doc:"Its record."`
	Host      Named             `json:"host" doc:"The machine whose firewall it is."`
	Transport dossier.Transport `json:"transport" enum:"tcp,udp" doc:"The transport."`
	Ports     string            `json:"ports" doc:"The port or ports."`
	For       string            `json:"for,omitzero" doc:"What was noted about it."`
}

// OpeningSheet is what is needed, in one form.
type OpeningSheet struct {
	Form string `json:"form" enum:"text,nftables,csv" doc:"To be read, as rules for nftables, or as a table to work through in any router's menus."`
	File string `json:"file" doc:"A name for the file."`
	Body string `json:"body" doc:"The text."`
}
