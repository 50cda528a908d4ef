package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"os/signal"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"kaiku/practice/layout"
	"kaiku/wording"
)

func (a *App) practiceCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List the faults and which of them are on", Example: "  kaiku practice fault list"}
	octet := octetFlag(list)
	list.RunE = func(cmd *cobra.Command, _ []string) error { return a.listFaults(cmd.Context(), *octet) }
	fault := group("fault", "Faults that can be switched on in the practice house", nil, list, a.faultSwitch("on", "Switch faults on"), a.faultSwitch("off", "Switch faults off"))
	own := octetFlag(fault)
	fault.RunE = func(cmd *cobra.Command, _ []string) error { return a.listFaults(cmd.Context(), *own) }
	return group("practice", "The practice house: a simulated home to try things on", fault.RunE, a.practiceRun(), fault, a.practiceSample())
}

// octetFlag adds the flag that says which practice house is meant.
func octetFlag(c *cobra.Command) *uint8 {
	return c.Flags().Uint8("octet", 1, "third octet of the house's addresses; several houses can run side by side")
}

func (a *App) practiceRun() *cobra.Command {
	var faults []string
	c := &cobra.Command{Use: "run", Short: "Run the practice house on this machine, until Ctrl-C", Example: "  kaiku practice run --fault folders-hang"}
	octet := octetFlag(c)
	c.Flags().StringSliceVar(&faults, "fault", nil, "a fault that is on from the start; may be repeated")
	_ = c.RegisterFlagCompletionFunc("fault", cobra.FixedCompletions(faultNames(), cobra.ShellCompDirectiveNoFileComp))
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
		defer stop()
		for _, f := range faults {
			if _, err := layout.FaultNamed(f); err != nil {
				return errUse{fmt.Errorf("%w; kaiku practice fault lists them", err)}
			}
		}
		running, err := layout.Run(ctx, faults, fmt.Sprintf("%s:%d", layout.KeepersHouse, *octet))
		if err != nil {
			return err
		}
		h := running.Houses[0]
		rows := [][]string{}
		for _, d := range h.Devices {
			at := d.Address.String()
			if d.Address.Port() == 0 {
				at = d.Address.Addr().String()
			}
			rows = append(rows, []string{at, d.Name, d.Make, d.OnlyWith})
		}
		if err := a.show(rows, []string{"Address", "Device", "Make", "Only with the fault"}, rows); err != nil {
			return errors.Join(err, running.Stop())
		}
		for _, n := range h.Notes {
			a.note("%s", n)
		}
		a.note("\nThe practice house is running in %s and %s. kaiku practice fault switches faults. Press Ctrl-C to stop.", h.Segment, h.Guest)
		<-ctx.Done()
		return running.Stop()
	}
	return c
}

func faultNames() []cobra.Completion {
	var names []cobra.Completion
	for _, f := range layout.Faults {
		names = append(names, cobra.CompletionWithDesc(f.Name, f.Says))
	}
	return names
}

func (a *App) faultSwitch(state, short string) *cobra.Command {
	c := &cobra.Command{Use: state + " FAULT...", Short: short, Example: "  kaiku practice fault " + state + " folders-hang", ValidArgsFunction: cobra.FixedCompletions(faultNames(), cobra.ShellCompDirectiveNoFileComp)}
	octet := octetFlag(c)
	c.RunE = func(cmd *cobra.Command, args []string) error {
		for _, name := range args {
			if _, err := askHouse(cmd.Context(), *octet, http.MethodPut, "/faults/"+name+"/"+state); err != nil {
				return err
			}
			a.say("The fault %s is %s.", name, state)
		}
		return nil
	}
	return c
}

// practiceSample puts a sample clip into a folder of the house's server, or takes it out, as somebody with a memory stick would.
func (a *App) practiceSample() *cobra.Command {
	var take bool
	c := &cobra.Command{Use: "sample [FOLDER]", Short: "Put a sample clip into a folder of the practice house's server, or take it out", Args: cobra.MaximumNArgs(1), Example: "  kaiku practice sample Films\n  kaiku practice sample Films --away"}
	octet := octetFlag(c)
	c.RunE = func(cmd *cobra.Command, args []string) error {
		folder, state, done := "Films", "there", "The sample clip is in %s."
		if len(args) > 0 {
			folder = args[0]
		}
		if take {
			state, done = "away", "The sample clip is no longer in %s."
		}
		if _, err := askHouse(cmd.Context(), *octet, http.MethodPut, "/samples/"+url.PathEscape(folder)+"/"+state); err != nil {
			return err
		}
		a.say(done, folder)
		return nil
	}
	c.Flags().BoolVar(&take, "away", false, "take it out")
	return c
}

func (a *App) listFaults(ctx context.Context, octet uint8) error {
	states := []layout.FaultState{}
	body, err := askHouse(ctx, octet, http.MethodGet, "/faults")
	running := err == nil
	if running {
		err = json.Unmarshal(body, &states)
	} else {
		for _, f := range layout.Faults {
			states = append(states, layout.FaultState{Name: f.Name, Says: f.Says, Tests: f.Tests})
		}
		err = nil
	}
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, f := range states {
		on := "off"
		if f.On {
			on = "on"
		}
		rows = append(rows, []string{on, f.Name, f.Says, strings.Join(f.Tests, ", ")})
	}
	if err := a.show(states, []string{"State", "Fault", "What is wrong", "Tests"}, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("\n%s.", wording.Count(len(states), "fault"))
	if !running {
		a.say("No practice house is running with octet %d. Start one with kaiku practice run or kaiku demo.", octet)
	}
	return nil
}

// askHouse asks the running practice house in that octet.
func askHouse(ctx context.Context, octet uint8, method, path string) ([]byte, error) {
	body, err := layout.Ask(ctx, octet, method, path, nil)
	switch {
	case errors.Is(err, layout.ErrNoHouse):
		err = fmt.Errorf("%w; start one with kaiku practice run or kaiku demo", err)
	case err != nil:
		err = fmt.Errorf("%w; kaiku practice fault lists them", err)
	}
	return body, err
}
