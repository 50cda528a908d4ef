// Package entry works out what has to be keyed in on a device for one path to work.
package entry

import (
	"cmp"
	"net/netip"
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// What is keyed in or chosen on the device.
type What string

// What a card can say, in the order of work.
const (
	WiFi     What = "wifi"      // choose this Wi-Fi network
	Cable    What = "cable"     // plug the device in
	Network  What = "network"   // how the device is connected is not recorded
	Choose   What = "choose"    // choose this name in the list of servers
	Address  What = "address"   // type the address of the server
	Port     What = "port"      // type the port
	Locator  What = "locator"   // type the place on the server, such as the name of a share
	Link     What = "link"      // type all of it as one address
	Code     What = "code"      // type the pairing code
	Key      What = "key"       // the key by which the page of a list knows the device, to enter there
	Login    What = "login"     // type the log-in name
	Password What = "password"  // type the password
	Consent  What = "consent"   // allow that the device is told what to play
	ByItself What = "by-itself" // nothing: it finds the server without being asked
)

// Values lists what a card can say.
func (What) Values() []string {
	return []string{string(WiFi), string(Cable), string(Network), string(Choose), string(Address), string(Port), string(Locator), string(Link), string(Code), string(Key), string(Login), string(Password), string(Consent), string(ByItself)}
}

// Line is one thing to key in. A line without a value and without a secret is one that nobody recorded
// yet: what has to be keyed in is not known.
type Line struct {
	What    What
	Value   string                     // what to key in
	Others  []string                   // further values that would do as well
	Secret  dossier.ID[dossier.Secret] // where the value is kept, if it is secret
	Entered string                     // what is recorded as entered on the device, where that differs
}

// Known reports whether it is known what to key in.
func (l Line) Known() bool {
	return l.Value != "" || l.Secret != "" || slices.Contains([]What{Cable, Consent, ByItself}, l.What)
}

// Card is all that has to be keyed in on a device for one path, in the order of work.
type Card struct {
	Path    dossier.ID[dossier.Path]
	Device  dossier.ID[dossier.Device]
	Segment dossier.ID[dossier.Segment] // of the Wi-Fi network to join
	Lines   []Line
	Steps   []proving.RecipeStep // the firm's steps for the device and its programs
}

// Of returns the card of a path. Steps are those of the firm's recipes in the home.
func Of(x *dossier.Index, p dossier.Path, steps []proving.RecipeStep) Card {
	c := Card{Path: p.ID, Device: p.Device}
	source, server := x.ServerOf(p)
	c.network(x, p, source)
	switch {
	case slices.Contains(linked, p.Kind):
		c.link(x, p, source)
	case p.FoundBy == dossier.ByMulticast || p.FoundBy == dossier.ByName:
		c.add(Line{What: Choose, Value: cmp.Or(source.ShownName, p.ServerEnd.Name), Entered: p.DeviceEnd.Name})
	case p.FoundBy == dossier.ByTypedAddress:
		c.typed(x, p, source)
	case p.FoundBy == dossier.ByPairingCode:
		c.add(Line{What: Code, Secret: secretOf(x, dossier.SecretPairingCode, server.ID)})
	}
	if p.Kind == dossier.AVPush {
		c.add(Line{What: Consent})
	}
	if p.DeviceKey != "" {
		c.add(Line{What: Key, Secret: p.DeviceKey})
	}
	c.account(x, p, source)
	for _, s := range steps {
		if s.Device == p.Device {
			c.Steps = append(c.Steps, s)
		}
	}
	if len(c.Lines) == 1 && c.Lines[0].What != Network && p.FoundBy == dossier.ByNothing {
		c.add(Line{What: ByItself})
	}
	return c
}

// linked are the kinds of path whose source is keyed in as one address.
var linked = []dossier.PathKind{dossier.Stream, dossier.StreamList, dossier.Feed}

func (c *Card) add(l Line) {
	if l.Entered == l.Value || slices.Contains(l.Others, l.Entered) {
		l.Entered = ""
	}
	c.Lines = append(c.Lines, l)
}

// network says by what the device has to be on the network: a Wi-Fi network with the password kept for it,
// or a cable.
func (c *Card) network(x *dossier.Index, p dossier.Path, source dossier.Source) {
	for _, i := range x.InterfacesOf(c.Device) {
		used := len(i.Addresses) > 0 || i.Segment != "" || slices.ContainsFunc(x.Links, func(l dossier.Link) bool { return l.Near == i.ID || l.Far == i.ID })
		if !used {
			continue
		}
		if i.Medium == dossier.OnCable {
			c.add(Line{What: Cable})
			return
		}
		segment, known := x.Segments.Get(i.Segment)
		if !known && len(i.Addresses) > 0 {
			segment, known = x.Segments.Get(x.SegmentOf(i, i.Addresses[0]))
		}
		if i.Medium == dossier.OnRadio && known {
			joined := segment.SSID
			segment = meeting(x, p, source, segment)
			c.Segment = segment.ID
			c.add(Line{What: WiFi, Value: segment.SSID, Entered: joined})
			if s := slices.IndexFunc(x.Secrets, func(s dossier.Secret) bool { return s.Segment == segment.ID }); s >= 0 {
				c.add(Line{What: Password, Secret: x.Secrets[s].ID})
			} else {
				c.add(Line{What: Password})
			}
			return
		}
	}
	c.add(Line{What: Network})
}

// meeting returns the segment that a device has to join: its own, unless it looks for its server by
// multicast and the server is only in others that have Wi-Fi.
func meeting(x *dossier.Index, p dossier.Path, source dossier.Source, own dossier.Segment) dossier.Segment {
	at := x.ServedIn(source)
	if p.FoundBy != dossier.ByMulticast || len(at) == 0 || slices.Contains(at, own.ID) || passes(own, at) {
		return own
	}
	for _, id := range at {
		if s, _ := x.Segments.Get(id); s.SSID != "" && !passes(s, []dossier.ID[dossier.Segment]{own.ID}) {
			return s
		}
	}
	return own
}

// passes reports whether multicast is passed on from a segment to one of the others.
func passes(s dossier.Segment, others []dossier.ID[dossier.Segment]) bool {
	return slices.ContainsFunc(s.MulticastTo, func(id dossier.ID[dossier.Segment]) bool { return slices.Contains(others, id) })
}

// typed says address, port and locator of the source.
func (c *Card) typed(x *dossier.Index, p dossier.Path, source dossier.Source) {
	address, others := addressesOf(x, p, source)
	entered := ""
	if p.DeviceEnd.Address.IsValid() {
		entered = p.DeviceEnd.Address.String()
	}
	c.add(Line{What: Address, Value: address, Others: others, Entered: entered})
	if port := cmp.Or(source.Port, p.ServerEnd.Port); port != 0 {
		l := Line{What: Port, Value: strconv.Itoa(port)}
		if p.DeviceEnd.Port != 0 {
			l.Entered = strconv.Itoa(p.DeviceEnd.Port)
		}
		c.add(l)
	}
	if locator := cmp.Or(source.Locator, p.ServerEnd.Locator); locator != "" {
		c.add(Line{What: Locator, Value: locator, Entered: p.DeviceEnd.Locator})
	}
}

// schemes are those of protocols whose sources are written as one address (RFC 3986; RTSP: RFC 7826).
var schemes = map[dossier.Protocol]string{dossier.ProtocolHTTP: "http", dossier.ProtocolHLS: "http", dossier.ProtocolM3U: "http", dossier.ProtocolRTSP: "rtsp"}

// defaultPorts are left out of an address: 80 for HTTP (RFC 9110), 554 for RTSP (RFC 7826).
var defaultPorts = map[string]int{"http": 80, "rtsp": 554}

// link says the source as one address. Where it is a web address already, that is it.
func (c *Card) link(x *dossier.Index, p dossier.Path, source dossier.Source) {
	locator := cmp.Or(source.Locator, p.ServerEnd.Locator)
	if strings.Contains(locator, "://") {
		c.add(Line{What: Link, Value: locator, Entered: p.DeviceEnd.Locator})
		return
	}
	scheme := schemes[source.Protocol]
	address, _ := addressesOf(x, p, source)
	if scheme == "" || address == "" {
		c.add(Line{What: Link})
		return
	}
	at := address
	if a, err := netip.ParseAddr(address); err == nil && a.Is6() {
		at = "[" + address + "]"
	}
	if port := cmp.Or(source.Port, p.ServerEnd.Port); port != 0 && port != defaultPorts[scheme] {
		at += ":" + strconv.Itoa(port)
	}
	c.add(Line{What: Link, Value: scheme + "://" + at + "/" + strings.TrimLeft(locator, "/")})
}

// addressesOf returns the address of a source for a device: one in a segment of the device before
// others, IPv4 before IPv6, and the further ones.
func addressesOf(x *dossier.Index, p dossier.Path, source dossier.Source) (string, []string) {
	at := x.SegmentsAt(p.Device)
	var near, far []netip.Addr
	for _, i := range x.ListensOn(source) {
		for _, a := range i.Addresses {
			switch {
			case a.IsLinkLocalUnicast():
			case slices.Contains(at, x.SegmentOf(i, a)):
				near = append(near, a)
			default:
				far = append(far, a)
			}
		}
	}
	if len(near) == 0 && p.ServerEnd.Address.IsValid() {
		near = append(near, p.ServerEnd.Address)
	}
	slices.SortStableFunc(near, func(a, b netip.Addr) int { return rank(a) - rank(b) })
	var out []string
	for _, a := range slices.Concat(near, far) {
		if !slices.Contains(out, a.String()) {
			out = append(out, a.String())
		}
	}
	if len(out) == 0 {
		return "", nil
	}
	return out[0], out[1:]
}

func rank(a netip.Addr) int {
	if a.Is4() {
		return 0
	}
	return 1
}

// account says with what one signs in: the account recorded for the path, else that of the source.
func (c *Card) account(x *dossier.Index, p dossier.Path, source dossier.Source) {
	id := p.Account
	if id == "" {
		id = source.Account
	}
	a, known := x.Accounts.Get(id)
	if !known {
		return
	}
	c.add(Line{What: Login, Value: a.Login})
	c.add(Line{What: Password, Secret: a.Secret})
}

func secretOf(x *dossier.Index, kind dossier.SecretKind, device dossier.ID[dossier.Device]) dossier.ID[dossier.Secret] {
	if n := slices.IndexFunc(x.Secrets, func(s dossier.Secret) bool { return s.Kind == kind && s.Device == device }); n >= 0 {
		return x.Secrets[n].ID
	}
	return ""
}
