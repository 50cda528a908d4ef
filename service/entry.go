package service

import (
	"context"
	"slices"

	"kaiku/core/dossier"
	"kaiku/core/entry"
	"kaiku/papers"
	"kaiku/views"
	"kaiku/wire"
)

// EntryCard returns what has to be keyed in on a device for a path.
func (s *Service) EntryCard(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Path]) (wire.EntryCard, error) {
	h, err := s.read(ctx, a, "show-entry-card", code)
	if err != nil {
		return wire.EntryCard{}, err
	}
	p, ok := h.Paths.Get(id)
	if !ok {
		return wire.EntryCard{}, refuse("no-such-record", "kind", "path", "id", string(id))
	}
	return views.EntryCard(h.Dossier, entry.Of(h.Index, p, h.Steps)), nil
}

// WiFiCode shows the Wi-Fi network of a segment with its password, as a code to scan. The journal keeps
// who looked, when and why, as for every secret.
func (s *Service) WiFiCode(ctx context.Context, a Actor, code string, id dossier.ID[dossier.Segment], why string) (wire.WiFiCode, error) {
	d, err := s.Home(ctx, a, "show-wifi-code", code)
	if err != nil {
		return wire.WiFiCode{}, err
	}
	segment, ok := d.Segments.Get(id)
	if !ok {
		return wire.WiFiCode{}, refuse("no-such-record", "kind", "segment", "id", string(id))
	}
	n := slices.IndexFunc(d.Secrets, func(s dossier.Secret) bool { return s.Segment == id })
	if segment.SSID == "" || n < 0 {
		return wire.WiFiCode{}, refuse("no-wifi-password", "segment", segment.Name)
	}
	shown, err := s.RevealSecret(ctx, a, code, d.Secrets[n].ID, why)
	if err != nil {
		return wire.WiFiCode{}, err
	}
	text, caution := papers.WiFiCode(segment.SSID, shown.Body)
	qr, err := papers.QR(text)
	return wire.WiFiCode{SSID: segment.SSID, QR: qr, Caution: caution}, err
}
