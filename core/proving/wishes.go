package proving

import (
	"slices"

	"kaiku/core/dossier"
)

// Fulfilment is how far a wish is fulfilled.
type Fulfilment string

// Fulfilments, those that ask for work first. A wish that failed has a path on which a required test
// failed; one that is unproven has a path of which not everything was ever proven.
const (
	NotServed     Fulfilment = "not-served"
	WishFailed    Fulfilment = "failed"
	WishInDoubt   Fulfilment = "in-doubt"
	WishUnproven  Fulfilment = "unproven"
	WishFulfilled Fulfilment = "proven"
)

// Values lists the fulfilments.
func (Fulfilment) Values() []string {
	return []string{string(NotServed), string(WishFailed), string(WishInDoubt), string(WishUnproven), string(WishFulfilled)}
}

// WishPlace is how far a wish is fulfilled in one room, or on one carried device. Neither is set for
// the home as a whole. Paths are those that serve it there; Open how many of their required tests
// are not proven.
type WishPlace struct {
	Room   dossier.ID[dossier.Room]
	Device dossier.ID[dossier.Device]
	Status Fulfilment
	Paths  []dossier.ID[dossier.Path]
	Open   int
}

// WishStatus is how far a wish is fulfilled: as far as in the place where it is least.
type WishStatus struct {
	Wish   dossier.ID[dossier.Wish]
	Needed bool
	Status Fulfilment
	Places []WishPlace
}

// Missing returns the places where nothing serves the wish.
func (w WishStatus) Missing() []WishPlace {
	return slices.DeleteFunc(slices.Clone(w.Places), func(p WishPlace) bool { return p.Status != NotServed })
}

// Wishes returns how far each wish is fulfilled, place by place. A wish for the whole home is asked
// for in every room that already has it; where none has, for the home.
func Wishes(x *dossier.Index, statuses []TestStatus) []WishStatus {
	w := wishing{x, map[dossier.ID[dossier.Path]][]*TestStatus{}}
	for i := range statuses {
		s := &statuses[i]
		if s.Test.Required && s.Test.Kind.About != AboutSet {
			w.tests[s.Test.Path] = append(w.tests[s.Test.Path], s)
		}
	}
	var out []WishStatus
	for _, one := range x.Wishes {
		out = append(out, w.status(one))
	}
	return out
}

type wishing struct {
	*dossier.Index
	tests map[dossier.ID[dossier.Path]][]*TestStatus
}

func (w wishing) status(one dossier.Wish) WishStatus {
	out := WishStatus{Wish: one.ID, Needed: one.Need != dossier.Welcome}
	var serving []dossier.Path
	for _, p := range w.InUse {
		device, _ := w.Devices.Get(p.Device)
		if For(one, device) && w.serves(p, one) {
			serving = append(serving, p)
		}
	}
	switch {
	case one.Device != "":
		out.Places = []WishPlace{w.place(one, WishPlace{Device: one.Device}, serving)}
	case one.Room != "":
		out.Places = []WishPlace{w.place(one, WishPlace{Room: one.Room}, serving)}
	default:
		for _, p := range serving {
			at := w.where(p)
			if !slices.ContainsFunc(out.Places, func(o WishPlace) bool { return o.Room == at.Room && o.Device == at.Device }) {
				there := slices.DeleteFunc(slices.Clone(serving), func(o dossier.Path) bool { return w.where(o).Room != at.Room || w.where(o).Device != at.Device })
				out.Places = append(out.Places, w.place(one, at, there))
			}
		}
		if len(out.Places) == 0 {
			out.Places = []WishPlace{w.place(one, WishPlace{}, nil)}
		}
	}
	if one.What == dossier.WishResumeAcrossRooms && one.Room == "" && one.Device == "" && len(out.Places) < 2 {
		out.Places = []WishPlace{w.place(one, WishPlace{}, nil)} // going on elsewhere takes two places
	}
	rank := Fulfilment("").Values()
	out.Status = WishFulfilled
	for _, p := range out.Places {
		if slices.Index(rank, string(p.Status)) < slices.Index(rank, string(out.Status)) {
			out.Status = p.Status
		}
	}
	return out
}

// where returns the place of a path's device: its room, or itself where it is carried or in none.
func (w wishing) where(p dossier.Path) WishPlace {
	device, _ := w.Devices.Get(p.Device)
	if device.Carried || device.Room == "" {
		return WishPlace{Device: device.ID}
	}
	return WishPlace{Room: device.Room}
}

// serves reports whether the path is one for the wish. A device that the server keeps out is served
// nothing.
func (w wishing) serves(p dossier.Path, one dossier.Wish) bool {
	source, server := w.ServerOf(p)
	if e, known := w.Register(p.Device, server.ID); known && e.Admission == dossier.KeptOut {
		return false
	}
	switch one.What {
	case dossier.WishResumeAcrossRooms:
		return brings(w.Index, p, resumed)
	case dossier.WishOutsideViewing:
		return source.OutsidePort != 0
	}
	return slices.Contains(w.Brings(p), dossier.ContentKind(one.What))
}

// place says how far the wish is fulfilled at a place by the best of the paths that serve it there.
func (w wishing) place(one dossier.Wish, at WishPlace, serving []dossier.Path) WishPlace {
	at.Status = NotServed
	rank := Fulfilment("").Values()
	best := -1
	for _, p := range serving {
		at.Paths = append(at.Paths, p.ID)
		status, open := w.ofPath(one, p)
		if n := slices.Index(rank, string(status)); n > best {
			best, at.Status, at.Open = n, status, open
		}
	}
	return at
}

// ofPath says how far a path proves the wish: proven only while all its required tests are, and, for
// what a test of its own proves, that test among them.
func (w wishing) ofPath(one dossier.Wish, p dossier.Path) (Fulfilment, int) {
	own := map[dossier.WishKind]string{dossier.WishResumeAcrossRooms: "resumes-elsewhere", dossier.WishOutsideViewing: "outside"}[one.What]
	asked, failed, doubt, open := own == "", false, false, 0
	for _, s := range w.tests[p.ID] {
		asked = asked || s.Test.Kind.Name == own
		failed = failed || s.Status == Failed
		doubt = doubt || s.Status == InDoubt || s.Status == Stale
		if s.Status != Proven {
			open++
		}
	}
	switch {
	case failed:
		return WishFailed, open
	case doubt:
		return WishInDoubt, open
	case open > 0 || !asked || len(w.tests[p.ID]) == 0:
		return WishUnproven, open
	}
	return WishFulfilled, 0
}
