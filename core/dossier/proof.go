package dossier

import (
	"slices"
	"time"
)

// Fact is one value of the dossier that a proof is based on.
type Fact struct {
	Subject Ref    `json:"subject" doc:"The record that the fact is about."`
	Name    string `json:"name" doc:"The name of the fact, such as address."`
	Value   string `json:"value" doc:"Its value; empty if it was not recorded."`
}

// Attempt is one carrying-out of a test. It is never changed and never removed.
type Attempt struct {
	Meta[Attempt]
	Test       string             `json:"test" searched:"no" rule:"case" label:"true" title:"Test" doc:"Kind of test, such as reach."`
	Subjects   []Ref              `json:"subjects" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"About" doc:"What was tested, sorted."`
	Outcome    Outcome            `json:"outcome" rule:"case" title:"Outcome" doc:"How it went."`
	Observed   Observed           `json:"observed,omitzero" searched:"no" rule:"case" title:"Observed" doc:"Code of what was observed, such as refused or time-out."`
	Values     map[string]float64 `json:"values,omitzero" rule:"case" gorm:"serializer:cell" title:"Values" doc:"Measured values; the name includes the unit, such as roundTripMs."`
	Conditions string             `json:"conditions,omitzero" rule:"case" maxLength:"400" title:"Conditions" doc:"Circumstances that may matter, such as evening, door closed."`
	Note       string             `json:"note,omitzero" rule:"case" maxLength:"2000" title:"Note" doc:"What was seen, in words."`
	How        How                `json:"how" rule:"case" title:"Judged by" doc:"A machine or a person."`
	By         PersonID           `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who did the test."`
	At         time.Time          `json:"at" rule:"case" gorm:"serializer:cell" title:"When" doc:"When the test was done."`
	Facts      []Fact             `json:"facts,omitzero" searched:"no" rule:"case" gorm:"serializer:cell" title:"Facts" doc:"The fingerprint: the facts that the result depends on, as they were when the test began. What was not recorded is left out."`
	Version    int                `json:"version,omitzero" rule:"case" title:"Version of the facts" doc:"Version of the table that says which facts count."`
	AsOf       uint64             `json:"asOf,omitzero" rule:"case" title:"As of revision" doc:"The revision of the home when the test began."`
}

// Outcome is what came of an attempt.
type Outcome string

// Outcomes of an attempt. Impossible means the test could not be carried out; it proves nothing.
const (
	Pass       Outcome = "pass"
	Marginal   Outcome = "marginal"
	Fail       Outcome = "fail"
	Impossible Outcome = "impossible"
)

// Values lists all outcomes.
func (Outcome) Values() []string { return words(Pass, Marginal, Fail, Impossible) }

// Waiver is a required test waived by a lead technician.
type Waiver struct {
	Meta[Waiver]
	Test     string    `json:"test" searched:"no" rule:"case" label:"true" title:"Test" doc:"Kind of test, such as plays."`
	Subjects []Ref     `json:"subjects" rule:"case" onremove:"cascade" gorm:"serializer:cell" title:"About" doc:"What the test is about, sorted."`
	Why      string    `json:"why" rule:"case" maxLength:"400" title:"Reason" doc:"The reason. It may be shown to the customer."`
	Until    Date      `json:"until,omitzero" rule:"case" gorm:"serializer:cell" title:"Review on" doc:"Day on which the waiver is to be reviewed. It holds until it is ended."`
	By       PersonID  `json:"by" rule:"case" gorm:"serializer:cell" title:"By" doc:"Who waived the test."`
	At       time.Time `json:"at" rule:"case" gorm:"serializer:cell" title:"When" doc:"When it was waived."`
}

// Try is one thing done about an issue, with what it showed.
type Try struct {
	ID     string    `json:"id" doc:"Id of the try."`
	At     time.Time `json:"at" doc:"When it was done."`
	By     PersonID  `json:"by" doc:"Who did it."`
	What   string    `json:"what" doc:"What was done."`
	Showed string    `json:"showed,omitzero" doc:"What it showed."`
}

