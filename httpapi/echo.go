package httpapi

import (
	"context"
	"crypto/tls"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/labstack/echo/v5"
)

// adapter lets typed operations run on Echo 5; the one that comes with huma knows Echo 4 only.
type adapter struct{ *echo.Echo }

func (a adapter) Handle(op *huma.Operation, handler func(huma.Context)) {
	path := strings.NewReplacer("{", ":", "}", "").Replace(op.Path)
	a.Add(op.Method, path, func(c *echo.Context) error {
		handler(&exchange{op: op, echo: c})
		return nil
	})
}

// exchange is one request and its answer, as huma sees it.
type exchange struct {
	op     *huma.Operation
	echo   *echo.Context
	status int
}

func (x *exchange) Operation() *huma.Operation { return x.op }
func (x *exchange) Context() context.Context   { return x.echo.Request().Context() }
func (x *exchange) Method() string             { return x.echo.Request().Method }
func (x *exchange) Host() string               { return x.echo.Request().Host }
func (x *exchange) RemoteAddr() string         { return x.echo.RealIP() }
func (x *exchange) URL() url.URL               { return *x.echo.Request().URL }
func (x *exchange) Param(name string) string   { return x.echo.Param(name) }
func (x *exchange) Query(name string) string   { return x.echo.QueryParam(name) }
func (x *exchange) Header(name string) string  { return x.echo.Request().Header.Get(name) }
func (x *exchange) BodyReader() io.Reader      { return x.echo.Request().Body }
func (x *exchange) BodyWriter() io.Writer      { return x.echo.Response() }
func (x *exchange) Status() int                { return x.status }
func (x *exchange) TLS() *tls.ConnectionState  { return x.echo.Request().TLS }
func (x *exchange) AppendHeader(n, v string)   { x.echo.Response().Header().Add(n, v) }
func (x *exchange) SetHeader(name, v string)   { x.echo.Response().Header().Set(name, v) }
func (x *exchange) SetReadDeadline(t time.Time) error {
	return http.NewResponseController(x.echo.Response()).SetReadDeadline(t)
}

func (x *exchange) SetStatus(code int) {
	x.status = code
	x.echo.Response().WriteHeader(code)
}

func (x *exchange) EachHeader(each func(name, value string)) {
	for name, values := range x.echo.Request().Header {
		for _, v := range values {
			each(name, v)
		}
	}
}

func (x *exchange) GetMultipartForm() (*multipart.Form, error) {
	err := x.echo.Request().ParseMultipartForm(1 << 20)
	return x.echo.Request().MultipartForm, err
}

func (x *exchange) Version() huma.ProtoVersion {
	r := x.echo.Request()
	return huma.ProtoVersion{Proto: r.Proto, ProtoMajor: r.ProtoMajor, ProtoMinor: r.ProtoMinor}
}
