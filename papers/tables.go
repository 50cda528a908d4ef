package papers

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"net/netip"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

// Form is a form of table that is known.
type Form struct {
	Name string // as people know it
	is   func(string) bool
	read func(string) ([]matching.Sighting, error)
}

// Forms lists the forms in the order in which they are tried.
var Forms = []Form{
	{"address table (JSON)", func(t string) bool { return strings.HasPrefix(t, "[") && strings.Contains(t, `"ifname"`) }, readIPJSON},
	{"neighbour table (JSON)", func(t string) bool { return strings.HasPrefix(t, "[") && strings.Contains(t, `"dst"`) }, readNeighJSON},
	{"lease table (CSV)", func(t string) bool {
		return strings.HasPrefix(t, "address,hwaddr,") || strings.HasPrefix(t, "address,mac,")
	}, readLeaseCSV},
	{"lease table (blocks)", func(t string) bool { return strings.Contains(t, "lease ") && strings.Contains(t, "{") }, readLeaseBlocks},
	{"neighbour table", func(t string) bool { return strings.Contains(t, " dev ") }, readNeigh},
	{"lease table (lines)", isLeaseLines, readLeaseLines},
}

// ErrNoTable says that the text is in none of the forms that are known.
var ErrNoTable = errors.New("it is not a known form of table")

// ReadTable reads a table in whatever known form it is, and says in which. An adapter that is
// spoken of more than once is returned once, as it was last seen, in the order of MAC addresses.
func ReadTable(text string) ([]matching.Sighting, string, error) {
	text = strings.TrimSpace(text)
	for _, f := range Forms {
		if !f.is(text) {
			continue
		}
		seen, err := f.read(text)
		if err != nil {
			return nil, f.Name, fmt.Errorf("read %s: %w", f.Name, err)
		}
		return newest(seen), f.Name, nil
	}
	return nil, "", ErrNoTable
}

// newest keeps of each adapter what was seen last; addresses seen at the same time add up.
func newest(seen []matching.Sighting) []matching.Sighting {
	byAddress := map[dossier.HardwareAddr]*matching.Sighting{}
	for _, s := range seen {
		old := byAddress[s.HardwareAddress]
		switch {
		case old == nil, s.At.After(old.At):
			byAddress[s.HardwareAddress] = &s
		case s.At.Equal(old.At):
			for _, a := range s.Addresses {
				if !slices.Contains(old.Addresses, a) {
					old.Addresses = append(old.Addresses, a)
				}
			}
			if old.Name == "" {
				old.Name = s.Name
			}
		}
	}
	out := make([]matching.Sighting, 0, len(byAddress))
	for _, s := range byAddress {
		slices.SortFunc(s.Addresses, netip.Addr.Compare)
		out = append(out, *s)
	}
	slices.SortFunc(out, func(a, b matching.Sighting) int {
		return strings.Compare(string(a.HardwareAddress), string(b.HardwareAddress))
	})
	return out
}

// sighting makes one of texts; without a MAC address or an address there is none.
func sighting(hardware, address, name string) (matching.Sighting, bool) {
	h, err := dossier.ParseHardwareAddr(hardware)
	if err != nil || h == "" {
		return matching.Sighting{}, false
	}
	a, err := netip.ParseAddr(strings.TrimSpace(address))
	if err != nil {
		return matching.Sighting{}, false
	}
	if name == "*" {
		name = ""
	}
	return matching.Sighting{HardwareAddress: h, Addresses: []netip.Addr{a.Unmap().WithZone("")}, Name: strings.TrimSpace(name)}, true
}

// readLeaseBlocks reads blocks of "lease ADDRESS { ... }", of which the last one for an address counts.
// Leases that are not active are left out.
func readLeaseBlocks(text string) ([]matching.Sighting, error) {
	var out []matching.Sighting
	var s matching.Sighting
	var address, hardware, name, state string
	var starts time.Time
	inside := false
	for line := range strings.Lines(text) {
		line = strings.TrimSpace(line)
		words := strings.Fields(strings.TrimRight(line, ";"))
		switch {
		case strings.HasPrefix(line, "#") || len(words) == 0:
		case words[0] == "lease" && len(words) >= 3 && !inside:
			address, hardware, name, state, starts, inside = words[1], "", "", "active", time.Time{}, true
		case line == "}" && inside:
			inside = false
			ok := false
			if s, ok = sighting(hardware, address, name); ok && state == "active" {
				s.Leased, s.At = true, starts
				out = append(out, s)
			}
		case !inside:
		case words[0] == "hardware" && len(words) == 3:
			hardware = words[2]
		case words[0] == "client-hostname" && len(words) >= 2:
			name = strings.Trim(strings.Join(words[1:], " "), `"`)
		case words[0] == "binding" && len(words) == 3:
			state = words[2]
		case words[0] == "starts" && len(words) >= 4:
			starts, _ = time.Parse("2006/01/02 15:04:05", words[2]+" "+words[3]) // a lease without is the oldest
		}
	}
	return out, nil
}

