package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/load"
	"kaiku/core/pathkind"
	"kaiku/core/propose"
)

// Proposal lists ways by which a device could get what is wished for.
type Proposal struct {
	Device  Named             `json:"device" doc:"The device."`
	Wished  []ProposedFor     `json:"wished" doc:"For each kind of content that is wished on the device or in its room; one without content if nothing is wished."`
	Without []ProposedWithout `json:"without" doc:"Kinds of path for which this home has no source."`
}

// ProposedFor lists the ways for one kind of content.
type ProposedFor struct {
	What dossier.ContentKind `json:"what" doc:"The kind of content; empty if nothing is wished."`
	Said string              `json:"said" doc:"The same in words, or that no source has any of it."`
	Ways []ProposedWay       `json:"ways" doc:"The ways, those that can work first, the best first."`
}

// ProposedWay is one way by which a device could get something.
type ProposedWay struct {
	Kind     dossier.PathKind `json:"kind" doc:"The kind of path."`
	Said     string           `json:"said" doc:"The way in words."`
	Source   Named            `json:"source" doc:"The source."`
	Possible bool             `json:"possible" doc:"Nothing is known to keep it from working."`
	Recorded *Named           `json:"recorded,omitzero" doc:"The path, if it is recorded already."`
	Seen     propose.Sign     `json:"seen" enum:"recorded,role,known-to,program,not-known" doc:"Why the device is taken to be able to do it: a path of the kind is recorded, it is a renderer, the server knows it, a player is installed; or it is not known."`
	Able     string           `json:"able" doc:"The same in words."`
	Finds    string           `json:"finds" doc:"How the device finds the server, and how else it can."`
	Plays    string           `json:"plays" doc:"What of the folders would play."`
	Load     load.State       `json:"load" enum:"room-left,tight,overloaded,not-known" doc:"Whether the network carries it alone."`
	LoadSaid string           `json:"loadSaid" doc:"The same in words."`
	Cannot   []pathkind.Limit `json:"cannot" doc:"What this kind of path cannot do."`
	Loses    []string         `json:"loses" doc:"The same in words."`
	Open     []string         `json:"open" doc:"What has to be done for it first, in the order of work."`
	Blocks   []Finding        `json:"blocks" doc:"What keeps it from working."`
	Minds    []Finding        `json:"minds" doc:"What else is found about it."`
	FallBack *Named           `json:"fallBack,omitzero" doc:"The recorded path to use when this one fails."`
	Draft    Record           `json:"draft" doc:"The path as it would be recorded, to be added as it is."`
}

// ProposedWithout is a kind of path for which no source speaks what it needs.
type ProposedWithout struct {
	Kind dossier.PathKind `json:"kind" doc:"The kind of path."`
	Said string           `json:"said" doc:"Why it is not possible, and what would make it possible."`
}
