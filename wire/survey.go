package wire

import "kaiku/core/network"

// Survey is what a walk through a home still has to find out, and what is known of its network.
type Survey struct {
	Revision uint64      `json:"revision" doc:"Revision of the household that this is computed from."`
	Network  OneNetwork  `json:"network" doc:"Whether everything is on the same network."`
	Lines    []LineReach `json:"lines" doc:"How the home can be reached over each of its lines."`
	Stops    []Stop      `json:"stops" doc:"The rooms in walking order; the last stop is the home as a whole."`
	Missing  int         `json:"missing" doc:"How many things are missing in all."`
	MayWrite bool        `json:"mayWrite" doc:"Whether the asking person may record here now."`
}

// Stop is one room of the walk.
type Stop struct {
	Room     Named     `json:"room,omitzero" doc:"The room; none for the home as a whole."`
	Floor    int       `json:"floor" doc:"Floor it is on; 0 is the ground floor."`
	Gaps     []Gap     `json:"gaps" doc:"What is missing there."`
	Findings []Finding `json:"findings" doc:"What is found on what is there."`
	Wishes   []string  `json:"wishes" doc:"What is wished there, said."`
	Outlets  []Named   `json:"outlets" doc:"The outlets there, by name."`
	Devices  []Named   `json:"devices" doc:"The devices there."`
	Photos   int       `json:"photos" doc:"How many photographs there are of it and of what is in it."`
}

// Gap is one thing that is not recorded yet, said.
type Gap struct {
	Code     string   `json:"code" doc:"Code of the gap."`
	About    Named    `json:"about,omitzero" doc:"The record it is missing at."`
	Sentence string   `json:"sentence" doc:"What is missing."`
	Remedy   string   `json:"remedy" doc:"What to do."`
	Kind     string   `json:"kind" doc:"Kind of the record that fills it."`
	Members  []string `json:"members" doc:"Members of the record it is about that fill it; none if a new record does."`
}

// OneNetwork answers whether everything is on the same network.
type OneNetwork struct {
	Union    network.Union `json:"union" enum:"unknown,one-network,passed-on,routed,apart" doc:"The answer for the home."`
	Sentence string        `json:"sentence" doc:"The answer in one line."`
	Paths    []PathUnion   `json:"paths" doc:"The answer for each path in use."`
}

// PathUnion answers for one path.
type PathUnion struct {
	Path     Named         `json:"path" doc:"The path."`
	Union    network.Union `json:"union" enum:"unknown,one-network,passed-on,routed,apart" doc:"The answer."`
	Sentence string        `json:"sentence" doc:"The answer in one line."`
}

// LineReach says how a home can be reached over a line.
type LineReach struct {
	Line     Named             `json:"line" doc:"The line."`
	V4       network.OuterKind `json:"v4" enum:"unknown,public,carrier-shared,behind-second-router,carrier-private" doc:"What IPv4 address it gives the home."`
	V6       network.OuterKind `json:"v6" enum:"unknown,public,carrier-shared,behind-second-router,carrier-private" doc:"What IPv6 address it gives the home."`
	Box      Named             `json:"box,omitzero" doc:"The recorded router in between, if there is one."`
	CanServe bool              `json:"canServe" doc:"Whether somebody outside can reach the home in some way."`
	Sentence string            `json:"sentence" doc:"What that means for outside viewing."`
}
