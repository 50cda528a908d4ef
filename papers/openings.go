package papers

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strings"

	"kaiku/core/network"
	"kaiku/wording"
)

// OpeningRow is one opening to be written down: what is needed, with the names that people know.
type OpeningRow struct {
	network.NeededOpening
	HostName string
	Paths    []string
}

const openingAdvice = "Advice, worked out from the recorded paths. Read it before use, and record what was opened."

// OpeningsText writes what is needed to be read by people.
func OpeningsText(home string, rows []OpeningRow) string {
	var b strings.Builder
	fmt.Fprintf(&b, "Openings that %s needs\n%s\n", home, openingAdvice)
	host := ""
	for _, r := range rows {
		if r.HostName != host {
			host = r.HostName
			fmt.Fprintf(&b, "\n%s\n", host)
		}
		fmt.Fprintf(&b, "  %s.\n    For %s: %s. %s.\n", wording.NeededOpening(r.NeededOpening, host), wording.NeededFor(r.For), wording.And(r.Paths), wording.Capital(wording.OpeningNeeds[r.State]))
	}
	if len(rows) == 0 {
		b.WriteString("\nNo path in use needs one.\n")
	}
	return b.String()
}

// OpeningsCSV writes what is needed as a table to work through in the menus of any firewall (RFC 4180).
func OpeningsCSV(rows []OpeningRow) string {
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	_ = w.Write([]string{"host", "direction", "transport", "port", "from", "to", "to port", "for", "paths", "state"})
	for _, r := range rows {
		port, from, toPort := fmt.Sprint(r.Port), "", ""
		if r.Port == 0 {
			port = "any, answers to its own search"
		}
		for _, p := range r.From {
			from = strings.TrimSpace(from + " " + p.String())
		}
		if r.Outside {
			from, toPort = "outside", fmt.Sprint(r.ToPort)
		}
		to := ""
		for _, a := range r.To {
			to = strings.TrimSpace(to + " " + a.String())
		}
		_ = w.Write([]string{wording.Cell(r.HostName), "in", string(r.Transport), port, from, to, toPort, wording.NeededFor(r.For), wording.Cell(strings.Join(r.Paths, "; ")), string(r.State)})
	}
	w.Flush()
	return b.String()
}

// OpeningsNFT writes what is needed as rules for nftables, one chain for each host, to be jumped to from the host's own input chain. What a
// router passes on is left to its menus.
func OpeningsNFT(home string, rows []OpeningRow) string {
	var b strings.Builder
	fmt.Fprintf(&b, "# Openings that %s needs.\n# %s\n# Each chain is for one machine. Its own input chain has to jump to it before it refuses anything.\n", oneLine(home), openingAdvice)
	for _, host := range hostsOf(rows) {
		fmt.Fprintf(&b, "\n# %s\ntable inet filter {\n\tchain media {\n", oneLine(host))
		for _, r := range rows {
			if r.HostName != host {
				continue
			}
			if r.Outside {
				fmt.Fprintf(&b, "\t\t# %s: set in the router's own menus.\n", oneLine(wording.NeededOpening(r.NeededOpening, host)))
				continue
			}
			port := fmt.Sprint(r.Port)
			if r.Port == 0 {
				port = "1024-65535"
			}
			from := [2][]string{}
			for _, p := range r.From {
				family := 1
				if p.Addr().Is4() {
					family = 0
				}
				from[family] = append(from[family], p.String())
			}
			if len(r.From) == 0 {
				fmt.Fprintf(&b, "\t\t# from where is not recorded: %s dport %s accept\n", r.Transport, port)
			}
			for family, word := range []string{"ip", "ip6"} {
				if len(from[family]) > 0 {
					fmt.Fprintf(&b, "\t\t%s saddr { %s } %s dport %s accept comment %q\n", word, strings.Join(from[family], ", "), r.Transport, port, comment(wording.NeededFor(r.For)))
				}
			}
		}
		b.WriteString("\t}\n}\n")
	}
	return b.String()
}

func hostsOf(rows []OpeningRow) []string {
	var out []string
	for _, r := range rows {
		if !slices.Contains(out, r.HostName) {
			out = append(out, r.HostName)
		}
	}
	return out
}

// oneLine keeps a name from ending its comment.
func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// comment is a text as nftables takes it: printable ASCII without quotes, 128 bytes at most.
func comment(s string) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' || r == '"' || r == '\\' {
			return '?'
		}
		return r
	}, s)
	return s[:min(len(s), 120)]
}
