package wire

import (
	"time"

	"kaiku/core/dossier"
	"kaiku/core/recurring"
	"kaiku/core/suspects"
)

// IssueAnswer is what a caller said to one question about an issue.
type IssueAnswer struct {
	Question  string         `json:"question" minLength:"1" maxLength:"60" doc:"Id of the question, or code of what the caller says is wrong."`
	About     dossier.Ref    `json:"about,omitzero" doc:"The path that it is about, if it is about one."`
	Said      dossier.Answer `json:"said,omitzero" enum:"yes,no" doc:"What was answered; left out for: I do not know."`
	TakenBack bool           `json:"takenBack,omitzero" doc:"Whether the answer is taken back."`
}

// Suspects are the faults that would explain what is known of a home.
type Suspects struct {
	Sentence   string          `json:"sentence" doc:"How it stands, in words."`
	Failures   int             `json:"failures" doc:"How much that failed is known."`
	Evidence   int             `json:"evidence" doc:"How many results and answers were weighed."`
	Sure       bool            `json:"sure" doc:"Whether the first is likely enough to act on."`
	None       float64         `json:"none" doc:"How likely it is none of the known faults."`
	Suspects   []Suspect       `json:"suspects" doc:"The likeliest first."`
	Steps      []SuspectStep   `json:"steps" doc:"What to ask, test or look at next, the most telling per minute first."`
	Answers    []AnswerGiven   `json:"answers" doc:"What the caller said so far."`
	Changes    []ChangeBefore  `json:"changes" doc:"What was changed within two weeks before it began, of what the paths stand on."`
	Complaints []ComplaintCode `json:"complaints" doc:"What a caller can say is wrong."`
	Paths      []Named         `json:"paths" doc:"The paths that it can be about."`
}

// Suspect is a fault that would explain what is known.
type Suspect struct {
	Mode        string        `json:"mode" doc:"Id of the kind of fault."`
	Title       string        `json:"title" doc:"What is wrong."`
	About       Named         `json:"about" doc:"Where."`
	Probability float64       `json:"probability" minimum:"0" maximum:"1" doc:"How likely it is, alone or beside another. It is an estimate: the odds that it rests on are judgement."`
	Word        suspects.Word `json:"word" enum:"almost-certain,probable,possible,unlikely" doc:"The same as a word."`
	With        string        `json:"with,omitzero" doc:"The fault beside which it is likelier than alone."`
	For         []string      `json:"for" doc:"What speaks for it, the weightiest first."`
	Against     []string      `json:"against" doc:"What speaks against it, and what it leaves unexplained."`
	Look        string        `json:"look" doc:"How to see that it is this."`
	LookBy      suspects.By   `json:"lookBy" enum:"caller,technician,machine" doc:"Who can."`
	LookMinutes int           `json:"lookMinutes" doc:"How long that takes."`
	Remedy      string        `json:"remedy" doc:"What to do about it."`
	Minutes     int           `json:"minutes" doc:"How long the remedy takes."`
	Bring       []string      `json:"bring,omitzero" doc:"What to bring."`
	Proves      []Named       `json:"proves" doc:"Tests that failed and that the remedy has to make pass."`
	Source      string        `json:"source" doc:"Where the numbers of this fault come from."`
}

// SuspectStep is one thing to ask, test or look at.
type SuspectStep struct {
	Kind     string      `json:"kind" enum:"test,question,look,swap" doc:"What it is. A swap puts something else in the place of what may be faulty."`
	Test     string      `json:"test,omitzero" doc:"Identity of the test."`
	Question string      `json:"question,omitzero" doc:"The question under which its outcome is noted; left out for a test, which is recorded."`
	Mode     string      `json:"mode,omitzero" doc:"Id of the kind of fault that is looked for."`
	About    Named       `json:"about,omitzero" doc:"What it is about."`
	Sentence string      `json:"sentence" doc:"What to ask or do."`
	By       suspects.By `json:"by" enum:"caller,machine,technician" doc:"Who can do it."`
	Minutes  float64     `json:"minutes" doc:"How long it takes."`
	Then     []string    `json:"then,omitzero" doc:"What follows when it comes out one way or the other; of the first step alone."`
	Bits     float64     `json:"bits" doc:"By how much it is expected to narrow down what it is, in bits."`
}

