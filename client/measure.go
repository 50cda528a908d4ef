package client

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"time"

	"kaiku/wire"
)

// What one measurement takes.
const (
	echoes    = 100
	echoEvery = 20 * time.Millisecond
	echoWait  = time.Second
	flowTime  = 5 * time.Second
)

// Invite makes a code with which any browser in the home can measure.
func (c *Client) Invite(ctx context.Context, code string, in wire.NewInvite) (wire.Code, error) {
	return post[wire.Code](ctx, c, "/households/"+code+"/measure-codes", in)
}

// Join makes a code with which one phone logs in once as oneself.
func (c *Client) Join(ctx context.Context) (wire.Code, error) {
	return post[wire.Code](ctx, c, "/me/join", nil)
}

// Measuring tells what is to be measured with a code.
func (c *Client) Measuring(ctx context.Context, code string) (wire.Measuring, error) {
	return get[wire.Measuring](ctx, c, "/measure/"+url.PathEscape(code))
}

// BeginRun begins a measurement with a code.
func (c *Client) BeginRun(ctx context.Context, code string) (wire.MeasureRun, error) {
	return post[wire.MeasureRun](ctx, c, "/measure/"+url.PathEscape(code)+"/begin", nil)
}

// EndRun ends a measurement and stores what it measured.
func (c *Client) EndRun(ctx context.Context, code string, in wire.MeasureResult) (wire.Measured, error) {
	return post[wire.Measured](ctx, c, "/measure/"+url.PathEscape(code)+"/end", in)
}

// Measure measures from this machine to the Kaiku that made the code, in about twelve seconds:
// time, jitter and loss by packets that are sent back, then throughput both ways. Progress is
// told as it goes. What it measured is stored with what is said of it.
func (c *Client) Measure(ctx context.Context, code string, said wire.MeasureResult, progress func(what string)) (wire.Measured, error) {
	told, err := c.Measuring(ctx, code)
	if err != nil {
		return wire.Measured{}, err
	}
	run, err := c.BeginRun(ctx, code)
	if err != nil {
		return wire.Measured{}, err
	}
	said.Run = run.Run
	base, err := url.Parse(c.base)
	if err != nil {
		return wire.Measured{}, err
	}
	if told.EchoPort != 0 {
		progress("packets there and back")
		if err := echo(ctx, net.JoinHostPort(base.Hostname(), strconv.Itoa(told.EchoPort)), run.Run, &said); err != nil {
			return wire.Measured{}, err
		}
	}
	progress("throughput towards this machine")
	down, err := c.down(ctx, code, run.Run)
	if err != nil {
		return wire.Measured{}, err
	}
	said.DownMbps = &down
	progress("throughput from this machine")
	if err := c.up(ctx, code, run.Run); err != nil {
		return wire.Measured{}, err
	}
	return c.EndRun(ctx, code, said)
}

// echo sends packets at an even pace and waits for those that come back.
func echo(ctx context.Context, address, run string, said *wire.MeasureResult) error {
	id, err := hex.DecodeString(run)
	if err != nil {
		return err
	}
	conn, err := (&net.Dialer{}).DialContext(ctx, "udp", address)
	if err != nil {
		return fmt.Errorf("send packets to %s: %w", address, err)
	}
	defer func() { _ = conn.Close() }()
	sent := make([]time.Time, echoes)
	began := time.Now()
	times := make(chan map[int]time.Duration, 1)
	_ = conn.SetReadDeadline(began.Add(echoes*echoEvery + echoWait))
	go func() {
		back := map[int]time.Duration{}
		b := make([]byte, 200)
		for len(back) < echoes {
			n, err := conn.Read(b)
			if err != nil && !errors.Is(err, net.ErrClosed) && !isTimeout(err) {
				continue // refused at the far end: nothing comes back
			}
			if err != nil {
				break
			}
			if n >= 28 {
				at := int64(binary.BigEndian.Uint64(b[20:28]))
				back[int(binary.BigEndian.Uint32(b[16:20]))] = time.Since(began) - time.Duration(at)
			}
		}
		times <- back
	}()
	for n := range sent {
		b := make([]byte, 200)
		copy(b, id)
		binary.BigEndian.PutUint32(b[16:], uint32(n))
		binary.BigEndian.PutUint64(b[20:], uint64(time.Since(began)))
		_, _ = rand.Read(b[28:])
		_, _ = conn.Write(b) // what cannot be sent is lost
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Until(began.Add(time.Duration(n+1) * echoEvery))):
		}
	}
	told(<-times, said)
	return nil
}

func isTimeout(err error) bool {
	var timeout net.Error
	return errors.As(err, &timeout) && timeout.Timeout()
}

// told sums up the times of the packets that came back, by their numbers.
func told(back map[int]time.Duration, said *wire.MeasureResult) {
	loss := 100 * float64(echoes-len(back)) / echoes
	said.LossPercent = &loss
	if len(back) == 0 {
		return
	}
	var all []float64
	var jitter, pairs float64
	last := -1.0
	for n := range echoes {
		t, came := back[n]
		if !came {
			continue
		}
		ms := float64(t.Microseconds()) / 1000
		if all = append(all, ms); last >= 0 {
			jitter += max(ms-last, last-ms)
			pairs++
		}
		last = ms
	}
	slices.Sort(all)
	median := all[len(all)/2]
	said.LatencyMs = &median
	if pairs > 0 {
		jitter /= pairs
		said.JitterMs = &jitter
	}
}

// down reads what Kaiku sends and returns its rate in Mb/s, the slow start left out.
func (c *Client) down(ctx context.Context, code, run string) (float64, error) {
	ctx, cancel := context.WithTimeout(ctx, 3*flowTime)
	defer cancel()
	resp, err := c.open(ctx, http.MethodGet, "/measure/"+url.PathEscape(code)+"/down?run="+run, nil, nil)
	if err != nil {
		return 0, err
	}
	defer func() { _ = resp.Body.Close() }()
	t, err := wire.Arriving(resp.Body, time.Now().Add(flowTime))
	if err != nil && ctx.Err() != nil {
		return 0, ctx.Err()
	}
	return wire.RateOf(t)
}

// up sends until its time is over; Kaiku counts what arrives.
func (c *Client) up(ctx context.Context, code, run string) error {
	resp, err := c.open(ctx, http.MethodPost, "/measure/"+url.PathEscape(code)+"/up?run="+run, nil, &wire.Noise{Until: time.Now().Add(flowTime)})
	if err != nil {
		return err
	}
	_, err = io.Copy(io.Discard, resp.Body)
	return errors.Join(err, resp.Body.Close())
}
