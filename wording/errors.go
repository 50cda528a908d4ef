package wording

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
)

// Error is one row of the error table: its HTTP status, what happened, and what to do next. Status
// 0 is met where the program is started or its data folder handled, and never over HTTP.
type Error struct {
	Status           int
	Title            string
	Sentence, Remedy string
}

// Errors is the one table of what can go wrong at the edge. Its keys are stable: programs may
// rely on them.
var Errors = map[string]Error{
	"bad-request":         {400, "Not readable", "The request could not be read: {detail}.", "Send JSON as the API describes it."},
	"not-logged-in":       {401, "Not logged in", "This needs a log-in.", "Log in, then try again."},
	"wrong-login":         {401, "Not logged in", "Log-in name and password do not fit.", "Check both; after several wrong tries there is a pause."},
	"too-many-tries":      {429, "Too many tries", "Too many wrong log-ins.", "Wait a minute, then try again."},
	"not-allowed":         {403, "Not allowed", "{person} ({role}) may not do this: {who}.", "Ask the custodian or the coordinator."},
	"cross-origin":        {403, "Not allowed", "The request came from another site.", "Use the console of this Kaiku."},
	"no-such-household":   {404, "Not found", "There is no household {code}.", "Look at the list of households."},
	"no-such-record":      {404, "Not found", "There is no {kind} {id} in this household.", "Look at the list; it may have been removed."},
	"no-such-test":        {404, "Not found", "There is no test {id} in the plan.", "Look at the plan: a test goes when its path goes."},
	"no-such-person":      {422, "No such person", "There is no person {name} in the firm.", "Use the log-in name of someone in the list of people."},
	"no-such-page":        {404, "Not found", "There is nothing at this address.", "Look at the API's description at /api/v1/openapi.json."},
	"no-such-method":      {405, "Not possible here", "This address cannot be asked in this way.", "Look at the API's description at /api/v1/openapi.json."},
	"code-taken":          {409, "Already there", "There is a household {code} already.", "Take the next free code."},
	"id-taken":            {409, "Already there", "There is a record with id {id} already.", "Make a new id, or change that record."},
	"key-reused":          {422, "Key used before", "This Idempotency-Key was used for another request.", "Make a new key for every request that differs."},
	"if-match-missing":    {428, "Which version?", "A change must say which version it starts from.", "Send the record's ETag as If-Match."},
	"record-changed":      {412, "Changed meanwhile", "{label} was changed meanwhile by {by}.", "Look at what changed, then send your change with the new ETag."},
	"not-valid":           {422, "Not accepted", "Nothing was stored: {n} to correct.", "Correct what is named, then send it again."},
	"still-used":          {409, "Still used", "{label} is still used.", "Remove or change what uses it first."},
	"too-large":           {413, "Too large", "The request is larger than the {limit} this operation takes.", "Send less at once."},
	"job-running":         {409, "Runs already", "{by} has {what} under way in this home just now.", "Wait until it ends, or stop it."},
	"no-such-job":         {404, "Not found", "There is no such work under way in this household.", "It ended more than an hour ago, or Kaiku was restarted; look at the tests themselves."},
	"not-on-site":         {409, "Not in the home", "This Kaiku does not stand in the home, so it cannot ask its devices.", "Run the tests from a laptop in the home: kaiku test run -H {code}."},
	"not-on-site-look":    {409, "Not in the home", "This Kaiku does not stand in the home, so it cannot look at its network.", "Look from a laptop in the home: kaiku observation gather -H {code}."},
	"not-on-site-browse":  {409, "Not in the home", "This Kaiku does not stand in the home, so it cannot look into its sources.", "Look from a laptop in the home: kaiku source browse -H {code}."},
	"not-announced":       {422, "Not known what it says of itself", "It is not recorded what {device} announces itself as, so nobody can ask in its name.", "Look at the network while it is on, and take over what it says; or fill in \"announces itself as\"."},
	"no-look":             {409, "Nobody has looked", "Nobody has looked at this home's network yet, or not for 90 days.", "Look first: kaiku observation gather."},
	"look-changed":        {409, "Looked again", "Somebody has looked again meanwhile.", "Look at what is seen now, then take it over."},
	"nothing-taken":       {422, "Nothing to take over", "None of what was named is seen and not recorded so.", "Look at the list; it may have been taken over already."},
	"no-such-host":        {404, "Not found", "No host is known by {key} in the newest look.", "Look at the list."},
	"nothing-to-run":      {422, "Nothing to run", "None of these tests can be done by a machine.", "Record how it went on the screen instead."},
	"wrong-state":         {409, "Not now", "{label} is {state}; this needs it to be {needed}.", "Look at where it stands now."},
	"gate-closed":         {409, "Not ready to hand over", "{said}", "{remedy}"},
	"points-open":         {409, "Not read back", "{n} points are not read back yet.", "Confirm each point, or ask about it and return the handover."},
	"nothing-asked":       {422, "Why?", "A handover is returned with a question or a reason.", "Ask about a point, or give the reason."},
	"same-person":         {422, "Same person", "{name} has this home already.", "Choose somebody else."},
	"login-taken":         {409, "Already there", "There is somebody with the log-in name {name} already.", "Choose another log-in name."},
	"yourself":            {409, "Not yourself", "Nobody suspends or demotes himself.", "Ask another coordinator."},
	"homes-held":          {409, "Homes to hand on", "{name} is answerable for {n}.", "Say who takes them over (handOnTo)."},
	"wrong-password":      {422, "Wrong password", "This is not your password now.", "Type the one you log in with."},
	"no-receiver":         {422, "Cannot receive", "{name} cannot be answerable for a home.", "Choose a technician, a lead technician or a coordinator."},
	"no-proof":            {409, "Not proven", "There is no passed test after the remedy.", "Run the test again, or close it with a reason."},
	"not-needed":          {422, "Not needed", "No path needs {what} there.", "Look at the list of prerequisites."},
	"attempt-by-machine":  {422, "Not for the eye", "{test} is judged by a machine.", "Let Kaiku run it."},
	"not-readable":        {422, "Not readable", "This document cannot be brought in: {detail}.", "Bring in CSV with a line of column names, a table of leases or neighbours, or vCard; the guide shows each."},
	"no-such-kind":        {404, "Not found", "There is no kind of record called {kind} that can be written out.", "Write its plural, such as outlets, or contacts."},
	"no-visit":            {409, "No visit", "No visit is planned for this home.", "Plan one, then say what is ready for it."},
	"no-supply":           {404, "Not needed", "Nothing called {what} is needed for the next visit.", "Look at what is, or write it down with the visit."},
	"no-such-feed":        {404, "Not found", "There is no calendar at this address, or it was ended.", "Make a new address under My account."},
	"code-ended":          {404, "Ended", "This code has ended, was used already, or never was.", "Ask for a new one."},
	"too-many-guesses":    {429, "Wait", "Too many wrong codes came from here.", "Wait a minute, then photograph the code instead of typing it."},
	"measuring-already":   {409, "Somebody measures", "Another device measures just now; two at once would measure each other.", "Begin again in a moment."},
	"run-ended":           {409, "Run ended", "This measurement has ended.", "Begin a new one."},
	"nothing-measured":    {422, "Nothing measured", "Nothing was measured.", "Begin again, and keep the page in front until it ends."},
	"no-code-seen":        {422, "No code seen", "No bar code or QR code was seen on the photograph.", "Take it again from nearer, straight before the label, in even light; or type what it says."},
	"done-in-future":      {422, "Not yet", "Nothing can have been done in the future ({at}).", "Check the clock of the device that sent it."},
	"attempt-in-future":   {422, "Not yet", "An attempt cannot be made in the future ({at}).", "Check the clock of the device that sent it."},
	"not-sealed-here":     {409, "Cannot be opened", "\"{name}\" was sealed with another key than the one in this data folder.", "Put the key file of the old data folder beside the database, or enter the secret again."},
	"not-attachable":      {422, "Not a photograph or text", "This is {sort}; photographs (JPEG, PNG, WebP, GIF) and text files in UTF-8 are kept.", "Take a photograph of it, or save it as text."},
	"picture-damaged":     {422, "Not readable", "The photograph cannot be read: {detail}.", "Take it again, or choose another file."},
	"picture-too-large":   {422, "Too many pixels", "The photograph has {pixels} pixels, more than 100 million.", "Choose a smaller one."},
	"body-gone":           {410, "Gone", "The file of \"{caption}\" is not in the data folder any more.", "Bring it back from a backup, or add it again."},
	"no-exception":        {409, "Not set aside", "The test {id} is not set aside.", "Look at the plan."},
	"erase-other":         {422, "Another home", "\"{typed}\" is not the code of this home.", "Type {code} to erase its personal data."},
	"no-such-entry":       {404, "Not found", "There is no entry {entry} in the journal of this household.", "Look at the journal."},
	"not-undoable":        {409, "Cannot be undone", "Entry {entry} was made by a step of the work, not by a plain change.", "Take the step that leads back, such as opening an issue again."},
	"changed-since":       {409, "Changed since", "What entry {entry} changed of {label} was changed again since.", "Undo the later entry first, or change the record itself."},
	"line-gone":           {503, "No answer", "Kaiku at {address} does not answer.", "Check the address, and that kaiku serve runs there."},
	"internal":            {500, "Kaiku failed", "Something went wrong in Kaiku itself.", "Try again; if it stays, give the request number {request} to whoever runs it."},
	"disk-full":           {507, "No room left", "There is no room left on the disk of this Kaiku. Nothing of this was stored.", "Make room on the disk, then send it again."},
	"data-damaged":        {500, "Data damaged", "The database of this Kaiku is damaged.", "Stop Kaiku, keep the data folder as it is, and bring the newest backup back: kaiku restore FILE --data DIR --replace."},
	"data-not-writable":   {503, "Not writable", "Kaiku cannot write into its data folder. Nothing of this was stored.", "Give the account that runs Kaiku the right to write there, or mount the disk for writing."},
	"data-newer":          {0, "Newer data", "{dir} was written by a newer Kaiku than this one.", "Start the newer Kaiku, or bring back a backup that this one made."},
	"data-foreign":        {0, "Not Kaiku's", "{dir} is {detail}.", "Name another folder with --data; an empty or new one is fine."},
	"data-in-use":         {0, "In use", "Another Kaiku runs on the data folder {dir}.", "End that one first, or name another folder with --data."},
	"data-occupied":       {0, "Homes there", "The data folder {dir} holds homes already.", "Say --replace: what stands there now is kept beside it."},
	"not-a-backup":        {0, "Not a backup", "{file} is no backup of Kaiku.", "Name a file that kaiku backup wrote."},
	"backup-damaged":      {0, "Backup damaged", "{file} cannot be used, {detail}. Nothing was changed.", "Take another backup."},
	"backup-there":        {0, "Already there", "{file} is there already.", "Name another file: a backup never overwrites one."},
	"port-in-use":         {0, "Port in use", "{listen} is taken by another program.", "Is another Kaiku running there? End it, or choose another port with --listen."},
	"port-not-ours":       {0, "Cannot listen", "Kaiku cannot listen on {listen}: {detail}.", "Name an address of this machine and a free port above 1023, such as 127.0.0.1:7440, with --listen."},
	"settings-wrong":      {0, "Settings", "{detail}.", "See kaiku help serve, and docs/operation.md for the file."},
	"clock-behind":        {0, "Clock set back", "The clock of this machine runs {behind} behind the newest entry that is stored. New entries carry the time of the newest one until the clock has caught up.", "Set the clock. If it is right and ran ahead before, start once with --trust-clock."},
	"household-needs-you": {422, "Whose home?", "An observer cannot be answerable for a home.", "Name a custodian."},
}

