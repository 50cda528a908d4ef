package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/forecast"
	"kaiku/core/format"
	"kaiku/core/proving"
)

// Forecast is what of a home's folders plays on which device.
type Forecast struct {
	Devices    []Named             `json:"devices" doc:"The devices that some path serves, in the order of the rooms."`
	Folders    []Named             `json:"folders" doc:"The folders that some path reaches."`
	Cells      []ForecastCell      `json:"cells" doc:"One for each device and each folder that a path leads to."`
	Helps      []ForecastHelp      `json:"helps" doc:"The single changes that would make most play as it is, those that gain most hours first."`
	Ahead      []ForecastAhead     `json:"ahead" doc:"What would be worth converting ahead of time, the greatest gain first."`
	Converters []ForecastConverter `json:"converters" doc:"The sources that have to convert pictures, and whether they have the power for it."`
}

// ForecastCell is the forecast for one device and one folder, by the path that serves it best.
type ForecastCell struct {
	Device   dossier.ID[dossier.Device] `json:"device" doc:"The device."`
	Folder   dossier.ID[dossier.Folder] `json:"folder" doc:"The folder."`
	Path     Named                      `json:"path" doc:"The path that serves it best."`
	Grade    forecast.Grade             `json:"grade" enum:"plays,converted,partly,none,in-doubt,not-known" doc:"The most that may be said of the whole: all plays as it is; all plays, some of it converted; some plays, and some stays silent or does not play; all stays silent or does not play; of some it is known, and of some not; or nothing is known."`
	Said     string                     `json:"said" doc:"The shares in words."`
	Why      string                     `json:"why" doc:"Why, for the largest part that does not play as it is."`
	Shares   []ForecastShare            `json:"shares" doc:"The outcomes with their shares, the best first."`
	Evidence dossier.Evidence           `json:"evidence,omitzero" enum:"proven,declared,data-sheet,assumed" doc:"The weakest evidence that anything rests on that is known of it."`
	Unread   int                        `json:"unread" doc:"Items of the folder whose format is not recorded; nothing is said of them."`
	Lines    []ForecastLine             `json:"lines" doc:"One for each format of the folder."`
	Tried    []ForecastTried            `json:"tried,omitzero" doc:"The tests of the path that show whether this is right."`
	Against  []string                   `json:"against,omitzero" doc:"Where a result speaks against it, in words."`
}

// ForecastTried is a test that shows whether a forecast is right.
type ForecastTried struct {
	Test   string         `json:"test" doc:"Identity of the test."`
	Title  string         `json:"title" doc:"What the test is called."`
	Status proving.Status `json:"status" enum:"untried,proven,marginal,failed,stale,in-doubt,waived" doc:"Where it stands."`
}

// ForecastShare is a part of a folder with one outcome.
type ForecastShare struct {
	Outcome forecast.Outcome `json:"outcome" enum:"as-is,repackaged,sound-converted,picture-converted,silent,unplayable,not-known" doc:"What becomes of it."`
	Items   int              `json:"items" doc:"How many items."`
	Hours   float64          `json:"hours" doc:"Their length in hours."`
	Percent float64          `json:"percent" doc:"Share of the hours, or of the items where no hours are recorded; 0 if neither is."`
}

// ForecastLine is the forecast for one format of a folder.
type ForecastLine struct {
	Format    string             `json:"format" doc:"The format in words."`
	Items     int                `json:"items" doc:"How many items have it."`
	Hours     float64            `json:"hours" doc:"Their length in hours."`
	Outcome   forecast.Outcome   `json:"outcome" enum:"as-is,repackaged,sound-converted,picture-converted,silent,unplayable,not-known" doc:"What becomes of them."`
	Cause     forecast.Cause     `json:"cause" enum:"ability,setting,server,path,not-recorded" doc:"What decides it: what the device can do, a setting, the server, the kind of path, or that something is not recorded."`
	Evidence  dossier.Evidence   `json:"evidence,omitzero" enum:"proven,declared,data-sheet,assumed" doc:"The weakest evidence that it rests on."`
	Part      dossier.FormatPart `json:"part,omitzero" enum:"container,video,sound,subtitles" doc:"The part of the file that decides."`
	Limit     format.Limit       `json:"limit,omitzero" doc:"The limit that is broken, or of which nothing is recorded."`
	Needed    string             `json:"needed,omitzero" doc:"What the files need of it."`
	Allowed   string             `json:"allowed,omitzero" doc:"What the device goes up to."`
	Why       string             `json:"why" doc:"The reason in words."`
	Beside    []string           `json:"beside" doc:"What else there is to know: subtitles, the display chain, the power that converting takes."`
	Mpx       float64            `json:"mpx,omitzero" doc:"What converting the picture of one takes, in Mpx/s, estimated."`
	Lowered   []format.Limit     `json:"lowered,omitzero" doc:"What of the picture the display chain cannot carry."`
	Subtitles forecast.Subtitles `json:"subtitles,omitzero" enum:"burnt-in,not-shown,not-known" doc:"What becomes of the first subtitles, if they are not shown as they are."`
}

// ForecastHelp is one change that would make more play as it is.
type ForecastHelp struct {
	Kind   forecast.HelpKind `json:"kind" enum:"decodes,firmware,rate-limit,sound-return,other-subtitles" doc:"What sort of change it is: a format more, a newer firmware, a rate limit that is lifted, a sound return that carries all, or other subtitles, which the device shows itself."`
	Device Named             `json:"device" doc:"The device."`
	Said   string            `json:"said" doc:"The change in words."`
	Items  int               `json:"items" doc:"How many items more would play as they are; of other subtitles, the films that may have them."`
	Hours  float64           `json:"hours" doc:"How many hours more."`
}

// ForecastConverter is a source that has to convert pictures.
type ForecastConverter struct {
	Source  Named   `json:"source" doc:"The source."`
	Mpx     float64 `json:"mpx" doc:"What the heaviest conversion takes, in Mpx/s, estimated; 0 if that is not known."`
	Budget  float64 `json:"budget" doc:"What the source is recorded to manage, in Mpx/s; 0 if that is not known."`
	AtOnce  int     `json:"atOnce" doc:"How many of the heaviest fit at once; 0 says nothing where one of the two is not known."`
	Devices int     `json:"devices" doc:"How many devices need one."`
	Short   bool    `json:"short" doc:"Whether fewer fit than there are devices that need one."`
	Said    string  `json:"said" doc:"The same in words."`
}

// ForecastAhead is a part of a folder that more devices would play if it were converted ahead of time.
type ForecastAhead struct {
	Folder Named   `json:"folder" doc:"The folder."`
	From   string  `json:"from" doc:"The form of the originals."`
	Into   string  `json:"into" doc:"The form that most devices play as it is."`
	For    []Named `json:"for" doc:"The devices that would play it, and do not now."`
	Items  int     `json:"items" doc:"How many items that is."`
	Hours  float64 `json:"hours" doc:"Their length in hours."`
	Before float64 `json:"before,omitzero" doc:"Size of the originals in GB; left out if not known."`
	After  float64 `json:"after,omitzero" doc:"Size of the copies in GB, estimated; left out if the length is not known."`
	Said   string  `json:"said" doc:"The same in words, with what to mind."`
	Listed bool    `json:"listed" doc:"Whether it is on the list of converted copies already."`
}
