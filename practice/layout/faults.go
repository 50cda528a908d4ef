package layout

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Fault is one thing that can be wrong in the house. It is declared here once; what it does stands
// where it is asked for, in the device that it changes.
type Fault struct {
	Name  string
	Where string // host name of the device that is to blame, or nothing for the network
	Says  string // what is wrong, in a sentence
	// Tests are the kinds of test that it makes fail, or that show it, to whoever carries them out.
	Tests []string
	// Machine are those that a machine sees it by.
	Machine []string
	Grows   bool     // it is another thing after a while
	Reopens []string // host names of devices that are closed and opened again for it
}

// Faults lists all of them.
var Faults = []Fault{
	{"folders-hang", "granite", "The server is listed and its folders are too, but none ever opens.", []string{"opens", "complete", "plays"}, []string{"complete", "long-play", "opens", "plays", "seeks", "stops"}, false, nil},
	{"old-address", "granite", "The server announces an address that it no longer has.", []string{"found", "opens", "plays"}, []string{"found", "stays-found"}, false, []string{"granite"}},
	{"connection-refused", "granite", "The server is announced but refuses every connection.", []string{"reach", "opens", "plays"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, []string{"granite"}},
	{"silent", "granite", "The server accepts connections but never answers.", []string{"reach", "opens", "plays"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, nil},
	{"port-held", "granite", "A leftover process occupies the server's port, so the server did not start.", []string{"reach", "found", "opens", "plays"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, []string{"granite"}},
	{"wrong-adapter", "granite", "The server listens on its second adapter, in the guest segment.", []string{"reach", "found", "opens", "plays"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, []string{"granite"}},
	{"same-name", "eila", "A second server shows the name of the first.", []string{"told-apart"}, []string{"told-apart"}, false, []string{"eila"}},
	{"unknown-titles", "granite", "Titles are shown as unknown.", []string{"search", "watched-mark"}, nil, false, nil},
	{"wrong-kind", "granite", "Films are listed among the music and treated as songs.", []string{"complete", "opens"}, []string{"complete", "long-play", "opens", "plays", "seeks", "stops"}, false, nil},
	{"index-unfinished", "granite", "The index was never finished: half of the titles are missing.", []string{"complete", "sample-appears"}, []string{"complete"}, false, nil},
	{"index-empty", "granite", "Folders are listed but empty.", []string{"opens", "complete"}, []string{"complete", "long-play", "opens", "plays", "seeks", "stops"}, false, nil},
	{"index-slow", "granite", "The index is being rebuilt; a title is added every few seconds.", []string{"complete", "sample-appears"}, []string{"complete"}, true, nil},
	{"no-rights", "granite", "The account that the server runs under may not read the films.", []string{"opens", "complete", "plays"}, []string{"complete", "long-play", "opens", "plays", "seeks", "stops"}, false, nil},
	{"trial-ended", "granite", "The trial has ended: the server lists one title that says so.", []string{"opens", "complete", "plays"}, []string{"complete", "opens"}, false, nil},
	{"rate-cap", "granite", "The server sends no faster than 2 Mb/s.", []string{"plays", "top-quality", "busy-set"}, []string{"long-play", "plays"}, false, nil},
	{"restart-due", "granite", "A folder was added but the server was not restarted, so it is not shown.", []string{"opens", "complete", "survives-restart"}, []string{"opens"}, false, nil},
	{"settings-reset", "granite", "The server was reset: it has another name and another unique name.", []string{"found", "told-apart"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, []string{"granite"}},
	{"device-blocked", "granite", "The server does not let the lamp room screen in.", []string{"opens", "kept-out"}, nil, false, nil},
	{"blocked-hours", "granite", "At this hour the server gives out no films.", []string{"plays", "hours-kept"}, []string{"long-play", "plays", "seeks", "stops"}, false, nil},
	{"opening-refused", "granite", "The firewall prompt on the server was declined: it answers only on its own machine.", []string{"reach", "opens", "plays"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, nil},
	{"clock-wrong", "granite", "The server's clock is three hours slow.", []string{"recording", "guide", "hours-kept"}, nil, false, nil},
	{"goodbye", "granite", "The server said goodbye and is shut down.", []string{"reach", "found", "opens", "plays"}, []string{"complete", "found", "long-play", "opens", "plays", "reach", "seeks", "stays-found", "stops"}, false, []string{"granite"}},
	{"slow-station", "", "The lamp room screen gets 2 Mb/s by Wi-Fi.", []string{"plays", "top-quality", "busy-set"}, []string{"long-play", "plays"}, false, nil},
	{"second-gateway", "", "There is a second gateway in front, and the outer address is private.", []string{"outside"}, nil, false, []string{"pier", "box"}},
	{"mapping-off", "pier", "The gateway opens no ports and does not say its outer address.", []string{"outside"}, nil, false, []string{"pier"}},
	{"names-silent", "pier", "The name server does not answer.", []string{"found", "plays"}, nil, false, nil},
	{"multicast-lost", "", "Multicast arrives for a moment after a start and then stops.", []string{"found", "stays-found"}, []string{"found", "stays-found"}, false, nil},
	{"asleep", "attic", "The machine in the attic sleeps until a packet wakes it.", []string{"wakes", "reach"}, []string{"opens", "reach"}, false, []string{"attic"}},
	{"will-not-wake", "attic", "The machine in the attic sleeps, and no packet wakes it.", []string{"wakes", "reach"}, []string{"opens", "reach"}, false, []string{"attic"}},
	{"list-old-address", "aerial", "The stream list points to an address that no device has.", []string{"live-channel"}, []string{"live-channel"}, false, nil},
	{"guide-missing", "aerial", "The programme guide named in the stream list does not exist.", []string{"guide"}, []string{"guide"}, false, nil},
	{"channel-dead", "aerial", "One channel sends nothing.", []string{"live-channel"}, []string{"live-channel"}, false, nil},
	{"recordings-missing", "aerial", "Nothing was recorded: the folder is full.", []string{"recording"}, nil, false, nil},
	{"feed-empty", "foghorn", "The feed has no entries.", []string{"feed"}, []string{"feed", "opens"}, false, nil},
	{"stream-not-started", "foghorn", "The stream has not been started.", []string{"reach", "plays"}, []string{"opens"}, false, nil},
	{"rtsp-password", "harbour", "The harbour view asks for a password that was not recorded.", []string{"reach", "plays"}, []string{"opens"}, false, nil},
	{"share-writable", "kelp", "Everyone who may read the share may also write to it.", []string{"write-refused"}, []string{"write-refused"}, false, nil},
	{"share-no-rights", "kelp", "The films on the share must not be read.", []string{"opens", "plays"}, []string{"opens"}, false, nil},
	{"share-hangs", "kelp", "The file server accepts connections and never answers.", []string{"reach", "opens", "plays"}, []string{"opens", "write-refused"}, false, nil},
	{"exports-closed", "kelp", "The file server lists no exports.", []string{"opens"}, nil, false, nil},
	{"screen-off", "lamp-room-screen", "The lamp room screen is switched off at the wall.", []string{"found"}, nil, false, []string{"lamp-room-screen"}},
	{"screen-stalls", "lamp-room-screen", "The lamp room screen reports that it is playing, but its position does not move.", []string{"plays", "seeks", "long-play"}, []string{"long-play", "plays", "seeks", "stops"}, false, nil},
	{"picture-cropped", "lamp-room-screen", "The lamp room screen cuts off the edges of every picture.", []string{"picture-fits"}, nil, false, nil},
	{"sound-late", "lamp-room-screen", "The sound of the lamp room screen comes a quarter of a second late.", []string{"lip-sync"}, nil, false, nil},
	{"screen-lies", "lamp-room-screen", "The lamp room screen declares Matroska but cannot play it.", []string{"plays"}, []string{"long-play", "plays", "seeks", "stops"}, false, nil},
}

// FaultState is a fault and whether it is on, as the control tells it.
type FaultState struct {
	Name  string   `json:"name"`
	Says  string   `json:"says"`
	Tests []string `json:"tests"`
	On    bool     `json:"on"`
}

// ErrNoFault is returned for a fault that is not declared.
var ErrNoFault = errors.New("no such fault")

// FaultNamed returns the fault of that name. The error names those that are spelled like it.
func FaultNamed(name string) (Fault, error) {
	if i := slices.IndexFunc(Faults, func(f Fault) bool { return f.Name == name }); i >= 0 {
		return Faults[i], nil
	}
	var near []string
	for _, f := range Faults {
		if strings.Contains(f.Name, name) {
			near = append(near, f.Name)
		}
	}
	if len(near) > 0 {
		return Fault{}, fmt.Errorf("%w as %s; there is %s", ErrNoFault, name, strings.Join(near, ", "))
	}
	return Fault{}, fmt.Errorf("%w as %s", ErrNoFault, name)
}
