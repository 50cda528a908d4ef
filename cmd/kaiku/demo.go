package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"kaiku/cli"
	"kaiku/demo"
	"kaiku/practice/layout"
	"kaiku/service"
	"kaiku/store"
)

func demoCommand(a *cli.App) *cobra.Command {
	var listen string
	var codes []string
	c := &cobra.Command{Use: "demo", Short: "Run the demo firm and its practice house, until Ctrl-C", Example: "  kaiku demo\n  kaiku demo --listen 127.0.0.1:8090", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		ctx, stop := untilSignal(cmd.Context())
		defer stop()
		for _, code := range codes {
			if !slices.Contains(demo.Codes, code) {
				return fmt.Errorf("the demo has no home %s; it has %s", code, strings.Join(demo.Codes, ", "))
			}
		}
		fmt.Fprintln(a.Err, "Building the demo firm and carrying out what is proven in it, on simulated devices. This takes about ten seconds.")
		d, err := startDemo(ctx, listen, 1, codes, a.Err)
		if err != nil {
			return err
		}
		defer d.remove()
		d.welcome(a.Out)
		return d.untilStopped(ctx)
	}}
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:7440", "`address:port` to listen on")
	c.Flags().StringSliceVar(&codes, "home", nil, "`code` of a home to build, all if not given; may be repeated")
	return c
}

// demoRun is a service on a throw-away data folder beside a practice house.
type demoRun struct {
	*running
	houses *layout.Running
	dir    string
	codes  []string // of its homes; all if none is named
}

func startDemo(ctx context.Context, listen string, octet byte, codes []string, errs io.Writer) (*demoRun, error) {
	dir, err := os.MkdirTemp("", "kaiku-demo-")
	if err != nil {
		return nil, err
	}
	d := &demoRun{dir: dir, codes: codes}
	if d.houses, err = layout.Run(ctx, nil, demo.Houses(octet, codes...)...); err != nil {
		return nil, errors.Join(fmt.Errorf("%w. Is another demo running? Stop it with Ctrl-C first", err), os.RemoveAll(dir))
	}
	if err := fill(ctx, dir, func(ctx context.Context, s *service.Service, clock *demo.Clock) error {
		return demo.Fill(ctx, s, clock, octet, codes...)
	}); err != nil {
		d.remove()
		return nil, err
	}
	d.running, err = start(ctx, settings{tried: true, data: dir, listen: listen, onSite: true, within: []string{"127.0.0.0/8"}}, errs)
	if err != nil {
		d.remove()
		return nil, err
	}
	return d, nil
}

// fill builds homes on the demo's own clock.
func fill(ctx context.Context, dir string, build func(context.Context, *service.Service, *demo.Clock) error) error {
	clock := demo.NewClock(time.Now())
	st, err := store.Open(ctx, dir, store.Options{Now: clock.Now})
	if err != nil {
		return err
	}
	err = build(ctx, service.New(st, service.Options{Now: clock.Now}), clock)
	return errors.Join(err, st.Close())
}

func (d *demoRun) remove() {
	_ = d.houses.Stop()     // nothing is kept there
	_ = os.RemoveAll(d.dir) // throw-away
}

func (d *demoRun) welcome(w io.Writer) {
	fmt.Fprintf(w, `
Kaiku is running with the demo firm, Hallakka Home Media, at %s

  Log-in    Who               Role           (password for everyone: %s)
`, d.address, demo.Password)
	for _, p := range demo.Firm {
		fmt.Fprintf(w, "  %-8s  %-16s  %s\n", p.Login, p.Name, p.Role)
	}
	fmt.Fprintf(w, `
Homes whose devices are simulated on this machine: %s.

Things to try:
  1. Log in as maarit and open the offered handover: read back each point, then accept it.
  2. Under Devices, Seen on the network: scan the network and record what is certain.
  3. Under Proving: run the automatic tests against the simulated devices.
  4. Under Devices: change an address of the granite server and see which tests go stale.

On the command line, in another terminal:
  export KAIKU_URL=%s KAIKU_HOUSEHOLD=H-0001 KAIKU_PROBE_WITHIN=127.0.0.0/8
  echo %s | bin/kaiku login petri
  bin/kaiku test list
  bin/kaiku finding list
  bin/kaiku practice fault on folders-hang
  bin/kaiku scan run

Press Ctrl-C to stop. Nothing is kept.
`, strings.Join(demo.Living(1, d.codes...), ", "), d.address, demo.Password)
	for _, h := range d.houses.Houses {
		for _, n := range h.Notes {
			fmt.Fprintf(w, "%s\n", n)
		}
	}
}
