package views

import (
	"fmt"

	"kaiku/core/assess"
	"kaiku/core/matching"
	"kaiku/core/network"
	"kaiku/papers"
	"kaiku/wire"
	"kaiku/wording"
)

// Openings says what the firewalls of a home have to let in for its paths, and how the latest scan found it.
func Openings(a *assess.Assessment, hosts []matching.Beside) wire.Openings {
	needed, spare := network.Openings(a.Index)
	out := wire.Openings{Needed: []wire.NeededOpening{}, Spare: []wire.SpareOpening{}}
	var rows []papers.OpeningRow
	for _, n := range needed {
		host := Named(a.Dossier, n.Host.Ref())
		one := wire.NeededOpening{Host: host, Transport: n.Transport, Port: n.Port, From: []string{}, Outside: n.Outside, To: []string{}, ToPort: n.ToPort, For: wording.NeededFor(n.For), Paths: []wire.Named{}, State: n.State,
			Said: wording.NeededOpening(n, host.Label) + "."}
		if n.Record != "" {
			r := Named(a.Dossier, n.Record.Ref())
			one.Record = &r
		}
		one.Seen = portSeen(n, hosts)
		one.SeenSaid = wording.OpeningSeen(n.State, one.Seen)
		row := papers.OpeningRow{NeededOpening: n, HostName: host.Label}
		for _, p := range n.From {
			one.From = append(one.From, p.String())
		}
		for _, to := range n.To {
			one.To = append(one.To, to.String())
		}
		for _, id := range n.Paths {
			p := Named(a.Dossier, id.Ref())
			one.Paths, row.Paths = append(one.Paths, p), append(row.Paths, p.Label)
		}
		out.Needed, rows = append(out.Needed, one), append(rows, row)
	}
	for _, o := range spare {
		ports := fmt.Sprint(o.Port)
		if o.LastPort > o.Port {
			ports += fmt.Sprintf(" to %d", o.LastPort)
		}
		out.Spare = append(out.Spare, wire.SpareOpening{Opening: Named(a.Dossier, o.ID.Ref()), Host: Named(a.Dossier, o.Device.Ref()), Transport: o.Transport, Ports: ports, For: o.For})
	}
	home := a.Home()
	name := home.Code + ", " + home.Name
	out.Sheets = []wire.OpeningSheet{
		{Form: "text", File: home.Code + "-openings.txt", Body: papers.OpeningsText(name, rows)},
		{Form: "nftables", File: home.Code + "-openings.nft", Body: papers.OpeningsNFT(name, rows)},
		{Form: "csv", File: home.Code + "-openings.csv", Body: papers.OpeningsCSV(rows)},
	}
	return out
}

// portSeen says how a port that is needed answered the latest scan of its host; "" if it was not asked. Whether a router
// lets something in from outside is not seen from within.
func portSeen(n network.NeededOpening, hosts []matching.Beside) matching.Ended {
	if n.Port == 0 || n.Outside {
		return ""
	}
	for _, b := range hosts {
		if b.Device == n.Host && b.Match.Class == matching.Sure && b.Status != matching.NotSeen {
			if ended, asked := b.Host.PortSeen(n.Transport, n.Port); asked {
				return ended
			}
		}
	}
	return ""
}
