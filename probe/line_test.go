package probe

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/homes"
	"kaiku/practice"
	"kaiku/practice/layout"
	"kaiku/wire"
)

func TestTheLineIsMeasuredToAResponder(t *testing.T) {
	far := httptest.NewServer(LineResponder("a-token-of-the-firm"))
	defer far.Close()
	var said []string
	m, err := MeasureLine(t.Context(), far.URL, "a-token-of-the-firm", func(what string) { said = append(said, what) })
	require.NoError(t, err)
	assert.Equal(t, netip.MustParseAddr("127.0.0.1"), m.Seen)
	assert.False(t, m.Seen6.IsValid(), "there is no way by IPv6")
	assert.Positive(t, m.DownMbps)
	assert.Positive(t, m.UpMbps)
	assert.Len(t, said, 3)
	_, err = MeasureLine(t.Context(), far.URL, "guessed", func(string) {})
	require.ErrorIs(t, err, ErrResponder)
	far.Close()
	_, err = MeasureLine(t.Context(), far.URL, "a-token-of-the-firm", func(string) {})
	assert.ErrorContains(t, err, "reach the responder")
}

// The gateway of the practice house tells its outer address by three protocols; a home whose
// segments this machine is not in is not asked, nor one outside of what may be asked.
func TestTheGatewayTellsItsOuterAddress(t *testing.T) {
	h := practice.New(61)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	d := homes.Small().Clone()
	d.Segments[0].Prefix, d.Segments[0].Gateway = h.Segment, h.Gateway.Address.Addr()
	var dialled []netip.AddrPort
	guard := Guard{Within: []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}, record: func(a netip.AddrPort) { dialled = append(dialled, a) }}
	got := map[string]netip.Addr{}
	for _, o := range guard.ForHome(d).OuterAddress(t.Context(), d) {
		require.Empty(t, o.Failure, o.By)
		got[o.By] = o.Address
	}
	assert.Equal(t, map[string]netip.Addr{ByIGD: layout.OuterAddress, ByNATPMP: layout.OuterAddress, ByPCP: layout.OuterAddress}, got)
	for _, a := range dialled {
		assert.True(t, h.Segment.Contains(a.Addr()), a)
	}
	d.Segments[0].Gateway = netip.MustParseAddr("127.77.61.99") // nothing there
	for _, o := range guard.ForHome(d).OuterAddress(t.Context(), d) {
		assert.Equal(t, o.By != ByIGD, o.Failure != "", "%s: %s", o.By, o.Failure)
	}
	d.Segments = dossier.Records[dossier.Segment]{d.Segments[1]}
	assert.Empty(t, guard.ForHome(d).OuterAddress(t.Context(), d), "this machine is not in 10.20.5.0/24")
	assert.Empty(t, Guard{}.ForHome(homes.Small()).OuterAddress(t.Context(), homes.Small()))
}

// A responder that breaks off early has measured nothing, in either direction; no rate of 0 is told.
func TestAResponderThatBreaksOffHasMeasuredNothing(t *testing.T) {
	right := LineResponder("a-token-of-the-firm")
	for name, early := range map[string]string{"towards the home": "/line/down", "from the home": "/line/up"} {
		t.Run(name, func(t *testing.T) {
			far := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
				if r.URL.Path != early {
					right.ServeHTTP(w, r)
				} else if r.Method == http.MethodPost {
					_, _ = io.CopyN(io.Discard, r.Body, 1<<16)
					_ = json.NewEncoder(w).Encode(wire.UpRate{UpMbps: 0})
				} else {
					_, _ = w.Write(make([]byte, 1<<16))
				}
			}))
			defer far.Close()
			_, err := MeasureLine(t.Context(), far.URL, "a-token-of-the-firm", func(string) {})
			require.ErrorIs(t, err, wire.ErrTooLittle)
			require.ErrorContains(t, err, name)
		})
	}
}
