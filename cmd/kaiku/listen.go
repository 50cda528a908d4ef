package main

import (
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/netip"
	"os"
	"strings"
	"sync"
	"syscall"
	"time"

	"kaiku/service"
	"kaiku/store"
	"kaiku/wording"
)

func (s settings) logger(to io.Writer) *slog.Logger {
	o := &slog.HandlerOptions{Level: slog.LevelInfo}
	switch {
	case s.verbose:
		o.Level = slog.LevelDebug
	case s.tried:
		o.Level = slog.LevelWarn
	}
	if s.logFormat == "json" {
		return slog.New(slog.NewJSONHandler(to, o))
	}
	return slog.New(slog.NewTextHandler(to, o))
}

// inTheOpen reports whether passwords come to it over a network without TLS, as far as the settings say.
func (s settings) inTheOpen() bool {
	host, _, err := net.SplitHostPort(s.listen)
	if err != nil || s.certificate != "" || strings.HasPrefix(s.publicURL, "https:") {
		return false
	}
	at, err := netip.ParseAddr(host)
	return host != "localhost" && (err != nil || !at.IsLoopback())
}

func (s settings) scheme() string {
	if s.certificate != "" {
		return "https"
	}
	return "http"
}

// listener opens the address; with a certificate it speaks TLS 1.2 or newer.
func (s settings) listener() (net.Listener, error) {
	var config *tls.Config
	if s.certificate != "" {
		c := &certificate{file: s.certificate, key: s.key}
		if _, err := c.get(nil); err != nil {
			return nil, settingsWrong("the certificate cannot be used: %v", err)
		}
		config = &tls.Config{GetCertificate: c.get, MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}}
	}
	l, err := net.Listen("tcp", s.listen)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, errors.New(wording.Say("port-in-use", map[string]string{"listen": s.listen}))
	}
	if err != nil {
		var inner *net.OpError
		if errors.As(err, &inner) {
			err = inner.Err
		}
		return nil, errors.New(wording.Say("port-not-ours", map[string]string{"listen": s.listen, "detail": err.Error()}))
	}
	l = withFewer(l, s.proxies)
	if config != nil {
		return tls.NewListener(l, config), nil
	}
	return l, nil
}

// certificate is read again when its file has changed, so that a renewal needs no restart.
type certificate struct {
	file, key string

	mu      sync.Mutex
	loaded  *tls.Certificate
	changed time.Time
}

func (c *certificate) get(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	c.mu.Lock()
	defer c.mu.Unlock()
	info, err := os.Stat(c.file)
	if err == nil && c.loaded != nil && info.ModTime().Equal(c.changed) {
		return c.loaded, nil
	}
	var pair tls.Certificate
	if err == nil {
		pair, err = tls.LoadX509KeyPair(c.file, c.key)
	}
	if err != nil && c.loaded != nil { // a renewal that is half written: keep what worked
		return c.loaded, nil
	}
	if err != nil {
		return nil, err
	}
	c.loaded, c.changed = &pair, info.ModTime()
	return c.loaded, nil
}

// troubleSaid turns trouble with a data folder into its row of the error table.
func troubleSaid(err error, values map[string]string) error {
	code := service.TroubleOf(err)
	if errors.Is(err, fs.ErrExist) {
		code = "backup-there"
	}
	if code == "" {
		return fmt.Errorf("data folder %s: %w", values["dir"], err)
	}
	if _, given := values["detail"]; !given {
		values["detail"] = err.Error()
		if code == "data-foreign" && !errors.Is(err, store.ErrForeign) {
			values["detail"] = store.ErrForeign.Error() + ": " + err.Error()
		}
	}
	return &trouble{wording.Say(code, values), err}
}

// trouble is said in the words of the error table, and keeps its cause for errors.Is.
type trouble struct {
	said  string
	cause error
}

func (t *trouble) Error() string { return t.said }
func (t *trouble) Unwrap() error { return t.cause }
