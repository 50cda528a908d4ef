// Package httpapi is the service over HTTP: typed operations with their OpenAPI description,
// sessions, and the console's files. Handlers read input, call one use-case and return its
// answer; who may call is declared with the operation.
package httpapi

import (
	"context"
	"errors"
	"io/fs"
	"log/slog"
	"maps"
	"net"
	"net/http"
	"net/netip"
	"reflect"
	"slices"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
	"kaiku/wording"
)

// Server answers HTTP requests for one service.
type Server struct {
	service    *service.Service
	log        *slog.Logger
	echo       *echo.Echo
	api        huma.API
	secure     bool
	origin     string
	everywhere bool
	figures    *figures

	closing   chan struct{} // closed when streams of events must end
	closeOnce sync.Once
}

// Options make a server.
type Options struct {
	Log        *slog.Logger
	Console    fs.FS          // the built console; nil serves the API alone
	Secure     bool           // whether people reach it by https, so that cookies are marked Secure
	Origin     string         // where people reach it, such as https://kaiku.example.org; "" where they use its address
	Everywhere bool           // whether it listens on every address of the machine
	Proxies    []netip.Prefix // whose word on where a request came from is believed
	Version    string
}

// Base is where the API's operations lie.
const Base = "/api/v1"

const plainCookie = "kaiku_session"

// cookieName is the name of the log-in cookie. Under TLS it has a prefix with which browsers accept it only from this
// host and only over TLS (RFC 6265bis, 4.1.3.2).
func (s *Server) cookieName() string {
	if s.secure {
		return "__Host-" + plainCookie
	}
	return plainCookie
}

// New returns a server for the service.
func New(s *service.Service, o Options) *Server {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	srv := &Server{service: s, log: o.Log, echo: echo.New(), secure: o.Secure, origin: o.Origin, everywhere: o.Everywhere, figures: newFigures(s, o.Version), closing: make(chan struct{})}
	srv.echo.Logger = o.Log
	srv.echo.IPExtractor = whoAsks(o.Proxies)
	srv.echo.HTTPErrorHandler = srv.plainError
	srv.echo.Use(srv.observe, srv.headers, echo.WrapMiddleware(srv.sameOrigin), middleware.BodyLimitWithConfig(middleware.BodyLimitConfig{LimitBytes: service.MaxAttachment + 1<<20, Skipper: func(c *echo.Context) bool { return strings.HasPrefix(c.Request().URL.Path, measurePath) }}), middleware.Recover())
	srv.api = huma.NewAPI(config(o.Version), adapter{srv.echo})
	srv.api.UseMiddleware(srv.identify, srv.supposing, keepPlace, srv.bounded)
	srv.registerAll()
	srv.echo.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "alive\n") })
	srv.echo.GET("/readyz", srv.ready)
	srv.echo.GET("/metrics", srv.metrics)
	srv.echo.GET("/docs/errors", srv.errorDocs)
	if o.Console != nil {
		srv.serveConsole(o.Console)
	}
	return srv
}

func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.echo.ServeHTTP(w, r) }

// whoAsks finds the address of who asks: the other end of the connection, or what one of these proxies says in
// X-Forwarded-For.
func whoAsks(proxies []netip.Prefix) echo.IPExtractor {
	if len(proxies) == 0 {
		return echo.ExtractIPDirect()
	}
	trust := []echo.TrustOption{echo.TrustLoopback(false), echo.TrustLinkLocal(false), echo.TrustPrivateNet(false)}
	for _, p := range proxies {
		trust = append(trust, echo.TrustIPRange(&net.IPNet{IP: p.Addr().AsSlice(), Mask: net.CIDRMask(p.Bits(), p.Addr().BitLen())}))
	}
	return echo.ExtractIPFromXFFHeader(trust...)
}

// OpenAPI returns the API's description as JSON.
func (s *Server) OpenAPI() ([]byte, error) { return s.api.OpenAPI().MarshalJSON() }

// Operations lists the ids of all operations with where they are and who may.
func (s *Server) Operations() []Operation {
	var out []Operation
	for path, item := range s.api.OpenAPI().Paths {
		for method, op := range map[string]*huma.Operation{"GET": item.Get, "POST": item.Post, "PATCH": item.Patch, "DELETE": item.Delete, "PUT": item.Put} {
			if op != nil {
				right, _ := op.Metadata["right"].(service.Right)
				one := Operation{ID: op.OperationID, Method: method, Path: path, Right: right}
				if op.RequestBody != nil {
					one.Body = slices.Sorted(maps.Keys(op.RequestBody.Content))[0]
				}
				out = append(out, one)
			}
		}
	}
	return out
}

