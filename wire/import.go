package wire

// Acts of one line of a document that is imported.
const (
	LineAdded   = "added"
	LineChanged = "changed"
	LineSame    = "unchanged"
	LineUnknown = "unknown" // of no recorded device, and not asked to be added
	LineRefused = "refused"
)

// ImportLine is what one line of a document comes to.
type ImportLine struct {
	Line   int    `json:"line" doc:"Line of the document, or its n-th card or adapter."`
	Act    string `json:"act" enum:"added,changed,unchanged,unknown,refused" doc:"What happens to it."`
	Label  string `json:"label" doc:"What it is about."`
	Detail string `json:"detail,omitzero" doc:"What changes, or why it is refused."`
}

// Import is what a document comes to, line by line.
type Import struct {
	Form    string         `json:"form" doc:"The recognised form of the document."`
	Dry     bool           `json:"dry" doc:"Nothing was to be written."`
	Written bool           `json:"written" doc:"Whether it was written."`
	Counts  map[string]int `json:"counts" doc:"How many lines were added, changed, and so on."`
	Lines   []ImportLine   `json:"lines" doc:"The lines, in their order."`
}

// Applied is what a document with a new household comes to.
type Applied struct {
	Code string `json:"code" doc:"Code of the household; none on a dry run without a code."`
	Import
}

// ImportOptions say what to do with a document.
type ImportOptions struct {
	What       string `query:"what" maxLength:"40" doc:"Plural of a kind, contacts or table; by default what the document looks like."`
	Device     string `query:"device" maxLength:"80" doc:"Name or id of the device whose own adapters a list shows."`
	Dry        bool   `query:"dry" doc:"Only say what would be written."`
	Partly     bool   `query:"partly" doc:"Write the valid lines even if others are refused."`
	AddUnknown bool   `query:"addUnknown" doc:"Add a device for each adapter of a table that is not recorded."`
}
