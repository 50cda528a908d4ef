package service

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/core/proving"
	"kaiku/papers"
	"kaiku/views"
	"kaiku/wire"
)

// Recipes lists the firm's recipes.
func (s *Service) Recipes(ctx context.Context, a Actor) ([]knowledge.Recipe, error) {
	if err := a.require("list-recipes", nil, nil); err != nil {
		return nil, err
	}
	all, _, err := s.store.Recipes(ctx)
	if all == nil {
		all = []knowledge.Recipe{}
	}
	return all, err
}

// ImportRecipes adds the recipes of a file; one of the same name takes the place of the older. Either all
// are stored or none.
func (s *Service) ImportRecipes(ctx context.Context, a Actor, body []byte) ([]knowledge.Recipe, error) {
	if err := a.require("import-recipes", nil, nil); err != nil {
		return nil, err
	}
	in, err := papers.ReadRecipes(string(body))
	if err != nil {
		return nil, refuse("recipes-not-readable", "detail", err.Error())
	}
	needs := make([]string, len(proving.Needs))
	for n, need := range proving.Needs {
		needs[n] = need.What
	}
	var faults dossier.Faults
	for n, r := range in {
		for _, f := range r.Check(needs) {
			f.Pointer = "/recipes/" + strconv.Itoa(n) + f.Pointer
			faults = append(faults, f)
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	err = s.store.ChangeRecipes(ctx, a.ID, func(now []knowledge.Recipe) ([]knowledge.Recipe, error) {
		for _, r := range in {
			if i := recipeNamed(now, r.Name); i >= 0 {
				now[i] = r
				continue
			}
			now = append(now, r)
		}
		return now, nil
	})
	if err != nil {
		return nil, err
	}
	return s.Recipes(ctx, a)
}

// ExportRecipes returns the recipes of these names, or all, as a file.
func (s *Service) ExportRecipes(ctx context.Context, a Actor, names []string) ([]byte, error) {
	if err := a.require("export-recipes", nil, nil); err != nil {
		return nil, err
	}
	all, _, err := s.store.Recipes(ctx)
	if err != nil {
		return nil, err
	}
	out := all
	if len(names) > 0 {
		out = nil
		for _, name := range names {
			i := recipeNamed(all, name)
			if i < 0 {
				return nil, refuse("no-such-recipe", "name", name)
			}
			out = append(out, all[i])
		}
	}
	return papers.WriteRecipes(out)
}

// RemoveRecipe removes a recipe. What was set by it in the homes stays.
func (s *Service) RemoveRecipe(ctx context.Context, a Actor, name string) error {
	if err := a.require("remove-recipe", nil, nil); err != nil {
		return err
	}
	return s.store.ChangeRecipes(ctx, a.ID, func(now []knowledge.Recipe) ([]knowledge.Recipe, error) {
		i := recipeNamed(now, name)
		if i < 0 {
			return nil, refuse("no-such-recipe", "name", name)
		}
		return slices.Delete(now, i, i+1), nil
	})
}

func recipeNamed(list []knowledge.Recipe, name string) int {
	return slices.IndexFunc(list, func(r knowledge.Recipe) bool { return strings.EqualFold(r.Name, name) })
}

// RecipeSteps returns what the firm's recipes ask for in a home.
func (s *Service) RecipeSteps(ctx context.Context, a Actor, code string) ([]wire.RecipeStep, error) {
	h, err := s.read(ctx, a, "list-recipe-steps", code)
	if err != nil {
		return nil, err
	}
	return views.RecipeSteps(h.Dossier, h.Steps), nil
}

// SetRecipeStep records that a step of a recipe is set: the setting with the value that it must have,
// confirmed now.
func (s *Service) SetRecipeStep(ctx context.Context, a Actor, code string, in wire.SetRecipeStep, r Request) ([]wire.RecipeStep, error) {
	recipes, _, err := s.store.Recipes(ctx)
	if err != nil {
		return nil, err
	}
	id := dossier.ID[dossier.Setting](newID())
	w, err := s.write(ctx, a, "set-recipe-step", code, "", r, func(d *dossier.Dossier) error {
		steps := proving.NewPlan(d.Index()).RecipeSteps(recipes)
		i := slices.IndexFunc(steps, func(one proving.RecipeStep) bool {
			return strings.EqualFold(one.Recipe, in.Recipe) && strings.EqualFold(one.Step.Setting, in.Setting) && one.Subject == in.Subject
		})
		if i < 0 {
			return refuse("no-such-step", "recipe", in.Recipe, "setting", in.Setting)
		}
		one := steps[i]
		record := dossier.Setting{Subject: one.Subject, Name: one.Step.Setting}
		record.ID = id
		if one.Setting != "" {
			record, _ = d.Settings.Get(one.Setting)
		}
		record.Value, record.MustBe, record.ConfirmedAt = one.Step.Value, one.Step.Value, dossier.At(r.doneAt(s.now()))
		if one.Step.Menu != "" {
			record.Menu = one.Step.Menu
		}
		if one.Step.Why != "" {
			record.Why = one.Step.Why
		}
		d.Settings.Put(record)
		return nil
	})
	if err != nil {
		return nil, err
	}
	h, err := s.assess(ctx, w.Dossier)
	if err != nil {
		return nil, err
	}
	return views.RecipeSteps(h.Dossier, h.Steps), nil
}
