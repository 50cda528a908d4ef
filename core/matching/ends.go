package matching

import (
	"cmp"
	"fmt"
	"math"
	"net/netip"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// EndMember is a setting that has to match at both ends of a path.
type EndMember string

// Settings that have to match.
const (
	EndAddress EndMember = "address"
	EndPort    EndMember = "port"
	EndName    EndMember = "name"
	EndLocator EndMember = "locator"
	EndAccount EndMember = "account"
	EndClock   EndMember = "clock"
)

// EndMembers lists them in the order in which they are set.
var EndMembers = []EndMember{EndAddress, EndPort, EndName, EndLocator, EndAccount, EndClock}

// Agreement is how what is said of one member goes together.
type Agreement string

// Agreements, the worst first.
const (
	DeviceOther Agreement = "device-differs" // the device has something else set than the server, as far as that is known
	RecordOld   Agreement = "record-behind"  // the scan found something else than is recorded of the server
	OneSays     Agreement = "one-says"       // only one of the three is known
	Agree       Agreement = "agree"
)

// Values lists them, the worst first.
func (Agreement) Values() []string {
	return []string{string(DeviceOther), string(RecordOld), string(OneSays), string(Agree)}
}

// EndRow is one member as the server has it by the record, as the device has it by the record, and as the latest scan saw it at the
// server. Each has several values where any of them does; none where it is not known.
type EndRow struct {
	Member               EndMember
	Server, Device, Seen []string
	Agreement            Agreement
	// ByLease says of an address that the device has it typed in and the server has it by lease: it may be another one tomorrow.
	ByLease bool
	// Corrects are the differences of the server's host that would bring the record in line with what was seen.
	Corrects []Difference
}

// PathEnds are the two ends of a path.
type PathEnds struct {
	Path dossier.ID[dossier.Path]
	Rows []EndRow
	// Host is the server as the latest scan saw it, if it did, and SeenAt when that was. Silent says that the scan looked where the
	// server should be, and it did not answer.
	Host   *Beside
	SeenAt time.Time
	Silent bool
}

// Agreement is the worst of the rows that could be compared; OneSays if none could.
func (p PathEnds) Agreement() Agreement {
	worst := OneSays
	for _, r := range p.Rows {
		if r.Agreement != OneSays && (worst == OneSays || r.Agreement.rank() < worst.rank()) {
			worst = r.Agreement
		}
	}
	return worst
}

func (a Agreement) rank() int { return slices.Index(a.Values(), string(a)) }

// Ends holds the two ends of each path in use against each other and against what the latest scan saw, which was compared with the
// record: those that differ first. Of a server that the scan is not sure to have recognised it counts as nothing seen.
func Ends(x *dossier.Index, hosts []Beside, scanned time.Time) []PathEnds {
	out := []PathEnds{}
	for _, p := range x.InUse {
		source, server := x.ServerOf(p)
		if server.ID == p.Device || p.Kind == dossier.Copy {
			continue // there is only one end
		}
		e := ends{x: x, path: p, source: source, server: server}
		e.side, e.own = x.ServerSide(p)
		one := PathEnds{Path: p.ID}
		for i := range hosts {
			switch b := &hosts[i]; {
			case b.Device != server.ID || b.Match.Class != Sure && b.Status != NotSeen:
			case b.Status == NotSeen:
				one.Silent, one.SeenAt = true, scanned
			default:
				one.Host, one.SeenAt, e.host = b, scanned, b
			}
		}
		one.Silent = one.Silent && one.Host == nil
		for _, m := range EndMembers {
			if r := e.row(m); len(r.Server)+len(r.Device)+len(r.Seen) > 0 {
				one.Rows = append(one.Rows, r)
			}
		}
		out = append(out, one)
	}
	slices.SortStableFunc(out, func(a, b PathEnds) int {
		return cmp.Compare(a.Agreement().rank(), b.Agreement().rank())
	})
	return out
}

// ends is one path while its ends are compared.
type ends struct {
	x      *dossier.Index
	path   dossier.Path
	source dossier.Source
	server dossier.Device
	side   dossier.End // the server's, by the record
	own    []netip.Addr
	host   *Beside
}

func (e ends) row(m EndMember) EndRow {
	r := EndRow{Member: m}
	s, d := e.side, e.path.DeviceEnd
	switch m {
	case EndAddress:
		e.addresses(&r)
	case EndPort:
		r.Server, r.Device = number(s.Port), number(d.Port)
		e.seen(&r, "port")
	case EndName:
		r.Server, r.Device = text(s.Name), text(d.Name)
		e.seen(&r, "shownName")
	case EndLocator:
		r.Server, r.Device = text(plainPlace(s.Locator)), text(plainPlace(d.Locator))
		e.seen(&r, "locator")
	case EndAccount:
		r.Server, r.Device = e.account(e.source.Account), e.account(e.path.Account)
		if len(r.Server) == 0 {
			return EndRow{} // a source without an account asks for none
		}
	case EndClock:
		return e.clocks()
	}
	r.Agreement = r.agreement()
	return r
}

func text(s string) []string {
	if s == "" {
		return nil
	}
	return []string{s}
}

func number(n int) []string {
	if n == 0 {
		return nil
	}
	return []string{fmt.Sprint(n)}
}

// plainPlace is a locator without what is written in front of or behind it in one place and not in another.
func plainPlace(s string) string { return strings.Trim(s, "/") }

func addressTexts(list []netip.Addr) (out []string) {
	for _, a := range list {
		if a.IsValid() && !(a.Is6() && a.IsLinkLocalUnicast()) {
			out = append(out, a.Unmap().String())
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// addresses compares those of the server. One family says nothing of the other.
func (e ends) addresses(r *EndRow) {
	for _, i := range e.x.ListensOn(e.source) {
		if typed := e.path.DeviceEnd.Address; typed.IsValid() && e.path.FoundBy == dossier.ByTypedAddress && slices.Contains(i.Addresses, typed) && i.AddressBy == dossier.ByLease {
			r.ByLease = true
		}
	}
	typed := e.path.DeviceEnd.Address
	family := func(a netip.Addr) bool { return !typed.IsValid() || a.Is4() == typed.Is4() }
	only := func(list []netip.Addr) []netip.Addr {
		return slices.DeleteFunc(slices.Clone(list), func(a netip.Addr) bool { return !family(a.Unmap()) })
	}
	r.Server, r.Device = addressTexts(only(e.own)), addressTexts([]netip.Addr{typed})
	if e.host == nil {
		return
	}
	r.Seen = addressTexts(only(e.host.Host.Addresses()))
	for _, d := range e.host.Differences {
		if d.Kind == "interface" && d.Member == "addresses" && d.Relation != Same {
			r.Corrects = append(r.Corrects, d)
		}
	}
}

// seen takes up what the scan saw of a member of the source.
func (e ends) seen(r *EndRow, member string) {
	if e.host == nil {
		return
	}
	for n, ref := range e.host.Records {
		if ref != e.source.ID.Ref() || n >= len(e.host.Host.Seen) {
			continue
		}
		if v, said := e.host.Host.Seen[n].Members[member]; said {
			if s := fmt.Sprint(v); s != "" && s != "0" {
				r.Seen = text(plainPlace(s))
				if member == "shownName" {
					r.Seen = text(s)
				}
			}
		}
		for _, d := range e.host.Differences {
			if d.Place == n && d.Member == member && d.Relation != Same {
				r.Corrects = append(r.Corrects, d)
			}
		}
	}
}

func (e ends) account(id dossier.ID[dossier.Account]) []string {
	a, there := e.x.Accounts.Get(id)
	if !there {
		return nil
	}
	return text(a.Name)
}

// clocks compares how far both clocks are off, in whole seconds. One alone says nothing of the other.
func (e ends) clocks() EndRow {
	server, one := e.x.Newest(e.server.ID, dossier.ClockOffsetS)
	device, other := e.x.Newest(e.path.Device, dossier.ClockOffsetS)
	if !one || !other {
		return EndRow{}
	}
	a, b := int(math.Round(server.Value)), int(math.Round(device.Value))
	r := EndRow{Member: EndClock, Server: text(fmt.Sprintf("%+d s", a)), Device: text(fmt.Sprintf("%+d s", b)), Agreement: Agree}
	if max(a-b, b-a) > sameClock {
		r.Agreement = DeviceOther
	}
	return r
}

// sameClock is by how much two clocks may differ, in seconds: hours of blocking and guides go by the minute.
const sameClock = 60

// agreement compares what is said.
func (r EndRow) agreement() Agreement {
	said := 0
	for _, one := range [][]string{r.Server, r.Device, r.Seen} {
		if len(one) > 0 {
			said++
		}
	}
	truth := r.Server
	if len(r.Seen) > 0 {
		truth = r.Seen // what the server is now, whatever is recorded
	}
	switch {
	case said < 2:
		return OneSays
	case !agree(r.Device, truth):
		return DeviceOther
	case !agree(r.Server, r.Seen):
		return RecordOld
	}
	return Agree
}

// agree reports whether two have a value in common, or one says nothing.
func agree(a, b []string) bool {
	if len(a) == 0 || len(b) == 0 {
		return true
	}
	return slices.ContainsFunc(a, func(s string) bool { return slices.Contains(b, s) })
}

// PortSeen says how a port of a host answered a scan, and whether it was asked at all. Where a whole segment was searched by UDP, only an answer
// counts: a host that stays silent may simply not be what was searched for.
func (h Host) PortSeen(transport dossier.Transport, port int) (Ended, bool) {
	open := h.Open
	if transport == dossier.UDP {
		open = h.Heard
	}
	if slices.Contains(open, port) {
		return Answered, true
	}
	for _, q := range h.Answers {
		if q.Port == port && slices.Contains(overUDP, q.Way) == (transport == dossier.UDP) && q.Ended != NotAsked && q.Ended != Stopped {
			return q.Ended, true
		}
	}
	return "", false
}

// overUDP are the ways in which a single host is asked by UDP.
var overUDP = []Way{ByDNS, ByNATPMP, ByPCP, ByNetBIOS}
