package service

import (
	"context"

	"kaiku/papers"
	"kaiku/views"
	"kaiku/wire"
)

// Sheet returns what was proven in a home, and what was not.
func (s *Service) Sheet(ctx context.Context, a Actor, code string) (wire.Sheet, error) {
	return s.sheet(ctx, a, "show-sheet", code)
}

func (s *Service) sheet(ctx context.Context, a Actor, operation, code string) (wire.Sheet, error) {
	h, err := s.read(ctx, a, operation, code)
	if err != nil {
		return wire.Sheet{}, err
	}
	said, err := s.said(ctx, h)
	if err != nil {
		return wire.Sheet{}, err
	}
	return views.Sheet(said, s.now()), nil
}

// SheetFile returns the sheet as a file: all results (PDF) or a table of them (CSV) for the firm, or one page (PDF) for the customer,
// without anything that is meant for technicians only.
func (s *Service) SheetFile(ctx context.Context, a Actor, code, form string) ([]byte, string, error) {
	sheet, err := s.sheet(ctx, a, "write-sheet", code)
	if err != nil {
		return nil, "", err
	}
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
