package wire

import (
	"time"

	"kaiku/core/survey"
)

// Kit is what the next visit must bring, and what must be ready before it.
type Kit struct {
	Visit       Named     `json:"visit,omitzero" doc:"The next visit, if one is planned."`
	Starts      time.Time `json:"starts,omitzero" doc:"When it begins."`
	Technician  string    `json:"technician,omitzero" doc:"Who goes."`
	AccessNotes string    `json:"accessNotes,omitzero" doc:"How to get in."`
	Proves      []Named   `json:"proves" doc:"Tests that prove the remedies of the issues that are open."`
	Supplies    []Supply  `json:"supplies" doc:"The items: parts, then tools, then bench work."`
}

// Supply is one thing to bring or to make ready.
type Supply struct {
	What    string      `json:"what" doc:"The item or the work, as noted for the visit."`
	Sort    survey.Sort `json:"sort" enum:"part,tool,bench" doc:"Whether it stays, comes back, or is prepared beforehand."`
	Because []string    `json:"because" doc:"Why: what is missing, found or written."`
	About   []Named     `json:"about" doc:"What it is for."`
	Ready   bool        `json:"ready" doc:"It is there, or done."`
	Written bool        `json:"written" doc:"It is already noted for the visit."`
}

// SupplyReady says of one thing whether it is ready.
type SupplyReady struct {
	What  string `json:"what" minLength:"1" maxLength:"200" doc:"The item, as the list for the visit calls it."`
	Ready bool   `json:"ready" doc:"Whether it is there, or done."`
}

// Remark is one thing to know on arriving, or to settle before leaving.
type Remark struct {
	Code     string `json:"code" doc:"Code of the remark."`
	About    Named  `json:"about,omitzero" doc:"What it is about."`
	Sentence string `json:"sentence" doc:"The statement, and what to do."`
	Differs  bool   `json:"differs,omitzero" doc:"It is not as recorded."`
}

// FeedMade is a calendar's secret address. It is shown only once.
type FeedMade struct {
	Path string    `json:"path" doc:"The address below this Kaiku's own, such as /calendar/....ics."`
	Ends time.Time `json:"ends" doc:"When it expires."`
}
