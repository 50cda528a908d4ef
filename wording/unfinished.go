package wording

import (
	"strconv"

	"kaiku/core/dossier"
)

// ToDos holds what is said of what a change still needs.
var ToDos = map[string]string{
	string(dossier.FollowUpSave):    "Save the settings on the device.",
	string(dossier.FollowUpIndex):   "Have the server index again.",
	string(dossier.FollowUpTell):    "Enter the new values on the devices that use it.",
	string(dossier.FollowUpClear):   "Clear the cache of the players that use it.",
	string(dossier.FollowUpRestart): "Restart it.",
	string(dossier.FollowUpRebuild): "Rebuild the catalogue. This loses: {losses}.",
	"effect-unknown":                "Say what the change means for what was proven on this device.",
	"copy-holds":                    "Restore the settings from the copy in {where}. It holds the settings only: watched marks and the catalogue are not in it.",
	"copy-holds-catalogue":          "Restore the settings and the catalogue from the copy in {where}.",
	"no-copy":                       "There is no copy of the settings. Lost: {losses}.",
	"shown-name":                    "Check that it shows itself as \"{name}\" again.",
	"address":                       "Check that {source} answers at port {port} again{locator}.",
	"offers":                        "Check that {source} offers {folders} again.",
	"admissions":                    "Check what it lets in: {n} recorded.",
	"start-up":                      "Check that {program} starts {starts} again.",
	"openings":                      "Check its firewall: {n} recorded.",
	"settings":                      "Go through its settings and confirm them: {n} recorded.",
}

var toDoCounts = map[string]string{"admissions": "device", "openings": "opening", "settings": "setting"}

// ToDo says one thing that a change still needs.
func ToDo(code string, values map[string]string) string {
	said := map[string]string{}
	for k, v := range values {
		said[k] = v
	}
	if noun := toDoCounts[code]; noun != "" {
		if n, err := strconv.Atoi(values["n"]); err == nil {
			said["n"] = Count(n, noun)
		}
	}
	said["losses"] = bare(said["losses"])
	if said["losses"] == "" {
		said["losses"] = "nothing was noted"
	}
	said["starts"] = Plain(said["starts"])
	if code == "address" && values["locator"] != "" {
		said["locator"] = ", under " + values["locator"]
	}
	return Fill(ToDos[code], said)
}