// Operation is one operation of the API.
type Operation struct {
	ID, Method, Path string
	Body             string // its media type, or nothing
	Right            service.Right
}

func config(version string) huma.Config {
	c := huma.DefaultConfig("Kaiku", version)
	c.OpenAPI.OpenAPI = "3.1.0"
	c.Info.Description = "Records of home media installations: survey, network, devices, paths, tests, issues and handovers."
	c.Info.License = &huma.License{Name: "See the repository"}
	c.CreateHooks = nil
	c.DocsPath, c.SchemasPath = "", ""
	c.OpenAPIPath = Base + "/openapi"
	c.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	c.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"session": {Type: "apiKey", In: "cookie", Name: plainCookie},
		"bearer":  {Type: "http", Scheme: "bearer"},
	}
	return c
}

// schemaName keeps the stored form of a record apart from the view of it with names.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if dossier.KindOf(t) != nil || t == reflect.TypeFor[dossier.Point]() {
		return name + "Record"
	}
	return name
}

type contextKey int

const (
	actorKey contextKey = iota
	tokenKey
	requestKey
	noteKey
	remoteKey
	hostKey
)

// identify finds out who asks, and turns away who must be logged in and is not.
func (s *Server) identify(c huma.Context, next func(huma.Context)) {
	token := s.credential(c.Header("Authorization"), func(name string) (*http.Cookie, error) { return huma.ReadCookie(c, name) })
	actor, err := s.service.Actor(c.Context(), token)
	if err != nil {
		s.refuse(c, s.problemOf(c.Context(), "", err))
		return
	}
	if n, ok := c.Context().Value(noteKey).(*note); ok {
		n.person, n.operation = string(actor.ID), c.Operation().OperationID
		if strings.HasPrefix(c.Operation().Path, Base+"/households/") { // elsewhere a code lets somebody in
			n.household = c.Param("code")
		}
	}
	if actor.ID == "" && c.Operation().Metadata["right"] != service.Public {
		s.refuse(c, problem("not-logged-in", nil))
		return
	}
	if err := actor.MayNow(c.Operation().OperationID); err != nil {
		s.refuse(c, s.problemOf(c.Context(), "", err))
		return
	}
	c = huma.WithValue(huma.WithValue(c, remoteKey, c.RemoteAddr()), hostKey, c.Host())
	next(huma.WithValue(huma.WithValue(c, actorKey, actor), tokenKey, token))
}

// credential is the token of an Authorization header (RFC 6750), or else that of the cookie, or nothing.
func (s *Server) credential(header string, cookie func(name string) (*http.Cookie, error)) string {
	if token, is := strings.CutPrefix(header, "Bearer "); is && token != "" {
		return token
	}
	if c, err := cookie(s.cookieName()); err == nil {
		return c.Value
	}
	return ""
}

func (s *Server) refuse(c huma.Context, err error) {
	var p *wire.Problem
	if !errors.As(err, &p) {
		p = problem("internal", map[string]string{"request": requestNumber(c.Context())})
	}
	c.SetHeader("Content-Type", p.ContentType(""))
	c.SetStatus(p.Status)
	if err := s.api.Marshal(c.BodyWriter(), "application/json", p); err != nil {
		s.log.WarnContext(c.Context(), "could not send the answer", "error", err)
	}
}

func actorOf(ctx context.Context) service.Actor {
	a, _ := ctx.Value(actorKey).(service.Actor)
	return a
}

func tokenOf(ctx context.Context) string {
	t, _ := ctx.Value(tokenKey).(string)
	return t
}

func requestNumber(ctx context.Context) string {
	n, _ := ctx.Value(requestKey).(string)
	return n
}

// note collects, on the way through, what the log says of a request.
type note struct{ person, operation, household string }