// Faults holds the words for what is wrong with one member of a record.
var Faults = map[string]string{
	string(dossier.FaultStillUsed):     "{by} \"{label}\" still uses it",
	string(dossier.FaultUnknownRecord): "there is no {kind} with id {id} in this household",
	string(dossier.FaultNotUnique):     "this name is taken by another {kind}: \"{value}\"",
	string(dossier.FaultRequired):      "this is needed",
	string(dossier.FaultNotListed):     "\"{value}\" is not one of: {allowed}",
	string(dossier.FaultRange):         "{value} must lie between {from} and {to}",
	string(dossier.FaultSelf):          "it cannot refer to itself",
	string(dossier.FaultWrongDevice):   "it belongs to another device",
	string(dossier.FaultWrongSource):   "the folder belongs to another source",
	string(dossier.FaultWrongKind):     "a {kind} cannot stand here, only: {allowed}",
	string(dossier.FaultNotOwed):       "\"{value}\" is not among what it owes",
	string(dossier.FaultHome):          "a dossier has exactly one household",
	string(dossier.FaultBadID):         "\"{value}\" is not an id; leave it out, or send a UUIDv7",
	"unknown-person":                   "there is nobody called {name} in the firm; write a log-in name or a name",
	"not-yours":                        "this cannot be set here",
	"fixed":                            "this is set once, on creation",
	"unknown-member":                   "there is no such member",
	"schema":                           "{detail}",
}

