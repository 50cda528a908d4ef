package wire

import (
	"net/netip"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Observations is what the latest scan saw, compared with what is recorded.
type Observations struct {
	Scan       string           `json:"scan,omitzero" doc:"Id of the latest scan; empty if there has been none. A request to record or review results names it."`
	Began      time.Time        `json:"began,omitzero" doc:"When the latest scan began."`
	Ended      time.Time        `json:"ended,omitzero" doc:"When it ended."`
	By         string           `json:"by,omitzero" doc:"Who ran it."`
	With       string           `json:"with,omitzero" doc:"The machine that ran it; empty for the Kaiku on the home's network."`
	Notes      []string         `json:"notes,omitzero" doc:"What was left out of it, and why."`
	Short      bool             `json:"short,omitzero" doc:"It was stopped before it had finished, or something was left out of it: what is not in it says nothing."`
	Before     time.Time        `json:"before,omitzero" doc:"When the previous scan ended, with which new, missing and changed hosts are compared."`
	Segments   []ScannedSegment `json:"segments" doc:"The segments that were scanned."`
	NotScanned []Named          `json:"notScanned" doc:"Recorded segments that have not been scanned."`
	Hosts      []Observed       `json:"hosts" doc:"The hosts that answered, in order of address, then the recorded devices that did not answer."`
	Counts     ObservedCounts   `json:"counts" doc:"How many hosts have each status."`
	Answers    []AskedQuestion  `json:"answers" doc:"What each segment was asked, and how that ended."`
}

// ScannedSegment is one segment that a scan covered.
type ScannedSegment struct {
	Segment   Named      `json:"segment" doc:"The segment."`
	From      netip.Addr `json:"from" doc:"The address it was scanned from."`
	Interface string     `json:"interface" doc:"The adapter it was scanned through."`
}

// ObservedCounts counts hosts by status, and values that can be recorded without review.
type ObservedCounts struct {
	AsRecorded int `json:"asRecorded" doc:"Hosts that match their record."`
	Changed    int `json:"changed" doc:"Recorded devices that differ from their record."`
	New        int `json:"new" doc:"Hosts that match no recorded device."`
	Unsure     int `json:"unsure" doc:"Hosts that may be a recorded device and need a person to say which."`
	NotSeen    int `json:"notSeen" doc:"Recorded devices that did not answer."`
	Certain    int `json:"certain" doc:"Values that can be recorded without review."`
}

// Observed is one host compared with the record, or one recorded device that did not answer.
type Observed struct {
	Key         string               `json:"key" doc:"Identifies the host from one scan to the next."`
	Address     netip.Addr           `json:"address,omitzero" doc:"Its address."`
	Segment     Named                `json:"segment" doc:"The segment it was seen in."`
	Called      string               `json:"called" doc:"Its name: as recorded, or as the host announces it."`
	Status      matching.Status      `json:"status" enum:"as-recorded,changed,new,unsure,not-seen" doc:"How it compares with the record."`
	Sentence    string               `json:"sentence" doc:"The status in words."`
	Also        []netip.Addr         `json:"also,omitzero" doc:"Further addresses of the same machine."`
	Hardware    dossier.HardwareAddr `json:"hardware,omitzero" doc:"MAC address by which it answered."`
	Maker       string               `json:"maker,omitzero" doc:"Whose prefix the MAC address has, if that is known."`
	Open        []int                `json:"open,omitzero" doc:"TCP ports at which it accepts connections."`
	Announces   []string             `json:"announces,omitzero" doc:"Services that it announces by DNS-SD: type, name and port."`
	SeenFrom    time.Time            `json:"seenFrom,omitzero" doc:"The earliest of the scans that are kept in which it was seen."`
	Since       matching.Since       `json:"since,omitzero" enum:",appeared,changed,gone" doc:"What has happened to it since the previous scan."`
	Changes     []string             `json:"changes" doc:"What has changed since the previous scan, in words."`
	Device      Named                `json:"device,omitzero" doc:"The recorded device it is."`
	Because     []string             `json:"because" doc:"Why it is matched to that device."`
	Candidates  []Candidate          `json:"candidates" doc:"Devices that it may be, the likeliest first."`
	Identified  bool                 `json:"identified,omitzero" doc:"A person said which device it is."`
	Differences []Difference         `json:"differences" doc:"What the host says that is not recorded or differs from the record, and what matches it."`
	Answers     []AskedQuestion      `json:"answers" doc:"What it was asked, and how that ended."`
}

// Candidate is a device that a host may be.
type Candidate struct {
	Device  Named    `json:"device" doc:"The device."`
	Because []string `json:"because" doc:"The evidence for it and against it."`
}

// Difference is one member of one record, as recorded and as seen.
type Difference struct {
	ID       string            `json:"id" doc:"Identifies the difference within this scan."`
	Record   Named             `json:"record" doc:"The record; without an id if it would be a new one."`
	Member   string            `json:"member" doc:"The member."`
	Title    string            `json:"title" doc:"What people call the member."`
	Recorded string            `json:"recorded,omitzero" doc:"What is recorded, in words."`
	Seen     string            `json:"seen" doc:"What was seen, in words."`
	After    string            `json:"after" doc:"What the record would say if this were recorded."`
	By       matching.Way      `json:"by" doc:"The protocol by which it was learnt."`
	Relation matching.Relation `json:"relation" enum:"same,new,differs" doc:"How the two compare."`
	Certain  bool              `json:"certain,omitzero" doc:"It can be recorded without review."`
	Ignored  bool              `json:"ignored,omitzero" doc:"A person has chosen to ignore it; it is not counted while the same value is seen."`
}

// AskedQuestion is one question and how it ended.
type AskedQuestion struct {
	Way      matching.Way   `json:"way" doc:"The protocol used."`
	Ended    matching.Ended `json:"ended" enum:"answered,empty,refused,denied,silent,broken,stopped,not-asked" doc:"How it ended."`
	Sentence string         `json:"sentence" doc:"The same in words."`
}

// RecordSeen says which results of a scan are to be recorded.
type RecordSeen struct {
	Scan        string            `json:"scan" format:"uuid" doc:"The scan they were seen in. If there has been a newer one, the request is refused."`
	Certain     bool              `json:"certain,omitzero" doc:"Everything that needs no review."`
	Hosts       []string          `json:"hosts,omitzero" maxItems:"5000" doc:"Keys of hosts of which everything is recorded."`
	Differences []string          `json:"differences,omitzero" maxItems:"20000" doc:"Ids of single differences."`
	Rooms       map[string]string `json:"rooms,omitzero" doc:"By the key of a host: the id of the room it is in."`
}

// RunScan asks for a scan.
type RunScan struct {
	Only    netip.Addr `json:"only,omitzero" doc:"The one host to scan, by its address in a recorded segment; empty for all of the segments."`
	Seconds int        `json:"seconds,omitzero" minimum:"0" maximum:"120" doc:"How long it may take, in seconds; 0 for the usual twelve."`
}

// SeenRecorded is what was recorded from a scan.
type SeenRecorded struct {
	Records []Named `json:"records" doc:"The records that were written."`
	Values  int     `json:"values" doc:"How many values were recorded."`

	Revision uint64 `json:"revision" doc:"The revision that they were recorded by; all of it can be undone at once."`
}

// ReviewHosts says which device a host is, and which differences to ignore.
type ReviewHosts struct {
	Scan     string            `json:"scan" format:"uuid" doc:"The scan they were seen in."`
	Identify map[string]string `json:"identify,omitzero" doc:"By the key of a host: the id of the device it is, \"new\" for none of them, or nothing to withdraw the answer."`
	Ignore   []string          `json:"ignore,omitzero" maxItems:"20000" doc:"Ids of differences to ignore while the same value is seen."`
	Restore  []string          `json:"restore,omitzero" maxItems:"20000" doc:"Ids of differences to stop ignoring."`
}
