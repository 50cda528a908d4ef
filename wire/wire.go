// Package wire holds the request and answer types that the service, its HTTP interface, its
// client and the commands share. Answers carry codes, values and sentences, so that nobody
// writes a sentence twice.
package wire

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/custody"
	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/core/proving"
	"kaiku/core/remedy"
	"kaiku/core/summary"
)

// Home and record ids that occur in many answers.
type (
	HomeID = dossier.ID[dossier.Household]
	Ref    = dossier.Ref
)

// LogIn asks for a session.
type LogIn struct {
	Login    string `json:"login" minLength:"1" maxLength:"80" doc:"Log-in name."`
	Password string `json:"password" minLength:"1" maxLength:"400" doc:"Password."`
	Client   string `json:"client,omitzero" maxLength:"80" doc:"Name of the program or device, shown in the list of sessions."`
	Code     string `json:"code,omitzero" maxLength:"10" doc:"Code of the second factor, if one is set up."`
	Bearer   bool   `json:"bearer,omitzero" doc:"Return the token instead of setting a cookie, for programs."`
}

// Session is a log-in that succeeded.
type Session struct {
	Person  Person    `json:"person" doc:"Who is logged in."`
	Token   string    `json:"token,omitzero" doc:"Bearer token, when one was asked for. It is shown only once."`
	Until   time.Time `json:"until" doc:"When the session expires."`
	OnSite  bool      `json:"onSite" doc:"Whether this Kaiku is on a home's network and may send requests to its devices."`
	Filters []Filter  `json:"filters" doc:"What lists of households can be narrowed by."`
	Notice  string    `json:"notice,omitzero" doc:"A problem of the machine that this Kaiku runs on, with the remedy."`

	SecondFactor Factor `json:"secondFactor" doc:"Whether a second factor is set up. Where it is needed and not set up, nothing else can be done before."`
}

// Factor says whether somebody has a second factor.
type Factor string

// States of a second factor.
const (
	FactorOff    Factor = "off"
	FactorOn     Factor = "on"
	FactorNeeded Factor = "needed"
)

// Values lists the states.
func (Factor) Values() []string {
	return []string{string(FactorOff), string(FactorOn), string(FactorNeeded)}
}

// SecondFactorOffer is a secret for a program that shows codes (RFC 6238).
type SecondFactorOffer struct {
	Secret  string   `json:"secret" doc:"The secret in Base32, to be typed."`
	Address string   `json:"address" doc:"The same as an otpauth address, which such programs read."`
	QR      []string `json:"qr" doc:"The address as a code to scan."`
}

// SetSecondFactor proves that a program makes the codes of an offer.
type SetSecondFactor struct {
	Password string `json:"password" minLength:"1" maxLength:"400" doc:"Your password."`
	Secret   string `json:"secret" minLength:"32" maxLength:"64" pattern:"^[A-Z2-7]+$" patternDescription:"the secret of the offer" doc:"The secret of the offer."`
	Code     string `json:"code" pattern:"^[0-9]{6}$" patternDescription:"six digits" doc:"The code that the program shows now."`
}

// RemoveSecondFactor takes a second factor away.
type RemoveSecondFactor struct {
	Password string `json:"password" minLength:"1" maxLength:"400" doc:"Your password."`
	Code     string `json:"code" pattern:"^[0-9]{6}$" patternDescription:"six digits" doc:"The code that the program shows now."`
}

// Person is someone of the firm.
type Person struct {
	ID    dossier.PersonID `json:"id" doc:"Id."`
	Login string           `json:"login" doc:"Log-in name."`
	Name  string           `json:"name" doc:"Name."`
	Role  string           `json:"role" enum:"coordinator,lead,technician,observer" doc:"Role in the firm."`

	Suspended bool `json:"suspended,omitzero" doc:"Whether the person is suspended."`
}

// NewPerson adds someone to the firm.
type NewPerson struct {
	Login string `json:"login" pattern:"^[a-z][a-z0-9.-]{1,39}$" patternDescription:"2 to 40 small letters, digits, dots and dashes, beginning with a letter" doc:"Log-in name."`
	Name  string `json:"name" minLength:"1" maxLength:"120" doc:"Name."`
	Role  string `json:"role" enum:"coordinator,lead,technician,observer" doc:"Role in the firm."`
}

// PersonMade is someone with a password that is shown only now.
type PersonMade struct {
	Person   Person `json:"person" doc:"The person."`
	Password string `json:"password" doc:"The password to log in with; shown only once."`
}

// PersonChange changes someone. Members that are absent stay.
type PersonChange struct {
	Name      string `json:"name,omitzero" maxLength:"120" doc:"New name."`
	Role      string `json:"role,omitzero" enum:"coordinator,lead,technician,observer" doc:"New role."`
	Suspended *bool  `json:"suspended,omitempty" doc:"True suspends: the person can no longer log in, and all log-ins end. False restores."`
	HandOnTo  string `json:"handOnTo,omitzero" doc:"Log-in name or id of the new custodian of their homes; required if they have any."`
}

// NewPassword changes one's own password.
type NewPassword struct {
	Old string `json:"old" minLength:"1" maxLength:"400" doc:"The current password."`
	New string `json:"new" minLength:"10" maxLength:"400" doc:"The new one, of at least ten characters."`
}

// NewToken makes a token for a program.
type NewToken struct {
	Name string `json:"name" minLength:"1" maxLength:"80" doc:"What it is for."`
	Days int    `json:"days" minimum:"1" maximum:"365" doc:"After how many days it expires."`
}

// LogInRow is one of a person's log-ins or tokens.
type LogInRow struct {
	ID      string    `json:"id" doc:"Id."`
	Kind    string    `json:"kind" enum:"session,token,calendar" doc:"A log-in, or a token for a program."`
	Name    string    `json:"name" doc:"Program or device, or what the token is for."`
	Began   time.Time `json:"began" doc:"When."`
	Ends    time.Time `json:"ends" doc:"When it expires."`
	Current bool      `json:"current,omitzero" doc:"Whether it is the session that asks."`
}

