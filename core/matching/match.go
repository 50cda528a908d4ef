package matching

import (
	"cmp"
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Class says how surely a host is a device.
type Class string

// Classes of a match. Only what is sure is recorded without review: a false merge is worse than
// a double.
const (
	Sure   Class = "sure"   // something unique agrees, nothing speaks against it
	Likely Class = "likely" // a person should confirm it
	None   Class = "none"   // no device is like it
)

// Reason is one thing that speaks for a match, or against it. Weight is in points: an identity
// made to be unique has 10; what is often the same in one home has few.
type Reason struct {
	What   What
	Value  string
	Weight int
}

// What agreed or contradicted.
type What string

// What is compared. An identity is unique by its standard: EUI-48 (IEEE 802), UDN (UPnP Device
// Architecture 2.0, 1.1.4), serial number of one maker.
const (
	SameHardware   What = "same-hardware-address"
	OtherHardware  What = "other-hardware-address"
	SameUDN        What = "same-udn"
	OtherUDN       What = "other-udn"
	SameSerial     What = "same-serial"
	OtherSerial    What = "other-serial"
	SameHostName   What = "same-host-name"
	OtherHostName  What = "other-host-name"
	SameShownName  What = "same-shown-name"
	SameAddress    What = "same-address"
	SameModel      What = "same-model"
	OtherModel     What = "other-model"
	SameSource     What = "same-source"
	SharedIdentity What = "shared-identity" // another host shows the same unique name
	Replaced       What = "replaced"        // the same make and model at its address, and another unique name
)

// weights of the reasons. The sum for an address, a name and a source that agree stays likely:
// a device put in the place of another one often has all three.
var weights = map[What]int{
	SameHardware: 10, OtherHardware: -6, SameUDN: 10, OtherUDN: -6, SameSerial: 10, OtherSerial: -12,
	SameHostName: 3, OtherHostName: -1, SameShownName: 2, SameAddress: 3, SameModel: 2, OtherModel: -8, SameSource: 1, SharedIdentity: -4,
}

const (
	likelyFrom = 4 // points from which a match is worth showing
	margin     = 3 // points by which the best must lead the next
)

// Candidate is one device that a host may be.
type Candidate struct {
	Device  dossier.ID[dossier.Device]
	Points  int
	Reasons []Reason
	strong  bool // something unique agrees
	against bool // something contradicts
}

// Match is what was found out about which device a host is.
type Match struct {
	Class      Class
	Device     dossier.ID[dossier.Device] // of a sure or likely one
	Reasons    []Reason
	Candidates []Candidate // devices it may be, the likeliest first
}

// identity is what is known of a recorded device, scanned for comparison.
type identity struct {
	device    dossier.Device
	hardware  []dossier.HardwareAddr
	addresses []netip.Addr
	udns      []string
	shown     []string
	sources   []dossier.Source
}

func identityOf(d *dossier.Dossier, v dossier.Device) identity {
	one := identity{device: v}
	if v.UDN != "" {
		one.udns = append(one.udns, v.UDN)
	}
	for _, i := range d.InterfacesOf(v.ID) {
		if i.HardwareAddress != "" && i.Randomised != dossier.Yes {
			one.hardware = append(one.hardware, i.HardwareAddress)
		}
		one.addresses = append(one.addresses, i.Addresses...)
	}
	for _, s := range d.Sources {
		if s.Device != v.ID {
			continue
		}
		one.sources = append(one.sources, s)
		if s.UDN != "" {
			one.udns = append(one.udns, s.UDN)
		}
		if s.ShownName != "" {
			one.shown = append(one.shown, s.ShownName)
		}
	}
	return one
}

// weigh compares a host with a device.
func weigh(h Host, of identity, shared bool) Candidate {
	c := Candidate{Device: of.device.ID}
	add := func(what What, value string) {
		c.Reasons = append(c.Reasons, Reason{what, value, weights[what]})
		c.Points += weights[what]
		switch what {
		case SameHardware, SameUDN, SameSerial:
			c.strong = true
		case OtherHardware, OtherUDN, OtherSerial, OtherModel, SharedIdentity:
			c.against = true
		}
	}
	either := func(member, recorded string, key func(string) string, same, other What) {
		switch seen := h.text(0, member); {
		case key(seen) == "" || key(recorded) == "":
		case key(seen) == key(recorded):
			add(same, seen)
		default:
			add(other, seen)
		}
	}
	var hardware, same dossier.HardwareAddr
	for n := range h.Seen {
		if hw := hardwareAt(h, n); hw != "" {
			hardware = hw
			if slices.Contains(of.hardware, hw) {
				same = hw
			}
		}
	}
	switch {
	case hardware == "" || len(of.hardware) == 0:
	case same != "":
		add(SameHardware, string(same))
	default:
		add(OtherHardware, string(hardware))
	}
	weighUDN(h, of, add)
	if shared && slices.ContainsFunc(c.Reasons, func(r Reason) bool { return r.What == SameUDN }) {
		add(SharedIdentity, "")
	}
	either("serial", of.device.Serial, plain, SameSerial, OtherSerial)
	either("hostName", of.device.HostName, hostName, SameHostName, OtherHostName)
	if i := slices.IndexFunc(h.Addresses(), func(a netip.Addr) bool { return slices.Contains(of.addresses, a) }); i >= 0 {
		add(SameAddress, h.Addresses()[i].String())
	}
	weighModel(h, of.device, add)
	weighSources(h, of, add)
	return c
}

func hardwareOf(h Host) dossier.HardwareAddr {
	if len(h.Seen) < 2 {
		return ""
	}
	hw, _ := h.Seen[1].Members["hardwareAddress"].(dossier.HardwareAddr)
	return hw
}

// udnsOf lists the unique names a host shows: of its device and of its sources.
func udnsOf(h Host) []string {
	var out []string
	for n, s := range h.Seen {
		if u := h.text(n, "udn"); u != "" && (s.Kind == "device" || s.Kind == "source") {
			out = append(out, u)
		}
	}
	return out
}

func weighUDN(h Host, of identity, add func(What, string)) {
	seen := udnsOf(h)
	if len(seen) == 0 || len(of.udns) == 0 {
		return
	}
	for _, u := range seen {
		if slices.Contains(of.udns, u) {
			add(SameUDN, u)
			return
		}
	}
	add(OtherUDN, seen[0])
}

// weighModel takes a model for the same when one name holds the other: a label says more than an
// announcement, or less.
func weighModel(h Host, v dossier.Device, add func(What, string)) {
	seen, recorded := plain(h.text(0, "model")), plain(v.Model)
	switch {
	case seen == "" || recorded == "":
	case strings.Contains(seen, recorded) || strings.Contains(recorded, seen):
		add(SameModel, h.text(0, "model"))
	default:
		add(OtherModel, h.text(0, "model"))
	}
}

func weighSources(h Host, of identity, add func(What, string)) {
	named, served := false, false
	for n, s := range h.Seen {
		if s.Kind != "source" {
			continue
		}
		if shown := h.text(n, "shownName"); !named && shown != "" && slices.Contains(of.shown, shown) {
			named = true
			add(SameShownName, shown)
		}
		for _, r := range of.sources {
			if p, _ := s.Members["protocol"].(dossier.Protocol); !served && p == r.Protocol && s.Members["port"] == r.Port {
				served = true
				add(SameSource, string(p))
			}
		}
	}
	if shown := h.text(0, "name"); !named && shown != "" && strings.EqualFold(shown, of.device.Name) {
		add(SameShownName, shown)
	}
}

// plain is a text by its letters and digits alone, in lower case.
func plain(s string) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(" -_.:/", r) {
			return -1
		}
		return r
	}, strings.ToLower(s))
}

