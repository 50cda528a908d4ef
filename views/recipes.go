package views

import (
	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
)

// RecipeSteps says what recipes ask for in a home.
func RecipeSteps(d *dossier.Dossier, steps []proving.RecipeStep) []wire.RecipeStep {
	out := []wire.RecipeStep{}
	for _, s := range steps {
		out = append(out, wire.RecipeStep{Recipe: s.Recipe, At: Named(d, s.Subject), Menu: s.Step.Menu, Setting: s.Step.Setting, Value: s.Step.Value, Why: s.Step.Why, For: s.Step.For,
			Found: s.Found, Set: s.Set, SetAt: s.At})
	}
	return out
}