// TokenMade is a token, which is shown only now.
type TokenMade struct {
	Token string    `json:"token" doc:"The token, for the header Authorization: Bearer."`
	Ends  time.Time `json:"ends" doc:"When it ends."`
}

// HouseholdRow is a household in a list.
type HouseholdRow struct {
	ID         HomeID           `json:"id" doc:"Id."`
	Code       string           `json:"code" doc:"Code."`
	Name       string           `json:"name" doc:"Name."`
	Custodian  string           `json:"custodian" doc:"Name of the custodian."`
	Revision   uint64           `json:"revision" doc:"Number of its newest write."`
	ChangedAt  time.Time        `json:"changedAt" doc:"When it last changed."`
	Coverage   proving.Coverage `json:"coverage" doc:"Required tests by where they stand."`
	Blockers   int              `json:"blockers" doc:"How many blockers were found."`
	OpenIssues int              `json:"openIssues" doc:"How many issues are not closed."`
	OfferedTo  string           `json:"offeredTo,omitzero" doc:"Name of the receiver of an offered handover."`
	DueOn      dossier.Date     `json:"dueOn,omitzero" doc:"The next date that falls due."`
	LongTaskAt time.Time        `json:"longTaskAt,omitzero" doc:"When the first running long task is expected to end."`
	ReviewOn   dossier.Date     `json:"reviewOn,omitzero" doc:"First day on which a waiver is due for review."`
	Values     map[string]any   `json:"values" doc:"All columns of the list by name: counts, days and instants."`
	Found      []FoundRecord    `json:"found,omitzero" doc:"Where the words looked for are: up to three records that fit best."`
}

// FoundRecord is a record that fits the words looked for.
type FoundRecord struct {
	Named
	Text string `json:"text" doc:"The text that fits."`
}

// HomesWith and HomesBy are what households can be narrowed and sorted by.
var (
	HomesWith = summary.With()
	HomesBy   = sorted("changed", "code", "name")
)

// sorted adds the columns that lists are sorted by to what every home has.
func sorted(more ...string) []string {
	return slices.Sorted(slices.Values(append(more, summary.By()...)))
}

// Filter is one thing that lists of households can be narrowed by.
type Filter struct {
	Value string `json:"value" doc:"The word for it."`
	Title string `json:"title" doc:"What people call it."`
}

// Filters lists them.
func Filters() []Filter {
	var out []Filter
	for _, c := range summary.Columns {
		if c.With != "" {
			out = append(out, Filter{c.With, c.Title})
		}
	}
	return out
}

// HomesQuery selects, sorts and pages households. The zero value lists all in the order of codes.
type HomesQuery struct {
	Words     string   // each of the words is found somewhere in the home, as the beginning of a word
	Custodian string   // log-in name or id of the custodian
	With      []string // what the homes have, of HomesWith
	Sort      string   // of HomesBy; "-" before it for the greatest first
	After     string   // code of the home after which the list goes on
	Limit     int
}

// Values writes the query as the API takes it.
func (q HomesQuery) Values() url.Values {
	v := url.Values{}
	for name, value := range map[string]string{"words": q.Words, "custodian": q.Custodian, "sort": q.Sort, "after": q.After} {
		if value != "" {
			v.Set(name, value)
		}
	}
	if len(q.With) > 0 {
		v.Set("with", strings.Join(q.With, ","))
	}
	if q.Limit > 0 {
		v.Set("limit", strconv.Itoa(q.Limit))
	}
	return v
}

// NewHousehold begins a household.
type NewHousehold struct {
	ID          HomeID            `json:"id,omitzero" doc:"UUIDv7, where the client chooses it."`
	Code        string            `json:"code,omitzero" pattern:"^H-[0-9]{4,6}$" patternDescription:"H- and four to six digits, such as H-0042" doc:"The firm's code, such as H-0042; the next free one by default."`
	Name        string            `json:"name" minLength:"1" maxLength:"120" doc:"What colleagues call this home."`
	Address     string            `json:"address,omitzero" maxLength:"400" doc:"Where it is."`
	Contacts    []dossier.Contact `json:"contacts,omitzero" doc:"Who to speak to."`
	AccessNotes string            `json:"accessNotes,omitzero" maxLength:"2000" doc:"How to get in."`
	Custodian   string            `json:"custodian,omitzero" doc:"Log-in name or id of the custodian; by default the person who creates it."`
}

// Named is a record with what people call it.
type Named struct {
	Ref
	Label string `json:"label" doc:"What people call it."`
}

// Finding is one computed remark, said.
type Finding struct {
	Code     string                   `json:"code" doc:"Code of the finding."`
	Severity network.Severity         `json:"severity" enum:"blocker,warning,advice" doc:"How much it matters."`
	Subjects []Named                  `json:"subjects" doc:"What it is about; the first is the one to change."`
	Values   map[string]dossier.Value `json:"values,omitzero" doc:"What led to it, by name."`
	Sentence string                   `json:"sentence" doc:"What is wrong."`
	Remedy   string                   `json:"remedy" doc:"What to do."`
}

// FactChange is one fact that differs between a proof and now, said.
type FactChange struct {
	Subject  Named     `json:"subject" doc:"The record."`
	Name     string    `json:"name" doc:"What is said of it."`
	From     string    `json:"from" doc:"Value under the proof."`
	To       string    `json:"to" doc:"Value now."`
	Sentence string    `json:"sentence" doc:"The change in words."`
	By       string    `json:"by,omitzero" doc:"Name of the person who changed it."`
	When     time.Time `json:"when,omitzero" doc:"When it was changed."`
}

// Doubt is one thing that speaks against a proof, said.
type Doubt struct {
	Code     string    `json:"code" doc:"What kind of thing it is."`
	About    Named     `json:"about" doc:"The record that it comes from."`
	Sentence string    `json:"sentence" doc:"What speaks against the proof."`
	By       string    `json:"by,omitzero" doc:"Name of the person who recorded it."`
	When     time.Time `json:"when,omitzero" doc:"Since when it is known."`
}