// Issue is something open in the home.
type Issue struct {
	Meta[Issue]
	Symptom       string      `json:"symptom" label:"true" minLength:"1" maxLength:"400" title:"Symptom" doc:"What is wrong, as it appears."`
	Subjects      []Ref       `json:"subjects,omitzero" onremove:"clear" gorm:"serializer:cell" title:"About" doc:"The records it is about."`
	Reporter      string      `json:"reporter,omitzero" personal:"true" maxLength:"120" title:"Reported by" doc:"Who reported it."`
	Since         time.Time   `json:"since,omitzero" gorm:"serializer:cell" title:"Since" doc:"Since when it has been happening."`
	State         IssueState  `json:"state" rule:"case" title:"State" doc:"Its state."`
	Owner         PersonID    `json:"owner,omitzero" rule:"case" gorm:"serializer:cell" title:"Owner" doc:"The person who has it in hand."`
	NextStep      string      `json:"nextStep,omitzero" rule:"case" maxLength:"400" title:"Next step" doc:"What to do next."`
	WaitingOn     string      `json:"waitingOn,omitzero" rule:"case" maxLength:"120" title:"Waiting for" doc:"Who or what it is waiting for."`
	PromisedUntil time.Time   `json:"promisedUntil,omitzero" rule:"case" gorm:"serializer:cell" title:"Promised by" doc:"The date promised to the customer."`
	OpenedBy      PersonID    `json:"openedBy" rule:"case" gorm:"serializer:cell" title:"Opened by" doc:"Who opened it."`
	OpenedAt      time.Time   `json:"openedAt" rule:"case" gorm:"serializer:cell" title:"Opened" doc:"When it was opened."`
	FailedAttempt ID[Attempt] `json:"failedAttempt,omitzero" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Opened from" doc:"The failed attempt that it was opened from."`
	Test          string      `json:"test,omitzero" searched:"no" rule:"case" maxLength:"200" title:"Proven by" doc:"The test that will prove the remedy, if it was not opened from a failed one."`
	Promise       string      `json:"promise,omitzero" maxLength:"400" title:"Promise" doc:"What was promised to the customer, as it was said."`
	Tries         []Try       `json:"tries,omitzero" rule:"case" gorm:"serializer:cell" title:"Tries" doc:"What was tried, in order."`
	Answers       []Answered  `json:"answers,omitzero" rule:"case" gorm:"serializer:cell" title:"Answers" doc:"What the caller said when asked, the newest answer to each question."`
	Cause         string      `json:"cause,omitzero" rule:"case" maxLength:"400" title:"Cause" doc:"What the cause was."`
	Remedy        string      `json:"remedy,omitzero" rule:"case" maxLength:"400" title:"Remedy" doc:"What was done to fix it."`
	Fault         string      `json:"fault,omitzero" searched:"no" rule:"case" maxLength:"60" title:"Fault" doc:"Id of the fault mode that it was."`
	FaultAt       Ref         `json:"faultAt,omitzero" rule:"case" onremove:"clear" gorm:"serializer:cell" title:"Fault at" doc:"The component that was faulty."`
	RemediedAt    time.Time   `json:"remediedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Remedied" doc:"When it was remedied."`
	Proof         ID[Attempt] `json:"proof,omitzero" rule:"case" onremove:"restrict" gorm:"serializer:cell" title:"Proof" doc:"The attempt that passed after the remedy."`
	ClosedAt      time.Time   `json:"closedAt,omitzero" rule:"case" gorm:"serializer:cell" title:"Closed" doc:"When it was closed."`
	SameAs        ID[Issue]   `json:"sameAs,omitzero" rule:"case" onremove:"clear" gorm:"serializer:cell" title:"Same as" doc:"The issue of which this is one more symptom."`
	ClosedWhy     string      `json:"closedWhy,omitzero" rule:"case" maxLength:"400" title:"Reason for closing" doc:"The reason, if no test could prove it."`
}

// Answered is what a caller said to one question about an issue.
type Answered struct {
	Question string    `json:"question" doc:"Id of the question, or code of what the caller says is wrong."`
	About    Ref       `json:"about,omitzero" doc:"The path that it is about, if it is about one."`
	Said     Answer    `json:"said,omitzero" doc:"What was answered; empty for: I do not know."`
	By       PersonID  `json:"by" doc:"Who asked."`
	At       time.Time `json:"at" doc:"When."`
}

// IssueState is the state of an issue.
type IssueState string

// States of an issue.
const (
	IssueOpen     IssueState = "open"
	IssueInHand   IssueState = "in-hand"
	IssueWaiting  IssueState = "waiting"
	IssueRemedied IssueState = "remedied"
	IssueClosed   IssueState = "closed"
)

