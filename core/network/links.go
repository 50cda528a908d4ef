package network

import (
	"fmt"
	"slices"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/throughput"
)

// wired are the kinds of link that switches forward between.
var wired = []dossier.LinkKind{dossier.LinkCable, dossier.LinkPowerline, dossier.LinkCoax, dossier.LinkFibre}

// cableLoop finds links that close a ring among switches, routers and access points. A broadcast
// then runs round for ever, unless they agree on leaving one link out (IEEE 802.1Q, clause 13).
func cableLoop(v *view) []Finding {
	var out []Finding
	joined := map[dossier.ID[dossier.Device]]dossier.ID[dossier.Device]{}
	var root func(dossier.ID[dossier.Device]) dossier.ID[dossier.Device]
	root = func(d dossier.ID[dossier.Device]) dossier.ID[dossier.Device] {
		if up, ok := joined[d]; ok && up != d {
			return root(up)
		}
		return d
	}
	for _, l := range v.Links {
		near, far := v.endsOf(l)
		if !slices.Contains(wired, l.Kind) || !near.IsGear() || !far.IsGear() {
			continue
		}
		a, b := root(near.ID), root(far.ID)
		if a != b {
			joined[a] = b
			continue
		}
		out = append(out, about(refs(l.ID.Ref(), near.ID.Ref(), far.ID.Ref()), "near", v.FullLabel(l.Near.Ref()), "far", v.FullLabel(l.Far.Ref())))
	}
	return out
}

func (v *view) endsOf(l dossier.Link) (near, far dossier.Device) {
	a, _ := v.Interfaces.Get(l.Near)
	b, _ := v.Interfaces.Get(l.Far)
	near, _ = v.Devices.Get(a.Device)
	far, _ = v.Devices.Get(b.Device)
	return near, far
}

// outletsSharePort finds two outlets recorded as patched to one port: one of them is not.
func outletsSharePort(v *view) []Finding {
	var out []Finding
	for n, o := range v.Outlets {
		for _, p := range v.Outlets[:n] {
			if o.PatchedTo != "" && o.PatchedTo == p.PatchedTo {
				out = append(out, about(refs(o.ID.Ref(), p.ID.Ref(), o.PatchedTo.Ref()), "outlet", v.FullLabel(o.ID.Ref()), "other", v.FullLabel(p.ID.Ref()), "port", v.FullLabel(o.PatchedTo.Ref())))
			}
		}
	}
	return out
}

// linkBelowPort finds cables over which two ports agreed on less than both can do: usually a
// damaged pair, for which 1000 Mb/s needs all four (IEEE 802.3, clause 40).
func linkBelowPort(v *view) []Finding {
	var out []Finding
	for _, l := range v.Links {
		near, _ := v.Interfaces.Get(l.Near)
		far, _ := v.Interfaces.Get(l.Far)
		could := min(near.PortMbps, far.PortMbps)
		if l.Kind == dossier.LinkCable && l.RateMbps > 0 && could > 0 && l.RateMbps < could {
			out = append(out, about(refs(l.ID.Ref(), near.Device.Ref(), far.Device.Ref()),
				"near", v.FullLabel(near.ID.Ref()), "far", v.FullLabel(far.ID.Ref()), "rate", mbps(l.RateMbps, ""), "could", mbps(could, "")))
		}
	}
	return out
}

// wirelessBesideOutlet finds devices that stay put, on radio, although they have a wired port and
// there is a working outlet in their room, and the port is at least as fast as the measured Wi-Fi rate:
// many screens have ports of 100 Mb/s.
func wirelessBesideOutlet(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		port, radio := v.portAndRadio(d.ID)
		if d.Carried || d.Room == "" || radio.ID == "" || d.IsGear() {
			continue
		}
		measured, _ := v.Newest(d.ID, dossier.DownMbps)
		for _, o := range v.Outlets {
			could := o.TestedMbps
			if port.PortMbps > 0 {
				could = min(could, port.PortMbps)
			}
			if o.Room != d.Room || o.Tested == dossier.TestFailed || could == 0 || could*throughput.Wired < measured.Value || v.plugged(o.ID) {
				continue
			}
			known := "port-known"
			if port.ID == "" {
				known = "port-not-known"
			}
			f := about(refs(d.ID.Ref(), o.ID.Ref()), "device", d.Name, "outlet", o.Name, "port", dossier.Said(known), "could", mbps(could, ""), "measured", dossier.Said("wifi-not-measured"))
			if measured.Value > 0 {
				f.Values["measured"], f.Values["rate"] = dossier.Said("wifi-measured"), mbps(measured.Value, measured.How)
			}
			out = append(out, f)
			break
		}
	}
	return out
}