// ProofStep is one act that proves tests, across paths and rooms.
type ProofStep struct {
	Act      string   `json:"act" doc:"Code of the act."`
	At       Named    `json:"at" doc:"Where it is done: a path, a device, a source, a server or a busy set."`
	Sentence string   `json:"sentence" doc:"What to do."`
	Minutes  int      `json:"minutes" doc:"How long it takes."`
	Room     Named    `json:"room,omitzero" doc:"The room in which it is done, if it is one."`
	Floor    int      `json:"floor" doc:"Its floor."`
	Machine  bool     `json:"machine" doc:"A machine does all of it."`
	Watch    string   `json:"watch,omitzero" doc:"Identity of a test during which a machine can watch the source."`
	Tests    []string `json:"tests" doc:"Ids of the tests that it proves."`
	Shows    []string `json:"shows,omitzero" doc:"Ids of further tests that it is enough for."`
}

// WishPlace is how far a wish is fulfilled in one place.
type WishPlace struct {
	Room     Named              `json:"room,omitzero" doc:"The room."`
	Device   Named              `json:"device,omitzero" doc:"The carried device."`
	Status   proving.Fulfilment `json:"status" enum:"not-served,failed,in-doubt,unproven,proven" doc:"How far it is fulfilled."`
	Paths    []Named            `json:"paths" doc:"The paths that serve it there."`
	Open     int                `json:"open" doc:"Required tests that are not proven, on the best of these paths."`
	Sentence string             `json:"sentence" doc:"The same in words."`
}

// WishStatus is how far a wish is fulfilled: as far as in the place where it is least.
type WishStatus struct {
	Wish   Named              `json:"wish" doc:"The wish."`
	What   dossier.WishKind   `json:"what" doc:"What is wished."`
	Needed bool               `json:"needed" doc:"Whether the work is incomplete without it."`
	Status proving.Fulfilment `json:"status" enum:"not-served,failed,in-doubt,unproven,proven" doc:"How far it is fulfilled."`
	Places []WishPlace        `json:"places" doc:"Place by place."`
}

// Test is one test of the plan with where it stands.
type Test struct {
	ID         string          `json:"id" doc:"Identity: kind and subjects."`
	Kind       string          `json:"kind" doc:"Kind of test."`
	Title      string          `json:"title" doc:"What the test is called."`
	Expected   string          `json:"expected" doc:"What is expected."`
	Do         string          `json:"do" doc:"What to do."`
	By         proving.By      `json:"by" enum:"automatic,by-eye" doc:"Who can judge it."`
	Minutes    int             `json:"minutes" doc:"How long it takes."`
	Lasts      int             `json:"lasts,omitzero" doc:"For how many minutes a machine goes on with it, if it takes long: then it is run only where it is named, beside other work."`
	Required   bool            `json:"required" doc:"Whether the home is proven only with it."`
	Why        string          `json:"why" doc:"Why it is in the plan."`
	Reading    proving.Reading `json:"reading,omitzero" enum:"jump,going-on,standing-still,lips" doc:"What can be read off a sample clip for it."`
	Undone     string          `json:"undone,omitzero" doc:"For an automatic test that a machine could not carry out when it last tried: why. A person can do it."`
	After      []string        `json:"after,omitzero" doc:"Tests that must have passed before."`
	About      Named           `json:"about" doc:"What it is about: a path, a folder or a set of paths."`
	Path       Named           `json:"path" doc:"The path it is about, or the first that uses the folder or set."`
	Device     Named           `json:"device" doc:"The device that plays."`
	Room       Named           `json:"room,omitzero" doc:"The room of that device."`
	Floor      int             `json:"floor" doc:"Floor of the room."`
	Status     proving.Status  `json:"status" enum:"untried,proven,marginal,failed,stale,in-doubt,waived" doc:"Where it stands."`
	At         time.Time       `json:"at,omitzero" doc:"When the deciding attempt was made."`
	ByPerson   string          `json:"byPerson,omitzero" doc:"Who made it."`
	Observed   string          `json:"observed,omitzero" doc:"What was seen, in words."`
	Look       string          `json:"look,omitzero" doc:"For a test that failed: where to look, which is at the first step outward from the source that fails on its path."`
	Attempt    string          `json:"attempt,omitzero" doc:"Id of the deciding attempt."`
	Attempts   int             `json:"attempts" doc:"How many attempts there are."`
	Changes    []FactChange    `json:"changes,omitzero" doc:"For a stale test: what changed since the proof."`
	Doubts     []Doubt         `json:"doubts,omitzero" doc:"For a test in doubt: what speaks against its proof."`
	Again      *ProofStep      `json:"again,omitzero" doc:"For a test that is stale or in doubt: the act that makes it sure again."`
	Witness    bool            `json:"witness,omitzero" doc:"Whether another path of the device was tested, which is enough here."`
	OpenIssues []Named         `json:"openIssues,omitzero" doc:"Issues opened from it that are not closed."`
	Waiver     *Waiver         `json:"waiver,omitzero" doc:"The lead technician who waived it, and why."`
}

// Plan is the commissioning plan of a home.
type Plan struct {
	Revision   uint64           `json:"revision" doc:"Revision it was computed from."`
	Coverage   proving.Coverage `json:"coverage" doc:"Required tests by where they stand."`
	Tests      []Test           `json:"tests" doc:"All tests in walking order."`
	Reproof    []ProofStep      `json:"reproof" doc:"The fewest acts that prove everything that is required."`
	Minutes    int              `json:"minutes" doc:"How many minutes they take."`
	Unfinished []Unfinished     `json:"unfinished,omitzero" doc:"Changes that are not finished; until they are, what was proven on their devices is in doubt."`
}

