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
	var responder, token string
	var within []string
	var dry bool
	measure := &cobra.Command{Use: "measure [LINE]", Short: "Measure the internet line, and what address the home gets", Args: cobra.MaximumNArgs(1), ValidArgsFunction: a.completeRecords(dossier.KindNamed("line")),
		Long: "Measures throughput to the firm's responder (kaiku line respond), learns from which IPv4 and IPv6 address the home is seen there, asks the home's own gateway for its outer address by IGD, NAT-PMP and PCP, and stores all of it with the line.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if responder == "" {
				return wrongUse("say where the firm's responder is: --responder https://... (KAIKU_LINE_RESPONDER)")
			}
			guard, err := probe.GuardWithin(within)
			if err != nil {
				return wrongUse("%v", err)
			}
			return a.lineMeasure(cmd.Context(), args, responder, token, guard, dry)
		}}
	measure.Flags().StringVar(&responder, "responder", a.env("KAIKU_LINE_RESPONDER", ""), "where the firm's responder is (KAIKU_LINE_RESPONDER)")
	measure.Flags().StringVar(&token, "token", a.env("KAIKU_LINE_TOKEN", ""), "the responder's token (KAIKU_LINE_TOKEN)")
	measure.Flags().StringSliceVar(&within, "probe-within", splitList(a.env("KAIKU_PROBE_WITHIN", "")), "prefixes in which the gateway may be asked, such as 10.20.4.0/24 (KAIKU_PROBE_WITHIN)")
	measure.Flags().BoolVar(&dry, "dry", false, "store nothing")
	var listen string
	respond := &cobra.Command{Use: "respond", Short: "Be the firm's responder for measurements of lines, until Ctrl-C", Args: cobra.NoArgs,
		Long: "Answers kaiku line measure from homes: sends, takes, and says from which address it is called. It answers only who knows the token, four at a time. Put it where both IPv4 and IPv6 reach it.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if len(token) < 16 {
				return wrongUse("give a token of at least 16 characters: --token (KAIKU_LINE_TOKEN)")
			}
			return a.lineRespond(cmd.Context(), listen, token)
		}}
	respond.Flags().StringVar(&listen, "listen", "127.0.0.1:7450", "address and port to listen on")
	respond.Flags().StringVar(&token, "token", a.env("KAIKU_LINE_TOKEN", ""), "what callers must know (KAIKU_LINE_TOKEN)")
	return []*cobra.Command{measure, respond}
}

func (a *App) lineRespond(ctx context.Context, listen, token string) error {
	ctx, stop := signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
	defer stop()
	l, err := net.Listen("tcp", listen)
	if err != nil {
		return fmt.Errorf("listen on %s: %w", listen, err)
	}
	s := &http.Server{Handler: probe.LineResponder(token), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: time.Minute}
	a.say("The responder answers at http://%s", l.Addr())
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
		return fmt.Errorf("%w. Check --token and where the responder is", err)
	}
	if err != nil {
		return err
	}
	a.note("Asking the gateway for its outer address ...")
	outer := guard.ForHome(d).OuterAddress(ctx, d)
	changed := line
	changed.DownMbps, changed.UpMbps, changed.MeasuredAt = round(m.DownMbps), round(m.UpMbps), dossier.At(time.Now())
	changed.SeenAddress, changed.SeenAddress6 = m.Seen, m.Seen6
	rows := [][]string{{"down", megabits(m.DownMbps)}, {"up", megabits(m.UpMbps)}, {"seen outside, IPv4", orNone(m.Seen)}, {"seen outside, IPv6", orNone(m.Seen6)}}
	for _, o := range outer {
		said := orNone(o.Address)
		if o.Failure != "" {
			said = wording.Plain(o.Failure)
		} else if o.Address.IsValid() {
			changed.OuterAddress = o.Address
		}
		rows = append(rows, []string{"outer address by " + o.By + ", in " + o.Segment, said})
	}
	if len(outer) == 0 {
		rows = append(rows, []string{"gateway's outer address", "not asked: this machine is in none of the segments that may be asked (--probe-within)"})
	}
	next := d.Clone()
	next.Lines.Put(changed)
	for _, r := range network.Outside(next) {
		if r.Line == line.ID {
			rows = append(rows, []string{"what that means", wording.Reach(r)})
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
	return a.show(map[string]any{"line": line.Name, "measured": m, "gateway": outer, "stored": !dry}, []string{"Line " + line.Name, ""}, rows)
}

// lineOf is the line that is named, or the home's only one.
func (a *App) lineOf(ctx context.Context, d *dossier.Dossier, args []string) (dossier.Line, error) {
	if len(args) == 0 && len(d.Lines) == 1 {
		return d.Lines[0], nil
	}
	if len(args) == 0 {
		return dossier.Line{}, wrongUse("the home has %d lines; say which: kaiku line measure LINE", len(d.Lines))
	}
	_, r, err := a.recordNamed(ctx, dossier.KindNamed("line"), args)
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
