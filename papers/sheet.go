package papers

import (
	"bytes"
	"cmp"
	_ "embed"
	"encoding/csv"
	"fmt"
	"strconv"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

var (
	//go:embed fonts/Lato-Regular.ttf
	regular []byte
	//go:embed fonts/Lato-Bold.ttf
	bold []byte
)

// Inks of a sheet: those of the console on paper.
var (
	ink   = [3]int{0x1F, 0x2A, 0x30}
	faint = [3]int{0x56, 0x62, 0x6D}
	lake  = [3]int{0x24, 0x56, 0x6B}
	line  = [3]int{0xD9, 0xD3, 0xC7}
)

var statusInks = map[proving.Status][3]int{
	proving.Proven: {0x3F, 0x6B, 0x2A}, proving.Marginal: {0x86, 0x5A, 0x06}, proving.Failed: {0xA0, 0x25, 0x40}, proving.InDoubt: {0x86, 0x5A, 0x06},
	proving.Stale: {0x56, 0x62, 0x6D}, proving.Untried: {0x6B, 0x62, 0x57}, proving.Waived: {0x6E, 0x50, 0x90},
}

// sheet is a document on paper while it is written. Lengths are in mm.
type sheet struct {
	*fpdf.Fpdf
	zone *time.Location
}

const (
	margin = 16.0
	wide   = 210 - 2*margin
)

func newSheet(title, foot string, at time.Time, zone *time.Location) *sheet {
	s := &sheet{fpdf.New("P", "mm", "A4", ""), zone}
	s.AddUTF8FontFromBytes("lato", "", regular)
	s.AddUTF8FontFromBytes("lato", "B", bold)
	s.SetTitle(title, true)
	s.SetCreator("Kaiku", true)
	s.SetCreationDate(at)
	s.SetModificationDate(at)
	s.SetCatalogSort(true)
	s.SetMargins(margin, margin, margin)
	s.SetAutoPageBreak(true, margin+6)
	s.AliasNbPages("{nb}")
	s.SetFooterFunc(func() {
		s.SetY(-margin)
		s.font("", 8, faint)
		s.CellFormat(wide/2, 5, foot, "", 0, "L", false, 0, "")
		s.CellFormat(wide/2, 5, fmt.Sprintf("Page %d of {nb}", s.PageNo()), "", 0, "R", false, 0, "")
	})
	s.AddPage()
	return s
}

func (s *sheet) font(style string, size float64, in [3]int) {
	s.SetFont("lato", style, size)
	s.SetTextColor(in[0], in[1], in[2])
}

// text writes a paragraph.
func (s *sheet) text(style string, size float64, in [3]int, words string) {
	s.font(style, size, in)
	s.MultiCell(wide, size*0.5, words, "", "L", false)
}

func (s *sheet) heading(size float64, words string) {
	s.keep(24)
	s.Ln(size * 0.3)
	s.text("B", size, lake, words)
	s.Ln(1)
}

// keep begins a new page where less than that is left of this one.
func (s *sheet) keep(height float64) {
	if _, page := s.GetPageSize(); s.GetY()+height > page-margin-6 {
		s.AddPage()
	}
}

func (s *sheet) rule() {
	s.SetDrawColor(line[0], line[1], line[2])
	s.Line(margin, s.GetY(), margin+wide, s.GetY())
	s.Ln(1)
}

// bytes ends the document.
func (s *sheet) bytes() ([]byte, error) {
	var b bytes.Buffer
	if err := s.Output(&b); err != nil {
		return nil, fmt.Errorf("write PDF: %w", err)
	}
	return b.Bytes(), nil
}

func (s *sheet) when(t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.In(s.zone).Format("2 Jan 2006 15:04")
}

// SheetPDF writes the results of a home for the firm: everything, over as many pages as it takes.
func SheetPDF(in wire.Sheet, zone *time.Location) ([]byte, error) {
	s := newSheet("Commissioning of "+in.Home, in.Code+", revision "+strconv.FormatUint(in.Revision, 10)+", as of "+in.At.In(zone).Format("2 Jan 2006 15:04"), in.At, zone)
	s.text("B", 20, ink, "Commissioning results")
	s.text("", 12, faint, strings.Join(nonEmpty(in.Home, in.Code, in.Address), ", "))
	s.text("", 10, faint, "Custodian: "+cmp.Or(in.Custodian, "none"))
	s.Ln(3)
	s.text("B", 13, ink, coverageSaid(in.Coverage))
	s.text("", 10, faint, "A test counts as proven only on the configuration it was carried out on. If something of that has changed since, the result is listed as stale or in doubt, with the reason.")
	if len(in.Wishes) > 0 {
		s.heading(13, "What the customer wants")
		for _, w := range in.Wishes {
			s.text("", 10, ink, w)
		}
	}
	if len(in.Blockers) > 0 {
		s.heading(13, "What keeps something from working")
		for _, f := range in.Blockers {
			s.text("", 10, ink, f.Sentence+" "+f.Remedy)
		}
	}
	s.list("Not proven", in.Missing, "Nothing that is required is unproven.")
	if len(in.Waived) > 0 {
		s.list("Waived", in.Waived, "")
	}
	for _, room := range in.Rooms {
		s.heading(14, wording.Capital(cmp.Or(room.Room.Label, "no room recorded")))
		for _, p := range room.Paths {
			s.keep(30)
			s.text("B", 11, ink, p.Path.Label+", on "+p.Device.Label)
			if len(p.Stands) > 0 {
				s.text("", 8.5, faint, strings.Join(p.Stands, "; "))
			}
			s.Ln(1)
			for _, t := range p.Tests {
				s.result(t)
			}
			s.Ln(2)
		}
	}
	return s.bytes()
}

// list lists tests that need attention, each with its reason.
func (s *sheet) list(title string, tests []wire.SheetTest, none string) {
	s.heading(13, title)
	if len(tests) == 0 {
		s.text("", 10, ink, none)
	}
	for _, t := range tests {
		s.keep(10)
		s.font("B", 9.5, statusInks[t.Status])
		s.CellFormat(22, 5, wording.States[t.Status], "", 0, "L", false, 0, "")
		s.font("", 9.5, ink)
		words := t.Title + ", " + t.About.Label
		if t.Why != "" {
			words += ": " + t.Why
		}
		s.MultiCell(wide-22, 5, words, "", "L", false)
	}
}

// result writes one test: its status, what it is, and below that what was seen, by whom, when and with what.
func (s *sheet) result(t wire.SheetTest) {
	s.keep(14)
	s.rule()
	s.font("B", 9.5, statusInks[t.Status])
	s.CellFormat(22, 5, wording.States[t.Status], "", 0, "L", false, 0, "")
	s.font("B", 9.5, ink)
	title := t.Title
	if !t.Required {
		title += " (advised)"
	}
	s.CellFormat(wide-22-60, 5, title, "", 0, "L", false, 0, "")
	s.font("", 8.5, faint)
	s.CellFormat(60, 5, strings.Join(nonEmpty(t.By, t.How, s.when(t.At)), ", "), "", 1, "R", false, 0, "")
	for _, words := range nonEmpty(strings.Join(nonEmpty(t.Observed, t.With), "; "), t.Why) {
		s.SetX(margin + 22)
		s.font("", 8.5, faint)
		s.MultiCell(wide-22, 4.2, wording.Capital(words), "", "L", false)
	}
}

// CustomerPDF writes one page for the customer: how to watch in each room, what was tested, what was left out and why, and where to sign.
func CustomerPDF(in wire.Sheet, zone *time.Location) ([]byte, error) {
	s := customerPage(in, zone, 11)
	for _, size := range []float64{10, 9, 8} { // smaller letters where there is much to say
		if s.PageNo() > 1 {
			s = customerPage(in, zone, size)
		}
	}
	return s.bytes()
}

func customerPage(in wire.Sheet, zone *time.Location, size float64) *sheet {
	s := newSheet(in.Home, in.Code+", "+in.At.In(zone).Format("2 January 2006"), in.At, zone)
	s.text("B", 18, ink, in.Home)
	s.text("", size, faint, "How to use your media system, and what was tested in it")
	for _, c := range in.Cards {
		s.heading(size+2, wording.Capital(c.Room.Label))
		for _, w := range c.Watch {
			s.text("B", size, ink, w.What)
			s.text("", size, ink, w.How)
			if w.Else != "" {
				s.text("", size, faint, "If that fails: "+w.Else)
			}
			s.text("", size-1, faint, w.Said)
		}
		if len(c.Watch) == 0 {
			s.text("", size, faint, "Nothing is watched here.")
		}
	}
	s.heading(size+2, "What was tested")
	s.text("", size, ink, coverageSaid(in.Coverage))
	if n := len(in.Missing); n > 0 {
		var titles []string
		for _, t := range in.Missing {
			titles = append(titles, t.Title+" ("+t.About.Label+")")
		}
		const most = 6
		words := strings.Join(titles[:min(n, most)], ", ")
		if n > most {
			words += fmt.Sprintf(" and %d more", n-most)
		}
		s.text("", size, ink, "Not tested successfully yet: "+words+".")
	}
	if len(in.Waived) > 0 {
		s.heading(size+2, "Left out, as agreed")
		for _, t := range in.Waived {
			s.text("", size, ink, t.Title+", "+t.About.Label+": "+t.Why)
		}
	}
	s.Ln(14)
	s.keep(16)
	s.SetDrawColor(ink[0], ink[1], ink[2])
	y := s.GetY()
	s.Line(margin, y, margin+wide*0.45, y)
	s.Line(margin+wide*0.55, y, margin+wide, y)
	s.font("", 9, faint)
	s.CellFormat(wide*0.55, 6, "Date, customer", "", 0, "L", false, 0, "")
	s.CellFormat(wide*0.45, 6, "Date, "+cmp.Or(in.Custodian, "technician"), "", 1, "L", false, 0, "")
	return s
}

// coverageSaid says how much is proven, and what is not, in one sentence.
func coverageSaid(c proving.Coverage) string {
	if c.Required == 0 {
		return "No test is required yet."
	}
	parts := []string{fmt.Sprintf("%d of %s proven", c.Proven, wording.Count(c.Required, "required test"))}
	for _, one := range []struct {
		n    int
		word string
	}{{c.Marginal, "marginal"}, {c.Failed, "failed"}, {c.InDoubt, "in doubt"}, {c.Stale, "stale"}, {c.Untried, "untried"}, {c.Waived, "waived"}, {c.NotServed, "without a path"}} {
		if one.n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", one.n, one.word))
		}
	}
	return strings.Join(parts, ", ") + "."
}

func nonEmpty(list ...string) []string {
	var out []string
	for _, s := range list {
		if strings.TrimSpace(s) != "" {
			out = append(out, s)
		}
	}
	return out
}

// SheetCSV writes the results of a home as a table (RFC 4180), a line for each test.
func SheetCSV(in wire.Sheet) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	rows := [][]string{{"Room", "Device", "Path", "Test", "About", "Required", "Status", "Observed", "With", "How", "By", "At", "Why", "Configuration"}}
	for _, room := range in.Rooms {
		for _, p := range room.Paths {
			for _, t := range p.Tests {
				at := ""
				if !t.At.IsZero() {
					at = t.At.UTC().Format(time.RFC3339)
				}
				rows = append(rows, []string{room.Room.Label, p.Device.Label, p.Path.Label, t.Title, t.About.Label, map[bool]string{true: "yes", false: "no"}[t.Required], string(t.Status), t.Observed, t.With, t.How, t.By, at, t.Why, strings.Join(p.Stands, "; ")})
			}
		}
	}
	for _, row := range rows {
		for i := range row {
			row[i] = wording.Cell(row[i])
		}
		if err := w.Write(row); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}
