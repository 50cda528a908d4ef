package wire

import (
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// RoomCard says of one room what is there, how to watch, what of that was proven last, and what is open. It holds no secrets, addresses or
// remarks: it may be shown to the customer.
type RoomCard struct {
	Room    Named       `json:"room" doc:"The room."`
	Home    string      `json:"home" doc:"Name of the household."`
	Floor   int         `json:"floor" doc:"Its floor."`
	Devices []RoomThing `json:"devices" doc:"The devices there that somebody uses."`
	Watch   []RoomWatch `json:"watch" doc:"What can be watched or heard there, and how."`
	Open    []Named     `json:"open" doc:"Open issues about the room, its devices and its paths. Their words are the technicians': leave them out of what a customer sees."`
}

// RoomThing is a device in a room.
type RoomThing struct {
	Device Named          `json:"device" doc:"The device."`
	Roles  []dossier.Role `json:"roles" doc:"What it is there for."`
	Said   string         `json:"said" doc:"The same in words."`
}

// RoomWatch is one way of watching or listening in a room.
type RoomWatch struct {
	Path     Named          `json:"path" doc:"The path."`
	Device   Named          `json:"device" doc:"The device that plays."`
	What     string         `json:"what" doc:"What there is, in words."`
	How      string         `json:"how" doc:"What to do, in plain words."`
	Else     string         `json:"else,omitzero" doc:"What to do when that fails, if a fall-back is recorded."`
	Status   proving.Status `json:"status" enum:"proven,marginal,failed,in-doubt,stale,untried,waived" doc:"The worst of its required tests."`
	Proven   int            `json:"proven" doc:"How many of its required tests are proven now."`
	Required int            `json:"required" doc:"How many are required; those that were waived are left out."`
	Blocked  bool           `json:"blocked" doc:"A finding keeps it from working as the home is recorded now."`
	Last     *time.Time     `json:"last,omitempty" doc:"When the newest proof that holds was made; left out where it does not work."`
	Said     string         `json:"said" doc:"The same in plain words, without the time."`
}
