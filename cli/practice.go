package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os/signal"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"kaiku/practice"
	"kaiku/wording"
)

func (a *App) practiceCommand() *cobra.Command {
	var octet uint8
	var faults []string
	house := func(c *cobra.Command) *cobra.Command {
		c.Flags().Uint8Var(&octet, "octet", 1, "third octet of the house's addresses; several houses can stand side by side")
		return c
	}
	run := house(&cobra.Command{Use: "run", Short: "Run the practice house on loopback until Ctrl-C", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
		defer stop()
		h := practice.New(octet)
		for _, f := range faults {
			if err := h.Switch(f, true); err != nil {
				return errUse{err}
			}
		}
		if err := h.Start(ctx); err != nil {
			return err
		}
		defer h.Stop()
		rows := [][]string{}
		for _, d := range h.Devices() {
			at := d.Address.String()
			if d.Address.Port() == 0 {
				at = d.Address.Addr().String()
			}
			rows = append(rows, []string{at, d.Name, strings.TrimSpace(d.Make + " " + d.Model), d.OnlyWith()})
		}
		if err := a.show(rows, []string{"Address", "Device", "Make", "Only with"}, rows); err != nil {
			return err
		}
		for _, n := range h.Notes {
			a.note("%s", n)
		}
		a.say("\nThe practice house stands in %s and %s. Faults: kaiku practice fault. Ctrl-C ends it.", h.Segment, h.Guest)
		<-ctx.Done()
		return nil
	}})
	run.Flags().StringSliceVar(&faults, "fault", nil, "a fault that is on from the start; may be given several times")
	list := house(&cobra.Command{Use: "list", Short: "The faults, what they show, and which are on in the running house", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		return a.listFaults(cmd.Context(), octet)
	}})
	var names []cobra.Completion
	for _, f := range practice.Faults {
		names = append(names, cobra.CompletionWithDesc(f.Name, f.Says))
	}
	toggle := func(state, short string) *cobra.Command {
		return house(&cobra.Command{Use: state + " FAULT...", Short: short, Args: cobra.MinimumNArgs(1), ValidArgsFunction: cobra.FixedCompletions(names, cobra.ShellCompDirectiveNoFileComp),
			RunE: func(cmd *cobra.Command, args []string) error {
				for _, name := range args {
					if _, err := askHouse(cmd.Context(), octet, http.MethodPut, "/faults/"+name+"/"+state); err != nil {
						return err
					}
					a.say("%s is %s.", name, state)
				}
				return nil
			}})
	}
	fault := group("fault", "Faults of the practice house", list.RunE, list, toggle("on", "Switch faults on in the running house"), toggle("off", "Switch faults off"))
	return group("practice", "The practice house", func(cmd *cobra.Command, _ []string) error { return cmd.Help() }, run, house(fault))
}

func (a *App) listFaults(ctx context.Context, octet uint8) error {
	states := []practice.FaultState{}
	body, err := askHouse(ctx, octet, http.MethodGet, "/faults")
	running := err == nil
	if running {
		err = json.Unmarshal(body, &states)
	} else {
		for _, f := range practice.Faults {
			states = append(states, practice.FaultState{Name: f.Name, Says: f.Says, Tests: f.Tests})
		}
		err = nil
	}
	if err != nil {
		return err
	}
	rows := [][]string{}
	for _, f := range states {
		on := ""
		if f.On {
			on = "on"
		}
		rows = append(rows, []string{on, f.Name, f.Says, strings.Join(f.Tests, ", ")})
	}
	if err := a.show(states, []string{"", "Fault", "What is wrong", "Tests"}, rows); err != nil || a.format != "table" {
		return err
	}
	a.say("\n%s.", wording.Count(len(states), "fault"))
	if !running {
		a.say("No practice house runs in octet %d: kaiku practice run, or kaiku demo.", octet)
	}
	return nil
}

// mostHouse bounds what is read of the house's answer.
const mostHouse = 1 << 20

// askHouse asks the running practice house in that octet.
func askHouse(ctx context.Context, octet uint8, method, path string) ([]byte, error) {
	r, err := http.NewRequestWithContext(ctx, method, "http://"+practice.ControlAddress(octet).String()+path, nil)
	if err != nil {
		return nil, err
	}
	resp, err := (&http.Client{Transport: &http.Transport{DisableKeepAlives: true}}).Do(r)
	if err != nil {
		return nil, fmt.Errorf("no practice house runs in octet %d; start it with kaiku practice run or kaiku demo", octet)
	}
	defer resp.Body.Close()
	body, err := io.ReadAll(io.LimitReader(resp.Body, mostHouse))
	if err == nil && resp.StatusCode != http.StatusOK {
		err = errors.New(strings.TrimSpace(string(body)) + "; kaiku practice fault lists them")
	}
	return body, err
}
