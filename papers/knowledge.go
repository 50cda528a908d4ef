package papers

import (
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"kaiku/core/knowledge"
)

// mostKnowledge bounds how many sheets, and how many releases, a file may hold.
const mostKnowledge = 5000

// ReadKnowledge reads a file of sheets and releases: JSON of the form kaiku-knowledge/1. What it does not know is an error:
// a sheet that was read by half would be believed by half.
func ReadKnowledge(b []byte) (knowledge.File, error) {
	decoder := json.NewDecoder(bytes.NewReader(bytes.TrimPrefix(b, []byte("\xef\xbb\xbf"))))
	decoder.DisallowUnknownFields()
	var file knowledge.File
	if err := decoder.Decode(&file); errors.Is(err, io.EOF) {
		return knowledge.File{}, errors.New("the file is empty")
	} else if err != nil {
		return knowledge.File{}, jsonError(b, err)
	}
	if _, err := decoder.Token(); !errors.Is(err, io.EOF) {
		return knowledge.File{}, errors.New("something follows after the end of the file's content")
	}
	switch {
	case file.Format != knowledge.FileFormat:
		return knowledge.File{}, fmt.Errorf("the file must say \"format\": %q", knowledge.FileFormat)
	case len(file.Sheets) == 0 && len(file.Releases) == 0:
		return knowledge.File{}, errors.New("the file holds neither sheets nor releases")
	case len(file.Sheets) > mostKnowledge || len(file.Releases) > mostKnowledge:
		return knowledge.File{}, fmt.Errorf("the file holds more than %d sheets or releases", mostKnowledge)
	}
	return file, nil
}

// jsonError says where a file of JSON is wrong.
func jsonError(b []byte, err error) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	line := func(offset int64) int { return 1 + bytes.Count(b[:min(int(offset), len(b))], []byte("\n")) }
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return fmt.Errorf("line %d: the file ends in the middle", line(int64(len(b))))
	case errors.As(err, &syntax):
		return fmt.Errorf("line %d: this is not JSON: %s", line(syntax.Offset), syntax.Error())
	case errors.As(err, &kind):
		return fmt.Errorf("line %d: %s cannot be a %s", line(kind.Offset), cmp.Or(kind.Field, "the file"), kind.Value)
	}
	if name, unknown := strings.CutPrefix(err.Error(), "json: unknown field "); unknown {
		return fmt.Errorf("it says %s, which has no meaning here; check the spelling", name)
	}
	return err
}

// WriteKnowledge writes sheets and releases as such a file.
func WriteKnowledge(file knowledge.File) ([]byte, error) {
	file.Format = knowledge.FileFormat
	var b bytes.Buffer
	encoder := json.NewEncoder(&b)
	encoder.SetEscapeHTML(false)
	encoder.SetIndent("", "  ")
	err := encoder.Encode(file)
	return b.Bytes(), err
}
