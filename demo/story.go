package demo

import (
	"fmt"
	"strings"
)

// Step is one command of the story: who types it, what, the exit code it must have, and a text
// that must stand in its answer.
type Step struct {
	As    string
	Args  []string
	Exit  int
	Wants string
}

// Story is the complete job of one new home, from its beginning to an accepted handover, by the
// command line. The home is in 127.77.octet.0/24, where a practice house must run.
func Story(octet byte) []Step {
	home := fmt.Sprintf("127.77.%d", octet)
	guest := fmt.Sprintf("127.77.%d", octet+1)
	var steps []Step
	as := "petri"
	say := func(exit int, wants, line string, rest ...string) {
		line = strings.NewReplacer("HOME", home, "GUEST", guest).Replace(line)
		steps = append(steps, Step{as, append(strings.Fields(line), rest...), exit, wants})
	}

	say(0, "Logged in as Petri Lokki", "login petri")
	say(0, "custodian is Petri Lokki", "household add --code H-0100", "Net Loft", "--postal-address", "Harbour Row 9, Vesikarinne")
	say(0, "Added room store", "room add --name store --floor -1 --order 1")
	say(0, "Added room net loft", "room add --floor 1 --order 1 --name", "net loft")
	say(0, "Added segment home", "segment add --name home --prefix HOME.0/24 --gateway HOME.1 --pool-first HOME.100 --pool-last HOME.199")
	say(0, "Added segment guest", "segment add --name guest --prefix GUEST.0/24 --isolation guest-to-home")
	say(1, "is not an IP address", "segment set home --gateway 10.20.4.300")
	say(0, "Added device store server", "device add --room store --role server --make Tuulkivi --model TK-4 --name", "store server")
	say(0, "Added device loft screen", "device add --role screen --role renderer --make Norrvik --model NV-43 --firmware 3.1 --name", "loft screen", "--room", "net loft")
	say(0, "Added network adapter eth0", "interface add --name eth0 --hardware-address 02-4B-49-00-64-10 --address HOME.21 --segment home --device", "store server")
	say(0, "Added network adapter wired", "interface add --name wired --hardware-address 02:4b:49:00:64:21 --address HOME.21 --segment home --device", "loft screen")
	say(3, "is recorded for more than one device", "finding list --check")
	say(0, "Changed network adapter wired", "interface set wired --address GUEST.21 --segment guest")
	say(0, "Added source media", "source add --name media --protocol upnp-av --port 40210 --locator /description.xml --shown-name Granite --udn uuid:4b61696b-7500-4000-8000-000000000010 --device", "store server")
	say(0, "Added folder Films", "folder add --source media --name Films --content-kind film --items-on-disk 3 --items-in-index 3")
	say(0, "Added path loft films", "path add --source media --folder Films --kind av-pull --found-by multicast --mode through-server --server-end.address HOME.10 --server-end.port 40210 --device-end.address HOME.10 --device-end.port 40210 --device", "loft screen", "--name", "loft films")
	say(0, "Multicast does not pass between them", "finding list")
	say(0, "Changed network adapter wired", "interface set wired --address HOME.31 --segment home")
	say(3, "The two ends of loft films", "finding list --check")

	say(0, "server-software-runs", "prerequisite list")
	say(0, "Ticked: server-software-runs", "prerequisite tick server-software-runs --where", "device/store server")
	say(0, "Noted as refused", "prerequisite refuse server-opening --note", "the firewall asked, and the customer clicked it away")
	say(0, "Ticked: server-opening", "prerequisite tick server-opening --note", "opened by hand: UDP 1900, TCP 40210")
	say(0, "Ticked: multicast-passes", "prerequisite tick multicast-passes")
	say(0, "Ticked: device-on-network", "prerequisite tick device-on-network")

	say(0, "0 of 5 required tests proven", "test list")
	say(0, "About 6 minutes", "test plan")
	say(3, "refused", "test run --probe-within 127.0.0.0/8")
	say(0, "Opened the issue", "issue open --test reach --path", "loft films", "The server does not answer")
	say(0, "with Petri Lokki", "issue take", "The server does not answer")
	say(0, "next step: ", "issue next", "The server does not answer", "Read the address from the server's own menu")
	say(0, "is now in hand", "issue try", "The server does not answer", "Looked at the server's own menu", "--showed", "its address ends in 10; it was typed from memory")
	say(0, "Changed network adapter eth0", "interface set eth0 --address HOME.10")
	say(0, "is now remedied", "issue remedy", "The server does not answer", "Corrected the recorded address", "--cause", "typed from memory")
	say(0, "certain", "scan run --probe-within 127.0.0.0/8")
	say(0, "14 values as recorded", "scan show", "store server")
	say(0, "Recorded", "scan record", "store server")
	say(0, "stream list", "scan record Aerial --room store")
	say(0, "Films", "source browse media --probe-within 127.0.0.0/8")
	say(2, "name one or more hosts", "scan record")
	say(1, "nowhere", "scan show nowhere")
	say(2, "no value with that number", "scan ignore Aerial --value 99")
	say(0, "Now ignoring 1 value", "scan ignore", "Hallway frame", "--value", "1")
	say(0, "No longer ignoring", "scan ignore --undo", "Hallway frame", "--value", "1")
	say(0, "not one of the recorded devices", "scan identify --new", "Hallway frame")
	say(0, "index-empty is on", fmt.Sprintf("practice fault on index-empty --octet %d", octet))
	say(0, "changed", "scan run --probe-within 127.0.0.0/8")
	say(0, "Items in index  3         0     differs", "scan show", "store server")
	say(0, "index-empty is off", fmt.Sprintf("practice fault off index-empty --octet %d", octet))
	say(0, "Aerial", "source browse media --against", "stream list", "--probe-within", "127.0.0.0/8")
	say(0, "Issue closed, because this test has passed", "test run --probe-within 127.0.0.0/8")
	say(3, "is now failed", "attempt add plays", "loft films", "--outcome", "fail", "--note", "the list was old; the server had to be chosen again")
	say(0, "Opened the issue", "issue open --test plays --path", "loft films", "Does not play in the loft")
	say(0, "with Petri Lokki", "issue take", "Does not play in the loft")

	say(0, "is now proven", "attempt add plays", "loft films", "--outcome", "pass", "--conditions", "second start")
	say(0, "The jump ended 0.2 s from where it should. Recorded as pass", "attempt time-code seeks", "loft films", "--asked", "0:00:30:00", "--seen", "0:00:33:05", "--after", "3s", "--sample", "h264-1080p25-aac")
	say(0, "5 of 5 required tests proven", "test list")
	say(0, "Changed network adapter eth0", "interface set eth0 --address HOME.12")
	say(0, "5 stale", "test list")
	say(0, fmt.Sprintf("address of store server changed from %s.10 to %s.12", home, home), "status why plays", "loft films")
	say(0, "Changed network adapter eth0", "interface set eth0 --address HOME.10")
	say(0, "5 of 5 required tests proven", "test list")

	say(0, "Cannot be offered yet", "handover draft --to maarit --note", "Do not move the switch in the store: its cable is short.")
	say(1, "has no next step", "handover offer")
	say(0, "next step: ", "issue next", "Does not play in the loft", "Ask the family whether it played all week")
	say(0, "remains the custodian", "handover offer")
	say(1, "is not allowed to do this", "handover accept")

	as = "maarit"
	say(0, "Logged in as Maarit Suvanto", "login maarit")
	say(0, "waiting for you to read it back", "today")
	say(0, "What is handed over", "handover show")
	say(1, "Points still to be read back: 9", "handover accept")
	say(0, "0 of 9 points read back", "handover ask p001", "Who in the family would know?")
	say(0, "is returned", "handover return")

	as = "petri"
	say(0, "returned your handover", "today")
	say(0, "is returned", "handover answer p001", "Ask Lempi, she has the evenings there")
	say(0, "remains the custodian", "handover offer")

	as = "maarit"
	say(0, "Who in the family would know?", "handover show")
	steps = append(steps, Step{As: as, Args: []string{"handover", "confirm", AllPoints}, Wants: "9 of 9 points read back"})
	say(0, "Maarit Suvanto is now the custodian of H-0100", "handover accept")
	say(0, "Issue in hand: Does not play", "today")
	say(0, "Custodian: Petri Lokki → Maarit Suvanto", "journal list --by maarit")

	as = "petri"
	say(1, "is not allowed to do this", "room set store --note", "mine no more")
	return steps
}

// AllPoints stands, in the story, for the points of the newest handover.
const AllPoints = "POINTS"
