package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) recipeCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List the firm's recipes", Example: "  kaiku recipe list", RunE: func(cmd *cobra.Command, _ []string) error {
		all, err := a.client().Recipes(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, r := range all {
			rows = append(rows, []string{r.Name, recipeFor(r), wording.Count(len(r.Steps), "step")})
		}
		return a.show(all, []string{"Recipe", "For", "Steps"}, rows)
	}}
	show := &cobra.Command{Use: "show RECIPE", Short: "Show the steps of a recipe", Example: "  kaiku recipe show \"Ahtola on a server\"", ValidArgsFunction: a.completeRecipes, RunE: func(cmd *cobra.Command, args []string) error {
		all, err := a.client().Recipes(cmd.Context())
		if err != nil {
			return err
		}
		for _, r := range all {
			if strings.EqualFold(r.Name, args[0]) {
				rows := [][]string{}
				for n, s := range r.Steps {
					rows = append(rows, []string{fmt.Sprint(n + 1), s.Menu, s.Setting, s.Value, s.Why, s.For})
				}
				return a.show(r, []string{"", "Menu", "Setting", "Value", "Reason", "For"}, rows)
			}
		}
		return fmt.Errorf("no recipe is called %q; kaiku recipe list shows them all", args[0])
	}}
	take := &cobra.Command{Use: "import FILE", Short: "Add the recipes of a file, or replace those of the same name (lead technician, coordinator)", Example: "  kaiku recipe import recipes.yaml\n  cat recipes.yaml | kaiku recipe import -",
		Long: "Reads recipes from a YAML or JSON file of the form kaiku-recipes/1, or from standard input for \"-\". All are stored, or none.", RunE: func(cmd *cobra.Command, args []string) error {
			body, err := a.document(args[0])
			if err != nil {
				return fmt.Errorf("read the file: %w", err)
			}
			all, err := a.client().ImportRecipes(cmd.Context(), body)
			if err != nil {
				return err
			}
			return a.done(all, "Stored. The firm now has %s.", wording.Count(len(all), "recipe"))
		}}
	give := &cobra.Command{Use: "export [RECIPE ...]", Short: "Export recipes as a YAML file", Example: "  kaiku recipe export > recipes.yaml\n  kaiku recipe export \"Ahtola on a server\"", Args: cobra.ArbitraryArgs, ValidArgsFunction: a.completeRecipes, RunE: func(cmd *cobra.Command, args []string) error {
		body, err := a.client().ExportRecipes(cmd.Context(), args)
		if err != nil {
			return err
		}
		return a.print(body)
	}}
	remove := &cobra.Command{Use: "remove RECIPE", Short: "Remove a recipe (lead technician, coordinator)", Long: "Removes a recipe. The settings that were recorded by its steps stay.", Example: "  kaiku recipe remove \"Ahtola on a server\" --yes", ValidArgsFunction: a.completeRecipes, RunE: func(cmd *cobra.Command, args []string) error {
		if err := a.confirm("The recipe is removed for the whole firm.", "Remove it?"); err != nil {
			return err
		}
		if err := a.client().RemoveRecipe(cmd.Context(), args[0]); err != nil {
			return err
		}
		return a.done(args[0], "Removed the recipe %s.", args[0])
	}}
	a.yesFlag(remove)
	return group("recipe", "The firm's steps for programs and device models", list.RunE, list, show, take, give, remove, a.recipeSteps(), a.recipeTick())
}

func recipeFor(r knowledge.Recipe) string {
	if r.Software != "" {
		return "program " + r.Software
	}
	return strings.TrimSpace("device " + r.Make + " " + r.Model)
}

func (a *App) completeRecipes(cmd *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
	all, err := a.client().Recipes(cmd.Context())
	var out []cobra.Completion
	for _, r := range all {
		if err == nil && strings.HasPrefix(strings.ToLower(r.Name), strings.ToLower(typed)) {
			out = append(out, r.Name)
		}
	}
	return out, cobra.ShellCompDirectiveNoFileComp
}

func (a *App) recipeSteps() *cobra.Command {
	c := &cobra.Command{Use: "steps", Short: "List what the firm's recipes ask for in a household", Example: "  kaiku recipe steps -H H-0001\n  kaiku recipe steps --check", RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		steps, err := a.client().RecipeSteps(cmd.Context(), code)
		if err != nil {
			return err
		}
		for _, s := range steps {
			a.found(!s.Set)
		}
		return a.show(steps, []string{"Recipe", "On", "Menu", "Setting", "Value", "State"}, stepRows(steps))
	}}
	a.checkFlag(c, "a step is not set")
	return c
}

func stepRows(steps []wire.RecipeStep) [][]string {
	rows := [][]string{}
	for _, s := range steps {
		rows = append(rows, []string{s.Recipe, s.At.Kind + "/" + s.At.Label, s.Menu, s.Setting, s.Value, stepState(s)})
	}
	return rows
}

// stepState says where a step stands.
func stepState(s wire.RecipeStep) string {
	switch {
	case s.Set:
		return "set on " + s.SetAt.Local().Format("2 Jan 2006")
	case s.Found == "":
		return "to do"
	case !strings.EqualFold(s.Found, s.Value):
		return "is set to " + s.Found
	}
	return "to be confirmed"
}

