package matching

import (
	"fmt"
	"net/netip"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// Join puts the hosts together that are one machine: a server with two adapters, an adapter with several
// addresses, a host that was seen in both address families. What is one machine is decided by what is unique;
// names and models alone say nothing, since homes have two of a kind. The order is that of the addresses.
func Join(hosts []Host) []Host {
	var out []Host
	for _, h := range hosts {
		i := slices.IndexFunc(out, func(o Host) bool { return oneMachine(o, h) })
		if i < 0 {
			h.Seen = slices.Clone(h.Seen)
			out = append(out, h)
			continue
		}
		out[i].take(h)
	}
	for i := range out {
		out[i].Settle()
	}
	return out
}

// oneMachine reports whether two hosts are one: they share something unique, and nothing of what each says
// contradicts. A cloned disk has the unique names of the other machine, but not its serial number or host name.
func oneMachine(a, b Host) bool {
	for _, member := range []string{"serial", "hostName", "model", "make"} {
		x, y := plain(a.text(0, member)), plain(b.text(0, member))
		if member == "hostName" {
			x, y = hostName(a.text(0, member)), hostName(b.text(0, member))
		}
		if x != "" && y != "" && x != y && !(member == "model" && (strings.Contains(x, y) || strings.Contains(y, x))) {
			return false
		}
	}
	sameAdapter := slices.ContainsFunc(adaptersOf(a), func(hw dossier.HardwareAddr) bool { return slices.Contains(adaptersOf(b), hw) })
	serial, model := plain(a.text(0, "serial")), plain(a.text(0, "model"))
	sameSerial := len(serial) >= minSerial && serial == plain(b.text(0, "serial"))
	if sameSerial && model != "" && model == plain(b.text(0, "model")) {
		return true
	}
	// Devices are sold with one UDN for all of a series, and a repeater shows its own MAC address for all that
	// hangs on it: it takes two things to be one machine.
	mine := udnsOf(a)
	sameUDN := slices.ContainsFunc(udnsOf(b), func(u string) bool { return slices.Contains(mine, u) })
	named := hostName(a.text(0, "hostName"))
	agree := 0
	for _, one := range []bool{sameAdapter, sameUDN, sameSerial, named != "" && named == hostName(b.text(0, "hostName")), sameFolders(a, b)} {
		if one {
			agree++
		}
	}
	return (sameAdapter || sameUDN) && agree >= 2
}

// adaptersOf lists the MAC addresses of a host.
func adaptersOf(h Host) []dossier.HardwareAddr {
	var out []dossier.HardwareAddr
	for n := range h.Seen {
		if hw := hardwareAt(h, n); hw != "" {
			out = append(out, hw)
		}
	}
	return out
}

// sameFolders reports whether both show the same folders with the same counts, and at least one.
func sameFolders(a, b Host) bool {
	list := func(h Host) []string {
		var out []string
		for _, s := range h.Seen {
			if s.Kind == "folder" && s.Members["itemsInIndex"] != nil {
				out = append(out, fmt.Sprint(s.Members["name"], " ", s.Members["itemsInIndex"]))
			}
		}
		slices.Sort(out)
		return out
	}
	mine := list(a)
	return len(mine) > 0 && slices.Equal(mine, list(b))
}

// minSerial is how many characters a serial number has that can be unique: makers ship batches with 0000 in it.
const minSerial = 6

func hardwareAt(h Host, n int) dossier.HardwareAddr {
	if h.Seen[n].Kind != "interface" {
		return ""
	}
	hw, _ := h.Seen[n].Members["hardwareAddress"].(dossier.HardwareAddr)
	return hw
}

// take adds what another address of the same machine says.
func (h *Host) take(o Host) {
	place := make([]int, len(o.Seen)) // where each of its records stands here
	keys, others := h.keys(), o.keys()
	for n, s := range o.Seen {
		switch {
		case s.Kind == "device":
			h.fill(0, s)
			continue
		case s.Kind == "interface":
			place[n] = h.adapter(s, hardwareAt(o, n))
			continue
		}
		if i := slices.Index(keys, others[n]); i >= 0 {
			place[n] = i
			h.fill(i, s)
			continue
		}
		s.Of = place[s.Of]
		h.Seen = append(h.Seen, s)
		place[n] = len(h.Seen) - 1
	}
	h.Also = append(h.Also, o.Address)
	h.Answers = append(slices.Clone(h.Answers), o.Answers...)
	h.Services = append(slices.Clone(h.Services), o.Services...)
	h.Open = slices.Compact(slices.Sorted(slices.Values(slices.Concat(h.Open, o.Open))))
	h.Heard = slices.Compact(slices.Sorted(slices.Values(slices.Concat(h.Heard, o.Heard))))
	h.Left = h.Left && o.Left
}

// fill takes over the members of which nothing is said yet.
func (h *Host) fill(n int, s Seen) {
	for member, value := range s.Members {
		h.Say(n, member, value, s.By[member])
	}
}

// adapter adds an address to the adapter with that MAC address, or another adapter.
func (h *Host) adapter(s Seen, hardware dossier.HardwareAddr) int {
	for n := range h.Seen {
		if hardware == "" || hardwareAt(*h, n) != hardware {
			continue
		}
		mine, _ := h.Seen[n].Members["addresses"].([]netip.Addr)
		theirs, _ := s.Members["addresses"].([]netip.Addr)
		members := map[string]any{}
		for k, v := range h.Seen[n].Members {
			members[k] = v
		}
		members["addresses"] = append(slices.Clone(mine), theirs...)
		h.Seen[n].Members = members
		return n
	}
	h.Seen = append(h.Seen, s)
	return len(h.Seen) - 1
}

// Addresses lists all addresses of the machine.
func (h Host) Addresses() []netip.Addr { return append([]netip.Addr{h.Address}, h.Also...) }

// at lists the addresses of the adapter at a place in the host's list.
func (h Host) at(n int) []netip.Addr {
	all, _ := h.Seen[n].Members["addresses"].([]netip.Addr)
	return all
}
