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
func (p *Plan) WhereToLook(d *dossier.Dossier, statuses []TestStatus) map[dossier.ID[dossier.Path]]Look {
	out := map[dossier.ID[dossier.Path]]Look{}
	by := map[dossier.ID[dossier.Path]][]TestStatus{}
	for _, st := range statuses {
		by[st.Test.Path] = append(by[st.Test.Path], st)
	}
	for path, list := range by {
		slices.SortStableFunc(list, func(a, b TestStatus) int {
			return slices.Index(kindNames, a.Test.Kind.Name) - slices.Index(kindNames, b.Test.Kind.Name)
		})
		first := slices.IndexFunc(list, func(st TestStatus) bool { return st.Status == Failed })
		if first < 0 {
			continue
		}
		look := Look{First: list[first].Test.ID()}
		for _, before := range list[:first] {
			if before.Test.Required && before.Test.Kind.Act == "ask-source" && before.Status != Proven && before.Status != Marginal && before.Status != Waived {
				look.Unknown = append(look.Unknown, before.Test.ID())
			}
		}
		attempt, _ := d.Attempts.Get(list[first].Attempt)
		look.Stage = stageOf(list[first].Test.Kind, attempt.Observed.Class())
		out[path] = look
	}
	return out
}

// stageOf is where a kind of test looks, by how it failed.
func stageOf(k *Kind, class dossier.Class) Stage {
	switch k.Name {
	case "reach":
		switch class {
		case dossier.ClassRefused:
			return StageMachine // something is there that lets nobody in, or the program does not run
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
