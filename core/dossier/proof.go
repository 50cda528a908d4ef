package dossier

import (
	"slices"
	"time"
)

// Fact is one value of the dossier that a proof stands on.
type Fact struct {
	Subject Ref    `json:"subject" doc:"The record whose fact it is."`
	Name    string `json:"name" doc:"What is said of it, such as address."`
	Value   string `json:"value" doc:"The value; empty when it was not recorded."`
}

// Attempt is one carrying-out of a test. It is never changed and never removed.
type Attempt struct {
	Meta[Attempt]
	Test       string             `json:"test" searched:"no" rule:"case" label:"true" title:"Test" doc:"Kind of the test, such as reach."`
	Subjects   []Ref              `json:"subjects" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Subjects" doc:"What was tested, sorted."`
	Outcome    Outcome            `json:"outcome" rule:"case" title:"Outcome" doc:"What came of it."`
	Observed   string             `json:"observed,omitzero" searched:"no" rule:"case" title:"Observed" doc:"Code of what was seen, such as refused or time-out."`
	Values     map[string]float64 `json:"values,omitzero" rule:"case" gorm:"serializer:cell" title:"Values" doc:"Measured values; the name carries the unit, such as roundTripMs."`
	Conditions string             `json:"conditions,omitzero" rule:"case" maxLength:"400" title:"Conditions" doc:"Under which conditions, such as evening, door closed."`
	Note       string             `json:"note,omitzero" rule:"case" maxLength:"2000" title:"Note" doc:"What was seen, in words."`
	How        How                `json:"how" rule:"case" title:"Judged by" doc:"A machine or a person's eye."`
	By         PersonID           `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who carried it out."`
	At         time.Time          `json:"at" rule:"case" gorm:"serializer:cell" title:"At" doc:"When."`
	Facts      []Fact             `json:"facts,omitzero" searched:"no" rule:"case" gorm:"serializer:cell" title:"Facts" doc:"The fingerprint: what the result stands on."`
}

// Exception is a required test set aside by a lead technician.
type Exception struct {
	Meta[Exception]
	Test     string    `json:"test" searched:"no" rule:"case" label:"true" title:"Test" doc:"Kind of the test, such as plays."`
	Subjects []Ref     `json:"subjects" rule:"case" onremove:"cascade" gorm:"serializer:cell" title:"Subjects" doc:"What the test is about, sorted."`
	Why      string    `json:"why" rule:"case" maxLength:"400" title:"Why" doc:"The reason, as the customer may read it."`
	Until    Date      `json:"until,omitzero" rule:"case" gorm:"serializer:cell" title:"Until" doc:"Day on which it is looked at again. It holds until it is ended."`
	By       PersonID  `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who set it aside."`
	At       time.Time `json:"at" rule:"case" gorm:"serializer:cell" title:"At" doc:"When."`
}

// Try is one thing done about an issue, with what it showed.
type Try struct {
	ID     string    `json:"id" doc:"Id of the try."`
	At     time.Time `json:"at" doc:"When."`
	By     PersonID  `json:"by" doc:"Who."`
	What   string    `json:"what" doc:"What was done."`
	Showed string    `json:"showed,omitzero" doc:"What it showed."`
}