// Nightly says when this Kaiku, on the home's network, repeats overnight the tests that disturb nobody, and how the last run went.
type Nightly struct {
	At   string    `json:"at" doc:"Clock time on this machine, such as 03:00; empty if it does not."`
	By   string    `json:"by,omitzero" doc:"Who asked for it; results are recorded in that name."`
	Last *NightRun `json:"last,omitempty" doc:"What came of the last repetition."`
}

// SetNightly sets at what time tests are repeated overnight.
type SetNightly struct {
	At string `json:"at" maxLength:"5" pattern:"^(([01][0-9]|2[0-3]):[0-5][0-9])?$" patternDescription:"hours and minutes, such as 03:00, or nothing" doc:"Clock time, such as 03:00; empty to end it."`
}

// NightRun is what came of one repetition overnight.
type NightRun struct {
	Began    time.Time     `json:"began" doc:"When it began."`
	Ended    time.Time     `json:"ended,omitzero" doc:"When it ended; missing while it runs, or if Kaiku was stopped meanwhile."`
	Repeated int           `json:"repeated" doc:"How many tests were carried out."`
	AsBefore int           `json:"asBefore" doc:"How many of them showed what was known already; they are not recorded again."`
	Asleep   int           `json:"asleep,omitzero" doc:"How many were left out because a machine that they ask may be asleep at night."`
	Undone   []NightUndone `json:"undone,omitempty" doc:"Tests that could not be carried out."`
	Changed  []NightChange `json:"changed,omitempty" doc:"Tests whose status is another since."`
	Failed   string        `json:"failed,omitzero" doc:"Why nothing was repeated, or not all."`
	Sentence string        `json:"sentence,omitzero" doc:"All of it in a sentence or two."`
}

// NightUndone is a test that could not be carried out overnight.
type NightUndone struct {
	Test  string `json:"test" doc:"Identity of the test."`
	Title string `json:"title" doc:"What was tested, and of what."`
	Said  string `json:"said" doc:"Why not."`
}

// NightChange is a test whose status was changed by a repetition.
type NightChange struct {
	NightUndone
	Was proving.Status `json:"was" doc:"The status before."`
	Is  proving.Status `json:"is" doc:"The status after."`
}

// CoverageHistory is how the proof of a home came about, room by room.
type CoverageHistory struct {
	Rooms []Named       `json:"rooms" doc:"The rooms in which something was required on some day, in walking order. One without an id stands for devices without a room."`
	Days  []CoverageDay `json:"days" doc:"The days on which something was written, each as it stood in the evening; no more than 60, thinned out evenly."`
}

// CoverageDay is one day of it.
type CoverageDay struct {
	At       time.Time      `json:"at" doc:"When the last write of the day was made."`
	Revision uint64         `json:"revision" doc:"Its revision."`
	Rooms    []CoverageRoom `json:"rooms" doc:"The rooms in which something was required then."`
}

// CoverageRoom is one room on one day.
type CoverageRoom struct {
	Room     int              `json:"room" doc:"Place in the list of rooms, counted from 0."`
	Coverage proving.Coverage `json:"coverage" doc:"Required tests by where they stood."`
}

// Unfinished is a change with what it still needs.
type Unfinished struct {
	Change Named    `json:"change" doc:"The change."`
	Device Named    `json:"device" doc:"The device that was changed."`
	Items  []string `json:"items" doc:"What is still to be done or looked at, in its order."`
}

// NewAttempt records one carrying-out of a test.
type NewAttempt struct {
	ID         dossier.ID[dossier.Attempt] `json:"id,omitzero" doc:"UUIDv7, where the client chooses it."`
	Test       string                      `json:"test" minLength:"1" doc:"Identity of the test."`
	Outcome    dossier.Outcome             `json:"outcome,omitzero" enum:"pass,marginal,fail,impossible" doc:"The result. Left out where it follows from what was read off a sample clip."`
	Reading    *ClipReading                `json:"reading,omitempty" doc:"What was read off a sample clip: the result and its value are computed from it."`
	Observed   dossier.Observed            `json:"observed,omitzero" maxLength:"60" doc:"Code of what was seen, such as refused or time-out."`
	Values     map[string]float64          `json:"values,omitzero" doc:"Measured values; the name carries the unit."`
	Conditions string                      `json:"conditions,omitzero" maxLength:"400" doc:"The conditions."`
	Sample     string                      `json:"sample,omitzero" maxLength:"60" doc:"Name of the sample clip that was played. What it shows of the device's decoding is recorded with it."`
	Note       string                      `json:"note,omitzero" maxLength:"2000" doc:"What was seen, in words."`
	How        dossier.How                 `json:"how,omitzero" enum:"machine,eye" doc:"Who judged it; by default the eye."`
	At         time.Time                   `json:"at,omitzero" doc:"When it was done; by default now."`
	AsOf       uint64                      `json:"asOf,omitzero" doc:"Revision of the home when the test began, such as that of the plan it was chosen from. The result depends on the facts of that revision; by default on those of the time at which it was done."`
}

// ClipReading is what was read off a sample clip while it played, as the test's reading asks for: time codes with the time that passed between
// them, or the frames between flash and beep.
type ClipReading struct {
	Asked  string   `json:"asked,omitzero" maxLength:"20" doc:"The time code that the other is compared with: where it was to jump to, was stopped, or began, as on the screen: hours:minutes:seconds:frames."`
	Seen   string   `json:"seen,omitzero" maxLength:"20" doc:"The time code that was seen."`
	AfterS float64  `json:"afterS,omitzero" minimum:"0" maximum:"86400" doc:"How much time passed in between, in seconds."`
	Frames *float64 `json:"frames,omitempty" minimum:"-10000" maximum:"10000" doc:"How many frames after the flash the beep came, in a film that a phone took; negative if the beep came first."`
	Rate   float64  `json:"rate,omitzero" minimum:"0" maximum:"1000" doc:"Frames in a second: of the clip, or of the film that a phone took. By default that of the sample clip, or else 25; for flash and beep 30."`
}