// observe numbers each request and logs what came of it; never bodies, and of the address only its form: it may hold
// a code or the secret address of a calendar.
func (s *Server) observe(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		began := time.Now()
		n := &note{}
		number := uuid.NewString()[:8]
		ctx := context.WithValue(context.WithValue(c.Request().Context(), requestKey, number), noteKey, n)
		c.SetRequest(c.Request().WithContext(ctx))
		c.Response().Header().Set("Kaiku-Request", number)
		err := next(c)
		if err != nil && c.Request().Context().Err() == nil && !errors.Is(err, syscall.EPIPE) && !errors.Is(err, syscall.ECONNRESET) {
			s.plainError(c, err) // unless the client is gone
		}
		status := 0
		if r, uerr := echo.UnwrapResponse(c.Response()); uerr == nil {
			status = r.Status
		}
		s.figures.answered(n.operation, status, time.Since(began))
		said := []any{"request", number, "method", c.Request().Method, "route", c.Path(), "operation", n.operation,
			"person", n.person, "household", n.household, "status", status, "ms", time.Since(began).Milliseconds()}
		if ofSafety(n.operation, status) {
			s.log.InfoContext(ctx, "safety", append(said, "from", c.RealIP())...)
		} else {
			s.log.DebugContext(ctx, "request", said...)
		}
		return nil
	}
}

// guarded are the operations by which somebody gets in, or changes who gets in or sees what is secret: what came of
// each is logged at every level.
var guarded = map[string]bool{"log-in": true, "log-out": true, "join": true, "add-join": true, "begin-measuring": true, "add-person": true, "change-person": true,
	"reset-person": true, "change-password": true, "end-login": true, "add-token": true, "add-feed": true, "set-second-factor": true, "remove-second-factor": true,
	"reveal-secret": true, "rotate-secret": true, "erase-personal": true, "show-wifi-code": true}

// ofSafety reports whether a request is logged at every level: one of the guarded, or one that was turned away.
func ofSafety(operation string, status int) bool {
	return guarded[operation] || status == http.StatusUnauthorized && operation != "whoami" || status == http.StatusForbidden || status == http.StatusTooManyRequests
}

// policy allows nothing but what the service itself serves.
const policy = "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// strictly is for how long a browser that has come by https comes by nothing else (RFC 6797): a year.
const strictly = "max-age=31536000"

func (s *Server) headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		if s.secure {
			h.Set("Strict-Transport-Security", strictly)
		}
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		if strings.HasPrefix(c.Request().URL.Path, Base) {
			h.Set("Cache-Control", "no-cache")
		}
		return next(c)
	}
}

func (s *Server) sameOrigin(next http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	if s.origin != "" {
		if err := guard.AddTrustedOrigin(s.origin); err != nil {
			panic(err) // settings were checked
		}
	}
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { writeProblem(w, problem("cross-origin", nil)) }))
	return guard.Handler(next)
}

func (s *Server) plainError(c *echo.Context, err error) {
	var p *wire.Problem
	if errors.As(err, &p) {
		writeProblem(c.Response(), p)
		return
	}
	code := "internal"
	switch echo.StatusCode(err) {
	case http.StatusNotFound:
		code = "no-such-page"
	case http.StatusMethodNotAllowed:
		code = "no-such-method"
	case http.StatusRequestEntityTooLarge:
		code = "too-large"
	default:
		s.log.Error("failed", "request", requestNumber(c.Request().Context()), "error", err)
	}
	writeProblem(c.Response(), problem(code, map[string]string{"request": requestNumber(c.Request().Context()), "limit": size(service.MaxAttachment)}))
}

// metrics answers only those who have a token or are logged in: how busy a firm is concerns no one else.
func (s *Server) metrics(c *echo.Context) error {
	token := s.credential(c.Request().Header.Get("Authorization"), c.Request().Cookie)
	if !s.service.Holds(c.Request().Context(), token) {
		return problem("not-logged-in", nil)
	}
	s.figures.handler().ServeHTTP(c.Response(), c.Request())
	return nil
}

func (s *Server) ready(c *echo.Context) error {
	if err := s.service.Ready(c.Request().Context()); err != nil {
		said := "the database does not answer"
		if trouble := service.TroubleOf(err); trouble != "" {
			said = wording.Errors[trouble].Sentence
		}
		return c.String(http.StatusServiceUnavailable, said+"\n")
	}
	said := "ready"
	if notice := s.service.Notice(); notice != "" {
		said = "ready, but: " + notice
	}
	return c.String(http.StatusOK, said+"\n")
}