// hostName is a host name without its domain, in lower case.
func hostName(s string) string {
	name, _, _ := strings.Cut(strings.ToLower(s), ".")
	return name
}

// MatchHosts finds out, for every host, which device it is. Two hosts are one device only where
// each is another adapter of it.
func MatchHosts(d *dossier.Dossier, hosts []Host) []Match {
	known := make([]identity, 0, len(d.Devices))
	for _, v := range d.Devices {
		known = append(known, identityOf(d, v))
	}
	shown := map[string]int{}
	for _, h := range hosts {
		for _, u := range slices.Compact(slices.Sorted(slices.Values(udnsOf(h)))) {
			shown[u]++
		}
	}
	out := make([]Match, len(hosts))
	for n, h := range hosts {
		shared := slices.ContainsFunc(udnsOf(h), func(u string) bool { return shown[u] > 1 })
		for _, of := range known {
			if c := weigh(h, of, shared); c.Points >= likelyFrom {
				out[n].Candidates = append(out[n].Candidates, c)
			}
		}
		slices.SortStableFunc(out[n].Candidates, func(a, b Candidate) int {
			return cmp.Or(cmp.Compare(b.Points, a.Points), cmp.Compare(a.Device, b.Device))
		})
		if len(out[n].Candidates) == 0 {
			out[n].Candidates = replacing(h, known, shared)
		}
		out[n].decide()
	}
	settle(hosts, out)
	return out
}

