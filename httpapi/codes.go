package httpapi

import (
	"context"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"kaiku/service"
	"kaiku/wire"
)

// measurePath is where browsers with a code measure.
const measurePath = Base + "/measure/"

// downTime and upBytes bound what one request of a run may take.
const (
	downTime = 12 * time.Second
	upBytes  = 16 << 30
)

// noise is what is sent while measuring: bytes that nothing on the way can make fewer.
var noise = func() []byte {
	b := make([]byte, 1<<20)
	r := rand.New(rand.NewPCG(1, 2)) //nolint:gosec // no secret
	for i := range b {
		b[i] = byte(r.Uint32())
	}
	return b
}()

// WithCode is a request of a browser that has a code and no account.
type WithCode struct {
	Code string `path:"code" maxLength:"20" doc:"The code."`
}

func (s *Server) registerCodes() {
	operation(s, "invite-measuring", http.MethodPost, "/households/{code}/measure-codes", "Create a code with which any browser in the home can measure", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Body wire.NewInvite
	}) (*answer[wire.Code], error) {
		made, err := s.service.Invite(ctx, a, in.Code, in.Body, s.reachable(ctx))
		return &answer[wire.Code]{Body: made}, err
	})
	operation(s, "show-measuring", http.MethodGet, "/measure/{code}", "Show what a browser with this code is to measure", func(ctx context.Context, _ service.Actor, in *WithCode) (*answer[wire.Measuring], error) {
		v, err := s.service.Measuring(ctx, remoteOf(ctx), in.Code)
		return &answer[wire.Measuring]{Body: v}, err
	})
	operation(s, "begin-measuring", http.MethodPost, "/measure/{code}/begin", "Start a measurement", func(ctx context.Context, _ service.Actor, in *WithCode) (*answer[wire.MeasureRun], error) {
		v, err := s.service.BeginRun(ctx, remoteOf(ctx), in.Code)
		return &answer[wire.MeasureRun]{Body: v}, err
	})
	operation(s, "end-measuring", http.MethodPost, "/measure/{code}/end", "End a measurement and record its readings", func(ctx context.Context, _ service.Actor, in *struct {
		WithCode
		Body wire.MeasureResult
	}) (*answer[wire.Measured], error) {
		v, err := s.service.EndRun(ctx, remoteOf(ctx), in.Code, in.Body)
		return &answer[wire.Measured]{Body: v}, err
	})
	operation(s, "list-decoding-questions", http.MethodGet, "/measure/{code}/decoding", "List what a browser with this code is asked about what it decodes", func(ctx context.Context, _ service.Actor, in *WithCode) (*answer[wire.DecodingQuestions], error) {
		v, err := s.service.Questions(ctx, remoteOf(ctx), in.Code)
		return &answer[wire.DecodingQuestions]{Body: v}, err
	})
	operation(s, "declare-decoding", http.MethodPost, "/measure/{code}/decoding", "Record what a browser says that it decodes", func(ctx context.Context, _ service.Actor, in *struct {
		WithCode
		Body wire.DecodingAnswers
	}) (*answer[wire.DecodingDeclared], error) {
		v, err := s.service.DeclareDecoding(ctx, remoteOf(ctx), in.Code, in.Body)
		return &answer[wire.DecodingDeclared]{Body: v}, err
	})
	operation(s, "add-join", http.MethodPost, "/me/join", "Create a code that logs one phone in as the same person", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.Code], error) {
		made, err := s.service.Join(ctx, a, s.reachable(ctx))
		return &answer[wire.Code]{Body: made}, err
	})
	operation(s, "join", http.MethodPost, "/join/{code}", "Log in once with a code", func(ctx context.Context, _ service.Actor, in *WithCode) (*struct {
		SetCookie http.Cookie `header:"Set-Cookie"`
		Body      wire.Session
	}, error) {
		session, err := s.service.Joined(ctx, remoteOf(ctx), in.Code, "a phone")
		if err != nil {
			return nil, err
		}
		out := &struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
			Body      wire.Session
		}{s.cookie(session.Token, session.Until), session}
		out.Body.Token = ""
		return out, nil
	})
	s.echo.GET(measurePath+":code/ping", s.measured(func(c *echo.Context, _, _ string) error { return c.NoContent(http.StatusNoContent) }))
	s.echo.GET(measurePath+":code/down", s.measured(s.down))
	s.echo.POST(measurePath+":code/up", s.measured(s.up))
}

// measured lets requests through that are of the run under way.
func (s *Server) measured(handle func(c *echo.Context, code, run string) error) echo.HandlerFunc {
	return func(c *echo.Context) error {
		code, run := c.Param("code"), c.QueryParam("run")
		if err := s.service.Running(code, run); err != nil {
			return s.problemOf(c.Request().Context(), "", err)
		}
		c.Response().Header().Set("Cache-Control", "no-store")
		return handle(c, code, run)
	}
}

// down sends noise until the browser has enough.
func (s *Server) down(c *echo.Context, code, run string) error {
	c.Response().Header().Set("Content-Type", "application/octet-stream")
	until := time.Now().Add(downTime)
	for at := 0; time.Now().Before(until); at = (at + 64<<10) % len(noise) {
		if _, err := c.Response().Write(noise[at : at+64<<10]); err != nil {
			return nil //nolint:nilerr // it has enough
		}
		if err := s.service.Running(code, run); err != nil {
			return nil //nolint:nilerr // the run ended under it
		}
	}
	return nil
}

// up counts what arrives, by when it arrives.
func (s *Server) up(c *echo.Context, code, run string) error {
	body := io.LimitReader(c.Request().Body, upBytes)
	b := make([]byte, 16<<10)
	for {
		n, err := body.Read(b)
		if n > 0 {
			if err := s.service.Arrived(code, run, n); err != nil {
				return s.problemOf(c.Request().Context(), "", err)
			}
		}
		if err != nil { // all of it, or the browser broke off when its time was up
			break
		}
	}
	rate, err := s.service.UpRate(code, run)
	if err != nil {
		return s.problemOf(c.Request().Context(), "", err)
	}
	return c.JSON(http.StatusOK, rate)
}

// remoteOf is who asks, as far as the network tells.
func remoteOf(ctx context.Context) string { r, _ := ctx.Value(remoteKey).(string); return r }

// reachable is where a phone reaches this Kaiku: where people reach it by its settings, or the
// address that was asked. Where that leads only to the machine itself, and Kaiku listens on more,
// it is an address of the machine in its network.
func (s *Server) reachable(ctx context.Context) string {
	if s.origin != "" {
		return s.origin
	}
	scheme := "http://"
	if s.secure {
		scheme = "https://"
	}
	asked, _ := ctx.Value(hostKey).(string)
	host, port, err := net.SplitHostPort(asked)
	if err != nil {
		host, port = asked, ""
	}
	at, err := netip.ParseAddr(strings.Trim(host, "[]"))
	if own := host == "localhost" || err == nil && at.IsLoopback(); own && port != "" {
		if out, ok := s.service.OwnAddress(); ok && s.everywhere {
			return scheme + net.JoinHostPort(out.String(), port)
		}
	}
	return scheme + asked
}