// Say says a row of the error table with its remedy.
func Say(code string, values map[string]string) string {
	e := Errors[code]
	return Fill(e.Sentence, values) + " " + Fill(e.Remedy, values)
}

// Fault says a fault of a record.
func Fault(f dossier.Fault) string {
	values := map[string]string{}
	for k, v := range f.Values {
		values[k] = v
	}
	return Fill(Faults[string(f.Code)], values)
}

// NotReadable says why a JSON value cannot be read as a member of that Go type, and how to write
// it instead.
func NotReadable(goType string, v []byte) string {
	text := strings.Trim(string(v), `"`)
	switch {
	case strings.Contains(goType, "netip.Addr"):
		return fmt.Sprintf("%s is not an IP address; write IPv4 as four octets from 0 to 255, or IPv6 in hexadecimal groups", text)
	case strings.Contains(goType, "netip.Prefix"):
		return fmt.Sprintf("%s is not a prefix; write an address, a slash and the length, such as 10.20.4.0/24", text)
	case strings.Contains(goType, "HardwareAddr"):
		return fmt.Sprintf("%s is not a hardware address; write it as 02:4b:49:00:00:10", text)
	case strings.Contains(goType, "dossier.Date"):
		return fmt.Sprintf("%s is no day of the calendar; write it as 2026-03-31", text)
	case strings.Contains(goType, "dossier.Clock"):
		return fmt.Sprintf("%s is no time of day; write it as 20:30", text)
	case strings.Contains(goType, "time.Time"):
		return fmt.Sprintf("%s is not a time; write it as 2026-11-25T14:30:00Z", text)
	}
	return fmt.Sprintf("%s cannot be read here", text)
}

