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
)

// Sighting is one adapter that a table of leases or neighbours, or a machine's list of its own
// adapters, speaks of.
type Sighting struct {
	HardwareAddress dossier.HardwareAddr
	Addresses       []netip.Addr
	Name            string // host name, or the adapter's own name
	Leased          bool   // the addresses come from a lease server
	Own             bool   // it is an adapter of the machine that wrote the table
	at              time.Time
}

// Form is a form of table that is known.
type Form struct {
	Name string // as people know it
	is   func(string) bool
	read func(string) ([]Sighting, error)
}

// Forms lists the forms in the order in which they are tried.
var Forms = []Form{
	{"ip -j addr", func(t string) bool { return strings.HasPrefix(t, "[") && strings.Contains(t, `"ifname"`) }, readIPJSON},
	{"ip -j neigh", func(t string) bool { return strings.HasPrefix(t, "[") && strings.Contains(t, `"dst"`) }, readNeighJSON},
	{"Kea lease file", func(t string) bool { return strings.HasPrefix(t, "address,hwaddr,") }, readKea},
	{"ISC dhcpd leases", func(t string) bool { return strings.Contains(t, "lease ") && strings.Contains(t, "{") }, readISC},
	{"ip neigh", func(t string) bool { return strings.Contains(t, " dev ") }, readNeigh},
	{"dnsmasq leases", isDnsmasq, readDnsmasq},
}

// ErrNoTable says that the text is in none of the forms that are known.
var ErrNoTable = errors.New("it is none of the tables that are known")

// ReadTable reads a table in whatever known form it is, and says in which. An adapter that is
// spoken of more than once is returned once, as it was last seen, in the order of hardware addresses.
func ReadTable(text string) ([]Sighting, string, error) {
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
func newest(seen []Sighting) []Sighting {
	byAddress := map[dossier.HardwareAddr]*Sighting{}
	for _, s := range seen {
		old := byAddress[s.HardwareAddress]
		switch {
		case old == nil, s.at.After(old.at):
			byAddress[s.HardwareAddress] = &s
		case s.at.Equal(old.at):
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
	out := make([]Sighting, 0, len(byAddress))
	for _, s := range byAddress {
		slices.SortFunc(s.Addresses, netip.Addr.Compare)
		out = append(out, *s)
	}
	slices.SortFunc(out, func(a, b Sighting) int { return strings.Compare(string(a.HardwareAddress), string(b.HardwareAddress)) })
	return out
}

// sighting makes one of texts; without a hardware address or an address there is none.
func sighting(hardware, address, name string) (Sighting, bool) {
	h, err := dossier.ParseHardwareAddr(hardware)
	if err != nil || h == "" {
		return Sighting{}, false
	}
	a, err := netip.ParseAddr(strings.TrimSpace(address))
	if err != nil {
		return Sighting{}, false
	}
	if name == "*" {
		name = ""
	}
	return Sighting{HardwareAddress: h, Addresses: []netip.Addr{a.Unmap().WithZone("")}, Name: strings.TrimSpace(name)}, true
}

// readISC reads the lease file of ISC dhcpd (dhcpd.leases(5)): blocks of "lease ADDRESS { ... }"
// of which the last one of an address counts. Leases that are not active are left out.
func readISC(text string) ([]Sighting, error) {
	var out []Sighting
	var s Sighting
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
				s.Leased, s.at = true, starts
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

// readKea reads a Kea memfile of IPv4 or IPv6 leases: CSV with a header, appended to over time.
// State 0 is assigned.
func readKea(text string) ([]Sighting, error) {
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
	cell := func(row []string, name string) string {
		if i, ok := column[name]; ok && i < len(row) {
			return row[i]
		}
		return ""
	}
	var out []Sighting
	for _, row := range rows[1:] {
		s, ok := sighting(cell(row, "hwaddr"), cell(row, "address"), strings.TrimSuffix(cell(row, "hostname"), "."))
		if state := cell(row, "state"); !ok || state != "" && state != "0" {
			continue
		}
		expires, _ := strconv.ParseInt(cell(row, "expire"), 10, 64) // a lease without is the oldest
		s.Leased, s.at = true, time.Unix(expires, 0)
		out = append(out, s)
	}
	return out, nil
}

// isDnsmasq: each line begins with a time in seconds, then a hardware address, then an address.
func isDnsmasq(text string) bool {
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

// readDnsmasq reads the lease file of dnsmasq: time, hardware address, address, name, client id.
func readDnsmasq(text string) ([]Sighting, error) {
	var out []Sighting
	for line := range strings.Lines(text) {
		words := strings.Fields(line)
		if len(words) < 4 {
			continue
		}
		if s, ok := sighting(words[1], words[2], words[3]); ok {
			expires, _ := strconv.ParseInt(words[0], 10, 64)
			s.Leased, s.at = true, time.Unix(expires, 0)
			out = append(out, s)
		}
	}
	return out, nil
}

// deadStates are those in which a neighbour did not answer (ip-neighbour(8)).
var deadStates = []string{"FAILED", "INCOMPLETE", "NONE"}

// readNeigh reads what `ip neigh` prints: ADDRESS dev NAME lladdr HARDWARE STATE.
func readNeigh(text string) ([]Sighting, error) {
	var out []Sighting
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

func readNeighJSON(text string) ([]Sighting, error) {
	var rows []struct {
		Dst    string   `json:"dst"`
		LLAddr string   `json:"lladdr"`
		State  []string `json:"state"`
	}
	if err := json.Unmarshal([]byte(text), &rows); err != nil {
		return nil, err
	}
	var out []Sighting
	for _, r := range rows {
		if s, ok := sighting(r.LLAddr, r.Dst, ""); ok && !slices.ContainsFunc(deadStates, func(d string) bool { return slices.Contains(r.State, d) }) {
			out = append(out, s)
		}
	}
	return out, nil
}

// readIPJSON reads what `ip -j addr` prints: the machine's own adapters.
func readIPJSON(text string) ([]Sighting, error) {
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
	var out []Sighting
	for _, r := range rows {
		if r.LinkType == "loopback" {
			continue
		}
		h, err := dossier.ParseHardwareAddr(r.Address)
		if err != nil || h == "" {
			continue
		}
		s := Sighting{HardwareAddress: h, Name: r.Name, Own: true}
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
