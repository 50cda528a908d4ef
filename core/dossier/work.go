package dossier

import "time"

// Visit is a technician's time at a household, with a purpose.
type Visit struct {
	Meta[Visit]
	Purpose    string    `json:"purpose" label:"true" minLength:"1" maxLength:"200" title:"Purpose" doc:"What the visit is for."`
	Technician PersonID  `json:"technician" gorm:"serializer:cell" title:"Technician" doc:"Who goes. They can change this home on that day, the day before and the day after."`
	Starts     time.Time `json:"starts" gorm:"serializer:cell" title:"Starts" doc:"When it starts."`
	Minutes    int       `json:"minutes,omitzero" minimum:"0" maximum:"2880" title:"Minutes" doc:"How long it takes."`
	Bring      []Item    `json:"bring,omitzero" gorm:"serializer:cell" part:"Before it" title:"Bring" doc:"Parts and tools to bring."`
	Bench      []Item    `json:"bench,omitzero" gorm:"serializer:cell" title:"Bench work" doc:"What has to be prepared: images written, accounts created, versions downloaded."`
	Outcome    string    `json:"outcome,omitzero" maxLength:"2000" part:"After it" title:"Outcome" doc:"What was done and what was left."`
	Cancelled  bool      `json:"cancelled,omitzero" title:"Cancelled" doc:"It does not take place."`
}

// Item is something to bring or to make ready.
type Item struct {
	What  string `json:"what" minLength:"1" title:"Item" doc:"The thing or the work."`
	Ready bool   `json:"ready,omitzero" title:"Ready" doc:"It is there, or done."`
}

// Wait is something long that was started and must be looked at later.
type LongTask struct {
	Meta[LongTask]
	What       string    `json:"what" label:"true" minLength:"1" maxLength:"200" title:"Task" doc:"What is running, such as first index of the photo folder."`
	Subject    Ref       `json:"subject,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The record it is about."`
	StartedAt  time.Time `json:"startedAt,omitzero" gorm:"serializer:cell" title:"Started" doc:"When it was started."`
	ExpectedAt time.Time `json:"expectedAt" gorm:"serializer:cell" title:"Expected to finish" doc:"When it should have finished."`
	CheckedBy  PersonID  `json:"checkedBy" gorm:"serializer:cell" title:"Checked by" doc:"Who checks it then."`
	EndedAt    time.Time `json:"endedAt,omitzero" gorm:"serializer:cell" title:"Finished" doc:"When it was found to have finished."`
	Showed     string    `json:"showed,omitzero" maxLength:"400" title:"Result" doc:"The result."`
}

// Due is something that ends or falls due in aftercare.
type Due struct {
	Meta[Due]
	What    string    `json:"what" label:"true" minLength:"1" maxLength:"200" title:"What" doc:"What is due, such as trial of the server ends."`
	Kind    DueKind   `json:"kind" title:"Type" doc:"What kind of date it is."`
	On      Date      `json:"on" gorm:"serializer:cell" title:"On" doc:"The day."`
	Subject Ref       `json:"subject,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The record it is about."`
	Who     PersonID  `json:"who,omitzero" gorm:"serializer:cell" title:"Person" doc:"Who takes care of it; empty for the custodian."`
	DoneAt  time.Time `json:"doneAt,omitzero" gorm:"serializer:cell" title:"Done" doc:"When it was taken care of."`
	Note    string    `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"What to do then."`
}

// DueKind is a sort of date in aftercare.
type DueKind string

// Sorts of date.
const (
	DueTrial       DueKind = "trial"
	DueLicence     DueKind = "licence"
	DueCertificate DueKind = "certificate"
	DueReview      DueKind = "device-list-review"
	DueCopy        DueKind = "settings-copy"
	DueWarranty    DueKind = "warranty"
	DueOther       DueKind = "other"
)

// Values lists the sorts.
func (DueKind) Values() []string {
	return words(DueTrial, DueLicence, DueCertificate, DueReview, DueCopy, DueWarranty, DueOther)
}

