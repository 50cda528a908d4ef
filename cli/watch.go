package cli

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"os/signal"
	"slices"
	"strconv"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"kaiku/core/proving"
	"kaiku/probe"
	"kaiku/views"
)

// testWatch watches a source from this machine while a person restarts it, wakes it, or copies a sample clip.
func (a *App) testWatch() *cobra.Command {
	var within []string
	c := &cobra.Command{Use: "watch KIND ABOUT", Short: "Watch the server while you carry out a test", Args: cobra.ExactArgs(2), ValidArgsFunction: a.completeTests,
		Long:    "Watches the server from this machine, which must be on the home's network, and says when it goes away, when it answers again, when it is found and when its folders open; for wakes, when it sleeps and when it answers; for sample-appears and removed-disappears, when a sample clip comes into its list and goes out of it. It ends when all has been seen, or after half an hour. Nothing is recorded: look at the screen, then record what you saw with the command that is shown.",
		Example: "  kaiku test watch survives-restart \"kitchen films\" --probe-within 10.20.4.0/24\n  kaiku test watch sample-appears \"kitchen films\" --probe-within 10.20.4.0/24"}
	c.RunE = func(cmd *cobra.Command, args []string) error { return a.watch(cmd.Context(), args[0], args[1], within) }
	a.withinFlag(c, &within)
	return c
}

func (a *App) watch(ctx context.Context, kind, about string, within []string) error {
	guard, err := guard(within)
	if err != nil {
		return err
	}
	what := proving.WatchFor(kind)
	if what == proving.WatchesNothing {
		return wrongUse("there is nothing to watch during %q", kind)
	}
	t, err := a.testNamed(ctx, kind, about, writing)
	if err != nil {
		return err
	}
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	planned, _ := proving.NewPlan(d.Index()).Find(t.ID)
	ctx, stop := signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
	defer stop()
	var seen []proving.Moment
	err = probe.Prober{Guard: guard}.Watch(ctx, d, planned.Path, what, func(m proving.Moment) {
		seen = append(seen, m)
		a.note("%s", views.WatchMoment(what, seen).Sentence)
	})
	if err != nil && !errors.Is(err, context.Canceled) {
		return err
	}
	out := views.WatchSeen(t.ID, what, seen)
	rows := [][]string{}
	var flags strings.Builder
	for _, name := range slices.Sorted(maps.Keys(out.Values)) {
		value := strconv.FormatFloat(out.Values[name], 'f', -1, 64)
		rows = append(rows, []string{name, value})
		flags.WriteString(" --measured " + name + "=" + value)
	}
	if err := a.show(out, []string{"Value", "Seconds"}, rows); err != nil || a.format != "table" {
		return err
	}
	if len(rows) > 0 {
		a.say("\nLook at the screen, then record it:\n  kaiku attempt add %s %q --outcome pass%s", kind, t.About.Label, flags.String())
	}
	return nil
}

// measuredFlag adds the flag for what was measured.
func measuredFlag(c *cobra.Command, values *map[string]float64) {
	c.Flags().Var(valueSet{values}, "measured", "a measured `name=number`, with the unit in its name, such as answersAfterS=48; may be repeated")
}

// valueSet reads name=number.
type valueSet struct{ to *map[string]float64 }

func (v valueSet) String() string { return "" }
func (v valueSet) Type() string   { return "name=number" }
func (v valueSet) Set(s string) error {
	name, text, ok := strings.Cut(s, "=")
	value, err := strconv.ParseFloat(text, 64)
	if !ok || err != nil || name == "" {
		return fmt.Errorf("%q is not a name and a number; write it as answersAfterS=48", s)
	}
	if *v.to == nil {
		*v.to = map[string]float64{}
	}
	(*v.to)[name] = value
	return nil
}
