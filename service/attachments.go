package service

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	_ "image/gif" // read, then kept as JPEG
	"image/jpeg"
	_ "image/png" // read, then kept as JPEG
	"io"
	"net/http"
	"strings"
	"unicode/utf8"

	"github.com/disintegration/imaging"
	_ "golang.org/x/image/webp" // read, then kept as JPEG

	"kaiku/core/dossier"
	"kaiku/store"
	"kaiku/wire"
)

// Limits of attachments. A photograph is kept at 2560 pixels at most: enough to read a label.
const (
	MaxAttachment = 20 << 20
	maxPixels     = 100_000_000 // a hostile file of few bytes may unpack to many
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
	made, kept, err := prepare(body)
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
func prepare(body []byte) (dossier.Attachment, []byte, error) {
	var none dossier.Attachment
	sort := http.DetectContentType(body)
	switch {
	case len(body) == 0:
		return none, nil, refuse("not-attachable", "sort", "an empty file")
	case strings.HasPrefix(sort, "image/"):
		picture, err := readPicture(body)
		if err != nil {
			return none, nil, err
		}
		kept, err := asJPEG(imaging.Fit(picture, longEdge, longEdge, imaging.Lanczos), 82)
		// Fit makes nothing larger.
		size, _, _ := image.DecodeConfig(bytes.NewReader(kept))
		return dossier.Attachment{MediaType: "image/jpeg", Width: size.Width, Height: size.Height}, kept, err
	case strings.HasPrefix(sort, "text/plain") && utf8.Valid(body):
		return dossier.Attachment{MediaType: "text/plain; charset=utf-8"}, body, nil
	}
	return none, nil, refuse("not-attachable", "sort", strings.SplitN(sort, ";", 2)[0])
}

func readPicture(body []byte) (image.Image, error) {
	size, _, err := image.DecodeConfig(bytes.NewReader(body))
	if err == nil && size.Width*size.Height > maxPixels {
		return nil, refuse("picture-too-large", "pixels", fmt.Sprintf("%d x %d", size.Width, size.Height))
	}
	var picture image.Image
	if err == nil {
		picture, err = imaging.Decode(bytes.NewReader(body), imaging.AutoOrientation(true))
	}
	if err != nil {
		return nil, refuse("picture-damaged", "detail", err.Error())
	}
	return picture, nil
}

func asJPEG(picture image.Image, quality int) ([]byte, error) {
	var out bytes.Buffer
	err := jpeg.Encode(&out, picture, &jpeg.Options{Quality: quality})
	return out.Bytes(), err
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
	f, err := s.store.Body(one.SHA256)
	if errors.Is(err, store.ErrNotFound) {
		return out, refuse("body-gone", "caption", one.Caption)
	}
	if err != nil {
		return out, err
	}
	defer f.Close()
	if out.Bytes, err = io.ReadAll(f); err != nil || !small {
		return out, err
	}
	picture, err := readPicture(out.Bytes)
	if err != nil {
		return out, err
	}
	out.Bytes, err = asJPEG(imaging.Fit(picture, smallEdge, smallEdge, imaging.Box), 75)
	return out, err
}

// Sweep removes bodies of attachments and secrets that no record came to name.
func (s *Service) Sweep(ctx context.Context) error {
	files, err := s.store.SweepBodies(ctx)
	sealed, err2 := s.store.SweepSealed(ctx)
	if files+sealed > 0 {
		s.log.InfoContext(ctx, "swept", "bodies", files, "sealed", sealed)
	}
	return errors.Join(err, err2)
}
