package dossier

// Class says how a question to a device, or a test, ended: what failed in one class has other causes
// than what failed in another.
type Class string

// Classes of ends.
const (
	ClassRight   Class = "right"   // it answered, with what was expected
	ClassRefused Class = "refused" // it answered that it will not
	ClassSilent  Class = "silent"  // nothing came in time
	ClassEmpty   Class = "empty"   // it answered, with nothing or too little in it
	ClassWrong   Class = "wrong"   // it answered, with something that is not what is recorded
	ClassLying   Class = "lying"   // what it answers contradicts itself, or its protocol
	ClassSlow    Class = "slow"    // it worked, but late or with breaks
	ClassNotDone Class = "not-done"
)

// Values lists the classes.
func (Class) Values() []string {
	return words(ClassRight, ClassRefused, ClassSilent, ClassEmpty, ClassWrong, ClassLying, ClassSlow, ClassNotDone)
}

// Observed is what an attempt saw.
type Observed string

// ends lists everything that an attempt can have seen, with its class.
var ends = []struct {
	code  Observed
	class Class
}{
	{"answered", ClassRight}, {"found", ClassRight}, {"port-open", ClassRight}, {"opened", ClassRight}, {"complete", ClassRight}, {"plays", ClassRight},
	{"names-differ", ClassRight}, {"stayed-found", ClassRight}, {"share-opened", ClassRight}, {"channels", ClassRight}, {"described", ClassRight}, {"sends", ClassRight}, {"guide-ahead", ClassRight},
	{"feed-read", ClassRight}, {"writing-refused", ClassRight}, {"played", ClassRight}, {"stopped", ClassRight}, {"jumped", ClassRight}, {"all-played", ClassRight}, {"kept-out", ClassRight}, {"kept-at-hours", ClassRight},
	{"refused", ClassRefused}, {"folder-refused", ClassRefused}, {"share-refused", ClassRefused}, {"hung-up", ClassRefused}, {"outside-refused", ClassRefused}, {"answered-no", ClassRefused}, {"renderer-refused", ClassRefused},
	{"time-out", ClassSilent}, {"unreachable", ClassSilent}, {"silence", ClassSilent}, {"outside-silent", ClassSilent}, {"folder-hangs", ClassSilent}, {"does-not-start", ClassSilent}, {"found-at-times", ClassSilent}, {"announced-only", ClassSilent}, {"sends-nothing", ClassSilent},
	{"no-folders", ClassEmpty}, {"folder-empty", ClassEmpty}, {"folder-missing", ClassEmpty}, {"items-missing", ClassEmpty}, {"not-listed", ClassEmpty}, {"no-channels", ClassEmpty}, {"guide-short", ClassEmpty}, {"feed-empty", ClassEmpty},
	{"wrong-content", ClassWrong}, {"others-only", ClassWrong}, {"items-extra", ClassWrong}, {"count-unsure", ClassWrong}, {"leads-elsewhere", ClassWrong}, {"same-name", ClassWrong}, {"could-write", ClassWrong}, {"plays-on", ClassWrong}, {"jump-missed", ClassWrong}, {"shown-though-restricted", ClassWrong}, {"kept-though-free", ClassWrong},
	{"not-described", ClassLying}, {"old-address", ClassLying}, {"endless", ClassLying}, {"not-media", ClassLying}, {"no-list", ClassLying}, {"no-guide", ClassLying}, {"no-feed", ClassLying}, {"position-lies", ClassLying},
	{"starts-late", ClassSlow}, {"stalls", ClassSlow}, {"sends-late", ClassSlow}, {"some-send", ClassSlow}, {"played-late", ClassSlow}, {"stalled", ClassSlow}, {"stutters", ClassSlow}, {"some-stalled", ClassSlow}, {"gap", ClassSlow}, {"next-missing", ClassSilent},
	{"not-in-segment", ClassNotDone}, {"no-address", ClassNotDone}, {"not-allowed", ClassNotDone}, {"machine-busy", ClassNotDone}, {"no-renderer", ClassNotDone}, {"in-use", ClassNotDone}, {"nothing-to-play", ClassNotDone}, {"still-pictures", ClassNotDone}, {"no-login", ClassNotDone}, {"position-not-told", ClassNotDone}, {"no-place", ClassNotDone}, {"no-next", ClassNotDone}, {"no-two-tracks", ClassNotDone}, {"no-gap-seen", ClassNotDone}, {"no-stall-seen", ClassNotDone}, {"no-responder", ClassNotDone}, {"responder-failed", ClassNotDone}, {"outside-asks", ClassNotDone}, {"outside-answers", ClassNotDone}, {"nothing-converted", ClassNotDone}, {"nothing-restricted", ClassNotDone}, {"shown-to-nobody", ClassNotDone}, {"not-told-apart", ClassNotDone}, {"kept-now", ClassNotDone}, {"let-in-now", ClassNotDone},
}

// Values lists everything that can have been seen.
func (Observed) Values() []string {
	var out []string
	for _, e := range ends {
		out = append(out, string(e.code))
	}
	return out
}

// Fits reports whether a machine that saw this could have reached that outcome: only what went right passes, and what went right never fails.
func (o Observed) Fits(outcome Outcome) bool {
	class := o.Class()
	switch outcome {
	case Pass:
		return class == ClassRight
	case Fail:
		return class != "" && class != ClassRight && class != ClassNotDone
	}
	return class != ""
}

// Class returns how it ended; "" for what nobody noted.
func (o Observed) Class() Class {
	for _, e := range ends {
		if e.code == o {
			return e.class
		}
	}
	return ""
}
