package httpapi_test

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/wire"
)

// A photograph 4000 wide whose EXIF says that it lies on its side, with a position in it.
func photograph(t *testing.T) []byte {
	picture := image.NewRGBA(image.Rect(0, 0, 4000, 1000))
	for x := range 4000 {
		picture.Set(x, x%1000, color.RGBA{R: 200, A: 255})
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, picture, nil))
	// TIFF header, one entry: orientation (0x0112) SHORT 6, turn right to be upright; then text that stands for a position.
	exif := "Exif\x00\x00MM\x00*\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00GPS 60.0000 19.0000"
	head := []byte{0xff, 0xd8, 0xff, 0xe1, 0, byte(len(exif) + 2)}
	return append(append(head, exif...), b.Bytes()[2:]...)
}

func TestPhotographsAreKeptUprightScaledAndWithoutPosition(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	about := wire.NewAttachment{Subject: dossier.Ref{Kind: "device", ID: ids["device"]}, Caption: "Label", FileName: "p.jpg"}
	made, err := petri.AddAttachment(ctx, "H-0701", about, photograph(t))
	require.NoError(t, err)
	assert.Equal(t, [2]int{640, 2560}, [2]int{made.Width, made.Height}, "turned and scaled")
	assert.Equal(t, "image/jpeg", made.MediaType)
	body, err := petri.AttachmentBody(ctx, "H-0701", made.ID, false)
	require.NoError(t, err)
	assert.Len(t, body, made.Bytes)
	assert.NotContains(t, string(body), "GPS")
	assert.NotContains(t, string(body), "Exif")
	small, err := petri.AttachmentBody(ctx, "H-0701", made.ID, true)
	require.NoError(t, err)
	size, _, err := image.DecodeConfig(bytes.NewReader(small))
	require.NoError(t, err)
	assert.Equal(t, 360, size.Height)
	log, err := petri.AddAttachment(ctx, "H-0701", wire.NewAttachment{Subject: about.Subject, Caption: "Log"}, []byte("21:14 index ended\n"))
	require.NoError(t, err)
	assert.Equal(t, "text/plain; charset=utf-8", log.MediaType)

	resp := s.request("petri", "GET", "/api/v1/households/H-0701/attachments/"+string(made.ID)+"/body", nil, nil)
	require.NoError(t, resp.Body.Close())
	assert.Equal(t, "image/jpeg", resp.Header.Get("Content-Type"))
	again := s.request("petri", "GET", "/api/v1/households/H-0701/attachments/"+string(made.ID)+"/body", nil, map[string]string{"If-None-Match": resp.Header.Get("ETag")})
	require.NoError(t, again.Body.Close())
	assert.Equal(t, 304, again.StatusCode)

	// What it belonged to goes, it goes along; the journal still knows it, and its body stays.
	_, etag, err := petri.Show(ctx, "H-0701", dossier.KindNamed("path"), ids["path"])
	require.NoError(t, err)
	require.NoError(t, petri.Remove(ctx, "H-0701", dossier.KindNamed("path"), ids["path"], etag))
	_, etag, err = petri.Show(ctx, "H-0701", dossier.KindNamed("device"), ids["device"])
	require.NoError(t, err)
	require.NoError(t, petri.Remove(ctx, "H-0701", dossier.KindNamed("device"), ids["device"], etag))
	_, err = petri.AttachmentBody(ctx, "H-0701", made.ID, false)
	assert.True(t, client.IsProblem(err, "no-such-record"), "%v", err)
}

