package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/cli"
	"kaiku/console"
	"kaiku/httpapi"
	"kaiku/probe"
	"kaiku/safely"
	"kaiku/service"
	"kaiku/store"
)

func serveCommand(a *cli.App) *cobra.Command {
	c := &cobra.Command{Use: "serve", Short: "Run the service and its console, until Ctrl-C", Example: "  kaiku serve --data /var/lib/kaiku --listen 127.0.0.1:8090\n  kaiku serve --on-site --probe-within 10.20.4.0/24", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		s, err := readSettings(cmd.Flags(), a.Getenv)
		if err != nil {
			return err
		}
		ctx, stop := untilSignal(cmd.Context())
		defer stop()
		running, err := start(ctx, s, a.Err)
		if err != nil {
			return err
		}
		if running.first != "" {
			fmt.Fprintf(a.Out, "The data folder is new. Log in as coordinator with the password %s; it is shown only once.\n", running.first)
			if err := running.service.FirstShown(ctx); err != nil {
				return errors.Join(err, running.stop())
			}
		}
		fmt.Fprintf(a.Out, "Kaiku is running at %s. Press Ctrl-C to stop.\n", running.address)
		if s.inTheOpen() {
			fmt.Fprintln(a.Err, "It can be reached from the network without TLS: whoever listens there can read passwords. Give it a certificate (--tls-certificate), or put a TLS proxy before it and name its address with --public-url.")
		}
		return running.untilStopped(ctx)
	}}
	settingFlags(c.Flags())
	return c
}

// running is a service that answers.
type running struct {
	address string
	first   string // password of the first coordinator, on a new data folder
	service *service.Service
	server  *http.Server
	store   *store.Store
	failed  chan error
	ends    []func()         // each ends what is done from time to time, and waits for it
	echo    *probe.Responder // nil where this Kaiku is not on a home's network
}

const (
	// sweepEvery is how often bodies that no record came to name are looked for.
	sweepEvery = 6 * time.Hour
	// lookEvery is how often it is looked whether tests are to be repeated now.
	lookEvery = time.Minute
)

// keepDoing does something at the start and from time to time, until the returned function is called.
func keepDoing(what string, every time.Duration, log *slog.Logger, do func(context.Context) error) (end func()) {
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() {
		defer close(done)
		tick := time.NewTicker(every)
		defer tick.Stop()
		for {
			if err := safely.Do(func() error { return do(ctx) }); err != nil && ctx.Err() == nil {
				log.Warn(what+" failed", "error", err)
			}
			select {
			case <-ctx.Done():
				return
			case <-tick.C:
			}
		}
	}()
	return func() { cancel(); <-done }
}

func start(ctx context.Context, s settings, errs io.Writer) (*running, error) {
	log := s.logger(errs)
	prober, err := s.prober(log)
	if err != nil {
		return nil, err
	}
	if s.now == nil {
		s.now = time.Now
	}
	l, err := s.listener() // before anything is made: an address that is taken leaves no trace
	if err != nil {
		return nil, err
	}
	clock := service.NewSteadyClock(s.now, time.Time{})
	st, err := store.Open(ctx, s.data, store.Options{Log: log, Now: func() time.Time { return clock.Now() }})
	if err != nil {
		return nil, errors.Join(troubleSaid(err, map[string]string{"dir": s.data}), l.Close())
	}
	newest, err := st.Newest(ctx)
	if err != nil {
		return nil, errors.Join(err, l.Close(), st.Close())
	}
	if !s.trust {
		clock = service.NewSteadyClock(s.now, newest)
	}
	r := &running{store: st, service: service.New(st, service.Options{Prober: prober, Log: log, Now: clock.Now, Behind: clock.Behind, SecondFactorFor: s.factorFor}), failed: make(chan error, 1)}
	if notice := r.service.Notice(); notice != "" {
		log.Warn(notice)
	}
	if r.first, err = r.service.First(ctx); err != nil {
		return nil, errors.Join(err, l.Close(), st.Close())
	}
	built, err := fs.Sub(console.Dist, "dist")
	if err != nil {
		return nil, errors.Join(err, l.Close(), st.Close())
	}
	if r.address = s.origin(); r.address == "" {
		r.address = s.scheme() + "://" + l.Addr().String()
	}
	bound, err := netip.ParseAddrPort(l.Addr().String())
	if err != nil {
		return nil, errors.Join(err, l.Close(), st.Close())
	}
	if s.onSite {
		if r.echo, err = probe.Echo(bound, r.service.Echoes); err != nil {
			return nil, errors.Join(err, l.Close(), st.Close())
		}
		r.service.EchoAt(r.echo.Port())
	}
	api := httpapi.New(r.service, httpapi.Options{Everywhere: bound.Addr().IsUnspecified(), Log: log, Console: built, Version: version, Secure: s.secure(), Origin: s.origin(), Proxies: s.proxies})
	r.server = &http.Server{Handler: api,
		ReadHeaderTimeout: 10 * time.Second, ReadTimeout: readTime, WriteTimeout: writeTime, IdleTimeout: idleTime, MaxHeaderBytes: 64 << 10, ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	r.server.RegisterOnShutdown(api.CloseStreams)
	r.ends = append(r.ends, keepDoing("sweeping", sweepEvery, log, r.service.Sweep))
	if s.onSite {
		r.ends = append(r.ends, keepDoing("repeating tests overnight", lookEvery, log, r.service.RepeatDue))
	}
	go func() { r.failed <- r.server.Serve(l) }()
	return r, nil
}

// untilSignal ends with Ctrl-C or SIGTERM. It stands before the service does: whoever reads that
// it serves may stop it at once.
func untilSignal(ctx context.Context) (context.Context, context.CancelFunc) {
	return signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
}

// untilStopped serves until ctx ends, then lets running requests end.
func (r *running) untilStopped(ctx context.Context) error {
	select {
	case err := <-r.failed:
		return errors.Join(err, r.closed())
	case <-ctx.Done():
	}
	return r.stop()
}

func (r *running) stop() error {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	err := r.server.Shutdown(ctx)
	return errors.Join(err, r.closed())
}

// closed ends what runs beside the server.
func (r *running) closed() error {
	r.service.Close()
	for _, end := range r.ends {
		end()
	}
	if r.echo != nil {
		r.echo.Close()
	}
	return r.store.Close()
}
