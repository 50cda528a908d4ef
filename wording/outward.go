package wording

import (
	"strings"

	"kaiku/core/proving"
)

// Looks says where to look, by the stage at which the first test of a path fails.
var Looks = map[proving.Stage]string{
	proving.StageServer:  "at the server: whether the program runs as it should and gives out what it should, with its rights, its index and its licence",
	proving.StageMachine: "at the server: whether the program runs, and whether it answers on its own machine; if it does, something there keeps others out",
	proving.StageNetwork: "at the network: whether the server is on, in the recorded segment and at the recorded address, and what lies between",
	proving.StageScreen:  "at the screen: try it on your own device beside it first; if it plays there, the screen or its settings are to blame, and if not, what lies before it",
}

// Look says where to look when a test has failed. First is the title of the first test that fails, empty where it is the test itself; unknown are the
// titles of tests before it that nobody knows to pass.
func Look(stage proving.Stage, first string, unknown []string) string {
	failing := "It is the first step outward from the source that fails"
	if first != "" {
		failing = "The first step that fails on this path is \"" + first + "\""
	}
	if len(unknown) == 0 {
		return failing + ", so look " + Looks[stage] + "."
	}
	return failing + " as far as is known: these come before it and are not known to pass: " + strings.ToLower(strings.Join(unknown, ", ")) + ". Test them first. If they pass, look " + Looks[stage] + "."
}
