package client

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"

	"kaiku/wire"
)

// Follow calls each with every write that happens, from the event after an id on (0 is now),
// until ctx ends, the stream does, or each returns an error. Begun is called once the stream
// stands. An event without a household means that some were missed.
func (c *Client) Follow(ctx context.Context, after int64, begun func(), each func(wire.Event) error) error {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, c.base+"/api/v1/events", nil)
	if err != nil {
		return fmt.Errorf("make request: %w", err)
	}
	if after > 0 {
		r.Header.Set("Last-Event-ID", strconv.FormatInt(after, 10))
	}
	if c.token != "" {
		r.Header.Set("Authorization", "Bearer "+c.token)
	}
	resp, err := (&http.Client{}).Do(r) // without the time-out of other requests
	if err != nil {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return &Unreachable{c.base, err}
	}
	defer resp.Body.Close()
	if resp.StatusCode >= 400 {
		p := &wire.Problem{}
		if err := json.NewDecoder(resp.Body).Decode(p); err != nil {
			return fmt.Errorf("events at %s answered %s", c.base, resp.Status)
		}
		return p
	}
	begun()
	return readEvents(resp.Body, each)
}

// readEvents reads a stream of server-sent events (HTML Standard, section 9.2.6).
func readEvents(stream io.Reader, each func(wire.Event) error) error {
	lines := bufio.NewScanner(stream)
	name, data := "", ""
	for lines.Scan() {
		field, value, _ := strings.Cut(lines.Text(), ":")
		value = strings.TrimPrefix(value, " ")
		switch {
		case lines.Text() == "" && name != "":
			e := wire.Event{}
			if err := json.Unmarshal([]byte(data), &e); err != nil {
				return fmt.Errorf("read event: %w", err)
			}
			if err := each(e); err != nil {
				return err
			}
			name, data = "", ""
		case field == "event":
			name = value
		case field == "data":
			data += value
		}
	}
	return lines.Err()
}
