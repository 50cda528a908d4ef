package views

import (
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/wire"
	"kaiku/wording"
)

// BothEnds holds the ends of each path against each other and against the latest scan.
func BothEnds(x *dossier.Index, scan matching.Scan, hosts []matching.Beside) wire.BothEnds {
	out := wire.BothEnds{Scan: scan.ID, Paths: []wire.PathEnds{}}
	for _, p := range matching.Ends(x, hosts, scan.Ended) {
		path, _ := x.Paths.Get(p.Path)
		one := wire.PathEnds{Path: Named(x.Dossier, p.Path.Ref()), Device: Named(x.Dossier, path.Device.Ref()), Source: Named(x.Dossier, path.Source.Ref()),
			Agreement: p.Agreement(), Said: wording.ServerSeen(p), Rows: []wire.EndRow{}}
		if !p.SeenAt.IsZero() {
			one.SeenAt = &p.SeenAt
		}
		for _, r := range p.Rows {
			row := wire.EndRow{Member: r.Member, Title: wording.EndMembers[r.Member], Server: append([]string{}, r.Server...), Device: append([]string{}, r.Device...), Seen: append([]string{}, r.Seen...), Agreement: r.Agreement, Said: wording.EndRow(r), Correct: []string{}}
			if r.Agreement != matching.Agree {
				for _, d := range r.Corrects {
					row.Correct = append(row.Correct, DifferenceID(*p.Host, d))
				}
			}
			one.Rows = append(one.Rows, row)
		}
		out.Paths = append(out.Paths, one)
	}
	return out
}
