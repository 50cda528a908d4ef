package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// Stage is one of the steps outward from the source: the first that fails is where to look.
type Stage string

// Stages, outward.
const (
	StageServer  Stage = "server"  // whether the program runs at the server, and gives out what it should
	StageMachine Stage = "machine" // whether it answers on its own machine, and only there
	StageNetwork Stage = "network" // whether it answers, and is found, on the network
	StageScreen  Stage = "screen"  // what the screen makes of it, when the technician's own device beside it plays
)

// Look says where to look when a test has failed.
type Look struct {
	Stage   Stage
	First   string   // identity of the first test of the path, outward, that fails
	Unknown []string // identities of tests before it of which it is not known whether they pass
}

// WhereToLook returns for each path on which a test has failed, on facts that hold, the first that did.
func (p *Plan) WhereToLook(statuses []TestStatus) map[dossier.ID[dossier.Path]]Look {
	first := map[dossier.ID[dossier.Path]]TestStatus{}
	for _, st := range statuses {
		if f, failed := first[st.Test.Path]; st.Status == Failed && (!failed || rank(st) < rank(f)) {
			first[st.Test.Path] = st
		}
	}
	out := make(map[dossier.ID[dossier.Path]]Look, len(first))
	for path, f := range first {
		attempt, _ := p.view.Attempts.Get(f.Attempt)
		look := Look{First: f.Test.ID(), Stage: stageOf(f.Test.Kind, attempt.Observed.Class())}
		for _, st := range statuses {
			shown := st.Status == Proven || st.Status == Marginal || st.Status == Waived
			if st.Test.Path == path && st.Test.Required && st.Test.Kind.Act == "ask-source" && !shown && rank(st) < rank(f) {
				look.Unknown = append(look.Unknown, st.Test.ID())
			}
		}
		out[path] = look
	}
	return out
}

// rank is where a test stands outward from the source.
func rank(st TestStatus) int { return slices.Index(kindNames, st.Test.Kind.Name) }

// stageOf is where a kind of test looks, by how it failed.
func stageOf(k *Kind, class dossier.Class) Stage {
	switch k.Name {
	case "reach":
		switch class {
		case dossier.ClassRefused:
			return StageMachine // something there refuses connections, or the program is not running
		case dossier.ClassSilent, "":
			return StageNetwork
		}
		return StageServer
	case "found", "told-apart", "stays-found":
		return StageNetwork
	}
	if k.Act == "ask-source" || k.Act == "try-writing" {
		return StageServer
	}
	return StageScreen
}
