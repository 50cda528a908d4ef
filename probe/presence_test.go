package probe

import (
	"encoding/binary"
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"golang.org/x/sys/unix"

	"kaiku/core/dossier"
)

// entry is a message of the neighbour table (linux/neighbour.h) of a host that answered so long ago.
func entry(at string, hardware []byte, state uint16, ago time.Duration) []byte {
	b := make([]byte, neighbourHeader)
	binary.NativeEndian.PutUint16(b[8:], state)
	add := func(kind uint16, value []byte) {
		head := make([]byte, 4)
		binary.NativeEndian.PutUint16(head, uint16(4+len(value)))
		binary.NativeEndian.PutUint16(head[2:], kind)
		b = append(append(b, head...), value...)
		b = append(b, make([]byte, (4-len(value)%4)%4)...)
	}
	add(attrDestination, netip.MustParseAddr(at).AsSlice())
	if hardware != nil {
		add(attrHardware, hardware)
	}
	times := make([]byte, 16)
	binary.NativeEndian.PutUint32(times, uint32(ago/(time.Second/ticks)))
	add(attrTimes, times)
	return b
}

// Only an answer since the scan began says that a host is there.
func TestWhatTheNeighbourTableProves(t *testing.T) {
	hardware := []byte{2, 0x4b, 0x49, 0, 0, 0x10}
	now := time.Now()
	began := now.Add(-5 * time.Second)
	for _, c := range []struct {
		name     string
		state    uint16
		hardware []byte
		ago      time.Duration
		here     bool
		settled  bool
	}{
		{"answered during the scan", unix.NUD_REACHABLE, hardware, 2 * time.Second, true, true},
		{"answered during the scan, and may be asked again", unix.NUD_STALE, hardware, 4 * time.Second, true, true},
		{"answered before", unix.NUD_STALE, hardware, 300 * time.Second, false, true},
		{"trusted from before", unix.NUD_REACHABLE, hardware, 10 * time.Second, false, true},
		{"being asked", unix.NUD_PROBE, hardware, 300 * time.Second, false, false},
		{"about to be asked", unix.NUD_DELAY, hardware, 300 * time.Second, false, false},
		{"gone", unix.NUD_FAILED, nil, time.Second, false, true},
		{"nobody has answered yet", unix.NUD_INCOMPLETE, nil, time.Second, false, false},
	} {
		for _, at := range []string{"10.20.4.10", "fe80::10"} {
			n, ok := readNeighbour(entry(at, c.hardware, c.state, c.ago), now)
			assert.True(t, ok, c.name)
			assert.Equal(t, at, n.address.String(), c.name)
			assert.Equal(t, c.here, n.here(began), c.name)
			assert.Equal(t, c.settled, n.settled(), c.name)
			if c.hardware != nil {
				assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:00:10"), n.hardware)
			}
		}
	}
	_, ok := readNeighbour([]byte{1, 2, 3}, now)
	assert.False(t, ok)
}

func TestWhatARPSays(t *testing.T) {
	reply := []byte{0, 1, 8, 0, 6, 4, 0, arpReply, 2, 0x4b, 0x49, 0, 0, 0x10, 10, 20, 4, 10, 2, 0x4b, 0x49, 0, 0, 2, 10, 20, 4, 2}
	at, hardware, ok := readARP(reply)
	assert.True(t, ok)
	assert.Equal(t, "10.20.4.10", at.String())
	assert.Equal(t, dossier.HardwareAddr("02:4b:49:00:00:10"), hardware)
	for n := range reply[:8] {
		wrong := append([]byte(nil), reply...)
		wrong[n] ^= 0x40
		_, _, ok := readARP(wrong)
		assert.False(t, ok, n)
	}
	_, _, ok = readARP(reply[:27])
	assert.False(t, ok)
}
