package service

import (
	"context"

	"kaiku/papers"
	"kaiku/views"
	"kaiku/wire"
)

// Sheet returns what was proven in a home, and what was not.
func (s *Service) Sheet(ctx context.Context, a Actor, code string) (wire.Sheet, error) {
	h, err := s.read(ctx, a, "show-sheet", code)
	if err != nil {
		return wire.Sheet{}, err
	}
	said, err := s.said(ctx, h)
	if err != nil {
		return wire.Sheet{}, err
	}
	return views.Sheet(said, s.now()), nil
}

// SheetFile returns the same as a file: as results (PDF) or table (CSV) for the firm, or as one page (PDF) for the customer, who is told nothing
// that is meant for technicians.
func (s *Service) SheetFile(ctx context.Context, a Actor, code, form string) ([]byte, string, error) {
	h, err := s.read(ctx, a, "write-sheet", code)
	if err != nil {
		return nil, "", err
	}
	said, err := s.said(ctx, h)
	if err != nil {
		return nil, "", err
	}
	sheet := views.Sheet(said, s.now())
	zone := s.now().Location()
	switch form {
	case "table":
		b, err := papers.SheetCSV(sheet)
		return b, "text/csv; charset=utf-8; header=present", err
	case "customer":
		b, err := papers.CustomerPDF(sheet, zone)
		return b, "application/pdf", err
	}
	b, err := papers.SheetPDF(sheet, zone)
	return b, "application/pdf", err
}
