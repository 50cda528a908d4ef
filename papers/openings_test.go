package papers_test

import (
	"encoding/csv"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/papers"
)

func openingRows() []papers.OpeningRow {
	home, home6 := netip.MustParsePrefix("10.20.4.0/24"), netip.MustParsePrefix("2001:db8:4::/64")
	server := netip.MustParseAddr("10.20.4.10")
	return []papers.OpeningRow{
		{NeededOpening: network.NeededOpening{Transport: dossier.UDP, From: []netip.Prefix{netip.PrefixFrom(server, 32)}, For: []string{"hearing-answers"}, State: network.NeedUnknown}, HostName: "screen", Paths: []string{"films"}},
		{NeededOpening: network.NeededOpening{Transport: dossier.TCP, Port: 40210, From: []netip.Prefix{home, home6}, For: []string{"fetching"}, State: network.NeedOpen}, HostName: "server", Paths: []string{"films", "music"}},
		{NeededOpening: network.NeededOpening{Transport: dossier.UDP, Port: 1900, For: []string{"being-found"}, State: network.NeedShut}, HostName: "server", Paths: []string{"films"}},
		{NeededOpening: network.NeededOpening{Transport: dossier.TCP, Port: 50443, Outside: true, To: []netip.Addr{server}, ToPort: 40210, For: []string{"from-outside"}, State: network.NeedRefused}, HostName: "router", Paths: []string{"films"}},
	}
}

func TestOpeningsAreWrittenDown(t *testing.T) {
	assert.Equal(t, `Openings that H-0001, Granite needs
Advice, worked out from the recorded paths. Read it before use, and record what was opened.

screen
  screen lets in UDP answers to its own search, to whichever port it was sent from, from 10.20.4.10.
    For hearing answers: films. Not recorded.

server
  server lets in TCP port 40210 from 10.20.4.0/24 and 2001:db8:4::/64.
    For fetching: films and music. Open, as it is recorded.
  server lets in UDP port 1900 from where it is needed (no segment is recorded).
    For being found: films. Blocked.

router
  router lets in TCP port 50443 from outside, to 10.20.4.10 port 40210.
    For watching from outside: films. Asked for and refused.
`, papers.OpeningsText("H-0001, Granite", openingRows()))
	assert.Contains(t, papers.OpeningsText("H-0001", nil), "No path in use needs one.")
	assert.Equal(t, `# Openings that H-0001, Granite needs.
# Advice, worked out from the recorded paths. Read it before use, and record what was opened.
# Each chain is for one machine. Its own input chain has to jump to it before it refuses anything.

# screen
table inet filter {
	chain media {
		ip saddr { 10.20.4.10/32 } udp dport 1024-65535 accept comment "hearing answers"
	}
}

# server
table inet filter {
	chain media {
		ip saddr { 10.20.4.0/24 } tcp dport 40210 accept comment "fetching"
		ip6 saddr { 2001:db8:4::/64 } tcp dport 40210 accept comment "fetching"
		# from where is not recorded: udp dport 1900 accept
	}
}

# router
table inet filter {
	chain media {
		# router lets in TCP port 50443 from outside, to 10.20.4.10 port 40210: set in the router's own menus.
	}
}
`, papers.OpeningsNFT("H-0001, Granite", openingRows()))
	rows, err := csv.NewReader(strings.NewReader(papers.OpeningsCSV(openingRows()))).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"screen", "in", "udp", "any, answers to its own search", "10.20.4.10/32", "", "", "hearing answers", "films", "not-recorded"}, rows[1])
	assert.Equal(t, []string{"router", "in", "tcp", "50443", "outside", "10.20.4.10", "40210", "watching from outside", "films", "refused"}, rows[4])
}

// Whatever a machine or a home is called, no name becomes a rule of its own, and a table has one line for each.
func TestNamesDoNotBecomeRules(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.String().Draw(t, "name")
		rows := openingRows()
		for i := range rows {
			rows[i].HostName = name
		}
		for line := range strings.Lines(papers.OpeningsNFT(name, rows)) {
			line = strings.TrimSpace(line)
			plain := line == "" || line[0] == '#' || line == "table inet filter {" || line == "chain media {" || line == "}" || strings.HasPrefix(line, "ip saddr {") || strings.HasPrefix(line, "ip6 saddr {")
			require.True(t, plain, "%q", line)
		}
		read, err := csv.NewReader(strings.NewReader(papers.OpeningsCSV(rows))).ReadAll()
		require.NoError(t, err)
		require.Len(t, read, len(rows)+1)
	})
}
