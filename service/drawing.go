package service

import (
	"context"

	"kaiku/views"
	"kaiku/wire"
)

// Drawing returns the home's network by floor and room, ready to be drawn.
func (s *Service) Drawing(ctx context.Context, a Actor, code string) (wire.Drawing, error) {
	h, err := s.read(ctx, a, "show-drawing", code)
	if err != nil {
		return wire.Drawing{}, err
	}
	return views.Drawing(h), nil
}

// AddressPlan returns what each address of the home's segments is there for.
func (s *Service) AddressPlan(ctx context.Context, a Actor, code string) (wire.AddressPlan, error) {
	h, err := s.read(ctx, a, "show-address-plan", code)
	if err != nil {
		return wire.AddressPlan{}, err
	}
	return views.AddressPlan(h), nil
}
