package httpapi

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// Upload is a file with what it belongs to.
type Upload struct {
	InHome
	Keyed
	ID       string `query:"id" format:"uuid" doc:"UUIDv7, if the client chooses it."`
	Kind     string `query:"kind" required:"true" doc:"Kind of the record it belongs to."`
	Record   string `query:"record" required:"true" format:"uuid" doc:"Id of that record."`
	Caption  string `query:"caption" required:"true" minLength:"1" maxLength:"400" doc:"What it shows."`
	FileName string `query:"fileName" maxLength:"200" doc:"Name of the file."`
	RawBody  []byte `contentType:"application/octet-stream"`
}

type bodyAnswer struct {
	ContentType  string `header:"Content-Type"`
	ETag         string `header:"ETag"`
	CacheControl string `header:"Cache-Control"`
	Policy       string `header:"Content-Security-Policy"`
	Body         []byte
}

func (s *Server) registerAttachments() {
	op := s.describe("add-attachment", http.MethodPost, "/households/{code}/attachments", "Attach a photograph or a text file")
	op.MaxBodyBytes = service.MaxAttachment
	op.DefaultStatus = http.StatusCreated
	huma.Register(s.api, op, func(ctx context.Context, in *Upload) (*answer[dossier.Attachment], error) {
		about := wire.NewAttachment{ID: dossier.ID[dossier.Attachment](in.ID), Subject: dossier.Ref{Kind: in.Kind, ID: in.Record}, Caption: in.Caption, FileName: in.FileName}
		made, err := s.service.AddAttachment(ctx, actorOf(ctx), in.Code, about, in.RawBody, request(ctx, in.Keyed, in.RawBody))
		if err != nil {
			return nil, s.problemOf(ctx, in.Code, err)
		}
		return &answer[dossier.Attachment]{ETag: etag(made.Revision), Body: made}, nil
	})
	label := s.describe("read-label", http.MethodPost, "/labels", "Read the codes in a photograph of a label")
	label.MaxBodyBytes = service.MaxAttachment
	huma.Register(s.api, label, func(ctx context.Context, in *struct {
		RawBody []byte `contentType:"application/octet-stream"`
	}) (*answer[wire.Label], error) {
		v, err := s.service.ReadLabel(ctx, actorOf(ctx), in.RawBody)
		if err != nil {
			return nil, s.problemOf(ctx, "", err)
		}
		return &answer[wire.Label]{Body: v}, nil
	})
	show := s.describe("show-body", http.MethodGet, "/households/{code}/attachments/{id}/body", "Download an attachment")
	show.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{
		"image/jpeg": {Schema: &huma.Schema{Type: "string", Format: "binary"}}, "text/plain": {Schema: &huma.Schema{Type: "string"}}}}}
	huma.Register(s.api, show, func(ctx context.Context, in *struct {
		OneOf
		Size        string `query:"size" enum:"full,small" default:"full" doc:"The whole file, or a small picture for lists."`
		IfNoneMatch string `header:"If-None-Match" doc:"ETag of the file that the client already has."`
	}) (*bodyAnswer, error) {
		body, err := s.service.AttachmentBody(ctx, actorOf(ctx), in.Code, dossier.ID[dossier.Attachment](in.ID), in.Size == "small", strings.Trim(in.IfNoneMatch, `"`))
		if err != nil {
			return nil, s.problemOf(ctx, in.Code, err)
		}
		tag := `"` + body.Sum + `"`
		if in.IfNoneMatch == tag {
			return nil, huma.ErrorWithHeaders(huma.Status304NotModified(), http.Header{"ETag": {tag}})
		}
		// A body never changes, but whoever logs out shall not leave it behind in a shared cache.
		return &bodyAnswer{body.MediaType, tag, "private, max-age=86400", "default-src 'none'; sandbox", body.Bytes}, nil
	})
}
