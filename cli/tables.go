package cli

import (
	"bytes"
	"encoding/json"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"

	"kaiku/wording"
)

// tableWidth is the most columns a table takes.
const tableWidth = 100

// show writes rows for people, or value for programs.
func (a *App) show(value any, header []string, rows [][]string) error {
	switch a.format {
	case "json":
		var b bytes.Buffer
		e := json.NewEncoder(&b)
		e.SetIndent("", "  ")
		e.SetEscapeHTML(false)
		if err := e.Encode(value); err != nil {
			return err
		}
		return a.print(b.Bytes())
	case "csv", "table":
	default:
		return wrongUse("--format %s is not known; write table, json or csv", a.format)
	}
	t := table.NewWriter()
	t.AppendHeader(cells(header))
	for _, r := range rows {
		if a.format == "csv" {
			for i := range r {
				r[i] = wording.Cell(r[i])
			}
		}
		t.AppendRow(cells(r))
	}
	if a.format == "csv" {
		a.say("%s", t.RenderCSV())
		return nil
	}
	if len(rows) == 0 {
		a.say("Nothing here.")
		return nil
	}
	style := table.StyleLight
	style.Format.Header = text.FormatDefault
	style.Options = table.Options{SeparateHeader: true}
	style.Box.PaddingLeft = ""
	style.Box.PaddingRight = "  "
	t.SetStyle(style)
	t.SetColumnConfigs(widths(header, rows))
	for line := range strings.Lines(t.Render()) {
		a.say("%s", strings.TrimRight(line, " \n"))
	}
	return nil
}

// widths wraps the widest columns until the table fits; words are broken only where nothing else
// is left to give.
func widths(header []string, rows [][]string) []table.ColumnConfig {
	need, whole := make([]int, len(header)), make([]int, len(header))
	for i, h := range header {
		need[i] = text.StringWidthWithoutEscSequences(h)
		whole[i] = need[i]
		for _, r := range rows {
			need[i] = max(need[i], text.LongestLineLen(r[i]))
			for word := range strings.FieldsSeq(r[i]) {
				whole[i] = max(whole[i], text.StringWidthWithoutEscSequences(word))
			}
		}
	}
	total := 2 * len(header)
	for _, n := range need {
		total += n
	}
	for total > tableWidth {
		widest := 0
		for i, n := range need {
			gives, widestGives := n > whole[i], need[widest] > whole[widest]
			if gives && !widestGives || gives == widestGives && n > need[widest] {
				widest = i
			}
		}
		need[widest]--
		total--
	}
	out := make([]table.ColumnConfig, len(header))
	for i, n := range need {
		out[i] = table.ColumnConfig{Number: i + 1, WidthMax: n, WidthMaxEnforcer: text.WrapSoft}
	}
	return out
}

func cells(in []string) table.Row {
	out := make(table.Row, len(in))
	for i, s := range in {
		out[i] = s
	}
	return out
}

// details writes one record as a list of names and values.
func (a *App) details(value any, pairs ...string) error {
	if a.format != "table" {
		header, row := []string{}, []string{}
		for i := 0; i+1 < len(pairs); i += 2 {
			header, row = append(header, pairs[i]), append(row, pairs[i+1])
		}
		return a.show(value, header, [][]string{row})
	}
	width := 0
	for i := 0; i+1 < len(pairs); i += 2 {
		if pairs[i+1] != "" {
			width = max(width, len([]rune(pairs[i])))
		}
	}
	for i := 0; i+1 < len(pairs); i += 2 {
		if pairs[i+1] == "" {
			continue
		}
		wrapped := strings.Split(text.WrapSoft(pairs[i+1], tableWidth-width-2), "\n")
		for n, line := range wrapped {
			name := pairs[i]
			if n > 0 {
				name = ""
			}
			a.say("%-*s  %s", width, name, strings.TrimRight(line, " "))
		}
	}
	return nil
}