// readLeaseCSV reads leases in CSV with a line of column names, which may have been appended to over
// time. Of the columns it needs address and hwaddr or mac; in a column state, 0 is assigned.
func readLeaseCSV(text string) ([]matching.Sighting, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		return nil, err
	}
	column := map[string]int{}
	for i, name := range rows[0] {
		column[name] = i
	}
	cell := func(row []string, names ...string) string {
		for _, name := range names {
			if i, ok := column[name]; ok && i < len(row) {
				return row[i]
			}
		}
		return ""
	}
	var out []matching.Sighting
	for _, row := range rows[1:] {
		s, ok := sighting(cell(row, "hwaddr", "mac"), cell(row, "address"), strings.TrimSuffix(cell(row, "hostname", "host name"), "."))
		if state := cell(row, "state"); !ok || state != "" && state != "0" {
			continue
		}
		s.Leased, s.At = true, expiry(cell(row, "expire", "until"))
		out = append(out, s)
	}
	return out, nil
}

// expiry reads when a lease ends, in seconds since 1970 or in RFC 3339; a lease without is the oldest.
func expiry(text string) time.Time {
	if at, err := time.Parse(time.RFC3339, text); err == nil {
		return at
	}
	seconds, _ := strconv.ParseInt(text, 10, 64)
	return time.Unix(seconds, 0)
}

// isLeaseLines: each line begins with a time in seconds, then a MAC address, then an address.
func isLeaseLines(text string) bool {
	for line := range strings.Lines(text) {
		words := strings.Fields(line)
		if len(words) >= 4 {
			_, err := strconv.ParseInt(words[0], 10, 64)
			_, ok := sighting(words[1], words[2], "")
			return err == nil && ok
		}
	}
	return false
}

// readLeaseLines reads lines of time, MAC address, address, name and client id.
func readLeaseLines(text string) ([]matching.Sighting, error) {
	var out []matching.Sighting
	for line := range strings.Lines(text) {
		words := strings.Fields(line)
		if len(words) < 4 {
			continue
		}
		if s, ok := sighting(words[1], words[2], words[3]); ok {
			s.Leased, s.At = true, expiry(words[0])
			out = append(out, s)
		}
	}
	return out, nil
}

// deadStates are those in which a neighbour did not answer (ip-neighbour(8)).
var deadStates = []string{"FAILED", "INCOMPLETE", "NONE"}

// readNeigh reads a neighbour table of lines ADDRESS dev NAME lladdr MAC STATE.
func readNeigh(text string) ([]matching.Sighting, error) {
	var out []matching.Sighting
	lines := bufio.NewScanner(strings.NewReader(text))
	for lines.Scan() {
		words := strings.Fields(lines.Text())
		at := slices.Index(words, "lladdr")
		if at < 1 || at+1 >= len(words) || slices.ContainsFunc(deadStates, func(s string) bool { return slices.Contains(words, s) }) {
			continue
		}
		if s, ok := sighting(words[at+1], words[0], ""); ok {
			out = append(out, s)
		}
	}
	return out, lines.Err()
}

func readNeighJSON(text string) ([]matching.Sighting, error) {
	var rows []struct {
		Dst    string   `json:"dst"`
		LLAddr string   `json:"lladdr"`
		State  []string `json:"state"`
	}
	if err := json.Unmarshal([]byte(text), &rows); err != nil {
		return nil, err
	}
	var out []matching.Sighting
	for _, r := range rows {
		if s, ok := sighting(r.LLAddr, r.Dst, ""); ok && !slices.ContainsFunc(deadStates, func(d string) bool { return slices.Contains(r.State, d) }) {
			out = append(out, s)
		}
	}
	return out, nil
}

// readIPJSON reads what `ip -j addr` prints: the machine's own adapters.
func readIPJSON(text string) ([]matching.Sighting, error) {
	var rows []struct {
		Name     string `json:"ifname"`
		LinkType string `json:"link_type"`
		Address  string `json:"address"`
		Infos    []struct {
			Local string `json:"local"`
			Scope string `json:"scope"`
		} `json:"addr_info"`
	}
	if err := json.Unmarshal([]byte(text), &rows); err != nil {
		return nil, err
	}
	var out []matching.Sighting
	for _, r := range rows {
		if r.LinkType == "loopback" {
			continue
		}
		h, err := dossier.ParseHardwareAddr(r.Address)
		if err != nil || h == "" {
			continue
		}
		s := matching.Sighting{HardwareAddress: h, Name: r.Name, Own: true}
		for _, i := range r.Infos {
			if a, err := netip.ParseAddr(i.Local); err == nil && i.Scope != "link" {
				s.Addresses = append(s.Addresses, a)
			}
		}
		if len(s.Addresses) > 0 { // without an address it is unplugged, or none that leads anywhere
			out = append(out, s)
		}
	}
	return out, nil
}
