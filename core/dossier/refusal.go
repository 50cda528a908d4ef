package dossier

import "slices"

// Refusal is a rule's "no" to a step: a code, whose words stand elsewhere, and what they speak of.
type Refusal struct {
	Code   string
	Values map[string]string
}

func (r *Refusal) Error() string { return "refused: " + r.Code }

// Refuse makes a refusal of values, given as name and text in turn.
func Refuse(code string, values ...string) *Refusal {
	r := &Refusal{Code: code, Values: map[string]string{}}
	for i := 0; i+1 < len(values); i += 2 {
		r.Values[values[i]] = values[i+1]
	}
	return r
}

// WrongState is the refusal of a step that the state of a record does not allow.
type WrongState struct {
	Subject Ref
	State   string
	Needed  []string
}

func (w *WrongState) Error() string { return "refused: wrong-state" }

// InState returns a refusal unless the state is one of those needed.
func InState[S ~string](subject Ref, state S, needed []S) error {
	if slices.Contains(needed, state) {
		return nil
	}
	return &WrongState{subject, string(state), words(needed...)}
}

// Needs returns a fault unless there is a value.
func Needs(pointer, value string) error {
	if value == "" {
		return Faults{{Pointer: pointer, Code: FaultRequired}}
	}
	return nil
}