// Values lists all states in the order an issue usually runs through them.
func (IssueState) Values() []string {
	return words(IssueOpen, IssueInHand, IssueWaiting, IssueRemedied, IssueClosed)
}

// SettingsCopy is a copy of a device's settings.
type SettingsCopy struct {
	Meta[SettingsCopy]
	Device  ID[Device]  `json:"device" rule:"fixed" onremove:"restrict" gorm:"serializer:cell" title:"Device" doc:"The device whose settings were copied."`
	TakenAt time.Time   `json:"takenAt" label:"true" gorm:"serializer:cell" title:"Taken" doc:"When it was taken."`
	Holds   CopyContent `json:"holds" title:"Contains" doc:"Whether the catalogue is included."`
	Where   string      `json:"where" minLength:"1" maxLength:"400" title:"Kept in" doc:"Where the copy is kept."`
	Version string      `json:"version,omitzero" maxLength:"80" title:"Of version" doc:"The version that it was taken from."`
	Note    string      `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Whether restoring it has been tried."`
}

// CopyContent is what a settings copy holds.
type CopyContent string

// Contents of a settings copy.
const (
	CopySettings  CopyContent = "settings-only"
	CopyCatalogue CopyContent = "settings-and-catalogue"
)

// Values lists the contents.
func (CopyContent) Values() []string {
	return words(CopySettings, CopyCatalogue)
}

// Change is something altered on a device, with what it owes.
type Change struct {
	Meta[Change]
	Device       ID[Device]       `json:"device" rule:"fixed" onremove:"cascade" gorm:"serializer:cell" title:"Device" doc:"The device that was changed."`
	What         string           `json:"what" label:"true" minLength:"1" maxLength:"400" title:"Change" doc:"What was changed, from what to what."`
	At           time.Time        `json:"at,omitzero" gorm:"serializer:cell" title:"When" doc:"When it was made, if not now."`
	Effect       Effect           `json:"effect,omitzero" title:"Effect on what was proven" doc:"What it means for what was proven on this device before. Until this is known, those proofs are in doubt."`
	ConfirmedAt  time.Time        `json:"confirmedAt,omitzero" gorm:"serializer:cell" title:"Settings confirmed" doc:"After a reset: when the settings were found to be as they must be."`
	FollowUps    []FollowUp       `json:"followUps,omitzero" gorm:"serializer:cell" title:"Follow-ups" doc:"What still has to be done for it to work."`
	Done         []FollowUp       `json:"done,omitzero" gorm:"serializer:cell" title:"Done" doc:"Follow-ups that have been done."`
	Losses       string           `json:"losses,omitzero" maxLength:"400" title:"What is lost" doc:"What a rebuild or reset loses. Required for a rebuild, and for a reset without a copy of the settings."`
	SettingsCopy ID[SettingsCopy] `json:"settingsCopy,omitzero" onremove:"clear" gorm:"serializer:cell" title:"Settings copy" doc:"The copy of the settings taken beforehand."`
	Note         string           `json:"note,omitzero" maxLength:"2000" title:"Note" doc:"Why follow-ups are still to do, and who will do them."`
}

// FollowUp is what a change still needs for it to work.
type FollowUp string

// Follow-ups, in the order in which they are done.
const (
	FollowUpSave    FollowUp = "save"
	FollowUpIndex   FollowUp = "index-again"
	FollowUpTell    FollowUp = "tell-devices"
	FollowUpClear   FollowUp = "clear-device-cache"
	FollowUpRestart FollowUp = "restart"
	FollowUpRebuild FollowUp = "rebuild-catalogue"
)

// Values lists the follow-ups.
func (FollowUp) Values() []string {
	return words(FollowUpSave, FollowUpIndex, FollowUpTell, FollowUpClear, FollowUpRestart, FollowUpRebuild)
}

// Effect is what a change on a device means for what was proven on it before.
type Effect string

// Effects of a change.
const (
	EffectNone  Effect = "none"
	EffectReset Effect = "reset-to-defaults"
)

// Values lists the effects.
func (Effect) Values() []string { return words(EffectNone, EffectReset) }

// Outstanding returns what the change still owes, in the order in which it is done.
func (c Change) Outstanding() []FollowUp {
	var out []FollowUp
	for _, word := range FollowUp("").Values() {
		if one := FollowUp(word); slices.Contains(c.FollowUps, one) && !slices.Contains(c.Done, one) {
			out = append(out, one)
		}
	}
	return out
}