// Sample is one of the sample clips.
type Sample struct {
	Name    string  `json:"name" doc:"By which it is called."`
	File    string  `json:"file" doc:"Name of its file."`
	What    string  `json:"what" doc:"Container, codecs, size and rate, in words."`
	Media   string  `json:"media" doc:"Media type."`
	Seconds float64 `json:"seconds,omitzero" doc:"How long it is; 0 for a still picture."`
	Bytes   int64   `json:"bytes" doc:"How large it is."`
}

// MachineAttempt makes the attempt that records a machine's result; said is its sentence.
func MachineAttempt(r proving.Result, said string) NewAttempt {
	return NewAttempt{Test: r.Test, Outcome: r.Outcome, Observed: r.Observed, Values: r.Values, Note: said, How: dossier.ByMachine, At: r.At}
}

// NewRound is what was seen at several tests in one go, such as those of one step.
type NewRound struct {
	Results    []RoundResult `json:"results" minItems:"1" maxItems:"200" doc:"The results, each of another test. They are written together, or none of them."`
	Conditions string        `json:"conditions,omitzero" maxLength:"400" doc:"The conditions."`
	Sample     string        `json:"sample,omitzero" maxLength:"60" doc:"Name of the sample clip that was played; it counts for all results."`
	At         time.Time     `json:"at,omitzero" doc:"When it was done; by default now."`
	AsOf       uint64        `json:"asOf,omitzero" doc:"Revision of the home when the round began, such as that of the plan. The results depend on the facts of that revision; by default on those of the time at which it was done."`
}

// RoundResult is the result of one test of a round.
type RoundResult struct {
	ID       dossier.ID[dossier.Attempt] `json:"id,omitzero" doc:"UUIDv7 of the attempt, where the client chooses it."`
	Test     string                      `json:"test" minLength:"1" doc:"Identity of the test."`
	Outcome  dossier.Outcome             `json:"outcome,omitzero" enum:"pass,marginal,fail,impossible" doc:"The result. Left out where it follows from what was read off a sample clip."`
	Reading  *ClipReading                `json:"reading,omitempty" doc:"What was read off a sample clip."`
	Observed dossier.Observed            `json:"observed,omitzero" maxLength:"60" doc:"Code of what was seen, such as refused or time-out."`
	Values   map[string]float64          `json:"values,omitzero" doc:"Measured values; the name carries the unit."`
	Note     string                      `json:"note,omitzero" maxLength:"2000" doc:"What was seen, in words."`
}

// RoundMade is the answer to a recorded round.
type RoundMade struct {
	Attempts []AttemptMade `json:"attempts" doc:"What was recorded, in the order of the results."`
	Revision uint64        `json:"revision" doc:"The revision that they were recorded by; all of it can be undone at once."`
}

// AttemptMade is the answer to a recorded attempt.
type AttemptMade struct {
	Attempt dossier.Attempt `json:"attempt" doc:"The attempt as it was stored."`
	Test    Test            `json:"test" doc:"The present status of the test."`
	Closed  []Named         `json:"closed,omitzero" doc:"Issues that this pass proves remedied and closes."`
}

// Run asks the machine to carry out tests.
type Run struct {
	Tests []string `json:"tests,omitzero" doc:"Identities of tests; none means all automatic ones but those that go on for half an hour."`
}

// Prerequisite is something that must be true before paths can work.
type Prerequisite struct {
	What     string       `json:"what" doc:"Code."`
	Side     dossier.Side `json:"side" enum:"server,device,network,account" doc:"The side that meets it."`
	Title    string       `json:"title" doc:"What must be true."`
	Why      string       `json:"why" doc:"Why it matters."`
	Subject  Named        `json:"subject" doc:"Where it must be true."`
	Paths    []Named      `json:"paths" doc:"The paths that need it."`
	Met      bool         `json:"met" doc:"Whether it is ticked, proven, recorded, or met by all steps of the firm's recipes for it."`
	Recorded bool         `json:"recorded,omitzero" doc:"The record itself says so."`
	Reset    bool         `json:"reset,omitzero" doc:"It was ticked before the device was reset to its defaults, so the tick no longer counts."`
	Steps    []RecipeStep `json:"steps,omitzero" doc:"The firm's steps to meet it."`
	DoneBy   string       `json:"doneBy,omitzero" doc:"Who ticked it."`
	DoneAt   time.Time    `json:"doneAt,omitzero" doc:"When."`
	ProvedBy string       `json:"provedBy,omitzero" doc:"The proven test that shows it."`
	Refused  int          `json:"refused,omitzero" doc:"How often it was refused."`
	Note     string       `json:"note,omitzero" doc:"Why it was refused, or what was done."`
}

// Tick says a prerequisite is done, or was refused.
type Tick struct {
	What    string `json:"what" doc:"Code of the prerequisite."`
	Subject Ref    `json:"subject" doc:"Where."`
	Note    string `json:"note,omitzero" maxLength:"400" doc:"What was done, or why it was refused."`
}

// NewIssue opens an issue.
type NewIssue struct {
	ID            dossier.ID[dossier.Issue] `json:"id,omitzero" doc:"UUIDv7, where the client chooses it."`
	Symptom       string                    `json:"symptom" minLength:"1" maxLength:"400" doc:"The symptom, as observed."`
	Test          string                    `json:"test,omitzero" doc:"Identity of the failed test that it is opened from, or of the test that will prove the remedy."`
	Subjects      []Ref                     `json:"subjects,omitzero" doc:"The records it is about; with a test, its path by default."`
	Reporter      string                    `json:"reporter,omitzero" maxLength:"120" doc:"Who reported it."`
	Since         time.Time                 `json:"since,omitzero" doc:"Since when it shows."`
	Promise       string                    `json:"promise,omitzero" maxLength:"400" doc:"What was promised to the customer."`
	PromisedUntil time.Time                 `json:"promisedUntil,omitzero" doc:"By when it was promised."`
}