// AnswerGiven is an answer with names.
type AnswerGiven struct {
	IssueAnswer
	Asked string    `json:"asked" doc:"The question in words."`
	Of    Named     `json:"of,omitzero" doc:"The path that it is about."`
	By    string    `json:"by" doc:"Name of the person who asked."`
	At    time.Time `json:"at" doc:"When."`
}

// ChangeBefore is a change after which something may have begun to fail.
type ChangeBefore struct {
	About Named     `json:"about" doc:"The record that was changed."`
	At    time.Time `json:"at" doc:"When."`
	By    string    `json:"by" doc:"Who changed it."`
	What  []string  `json:"what" doc:"What was changed, line by line."`
}

// LearnedOdds says how the odds of a kind of fault move by what was found in the firm's homes.
type LearnedOdds struct {
	Mode     string      `json:"mode" doc:"Id of the kind of fault."`
	Title    string      `json:"title" doc:"What is wrong."`
	Came     float64     `json:"came" doc:"The odds as they came."`
	Odds     float64     `json:"odds" doc:"The odds that are reckoned with."`
	Found    int         `json:"found" doc:"How many closed issues this was the fault of."`
	Of       int         `json:"of" doc:"How many closed issues had their fault at a component of the same kind."`
	Expected float64     `json:"expected" doc:"How many of these it would have been by the odds as they came."`
	Kept     bool        `json:"kept" doc:"Whether the firm keeps the odds as they came."`
	From     []FoundHere `json:"from" doc:"The issues that it was found with."`
	Sentence string      `json:"sentence" doc:"The same in words."`
}

// FoundHere is one issue with which a fault was found.
type FoundHere struct {
	Household string `json:"household" doc:"Code of the household."`
	Issue     string `json:"issue" doc:"Id of the issue."`
}

// OddsKept says whether the odds of a kind of fault stay as they came.
type OddsKept struct {
	Kept bool `json:"kept" doc:"Whether the odds stay as they came, whatever is found."`
}

// SharedFault is one fault that shows in several homes that have something in common.
type SharedFault struct {
	Mode     string         `json:"mode" doc:"Id of the kind of fault."`
	Title    string         `json:"title" doc:"What is wrong."`
	Kind     recurring.Kind `json:"kind" enum:"model,variant,program,release" doc:"What they have in common: a model of device, with one version of its firmware, a program, or one version of it."`
	What     string         `json:"what" doc:"The model or program."`
	Sentence string         `json:"sentence" doc:"How it stands, in words."`
	Remedy   string         `json:"remedy" doc:"What to do about it."`
	Homes    []SharedIn     `json:"homes" doc:"The homes that report it, with what to do in each."`
	Besides  []SharedIn     `json:"besides" doc:"Other homes that have the same, with what to do there."`
}

// SharedIn is one home with a fault that others have too, or that may get it.
type SharedIn struct {
	Household   string  `json:"household" doc:"Code of the household."`
	Name        string  `json:"name" doc:"Its name."`
	Issue       Named   `json:"issue,omitzero" doc:"The issue."`
	State       string  `json:"state,omitzero" doc:"State of the issue."`
	Found       bool    `json:"found,omitzero" doc:"Whether the fault was found, and is not only suspected."`
	Probability float64 `json:"probability,omitzero" doc:"How likely it is, where it is only suspected."`
	Do          string  `json:"do" doc:"What to do there."`
}

// ComplaintCode is something that callers say is wrong.
type ComplaintCode struct {
	Code string `json:"code" doc:"Its code."`
	Text string `json:"text" doc:"The same as a caller says it."`
}

// Recurring is how often faults were found at one model or program in the homes of the firm.
type Recurring struct {
	Kind     recurring.Kind `json:"kind" enum:"model,variant,program,release" doc:"What it is about: a model of device, with one version of its firmware, a program, or one version of it. Versions are those recorded now."`
	What     string         `json:"what" doc:"The model or program."`
	Faults   int            `json:"faults" doc:"How many faults were found at it."`
	Homes    int            `json:"homes" doc:"How many homes have it."`
	Years    float64        `json:"years" doc:"For how many years these homes are looked after, together."`
	Rate     float64        `json:"rate" doc:"Faults in a year of one home, estimated."`
	Low      float64        `json:"low" doc:"Lower end of the interval in which the rate lies with 90 %."`
	High     float64        `json:"high" doc:"Upper end of it."`
	Enough   bool           `json:"enough" doc:"Whether there are cases enough for the rate to say something."`
	Modes    []string       `json:"modes" doc:"Which faults, and how often."`
	Sentence string         `json:"sentence" doc:"The same in words."`
}
