package network

import (
	"fmt"
	"slices"
	"strings"

	"kaiku/core/dossier"
)

// listensElsewhere finds paths whose source is bound to an adapter in none of the segments of the
// device, although its server has another adapter that is.
func listensElsewhere(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, p := range d.Paths {
		source, _ := d.Sources.Get(p.Source)
		bound, isBound := d.Interfaces.Get(source.Interface)
		at := d.SegmentsOf(d.InterfacesOf(p.Device))
		if p.Retired || !isBound || len(at) == 0 || shareOne(at, d.SegmentsOf([]dossier.Interface{bound})) || !shareOne(at, d.SegmentsOf(d.InterfacesOf(source.Device))) {
			continue
		}
		out = append(out, Finding{Subjects: []dossier.Ref{source.ID.Ref(), p.ID.Ref(), p.Device.Ref()}, Values: map[string]string{
			"source": d.FullLabel(source.ID.Ref()), "adapter": bound.Name, "device": d.Label(p.Device.Ref()), "segments": labels(d, at)}})
	}
	return out
}

func shareOne(a, b []dossier.ID[dossier.Segment]) bool {
	return slices.ContainsFunc(a, func(s dossier.ID[dossier.Segment]) bool { return slices.Contains(b, s) })
}

// portClash finds two sources that want one port of one host: the second to start serves nothing.
// The ports that SSDP and mDNS share by design are no clash.
func portClash(d *dossier.Dossier) []Finding {
	var out []Finding
	for n, s := range d.Sources {
		for _, o := range d.Sources[:n] {
			if s.Port == 0 || s.Port != o.Port || s.Device != o.Device || s.Port == 1900 || s.Port == 5353 || s.Interface != "" && o.Interface != "" && s.Interface != o.Interface {
				continue
			}
			out = append(out, Finding{Subjects: []dossier.Ref{s.ID.Ref(), o.ID.Ref(), s.Device.Ref()},
				Values: map[string]string{"source": s.Name, "other": o.Name, "port": fmt.Sprint(s.Port), "device": d.Label(s.Device.Ref())}})
		}
	}
	return out
}

// endsDisagree finds paths whose two ends have different things set. What one end leaves open is
// no disagreement.
func endsDisagree(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, p := range d.Paths {
		if p.Retired {
			continue
		}
		s, v := p.ServerEnd, p.DeviceEnd
		var what []string
		differ := func(name, server, device string) {
			if server != "" && device != "" && server != device {
				what = append(what, fmt.Sprintf("%s %s there, %s here", name, server, device))
			}
		}
		if s.Address.IsValid() && v.Address.IsValid() {
			differ("address", s.Address.String(), v.Address.String())
		}
		if s.Port != 0 && v.Port != 0 {
			differ("port", fmt.Sprint(s.Port), fmt.Sprint(v.Port))
		}
		differ("name", s.Name, v.Name)
		differ("locator", strings.Trim(s.Locator, "/"), strings.Trim(v.Locator, "/"))
		if len(what) > 0 {
			source, _ := d.Sources.Get(p.Source)
			out = append(out, Finding{Subjects: []dossier.Ref{p.ID.Ref(), p.Device.Ref(), source.Device.Ref()},
				Values: map[string]string{"path": p.Name, "server": d.Label(source.Device.Ref()), "device": d.Label(p.Device.Ref()), "what": strings.Join(what, "; ")}})
		}
	}
	return out
}

// sameName finds sources that show one name on the network.
func sameName(d *dossier.Dossier) []Finding {
	var out []Finding
	for n, s := range d.Sources {
		for _, o := range d.Sources[:n] {
			if s.ShownName != "" && strings.EqualFold(s.ShownName, o.ShownName) {
				out = append(out, Finding{Subjects: []dossier.Ref{s.ID.Ref(), o.ID.Ref()},
					Values: map[string]string{"name": s.ShownName, "source": d.FullLabel(s.ID.Ref()), "other": d.FullLabel(o.ID.Ref())}})
			}
		}
	}
	return out
}

// writableShare finds shares that whoever may read may also write.
func writableShare(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, s := range d.Sources {
		if (s.Protocol == dossier.ProtocolSMB || s.Protocol == dossier.ProtocolNFS) && s.Writable == dossier.Yes {
			out = append(out, Finding{Subjects: []dossier.Ref{s.ID.Ref(), s.Device.Ref()}, Values: map[string]string{"source": d.FullLabel(s.ID.Ref())}})
		}
	}
	return out
}

// startsAtLogin finds server software that serves nothing after a power cut.
func startsAtLogin(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, s := range d.Software {
		if s.Does == dossier.SoftwareServer && (s.Starts == dossier.StartsAtLogin || s.Starts == dossier.StartsByHand) {
			out = append(out, Finding{Subjects: []dossier.Ref{s.ID.Ref(), s.Device.Ref()},
				Values: map[string]string{"software": s.Name, "device": d.Label(s.Device.Ref()), "starts": strings.ReplaceAll(string(s.Starts), "-", " ")}})
		}
	}
	return out
}

// titlesMissing finds folders of which the index holds fewer items than lie on the disk.
func titlesMissing(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, f := range d.Folders {
		if f.ItemsInIndex > 0 && f.ItemsInIndex < f.ItemsOnDisk {
			out = append(out, Finding{Subjects: []dossier.Ref{f.ID.Ref(), f.Source.Ref()}, Values: map[string]string{"folder": d.FullLabel(f.ID.Ref()),
				"onDisk": fmt.Sprint(f.ItemsOnDisk), "inIndex": fmt.Sprint(f.ItemsInIndex), "missing": fmt.Sprint(f.ItemsOnDisk - f.ItemsInIndex)}})
		}
	}
	return out
}

// restartOwed finds changes that wait for a restart to take effect.
func restartOwed(d *dossier.Dossier) []Finding {
	var out []Finding
	for _, c := range d.Changes {
		if slices.Contains(c.Owing(), dossier.OwesRestart) {
			out = append(out, Finding{Subjects: []dossier.Ref{c.ID.Ref(), c.Device.Ref()}, Values: map[string]string{"change": c.What, "device": d.Label(c.Device.Ref())}})
		}
	}
	return out
}