// portAndRadio returns the device's wired adapter that no link uses and its radio adapter, where
// the radio is what it is on the network by.
func (v *view) portAndRadio(device dossier.ID[dossier.Device]) (port, radio dossier.Interface) {
	for _, i := range v.InterfacesOf(device) {
		used := len(i.Addresses) > 0 || slices.ContainsFunc(v.Links, func(l dossier.Link) bool { return l.Near == i.ID || l.Far == i.ID })
		switch {
		case i.Medium == dossier.OnCable && used:
			return dossier.Interface{}, dossier.Interface{}
		case i.Medium == dossier.OnCable:
			port = i
		case i.Medium == dossier.OnRadio && used:
			radio = i
		}
	}
	return port, radio
}

func (v *view) plugged(o dossier.ID[dossier.Outlet]) bool {
	return slices.ContainsFunc(v.Links, func(l dossier.Link) bool { return l.Outlet == o })
}

// Signal levels below which a station falls back to rates that no longer carry high-definition
// pictures, or for a screen that shows 2160 lines; planning values of the trade.
const (
	weakDbm    = -70
	weakUHDDbm = -67
)

// weakSignal finds devices whose newest signal reading is too weak for what they show.
func weakSignal(v *view) []Finding {
	var out []Finding
	for _, d := range v.Devices {
		r, found := v.Newest(d.ID, dossier.SignalDbm)
		limit := float64(weakDbm)
		if d.Is(dossier.RoleScreen) && !d.Carried && v.showsUHD(d.ID) {
			limit = weakUHDDbm
		}
		if !found || r.Value >= limit {
			continue
		}
		with := dossier.Said("the-device-itself")
		if r.MeasuredWith != "" {
			with = dossier.Named(r.MeasuredWith)
		}
		out = append(out, about(refs(d.ID.Ref(), r.ID.Ref()), "device", d.Name, "signal", dossier.Amount(r.Value, dossier.UnitDbm, r.How), "limit", dossier.Amount(limit, dossier.UnitDbm, ""), "with", with))
	}
	return out
}

func (v *view) showsUHD(device dossier.ID[dossier.Device]) bool {
	return slices.ContainsFunc(v.InUse, func(p dossier.Path) bool {
		return p.Device == device && slices.ContainsFunc(v.Reached(p), func(f dossier.Folder) bool {
			return slices.ContainsFunc(f.Mix, func(e dossier.FormatEntry) bool { return e.Height >= 2160 })
		})
	})
}

// crowdedPercent is how much of a channel's time others may take before it counts as crowded: a
// channel half taken leaves a station less than half of its rate.
const crowdedPercent = 50

// sameChannelCrowded finds radios of the home that share a channel, so that they wait for each
// other, and devices that read their channel as busy.
func sameChannelCrowded(v *view) []Finding {
	var out []Finding
	said := map[dossier.ID[dossier.Device]]int{} // one advice for a device, whatever leads to it
	for n, i := range v.Interfaces {
		if !v.sends(i) {
			continue
		}
		f := about(refs(i.ID.Ref(), i.Device.Ref()), "radio", v.FullLabel(i.ID.Ref()))
		for _, o := range v.Interfaces[:n] {
			if o.Device != i.Device && v.sends(o) && i.Band == o.Band && i.Band.Overlap(i.Channel, o.Channel) {
				f.Subjects = append(f.Subjects, o.ID.Ref())
			}
		}
		if len(f.Subjects) > 2 {
			var names []string
			for _, r := range f.Subjects[2:] {
				names = append(names, v.FullLabel(r))
			}
			shares := dossier.Said("shares-channel", "channel", fmt.Sprint(i.Channel), "band", string(i.Band), "with", strings.Join(names, ", "))
			if at, again := said[i.Device]; again {
				out[at].Subjects = append(out[at].Subjects, f.Subjects...)
				out[at].Values["why"] = out[at].Values["why"].And(shares)
				continue
			}
			f.Values["why"] = shares
			said[i.Device] = len(out)
			out = append(out, f)
		}
	}
	for _, d := range v.Devices {
		if r, found := v.Newest(d.ID, dossier.ChannelBusyPercent); found && r.Value > crowdedPercent {
			busy := dossier.Amount(r.Value, dossier.UnitPercent, r.How)
			if at, again := said[d.ID]; again {
				out[at].Subjects = append(out[at].Subjects, r.ID.Ref())
				out[at].Values["why"], out[at].Values["busy"] = out[at].Values["why"].And(dossier.Said("channel-busy")), busy
				continue
			}
			out = append(out, about(refs(d.ID.Ref(), r.ID.Ref()), "radio", d.Name, "why", dossier.Said("channel-busy"), "busy", busy))
		}
	}
	return out
}

func (v *view) sends(i dossier.Interface) bool {
	d, _ := v.Devices.Get(i.Device)
	return i.Band != "" && i.Channel != 0 && d.IsGear()
}

// mbps is a rate.
func mbps(rate float64, known dossier.Known) dossier.Value {
	return dossier.Amount(rate, dossier.UnitMbps, known)
}
