package wire

import (
	"time"

	"kaiku/core/dossier"
	"kaiku/core/network"
)

// Survey is what a walk through a home still has to find out, and what is known of its network.
type Survey struct {
	Revision uint64      `json:"revision" doc:"Revision of the household that this is computed from."`
	Network  OneNetwork  `json:"network" doc:"Whether everything is on the same network."`
	Lines    []LineReach `json:"lines" doc:"How the home can be reached over each of its lines."`
	Stops    []Stop      `json:"stops" doc:"The rooms in walking order; the last stop is the home as a whole."`
	Missing  int         `json:"missing" doc:"How many gaps there are in all."`
	MayWrite bool        `json:"mayWrite" doc:"Whether you may record here now."`
}

// Stop is one room of the walk.
type Stop struct {
	Room     Named         `json:"room,omitzero" doc:"The room; none for the home as a whole."`
	Floor    int           `json:"floor" doc:"Floor it is on; 0 is the ground floor."`
	Gaps     []Gap         `json:"gaps" doc:"What is missing there."`
	Answered []GapAnswered `json:"answered" doc:"Gaps there that need nothing recorded."`
	Findings []Finding     `json:"findings" doc:"What is found on what is there."`
	Wishes   []string      `json:"wishes" doc:"The wishes there, in words."`
	Outlets  []Named       `json:"outlets" doc:"The outlets there, by name."`
	Devices  []Named       `json:"devices" doc:"The devices there."`
	Photos   int           `json:"photos" doc:"How many photographs there are of it and of what is in it."`
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

// GapAnswered is a gap that needs nothing recorded, said.
type GapAnswered struct {
	Code     string           `json:"code" doc:"Code of the gap."`
	About    Named            `json:"about,omitzero" doc:"The record it is about."`
	Answer   dossier.GapReply `json:"answer" enum:"none-here,not-needed" doc:"Why nothing is to be recorded."`
	Sentence string           `json:"sentence" doc:"The gap and its answer, in words."`
	Note     string           `json:"note,omitzero" doc:"How this is known."`
	By       string           `json:"by" doc:"Name of the person who answered it."`
	At       time.Time        `json:"at" doc:"When."`
}

// AnswerGap answers a gap for which nothing is to be recorded, or withdraws the answer.
type AnswerGap struct {
	Code   string           `json:"code" minLength:"1" maxLength:"60" doc:"Code of the gap."`
	About  Ref              `json:"about,omitzero" doc:"The record it is about; none for the whole home."`
	Answer dossier.GapReply `json:"answer,omitzero" enum:"none-here,not-needed" doc:"Why nothing is to be recorded; nothing to withdraw an answer."`
	Note   string           `json:"note,omitzero" maxLength:"400" doc:"How this is known."`
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
	CanServe bool              `json:"canServe" doc:"Whether the home can be reached from outside in some way."`
	Sentence string            `json:"sentence" doc:"What that means for outside viewing."`
}
