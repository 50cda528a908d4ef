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
	Code     string            `json:"code"`
	Severity Severity          `json:"severity"`
	Subjects []dossier.Ref     `json:"subjects"`
	Values   map[string]string `json:"values,omitzero"`
}

// Code declares one finding: what it is called, how grave it is, what finds it. What is found can
// be less grave than declared where the case is milder.
type Code struct {
	Name     string
	Severity Severity
	find     func(*view) []Finding
}

// Codes lists every finding this package can make.
var Codes = []Code{
	{"address-clash", Blocker, addressClash},
	{"no-lease", Blocker, noLease},
	{"address-outside-segment", Blocker, addressOutsideSegment},
	{"gateway-outside-segment", Blocker, gatewayOutsideSegment},
	{"pool-outside-segment", Blocker, poolOutsideSegment},
	{"segments-overlap", Blocker, segmentsOverlap},
	{"two-dhcp-servers", Blocker, twoDHCPServers},
	{"outer-address-private", Blocker, outerAddressPrivate},
	{"carrier-shared-address", Blocker, carrierSharedAddress},
	{"different-segments", Blocker, differentSegments},
	{"kept-apart", Blocker, keptApart},
	{"listens-elsewhere", Blocker, listensElsewhere},
	{"port-blocked", Blocker, portBlocked},
	{"port-clash", Blocker, portClash},
	{"ends-disagree", Blocker, endsDisagree},
	{"account-differs", Blocker, accountDiffers},
	{"service-account-cannot-read", Blocker, serviceAccountCannotRead},
	{"open-to-outside", Blocker, openToOutside},
	{"hardware-address-clash", Warning, hardwareAddressClash},
	{"address-in-lease-pool", Warning, addressInLeasePool},
	{"reservation-outside-segment", Warning, reservationOutsideSegment},
	{"pool-nearly-full", Warning, poolNearlyFull},
	{"typed-address-not-reserved", Warning, typedAddressNotReserved},
	{"bound-to-lease", Warning, boundToLease},
	{"hardware-address-randomised", Warning, hardwareAddressRandomised},
	{"on-guest-segment", Warning, onGuestSegment},
	{"snooping-without-querier", Warning, snoopingWithoutQuerier},
	{"same-name", Warning, sameName},
	{"cable-loop", Warning, cableLoop},
	{"outlets-share-port", Warning, outletsSharePort},
	{"link-below-port", Warning, linkBelowPort},
	{"weak-signal", Warning, weakSignal},
	{"network-class-untrusted", Warning, networkClassUntrusted},
	{"unknown-kind", Warning, unknownKind},
	{"writable-share", Warning, writableShare},
	{"share-seats-short", Warning, shareSeatsShort},
	{"licence-seats-short", Warning, licenceSeatsShort},
	{"plain-remote", Warning, plainRemote},
	{"remote-service-left-open", Warning, remoteServiceLeftOpen},
	{"never-indexed", Warning, neverIndexed},
	{"titles-missing", Warning, titlesMissing},
	{"mixed-folder", Warning, mixedFolder},
	{"rate-capped", Warning, rateCapped},
	{"starts-at-login-only", Warning, startsAtLogin},
	{"wake-impossible", Warning, wakeImpossible},
	{"marks-kept-apart", Warning, marksKeptApart},
	{"power-supply-weak", Warning, powerSupplyWeak},
	{"restart-due", Warning, restartDue},
	{"settings-copy-missing", Warning, settingsCopyMissing},
	{"clock-wrong", Warning, clockWrong},
	{"several-adapters", Advice, severalAdapters},
	{"wireless-beside-outlet", Advice, wirelessBesideOutlet},
	{"same-channel-crowded", Advice, sameChannelCrowded},
	{"unmaintained", Advice, unmaintained},
	{"ends-soon", Warning, endsSoon},
}

// Findings returns all findings of a home as of now, whose location decides what day it is: the
// gravest first, then in the order of Codes, then by subjects. The same dossier on the same day
// always gives the same list; see Until.
func Findings(d *dossier.Dossier, now time.Time) []Finding {
	v := look(d, now)
	var out []Finding
	for _, c := range Codes {
		for _, f := range c.find(v) {
			f.Code, f.Severity = c.Name, cmp.Or(f.Severity, c.Severity)
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
	for _, s := range d.Software {
		ends, err := time.ParseInLocation(time.DateOnly, string(s.EndsOn), now.Location())
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

// about makes a finding of values, given as name and text in turn, on subjects.
func about(subjects []dossier.Ref, values ...string) Finding {
	return Finding{Subjects: subjects, Values: pairs(values)}
}

// pairs makes a map of names and texts in turn.
func pairs(values []string) map[string]string {
	out := make(map[string]string, len(values)/2)
	for i := 0; i < len(values); i += 2 {
		out[values[i]] = values[i+1]
	}
	return out
}

func refs(r ...dossier.Ref) []dossier.Ref { return r }
