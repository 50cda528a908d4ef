package multicast

import (
	"fmt"
	"net"
	"net/netip"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestOnlyTheGroupIsHeard has two that hear one group on loopback: each hears what is sent to it,
// and nothing of another group on the same port, nor what is sent to an address.
func TestOnlyTheGroupIsHeard(t *testing.T) {
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	group := &net.UDPAddr{IP: net.IPv4(239, 255, 77, 1), Port: 17901}
	other := &net.UDPAddr{IP: net.IPv4(239, 255, 77, 2), Port: 17901}
	own := netip.MustParseAddr("127.77.1.9")
	var ears []*Ear
	for _, g := range []*net.UDPAddr{group, group, other} {
		e, err := Hear(g, lo)
		require.NoError(t, err)
		defer e.Close()
		require.NoError(t, e.SetReadDeadline(time.Now().Add(10*time.Second)))
		ears = append(ears, e)
	}
	speak, err := Speak(netip.AddrPortFrom(own, 0), lo, 1)
	require.NoError(t, err)
	defer speak.Close()
	for i, to := range []*net.UDPAddr{other, {IP: net.IPv4(127, 0, 0, 1), Port: group.Port}, group} {
		_, err := speak.WriteTo(fmt.Appendf(nil, "packet %d", i), to)
		require.NoError(t, err)
	}
	b := make([]byte, 100)
	for i, want := range []string{"packet 2", "packet 2", "packet 0"} {
		n, from, err := ears[i].Next(b)
		require.NoError(t, err)
		assert.Equal(t, want, string(b[:n]))
		assert.Equal(t, own, from.Addr(), "it is sent from the own address")
	}
}

func TestAnEarEnds(t *testing.T) {
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	e, err := Hear(&net.UDPAddr{IP: net.IPv4(239, 255, 77, 1), Port: 17902}, lo)
	require.NoError(t, err)
	ended := make(chan error)
	go func() {
		_, _, err := e.Next(make([]byte, 100))
		ended <- err
	}()
	require.NoError(t, e.Close())
	assert.ErrorIs(t, <-ended, net.ErrClosed)
}

func TestAnAddressOfNobodyCannotSpeak(t *testing.T) {
	lo, err := net.InterfaceByName("lo")
	require.NoError(t, err)
	_, err = Speak(netip.MustParseAddrPort("192.0.2.1:1900"), lo, 1) // RFC 5737
	assert.ErrorContains(t, err, "open a socket on 192.0.2.1:1900")
}
