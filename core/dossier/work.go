package dossier

import "time"

// Visit is a technician's time at a household, with a purpose.
type Visit struct {
	Meta[Visit]
	Purpose    string    `json:"purpose" label:"true" minLength:"1" maxLength:"200" title:"Purpose" doc:"What it is for."`
	Technician PersonID  `json:"technician" gorm:"serializer:cell" title:"Technician" doc:"Who goes. May write in this home on that day, the day before and the day after."`
	Starts     time.Time `json:"starts" gorm:"serializer:cell" title:"Starts" doc:"When it begins."`
	Minutes    int       `json:"minutes,omitzero" minimum:"0" maximum:"2880" title:"Minutes" doc:"How long it takes."`
	Bring      []Item    `json:"bring,omitzero" gorm:"serializer:cell" part:"Before it" title:"Bring" doc:"Parts and tools to bring."`
	Bench      []Item    `json:"bench,omitzero" gorm:"serializer:cell" title:"Bench work" doc:"What must be ready before: images written, accounts made, versions fetched."`
	Outcome    string    `json:"outcome,omitzero" maxLength:"2000" part:"After it" title:"What came of it" doc:"What was done and what was left."`
	Cancelled  bool      `json:"cancelled,omitzero" title:"Called off" doc:"It does not take place."`
}

// Item is something to bring or to make ready.
type Item struct {
	What  string `json:"what" minLength:"1" title:"What" doc:"The thing or the work."`
	Ready bool   `json:"ready,omitzero" title:"Ready" doc:"It is there, or done."`
}

// Wait is something long that was started and must be looked at later.
type Wait struct {
	Meta[Wait]
	What       string    `json:"what" label:"true" minLength:"1" maxLength:"200" title:"What" doc:"What runs, such as first index of the photo folder."`
	Subject    Ref       `json:"subject,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The record it is about."`
	StartedAt  time.Time `json:"startedAt,omitzero" gorm:"serializer:cell" title:"Started" doc:"When it was started."`
	ExpectedAt time.Time `json:"expectedAt" gorm:"serializer:cell" title:"Expected" doc:"When it should have ended."`
	LooksAgain PersonID  `json:"looksAgain" gorm:"serializer:cell" title:"Looks again" doc:"Who looks at it then."`
	EndedAt    time.Time `json:"endedAt,omitzero" gorm:"serializer:cell" title:"Ended" doc:"When it was seen to have ended."`
	Showed     string    `json:"showed,omitzero" maxLength:"400" title:"Showed" doc:"What came of it."`
}

// Due is something that ends or falls due in aftercare.
type Due struct {
	Meta[Due]
	What    string    `json:"what" label:"true" minLength:"1" maxLength:"200" title:"What" doc:"What falls due, such as trial of the server ends."`
	Kind    DueKind   `json:"kind" title:"Kind" doc:"What sort of date it is."`
	On      Date      `json:"on" gorm:"serializer:cell" title:"On" doc:"The day."`
	Subject Ref       `json:"subject,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The record it is about."`
	Who     PersonID  `json:"who,omitzero" gorm:"serializer:cell" title:"Who" doc:"Who sees to it; empty for the custodian."`
	DoneAt  time.Time `json:"doneAt,omitzero" gorm:"serializer:cell" title:"Done" doc:"When it was seen to."`
	Note    string    `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"What to do then."`
}

// Attachment is a photograph or a text file kept with a record. Its body lies outside the
// dossier, named by its sum.
type Attachment struct {
	Meta[Attachment]
	Subject   Ref       `json:"subject" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"About" doc:"The record it belongs to."`
	Caption   string    `json:"caption" label:"true" minLength:"1" maxLength:"400" title:"Caption" doc:"What is to be seen."`
	SHA256    string    `json:"sha256" searched:"no" rule:"case" gorm:"column:sha256" title:"Sum" doc:"SHA-256 of its body, in hexadecimal."`
	MediaType string    `json:"mediaType" searched:"no" rule:"case" title:"Type" doc:"Media type of its body."`
	Bytes     int       `json:"bytes" rule:"case" title:"Bytes" doc:"Size of its body."`
	Width     int       `json:"width,omitzero" rule:"case" title:"Width" doc:"Width of a photograph in pixels."`
	Height    int       `json:"height,omitzero" rule:"case" title:"Height" doc:"Height of a photograph in pixels."`
	FileName  string    `json:"fileName,omitzero" rule:"case" maxLength:"200" title:"File" doc:"Name of the file it was made from."`
	At        time.Time `json:"at" rule:"case" gorm:"serializer:cell" title:"Added" doc:"When it was added."`
	By        PersonID  `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who added it."`
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
	Points        []Point       `json:"points,omitzero" searched:"no" rule:"case" gorm:"serializer:cell" title:"Points" doc:"What is read back."`
	DraftedAt     time.Time     `json:"draftedAt" rule:"case" gorm:"serializer:cell" title:"Drafted at" doc:"When."`
	OfferedAt     time.Time     `json:"offeredAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Offered at" doc:"When."`
	EndedAt       time.Time     `json:"endedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Ended at" doc:"When it was accepted, returned or outdated."`
	ReturnedWhy   string        `json:"returnedWhy,omitzero" rule:"case" maxLength:"400" title:"Returned because" doc:"Why it was returned."`
}
