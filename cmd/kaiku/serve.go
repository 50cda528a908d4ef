package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/cli"
	"kaiku/console"
	"kaiku/httpapi"
	"kaiku/probe"
	"kaiku/service"
	"kaiku/store"
)

// settings are the flags of serve; each can be given as KAIKU_ and its name in capitals.
type settings struct {
	data, listen string
	onSite       bool
	within       []string
	verbose      bool
}

func serveCommand(a *cli.App) *cobra.Command {
	var s settings
	c := &cobra.Command{Use: "serve", Short: "Run the service and its console", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		running, err := start(cmd.Context(), s, a.Err)
		if err != nil {
			return err
		}
		if running.first != "" {
			fmt.Fprintf(a.Out, "This Kaiku is new. Log in as coordinator with the password %s, which is shown only now.\n", running.first)
		}
		fmt.Fprintf(a.Out, "Kaiku serves at %s. Ctrl-C ends it.\n", running.address)
		return running.untilStopped(cmd.Context())
	}}
	env := func(name, otherwise string) string {
		if v := a.Getenv("KAIKU_" + name); v != "" {
			return v
		}
		return otherwise
	}
	f := c.Flags()
	f.StringVar(&s.data, "data", env("DATA", "kaiku-data"), "folder of database and key (KAIKU_DATA)")
	f.StringVar(&s.listen, "listen", env("LISTEN", "127.0.0.1:7440"), "address and port to listen on (KAIKU_LISTEN)")
	f.BoolVar(&s.onSite, "on-site", env("ON_SITE", "") == "1", "this Kaiku stands in the household's network and may ask its devices (KAIKU_ON_SITE=1)")
	f.StringSliceVar(&s.within, "probe-within", strings.FieldsFunc(env("PROBE_WITHIN", ""), func(r rune) bool { return r == ',' }), "prefixes it may ask (KAIKU_PROBE_WITHIN)")
	f.BoolVar(&s.verbose, "verbose", env("VERBOSE", "") == "1", "log every request (KAIKU_VERBOSE=1)")
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
	swept   func() // ends the sweeping and waits for it
}

// sweepEvery is how often bodies that no record came to name are looked for.
const sweepEvery = 6 * time.Hour

// keepSwept sweeps at the start and from time to time, until the returned function is called.
func keepSwept(s *service.Service, log *slog.Logger) (end func()) {
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() {
		defer close(done)
		tick := time.NewTicker(sweepEvery)
		defer tick.Stop()
		for {
			if err := s.Sweep(ctx); err != nil && ctx.Err() == nil {
				log.Warn("sweeping failed", "error", err)
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
	level := slog.LevelWarn
	if s.verbose {
		level = slog.LevelDebug
	}
	log := slog.New(slog.NewTextHandler(errs, &slog.HandlerOptions{Level: level}))
	prober, err := s.prober()
	if err != nil {
		return nil, err
	}
	st, err := store.Open(ctx, s.data, store.Options{Log: log})
	if err != nil {
		return nil, fmt.Errorf("open the data folder %s: %w", s.data, err)
	}
	r := &running{store: st, service: service.New(st, service.Options{Prober: prober, Log: log}), failed: make(chan error, 1)}
	if r.first, err = firstCoordinator(ctx, r.service); err != nil {
		return nil, errors.Join(err, st.Close())
	}
	l, err := net.Listen("tcp", s.listen)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("listen on %s: %w. Is another Kaiku running there? Choose another with --listen", s.listen, err), st.Close())
	}
	built, err := fs.Sub(console.Dist, "dist")
	if err != nil {
		return nil, errors.Join(err, l.Close(), st.Close())
	}
	r.address = "http://" + l.Addr().String()
	api := httpapi.New(r.service, httpapi.Options{Log: log, Console: built, Version: version})
	r.server = &http.Server{Handler: api,
		ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute, ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	r.server.RegisterOnShutdown(api.CloseStreams)
	r.swept = keepSwept(r.service, log)
	go func() { r.failed <- r.server.Serve(l) }()
	return r, nil
}

func (s settings) prober() (service.Prober, error) {
	if !s.onSite {
		return nil, nil
	}
	if len(s.within) == 0 {
		return nil, errors.New("--on-site needs --probe-within: the prefixes this Kaiku may ask")
	}
	g := probe.Guard{}
	for _, w := range s.within {
		p, err := netip.ParsePrefix(w)
		if err != nil {
			return nil, fmt.Errorf("--probe-within %s is not a prefix; write it as 10.20.4.0/24", w)
		}
		g.Within = append(g.Within, p)
	}
	return probe.Prober{Guard: g}, nil
}

// firstCoordinator lets somebody into a new Kaiku.
func firstCoordinator(ctx context.Context, s *service.Service) (password string, err error) {
	empty, err := s.Empty(ctx)
	if err != nil || !empty {
		return "", err
	}
	password = strings.ToLower(rand.Text()[:16])
	_, err = s.AddPerson(ctx, "coordinator", "Coordinator", service.Coordinator, password)
	return password, err
}

// untilStopped serves until a signal or ctx ends it, then lets running requests end.
func (r *running) untilStopped(ctx context.Context) error {
	ctx, stop := signal.NotifyContext(ctx, syscall.SIGINT, syscall.SIGTERM)
	defer stop()
	select {
	case err := <-r.failed:
		r.swept()
		return errors.Join(err, r.store.Close())
	case <-ctx.Done():
	}
	return r.stop()
}

func (r *running) stop() error {
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	err := r.server.Shutdown(ctx)
	r.swept()
	return errors.Join(err, r.store.Close())
}
