package proving

import (
	"fmt"
	"net/netip"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// Basis is what proofs of some kinds of test stand on. A basis contains others: that something
// plays stands on all that its being found stands on, and more.
type Basis int

// What proofs stand on.
const (
	OnReach    Basis = iota // the source answers at its address
	OnFound                 // the device's segment hears the server
	OnDevice                // the device shows the server
	OnNames                 // the server can be told apart from others
	OnOpen                  // its folders can be opened and read
	OnList                  // its folders are listed under their names
	OnCount                 // all that is on the disk is listed
	OnPlay                  // it plays on this device
	OnSound                 // its sound comes out where it should
	OnMarks                 // it goes on where it was left
	OnAcross                // it goes on in another room
	OnWriting               // whoever may read may not write
	OnPlace                 // a new file appears
	OnHours                 // what is restricted is kept
	OnStart                 // it works again after a restart
	OnWaking                // the server is woken
	OnOutside               // it works from outside
	OnFallBack              // the second path plays
	OnSet                   // several play at once
	bases
)

// contains says which bases each basis takes in.
var contains = map[Basis][]Basis{
	OnFound: {OnReach}, OnDevice: {OnFound}, OnNames: {OnDevice}, OnOpen: {OnReach}, OnList: {OnOpen}, OnCount: {OnList}, OnPlay: {OnDevice, OnOpen},
	OnSound: {OnPlay}, OnMarks: {OnPlay}, OnAcross: {OnMarks}, OnWriting: {OnOpen}, OnPlace: {OnPlay, OnList}, OnHours: {OnDevice},
	OnStart: {OnPlay}, OnWaking: {OnFound}, OnOutside: {OnPlay}, OnFallBack: {}, OnSet: {OnPlay},
}

// taken holds, for each basis, all that it takes in, itself included, as a set of bits.
var taken = func() (out [bases]uint32) {
	var all func(Basis) uint32
	all = func(b Basis) uint32 {
		set := uint32(1) << b
		for _, c := range contains[b] {
			set |= all(c)
		}
		return set
	}
	for b := range bases {
		out[b] = all(b)
	}
	return out
}()

// Takes reports whether proofs that stand on b stand on what the other is made of too.
func (b Basis) Takes(other Basis) bool { return taken[b]&(1<<other) != 0 }

// Part is the part that a record plays in a test: a device may be its server, its screen, its
// router, or something between.
type Part int

// Parts of records in a test.
const (
	asPath              Part = iota
	asOther                  // another path on which the customer goes on watching
	asSource                 //
	asOtherSource            // another source that shows itself
	asServer                 //
	asServerAdapter          // an adapter the source is reached at
	asServerSegment          //
	asServerOpening          // an opening for a port the path needs
	asServerSoftware         // what serves
	asDevice                 // the device that plays
	asDeviceAdapter          //
	asDeviceSegment          //
	asDeviceOpening          //
	asDeviceSoftware         // what plays
	asNamingSegment          // the device's segment, where the server is found by name
	asRouter                 // the router of one of the segments
	asDHCP                   // a DHCP server of one of the segments
	asGear                   // a switch, access point or the like between server and device
	asGearAdapter            // an adapter of it that a link on the way ends at
	asLink                   // a link between server and device
	asOutlet                 // an outlet that such a link goes through
	asSignal                 // the newest signal reading of the device or the server
	asFolder                 // a folder it reaches
	asStorage                // the machine with the files, if it is not the server
	asStorageAdapter         //
	asRegister               // the device as the server knows it
	asServerSetting          // a setting of the server or of what runs on it
	asDeviceSetting          //
	asRouterSetting          //
	asGearSetting            //
	asStorageSetting         //
	asController             // what controls playback
	asControllerAdapter      //
	asChainLink              // a link of the display chain behind the device
	asChained                // a device of that chain
	asAccount                // the account of the source or of the path
	asSecret                 // its password
	asWiFiSecret             // the Wi-Fi password of the device\'s segment
	asRestriction            // one that holds for the device and what the path brings
	asLine                   // the internet line
	asSet                    // the set of paths in use at once
)

// by says on which basis a member decides, for each part that its record plays.
type by map[Part]Basis

// relevant says what a member of a kind decides: kinds of test by their basis; or which records play
// a part; or nothing, with the reason.
type relevant struct {
	by      by
	since   int                                                       // version of the table in which it was added; 0 for the first
	as      func(*dossier.Index, dossier.Record) (dossier.Fact, bool) // for what is no plain member: the fact it leads to
	class   func(dossier.Record, any) string                          // for a number of which only the order of size decides
	chooses string                                                    // which records it brings into the picture
	none    string
}

// Version is the version of the table of relevance. An attempt keeps the version that its facts
// were taken with: a fact that is new to Kaiku makes no old proof stale by itself.
const Version = 4

func none(why string) relevant     { return relevant{none: why} }
func chooses(what string) relevant { return relevant{chooses: what} }
func decides(b by) relevant        { return relevant{by: b} }

// from says in which version of the table the member was added.
func (r relevant) from(version int) relevant {
	r.since = version
	return r
}

// identity is for what tells one device from another put in its place.
func identity() relevant {
	return decides(by{asServer: OnReach, asDevice: OnDevice, asRouter: OnReach, asGear: OnFound, asStorage: OnOpen, asController: OnPlay, asChained: OnPlay})
}

// version is for what runs on a device.
func version() relevant {
	return decides(by{asServer: OnOpen, asDevice: OnPlay, asRouter: OnReach, asGear: OnFound, asStorage: OnOpen, asController: OnPlay, asChained: OnPlay})
}

// setting is for a value set by hand, which may be anything.
func setting() relevant {
	return decides(by{asServerSetting: OnReach, asDeviceSetting: OnDevice, asRouterSetting: OnReach, asGearSetting: OnFound, asStorageSetting: OnOpen})
}

const (
	noteOnly   = "a note for people"
	label      = "what people call it; nothing on the network goes by it"
	fixedOwner = "never changes: the record is removed with what it belongs to"
	noSubject  = "no test stands on records of this kind"
)

// relevance says, for every member of every kind, which kinds of test it decides, or why none. A
// member that is missing here fails the tests of this package. Members called id and revision are
// left out.
var relevance = map[string]map[string]relevant{
	"household": nothing(noSubject, "code", "name", "address", "contacts", "accessNotes", "custodian", "erasedAt"),
	"room":      nothing(noSubject, "name", "floor", "order", "power", "note"),
	"device": {
		"name":         none(label),
		"room":         decides(by{asServer: OnPlay, asDevice: OnPlay}),
		"roles":        chooses("which routers and which switches stand between"),
		"make":         identity(),
		"model":        identity(),
		"variant":      identity(),
		"firmware":     version(),
		"serial":       identity(),
		"handling":     none(noteOnly),
		"carried":      none("a device that is carried is proven where it was tested; its signal reading decides"),
		"menus":        none(noteOnly),
		"powerSupply":  none("a weak supply is a finding"),
		"supplyWatts":  none("a weak supply is a finding"),
		"supplyAmps":   none("a weak supply is a finding"),
		"needsWatts":   none("a weak supply is a finding"),
		"cooling":      none(noteOnly),
		"medium":       decides(by{asServer: OnOpen, asStorage: OnOpen}),
		"diskMbps":     none("a measurement of the storage medium; the medium decides"),
		"remote":       none("what it is controlled with changes nothing of what it plays"),
		"standby":      decides(by{asServer: OnWaking, asStorage: OnWaking}),
		"wake":         decides(by{asServer: OnWaking, asStorage: OnWaking}),
		"wakeProven":   none("an observation, which the test of waking replaces"),
		"sendsWake":    decides(by{asDevice: OnWaking}),
		"contentKinds": chooses("what a path brings, and with that which restrictions hold and where else the customer can go on"),
		"networkClass": decides(by{asServer: OnReach, asDevice: OnDevice, asStorage: OnOpen, asController: OnPlay}),
		"udn":          decides(by{asDevice: OnPlay}),
		"hostName":     decides(by{asServer: OnFound}),
		"announces":    decides(by{asDevice: OnDevice}),
		"mapsPorts":    decides(by{asRouter: OnOutside}),
		"rateCapMbps":  decides(by{asServer: OnPlay, asDevice: OnPlay, asRouter: OnPlay, asGear: OnPlay, asStorage: OnPlay}),
	},
	"segment": {
		"name":         none(label),
		"prefix":       decides(by{asServerSegment: OnReach, asDeviceSegment: OnFound}),
		"prefix6":      decides(by{asServerSegment: OnReach, asDeviceSegment: OnFound}),
		"vlan":         decides(by{asServerSegment: OnReach, asDeviceSegment: OnFound}),
		"ssid":         decides(by{asServerSegment: OnFound, asDeviceSegment: OnFound}),
		"gateway":      decides(by{asServerSegment: OnReach, asDeviceSegment: OnFound}),
		"poolFirst":    decides(by{asServerSegment: OnStart, asDeviceSegment: OnStart}),
		"poolLast":     decides(by{asServerSegment: OnStart, asDeviceSegment: OnStart}),
		"dhcpServers":  decides(by{asServerSegment: OnStart, asDeviceSegment: OnStart}),
		"noDhcp":       decides(by{asServerSegment: OnStart, asDeviceSegment: OnStart}),
		"nameServers":  decides(by{asNamingSegment: OnFound}),
		"namePort":     decides(by{asNamingSegment: OnFound}),
		"reservations": decides(by{asServerSegment: OnStart, asDeviceSegment: OnStart}),
		"isolation":    decides(by{asServerSegment: OnReach, asDeviceSegment: OnFound}),
		"multicastTo":  decides(by{asServerSegment: OnFound, asDeviceSegment: OnFound}),
		"snooping":     decides(by{asServerSegment: OnFound, asDeviceSegment: OnFound}),
		"wakeRelay":    decides(by{asServerSegment: OnWaking}),
		"querier":      decides(by{asServerSegment: OnFound, asDeviceSegment: OnFound}),
		"castMbps":     {by: by{asDeviceSegment: OnPlay}, class: rateClass, since: 4},
		"castToEach":   decides(by{asDeviceSegment: OnPlay}).from(4),
	},
	"dhcp-server": {
		"device":      decides(by{asDHCP: OnStart}),
		"segment":     none(fixedOwner),
		"poolFirst":   decides(by{asDHCP: OnStart}),
		"poolLast":    decides(by{asDHCP: OnStart}),
		"gateway":     decides(by{asDHCP: OnStart}),
		"nameServers": decides(by{asDHCP: OnStart}),
		"note":        none(noteOnly),
	},
	"interface": {
		"device":          none(fixedOwner),
		"name":            none(label),
		"hardwareAddress": decides(by{asServerAdapter: OnReach, asDeviceAdapter: OnPlay}),
		"addresses":       decides(by{asServerAdapter: OnReach, asDeviceAdapter: OnPlay, asStorageAdapter: OnOpen, asControllerAdapter: OnPlay}),
		"segment":         decides(by{asServerAdapter: OnReach, asDeviceAdapter: OnFound, asStorageAdapter: OnOpen, asControllerAdapter: OnPlay}),
		"addressBy":       decides(by{asServerAdapter: OnStart, asDeviceAdapter: OnStart}),
		"randomised":      decides(by{asServerAdapter: OnStart, asDeviceAdapter: OnStart}),
		"medium":          decides(by{asServerAdapter: OnPlay, asDeviceAdapter: OnPlay, asStorageAdapter: OnPlay, asGearAdapter: OnPlay}),
		"portMbps":        {by: by{asServerAdapter: OnPlay, asDeviceAdapter: OnPlay, asStorageAdapter: OnPlay, asGearAdapter: OnPlay}, class: rateClass},
		"facing":          none("for the internet line; which side a router's port is on changes nothing between two devices of the home"),
		"ssid":            decides(by{asGearAdapter: OnPlay}),
		"band":            decides(by{asGearAdapter: OnPlay}),
		"channel":         decides(by{asGearAdapter: OnPlay}),
	},
	"outlet": {
		"room": none(fixedOwner), "name": none(label), "note": none(noteOnly),
		"cable":      decides(by{asOutlet: OnPlay}),
		"patchedTo":  decides(by{asOutlet: OnPlay}),
		"notPatched": decides(by{asOutlet: OnPlay}),
		"patching":   decides(by{asOutlet: OnPlay}),
		"testedMbps": none("a measurement of the cable; the rate of the link decides"),
		"tested":     decides(by{asOutlet: OnPlay}),
		"testedOn":   none("when it was measured"),
	},
	"line": {
		"name": none(label), "note": none(noteOnly), "provider": decides(by{asLine: OnOutside}),
		"kind":         decides(by{asLine: OnOutside}),
		"router":       decides(by{asLine: OnOutside}),
		"soldDownMbps": none("what was sold; only what goes out of the home counts"),
		"soldUpMbps":   {by: by{asLine: OnOutside}, class: rateClass},
		"downMbps":     none("nothing that is tested comes over the line into the home"),
		"upMbps":       {by: by{asLine: OnOutside}, class: rateClass},
		"measuredAt":   none("when it was measured"),
		"outerAddress": decides(by{asLine: OnOutside}),
		"seenAddress":  decides(by{asLine: OnOutside}),
		"seenAddress6": decides(by{asLine: OnOutside}),
		"outerPrefix":  decides(by{asLine: OnOutside}),
		"waysIn":       decides(by{asLine: OnOutside}),
	},
	"link": {
		"near": none(fixedOwner), "far": none(fixedOwner), "note": none(noteOnly),
		"kind":     decides(by{asLink: OnPlay}),
		"rateMbps": {by: by{asLink: OnPlay}, class: rateClass},
		"band":     decides(by{asLink: OnPlay}),
		"channel":  decides(by{asLink: OnPlay}),
		"outlet":   decides(by{asLink: OnPlay}),
	},
	"reading": {
		"what":         {by: by{asSignal: OnPlay}, as: signal},
		"value":        {by: by{asSignal: OnPlay}, as: signal},
		"subject":      {by: by{asSignal: OnPlay}, as: signal},
		"at":           {by: by{asSignal: OnPlay}, as: signal},
		"room":         none("where it was measured; the device it was measured at decides"),
		"how":          none("how well the value is known"),
		"measuredWith": none("what measured it"),
		"conditions":   none(noteOnly),
	},
	"wish": nothing("it decides what is asked for, not what was proven", "what", "room", "device", "need", "note"),
	"restriction": {
		"name":     none(label),
		"room":     decides(by{asRestriction: OnHours}),
		"device":   decides(by{asRestriction: OnHours}),
		"person":   decides(by{asRestriction: OnHours}),
		"contents": decides(by{asRestriction: OnHours}),
		"days":     decides(by{asRestriction: OnHours}),
		"from":     decides(by{asRestriction: OnHours}),
		"until":    decides(by{asRestriction: OnHours}),
		"setWhere": decides(by{asRestriction: OnHours}),
	},
	"secret": {
		"name": none(label), "note": none(noteOnly),
		"kind":     decides(by{asSecret: OnOpen, asWiFiSecret: OnDevice}),
		"device":   none("whose it is for people; the account that uses it decides"),
		"sealedAs": none("where it is stored"),
		"sealedAt": decides(by{asSecret: OnOpen, asWiFiSecret: OnDevice}),
		"segment":  decides(by{asWiFiSecret: OnDevice}),
		"shownAt":  none("a showing changes nothing"),
		"shownTo":  none("a showing changes nothing"),
	},
	"account": {
		"name": none(label), "note": none(noteOnly),
		"login":    decides(by{asAccount: OnOpen}),
		"secret":   decides(by{asAccount: OnOpen}),
		"signedIn": decides(by{asAccount: OnOpen}),
		"region":   decides(by{asAccount: OnList}).from(2),
		"seats":    decides(by{asAccount: OnSet}),
	},
	"software": {
		"device":         none(fixedOwner),
		"name":           none(label),
		"does":           decides(by{asServerSoftware: OnOpen, asDeviceSoftware: OnPlay}),
		"version":        decides(by{asServerSoftware: OnOpen, asDeviceSoftware: OnPlay}),
		"newestPackaged": none("what there is, not what runs"),
		"newestKnown":    none("what there is, not what runs"),
		"givenUp":        none("a finding"),
		"licence":        decides(by{asServerSoftware: OnPlay, asDeviceSoftware: OnPlay}),
		"endsOn":         none("when it has ended, it speaks against what was proven"),
		"paidBy":         none("who pays it; when it has ended, it speaks against what was proven"),
		"stopsUnpaid":    none(noteOnly),
		"seats":          decides(by{asServerSoftware: OnSet}),
		"starts":         decides(by{asServerSoftware: OnStart, asDeviceSoftware: OnStart}),
		"runsAs":         decides(by{asServerSoftware: OnOpen}),
		"networkMove":    none("no test changes the network under it"),
	},
	"register-entry": {
		"device": none(fixedOwner), "server": none(fixedOwner), "note": none(noteOnly),
		"recognisedAs": decides(by{asRegister: OnPlay}),
		"offered":      decides(by{asRegister: OnOpen}),
		"admission":    decides(by{asRegister: OnDevice}),
		"days":         decides(by{asRegister: OnDevice}),
		"from":         decides(by{asRegister: OnDevice}),
		"until":        decides(by{asRegister: OnDevice}),
	},
	"setting": {
		"subject":     none(fixedOwner),
		"name":        setting(),
		"menu":        none("where it is found"),
		"value":       setting(),
		"mustBe":      none("what it must be; where it is not, that is a finding"),
		"why":         none(noteOnly),
		"confirmedAt": none("when somebody last looked; after a reset this takes the doubt away"),
	},
	"source": {
		"device": none(fixedOwner), "name": none(label),
		"interface":        decides(by{asSource: OnReach}),
		"protocol":         decides(by{asSource: OnReach}),
		"port":             decides(by{asSource: OnReach}),
		"locator":          decides(by{asSource: OnReach}),
		"shownName":        decides(by{asSource: OnFound, asOtherSource: OnNames}),
		"udn":              decides(by{asSource: OnFound}),
		"guide":            decides(by{asSource: OnList}),
		"account":          decides(by{asSource: OnOpen}),
		"writable":         decides(by{asSource: OnWriting}),
		"keptAt":           none("its address decides"),
		"endsOn":           none("when it has ended, it speaks against what was proven"),
		"newcomers":        decides(by{asSource: OnDevice}).from(2),
		"language":         decides(by{asSource: OnList}).from(2),
		"region":           decides(by{asSource: OnList}).from(2),
		"seats":            decides(by{asSource: OnSet}),
		"multicast":        decides(by{asSource: OnPlay}).from(4),
		"converts":         decides(by{asSource: OnPlay}),
		"budgetMpx":        decides(by{asSource: OnPlay}),
		"rateCapMbps":      decides(by{asSource: OnPlay}),
		"outsidePort":      decides(by{asSource: OnOutside}),
		"outsideBy":        decides(by{asSource: OnOutside}),
		"outsidePassword":  decides(by{asSource: OnOutside}),
		"outsideEncrypted": decides(by{asSource: OnOutside}),
	},
	"folder": {
		"source":       none(fixedOwner),
		"name":         decides(by{asFolder: OnList}),
		"contentKind":  decides(by{asFolder: OnList}),
		"alsoHolds":    none("a finding"),
		"itemsOnDisk":  decides(by{asFolder: OnCount}),
		"itemsInIndex": decides(by{asFolder: OnCount}),
		"liesOn":       decides(by{asFolder: OnOpen}),
		"locations":    decides(by{asFolder: OnOpen}),
		"readableBy":   decides(by{asFolder: OnOpen}),
		"writableBy":   decides(by{asFolder: OnWriting}),
		"writtenTo":    decides(by{asFolder: OnWriting}),
		"indexedAt":    none("when it was read says nothing of what it holds"),
		"indexMinutes": none("how long it took"),
		"missing":      decides(by{asFolder: OnCount}),
		"mix":          none("what was played is proven; what else lies there is a matter of the forecast"),
	},
	"decoding": nothing("what is known of the device, not what it is; model and firmware decide", "device", "entries", "complete", "note"),
	"chain-link": {
		"from": none(fixedOwner), "to": none(fixedOwner), "note": none(noteOnly),
		"input":          decides(by{asChainLink: OnPlay}),
		"bestMode":       decides(by{asChainLink: OnPlay}),
		"copyProtection": decides(by{asChainLink: OnPlay}),
		"soundReturn":    decides(by{asChainLink: OnSound}),
	},
	"opening": {
		"device":       none(fixedOwner),
		"transport":    decides(by{asServerOpening: OnReach, asDeviceOpening: OnFound}),
		"port":         decides(by{asServerOpening: OnReach, asDeviceOpening: OnFound}),
		"lastPort":     decides(by{asServerOpening: OnReach, asDeviceOpening: OnFound}),
		"direction":    decides(by{asServerOpening: OnReach, asDeviceOpening: OnFound}),
		"networkClass": decides(by{asServerOpening: OnReach, asDeviceOpening: OnFound}),
		"state":        decides(by{asServerOpening: OnReach, asDeviceOpening: OnFound}),
		"temporary":    none("that it is to be closed is said on leaving; that it was closed is its state"),
		"for":          none(noteOnly),
	},
	"path": {
		"name":         none(label),
		"device":       decides(by{asPath: OnDevice}),
		"source":       decides(by{asPath: OnReach}),
		"folders":      decides(by{asPath: OnList}),
		"noFolders":    decides(by{asPath: OnList}),
		"kind":         decides(by{asPath: OnReach}),
		"foundBy":      decides(by{asPath: OnFound}),
		"mode":         decides(by{asPath: OnPlay}),
		"serverEnd":    decides(by{asPath: OnPlay}),
		"deviceEnd":    decides(by{asPath: OnPlay}),
		"account":      decides(by{asPath: OnOpen}),
		"marks":        decides(by{asPath: OnMarks, asOther: OnAcross}),
		"controlPoint": decides(by{asPath: OnPlay}),
		"startedBy":    decides(by{asPath: OnPlay}),
		"sentAs":       decides(by{asPath: OnPlay}).from(3),
		"deviceKey":    decides(by{asPath: OnOpen}).from(3),
		"fallBack":     decides(by{asPath: OnFallBack}),
		"retired":      chooses("which paths are in use"),
	},
	"busy-set":       {"name": none(label), "note": none(noteOnly), "paths": decides(by{asSet: OnSet})},
	"prerequisite":   nothing("a tick is what someone says, not what was proven", "subject", "side", "what", "doneBy", "doneAt", "refused", "why"),
	"attempt":        nothing("attempts are the proof", "test", "subjects", "outcome", "observed", "values", "conditions", "note", "how", "by", "at", "facts", "version", "asOf"),
	"waiver":         nothing("it waives the test and changes nothing of the home", "test", "subjects", "why", "until", "by", "at"),
	"issue":          nothing("an open issue speaks against what was proven before it", "symptom", "subjects", "reporter", "since", "state", "owner", "nextStep", "waitingOn", "promisedUntil", "openedBy", "openedAt", "failedAttempt", "test", "promise", "tries", "answers", "cause", "remedy", "fault", "faultAt", "remediedAt", "proof", "closedAt", "sameAs", "closedWhy"),
	"settings-copy":  nothing(noSubject, "device", "takenAt", "holds", "where", "version", "note"),
	"change":         nothing("a change speaks against what was proven before it", "device", "what", "at", "effect", "confirmedAt", "followUps", "done", "losses", "settingsCopy", "note"),
	"visit":          nothing(noSubject, "purpose", "technician", "starts", "minutes", "bring", "bench", "outcome", "cancelled"),
	"converted-copy": nothing(noSubject, "folder", "title", "items", "for", "from", "into", "state", "to", "gigabytesBefore", "gigabytesAfter", "doneOn", "note"),
	"long-task":      nothing(noSubject, "what", "subject", "startedAt", "expectedAt", "checkedBy", "endedAt", "showed"),
	"due":            nothing(noSubject, "what", "kind", "on", "subject", "who", "doneAt", "note"),
	"attachment":     nothing(noSubject, "subject", "caption", "sha256", "mediaType", "bytes", "width", "height", "fileName", "at", "by"),
	"gap-answer":     nothing(noSubject, "gap", "subject", "answer", "note", "by", "at"),
	"handover":       nothing(noSubject, "from", "to", "state", "sinceRevision", "untilRevision", "note", "points", "draftedAt", "offeredAt", "endedAt", "returnedWhy"),
}

// nothing says of all members of a kind that they decide nothing, for one reason.
func nothing(why string, members ...string) map[string]relevant {
	out := map[string]relevant{}
	for _, m := range members {
		out[m] = none(why)
	}
	return out
}

// row is one member as it is looked up for a record that plays a part.
type row struct {
	field dossier.Field
	on    Basis
	relevant
}

// rows holds the table by kind and part.
var rows = func() map[string]map[Part][]row {
	out := map[string]map[Part][]row{}
	for _, k := range dossier.Kinds {
		of := map[Part][]row{}
		for _, f := range k.Fields {
			r := relevance[k.Name][f.Name]
			for part, on := range r.by {
				of[part] = append(of[part], row{f, on, r})
			}
		}
		out[k.Name] = of
	}
	return out
}()

// Decides returns the names of the kinds of test that a member decides, sorted; none with the
// reason. Known is false for a member that is not declared.
func Decides(kind, member string) (tests []string, why string, known bool) {
	r, known := relevance[kind][member]
	for _, k := range Kinds {
		for _, on := range r.by {
			if k.On.Takes(on) && !slices.Contains(tests, k.Name) {
				tests = append(tests, k.Name)
			}
		}
	}
	slices.Sort(tests)
	if r.chooses != "" {
		return tests, "It chooses " + r.chooses + ".", known
	}
	return tests, r.none, known
}

// rateClass orders rates: within a class a link carries about the same.
func rateClass(_ dossier.Record, v any) string {
	mbps, _ := v.(float64)
	limits := []float64{10, 25, 100, 400, 1000, 2500, 10000}
	if mbps <= 0 {
		return ""
	}
	if mbps < limits[0] {
		return "below 10 Mb/s"
	}
	for i, limit := range limits {
		if i+1 == len(limits) || mbps < limits[i+1] {
			return "at least " + strconv.Itoa(int(limit)) + " Mb/s"
		}
	}
	return ""
}

// signal orders a signal reading by the levels at which stations fall back (see weak-signal).
func signal(x *dossier.Index, r dossier.Record) (dossier.Fact, bool) {
	reading := r.(dossier.Reading)
	value := "below -80 dBm"
	for _, limit := range []float64{-60, -67, -70, -80} {
		if reading.Value >= limit {
			value = fmt.Sprintf("at least %.0f dBm", limit)
			break
		}
	}
	return dossier.Fact{Subject: x.MeasuredAt(reading.Subject).Ref(), Name: "signal", Value: value}, true
}

// text writes the value of a member as a fact: "" for what is not recorded.
func text(v any) string {
	switch v := v.(type) {
	case time.Time:
		if v.IsZero() {
			return ""
		}
		return v.UTC().Format(time.RFC3339)
	case netip.Addr:
		if !v.IsValid() {
			return ""
		}
		return v.String()
	case netip.Prefix:
		if !v.IsValid() {
			return ""
		}
		return v.String()
	}
	switch r := reflect.ValueOf(v); r.Kind() {
	case reflect.String:
		return r.String()
	case reflect.Bool:
		if r.Bool() {
			return "yes"
		}
	case reflect.Int, reflect.Int64:
		if r.Int() != 0 {
			return strconv.FormatInt(r.Int(), 10)
		}
	case reflect.Float64:
		if r.Float() != 0 {
			return strconv.FormatFloat(r.Float(), 'g', -1, 64)
		}
	case reflect.Slice:
		parts := make([]string, r.Len())
		for i := range parts {
			parts[i] = text(r.Index(i).Interface())
		}
		slices.Sort(parts)
		return strings.Join(parts, ", ")
	case reflect.Struct:
		var parts []string
		for i := range r.NumField() {
			if t := text(r.Field(i).Interface()); t != "" {
				parts = append(parts, t)
			}
		}
		return strings.Join(parts, " ")
	}
	return ""
}

// Matters reports whether some member of the kind decides a test, or which records play a part.
func Matters(kind string) bool {
	for _, r := range relevance[kind] {
		if len(r.by) > 0 || r.chooses != "" {
			return true
		}
	}
	return false
}
