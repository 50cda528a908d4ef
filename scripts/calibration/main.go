// Command calibration draws how often suspects were the fault by the probability that they were given. It reads what TestFaultsInOtherHomes prints, and
// writes the picture to the file that it is given.
package main

import (
	"bufio"
	"fmt"
	"image/color"
	"io"
	"log"
	"math"
	"os"
	"regexp"
	"strconv"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
)

func main() {
	log.SetFlags(0)
	if len(os.Args) != 2 {
		log.Fatal("usage: go test -v -run FaultsInOtherHomes ./core/suspects | go run ./scripts/calibration FILE.svg")
	}
	said, err := read(os.Stdin)
	if err == nil {
		err = picture(said, os.Args[1])
	}
	if err != nil {
		log.Fatal(err)
	}
}

// group is the suspects that were given about one probability.
type group struct{ from, to, right, of float64 }

var line = regexp.MustCompile(`(\d+)-(\d+) %: (\d+) of (\d+)`)

func read(r io.Reader) (out []group, err error) {
	s := bufio.NewScanner(r)
	s.Buffer(nil, 1<<20)
	for s.Scan() {
		for _, m := range line.FindAllStringSubmatch(s.Text(), -1) {
			var n [4]float64
			for k := range n {
				n[k], _ = strconv.ParseFloat(m[k+1], 64)
			}
			out = append(out, group{n[0], n[1], n[2], n[3]})
		}
	}
	if len(out) == 0 && s.Err() == nil {
		return nil, fmt.Errorf("nothing to draw: the test printed no line of the form 10-20 %%: 3 of 9")
	}
	return out, s.Err()
}

// interval is the one in which a share lies with 90 %, by Wilson's formula (JASA 22, 1927).
func (g group) interval() (low, high float64) {
	const z = 1.645
	p := g.right / g.of
	mid := (p + z*z/(2*g.of)) / (1 + z*z/g.of)
	half := z / (1 + z*z/g.of) * math.Sqrt(p*(1-p)/g.of+z*z/(4*g.of*g.of))
	return 100 * (mid - half), 100 * (mid + half)
}

type points struct {
	plotter.XYs
	plotter.YErrors
}

func picture(said []group, file string) error {
	p := plot.New()
	p.Title.Text = "How often a suspect was the fault"
	p.X.Label.Text, p.Y.Label.Text = "probability that was given (%)", "was the fault (%)"
	p.X.Min, p.X.Max, p.Y.Min, p.Y.Max = 0, 104, 0, 104
	var ticks plot.ConstantTicks
	for n := 0; n <= 100; n += 20 {
		ticks = append(ticks, plot.Tick{Value: float64(n), Label: strconv.Itoa(n)})
	}
	p.X.Tick.Marker, p.Y.Tick.Marker = ticks, ticks
	ideal, err := plotter.NewLine(plotter.XYs{{X: 0, Y: 0}, {X: 100, Y: 100}})
	if err != nil {
		return err
	}
	ideal.Color, ideal.Dashes = color.Gray{Y: 140}, []vg.Length{vg.Points(4), vg.Points(4)}
	var at points
	for _, g := range said {
		low, high := g.interval()
		y := 100 * g.right / g.of
		at.XYs = append(at.XYs, plotter.XY{X: (g.from + g.to) / 2, Y: y})
		at.YErrors = append(at.YErrors, struct{ Low, High float64 }{y - low, high - y})
	}
	dots, err := plotter.NewScatter(at.XYs)
	if err != nil {
		return err
	}
	dots.Shape = draw.CircleGlyph{}
	dots.Color, dots.Radius = color.RGBA{R: 20, G: 92, B: 116, A: 255}, vg.Points(3.5)
	bars, err := plotter.NewYErrorBars(at)
	if err != nil {
		return err
	}
	bars.Color = dots.Color
	p.Add(plotter.NewGrid(), ideal, bars, dots)
	p.Legend.Add("as often as it was said", ideal)
	p.Legend.Add("suspects in drawn homes, with 90 % interval", dots)
	p.Legend.Top, p.Legend.Left = true, true
	p.Legend.YOffs, p.Legend.XOffs, p.Legend.Padding = vg.Points(-10), vg.Points(10), vg.Points(4)
	p.Title.Padding = vg.Points(6)
	return p.Save(16*vg.Centimeter, 12*vg.Centimeter, file)
}