// A puts the article before a noun: a room, an interface.
func A(noun string) string {
	if noun != "" && strings.ContainsRune("aeiou", rune(noun[0])) {
		return "an " + noun
	}
	return "a " + noun
}

// ErrorsPage returns the error table as a page in Markdown, in the order of the codes.
func ErrorsPage() string {
	var b strings.Builder
	b.WriteString("# Errors\n\nEvery error of the API is a Problem Details answer (RFC 9457) with one of these codes; its `type` is `/docs/errors#code`. Words in\nbraces are filled in; a row without a status is met where Kaiku is started or its data folder handled. Made from `wording.Errors` by `go test ./wording -update`.\n\n| code | status | what happened | what to do |\n|---|---|---|---|\n")
	for _, code := range slices.Sorted(maps.Keys(Errors)) {
		e := Errors[code]
		status := "none"
		if e.Status > 0 {
			status = strconv.Itoa(e.Status)
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s |\n", code, status, e.Sentence, e.Remedy)
	}
	b.WriteString("\nFaults of single members, with a pointer to what to correct:\n\n| code | what is wrong |\n|---|---|\n")
	for _, code := range slices.Sorted(maps.Keys(Faults)) {
		fmt.Fprintf(&b, "| `%s` | %s |\n", code, Faults[code])
	}
	return b.String()
}