func (a *App) recipeTick() *cobra.Command {
	var where string
	c := &cobra.Command{Use: "tick RECIPE SETTING", Short: "Record that a step of a recipe is set", Example: "  kaiku recipe tick \"Ahtola on a server\" \"Start with the machine\"", ValidArgsFunction: a.completeRecipes,
		Long: "Records the setting with the value that the step says, confirmed now. Where the recipe fits several programs or devices, --where says which.", RunE: func(cmd *cobra.Command, args []string) error {
			d, err := a.home(cmd.Context())
			if err != nil {
				return err
			}
			at, err := a.stepAt(cmd, d, args[0], args[1], where)
			if err != nil {
				return err
			}
			steps, err := a.client().SetRecipeStep(cmd.Context(), a.household, wire.SetRecipeStep{Recipe: args[0], Setting: args[1], Subject: at})
			if err != nil {
				return err
			}
			return a.done(steps, "Set: %s on %s.", args[1], d.FullLabel(at))
		}}
	whereFlag(c, &where)
	return c
}

// stepAt finds what a step is set on: the record given, or the only one that the recipe fits.
func (a *App) stepAt(cmd *cobra.Command, d *dossier.Dossier, recipe, setting, where string) (dossier.Ref, error) {
	if where != "" {
		return findRef(d, where, writing)
	}
	steps, err := a.client().RecipeSteps(cmd.Context(), a.household)
	if err != nil {
		return dossier.Ref{}, err
	}
	var places []wire.Named
	for _, s := range steps {
		if strings.EqualFold(s.Recipe, recipe) && strings.EqualFold(s.Setting, setting) {
			places = append(places, s.At)
		}
	}
	switch len(places) {
	case 1:
		return places[0].Ref, nil
	case 0:
		return dossier.Ref{}, fmt.Errorf("no recipe %q asks for %q in this home; kaiku recipe steps shows what the recipes ask for", recipe, setting)
	}
	var names []string
	for _, p := range places {
		names = append(names, p.Kind+"/"+p.Label)
	}
	return dossier.Ref{}, wrongUse("%s fits %s; choose one with --where", recipe, strings.Join(names, " and "))
}

var pathKind = dossier.KindNamed("path")

// pathCard shows what to key in on the device of a path.
func (a *App) pathCard() *cobra.Command {
	return &cobra.Command{Use: "card PATH", Short: "Show what to key in on the device of a path", Example: "  kaiku path card \"lamp room films\"", ValidArgsFunction: a.completeRecords(pathKind),
		Long: "Lists what has to be chosen or keyed in on the device, in the order of work. Passwords are named, not shown: kaiku secret reveal shows one, kaiku segment wifi-code a Wi-Fi network as a code to scan.", RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), pathKind, args, reading)
			if err != nil {
				return err
			}
			card, err := a.client().EntryCard(cmd.Context(), a.household, r.Key())
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, l := range card.Lines {
				value := l.Value
				switch {
				case l.Secret.ID != "":
					value = "secret: " + l.Secret.Label
				case !l.Known:
					value = "not recorded"
				case len(l.Others) > 0:
					value += " (or " + strings.Join(l.Others, ", ") + ")"
				}
				if l.Entered != "" {
					value += "; entered now: " + l.Entered
				}
				rows = append(rows, []string{l.Title, value})
			}
			for _, s := range card.Steps {
				rows = append(rows, []string{strings.TrimPrefix(s.Menu+": "+s.Setting, ": "), s.Value + " (" + stepState(s) + ")"})
			}
			if a.format == "table" {
				a.say("%s, for %s\n", card.Device.Label, card.Path.Label)
			}
			return a.show(card, []string{"On the device", "Enter"}, rows)
		}}
}

var segmentKind = dossier.KindNamed("segment")

// wifiCode shows a Wi-Fi network with its password as a code to scan.
func (a *App) wifiCode() *cobra.Command {
	var why string
	c := &cobra.Command{Use: "wifi-code SEGMENT", Short: "Show the Wi-Fi network of a segment as a code to scan; the reason stays in the journal", Example: "  kaiku segment wifi-code home --why \"setting up the kitchen screen\"", ValidArgsFunction: a.completeRecords(segmentKind),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), segmentKind, args, writing)
			if err != nil {
				return err
			}
			code, err := a.client().WiFiCode(cmd.Context(), a.household, r.Key(), why)
			if err != nil {
				return err
			}
			if a.format != "table" {
				return a.done(code, "%s", code.SSID)
			}
			for _, line := range qrLines(code.QR) {
				a.say("%s", line)
			}
			a.say("Wi-Fi network: %s", code.SSID)
			if code.Caution {
				a.say("The name or the password contains characters that some cameras misread. If the code does not work, type them in.")
			}
			return nil
		}}
	whyFlag(c, &why)
	required(c, "why")
	return c
}

// qrLines writes a QR code for a dark terminal, two of its rows to a line.
func qrLines(qr []string) []string {
	var out []string
	for y := 0; y < len(qr); y += 2 {
		var line strings.Builder
		for x := range qr[y] {
			top, bottom := qr[y][x] == '0', y+1 >= len(qr) || qr[y+1][x] == '0'
			line.WriteString(map[[2]bool]string{{true, true}: "█", {true, false}: "▀", {false, true}: "▄", {false, false}: " "}[[2]bool{top, bottom}])
		}
		out = append(out, line.String())
	}
	return out
}