// Issue is something open in the home.
type Issue struct {
	Meta[Issue]
	Symptom       string      `json:"symptom" label:"true" minLength:"1" maxLength:"400" title:"Symptom" doc:"What is wrong, as it shows."`
	Subjects      []Ref       `json:"subjects,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The records it is about."`
	Reporter      string      `json:"reporter,omitzero" personal:"true" maxLength:"120" title:"Said by" doc:"Who said so."`
	Since         time.Time   `json:"since,omitzero" gorm:"serializer:cell" title:"Since" doc:"Since when it shows."`
	State         IssueState  `json:"state" rule:"case" title:"State" doc:"Where it stands."`
	Owner         PersonID    `json:"owner,omitzero" rule:"case" gorm:"serializer:cell" title:"Owner" doc:"Who has it in hand."`
	NextStep      string      `json:"nextStep,omitzero" rule:"case" maxLength:"400" title:"Next step" doc:"What to do next."`
	WaitingOn     string      `json:"waitingOn,omitzero" rule:"case" maxLength:"120" title:"Waiting on" doc:"Whom or what it waits for."`
	PromisedUntil time.Time   `json:"promisedUntil,omitzero" rule:"case" gorm:"serializer:cell" title:"Promised until" doc:"What the customer was promised."`
	OpenedBy      PersonID    `json:"openedBy" rule:"case" gorm:"serializer:cell" title:"Opened by" doc:"Who opened it."`
	OpenedAt      time.Time   `json:"openedAt" rule:"case" gorm:"serializer:cell" title:"Opened at" doc:"When."`
	FailedAttempt ID[Attempt] `json:"failedAttempt,omitzero" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Opened from" doc:"The failed attempt it was opened from."`
	Tries         []Try       `json:"tries,omitzero" rule:"case" gorm:"serializer:cell" title:"Tries" doc:"What was done about it, in order."`
	Cause         string      `json:"cause,omitzero" rule:"case" maxLength:"400" title:"Cause" doc:"What it was."`
	Remedy        string      `json:"remedy,omitzero" rule:"case" maxLength:"400" title:"Remedy" doc:"What was done for good."`
	RemediedAt    time.Time   `json:"remediedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Remedied at" doc:"When."`
	Proof         ID[Attempt] `json:"proof,omitzero" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Proof" doc:"The passed attempt after the remedy."`
	ClosedAt      time.Time   `json:"closedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Closed at" doc:"When."`
	ClosedWhy     string      `json:"closedWhy,omitzero" rule:"case" maxLength:"400" title:"Closed because" doc:"The reason, where no test could prove it."`
}

// SettingsCopy is a copy of a device's settings.
type SettingsCopy struct {
	Meta[SettingsCopy]
	Device  ID[Device]  `json:"device" rule:"fixed" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device whose settings they are."`
	TakenAt time.Time   `json:"takenAt" label:"true" gorm:"serializer:cell" title:"Taken at" doc:"When it was taken."`
	Holds   CopyContent `json:"holds" title:"Holds" doc:"Whether the catalogue is in it too."`
	Where   string      `json:"where" minLength:"1" maxLength:"400" title:"Where" doc:"Where the copy lies."`
	Version string      `json:"version,omitzero" maxLength:"80" title:"Of version" doc:"The version it was taken from."`
	Note    string      `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Whether bringing it back was tried."`
}

// Change is something altered on a device, with what it owes.
type Change struct {
	Meta[Change]
	Device       ID[Device]       `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device it was made on."`
	What         string           `json:"what" label:"true" minLength:"1" maxLength:"400" title:"What" doc:"What was altered, from what to what."`
	At           time.Time        `json:"at,omitzero" gorm:"serializer:cell" title:"When" doc:"When it was made, if not now."`
	Owes         []Owed           `json:"owes,omitzero" gorm:"serializer:cell" title:"Owes" doc:"What must follow for it to work."`
	Done         []Owed           `json:"done,omitzero" gorm:"serializer:cell" title:"Done" doc:"What of that was done."`
	Losses       string           `json:"losses,omitzero" maxLength:"400" title:"What is lost" doc:"What a rebuild or reset loses."`
	SettingsCopy ID[SettingsCopy] `json:"settingsCopy,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Copy before it" doc:"The copy of the settings taken before."`
	Note         string           `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Why it still owes something, who will do it."`
}

// Owing returns what the change still owes, in the order in which it is done.
func (c Change) Owing() []Owed {
	var out []Owed
	for _, word := range Owed("").Values() {
		if one := Owed(word); slices.Contains(c.Owes, one) && !slices.Contains(c.Done, one) {
			out = append(out, one)
		}
	}
	return out
}
