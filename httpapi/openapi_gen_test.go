package httpapi_test

import (
	"bytes"
	"encoding/json"
	"flag"
	"os"
	"testing"

	"github.com/pb33f/libopenapi"
	"github.com/pb33f/libopenapi-validator/schema_validation"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/httpapi"
	"kaiku/service"
)

var update = flag.Bool("update", false, "write openapi.json anew")

func TestOpenAPIIsValid(t *testing.T) {
	raw, err := os.ReadFile("openapi.json")
	require.NoError(t, err)
	doc, err := libopenapi.NewDocument(raw)
	require.NoError(t, err)
	_, err = doc.BuildV3Model()
	require.NoError(t, err, "every reference resolves")
	valid, faults := schema_validation.ValidateOpenAPIDocument(doc)
	for _, f := range faults {
		t.Error(f.Message, f.Reason, f.SchemaValidationErrors)
	}
	assert.True(t, valid)

	broken := bytes.Replace(raw, []byte(`"in": "path"`), []byte(`"in": "pocket"`), 1)
	doc, err = libopenapi.NewDocument(broken)
	require.NoError(t, err)
	valid, _ = schema_validation.ValidateOpenAPIDocument(doc)
	assert.False(t, valid, "the check can fail")
}

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
