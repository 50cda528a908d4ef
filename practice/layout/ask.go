package layout

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
)

// mostAnswer bounds what is read of a house's answer.
const mostAnswer = 1 << 20

// ErrNoHouse is returned where no practice house runs, ErrNoErrand for a test that cannot be carried out in it.
var (
	ErrNoHouse  = errors.New("no practice house is running")
	ErrNoErrand = errors.New("cannot be carried out in this house")
)

// Ask asks the running practice house in that octet. A body is sent as JSON; nil sends none.
func Ask(ctx context.Context, octet byte, method, path string, body any) ([]byte, error) {
	var sent io.Reader
	if body != nil {
		b, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		sent = bytes.NewReader(b)
	}
	r, err := http.NewRequestWithContext(ctx, method, "http://"+ControlAddress(octet).String()+path, sent)
	if err != nil {
		return nil, err
	}
	resp, err := (&http.Client{Transport: &http.Transport{DisableKeepAlives: true}}).Do(r)
	if err != nil {
		return nil, fmt.Errorf("%w with octet %d", errors.Join(ErrNoHouse, ctx.Err()), octet)
	}
	defer resp.Body.Close()
	answer, err := io.ReadAll(io.LimitReader(resp.Body, mostAnswer))
	switch text := strings.TrimSpace(string(answer)); {
	case err != nil || resp.StatusCode == http.StatusOK:
	case resp.StatusCode == http.StatusUnprocessableEntity:
		err = fmt.Errorf("%w: %s", ErrNoErrand, text)
	default:
		err = errors.New(text)
	}
	return answer, err
}

// Send has an errand carried out in the house in that octet.
func Send(ctx context.Context, octet byte, e Errand) (seen Seen, err error) {
	answer, err := Ask(ctx, octet, http.MethodPost, "/errands", e)
	if err != nil {
		return seen, fmt.Errorf("%s at %s: %w", e.Test, e.Screen, err)
	}
	return seen, json.Unmarshal(answer, &seen)
}
