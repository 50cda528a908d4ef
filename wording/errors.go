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
	"bad-request":            {400, "Request not readable", "The request could not be read: {detail}.", "Send JSON as described in /api/v1/openapi.json."},
	"not-logged-in":          {401, "Not logged in", "You are not logged in.", "Log in and try again."},
	"wrong-login":            {401, "Not logged in", "The log-in name or the password is wrong.", "Check both. After several wrong attempts there is a short pause."},
	"too-many-tries":         {429, "Too many attempts", "There have been too many failed attempts from your address.", "Try again in {wait}. Nobody is locked out."},
	"not-allowed":            {403, "Not allowed", "{person} ({role}) is not allowed to do this. Those who are: {who}.", "Ask the custodian or a coordinator."},
	"cross-origin":           {403, "Not allowed", "The request came from another website.", "Use the console of this Kaiku."},
	"no-such-household":      {404, "Not found", "There is no household {code}.", "Check the code in the list of households."},
	"no-such-record":         {404, "Not found", "There is no {kind} {id} in this household.", "Check the list; it may have been removed."},
	"test-twice":             {422, "One test twice", "The test {id} is named twice in one round.", "Name each test once."},
	"no-such-test":           {404, "Not found", "There is no test {id} in the plan.", "Check the plan. A test is dropped when its path is removed or retired."},
	"no-such-person":         {422, "No such person", "There is no {name} in the firm.", "Use a log-in name from the list of people."},
	"recipes-not-readable":   {422, "Not readable", "These recipes cannot be read: {detail}.", "Send YAML or JSON of the form kaiku-recipes/1; docs/formats.md shows an example."},
	"no-wifi-password":       {409, "Not recorded", "The segment {segment} has no Wi-Fi name or no Wi-Fi password stored for it.", "Record the Wi-Fi name, and store the password as a secret of the segment."},
	"code-of-no-device":      {409, "Not of a device", "This code is for a room, and not for a device.", "Make a code for the device whose browser this is."},
	"nothing-declared":       {422, "Nothing to record", "The browser did not say of anything that it decodes it.", "Try another browser, or record what the data sheet of the device says."},
	"knowledge-not-readable": {422, "Not readable", "This file cannot be read: {detail}.", "Send JSON of the form kaiku-knowledge/1; docs/formats.md shows an example."},
	"no-such-knowledge":      {404, "Not found", "There is no sheet or release {id}.", "Check the list of what the firm knows."},
	"no-such-recipe":         {404, "Not found", "There is no recipe called {name}.", "Check the list of recipes."},
	"no-such-step":           {404, "Not found", "The recipe {recipe} has no step {setting} for this program or device.", "Check the steps of the recipes in this home."},
	"no-such-page":           {404, "Not found", "There is nothing at this address.", "Check the address against /api/v1/openapi.json."},
	"no-such-method":         {405, "Method not allowed", "This address does not support that method.", "Check the address against /api/v1/openapi.json."},
	"code-taken":             {409, "Already exists", "Household {code} already exists.", "Choose another code, or leave the code out to be given the next free one."},
	"id-taken":               {409, "Already exists", "A record with the id {id} already exists.", "Use a new id, or change the existing record."},
	"suppose-only-reads":     {400, "Nothing is written while supposing", "Changes are only supposed, so nothing is written.", "Make the supposed changes or drop them, then try again."},
	"bad-suppose":            {400, "Not readable", "The supposed changes cannot be read: {detail}.", "Send a list of changes as JSON in base64url without padding, or leave the header out."},
	"not-by-machine":         {422, "Not a test for a machine", "A machine cannot carry out the test \"{test}\".", "Record what a person saw, as judged by the eye."},
	"not-a-machine-result":   {422, "Not a result of a machine", "A machine that saw \"{observed}\" does not come to the result \"{outcome}\".", "Send what it saw as it saw it, or record what a person saw."},
	"no-outcome":             {422, "Result missing", "The attempt does not say how the test went.", "Give the result: pass, marginal, fail or impossible. Or give what was read off a sample clip."},
	"measured-too-late":      {422, "Too late for a pass", "Kaiku measured meanwhile: {measured}. The test allows {longest} s.", "Record it as marginal or failed, or leave out what was measured if it was of something else."},
	"outcome-and-reading":    {422, "Two results", "The attempt gives a result and also what was read off a sample clip.", "Leave the result out: it is computed from what was read."},
	"reading-incomplete":     {422, "Reading not complete", "What was read off the sample clip is not complete: {missing} is needed.", "Add what is missing."},
	"not-a-time-code":        {422, "Not a time code", "The time code given as {name}, \"{text}\", is not one at {rate} frames in a second.", "Write it as on the screen: hours:minutes:seconds:frames, such as 00:00:31:12."},
	"nothing-to-watch":       {422, "Nothing to watch", "A machine can watch nothing during the test \"{test}\".", "Carry it out and record what you see."},
	"nothing-to-read":        {422, "Nothing to be read", "Time codes show nothing of the test \"{test}\".", "Give the result itself."},
	"faults-not-readable":    {422, "Fault modes not usable", "The fault modes cannot be used: {detail}.", "Correct the file; docs/kaiku-faults-1.schema.json says what it may hold. Nothing was stored."},
	"unknown-fault":          {422, "No such fault mode", "There is no fault mode {id}.", "kaiku fault list shows them all."},
	"no-such-fault":          {404, "Not a fault mode of the firm", "The firm has no fault mode {id} of its own.", "kaiku fault list shows which modes are the firm's own; those that come with Kaiku stay."},
	"no-such-question":       {422, "No such question", "There is no question or complaint called \"{question}\".", "kaiku suspect next shows what can be asked; kaiku issue answer --help lists the complaints."},
	"answer-without-path":    {422, "Path missing", "The answer to \"{question}\" has to be about one path of the home.", "Say which path it is about."},
	"issue-closed":           {409, "Issue is closed", "The issue is closed, so that nothing more is asked about it.", "Reopen it first."},
	"no-such-sample":         {404, "No such sample clip", "There is no sample clip named {name}.", "kaiku reel list shows them."},
	"key-reused":             {422, "Key already used", "This Idempotency-Key has already been used for a different request.", "Use a new key for every new request."},
	"if-match-missing":       {428, "Version missing", "A change must say which version of the record it starts from.", "Send the record's ETag in If-Match."},
	"record-changed":         {412, "Changed by someone else", "{by} has changed {label} in the meantime.", "Check what has changed, then send your change with the new ETag."},
	"not-valid":              {422, "Not accepted", "Nothing was saved because of {n}.", "Correct what is listed and send it again."},
	"still-used":             {409, "Still in use", "{label} is still in use.", "First remove or change the records that use it."},
	"too-large":              {413, "Too large", "The request is larger than {limit}, the most that this operation accepts.", "Send less at a time."},
	"job-running":            {409, "Already running", "{by} is already {what} in this home.", "Wait until it has finished, or stop it."},
	"no-such-job":            {404, "Not found", "There is no such job in this household.", "Jobs are kept for an hour after they end, and not across a restart of Kaiku. Check the results themselves."},
	"not-on-site":            {409, "Not on the home's network", "This Kaiku is not on the home's network, so it cannot test the home's devices.", "Run the tests from a laptop on the home's network: kaiku test run -H {code}."},
	"not-on-site-scan":       {409, "Not on the home's network", "This Kaiku is not on the home's network, so it cannot scan it.", "Scan from a laptop on the home's network: kaiku scan run -H {code}."},
	"not-on-site-folder":     {409, "Not on the home's network", "This Kaiku is not on the home's network, so it cannot read the folder.", "Read it from a laptop on the home's network: kaiku folder read -H {code}."},
	"place-not-opened":       {409, "Place not opened", "The folder could not be opened: {detail}.", "Check the address, the share and the account, and that the place is in a recorded segment of the home. A share is written as smb://10.20.4.10/media/Films."},
	"place-not-read":         {409, "Place not read", "The folder could not be read: {detail}.", "Check that the server runs and that the account may read the folder, then read it again. What was read earlier is kept."},
	"folder-not-read":        {409, "Not read yet", "The folder {folder} has not been read, so there is nothing to record.", "Read it first: kaiku folder read {folder}."},
	"folder-read-again":      {409, "Read again meanwhile", "The folder {folder} has been read again since. Nothing was recorded.", "Look at the newest contents, then record them."},
	"listing-not-whole":      {409, "The list may be incomplete", "It is not certain that the server of {folder} sent its whole list with the newest reading. Nothing was recorded.", "Read the folder again at its share or export, once the server has finished indexing."},
	"folder-read-in-part":    {409, "Read in part", "The folder {folder} has been read in part only. Nothing was recorded.", "Read it again; what has been read is kept and is not read twice."},
	"home-busy":              {503, "Busy", "This home is being changed by others at this moment. Nothing was saved.", "Try again in a moment."},
	"pictures-busy":          {503, "Busy", "Too many photographs are being worked on at this moment.", "Send it again in a moment. Nothing was saved."},
	"log-in-busy":            {503, "Busy", "Too many people are logging in at this moment.", "Try again in a few seconds."},
	"code-needed":            {401, "Code needed", "The password is right. A code of the second factor is needed as well.", "Enter the code that the program on your phone shows now."},
	"wrong-code":             {401, "Wrong code", "The code is wrong, has expired or has been used already.", "Wait for the next code. If none is accepted, check the clock of the phone."},
	"second-factor-needed":   {403, "Second factor needed", "This firm asks people with your role for a second factor, and you have none yet.", "Set it up under My account or with the command kaiku person second-factor."},
	"second-factor-lost":     {409, "Second factor lost", "Your second factor was stored with another key than the one in this data folder.", "Ask a coordinator to reset you, or put the key file of the old data folder next to the database."},
	"too-much":               {413, "Too much at once", "The request has more than {limit}.", "Send less at a time."},
	"host-outside":           {422, "Outside the segments", "{address} is in no recorded segment of this home.", "Name an address in a recorded segment, or record the segment first."},
	"not-on-site-browse":     {409, "Not on the home's network", "This Kaiku is not on the home's network, so it cannot browse its sources.", "Browse from a laptop on the home's network: kaiku source browse -H {code}."},
	"not-announced":          {422, "Announcement not recorded", "How {device} announces itself is not recorded, so the source cannot be asked on its behalf.", "Scan the network while the device is on and record the result, or fill in \"Announces itself as\"."},
	"no-scan":                {409, "No scan yet", "There has been no scan of this home's network in the past 90 days.", "Scan the network first: kaiku scan run."},
	"scan-changed":           {409, "Newer scan", "There has been a newer scan in the meantime.", "Check the new results and try again."},
	"nothing-recorded":       {422, "Nothing to record", "None of the values you chose differ from the record.", "Check the list; they may have been recorded already."},
	"no-such-host":           {404, "Not found", "The latest scan has no host {key}.", "Check the list of hosts."},
	"nothing-to-run":         {422, "Nothing to run", "None of these tests can be run by a machine.", "Record what you see on the screen instead."},
	"wrong-state":            {409, "Not possible now", "The {kind} is {state}; for this step it has to be {needed}.", "Check its current state."},
	"no-baseline":            {422, "No baseline possible", "A baseline can be set only by a lead technician or coordinator, for a home that has never been handed over.", "Leave it out; the handover then tells everything since the last one."},
	"taken-elsewhere":        {409, "Already exists elsewhere", "A record with the id {id} already exists in the household {home}.", "Use a new id: each record belongs to one household."},
	"gate-closed":            {409, "Not ready to hand over", "{said}", "Then offer the handover again."},
	"handover-on-offer":      {409, "Already on offer", "The last handover is on offer and has not been answered yet.", "Wait until its receiver accepts or returns it."},
	"not-the-custodian":      {409, "Not the custodian", "The person who drafted this handover is no longer the custodian of the home.", "Let the present custodian draft a new one."},
	"points-open":            {409, "Not read back", "Points still to be read back: {n}.", "Confirm each point, or ask a question about it and return the handover."},
	"nothing-asked":          {422, "Reason missing", "A handover can be returned only with a question or a reason.", "Ask about a point, or give a reason."},
	"same-person":            {422, "Same person", "{name} is already the custodian of this home.", "Choose someone else."},
	"login-taken":            {409, "Already exists", "The log-in name {name} is already in use.", "Choose another log-in name."},
	"yourself":               {409, "Not for yourself", "You cannot suspend yourself or change your own role.", "Ask another coordinator."},
	"homes-held":             {409, "Still custodian", "{name} is the custodian of {n}.", "Say who is to be the new custodian (handOnTo)."},
	"wrong-password":         {422, "Wrong password", "The current password is wrong.", "Type the password that you log in with now."},
	"no-receiver":            {422, "Not possible", "{name} cannot be the custodian of a home.", "Choose a technician, a lead technician or a coordinator."},
	"joins-nothing":          {409, "Not one symptom more", "An issue can be joined only to another one that is not closed.", "Choose another issue, or reopen that one first."},
	"no-proof":               {409, "Not proven", "No test has passed since the remedy.", "Run the test again, or close the issue with a reason."},
	"not-needed":             {422, "Not needed", "No path needs {what} there.", "Check the list of prerequisites."},
	"revision-in-future":     {422, "Revision not reached", "This home has no revision {revision} yet.", "Use the revision of the plan that the test was chosen from."},
	"not-readable":           {422, "File not readable", "This file cannot be imported: {detail}.", "Import CSV with a line of column names, a lease or neighbour table, or vCard. The guide describes each form."},
	"no-such-kind":           {404, "Not found", "There are no records called {kind} that can be chosen here.", "Use the plural of a kind, such as outlets, or contacts."},
	"no-such-gap":            {409, "No such gap", "The survey has no open gap {gap} there.", "Check the list of what is missing."},
	"no-visit":               {409, "No visit", "No visit is planned for this home.", "Plan a visit first."},
	"no-supply":              {404, "Not needed", "Nothing called {what} is needed for the next visit.", "Check the list, or add it to the visit."},
	"no-such-feed":           {404, "Not found", "There is no calendar at this address, or it has expired.", "Create a new address under My account."},
	"code-ended":             {404, "Code not valid", "This code has expired, has already been used or never existed.", "Ask for a new code."},
	"too-many-guesses":       {429, "Too many attempts", "Too many wrong codes have been entered from this address.", "Wait {wait}, then photograph the code instead of typing it."},
	"measuring-already":      {409, "Already measuring", "Another device is measuring now, and two measurements at once would disturb each other.", "Try again in a moment."},
	"run-ended":              {409, "Measurement over", "This measurement has ended.", "Start a new one."},
	"nothing-measured":       {422, "Nothing measured", "The measurement has no values.", "Start again, and keep the page in the foreground until it has finished."},
	"no-code-seen":           {422, "No code found", "No bar code or QR code was found in the photograph.", "Take it again from closer, straight on and in even light, or type what the label says."},
	"done-in-future":         {422, "Time in the future", "The time given, {at}, is in the future.", "Check the clock of the device that sent it."},
	"attempt-in-future":      {422, "Time in the future", "The time of the attempt, {at}, is in the future.", "Check the clock of the device that sent it."},
	"not-sealed-here":        {409, "Cannot be opened", "\"{name}\" was encrypted with a different key from the one in this data folder.", "Put the key file of the old data folder next to the database, or enter the secret again."},
	"not-attachable":         {422, "File type not accepted", "This is {sort}. Only photographs (JPEG, PNG, WebP) and UTF-8 text files can be attached.", "Take a photograph of it, or save it as text."},
	"picture-damaged":        {422, "Photograph not readable", "The photograph cannot be read: {detail}.", "Take it again, or choose another file."},
	"picture-too-large":      {422, "Too many pixels", "The photograph has {pixels} pixels, more than can be unpacked here.", "Choose a smaller one."},
	"body-gone":              {410, "File missing", "The file of \"{caption}\" is no longer in the data folder.", "Restore it from a backup, or attach it again."},
	"body-damaged":           {410, "File damaged", "The file of \"{caption}\" in the data folder is damaged, so it is not shown.", "Attach the same file again, or restore it from a backup."},
	"bodies-damaged":         {0, "Files damaged", "In the data folder {n} damaged.", "To see which: kaiku check --data DIR. Attach them again, or restore them from a backup."},
	"not-waived":             {409, "Not waived", "The test {id} is not waived.", "Check the plan."},
	"erase-other":            {422, "Wrong code", "\"{typed}\" is not the code of this home.", "Type {code} to erase its personal data."},
	"no-such-entry":          {404, "Not found", "There is no entry {entry} in the journal of this household.", "Check the journal."},
	"not-undoable":           {409, "Cannot be undone", "Entry {entry} was not a plain change, so it cannot be undone.", "Use the step that reverses it, such as reopening an issue."},
	"changed-since":          {409, "Changed since", "The values of {label} that entry {entry} changed have been changed again since.", "Undo the later entry first, or change the record itself."},
	"line-gone":              {503, "No answer", "Kaiku at {address} does not answer.", "Check the address and that kaiku serve is running there."},
	"internal":               {500, "Internal error", "Something went wrong in Kaiku.", "Try again. If it happens again, give the request number {request} to whoever runs Kaiku."},
	"disk-full":              {507, "Disk full", "The disk of this Kaiku is full. Nothing was saved.", "Free some disk space and send it again."},
	"data-damaged":           {500, "Data damaged", "The database of this Kaiku is damaged.", "Stop Kaiku, leave the data folder as it is, and restore the latest backup: kaiku restore FILE --data DIR --replace."},
	"disk-failing":           {503, "Disk failing", "The disk of this Kaiku reports errors. Nothing was saved.", "Look after the disk at once, and make a backup on another one: kaiku backup FILE --data DIR."},
	"data-not-writable":      {503, "Not writable", "Kaiku cannot write to its data folder. Nothing was saved.", "Give the account that runs Kaiku write access, or mount the disk as writable."},
	"data-newer":             {0, "Newer data", "{dir} was written by a newer version of Kaiku.", "Start the newer version, or restore a backup made by this one."},
	"data-foreign":           {0, "Not a data folder", "{dir} is {detail}.", "Choose another folder with --data; it may be new or empty."},
	"data-held":              {503, "Busy", "The database of this Kaiku was held by something else for too long. Nothing was saved.", "Try again in a moment. If it happens again, see that no other program opens the database or copies it while Kaiku runs, and that the disk is not too slow."},
	"data-in-use":            {0, "In use", "Another Kaiku is already using the data folder {dir}.", "Stop that one first, or choose another folder with --data."},
	"data-occupied":          {0, "Not empty", "The data folder {dir} already contains homes.", "Add --replace to go ahead; the present data is kept next to it."},
	"not-a-backup":           {0, "Not a backup", "{file} is not a backup of Kaiku.", "Choose a file that kaiku backup wrote."},
	"backup-damaged":         {0, "Backup damaged", "{file} cannot be used: {detail}. Nothing was changed.", "Use another backup."},
	"backup-there":           {0, "Already exists", "{file} already exists.", "Choose another file name; a backup never overwrites a file."},
	"port-in-use":            {0, "Port in use", "{listen} is in use by another program.", "If that is another Kaiku, stop it, or choose another port with --listen."},
	"port-not-ours":          {0, "Cannot listen", "Kaiku cannot listen on {listen}: {detail}.", "With --listen, choose an address of this machine and a free port above 1023, such as 127.0.0.1:7440."},
	"settings-wrong":         {0, "Settings", "{detail}.", "See kaiku help serve, and docs/operation.md for the settings file."},
	"clock-behind":           {0, "Clock set back", "The clock of this machine is {behind} behind the latest saved entry. Until it has caught up, new entries are given the time of the latest one.", "Set the clock. If the clock is right now and was ahead before, start once with --trust-clock."},
	"household-needs-you":    {422, "Custodian missing", "An observer cannot be the custodian of a home.", "Name a custodian."},
}

