package cli

import "kaiku/core/dossier"

// sample is how the help of a kind's commands shows them at work.
type sample struct{ name, add, set string }

var samples = map[string]sample{
	"household":      {"H-0042", "", "H-0042 --access-notes \"Key at the bakery, dog in the yard\""},
	"room":           {"kitchen", "--name kitchen --floor 0 --order 2", "kitchen --note \"Sockets only at the window\""},
	"device":         {"\"kitchen screen\"", "--name \"kitchen screen\" --room kitchen --role screen --make Norrvik --model NV-43", "\"kitchen screen\" --firmware 3.1"},
	"segment":        {"home", "--name home --prefix 10.20.4.0/24 --gateway 10.20.4.1 --pool-first 10.20.4.100 --pool-last 10.20.4.199", "guest --isolation guest-to-home"},
	"dhcp-server":    {"a1b2c3", "--device \"old router\" --segment home --pool-first 10.20.4.50 --pool-last 10.20.4.90", "a1b2c3 --note \"Switched off after the visit\""},
	"interface":      {"eth0", "--device \"granite server\" --name eth0 --hardware-address 02:4b:49:00:00:10 --address 10.20.4.10 --segment home", "eth0 --address 10.20.4.12"},
	"outlet":         {"A1", "--room kitchen --name A1 --cable cat-6", "A1 --tested-mbps 1000 --tested-on 2026-11-25"},
	"line":           {"fibre", "--name fibre --kind fibre --router router --sold-down-mbps 100 --sold-up-mbps 40", "fibre --outer-address 198.51.100.7"},
	"link":           {"a1b2c3", "--near \"kitchen screen wired\" --far \"router lan 1\" --kind cable --rate-mbps 100", "a1b2c3 --rate-mbps 1000"},
	"reading":        {"a1b2c3", "--what signal-dbm --value -61 --subject device/\"kitchen screen\" --how read --at \"2026-11-25 18:30\"", ""},
	"wish":           {"\"film lounge\"", "--what film --room lounge --need needed", "\"film lounge\" --note \"Mostly on Saturday evenings\""},
	"restriction":    {"\"children after eight\"", "--name \"children after eight\" --device \"children's screen\" --from 20:00 --until 07:00", "\"children after eight\" --until 06:30"},
	"secret":         {"\"share password\"", "--name \"share password\" --kind password", "\"share password\" --note \"For the screens only\""},
	"account":        {"household", "--name household --login keeper --signed-in \"kitchen screen\"", "household --seats 5"},
	"software":       {"Ahtola", "--device \"granite server\" --name Ahtola --does media-server --version 2.6 --starts with-the-machine", "Ahtola --version 3.1"},
	"register-entry": {"a1b2c3", "--device \"kitchen screen\" --server \"granite server\" --recognised-as \"NV screen\" --admission let-in", "a1b2c3 --offered photo"},
	"setting":        {"a1b2c3", "--subject device/\"granite server\" --name \"Sleep after\" --menu Power --value never --must-be never", "a1b2c3 --value never"},
	"source":         {"media", "--device \"granite server\" --name media --protocol upnp-av --port 40210 --shown-name Granite", "media --shown-name \"Granite films\""},
	"folder":         {"Films", "--source media --name Films --content-kind film --items-on-disk 212", "Films --items-in-index 209"},
	"converted-copy": {"\"Fog Signal\"", "--folder Films --title \"Fog Signal\" --for \"projector player\" --into \"MP4; H.264 high, 1920x1080; AAC stereo\" --state wanted", "\"Fog Signal\" --state done"},
	"decoding":       {"a1b2c3", "--device \"kitchen screen\" --entry part=video,format=h264,able=yes,evidence=data-sheet", "a1b2c3 --note \"From the data sheet\""},
	"chain-link":     {"a1b2c3", "--from player --to receiver", "a1b2c3 --sound-return plain"},
	"opening":        {"a1b2c3", "--device \"granite server\" --transport tcp --port 40210 --direction in --state open", "a1b2c3 --state blocked"},
	"path":           {"\"kitchen films\"", "--name \"kitchen films\" --device \"kitchen screen\" --source media --folder Films --kind av-pull --found-by multicast", "\"kitchen films\" --retired yes"},
	"busy-set":       {"\"Saturday evening\"", "--name \"Saturday evening\" --path \"kitchen films\" --path \"lounge films\"", "\"Saturday evening\" --note \"Every week\""},
	"attempt":        {"a1b2c3", "", ""},
	"waiver":         {"a1b2c3", "", ""},
	"issue":          {"\"No picture in the lounge\"", "", "\"No picture in the lounge\" --reporter Eila"},
	"settings-copy":  {"a1b2c3", "--device \"granite server\" --taken-at \"2026-11-25 14:30\" --holds settings-only --where \"firm's archive, folder H-0042\"", "a1b2c3 --note \"Restoring it has been tried\""},
	"change":         {"\"films moved to the larger disk\"", "--device \"granite server\" --what \"films moved to the larger disk\" --follow-up index-again --follow-up restart", "\"films moved to the larger disk\" --done index-again"},
	"visit":          {"\"wire the lounge\"", "--purpose \"wire the lounge\" --technician petri --starts \"2026-11-25 09:00\"", "\"wire the lounge\" --outcome \"Done; outlet A2 still to be tested\""},
	"long-task":      {"\"first index of the photos\"", "--what \"first index of the photos\" --expected-at \"2026-11-26 08:00\" --checked-by petri", "\"first index of the photos\" --ended-at \"2026-11-26 07:10\""},
	"due":            {"\"trial of the server ends\"", "--what \"trial of the server ends\" --kind trial --on 2026-12-24", "\"trial of the server ends\" --done-at \"2026-12-20 10:00\""},
	"attachment":     {"\"back of the server\"", "", "\"back of the server\" --caption \"Back of the server, port 2 marked\""},
	"gap-answer":     {"a1b2c3", "", ""},
	"handover":       {"", "", ""},
}

func sampleOf(k *dossier.Kind) sample { return samples[k.Name] }
