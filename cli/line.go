package cli

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/network"
	"kaiku/probe"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) lineCommands() []*cobra.Command {
	return []*cobra.Command{a.lineMeasureCommand(), a.lineRespondCommand()}
}

func (a *App) lineMeasureCommand() *cobra.Command {
	var responder, tokenFile string
	var within []string
	var dry bool
	c := &cobra.Command{Use: "measure [LINE]", Short: "Measure the speed of an internet line and find out what address the home gets", ValidArgsFunction: a.completeRecords(dossier.KindNamed("line")),
		Long:    "Measures the speed to the firm's responder (kaiku line respond), finds out from which IPv4 and IPv6 addresses the home is seen there, asks the home's gateway for its outer address by IGD, NAT-PMP and PCP, and records all of this for the line.",
		Example: "  kaiku line measure fibre --responder https://line.example.org --token-file ~/line-token --probe-within 10.20.4.0/24",
		RunE: func(cmd *cobra.Command, args []string) error {
			if responder == "" {
				return wrongUse("--responder is missing: the URL of the firm's responder (or KAIKU_LINE_RESPONDER)")
			}
			guard, err := probe.GuardWithin(within)
			if err != nil {
				return wrongUse("--probe-within: %v", err)
			}
			token, err := a.secret(tokenFile, "Token of the responder: ", "--token-file")
			if err != nil {
				return err
			}
			return a.lineMeasure(cmd.Context(), args, responder, token, guard, dry)
		}}
	a.responderFlag(c, &responder)
	a.tokenFileFlag(c, &tokenFile)
	a.withinFlag(c, &within)
	dryFlag(c, &dry)
	return c
}

// responderFlag adds the flag that names the firm's responder.
func (a *App) responderFlag(c *cobra.Command, url *string) {
	c.Flags().StringVar(url, "responder", a.env("KAIKU_LINE_RESPONDER", ""), "URL of the firm's responder (KAIKU_LINE_RESPONDER)")
}

// tokenFileFlag adds the flag that names the file with the responder's token.
func (a *App) tokenFileFlag(c *cobra.Command, file *string) {
	c.Flags().StringVar(file, "token-file", a.env("KAIKU_LINE_TOKEN_FILE", ""), "file with the responder's token, or - for standard input; without it the token is asked for (KAIKU_LINE_TOKEN_FILE)")
}

func (a *App) lineRespondCommand() *cobra.Command {
	var listen, tokenFile string
	c := &cobra.Command{Use: "respond", Short: "Run the firm's responder for line measurements, until Ctrl-C",
		Long:    "Answers kaiku line measure: sends and receives data, says from which address it was called, and calls back at a port of that address. It answers only callers that know the token, four at a time. Run it where it can be reached over both IPv4 and IPv6.",
		Example: "  kaiku line respond --listen 0.0.0.0:7450 --token-file /etc/kaiku/line-token",
		RunE: func(cmd *cobra.Command, _ []string) error {
			token, err := a.secret(tokenFile, "Token: ", "--token-file")
			if err != nil {
				return err
			}
			if len(token) < 16 {
				return wrongUse("the token is too short; it needs at least 16 characters")
			}
			return a.lineRespond(cmd.Context(), listen, token)
		}}
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:7450", "address and port to listen on")
	a.tokenFileFlag(c, &tokenFile)
	return c
}

func (a *App) lineRespond(ctx context.Context, listen, token string) error {
	ctx, stop := signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
	defer stop()
	l, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("listen on %s: %w", listen, err)
	}
	s := &http.Server{Handler: probe.LineResponder(token), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: time.Minute}
	a.say("The responder is listening at http://%s. Press Ctrl-C to stop.", l.Addr())
	failed := make(chan error, 1)
	go func() { failed <- s.Serve(l) }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.Background(), 15*time.Second)
	defer cancel()
	return s.Shutdown(end)
}

func (a *App) lineMeasure(ctx context.Context, args []string, responder, token string, guard probe.Guard, dry bool) error {
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	line, err := a.lineOf(ctx, d, args)
	if err != nil {
		return err
	}
	m, err := probe.MeasureLine(ctx, responder, token, func(what string) { a.note("Measuring %s ...", what) })
	if errors.Is(err, probe.ErrResponder) {
		return fmt.Errorf("%w; check the token and --responder", err)
	}
	if err != nil {
		return err
	}
	a.note("Asking the gateway for its outer address. By PCP that takes a port mapping of ten seconds, which is deleted again ...")
	outer := guard.ForHome(d).OuterAddress(ctx, d)
	changed := line
	changed.DownMbps, changed.UpMbps, changed.MeasuredAt = round(m.DownMbps), round(m.UpMbps), dossier.At(time.Now())
	changed.SeenAddress, changed.SeenAddress6 = m.Seen, m.Seen6
	rows := [][]string{{"down", megabits(m.DownMbps)}, {"up", megabits(m.UpMbps)}, {"IPv4 address seen outside", orNone(m.Seen)}, {"IPv6 address seen outside", orNone(m.Seen6)}}
	for _, o := range outer {
		said := orNone(o.Address)
		if o.Failure != "" {
			said = wording.Plain(o.Failure)
		} else if o.Address.IsValid() {
			changed.OuterAddress = o.Address
		}
		rows = append(rows, []string{"outer address by " + o.By + " in " + o.Segment, said})
	}
	if len(outer) == 0 {
		rows = append(rows, []string{"gateway's outer address", "not asked: this machine is in none of the segments that --probe-within covers"})
	}
	next := d.Clone()
	next.Lines.Put(changed)
	for _, r := range network.Outside(next.Index()) {
		if r.Line == line.ID {
			rows = append(rows, []string{"meaning", wording.Reach(r)})
		}
	}
	if !dry {
		patch := wire.Record{"downMbps": changed.DownMbps, "upMbps": changed.UpMbps, "measuredAt": changed.MeasuredAt}
		for name, at := range map[string]netip.Addr{"outerAddress": changed.OuterAddress, "seenAddress": changed.SeenAddress, "seenAddress6": changed.SeenAddress6} {
			if at.IsValid() {
				patch[name] = at
			}
		}
		if _, err := a.client().Set(ctx, d.Home().Code, dossier.KindNamed("line"), string(line.ID), fmt.Sprintf(`"%d"`, line.Revision), patch); err != nil {
			return err
		}
	}
	return a.show(map[string]any{"line": line.Name, "measured": m, "gateway": outer, "stored": !dry}, []string{"Line " + line.Name, "Result"}, rows)
}

// lineOf is the line that is named, or the home's only one.
func (a *App) lineOf(ctx context.Context, d *dossier.Dossier, args []string) (dossier.Line, error) {
	if len(args) == 0 && len(d.Lines) == 1 {
		return d.Lines[0], nil
	}
	if len(args) == 0 {
		return dossier.Line{}, wrongUse("the home has %s; name one: kaiku line measure LINE", wording.Count(len(d.Lines), "internet line"))
	}
	_, r, err := a.recordNamed(ctx, dossier.KindNamed("line"), args, writing)
	if err != nil {
		return dossier.Line{}, err
	}
	return r.(dossier.Line), nil
}

func orNone(a netip.Addr) string {
	if !a.IsValid() {
		return "none"
	}
	return a.String()
}

func megabits(mbps float64) string {
	if mbps >= 100 {
		return fmt.Sprintf("%.0f Mb/s", mbps)
	}
	return fmt.Sprintf("%.1f Mb/s", mbps)
}

// round keeps two digits behind the point: more would claim too much.
func round(mbps float64) float64 { return float64(int(mbps*100+0.5)) / 100 }