// IssueStep is the body of every step of an issue; each step reads the members it needs.
type IssueStep struct {
	NextStep string    `json:"nextStep,omitzero" maxLength:"400" doc:"What to do next."`
	What     string    `json:"what,omitzero" maxLength:"400" doc:"What was tried."`
	Showed   string    `json:"showed,omitzero" maxLength:"400" doc:"What it showed."`
	On       string    `json:"on,omitzero" maxLength:"120" doc:"Whom or what it is waiting for."`
	Until    time.Time `json:"until,omitzero" doc:"What was promised."`
	To       string    `json:"to,omitzero" doc:"Log-in name or id of the new owner."`
	Cause    string    `json:"cause,omitzero" maxLength:"400" doc:"What it was."`
	Remedy   string    `json:"remedy,omitzero" maxLength:"400" doc:"The remedy."`
	Why      string    `json:"why,omitzero" maxLength:"400" doc:"The reason, where no test can prove it."`

	With dossier.ID[dossier.Issue] `json:"with,omitzero" doc:"The issue of which this is one more symptom."`

	Fault   string      `json:"fault,omitzero" maxLength:"60" doc:"With a remedy: id of the fault mode that it was."`
	FaultAt dossier.Ref `json:"faultAt,omitzero" doc:"With a fault: the component that was faulty."`
}

// Issue is an issue with names and what it says about itself.
type Issue struct {
	Record     dossier.Issue `json:"record" doc:"The issue as recorded."`
	Owner      string        `json:"owner,omitzero" doc:"Name of the person who has it in hand."`
	OpenedBy   string        `json:"openedBy" doc:"Name of the person who opened it."`
	Subjects   []Named       `json:"subjects" doc:"What it is about."`
	Test       *Test         `json:"test,omitzero" doc:"The test it was opened from, with its present status."`
	TriedBy    []string      `json:"triedBy" doc:"Names of the people who made the tries, in their order."`
	Fault      string        `json:"fault,omitzero" doc:"What it was and where, if that was recorded with the remedy."`
	Urgency    remedy.Level  `json:"urgency,omitzero" enum:"today,this-week,can-wait" doc:"How soon it has to be seen to, unless it is closed."`
	Because    []string      `json:"because" doc:"Why it is so urgent and no more, in words."`
	ProofOff   string        `json:"proofOff,omitzero" doc:"For an issue that was closed by a test: how that test stands now, if it is no longer proven."`
	SameAs     Named         `json:"sameAs,omitzero" doc:"The issue of which this is one more symptom."`
	Also       []Named       `json:"also" doc:"Issues that are further symptoms of this one."`
	CanClose   bool          `json:"canClose" doc:"Whether a passed test after the remedy proves it."`
	StepsTaken []string      `json:"steps" doc:"Steps that are possible now."`
}

// NewHandover drafts a handover.
type NewHandover struct {
	ID    dossier.ID[dossier.Handover] `json:"id,omitzero" doc:"UUIDv7, where the client chooses it."`
	To    string                       `json:"to" minLength:"1" doc:"Log-in name or id of the receiver."`
	Note  string                       `json:"note,omitzero" maxLength:"2000" doc:"What not to touch and why, what to bring, what was promised."`
	Since uint64                       `json:"since,omitzero" doc:"For leads and coordinators, where the home was never handed over: the revision after which changes are told, as a baseline."`
}

// HandoverStep is the body of every step of a handover.
type HandoverStep struct {
	Point    string   `json:"point,omitzero" doc:"Id of the point."`
	Points   []string `json:"points,omitzero" maxItems:"500" doc:"Ids of several points, to read back at once."`
	Question string   `json:"question,omitzero" maxLength:"400" doc:"What the receiver asks."`
	Answer   string   `json:"answer,omitzero" maxLength:"400" doc:"What the giver answers."`
	Why      string   `json:"why,omitzero" maxLength:"400" doc:"Why it is returned."`
}

// Point is one point of a handover, said.
type Point struct {
	dossier.Point
	Sentence string `json:"sentence" doc:"The point in words."`
}

// Gate is something that holds a handover back, said.
type Gate struct {
	custody.Gate
	Sentence string `json:"sentence" doc:"What is missing."`
	Remedy   string `json:"remedy" doc:"What to do."`
}

// Handover is a handover with names and sentences.
type Handover struct {
	Record  dossier.Handover `json:"record" doc:"The handover as recorded."`
	From    Person           `json:"from" doc:"The giver."`
	To      Person           `json:"to" doc:"The receiver."`
	Points  []Point          `json:"points" doc:"What is read back."`
	Gates   []Gate           `json:"gates,omitzero" doc:"What keeps it from being offered."`
	Unread  int              `json:"unread" doc:"How many points are not read back."`
	StepsOK []string         `json:"steps" doc:"Steps that you can take now."`
}

// Assign gives custody to someone without a handover.
type Assign struct {
	To  string `json:"to" minLength:"1" doc:"Log-in name or id."`
	Why string `json:"why" minLength:"1" maxLength:"400" doc:"The reason."`
}

// JournalEntry is one entry of the journal with names.
type JournalEntry struct {
	dossier.Entry
	ByName  string   `json:"byName" doc:"Name of the person who wrote."`
	Label   string   `json:"label" doc:"What people call the record now, or called it."`
	Members []string `json:"members,omitzero" doc:"What changed, one line for each field."`
	Plain   bool     `json:"plain,omitzero" doc:"Whether it is a plain change, whose reverse can be written."`
	Follows bool     `json:"follows,omitzero" doc:"Whether it only followed from the rest of its write, such as a handover on offer that was outdated: an undo of the whole revision leaves it as it is."`
}

// Todo is one thing that waits for the person who asks.
type Todo struct {
	Code      string `json:"code" doc:"What kind of thing it is."`
	Sentence  string `json:"sentence" doc:"What waits."`
	Household string `json:"household" doc:"Code of the home."`
	Name      string `json:"name" doc:"Name of the home."`
	Place     string `json:"place" doc:"Place in the console, below the household."`
}

