// Package network finds what is wrong with the network of a home and with what depends on it, and
// says what of it hangs together.
//
// Every finding is computed from the dossier and the day alone and declared once in Codes: its
// severity, and the function that finds it. Findings carry numbers and subjects; sentences are
// made elsewhere.
package network

import (
	"cmp"
	"slices"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// Severity says how much a finding matters.
type Severity string

// Severities, the gravest first. A blocker keeps a path from working at all.
const (
	Blocker Severity = "blocker"
	Warning Severity = "warning"
	Advice  Severity = "advice"
)

// Values lists all severities, the gravest first.
func (Severity) Values() []string {
	return []string{string(Blocker), string(Warning), string(Advice)}
}

// Finding is one computed remark. Subjects are the records it is about, the first being the one
// to change. Values hold what led to it, by name.
type Finding struct {
	Code     string                   `json:"code"`
	Severity Severity                 `json:"severity"`
	Keeps    Keeps                    `json:"-"`
	Subjects []dossier.Ref            `json:"subjects"`
	Values   map[string]dossier.Value `json:"values,omitzero"`
}

// Is reports whether the finding has that code and is about that record first.
func (f Finding) Is(code string, first dossier.Ref) bool {
	return f.Code == code && f.Subjects[0] == first
}

// Among reports whether one of the findings says the same of the same record.
func (f Finding) Among(list []Finding) bool {
	return slices.ContainsFunc(list, func(o Finding) bool { return o.Is(f.Code, f.Subjects[0]) })
}

// Keeps says what a finding keeps from working, whatever was proven before.
type Keeps string

// What a finding can keep from working.
const (
	KeepsNothing Keeps = ""
	KeepsReach   Keeps = "reach"
	KeepsFinding Keeps = "finding"
	KeepsApart   Keeps = "telling-apart"
	KeepsOpening Keeps = "opening"
	KeepsCount   Keeps = "count"
	KeepsPlaying Keeps = "playing"
	KeepsMarks   Keeps = "marks"
	KeepsWriting Keeps = "write-protection"
	KeepsStart   Keeps = "start"
	KeepsWaking  Keeps = "waking"
	KeepsOutside Keeps = "outside"
	KeepsSeats   Keeps = "seats"
	KeepsHours   Keeps = "hours"
	keepsNone    Keeps = "-" // of a case that keeps nothing, although the finding usually does
)

// Code declares one finding: what it is called, how grave it is, what it keeps from working, what
// finds it. What is found can be less grave than declared where the case is milder.
type Code struct {
	Name     string
	Severity Severity
	Keeps    Keeps
	find     func(*view) []Finding
}

// ConvertingShort is the code of a finding that the forecast makes: only there it is known what has to be converted.
const ConvertingShort = "converting-power-short"

// Codes lists every finding there is. What has no function of its own is handed to Findings.
var Codes = []Code{
	{"address-clash", Blocker, KeepsReach, addressClash},
	{"no-lease", Blocker, KeepsReach, noLease},
	{"address-outside-segment", Blocker, KeepsReach, addressOutsideSegment},
	{"gateway-outside-segment", Blocker, KeepsStart, gatewayOutsideSegment},
	{"pool-outside-segment", Blocker, KeepsStart, poolOutsideSegment},
	{"segments-overlap", Blocker, KeepsReach, segmentsOverlap},
	{"two-dhcp-servers", Blocker, KeepsStart, twoDHCPServers},
	{"outer-address-private", Blocker, KeepsOutside, outerAddressPrivate},
	{"carrier-shared-address", Blocker, KeepsOutside, carrierSharedAddress},
	{"different-segments", Blocker, KeepsFinding, differentSegments},
	{"kept-apart", Blocker, KeepsReach, keptApart},
	{"listens-elsewhere", Blocker, KeepsReach, listensElsewhere},
	{"port-blocked", Blocker, KeepsReach, portBlocked},
	{"port-clash", Blocker, KeepsReach, portClash},
	{"ends-disagree", Blocker, KeepsPlaying, endsDisagree},
	{"account-differs", Blocker, KeepsOpening, accountDiffers},
	{"service-account-cannot-read", Blocker, KeepsOpening, serviceAccountCannotRead},
	{"open-to-outside", Blocker, KeepsNothing, openToOutside},
	{"hardware-address-clash", Warning, KeepsStart, hardwareAddressClash},
	{"address-in-lease-pool", Warning, KeepsStart, addressInLeasePool},
	{"reservation-outside-segment", Warning, KeepsStart, reservationOutsideSegment},
	{"pool-nearly-full", Warning, KeepsNothing, poolNearlyFull},
	{"typed-address-not-reserved", Warning, KeepsStart, typedAddressNotReserved},
	{"bound-to-lease", Warning, KeepsStart, boundToLease},
	{"hardware-address-randomised", Warning, KeepsStart, hardwareAddressRandomised},
	{"on-guest-segment", Warning, KeepsNothing, onGuestSegment},
	{"snooping-without-querier", Warning, KeepsFinding, snoopingWithoutQuerier},
	{"same-name", Warning, KeepsApart, sameName},
	{"cable-loop", Warning, KeepsReach, cableLoop},
	{"outlets-share-port", Warning, KeepsNothing, outletsSharePort},
	{"link-below-port", Warning, KeepsNothing, linkBelowPort},
	{"weak-signal", Warning, KeepsNothing, weakSignal},
	{"network-class-untrusted", Warning, KeepsReach, networkClassUntrusted},
	{"kept-out", Blocker, KeepsFinding, keptOut},
	{"newcomer-kept-out", Warning, KeepsNothing, newcomerKeptOut},
	{"no-folders-left", Blocker, KeepsNothing, noFoldersLeft},
	{"outlet-failed", Warning, KeepsPlaying, outletFailed},
	{"setting-differs", Warning, KeepsNothing, settingDiffers},
	{"unknown-kind", Warning, KeepsNothing, unknownKind},
	{"writable-share", Warning, KeepsWriting, writableShare},
	{"share-seats-short", Warning, KeepsSeats, shareSeatsShort},
	{"licence-seats-short", Warning, KeepsSeats, licenceSeatsShort},
	{"outside-not-known", Warning, KeepsNothing, outsideNotKnown},
	{"plain-remote", Warning, KeepsNothing, plainRemote},
	{"remote-service-left-open", Warning, KeepsNothing, remoteServiceLeftOpen},
	{"never-indexed", Warning, KeepsCount, neverIndexed},
	{"titles-missing", Warning, KeepsCount, titlesMissing},
	{"mixed-folder", Warning, KeepsNothing, mixedFolder},
	{"rate-capped", Warning, KeepsPlaying, rateCapped},
	{ConvertingShort, Warning, KeepsNothing, nil},
	{"starts-at-login-only", Warning, KeepsStart, startsAtLogin},
	{"wake-impossible", Warning, KeepsWaking, wakeImpossible},
	{"marks-kept-apart", Warning, KeepsMarks, marksKeptApart},
	{"power-supply-weak", Warning, KeepsNothing, powerSupplyWeak},
	{"restart-due", Warning, KeepsNothing, restartDue},
	{"settings-copy-missing", Warning, KeepsNothing, settingsCopyMissing},
	{"clock-wrong", Warning, KeepsHours, clockWrong},
	{"several-adapters", Advice, KeepsNothing, severalAdapters},
	{"wireless-beside-outlet", Advice, KeepsNothing, wirelessBesideOutlet},
	{"same-channel-crowded", Advice, KeepsNothing, sameChannelCrowded},
	{"unmaintained", Advice, KeepsNothing, unmaintained},
	{"behind", Advice, KeepsNothing, behind},
	{"decoding-contradicts", Warning, KeepsNothing, decodingContradicts},
	{"ends-soon", Warning, KeepsNothing, endsSoon},
}

// Findings returns all findings of a home as of now, whose location decides what day it is: the
// gravest first, then in the order of Codes, then by subjects. The same dossier with the same knowledge
// on the same day always gives the same list; see Until. Others are what was found elsewhere, by their codes.
func Findings(x *dossier.Index, k knowledge.Knowledge, now time.Time, others ...Finding) []Finding {
	v := &view{x, k, now}
	var out []Finding
	for _, c := range Codes {
		found := slices.DeleteFunc(slices.Clone(others), func(f Finding) bool { return f.Code != c.Name })
		if c.find != nil {
			found = append(found, c.find(v)...)
		}
		for _, f := range found {
			f.Code, f.Severity, f.Keeps = c.Name, cmp.Or(f.Severity, c.Severity), cmp.Or(f.Keeps, c.Keeps)
			if f.Keeps == keepsNone {
				f.Keeps = KeepsNothing
			}
			out = append(out, f)
		}
	}
	rank := Severity("").Values()
	slices.SortStableFunc(out, func(a, b Finding) int {
		return cmp.Compare(slices.Index(rank, string(a.Severity)), slices.Index(rank, string(b.Severity)))
	})
	return out
}

// Until returns the instant after now at which the findings of an unchanged home become others by
// themselves, or the zero time if they never do.
func Until(d *dossier.Dossier, now time.Time) time.Time {
	var next time.Time
	var all []dossier.Date
	for _, s := range d.Software {
		all = append(all, s.EndsOn)
	}
	for _, s := range d.Sources {
		all = append(all, s.EndsOn)
	}
	for _, on := range all {
		ends, err := time.ParseInLocation(time.DateOnly, string(on), now.Location())
		if err != nil {
			continue
		}
		for _, at := range []time.Time{ends.AddDate(0, 0, -daysAhead), ends.AddDate(0, 0, 1)} {
			if at.After(now) && (next.IsZero() || at.Before(next)) {
				next = at
			}
		}
	}
	return next
}

// about makes a finding on subjects of what led to it, given as slot and value in turn. A text is
// a name or an address as it is recorded.
func about(subjects []dossier.Ref, values ...any) Finding {
	out := make(map[string]dossier.Value, len(values)/2)
	for i := 0; i < len(values); i += 2 {
		v, typed := values[i+1].(dossier.Value)
		if !typed {
			v = dossier.Named(values[i+1].(string))
		}
		out[values[i].(string)] = v
	}
	return Finding{Subjects: subjects, Values: out}
}

func refs(r ...dossier.Ref) []dossier.Ref { return r }
