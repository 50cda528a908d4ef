package views

import (
	"encoding/json"
	"reflect"

	"kaiku/core/dossier"
	"kaiku/wire"
)

// stepsTo returns the changes of records of these kinds that lead from one home to the other. A record in which something differs that
// cannot be changed is removed and added anew.
func stepsTo(before, after *dossier.Dossier, kinds []string) []wire.PreviewStep {
	gone, come := []wire.PreviewStep{}, []wire.PreviewStep{}
	for _, name := range kinds {
		k := dossier.KindNamed(name)
		was, is := k.In(before), k.In(after)
		for i := range was.Len() {
			r := was.At(i)
			remove := wire.PreviewStep{Verb: string(dossier.Remove), Kind: name, ID: r.Key()}
			next, there := is.Lookup(r.Key())
			switch {
			case !there:
				gone = append(gone, remove)
			case !reflect.DeepEqual(r, next):
				members, fixed := differing(k, r, next)
				if !fixed {
					come = append(come, wire.PreviewStep{Verb: string(dossier.Set), Kind: name, ID: r.Key(), Members: members})
					break
				}
				gone = append(gone, remove)
				anew := added(k, next)
				delete(anew.Members, "id") // a record of its own, in place of the one that goes
				come = append(come, anew)
			}
		}
		for i := range is.Len() {
			r := is.At(i)
			if _, there := was.Lookup(r.Key()); !there {
				come = append(come, added(k, r))
			}
		}
	}
	return append(gone, come...)
}

// differing returns the members of a record that are to be others, and whether one of them can only be set in a new record.
func differing(k *dossier.Kind, was, is dossier.Record) (members map[string]any, anew bool) {
	before, after := membersOf(was), membersOf(is)
	members = map[string]any{}
	for _, f := range k.Fields {
		if f.Rule != dossier.Plain && f.Rule != dossier.Fixed || reflect.DeepEqual(before[f.Name], after[f.Name]) {
			continue
		}
		members[f.Name] = after[f.Name] // what is no longer there is null, which clears it
		anew = anew || f.Rule == dossier.Fixed
	}
	return members, anew
}

func added(k *dossier.Kind, r dossier.Record) wire.PreviewStep {
	all, members := membersOf(r), map[string]any{}
	for _, f := range k.Fields {
		if v, there := all[f.Name]; there && (f.Name == "id" || f.Rule == dossier.Plain || f.Rule == dossier.Fixed) {
			members[f.Name] = v
		}
	}
	return wire.PreviewStep{Verb: string(dossier.Add), Kind: k.Name, Members: members}
}

func membersOf(r dossier.Record) map[string]any {
	out := map[string]any{}
	if b, err := json.Marshal(r); err == nil {
		_ = json.Unmarshal(b, &out) // an object: records are
	}
	return out
}