// Today is what waits for a person, and what that person holds.
type Today struct {
	Waiting []Todo         `json:"waiting" doc:"What to do, the most urgent first."`
	Held    []HouseholdRow `json:"held" doc:"Homes of which the person is custodian."`
	Others  []Todo         `json:"others" doc:"What others have to do, for leads and coordinators."`
	Firm    map[string]int `json:"firm,omitzero" doc:"For leads, coordinators and observers: how many homes of the firm match each filter of the list of households."`
}

// Overview answers what is not proven, what is open, who the custodian is and what to do next.
type Overview struct {
	Household  dossier.Household `json:"household" doc:"The household."`
	Revision   uint64            `json:"revision" doc:"Number of its newest write."`
	Custodian  Person            `json:"custodian" doc:"The custodian."`
	Coverage   proving.Coverage  `json:"coverage" doc:"Required tests by where they stand."`
	Wishes     []WishStatus      `json:"wishes" doc:"How far each wish is fulfilled."`
	Reproof    []ProofStep       `json:"reproof" doc:"The fewest acts that prove everything that is required."`
	Minutes    int               `json:"minutes" doc:"How many minutes they take."`
	Unfinished []Unfinished      `json:"unfinished,omitzero" doc:"Changes that are not finished."`
	NotProven  []Test            `json:"notProven" doc:"Tests that are not proof now."`
	Findings   []Finding         `json:"findings" doc:"What was found."`
	Issues     []Issue           `json:"issues" doc:"Issues that are not closed."`
	Handover   *Handover         `json:"handover,omitzero" doc:"The newest handover, while it is not accepted."`
	Next       []Todo            `json:"next" doc:"What to do next, the most urgent first."`
	MayWrite   bool              `json:"mayWrite" doc:"Whether you may change this home."`
	Counts     map[string]int    `json:"counts" doc:"Number of records of each kind."`
}

// Waiver is a waived test, with names.
type Waiver struct {
	Record dossier.Waiver `json:"record" doc:"The waiver."`
	By     string         `json:"by" doc:"Name of the person who waived it."`
}

// NewWaiver sets a test aside.
type NewWaiver struct {
	Test  string       `json:"test" minLength:"1" doc:"Id of the test."`
	Why   string       `json:"why" minLength:"1" maxLength:"400" doc:"The reason; the customer may read it."`
	Until dossier.Date `json:"until,omitzero" doc:"Day of its review."`
}

// TestNamed names a test.
type TestNamed struct {
	Test string `json:"test" minLength:"1" doc:"Id of the test."`
}

// NewSecret keeps a credential.
type NewSecret struct {
	ID      dossier.ID[dossier.Secret]  `json:"id,omitzero" doc:"UUIDv7, where the client chooses it."`
	Name    string                      `json:"name" minLength:"1" maxLength:"120" doc:"What it is for."`
	Kind    dossier.SecretKind          `json:"kind" enum:"password,door-code,pairing-code,key,licence-key" doc:"What sort of credential it is."`
	Device  dossier.ID[dossier.Device]  `json:"device,omitzero" doc:"The device it belongs to."`
	Segment dossier.ID[dossier.Segment] `json:"segment,omitzero" doc:"For a Wi-Fi password: the segment that it opens."`
	Note    string                      `json:"note,omitzero" maxLength:"400" doc:"Where it is used. Never the credential itself."`
	Body    string                      `json:"body" minLength:"1" maxLength:"4000" doc:"The credential."`
}

// SecretBody is a credential in place of the old one.
type SecretBody struct {
	Body string `json:"body" minLength:"1" maxLength:"4000" doc:"The new credential."`
	Why  string `json:"why,omitzero" maxLength:"400" doc:"Why it was changed."`
}

// Why is the reason of a step.
type Why struct {
	Why string `json:"why" minLength:"3" maxLength:"400" doc:"The reason; it stays in the journal."`
}

// SecretShown is a credential in clear.
type SecretShown struct {
	Name string `json:"name" doc:"What it is for."`
	Body string `json:"body" doc:"The credential."`
}

// NewAttachment says what an uploaded file belongs to.
type NewAttachment struct {
	ID       dossier.ID[dossier.Attachment]
	Subject  Ref
	Caption  string
	FileName string
}

// Erase asks for a home's personal data to be erased for good.
type Erase struct {
	Code string `json:"code" minLength:"1" maxLength:"10" doc:"The home's code once more, to confirm."`
	Why  string `json:"why" minLength:"1" maxLength:"400" doc:"Who asked for it, and when. It stays in the journal, so it must contain no personal data."`
}

// ErasedData tells what was erased.
type ErasedData struct {
	At      time.Time `json:"at" doc:"When."`
	Records int       `json:"records" doc:"How many records were overwritten."`
}

// Undone is the write that undid a journal entry.
type Undone struct {
	Revision uint64 `json:"revision" doc:"The revision it made."`
	Label    string `json:"label" doc:"What people call the record, or the first of several."`
	Entries  int    `json:"entries" doc:"How many entries were undone."`

	OfferAgain bool `json:"offerAgain" doc:"Whether the write had outdated a handover on offer. It stays outdated and has to be offered again."`
}

// Event says that a household was written. What changed is asked for, not told.
type Event struct {
	ID        int64            `json:"id" doc:"Place in the firm's sequence."`
	Household string           `json:"household" doc:"Code of the household."`
	Revision  uint64           `json:"revision" doc:"Its newest revision."`
	By        dossier.PersonID `json:"by" doc:"Who wrote."`
	Job       *Job             `json:"job,omitzero" doc:"The long task that this event is about; then nothing was written."`
}

