package e2e

import (
	"testing"

	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/demo"
	"kaiku/wire"
)

// The server of a path is recorded with another port than it has: the page tells so once the network was scanned, and records what was seen.
func TestBothEndsAreReadAndCorrected(t *testing.T) {
	base := startDemo(t)
	api := clientOf(t, base, "petri", demo.Password)
	d, err := api.Dossier(t.Context(), "H-0001")
	require.NoError(t, err)
	id := string(d.Paths[0].Source)
	_, etag, err := api.Show(t.Context(), "H-0001", dossier.KindNamed("source"), id)
	require.NoError(t, err)
	_, err = api.Set(t.Context(), "H-0001", dossier.KindNamed("source"), id, etag, wire.Record{"port": 40211})
	require.NoError(t, err)

	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/paths")
	petri.tap("Whether both ends agree")
	petri.sees("The network was never scanned")
	petri.sees("No scan saw which is right: look at both.")
	petri.tap("Scan the network")
	petri.sees("Not scanned yet.")
	petri.tap("Scan the network")
	petri.sees("Recognised by same UPnP identifier")
	petri.open("/households/H-0001/paths/ends")
	petri.sees("The server answers with 40210, and 40211 is recorded of it.")
	petri.picture("ends-desk")
	petri.audit("both ends")
	petri.tap("Record what was seen")
	petri.seesNot("40211")
	petri.sees("agree")

	tilit := newScreen(t, base, phone)
	tilit.logIn("tilit")
	tilit.open("/households/H-0001/paths/ends")
	tilit.sees("The server answered the latest scan.")
	tilit.picture("ends-phone")
	tilit.audit("both ends, on the phone")
}
