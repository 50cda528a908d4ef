package wire

import (
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// Knowledge is what the firm knows of models of devices and of programs.
type Knowledge struct {
	Sheets   []SheetRow   `json:"sheets" doc:"What models of devices decode."`
	Releases []ReleaseRow `json:"releases" doc:"The newest versions of programs and of firmware."`
}

// SheetRow is one sheet of the firm.
type SheetRow struct {
	ID string `json:"id" doc:"Identifies the model, variant and firmware range; a new sheet for the same replaces it."`
	knowledge.Sheet
	About string   `json:"about" doc:"The model and the firmware in words."`
	Lines []string `json:"lines" doc:"The entries in words."`
}

// ReleaseRow is one release that the firm knows of.
type ReleaseRow struct {
	ID string `json:"id" doc:"Identifies the program or the model; a new release of the same replaces it."`
	knowledge.Release
	About string `json:"about" doc:"The program or the model in words."`
}

// KnowledgeChange is one entry that is added, changed or removed.
type KnowledgeChange struct {
	Act     dossier.Act `json:"act" enum:"added,changed,removed" doc:"What happens to it."`
	Table   string      `json:"table" enum:"recipes,sheets,releases,faults,questions,kept-odds" doc:"Of what kind it is."`
	About   string      `json:"about" doc:"What it is about."`
	Gone    []string    `json:"gone" doc:"Lines that go, in words."`
	Arrived []string    `json:"arrived" doc:"Lines that come, in words."`
}

// KnowledgeEdit is one edit of the firm's tables.
type KnowledgeEdit struct {
	Table   string            `json:"table" enum:"recipes,sheets,releases,faults,questions,kept-odds" doc:"The table that was edited."`
	At      time.Time         `json:"at" doc:"When."`
	By      string            `json:"by" doc:"Who did it."`
	Changes []KnowledgeChange `json:"changes" doc:"What was changed."`
}
