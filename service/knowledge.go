package service

import (
	"context"
	"slices"
	"strconv"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/papers"
	"kaiku/views"
	"kaiku/wire"
)

// Knowledge lists what the firm knows of models of devices and of programs.
func (s *Service) Knowledge(ctx context.Context, a Actor) (wire.Knowledge, error) {
	if err := a.require("list-knowledge", nil, nil); err != nil {
		return wire.Knowledge{}, err
	}
	k, err := s.store.Knowledge(ctx)
	if err != nil {
		return wire.Knowledge{}, err
	}
	return views.Knowledge(k), nil
}

// ExportKnowledge returns sheets and releases as a file.
func (s *Service) ExportKnowledge(ctx context.Context, a Actor) ([]byte, error) {
	if err := a.require("export-knowledge", nil, nil); err != nil {
		return nil, err
	}
	k, err := s.store.Knowledge(ctx)
	if err != nil {
		return nil, err
	}
	return papers.WriteKnowledge(knowledge.File{Sheets: k.Sheets, Releases: k.Releases})
}

// ImportKnowledge takes up the sheets and releases of a file, and says what that changed. Either all are stored or none.
// With alone, what the file does not name is removed.
func (s *Service) ImportKnowledge(ctx context.Context, a Actor, body []byte, alone bool) ([]wire.KnowledgeChange, error) {
	if err := a.require("import-knowledge", nil, nil); err != nil {
		return nil, err
	}
	return s.takeKnowledge(ctx, a, body, alone, false)
}

// CompareKnowledge says what taking up a file would change. Nothing is stored.
func (s *Service) CompareKnowledge(ctx context.Context, a Actor, body []byte, alone bool) ([]wire.KnowledgeChange, error) {
	if err := a.require("compare-knowledge", nil, nil); err != nil {
		return nil, err
	}
	return s.takeKnowledge(ctx, a, body, alone, true)
}

func (s *Service) takeKnowledge(ctx context.Context, a Actor, body []byte, alone, try bool) ([]wire.KnowledgeChange, error) {
	in, err := papers.ReadKnowledge(body)
	if err != nil {
		return nil, refuse("knowledge-not-readable", "detail", err.Error())
	}
	if faults := checkKnowledge(in); len(faults) > 0 {
		return nil, faults
	}
	var was, next knowledge.File
	merge := func(now knowledge.File) (knowledge.File, error) {
		was, next = now, knowledge.Merge(now, in, alone)
		return next, nil
	}
	if try {
		now, err := s.store.Knowledge(ctx)
		if err != nil {
			return nil, err
		}
		_, _ = merge(knowledge.File{Sheets: now.Sheets, Releases: now.Releases}) // it cannot fail
	} else if err := s.store.ChangeKnowledge(ctx, a.ID, merge); err != nil {
		return nil, err
	}
	changes, err := views.KnowledgeDifference(was, next)
	if !try && len(changes) > 0 {
		s.knowledgeChanged(ctx, a)
	}
	return changes, err
}

func checkKnowledge(in knowledge.File) dossier.Faults {
	var faults dossier.Faults
	seen := map[string]bool{}
	check := func(table string, n int, key string, of dossier.Faults, again string) {
		if seen[table+key] {
			of = append(of, dossier.Fault{Pointer: again, Code: dossier.FaultNotUnique, Values: map[string]string{"value": strconv.Itoa(n + 1), "kind": "entry", "within": table}})
		}
		seen[table+key] = true
		for _, f := range of {
			f.Pointer = "/" + table + "/" + strconv.Itoa(n) + f.Pointer
			faults = append(faults, f)
		}
	}
	for n, one := range in.Sheets {
		check("sheets", n, one.Key(), one.Check(), "/model")
	}
	for n, one := range in.Releases {
		check("releases", n, one.Key(), one.Check(), "/newest")
	}
	return faults
}

// RemoveKnowledge removes one sheet or release, by the id that the list gives.
func (s *Service) RemoveKnowledge(ctx context.Context, a Actor, id string) error {
	if err := a.require("remove-knowledge", nil, nil); err != nil {
		return err
	}
	err := s.store.ChangeKnowledge(ctx, a.ID, func(now knowledge.File) (knowledge.File, error) {
		sheets, releases := len(now.Sheets), len(now.Releases)
		now.Sheets = slices.DeleteFunc(slices.Clone(now.Sheets), func(one knowledge.Sheet) bool { return views.KnowledgeID(one) == id })
		now.Releases = slices.DeleteFunc(slices.Clone(now.Releases), func(one knowledge.Release) bool { return views.KnowledgeID(one) == id })
		if len(now.Sheets) == sheets && len(now.Releases) == releases {
			return now, refuse("no-such-knowledge", "id", id)
		}
		return now, nil
	})
	if err == nil {
		s.knowledgeChanged(ctx, a)
	}
	return err
}

// mostChanges bounds how many changes of the firm's tables are listed.
const mostChanges = 200

// KnowledgeChanges lists who changed what the firm knows, and when, the newest first.
func (s *Service) KnowledgeChanges(ctx context.Context, a Actor) ([]wire.KnowledgeEdit, error) {
	if err := a.require("list-knowledge-changes", nil, nil); err != nil {
		return nil, err
	}
	changes, err := s.store.KnowledgeChanges(ctx, mostChanges)
	if err != nil {
		return nil, err
	}
	people, err := s.staff(ctx)
	if err != nil {
		return nil, err
	}
	out := []wire.KnowledgeEdit{}
	for _, c := range changes {
		one := wire.KnowledgeEdit{Table: c.Table, At: c.At, By: people.Name(c.By)}
		if one.Changes, err = views.KnowledgeEntries(c.Table, c.Entries); err != nil {
			return nil, err
		}
		out = append(out, one)
	}
	return out, nil
}

// knowledgeChanged has the lists of homes computed anew, since what the firm knows counts in all of them. It happens in
// the background and begins again where it changed meanwhile. Consoles ask for everything anew when the job ends.
func (s *Service) knowledgeChanged(ctx context.Context, a Actor) {
	_, err := s.startJob(ctx, a, "lists", "", 0, func(ctx context.Context, j *job) error {
		for {
			before, err := s.store.Knowledge(ctx)
			if err != nil {
				return err
			}
			if err := s.store.SummariseEach(ctx); err != nil {
				return err
			}
			if now, err := s.store.Knowledge(ctx); err != nil || now.Revision == before.Revision {
				return err
			}
		}
	})
	if err != nil {
		s.log.DebugContext(ctx, "the lists of homes are being computed already", "error", err)
	}
}
