package wire

import (
	"net/netip"
	"time"

	"kaiku/core/matching"
)

// Observations is what was seen on the network, beside the record.
type Observations struct {
	Look    string          `json:"look,omitzero" doc:"Id of the newest look; empty while nobody looked. What is taken over names it."`
	Began   time.Time       `json:"began,omitzero" doc:"When the newest look began."`
	Ended   time.Time       `json:"ended,omitzero" doc:"When it ended."`
	By      string          `json:"by,omitzero" doc:"Who looked."`
	With    string          `json:"with,omitzero" doc:"The machine that looked; empty for the Kaiku in the home."`
	Short   bool            `json:"short,omitzero" doc:"It was stopped before its end."`
	Before  time.Time       `json:"before,omitzero" doc:"When was looked before, to say what is new, gone or changed since."`
	Looked  []LookedAt      `json:"looked" doc:"The segments that were looked at."`
	Unseen  []Named         `json:"unseen" doc:"Recorded segments in which nobody has looked."`
	Hosts   []Observed      `json:"hosts" doc:"Who was seen, by address, and then the recorded devices that were not."`
	Counts  ObservedCounts  `json:"counts" doc:"How many of each sort there are."`
	Answers []AskedQuestion `json:"answers" doc:"What was asked of the segments, and how it ended."`
}

// LookedAt is one segment that was looked at.
type LookedAt struct {
	Segment   Named      `json:"segment" doc:"The segment."`
	From      netip.Addr `json:"from" doc:"The address from which it was looked at."`
	Interface string     `json:"interface" doc:"The adapter through which."`
}

// ObservedCounts counts hosts by where they stand, and what can be taken over without thought.
type ObservedCounts struct {
	AsRecorded int `json:"asRecorded" doc:"Hosts that are as recorded."`
	Changed    int `json:"changed" doc:"Recorded devices that say something else or more."`
	New        int `json:"new" doc:"Hosts that are no recorded device."`
	Unsure     int `json:"unsure" doc:"Hosts of which somebody should say which device they are."`
	NotSeen    int `json:"notSeen" doc:"Recorded devices that were silent."`
	Sure       int `json:"sure" doc:"Values that can be taken over without thought."`
}

// Observed is one host beside the record, or one recorded device that was not seen.
type Observed struct {
	Key         string            `json:"key" doc:"What it is known again by."`
	Address     netip.Addr        `json:"address,omitzero" doc:"Its address."`
	Segment     Named             `json:"segment" doc:"The segment it was seen in."`
	Called      string            `json:"called" doc:"What it is called: by the record, or as it shows itself."`
	Standing    matching.Standing `json:"standing" enum:"as-recorded,changed,new,unsure,not-seen" doc:"Where it stands to the record."`
	Sentence    string            `json:"sentence" doc:"The same in words."`
	Since       matching.Since    `json:"since,omitzero" enum:",appeared,changed,gone" doc:"What became of it since the look before."`
	Changes     []string          `json:"changes" doc:"What changed since the look before, in words."`
	Device      Named             `json:"device,omitzero" doc:"The recorded device it is."`
	Because     []string          `json:"because" doc:"Why it is taken for that device."`
	Candidates  []Candidate       `json:"candidates" doc:"Devices that it may be, the likeliest first."`
	Said        bool              `json:"said,omitzero" doc:"Somebody said which device it is."`
	Differences []Difference      `json:"differences" doc:"What it says that is not recorded so, and what it says that is."`
	Answers     []AskedQuestion   `json:"answers" doc:"What it was asked, and how that ended."`
}

// Candidate is a device that a host may be.
type Candidate struct {
	Device  Named    `json:"device" doc:"The device."`
	Because []string `json:"because" doc:"What speaks for it and against it."`
}

// Difference is one member of one record, as recorded and as seen.
type Difference struct {
	ID       string            `json:"id" doc:"What it is taken over by, within this look."`
	Record   Named             `json:"record" doc:"The record; without an id if it would be new."`
	Member   string            `json:"member" doc:"The member."`
	Title    string            `json:"title" doc:"What people call the member."`
	Recorded string            `json:"recorded,omitzero" doc:"What is recorded, in words."`
	Seen     string            `json:"seen" doc:"What was seen, in words."`
	After    string            `json:"after" doc:"What would be recorded after taking it over."`
	By       matching.Way      `json:"by" doc:"The protocol that said it."`
	Relation matching.Relation `json:"relation" enum:"same,new,differs" doc:"How both stand to each other."`
	Sure     bool              `json:"sure,omitzero" doc:"Taking it over needs no thought."`
	Aside    bool              `json:"aside,omitzero" doc:"Somebody set it aside; it is not counted while the same is seen."`
}

// AskedQuestion is one question and how it ended.
type AskedQuestion struct {
	Way      matching.Way   `json:"way" doc:"By which protocol was asked."`
	Ended    matching.Ended `json:"ended" enum:"answered,empty,refused,denied,silent,broken,stopped,not-asked" doc:"How it ended."`
	Sentence string         `json:"sentence" doc:"The same in words."`
}

// TakeOver says what of a look is taken over into the record.
type TakeOver struct {
	Look        string            `json:"look" format:"uuid" doc:"The look it was seen in; another one since is refused."`
	Sure        bool              `json:"sure,omitzero" doc:"Everything that needs no thought."`
	Hosts       []string          `json:"hosts,omitzero" maxItems:"5000" doc:"Keys of hosts of which everything is taken over."`
	Differences []string          `json:"differences,omitzero" maxItems:"20000" doc:"Ids of single differences."`
	Rooms       map[string]string `json:"rooms,omitzero" doc:"By the key of a host: the room it stands in, by its id."`
}

// TakenOver is what was taken over.
type TakenOver struct {
	Records []Named `json:"records" doc:"The records that were written."`
	Values  int     `json:"values" doc:"How many values were taken over."`
}

// SayOfHosts says which device a host is, or sets differences aside.
type SayOfHosts struct {
	Look  string            `json:"look" format:"uuid" doc:"The look it was seen in."`
	Is    map[string]string `json:"is,omitzero" doc:"By the key of a host: the id of the device it is, new for none of them, or nothing to take the word back."`
	Aside []string          `json:"aside,omitzero" maxItems:"20000" doc:"Ids of differences that are not offered again while the same is seen."`
	Back  []string          `json:"back,omitzero" maxItems:"20000" doc:"Ids of differences that are offered again."`
}