// Attachment is a photograph or a text file kept with a record. Its body lies outside the
// dossier, named by its sum.
type Attachment struct {
	Meta[Attachment]
	Subject   Ref       `json:"subject" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"About" doc:"The record it belongs to."`
	Caption   string    `json:"caption" label:"true" minLength:"1" maxLength:"400" title:"Caption" doc:"What it shows."`
	SHA256    string    `json:"sha256" searched:"no" rule:"case" gorm:"column:sha256" title:"Checksum" doc:"SHA-256 of the file, in hexadecimal."`
	MediaType string    `json:"mediaType" searched:"no" rule:"case" title:"Type" doc:"Media type of the file."`
	Bytes     int       `json:"bytes" rule:"case" title:"Bytes" doc:"Size of the file."`
	Width     int       `json:"width,omitzero" rule:"case" title:"Width" doc:"Width of a photograph in pixels."`
	Height    int       `json:"height,omitzero" rule:"case" title:"Height" doc:"Height of a photograph in pixels."`
	FileName  string    `json:"fileName,omitzero" rule:"case" maxLength:"200" title:"File" doc:"Name of the original file."`
	At        time.Time `json:"at" rule:"case" gorm:"serializer:cell" title:"Added" doc:"When it was added."`
	By        PersonID  `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who added it."`
}

// Point is one thing that the receiver of a handover reads back.
type Point struct {
	ID        string            `json:"id" doc:"Id of the point within its handover, such as p003."`
	Code      string            `json:"code" doc:"What kind of point it is, such as issue-open or test-stale."`
	Subject   Ref               `json:"subject,omitzero" doc:"The record it is about."`
	Values    map[string]string `json:"values,omitzero" doc:"The details."`
	Found     map[string]Value  `json:"found,omitzero" doc:"What a finding rests on."`
	Confirmed bool              `json:"confirmed,omitzero" doc:"Read back by the receiver."`
	Question  string            `json:"question,omitzero" doc:"The receiver's question about it."`
	Answer    string            `json:"answer,omitzero" doc:"The giver's answer."`
}

// Handover is the transfer of custody from one technician to another. It is never removed.
type Handover struct {
	Meta[Handover]
	From          PersonID      `json:"from" rule:"case" gorm:"serializer:cell" title:"From" doc:"The giver, responsible until it is accepted."`
	To            PersonID      `json:"to" rule:"case" gorm:"serializer:cell" title:"To" doc:"The receiver."`
	State         HandoverState `json:"state" rule:"case" label:"true" title:"State" doc:"Its state."`
	SinceRevision uint64        `json:"sinceRevision,omitzero" rule:"case" title:"Since revision" doc:"The digest covers changes after this revision."`
	UntilRevision uint64        `json:"untilRevision" rule:"case" title:"Until revision" doc:"The digest covers changes up to this revision."`
	Note          string        `json:"note,omitzero" rule:"case" maxLength:"2000" title:"Note" doc:"What not to touch and why, what to bring, what was promised."`
	Points        []Point       `json:"points,omitzero" searched:"no" rule:"case" gorm:"serializer:cell" title:"Points" doc:"What is read back."`
	DraftedAt     time.Time     `json:"draftedAt" rule:"case" gorm:"serializer:cell" title:"Drafted" doc:"When it was drafted."`
	OfferedAt     time.Time     `json:"offeredAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Offered" doc:"When it was offered."`
	EndedAt       time.Time     `json:"endedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Ended" doc:"When it was accepted, returned or outdated."`
	ReturnedWhy   string        `json:"returnedWhy,omitzero" rule:"case" maxLength:"400" title:"Reason for returning" doc:"Why it was returned."`
}

// HandoverState is the state of a handover.
type HandoverState string

// States of a handover.
const (
	Drafted  HandoverState = "drafted"
	Offered  HandoverState = "offered"
	Accepted HandoverState = "accepted"
	Returned HandoverState = "returned"
	Outdated HandoverState = "outdated"
)

// Values lists all states.
func (HandoverState) Values() []string { return words(Drafted, Offered, Accepted, Returned, Outdated) }
