package views

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/makers"
	"kaiku/wire"
	"kaiku/wording"
)

// Scanned is what scans saw of a home, compared with its record, and what was said about it.
type Scanned struct {
	Dossier     *dossier.Dossier
	Now, Before matching.Scan
	Hosts       []matching.Beside
	SeenFrom    map[string]time.Time                            // of each host, the earliest scan that is kept
	Identified  func(matching.Beside) bool                      // a person said which device it is
	Ignored     func(matching.Beside, matching.Difference) bool // a person said to leave it
}

// DifferenceID names a difference within a scan.
func DifferenceID(b matching.Beside, d matching.Difference) string {
	return fmt.Sprintf("%s %d %s", b.Key, d.Place, d.Member)
}

// Observations says what was seen on the network, compared with the record.
func Observations(b Scanned, people People) wire.Observations {
	d := b.Dossier
	out := wire.Observations{Scan: b.Now.ID, Began: b.Now.Began, Ended: b.Now.Ended, By: people.Name(b.Now.By), With: b.Now.With, Short: b.Now.Short || b.Now.Cut, Notes: b.Now.Notes, Before: b.Before.Ended,
		Segments: []wire.ScannedSegment{}, NotScanned: []wire.Named{}, Hosts: []wire.Observed{}, Answers: []wire.AskedQuestion{}}
	for _, a := range b.Now.Unasked {
		whose := ""
		for _, i := range d.Interfaces {
			if slices.Contains(i.Addresses, a) {
				whose = d.Label(i.Device.Ref())
			}
		}
		out.Notes = append(slices.Clone(out.Notes), wording.Unasked(a, whose))
	}
	through := map[dossier.ID[dossier.Segment]]string{}
	for _, l := range b.Now.Segments {
		out.Segments = append(out.Segments, wire.ScannedSegment{Segment: Named(d, l.Segment.Ref()), From: l.From, Interface: l.Interface})
		through[l.Segment] = fmt.Sprintf(" from %s by %s", l.From, l.Interface)
	}
	for _, one := range d.Segments {
		if through[one.ID] == "" {
			out.NotScanned = append(out.NotScanned, Named(d, one.ID.Ref()))
		}
	}
	for _, q := range b.Now.Asked {
		where := " in segment " + d.Label(q.Segment.Ref()) + through[q.Segment]
		out.Answers = append(out.Answers, wire.AskedQuestion{Way: q.Way, Ended: q.Ended, Sentence: wording.Asked(q, where)})
	}
	say := func(id string) string { return Said(d, people, id) }
	for _, h := range b.Hosts {
		out.Hosts = append(out.Hosts, b.observed(h, through[h.Host.Segment], say, &out.Counts))
	}
	return out
}

func (b Scanned) observed(h matching.Beside, through string, say func(string) string, counts *wire.ObservedCounts) wire.Observed {
	d := b.Dossier
	one := wire.Observed{Key: h.Key, Address: h.Host.Address, Segment: Named(d, h.Host.Segment.Ref()), Called: h.Host.Called(), Status: h.Status, Since: h.Since,
		Changes: wording.SinceBefore(h.Changes), Because: because(h.Match.Reasons), Candidates: []wire.Candidate{}, Differences: []wire.Difference{}, Answers: []wire.AskedQuestion{}}
	one.Also, one.Open, one.SeenFrom = h.Host.Also, h.Host.Open, b.SeenFrom[h.Key]
	for _, s := range h.Host.Seen {
		if hw, ok := s.Members["hardwareAddress"].(dossier.HardwareAddr); ok && s.Kind == "interface" && one.Hardware == "" {
			one.Hardware, one.Maker = hw, makers.Of(hw)
		}
	}
	for _, s := range h.Host.Services {
		one.Announces = append(one.Announces, strings.TrimSpace(fmt.Sprintf("%s %s, port %d", s.Type, s.Name, s.Port)))
	}
	if h.Device != "" {
		one.Device = Named(d, h.Device.Ref())
		if h.Status != matching.Unsure {
			one.Called = one.Device.Label
		}
	}
	one.Identified = b.Identified(h)
	for _, c := range h.Match.Candidates {
		one.Candidates = append(one.Candidates, wire.Candidate{Device: Named(d, c.Device.Ref()), Because: because(c.Reasons)})
	}
	open := 0
	for _, x := range h.Differences {
		k := dossier.KindNamed(x.Kind)
		f, _ := k.Field(x.Member)
		diff := wire.Difference{ID: DifferenceID(h, x), Record: wire.Named{Ref: dossier.Ref{Kind: x.Kind}, Label: k.Noun()}, Member: x.Member, Title: f.Title, Seen: wording.SeenValue(x.Seen, say),
			After: wording.SeenValue(x.After, say), By: x.By, Relation: x.Relation, Certain: x.Certain, Ignored: b.Ignored(h, x)}
		if x.Record.ID != "" {
			diff.Record = wire.Named{Ref: x.Record, Label: strings.TrimSpace(k.Noun() + " " + d.Label(x.Record))}
			if v := reflect.ValueOf(x.Recorded); v.IsValid() && !v.IsZero() {
				diff.Recorded = wording.SeenValue(x.Recorded, say)
			}
		} else if name, ok := h.Host.Seen[x.Place].Members["name"].(string); ok {
			diff.Record.Label = k.Noun() + " " + name
		}
		if x.Relation != matching.Same && !diff.Ignored {
			open++
			if x.Certain {
				counts.Certain++
			}
		}
		one.Differences = append(one.Differences, diff)
	}
	if h.Status == matching.Changed && open == 0 {
		one.Status, h.Status = matching.AsRecorded, matching.AsRecorded
	}
	one.Sentence = wording.Beside(h, open, through)
	for _, q := range h.Host.Answers {
		one.Answers = append(one.Answers, wire.AskedQuestion{Way: q.Way, Ended: q.Ended, Sentence: wording.Asked(q, "")})
	}
	switch one.Status {
	case matching.AsRecorded:
		counts.AsRecorded++
	case matching.Changed:
		counts.Changed++
	case matching.Unknown:
		counts.New++
	case matching.Unsure:
		counts.Unsure++
	case matching.NotSeen:
		counts.NotSeen++
	}
	return one
}

func because(reasons []matching.Reason) []string {
	out := []string{}
	for _, r := range reasons {
		out = append(out, wording.MatchReason(r))
	}
	return out
}
