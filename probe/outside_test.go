package probe

import (
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
)

// The responder calls the home back where it was called from: what is shut is shut for certain, and what answers is left to a person.
func TestTheHomeIsCalledFromOutside(t *testing.T) {
	far := httptest.NewServer(LineResponder("a-token-of-the-firm"))
	defer far.Close()
	asks := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusUnauthorized) }))
	defer asks.Close()
	sealed := httptest.NewTLSServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(http.StatusForbidden) }))
	defer sealed.Close()
	shows := httptest.NewServer(http.NotFoundHandler())
	defer shows.Close()
	mute, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	shut, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	require.NoError(t, shut.Close())
	go func() {
		for {
			c, err := mute.Accept()
			if err != nil {
				return
			}
			_ = c.Close()
		}
	}()
	defer func() { _ = mute.Close() }()

	d := homes.Small().Clone()
	d.Devices[1].Carried = true
	w := dossier.Wish{What: dossier.WishOutsideViewing}
	w.ID = homes.ID[dossier.Wish](800)
	d.Wishes.Put(w)
	tried := func(at net.Addr, far FirmResponder) proving.Result {
		d.Sources[0].OutsidePort, d.Sources[0].OutsideBy = int(netip.MustParseAddrPort(at.String()).Port()), dossier.WayForwarding
		test := planned(d, "outside", d.Paths[0].ID.Ref())
		require.Equal(t, proving.Automatic, test.By)
		r, err := Prober{Guard: Guard{Within: loopback}, Responder: far}.Probe(t.Context(), d, test)
		require.NoError(t, err)
		return r
	}
	known := FirmResponder{URL: far.URL, Token: "a-token-of-the-firm"}
	for name, c := range map[string]struct {
		at       net.Addr
		far      FirmResponder
		outcome  dossier.Outcome
		observed dossier.Observed
	}{
		"nothing listens":          {shut.Addr(), known, dossier.Fail, "outside-refused"},
		"it asks for a password":   {asks.Listener.Addr(), known, dossier.Impossible, "outside-asks"},
		"it asks, by TLS":          {sealed.Listener.Addr(), known, dossier.Impossible, "outside-asks"},
		"it shows a page":          {shows.Listener.Addr(), known, dossier.Impossible, "outside-answers"},
		"it speaks no HTTP":        {mute.Addr(), known, dossier.Impossible, "outside-answers"},
		"no responder":             {asks.Listener.Addr(), FirmResponder{}, dossier.Impossible, "no-responder"},
		"a token that was guessed": {asks.Listener.Addr(), FirmResponder{far.URL, "guessed"}, dossier.Impossible, "responder-failed"},
	} {
		r := tried(c.at, c.far)
		assert.Equal(t, c.outcome, r.Outcome, "%s: %v", name, r)
		assert.Equal(t, c.observed, r.Observed, name)
	}
	d.Sources[0].OutsideBy = dossier.WayRelay
	assert.Equal(t, proving.Eye, planned(d, "outside", d.Paths[0].ID.Ref()).By, "behind a relay there is no port to call")

	// It calls nobody else: what is asked is a port, and without one nothing is called.
	for _, body := range []string{"", "{}", `{"port":0}`, `{"port":70000}`, `{"address":"192.0.2.1"}`} {
		_, err := lineClient{far.URL, "a-token-of-the-firm"}.send(t.Context(), http.DefaultClient, http.MethodPost, "/line/call-back", strings.NewReader(body))
		assert.ErrorIs(t, err, ErrResponder, body)
	}
}
