package proving

import (
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
)

// RecipeStep is one step of a recipe in a home: for one program or device, and whether it is set.
type RecipeStep struct {
	Recipe  string
	Step    knowledge.Step
	Subject dossier.Ref                 // the program or device
	Device  dossier.ID[dossier.Device]  // that, or what the program runs on
	Setting dossier.ID[dossier.Setting] // the setting that records it, if there is one
	Found   string                      // the value recorded now
	Set     bool                        // the value is as the step says, confirmed, and the device was not reset since
	At      time.Time                   // when it was confirmed
}

// RecipeSteps returns what the firm's recipes ask for in this home, recipe by recipe, each for every
// program or device that it fits.
func (p *Plan) RecipeSteps(recipes []knowledge.Recipe) []RecipeStep {
	var out []RecipeStep
	for _, r := range recipes {
		for _, at := range r.Fits(p.view.Dossier) {
			for _, step := range r.Steps {
				out = append(out, p.recipeStep(RecipeStep{Recipe: r.Name, Step: step, Subject: at, Device: hostOf(p.view.Index, at)}))
			}
		}
	}
	return out
}

func (p *Plan) recipeStep(s RecipeStep) RecipeStep {
	for _, one := range p.view.SettingsOf(s.Subject) {
		if strings.EqualFold(one.Name, s.Step.Setting) {
			s.Setting, s.Found, s.At = one.ID, one.Value, one.ConfirmedAt
		}
	}
	s.Set = strings.EqualFold(s.Found, s.Step.Value) && !s.At.IsZero() && !resetSince(p.view.Index, s.Device, s.At)
	return s
}

// resetSince reports whether a device was reset to its defaults after an instant.
func resetSince(x *dossier.Index, device dossier.ID[dossier.Device], at time.Time) bool {
	for _, c := range x.Changes {
		if c.Device == device && c.Effect == dossier.EffectReset && !c.At.Before(at) {
			return true
		}
	}
	return false
}

// hostOf returns the device that a program runs on, or that a path ends at, or the device itself.
func hostOf(x *dossier.Index, r dossier.Ref) dossier.ID[dossier.Device] {
	if s, ok := x.Software.Get(dossier.ID[dossier.Software](r.ID)); ok {
		return s.Device
	}
	if p, ok := x.Paths.Get(dossier.ID[dossier.Path](r.ID)); ok {
		return p.Device
	}
	return dossier.ID[dossier.Device](r.ID)
}

// stepsFor returns the steps that help to meet a need of a path: those on the server for a need there,
// those on the device for the others.
func stepsFor(x *dossier.Index, steps []RecipeStep, n Need, p dossier.Path) []RecipeStep {
	at := p.Device
	if n.Side == dossier.SideServer {
		_, server := x.ServerOf(p)
		at = server.ID
	}
	var out []RecipeStep
	for _, s := range steps {
		if s.Step.For == n.What && s.Device == at {
			out = append(out, s)
		}
	}
	return out
}