func TestWhatIsNoPhotographIsRefused(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	about := wire.NewAttachment{Subject: dossier.Ref{Kind: "room", ID: ids["room"]}, Caption: "x"}
	for name, c := range map[string]struct {
		body []byte
		code string
	}{
		"nothing":               {nil, "bad-request"},
		"a program":             {[]byte("\x7fELF\x02\x01\x01"), "not-attachable"},
		"a page":                {[]byte("<html><script>alert(1)</script>"), "not-attachable"},
		"half a photograph":     {photograph(t)[:600], "picture-damaged"},
		"a photograph of 40 MB": {append(photograph(t), make([]byte, 40<<20)...), "too-large"},
		"100 MB of text":        {bytes.Repeat([]byte("x"), 100<<20), "too-large"},
	} {
		_, err := petri.AddAttachment(ctx, "H-0701", about, c.body)
		assert.True(t, client.IsProblem(err, c.code), "%s: %v", name, err)
	}
	// 33 bytes that say they are 40,000 x 40,000 pixels.
	head := "IHDR\x00\x00\x9c\x40\x00\x00\x9c\x40\x08\x02\x00\x00\x00"
	bomb := binary.BigEndian.AppendUint32([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d"+head), crc32.ChecksumIEEE([]byte(head)))
	_, err := petri.AddAttachment(ctx, "H-0701", about, bomb)
	assert.True(t, client.IsProblem(err, "picture-too-large"), "%v", err)
	about.Subject.ID = "01890000-0001-7000-8000-00000000ffff"
	_, err = petri.AddAttachment(ctx, "H-0701", about, []byte("text"))
	assert.True(t, client.IsProblem(err, "not-valid"), "%v", err)
	list, err := petri.Dossier(ctx, "H-0701")
	require.NoError(t, err)
	assert.Empty(t, list.Attachments, "nothing refused left a record")
}

func TestSecretsAreShownForAReasonAndNowhereElse(t *testing.T) {
	s := newSite(t, nil)
	ids := s.home("H-0701")
	ctx, petri := t.Context(), s.as["petri"]
	const body = "amber-quay-1949"
	made, err := petri.AddSecret(ctx, "H-0701", wire.NewSecret{Name: "share password", Kind: dossier.SecretPassword, Device: dossier.ID[dossier.Device](ids["server"]), Body: body})
	require.NoError(t, err)
	shown, err := petri.RevealSecret(ctx, "H-0701", made.ID, "the customer lost it")
	require.NoError(t, err)
	assert.Equal(t, body, shown.Body)
	_, err = s.as["tilit"].RevealSecret(ctx, "H-0701", made.ID, "curious")
	assert.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	_, err = petri.RevealSecret(ctx, "H-0701", made.ID, "")
	assert.True(t, client.IsProblem(err, "not-valid"), "a reason is needed: %v", err)
	now, err := petri.RotateSecret(ctx, "H-0701", made.ID, wire.SecretBody{Body: "other"})
	require.NoError(t, err)
	assert.NotEqual(t, made.SealedAs, now.SealedAs)
	shown, err = petri.RevealSecret(ctx, "H-0701", made.ID, "to see")
	require.NoError(t, err)
	assert.Equal(t, "other", shown.Body)
	for _, place := range []string{"/households/H-0701/secrets", "/households/H-0701/journal"} {
		resp := s.request("petri", http.MethodGet, "/api/v1"+place, nil, nil)
		text, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.NotContains(t, string(text), body, place)
	}
	journal, err := petri.Journal(ctx, "H-0701", nil)
	require.NoError(t, err)
	text, err := json.Marshal(journal)
	require.NoError(t, err)
	assert.Contains(t, string(text), "the customer lost it", "the look is in the journal, with its reason")
}

func TestALeadSetsATestAside(t *testing.T) {
	s := newSite(t, prober{dossier.Pass})
	ids := s.home("H-0701")
	ctx := t.Context()
	test := testID("plays", ids)
	_, err := s.as["petri"].WaiveTest(ctx, "H-0701", wire.NewWaiver{Test: test, Why: "x"})
	assert.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	_, err = s.as["ilona"].WaiveTest(ctx, "H-0701", wire.NewWaiver{Test: test, Why: "x"})
	assert.True(t, client.IsProblem(err, "not-allowed"), "a coordinator sets nothing aside: %v", err)
	got, err := s.as["aino"].WaiveTest(ctx, "H-0701", wire.NewWaiver{Test: test, Why: "screen is away for repair", Until: "2026-12-24"})
	require.NoError(t, err)
	assert.Equal(t, "waived", string(got.Status))
	assert.Equal(t, "Aino Saarni", got.Waiver.By)
	plan, err := s.as["petri"].Plan(ctx, "H-0701")
	require.NoError(t, err)
	assert.Equal(t, 1, plan.Coverage.Waived)
	assert.Equal(t, 0, plan.Coverage.Proven, "set aside is not proven")
	got, err = s.as["aino"].RequireTest(ctx, "H-0701", test)
	require.NoError(t, err)
	assert.Equal(t, "untried", string(got.Status))
	_, err = s.as["aino"].RequireTest(ctx, "H-0701", test)
	assert.True(t, client.IsProblem(err, "not-waived"), "%v", err)
}

// A visit gives its technician the right to write on that day, the day before and the day after.
func TestAVisitGivesTheRightToWrite(t *testing.T) {
	s := newSite(t, nil)
	s.home("H-0701")
	ctx, room := t.Context(), dossier.KindNamed("room")
	_, err := s.as["maarit"].Add(ctx, "H-0701", room, wire.Record{"name": "attic"})
	require.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	visit, err := s.as["ilona"].Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "survey", "technician": "maarit", "starts": time.Now().Format(time.RFC3339)})
	require.NoError(t, err)
	assert.NotEqual(t, "maarit", visit["technician"], "a log-in name becomes the person")
	_, err = s.as["maarit"].Add(ctx, "H-0701", room, wire.Record{"name": "attic"})
	require.NoError(t, err)
	overview, err := s.as["maarit"].Overview(ctx, "H-0701")
	require.NoError(t, err)
	assert.True(t, overview.MayWrite)

	// It gives no right to further visits: not by adding one, moving one or by a document.
	_, err = s.as["maarit"].Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "more", "technician": "maarit", "starts": time.Now().Add(48 * time.Hour).Format(time.RFC3339)})
	require.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	_, err = s.as["maarit"].Set(ctx, "H-0701", dossier.KindNamed("visit"), visit["id"].(string), fmt.Sprintf(`"%v"`, visit["revision"]), wire.Record{"starts": time.Now().Add(24 * time.Hour).Format(time.RFC3339)})
	require.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	_, err = s.as["maarit"].Apply(ctx, "H-0701", []byte("visits:\n- {purpose: more, technician: maarit, starts: 2030-01-01T09:00:00Z}\n"), false)
	require.True(t, client.IsProblem(err, "not-allowed"), "%v", err)
	visit, err = s.as["maarit"].Set(ctx, "H-0701", dossier.KindNamed("visit"), visit["id"].(string), fmt.Sprintf(`"%v"`, visit["revision"]), wire.Record{"outcome": "surveyed"})
	require.NoError(t, err, "what came of it can be said")
	_, err = s.as["ilona"].Set(ctx, "H-0701", dossier.KindNamed("visit"), visit["id"].(string), fmt.Sprintf(`"%v"`, visit["revision"]), wire.Record{"cancelled": true})
	require.NoError(t, err)
	_, err = s.as["maarit"].Add(ctx, "H-0701", room, wire.Record{"name": "loft"})
	require.True(t, client.IsProblem(err, "not-allowed"), "called off: %v", err)
	_, err = s.as["ilona"].Add(ctx, "H-0701", dossier.KindNamed("visit"), wire.Record{"purpose": "survey", "technician": "nobody", "starts": time.Now().Format(time.RFC3339)})
	assert.True(t, client.IsProblem(err, "not-valid"), "%v", err)
	assert.ErrorContains(t, err, "there is no nobody in the firm")
}
