package views

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"

	"kaiku/core/knowledge"
	"kaiku/core/suspects"
	"kaiku/wire"
	"kaiku/wording"
)

// KnowledgeID identifies an entry in addresses. It is derived only from what the entry is about.
func KnowledgeID(e knowledge.Keyed) string {
	sum := sha256.Sum256(fmt.Appendf(nil, "%T %s", e, e.Key()))
	return hex.EncodeToString(sum[:8])
}

// Knowledge shows what the firm knows.
func Knowledge(k knowledge.Knowledge) wire.Knowledge {
	out := wire.Knowledge{Sheets: []wire.SheetRow{}, Releases: []wire.ReleaseRow{}}
	for _, s := range k.Sheets {
		out.Sheets = append(out.Sheets, wire.SheetRow{ID: KnowledgeID(s), Sheet: s, About: wording.SheetAbout(s), Lines: wording.DecodingLines(s.Entries)})
	}
	for _, r := range k.Releases {
		out.Releases = append(out.Releases, wire.ReleaseRow{ID: KnowledgeID(r), Release: r, About: wording.ReleaseAbout(r)})
	}
	return out
}

// KnowledgeDifference says what differs between two states of what the firm knows.
func KnowledgeDifference(was, is knowledge.File) ([]wire.KnowledgeChange, error) {
	sheets, err := tableDifference("sheets", was.Sheets, is.Sheets)
	if err != nil {
		return nil, err
	}
	releases, err := tableDifference("releases", was.Releases, is.Releases)
	return append(sheets, releases...), err
}

// FaultsDifference says what differs between the modes and questions that a firm uses.
func FaultsDifference(was, is *suspects.Faults) ([]wire.KnowledgeChange, error) {
	modes, err := tableDifference("faults", was.Modes, is.Modes)
	if err != nil {
		return nil, err
	}
	questions, err := tableDifference("questions", was.Questions, is.Questions)
	return append(modes, questions...), err
}

func tableDifference[T knowledge.Keyed](table string, was, is []T) ([]wire.KnowledgeChange, error) {
	changed, err := knowledge.Differing(was, is)
	if err != nil {
		return nil, err
	}
	return KnowledgeEntries(table, changed)
}

// KnowledgeEntries says the changed entries of a table in words.
func KnowledgeEntries(table string, list []knowledge.ChangedEntry) ([]wire.KnowledgeChange, error) {
	out := []wire.KnowledgeChange{}
	for _, e := range list {
		before, about, err := entryLines(table, e.Before)
		if err != nil {
			return nil, err
		}
		after, now, err := entryLines(table, e.After)
		if err != nil {
			return nil, err
		}
		if now != "" {
			about = now
		}
		one := wire.KnowledgeChange{Act: e.Act, Table: table, About: about, Gone: []string{}, Arrived: []string{}}
		for _, line := range before {
			if !slices.Contains(after, line) {
				one.Gone = append(one.Gone, line)
			}
		}
		for _, line := range after {
			if !slices.Contains(before, line) {
				one.Arrived = append(one.Arrived, line)
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// entryLines says an entry of a table, as it was stored, line by line.
func entryLines(table string, b json.RawMessage) (lines []string, about string, err error) {
	if len(b) == 0 {
		return nil, "", nil
	}
	switch table {
	case "sheets":
		var s knowledge.Sheet
		if err := json.Unmarshal(b, &s); err != nil {
			return nil, "", fmt.Errorf("read a sheet: %w", err)
		}
		return append(wording.DecodingLines(s.Entries), "Source: "+s.Source), wording.SheetAbout(s), nil
	case "releases":
		var r knowledge.Release
		if err := json.Unmarshal(b, &r); err != nil {
			return nil, "", fmt.Errorf("read a release: %w", err)
		}
		return wording.ReleaseLines(r), wording.ReleaseAbout(r), nil
	case "faults":
		var m suspects.Mode
		if err := json.Unmarshal(b, &m); err != nil {
			return nil, "", fmt.Errorf("read a fault mode: %w", err)
		}
		return wording.FaultLines(m), m.Title + " (" + m.ID + ")", nil
	case "kept-odds":
		var k suspects.KeptOdds
		if err := json.Unmarshal(b, &k); err != nil {
			return nil, "", fmt.Errorf("read whose odds are kept: %w", err)
		}
		return []string{"The odds stay as they came"}, k.ID, nil
	case "questions":
		var q suspects.Question
		if err := json.Unmarshal(b, &q); err != nil {
			return nil, "", fmt.Errorf("read a question: %w", err)
		}
		return []string{q.Text, fmt.Sprintf("Yes without a fault that says more: %g, right: %g", q.Yes, q.Reliable)}, q.ID, nil
	}
	var r knowledge.Recipe
	if err := json.Unmarshal(b, &r); err != nil {
		return nil, "", fmt.Errorf("read a recipe: %w", err)
	}
	for _, s := range r.Steps {
		lines = append(lines, s.Setting+": "+s.Value)
	}
	return lines, r.Name, nil
}