// Job is long work that the service does for someone: it tells how far it is, and can be stopped.
type Job struct {
	ID        string        `json:"id" doc:"Id."`
	Kind      string        `json:"kind" enum:"run-tests,keep-searching,long-play,nightly,watch,scan,read-folder,lists" doc:"What it does."`
	Household string        `json:"household" doc:"Code of the household it works on."`
	By        string        `json:"by" doc:"Name of the person who started it."`
	State     string        `json:"state" enum:"running,ended,stopped,failed" doc:"How far it is."`
	Doing     string        `json:"doing,omitzero" doc:"What it does now."`
	Done      int           `json:"done" doc:"How many steps are done."`
	LeftOut   int           `json:"leftOut,omitzero" doc:"How many of these were left out, because something that they need had failed."`
	Of        int           `json:"of" doc:"How many steps there are."`
	StartedAt time.Time     `json:"startedAt" doc:"When it was started."`
	EndedAt   time.Time     `json:"endedAt,omitzero" doc:"When it ended."`
	Watched   *WatchSeen    `json:"watched,omitempty" doc:"What was seen while a source was watched."`
	Seen      int           `json:"seen,omitzero" doc:"How many hosts a scan has seen so far."`
	Made      []AttemptMade `json:"made,omitzero" doc:"Attempts it has recorded; given once it has ended."`
	Failed    *Problem      `json:"failed,omitzero" doc:"Why it failed."`
}

// Watch names the test during which the source is watched.
type Watch struct {
	Test string `json:"test" minLength:"1" doc:"Identity of the test that a person carries out meanwhile."`
}

// WatchSeen is what was seen of a source while a person worked at it.
type WatchSeen struct {
	Test    string             `json:"test" doc:"Identity of the test."`
	Moments []WatchMoment      `json:"moments" doc:"What was seen, in its order."`
	Values  map[string]float64 `json:"values,omitzero" doc:"The same in numbers, to be recorded with the result."`
}

// WatchMoment is one thing that was seen.
type WatchMoment struct {
	What     proving.Happening `json:"what" enum:"there,away,answers,listed,opens,appeared,gone,given-up,cannot" doc:"What it was."`
	AfterS   float64           `json:"afterS" doc:"How long after the beginning, in seconds."`
	Sentence string            `json:"sentence" doc:"The same in words."`
}

// Kind describes a kind of record for forms and commands.
type Kind struct {
	Name    string         `json:"name" doc:"Name of the kind, as in commands."`
	Noun    string         `json:"noun" doc:"What people call one record of it."`
	Nouns   string         `json:"nouns" doc:"What people call several records of it."`
	Plural  string         `json:"plural" doc:"Plural, as in addresses."`
	Area    string         `json:"area" doc:"Part of the work under which people look for it."`
	Verbs   []dossier.Verb `json:"verbs" doc:"General verbs a client may use: add, set, remove."`
	Members []Member       `json:"members" doc:"Members in the order of a form."`
}

// Member describes one member of a kind.
type Member struct {
	Name     string       `json:"name" doc:"JSON name."`
	Title    string       `json:"title" doc:"What people call it."`
	Doc      string       `json:"doc" doc:"Help."`
	Type     string       `json:"type" enum:"text,number,whole,yes-no,time,date,hour,address,prefix,hardware-address,map,group,reference" doc:"What it holds."`
	List     bool         `json:"list,omitzero" doc:"Several values."`
	Required bool         `json:"required,omitzero" doc:"Must be given."`
	Rule     dossier.Rule `json:"rule,omitzero" doc:"Empty: plain; fixed: on creation only; case, server: not by the general verbs."`
	Refers   string       `json:"refers,omitzero" doc:"Kind it refers to; any, person."`
	Kinds    []string     `json:"kinds,omitzero" doc:"Where it refers to any: the kinds it may name; none means every."`
	Enum     []string     `json:"enum,omitzero" doc:"Words it may hold."`
	Terms    []string     `json:"terms,omitzero" doc:"Words that are understood. Others may stand here too, and count as not known."`
	Group    []Member     `json:"group,omitzero" doc:"Members of a group."`
	Label    bool         `json:"label,omitzero" doc:"People call the record by it."`
	Part     string       `json:"part,omitzero" doc:"Heading under which it stands in a form."`
	Personal bool         `json:"personal,omitzero" doc:"Can be erased on request."`
}

// Record is any record of a kind, as JSON, with what people call it.
type Record = map[string]any

// Change is one entry of what happened to a record since the version a client started from.
type Change struct {
	Revision uint64    `json:"revision" doc:"Revision."`
	At       time.Time `json:"at" doc:"When."`
	By       string    `json:"by" doc:"Who."`
	Members  []string  `json:"members" doc:"What changed, one line for each field."`
}

// Problem is an error answer (RFC 9457). Code is stable; Faults point at what to correct.
type Problem struct {
	Type    string   `json:"type" doc:"Address of the error's description."`
	Title   string   `json:"title" doc:"What kind of error."`
	Status  int      `json:"status" doc:"HTTP status."`
	Detail  string   `json:"detail" doc:"What happened."`
	Code    string   `json:"code" doc:"Stable code."`
	Remedy  string   `json:"remedy" doc:"What to do next."`
	Faults  []Fault  `json:"faults,omitzero" doc:"What to correct."`
	Changes []Change `json:"changes,omitzero" doc:"What others changed meanwhile."`

	RetryAfter int `json:"retryAfter,omitzero" doc:"In how many seconds to try again, as in the header Retry-After."`
}

// Fault is one thing to correct.
type Fault struct {
	In      string `json:"in" enum:"body,path,query,header" doc:"Which part of the request."`
	Pointer string `json:"pointer" doc:"JSON pointer into the body, or the parameter's name."`
	Code    string `json:"code" doc:"Stable code."`
	Detail  string `json:"detail" doc:"What is wrong."`
	Subject Ref    `json:"subject,omitzero" doc:"The record, where it is not the one sent."`
}

func (p *Problem) Error() string {
	s := p.Detail
	for _, f := range p.Faults {
		s += "\n  " + f.Pointer + ": " + f.Detail
	}
	if p.Remedy != "" {
		s += "\n" + p.Remedy
	}
	return s
}

// GetStatus returns the HTTP status.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType is the media type of RFC 9457.
func (p *Problem) ContentType(string) string { return "application/problem+json" }
