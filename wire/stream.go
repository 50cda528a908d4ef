package wire

import (
	"crypto/rand"
	"errors"
	"io"
	"time"

	"kaiku/core/throughput"
)

// ErrTooLittle says that too little arrived to tell a rate: nothing was measured, and nothing is to be stored.
var ErrTooLittle = errors.New("too little arrived in the time to tell a rate, so nothing was measured")

// RateOf is the rate in Mb/s of what arrived, or ErrTooLittle.
func RateOf(m throughput.Meter) (float64, error) {
	mbps, known := m.Rate()
	if !known || mbps <= 0 {
		return 0, ErrTooLittle
	}
	return mbps, nil
}

// Arriving counts what arrives until its end or a time.
func Arriving(r io.Reader, until time.Time) (throughput.Meter, error) {
	var t throughput.Meter
	b := make([]byte, 16<<10)
	for time.Now().Before(until) {
		n, err := r.Read(b)
		t.Add(time.Now(), n)
		if errors.Is(err, io.EOF) {
			return t, nil
		}
		if err != nil {
			return t, err
		}
	}
	return t, nil
}

// Noise is what is sent while measuring, until a time: bytes that nothing on the way can make fewer.
type Noise struct {
	Until time.Time
	bytes []byte
}

// Read implements io.Reader.
func (n *Noise) Read(b []byte) (int, error) {
	if !time.Now().Before(n.Until) {
		return 0, io.EOF
	}
	if n.bytes == nil {
		n.bytes = make([]byte, 64<<10)
		_, _ = rand.Read(n.bytes) // never fails
	}
	return copy(b, n.bytes), nil
}
