package makers

import (
	"bytes"
	"compress/gzip"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
)

func TestWhoseAPrefixIs(t *testing.T) {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	_, err := z.Write([]byte("004B49\tLighthouse  Instruments\nnonsense\n70B3D5\tIEEE Registration Authority\n"))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	assert.Equal(t, map[string]string{"004B49": "Lighthouse Instruments"}, read(b.Bytes()), "a block that is given on in parts names nobody")
	assert.Nil(t, read([]byte("not a table")))
	for a, want := range map[dossier.HardwareAddr]string{"02:4b:49:00:00:10": Private, "da:00:00:00:00:01": Private, "": "", "02:4b": ""} {
		assert.Equal(t, want, Of(a), a)
	}
}
