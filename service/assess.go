package service

import (
	"context"
	"fmt"
	"reflect"
	"sync"

	"kaiku/core/assess"
	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/matching"
	"kaiku/core/summary"
	"kaiku/views"
	"kaiku/wording"
)

// mostAssessed is how many homes' assessments are kept at once: those of the pages that are open.
const mostAssessed = 64

// assessed keeps the newest assessment of each home for as long as what it was made of is the same.
type assessed struct {
	mu   sync.Mutex
	of   map[dossier.ID[dossier.Household]]*assess.Assessment
	seen map[dossier.ID[dossier.Household]]knowledge.Knowledge
}

// assess returns the assessment of a home: the kept one, while revision, knowledge and day are the
// same.
func (s *Service) assess(ctx context.Context, d *dossier.Dossier) (*assess.Assessment, error) {
	k, err := s.knowledge(ctx, d)
	if err != nil {
		return nil, err
	}
	home, now := d.Home().ID, s.now()
	if _, is := supposed(ctx); is {
		return assess.Assess(d, k, now), nil
	}
	s.assessed.mu.Lock()
	have := s.assessed.of[home]
	s.assessed.mu.Unlock()
	if have != nil && have.Revision == d.Revision && have.Dossier == d && have.Knowledge.Revision == k.Revision && !now.Before(have.Now) && now.Before(have.Until) {
		return have, nil
	}
	a := assess.Assess(d, k, now)
	s.assessed.mu.Lock()
	defer s.assessed.mu.Unlock()
	if len(s.assessed.of) >= mostAssessed {
		clear(s.assessed.of)
		clear(s.assessed.seen)
	}
	s.assessed.of[home], s.assessed.seen[home] = a, k
	return a, nil
}

// summarise computes the row of a home in the lists, with what scans saw.
func (s *Service) summarise(ctx context.Context, d *dossier.Dossier) (summary.Row, error) {
	a, err := s.assess(ctx, d)
	if err != nil {
		return nil, err
	}
	return summary.Of(a), nil
}

// knowledge returns what is known beside the record of a home. What the scans saw is compared anew
// when the home or the scans are others.
func (s *Service) knowledge(ctx context.Context, d *dossier.Dossier) (knowledge.Knowledge, error) {
	home := d.Home().ID
	mark, err := s.store.ScanMark(ctx, home)
	if err != nil {
		return knowledge.Knowledge{}, err
	}
	of, err := s.store.Knowledge(ctx)
	if err != nil {
		return knowledge.Knowledge{}, err
	}
	revision := fmt.Sprint(mark, d.Revision, of.Revision)
	s.assessed.mu.Lock()
	k, kept := s.assessed.seen[home]
	s.assessed.mu.Unlock()
	if _, is := supposed(ctx); kept && k.Revision == revision && !is {
		return k, nil
	}
	k = of
	k.Revision = revision
	if mark == 0 {
		return k, nil // nothing was scanned
	}
	b, err := s.besides(ctx, d)
	if err != nil {
		return k, err
	}
	k.Seen = b.differing()
	return k, nil
}

// differing lists the members of recorded devices of which the latest scan saw another value, and
// nobody said that it is to be ignored.
func (b beside) differing() []knowledge.Seen {
	var out []knowledge.Seen
	say := func(id string) string { return views.Said(b.d, nil, id) }
	for _, h := range b.hosts {
		if h.Match.Class != matching.Sure || h.Status == matching.NotSeen {
			continue
		}
		for _, x := range h.Differences {
			if x.Relation != matching.Differs || x.Record.ID == "" || b.ignored(h, x) {
				continue
			}
			if v := reflect.ValueOf(x.Recorded); !v.IsValid() || v.IsZero() {
				continue
			}
			out = append(out, knowledge.Seen{Subject: x.Record, Member: x.Member, Recorded: wording.SeenValue(x.Recorded, say), Seen: wording.SeenValue(x.Seen, say), At: b.now.Ended})
		}
	}
	return out
}

// read returns the assessment of the household with that code, for reading, if the actor may carry
// out the operation there.
func (s *Service) read(ctx context.Context, a Actor, operation, code string) (*assess.Assessment, error) {
	d, err := s.Home(ctx, a, operation, code)
	if err != nil {
		return nil, err
	}
	return s.assess(ctx, d)
}
