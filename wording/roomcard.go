package wording

import (
	"fmt"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// HowToWatch says in plain words what to do to watch by a path. Server is the name under which the source shows itself, and may be empty; from is
// what it is controlled from, if that is another device.
func HowToWatch(p dossier.Path, device, server, from string) string {
	choose := ""
	if server != "" {
		choose = " and choose " + server
	}
	switch p.Kind {
	case dossier.AVPull:
		return fmt.Sprintf("On %s, open the list of media servers%s.", device, choose)
	case dossier.AVPush:
		if from == "" {
			from = "a telephone or a tablet"
		}
		return fmt.Sprintf("On %s, choose a title and let %s play it.", from, device)
	case dossier.OwnPlayer:
		return fmt.Sprintf("On %s, open the player application of the server%s.", device, choose)
	case dossier.Share:
		return fmt.Sprintf("On %s, open the network folders%s.", device, choose)
	case dossier.Copy:
		return fmt.Sprintf("On %s, open its own storage.", device)
	case dossier.Stream:
		started := "has to be started"
		if p.StartedBy != "" {
			started = "is started by " + p.StartedBy
		}
		return fmt.Sprintf("On %s, open the stream. It %s.", device, started)
	case dossier.StreamList:
		return fmt.Sprintf("On %s, open the list of channels.", device)
	case dossier.Tuner:
		return fmt.Sprintf("On %s, open television from the network%s.", device, choose)
	}
	return fmt.Sprintf("On %s, open the feed.", device)
}

// RoomProof says in plain words how far a way of watching is proven: how many of its required tests are, the worst of them, and whether
// a finding keeps it from working.
func RoomProof(worst proving.Status, proven, required int, failed []string, blocked bool) string {
	switch {
	case blocked && worst != proving.Failed:
		return "Does not work the way things are set up now."
	case required == 0:
		return "Nothing has to be proven of it."
	case worst == proving.Failed:
		return "Does not work as it should: " + strings.ToLower(And(failed)) + "."
	case proven == required:
		return "Seen to work."
	case worst == proving.InDoubt || worst == proving.Stale:
		return fmt.Sprintf("Was seen to work, but something has changed since: %d of %d required tests still hold.", proven, required)
	case proven == 0:
		return "Not tried yet."
	}
	return fmt.Sprintf("Seen to work in part: %d of %d required tests are proven.", proven, required)
}

// roleWords say what somebody uses a device for.
var roleWords = map[dossier.Role]string{
	dossier.RoleScreen: "screen", dossier.RolePlayer: "player", dossier.RoleReceiver: "receiver", dossier.RoleRenderer: "player", dossier.RoleControlPoint: "remote control", dossier.RoleServer: "server",
}

// UsedAs says what somebody uses a device for; "" if it carries the network or works unseen.
func UsedAs(roles []dossier.Role) string {
	var said []string
	for _, r := range roles {
		if w := roleWords[r]; w != "" && !strings.Contains(strings.Join(said, " "), w) {
			said = append(said, w)
		}
	}
	return And(said)
}
