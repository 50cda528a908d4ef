package wire

import (
	"time"

	"kaiku/core/proving"
)

// Sheet is what was proven in a home: on what configuration, with what, by whom and when; what was waived and why; and what is not proven.
type Sheet struct {
	Code      string           `json:"code" doc:"Code of the household."`
	Home      string           `json:"home" doc:"Its name."`
	Address   string           `json:"address,omitzero" doc:"Its address."`
	Custodian string           `json:"custodian" doc:"The technician answerable for it."`
	Revision  uint64           `json:"revision" doc:"Revision of the home that the sheet is of."`
	At        time.Time        `json:"at" doc:"When it was made."`
	Coverage  proving.Coverage `json:"coverage" doc:"Required tests by where they stand."`
	Wishes    []string         `json:"wishes" doc:"How far each wish is fulfilled, in words."`
	Blockers  []Finding        `json:"blockers" doc:"What keeps something from working as the home is recorded now."`
	Rooms     []SheetRoom      `json:"rooms" doc:"The results, by room along the floors; those of no room last."`
	Waived    []SheetTest      `json:"waived" doc:"Required tests that were waived."`
	Missing   []SheetTest      `json:"missing" doc:"Required tests that are not proven now, and not waived."`
	Cards     []RoomCard       `json:"cards" doc:"The room cards, for the customer."`
}

// SheetRoom are the results of a room.
type SheetRoom struct {
	Room  Named       `json:"room,omitzero" doc:"The room."`
	Floor int         `json:"floor" doc:"Its floor."`
	Paths []SheetPath `json:"paths" doc:"The paths that end there."`
}

// SheetPath are the results of a path.
type SheetPath struct {
	Path   Named       `json:"path" doc:"The path."`
	Device Named       `json:"device" doc:"The device that plays."`
	Stands []string    `json:"stands" doc:"The configuration that its proof is based on: addresses, versions, the way to the server."`
	Tests  []SheetTest `json:"tests" doc:"Its tests, outward from the source; advised ones only where they were tried."`
}

// SheetTest is one test with what decides where it stands.
type SheetTest struct {
	ID       string         `json:"id" doc:"Identity of the test."`
	Title    string         `json:"title" doc:"What it is called."`
	About    Named          `json:"about" doc:"What it is about."`
	Required bool           `json:"required" doc:"Whether the home is proven only with it."`
	Status   proving.Status `json:"status" enum:"proven,marginal,failed,in-doubt,stale,untried,waived" doc:"Where it stands."`
	Observed string         `json:"observed,omitzero" doc:"What was seen, in words."`
	With     string         `json:"with,omitzero" doc:"With what, and under which conditions."`
	How      string         `json:"how,omitzero" doc:"By a machine or by eye."`
	By       string         `json:"by,omitzero" doc:"Who carried it out."`
	At       time.Time      `json:"at,omitzero" doc:"When."`
	Why      string         `json:"why,omitzero" doc:"Why it was waived, or why its proof no longer holds."`
}
