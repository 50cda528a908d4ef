// Kaiku-practice is the practice house as a program of its own: kaiku starts it for practice run,
// demo and story. It ends with its standard input, so that it never outlives who started it.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strconv"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"kaiku/practice"
	"kaiku/practice/layout"
)

func main() {
	if err := command(os.Stdin, os.Stdout).Execute(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func command(in io.Reader, out io.Writer) *cobra.Command {
	var faults, houses []string
	c := &cobra.Command{Use: "kaiku-practice", Short: "Simulated houses on loopback, until standard input ends", Long: "Simulated houses on loopback, until standard input ends. Use kaiku practice run, which starts this program.",
		Args: cobra.NoArgs, SilenceUsage: true, SilenceErrors: true}
	c.Flags().StringSliceVar(&houses, "house", []string{layout.KeepersHouse + ":1"}, "`form:octet` of a house; may be repeated. Forms: "+strings.Join(layout.Forms, ", "))
	c.Flags().StringSliceVar(&faults, "fault", nil, "a fault that is on from the start in all of them; may be repeated")
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGTERM)
		defer stop()
		running, err := open(ctx, houses, faults)
		defer func() {
			for _, h := range running {
				h.Stop()
			}
		}()
		if err != nil {
			return err
		}
		if err := json.NewEncoder(out).Encode(told(running)); err != nil {
			return err
		}
		ended := make(chan struct{})
		go func() {
			_, _ = io.Copy(io.Discard, in) // nothing is said to it: what counts is when it ends
			close(ended)
		}()
		select {
		case <-ended:
		case <-ctx.Done():
		}
		return nil
	}
	return c
}

func open(ctx context.Context, houses, faults []string) (running []*practice.House, err error) {
	for _, text := range houses {
		form, octetText, _ := strings.Cut(text, ":")
		octet, err := strconv.ParseUint(octetText, 10, 8)
		if err != nil || octet == 0 || octet > 254 {
			return running, fmt.Errorf("%q is not a house: write form:octet, such as %s:1, with an octet from 1 to 254", text, layout.KeepersHouse)
		}
		h, err := practice.Build(form, byte(octet))
		if err != nil {
			return running, err
		}
		for _, f := range faults {
			err = errors.Join(err, h.Switch(f, true))
		}
		if err == nil {
			err = h.Start(ctx)
		}
		if err != nil {
			return running, err
		}
		running = append(running, h)
	}
	return running, nil
}

// told is what the houses say of themselves once they stand.
func told(running []*practice.House) []layout.Standing {
	var out []layout.Standing
	for _, h := range running {
		s := layout.Standing{Segment: h.Segment, Guest: h.Guest, Notes: h.Notes}
		for _, d := range h.Devices() {
			s.Devices = append(s.Devices, layout.StandingDevice{Address: d.Address, Name: d.Name, Make: strings.TrimSpace(d.Make + " " + d.Model), OnlyWith: d.OnlyWith()})
		}
		out = append(out, s)
	}
	return out
}