// replacing returns the device in whose place the host stands: the same make and model at the same address,
// with something unique that is another. It may have been exchanged for a new one of its kind, or been set up
// anew; a person has to say which.
func replacing(h Host, known []identity, shared bool) []Candidate {
	for _, of := range known {
		c := weigh(h, of, shared)
		says := func(what ...What) bool {
			return slices.ContainsFunc(c.Reasons, func(r Reason) bool { return slices.Contains(what, r.What) })
		}
		if says(SameAddress) && says(SameModel) && !says(OtherModel) && says(OtherUDN, OtherSerial, OtherHardware) {
			c.Reasons = append(c.Reasons, Reason{Replaced, "", 0})
			return []Candidate{c}
		}
	}
	return nil
}

// decide takes the best candidate, if it leads clearly.
func (m *Match) decide() {
	m.Class = None
	if len(m.Candidates) == 0 {
		return
	}
	best := m.Candidates[0]
	m.Class, m.Device, m.Reasons = Likely, best.Device, best.Reasons
	clear := len(m.Candidates) == 1 || best.Points-m.Candidates[1].Points >= margin
	if best.strong && !best.against && clear {
		m.Class = Sure
	}
	if !clear {
		m.Device, m.Reasons = "", nil
	}
}

// settle sees that no device is taken for two hosts, unless each is another adapter of it by its
// MAC address.
func settle(hosts []Host, matches []Match) {
	by := map[dossier.ID[dossier.Device]][]int{}
	for n, m := range matches {
		if m.Device != "" {
			by[m.Device] = append(by[m.Device], n)
		}
	}
	for _, claims := range by {
		if len(claims) == 1 || adaptersOfOne(hosts, matches, claims) {
			continue
		}
		slices.SortStableFunc(claims, func(a, b int) int {
			return cmp.Or(cmp.Compare(matches[b].Candidates[0].Points, matches[a].Candidates[0].Points), hosts[a].Address.Compare(hosts[b].Address))
		})
		first, second := &matches[claims[0]], &matches[claims[1]]
		if first.Class != Sure || second.Class == Sure {
			first.Class = Likely
		}
		for _, n := range claims[1:] {
			matches[n].Class, matches[n].Device, matches[n].Reasons = Likely, "", nil
		}
	}
}

// adaptersOfOne reports whether every host matched by a MAC address of its own.
func adaptersOfOne(hosts []Host, matches []Match, claims []int) bool {
	seen := map[dossier.HardwareAddr]bool{}
	for _, n := range claims {
		hw := hardwareOf(hosts[n])
		if seen[hw] || !slices.ContainsFunc(matches[n].Reasons, func(r Reason) bool { return r.What == SameHardware }) {
			return false
		}
		seen[hw] = true
	}
	return true
}
