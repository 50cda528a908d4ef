package practice

import "sync"

// Fault is one thing that can be wrong in the house. It is declared here once; what it does stands
// where it is asked for, in the device that it changes.
type Fault struct {
	Name  string
	Where string // host name of the device that is to blame, or nothing for the network
	Says  string // what is wrong, in a sentence
	// Tests are the kinds of test that it makes fail, or that show it.
	Tests   []string
	reopens []string // host names of devices that are closed and opened again for it
}

// Faults lists all of them.
var Faults = []Fault{
	{"folders-hang", "granite", "The server is listed and its folders are too, but none ever opens.", []string{"opens", "complete", "plays"}, nil},
	{"old-address", "granite", "The server announces an address that it no longer has.", []string{"found", "opens", "plays"}, []string{"granite"}},
	{"connection-refused", "granite", "The server is announced, and refuses every connection.", []string{"reach", "opens", "plays"}, []string{"granite"}},
	{"silent", "granite", "The server accepts connections and never answers.", []string{"reach", "opens", "plays"}, nil},
	{"port-held", "granite", "A process left over from before holds the server's port; the server itself did not start.", []string{"reach", "found", "opens", "plays"}, []string{"granite"}},
	{"wrong-adapter", "granite", "The server listens on its second adapter, in the guest segment.", []string{"reach", "found", "opens", "plays"}, []string{"granite"}},
	{"same-name", "eila", "A second server shows the name of the first.", []string{"told-apart"}, []string{"eila"}},
	{"unknown-titles", "granite", "Titles are shown as unknown.", []string{"search", "watched-mark"}, nil},
	{"wrong-kind", "granite", "Films stand among the music, and are taken for songs.", []string{"complete", "opens"}, nil},
	{"index-unfinished", "granite", "The index was never finished: half of the titles are missing.", []string{"complete", "sample-appears"}, nil},
	{"index-empty", "granite", "Folders are listed, and empty.", []string{"opens", "complete"}, nil},
	{"index-slow", "granite", "The index is being made anew; a title comes every few seconds.", []string{"complete", "sample-appears"}, nil},
	{"no-rights", "granite", "The account that the server runs under may not read the films.", []string{"opens", "complete", "plays"}, nil},
	{"trial-ended", "granite", "The trial has ended: the server lists one title that says so.", []string{"opens", "complete", "plays"}, nil},
	{"rate-cap", "granite", "The server sends no faster than 2 Mb/s.", []string{"plays", "top-quality", "together"}, nil},
	{"restart-owed", "granite", "A folder was added and the server not restarted: it does not show it.", []string{"opens", "complete", "survives-restart"}, nil},
	{"settings-reset", "granite", "Somebody reset the server: it shows another name and another unique name.", []string{"found", "told-apart"}, []string{"granite"}},
	{"device-blocked", "granite", "The server does not let the lamp room screen in.", []string{"opens", "blocked"}, nil},
	{"blocked-hours", "granite", "At this hour the server gives out no films.", []string{"plays", "hours-kept"}, nil},
	{"opening-refused", "granite", "The question of the server's firewall was answered with no: it answers on its own machine alone.", []string{"reach", "opens", "plays"}, nil},
	{"clock-wrong", "granite", "The server's clock is three hours slow.", []string{"recording", "guide", "hours-kept"}, nil},
	{"goodbye", "granite", "The server said goodbye and is shut down.", []string{"reach", "found", "opens", "plays"}, []string{"granite"}},
	{"slow-station", "", "The lamp room screen is served at 2 Mb/s by radio.", []string{"plays", "top-quality", "together"}, nil},
	{"second-gateway", "", "A second gateway stands in the chain, and the outer address is a private one.", []string{"outside"}, []string{"pier", "box"}},
	{"mapping-off", "pier", "The gateway opens no ports and does not say its outer address.", []string{"outside"}, []string{"pier"}},
	{"names-silent", "pier", "The name server does not answer.", []string{"reach"}, nil},
	{"multicast-lost", "", "Multicast is heard for a moment after a start and then no more.", []string{"found", "stays-found"}, nil},
	{"asleep", "attic", "The machine in the attic sleeps until a packet wakes it.", []string{"wakes", "reach"}, []string{"attic"}},
	{"will-not-wake", "attic", "The machine in the attic sleeps, and no packet wakes it.", []string{"wakes", "reach"}, []string{"attic"}},
	{"list-old-address", "aerial", "The stream list leads to an address that nobody has.", []string{"live-channel"}, nil},
	{"guide-missing", "aerial", "The guide that the stream list names is not there.", []string{"guide"}, nil},
	{"channel-dead", "aerial", "One channel gives nothing.", []string{"live-channel"}, nil},
	{"recordings-missing", "aerial", "Nothing was recorded: the folder is full.", []string{"recording"}, nil},
	{"stream-not-started", "foghorn", "Nobody has started the stream.", []string{"reach", "plays"}, nil},
	{"rtsp-password", "harbour", "The harbour view asks for a password that nobody wrote down.", []string{"reach", "plays"}, nil},
	{"share-writable", "kelp", "Whoever may read the share may also write.", []string{"write-refused"}, nil},
	{"share-no-rights", "kelp", "The films on the share may not be read.", []string{"opens", "plays"}, nil},
	{"share-hangs", "kelp", "The file server accepts connections and never answers.", []string{"reach", "opens", "plays"}, nil},
	{"exports-closed", "kelp", "The file server lists no exports.", []string{"reach"}, nil},
	{"screen-off", "lamp-room-screen", "The lamp room screen is switched off at the wall.", []string{"found"}, []string{"lamp-room-screen"}},
	{"screen-stalls", "lamp-room-screen", "The lamp room screen says that it plays, and its position stands still.", []string{"plays", "seeks", "long-play"}, nil},
	{"screen-lies", "lamp-room-screen", "The lamp room screen declares Matroska and cannot play it.", []string{"plays"}, nil},
}

// faults holds which are on.
type faults struct {
	mu sync.Mutex
	is map[string]bool
}

func (f *faults) on(name string) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.is[name]
}

func (f *faults) set(name string, on bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.is == nil {
		f.is = map[string]bool{}
	}
	f.is[name] = on
}
