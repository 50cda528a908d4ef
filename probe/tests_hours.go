package probe

import (
	"context"
	"errors"
	"fmt"
	"net/netip"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// keptOut asks the server for the restricted folders twice: under the name of the path's device, and as a device it does not know. Only the name
// can be borrowed, not the address: if both are shown the same, the server may recognise its devices in some other way, and a person has to look.
func (v *visit) keptOut(ctx context.Context, t proving.Test) {
	now := time.Now()
	if v.prober.Now != nil {
		now = v.prober.Now()
	}
	x := v.d.Index()
	all := proving.RestrictionsOf(x, t.Kind.Name, v.path)
	var held, free []string // names of the folders that are restricted now, and at other hours
	for _, f := range x.Reached(v.path) {
		of := slices.DeleteFunc(slices.Clone(all), func(r dossier.Restriction) bool {
			return len(r.Contents) > 0 && !slices.Contains(r.Contents, f.ContentKind)
		})
		switch {
		case len(of) == 0:
		case slices.ContainsFunc(of, func(r dossier.Restriction) bool { return r.HoldsAt(now) }):
			held = append(held, f.Name)
		default:
			free = append(free, f.Name)
		}
	}
	if len(held)+len(free) == 0 {
		v.see(dossier.Impossible, "nothing-restricted")
		return
	}
	device, _ := v.d.Devices.Get(v.path.Device)
	asked, ok := v.shownTo(ctx, device.Announces)
	if !ok {
		return
	}
	others, ok := v.shownTo(ctx, "")
	if !ok {
		return
	}
	tells := false // whether the server makes a difference between the two
	for name, n := range others {
		tells = tells || n > 0 && asked[name] == 0
	}
	said := []string{"name", device.Announces, "folders", strings.Join(append(slices.Clone(held), free...), ", ")}
	for _, name := range held {
		switch {
		case others[name] == 0:
			v.see(dossier.Impossible, "shown-to-nobody", append(said, "folder", name)...)
			return
		case asked[name] > 0 && tells:
			v.see(dossier.Fail, "shown-though-restricted", append(said, "folder", name)...)
			return
		case asked[name] > 0:
			v.see(dossier.Impossible, "not-told-apart", append(said, "folder", name)...)
			return
		}
	}
	for _, name := range free {
		if others[name] > 0 && asked[name] == 0 {
			v.see(dossier.Fail, "kept-though-free", append(said, "folder", name)...)
			return
		}
	}
	v.bothHours(t, len(held) > 0, said)
}

// bothHours passes what holds at some hours only when it was seen at both; what was seen at the other kind of hour stands in an earlier attempt on
// the same facts.
func (v *visit) bothHours(t proving.Test, held bool, said []string) {
	mine, other, half := "keptOut", "letIn", dossier.Observed("kept-now")
	if !held {
		mine, other, half = "letIn", "keptOut", "let-in-now"
	}
	v.result.Values[mine] = 1
	if t.Kind.Name == "blocked" {
		v.see(dossier.Pass, "kept-out", said...)
		return
	}
	facts := t.Facts()
	if slices.ContainsFunc(v.d.Attempts, func(a dossier.Attempt) bool {
		return proving.TestID(a.Test, a.Subjects) == t.ID() && a.How == dossier.ByMachine && a.Values[other] == 1 && a.Outcome != dossier.Fail && slices.Equal(a.Facts, facts)
	}) {
		v.see(dossier.Pass, "kept-at-hours", said...)
		return
	}
	v.see(dossier.Impossible, half, said...)
}

// shownTo returns how many objects are in each folder that the source shows to who asks by that name.
func (v *visit) shownTo(ctx context.Context, name string) (map[string]int, bool) {
	_, at, ok := v.directory(ctx)
	if !ok {
		v.result.Outcome = dossier.Impossible // what cannot be asked keeps nobody out
		return nil, false
	}
	client := v.guard.Client()
	if name != "" {
		client.Transport = agent{client.Transport, name}
	}
	root, err := Describe(ctx, client, place(netip.AddrPortFrom(v.d.AddressOf(v.source), uint16(v.source.Port)), v.source.Locator))
	var directory *upnpClient
	if err == nil {
		directory, err = root.directory()
	}
	out := map[string]int{}
	var top listed
	if err == nil {
		top, err = children(ctx, directory, "0")
	}
	for _, o := range top.all {
		if o.container && err == nil {
			var in listed
			in, err = children(ctx, directory, o.id)
			out[o.title] = len(in.all)
		}
	}
	var no *fault
	if err != nil && (name == "" || !errors.As(err, &no)) {
		v.see(dossier.Impossible, replyCode(err), "address", at, "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return nil, false
	}
	return out, true // a device that is refused is shown nothing
}
