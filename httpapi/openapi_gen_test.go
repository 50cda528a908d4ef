package httpapi_test

import (
	"bytes"
	"encoding/json"
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/httpapi"
	"kaiku/service"
)

var update = flag.Bool("update", false, "write openapi.json anew")

// The checked-in description is what the console's types are made from.
func TestOpenAPIFileIsCurrent(t *testing.T) {
	raw, err := httpapi.New(service.New(nil, service.Options{}), httpapi.Options{Version: "1"}).OpenAPI()
	require.NoError(t, err)
	var pretty bytes.Buffer
	require.NoError(t, json.Indent(&pretty, raw, "", "  "))
	pretty.WriteByte('\n')
	if *update {
		require.NoError(t, os.WriteFile("openapi.json", pretty.Bytes(), 0o644))
		return
	}
	file, err := os.ReadFile("openapi.json")
	require.NoError(t, err)
	assert.True(t, bytes.Equal(file, pretty.Bytes()), "run: make openapi")
}
