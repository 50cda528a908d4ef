package papers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/papers"
)

// What is written is read back as it was, whatever the texts are.
func TestKnowledgeComesBackAsItWas(t *testing.T) {
	text := rapid.StringMatching(`[\PC]{0,20}`)
	rapid.Check(t, func(t *rapid.T) {
		var file knowledge.File
		model := func() knowledge.Model {
			return knowledge.Model{Make: text.Draw(t, "make"), Model: text.Draw(t, "model"), Variant: text.Draw(t, "variant")}
		}
		for range rapid.IntRange(1, 3).Draw(t, "sheets") {
			file.Sheets = append(file.Sheets, knowledge.Sheet{Model: model(), From: text.Draw(t, "from"), Source: text.Draw(t, "source"), Entries: []dossier.DecodingEntry{
				{Part: dossier.PartVideo, Format: dossier.FormatTerm(text.Draw(t, "format")), Width: rapid.IntRange(0, 9000).Draw(t, "width"), FrameRate: rapid.SampledFrom([]float64{0, 23.976, 60}).Draw(t, "rate"), Able: dossier.No, Limits: text.Draw(t, "limits")}}})
		}
		for range rapid.IntRange(0, 3).Draw(t, "releases") {
			file.Releases = append(file.Releases, knowledge.Release{Software: text.Draw(t, "software"), Model: model(), Newest: text.Draw(t, "newest"), GivenUp: rapid.Bool().Draw(t, "given up"), AsOf: "2026-11-02"})
		}
		b, err := papers.WriteKnowledge(file)
		require.NoError(t, err)
		back, err := papers.ReadKnowledge(b)
		require.NoError(t, err)
		file.Format = knowledge.FileFormat
		assert.Equal(t, file, back)
	})
}

func FuzzReadKnowledge(f *testing.F) {
	f.Add(`{"format": "kaiku-knowledge/1", "releases": [{"software": "a", "newest": "1", "source": "b"}]}`)
	f.Add(`{"format": "kaiku-knowledge/1", "sheets": [{"model": "a", "entries": [{"width": 1e400}]}]}`)
	f.Fuzz(func(t *testing.T, text string) {
		file, err := papers.ReadKnowledge([]byte(text))
		if err != nil {
			if strings.TrimSpace(err.Error()) == "" {
				t.Fatal("an error that says nothing")
			}
			return
		}
		for _, s := range file.Sheets {
			s.Check()
		}
		for _, r := range file.Releases {
			r.Check()
		}
		knowledge.Merge(file, file, true)
	})
}
