package service

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"unicode/utf8"

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/wire"
)

// Limits of attachments. A photograph is kept at 2560 pixels at most: enough to read a label.
const (
	MaxAttachment = 20 << 20
	longEdge      = 2560
	smallEdge     = 360
)

// AddAttachment keeps a photograph or text file with a record. Of a photograph only the picture
// stays, upright and scaled; where it was taken and with what does not.
func (s *Service) AddAttachment(ctx context.Context, a Actor, code string, in wire.NewAttachment, body []byte, r Request) (dossier.Attachment, error) {
	var none dossier.Attachment
	d, err := s.Home(ctx, a, "add-attachment", code)
	if err != nil {
		return none, err
	}
	if !d.Has(in.Subject) {
		return none, dossier.Faults{{Pointer: "/subject", Code: dossier.FaultUnknownRecord, Values: map[string]string{"kind": in.Subject.Kind, "id": in.Subject.ID}}}
	}
	made, kept, err := s.prepare(ctx, body)
	if err != nil {
		return none, err
	}
	if made.SHA256, err = s.store.PutBody(kept); err != nil {
		return none, err
	}
	made.Subject, made.Caption, made.FileName, made.At, made.By, made.Bytes = in.Subject, in.Caption, in.FileName, dossier.At(r.doneAt(s.now())), a.ID, len(kept)
	stored, _, err := s.add(ctx, a, code, Change{Kind: dossier.KindNamed("attachment"), ID: string(in.ID), Record: &made}, r)
	if err != nil {
		return none, err
	}
	return stored.(dossier.Attachment), nil
}

// prepare reads an upload and returns what of it is kept.
func (s *Service) prepare(ctx context.Context, body []byte) (dossier.Attachment, []byte, error) {
	var none dossier.Attachment
	sort := http.DetectContentType(body)
	switch {
	case len(body) == 0:
		return none, nil, refuse("not-attachable", "sort", "an empty file")
	case pictureReaders[sort].decode != nil:
		kept, size, err := s.smaller(ctx, sort, body, longEdge, 82)
		return dossier.Attachment{MediaType: "image/jpeg", Width: size.X, Height: size.Y}, kept, err
	case strings.HasPrefix(sort, "text/plain") && utf8.Valid(body):
		return dossier.Attachment{MediaType: "text/plain; charset=utf-8"}, body, nil
	}
	return none, nil, refuse("not-attachable", "sort", strings.SplitN(sort, ";", 2)[0])
}

// Body is what an attachment holds.
type Body struct {
	MediaType string
	Sum       string
	Bytes     []byte
}

// AttachmentBody returns what an attachment holds, or of a photograph a small picture. Whoever has
// the body of that sum already is answered without its bytes.
func (s *Service) AttachmentBody(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Attachment], small bool, have string) (Body, error) {
	d, err := s.Home(ctx, a, "show-body", code)
	if err != nil {
		return Body{}, err
	}
	one, ok := d.Attachments.Get(id)
	if !ok {
		return Body{}, refuse("no-such-record", "kind", "attachment", "id", string(id))
	}
	out := Body{MediaType: one.MediaType, Sum: one.SHA256}
	small = small && one.Width > 0
	if small {
		out.Sum += "-small"
	}
	if out.Sum == have {
		return out, nil
	}
	out.Bytes, err = s.store.Body(one.SHA256)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return out, refuse("body-gone", "caption", one.Caption)
	case errors.Is(err, store.ErrBodyDamaged):
		s.log.ErrorContext(ctx, "the file of an attachment is damaged", "household", code, "attachment", id, "sum", one.SHA256)
		return out, refuse("body-damaged", "caption", one.Caption)
	case err != nil || !small:
		return out, err
	}
	out.Bytes, _, err = s.smaller(ctx, one.MediaType, out.Bytes, smallEdge, 75)
	return out, err
}

// Sweep removes bodies of attachments and secrets that no record came to name, and reads the others through.
func (s *Service) Sweep(ctx context.Context) error {
	files, err := s.store.SweepBodies(ctx)
	sealed, err2 := s.store.SweepSealed(ctx)
	if files+sealed > 0 {
		s.log.InfoContext(ctx, "swept", "bodies", files, "sealed", sealed)
	}
	return errors.Join(err, err2, s.store.VerifyBodies(ctx))
}
