package httpapi

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/service"
	"kaiku/wire"
)

// registerSheets serves the commissioning results.
func (s *Server) registerSheets() {
	operation(s, "show-sheet", http.MethodGet, "/households/{code}/sheet", "Show the commissioning results: what was proven, on what, with what, by whom and when", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Sheet], error) {
		v, err := s.service.Sheet(ctx, a, in.Code)
		return &answer[wire.Sheet]{Body: v}, err
	})
	write := s.describe("write-sheet", http.MethodGet, "/households/{code}/sheet/{form}", "Write the commissioning results as a file: PDF or CSV for the firm, one page of PDF for the customer")
	write.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{
		"application/pdf": {Schema: &huma.Schema{Type: "string", Format: "binary"}}, "text/csv": {Schema: &huma.Schema{Type: "string"}}}}}
	register(s, write, func(ctx context.Context, in *struct {
		InHome
		Form string `path:"form" enum:"results,table,customer" doc:"Results (PDF) or table (CSV) for the firm, or the page for the customer (PDF)."`
	}) (*bodyAnswer, error) {
		b, mediaType, err := s.service.SheetFile(ctx, actorOf(ctx), in.Code, in.Form)
		return &bodyAnswer{ContentType: mediaType, CacheControl: "no-store", Policy: "default-src 'none'; sandbox", Body: b}, err
	})
}
