package probe

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestWhereIsReadFromTheSystemsFiles(t *testing.T) {
	gateways, err := readRoutes(strings.NewReader("Iface\tDestination\tGateway\tFlags\neth0\t00000000\t0104140A\t0003\neth0\t0004140A\t00000000\t0001\neth1\t00000000\tzz\t0003\n"))
	require.NoError(t, err)
	require.Len(t, gateways, 1)
	assert.Equal(t, "10.20.4.1", gateways[0].String())

	names, err := readResolver(strings.NewReader("# made by hand\nnameserver 10.20.4.1\nsearch home\nnameserver nonsense\n"))
	require.NoError(t, err)
	require.Len(t, names, 1)

	dir := t.TempDir()
	for name, text := range map[string]string{
		"dhclient.eth0.leases":       "lease {\n  interface \"eth0\";\n  fixed-address 10.20.4.70;\n  option dhcp-server-identifier 10.20.4.1;\n}\nlease {\n  interface \"eth0\";\n  fixed-address 10.20.4.77;\n  option dhcp-server-identifier 10.20.4.254;\n}\n",
		"internal-0f-wlan0.lease":    "# This is private data.\nADDRESS=10.20.4.78\nSERVER_ADDRESS=10.20.4.1\n",
		"internal-broken-eth9.lease": "ADDRESS=nonsense\n",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	got, err := leases([]string{filepath.Join(dir, "dhclient*"), filepath.Join(dir, "internal-*"), filepath.Join(dir, "absent*")})
	require.NoError(t, err)
	require.Len(t, got, 2)
	assert.Equal(t, "eth0 10.20.4.77 10.20.4.254", got[0].Adapter+" "+got[0].Address.String()+" "+got[0].Server.String(), "the last lease counts")
	assert.Equal(t, "wlan0 10.20.4.78 10.20.4.1", got[1].Adapter+" "+got[1].Address.String()+" "+got[1].Server.String())

	_, err = Where()
	require.NoError(t, err, "whatever this machine is")
}

// Whatever stands in a lease file, reading it ends with leases that are whole.
func FuzzReadLeases(f *testing.F) {
	f.Add("lease {\n interface \"eth0\";\n fixed-address 10.20.4.70;\n}\n")
	f.Add("ADDRESS=10.20.4.78\nSERVER_ADDRESS=10.20.4.1\n")
	f.Fuzz(func(t *testing.T, text string) {
		for _, l := range readLeases("internal-x-eth0.lease", text) {
			require.True(t, l.Address.IsValid())
			require.NotEmpty(t, l.Adapter)
		}
	})
}