// Faults holds the words for what is wrong with one member of a record.
var Faults = map[string]string{
	string(dossier.FaultStillUsed):     "it is still used by the {by} \"{label}\"",
	string(dossier.FaultUnknownRecord): "this household has no {kind} with the id {id}",
	string(dossier.FaultNotUnique):     "the name \"{value}\" is already used by another {kind}",
	string(dossier.FaultRequired):      "this is required",
	string(dossier.FaultNotListed):     "\"{value}\" is not possible here; choose one of: {allowed}",
	string(dossier.FaultRange):         "{value} is not between {from} and {to}",
	string(dossier.FaultSelf):          "it cannot refer to itself",
	string(dossier.FaultWrongDevice):   "it belongs to another device",
	string(dossier.FaultProtocol):      "a path of the kind {kind} needs a source that speaks one of {allowed}, not {protocol}",
	string(dossier.FaultWrongSource):   "the folder belongs to another source",
	string(dossier.FaultWrongKind):     "{kind} is not possible here; possible kinds: {allowed}",
	string(dossier.FaultCopyLater):     "this copy was taken after the change, so it does not hold what was there before",
	string(dossier.FaultNoCopy):        "a reset to defaults loses the settings: name the copy that was taken beforehand or, if there is none, say under \"What is lost\" what it takes away",
	string(dossier.FaultNoLosses):      "say what the rebuild loses, such as watched marks and edited titles; or that it loses nothing",
	string(dossier.FaultNotAFollowUp):  "\"{value}\" is not a follow-up of this change",
	string(dossier.FaultHome):          "a home file has exactly one household",
	string(dossier.FaultBadID):         "\"{value}\" is not a valid id; leave it out or send a UUIDv7",
	"unknown-person":                   "there is no {name} in the firm; enter a log-in name or a full name",
	"not-yours":                        "this cannot be set directly",
	"fixed":                            "this cannot be changed after the record has been added",
	"password-common":                  "this is one of the passwords that are guessed first; choose several words that do not belong together",
	"password-named":                   "this is little more than your own name; choose several words that do not belong together",
	"unknown-member":                   "there is no such field",
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
		return fmt.Sprintf("%s is not an IP address; write IPv4 as four numbers from 0 to 255, or IPv6 in hexadecimal groups", text)
	case strings.Contains(goType, "netip.Prefix"):
		return fmt.Sprintf("%s is not a prefix; write an address, a slash and the length, such as 10.20.4.0/24", text)
	case strings.Contains(goType, "HardwareAddr"):
		return fmt.Sprintf("%s is not a MAC address; write it as 02:4b:49:00:00:10", text)
	case strings.Contains(goType, "dossier.Date"):
		return fmt.Sprintf("%s is not a date; write it as 2026-03-31", text)
	case strings.Contains(goType, "dossier.Clock"):
		return fmt.Sprintf("%s is not a time of day; write it as 20:30", text)
	case strings.Contains(goType, "time.Time"):
		return fmt.Sprintf("%s is not a time; write it as 2026-11-25T14:30:00Z", text)
	}
	return fmt.Sprintf("%s is not possible here", text)
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
	b.WriteString("# Errors\n\nEvery error from the API is a Problem Details answer (RFC 9457) with one of these codes. Its `type` is `/docs/errors#code`. Words in\nbraces are placeholders. A row without a status is an error that occurs when Kaiku is started or its data folder is handled. This page is\ngenerated from `wording.Errors` by `go test ./wording -update`.\n\n| code | status | what happened | what to do |\n|---|---|---|---|\n")
	for _, code := range slices.Sorted(maps.Keys(Errors)) {
		e := Errors[code]
		status := "none"
		if e.Status > 0 {
			status = strconv.Itoa(e.Status)
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s |\n", code, status, e.Sentence, e.Remedy)
	}
	b.WriteString("\nFaults in single fields, each with a pointer to what to correct:\n\n| code | what is wrong |\n|---|---|\n")
	for _, code := range slices.Sorted(maps.Keys(Faults)) {
		fmt.Fprintf(&b, "| `%s` | %s |\n", code, Faults[code])
	}
	return b.String()
}
