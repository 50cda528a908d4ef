package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/network"
)

// Waking is a machine that paths need awake, and who has to wake it.
type Waking struct {
	Sleeper  Named             `json:"sleeper" doc:"The machine that has to be awake."`
	By       *Named            `json:"by,omitempty" doc:"Who has to wake it; left out where it does not sleep, or it is not recorded whether it does."`
	HasFiles bool              `json:"hasFiles" doc:"It has the files, and the path leads to another machine."`
	Paths    []Named           `json:"paths" doc:"The paths that need it awake."`
	Segments []Named           `json:"segments" doc:"The segments in which it would be woken."`
	Medium   dossier.Medium    `json:"medium,omitzero" doc:"The medium of the adapter by which; empty if it is not recorded."`
	Wake     dossier.Wake      `json:"wake,omitzero" doc:"What wakes it, as it is recorded."`
	State    network.WakeState `json:"state" enum:"cannot,not-known,should,seen,stays-awake" doc:"Whether it can be woken: should says that nothing recorded speaks against it, and that nobody has seen it work."`
	Said     string            `json:"said" doc:"The same in words, with what is not recorded."`
}
