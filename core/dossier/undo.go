package dossier

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"strings"
)

// Errors of Undo.
var (
	ErrNotUndoable  = errors.New("this is not a plain change to a record")
	ErrChangedSince = errors.New("it was changed again since")
)

// Undo carries out the reverse of a journal entry on d, inside a write: what was added goes, what
// was removed comes back under its id, what was changed has its old values. Members changed by
// other entries since stay; where one of the entry's own differs now, nothing is done and
// ErrChangedSince says so. Only what the general verbs of the kind could do is undone: the rest
// moves by its use-case.
func Undo(d *Dossier, e Entry) error {
	if !e.Undoable() {
		return ErrNotUndoable
	}
	k := KindNamed(e.Subject.Kind)
	now, there := k.In(d).Lookup(e.Subject.ID)
	flat := map[string]json.RawMessage{}
	if there {
		var err error
		if flat, err = flatten(now); err != nil {
			return err
		}
	}
	if there == (e.Act == Removed) || e.Act == Added && len(flat) != len(e.After) {
		return ErrChangedSince
	}
	for p, v := range e.After {
		if !bytes.Equal(flat[p], v) {
			return ErrChangedSince
		}
		delete(flat, p)
	}
	if e.Act == Added {
		k.In(d).remove(e.Subject.ID)
		return nil
	}
	for p, v := range e.Before {
		if _, taken := flat[p]; taken {
			return ErrChangedSince
		}
		flat[p] = v
	}
	record := reflect.New(k.Type)
	if err := json.Unmarshal(unflatten(flat), record.Interface()); err != nil {
		return fmt.Errorf("undo entry %d.%d: %w", e.Revision, e.N, err)
	}
	SetID(record.Interface(), e.Subject.ID)
	k.In(d).PutAny(record.Interface())
	return nil
}

// Undoable reports whether the entry is a plain change, which Undo can reverse as long as what it
// changed was not changed again.
func (e Entry) Undoable() bool {
	k := KindNamed(e.Subject.Kind)
	return k != nil && k.undoes(e)
}

// undoes reports whether the kind has the verb that the reverse of the entry needs, for all its
// members.
func (k *Kind) undoes(e Entry) bool {
	verb := map[Act]Verb{Added: Remove, Removed: Add, Changed: Set}[e.Act]
	if k.Name == "attachment" && e.Act == Removed {
		return true // its body is kept as long as the journal remembers it
	}
	if !k.Allows(verb) {
		return false
	}
	if e.Act != Changed {
		return true
	}
	for _, members := range []map[string]json.RawMessage{e.Before, e.After} {
		for pointer := range members {
			if f, ok := k.Field(strings.SplitN(pointer[1:], "/", 2)[0]); !ok || f.Rule != Plain {
				return false
			}
		}
	}
	return true
}
