package matching_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/dossier"
	"kaiku/core/matching"
)

func TestWhatADeviceDeclares(t *testing.T) {
	for _, c := range []struct {
		name, sink string
		want       []string
		offered    []dossier.ContentKind
	}{
		{"a screen", `http-get:*:video/mp4;codecs="avc1.64001F, mp4a.40.2":*,http-get:*:video/x-matroska:*,http-get:*:image/jpeg:*`, []string{"container jpeg", "container matroska", "container mp4", "video h264", "sound aac-lc"}, nil},
		{"a music player", "http-get:*:audio/mpeg:*,http-get:*:audio/FLAC:*", []string{"sound flac", "sound mp3"}, []dossier.ContentKind{dossier.Music}},
		{"a photo frame", "http-get:*:image/jpeg:*,http-get:*:image/png:*", []string{"container jpeg", "container png"}, []dossier.ContentKind{dossier.Photo}},
		{"a double and more than one way", "http-get:*:audio/mpeg:X=1,http-get:*:audio/mpeg:X=2,rtsp-rtp-udp:*:video/mp4:*,internal:*:audio/flac:*", []string{"sound mp3"}, []dossier.ContentKind{dossier.Music}},
		{"everything is nothing", "http-get:*:*:*", nil, nil},
		{"rubbish", ",,:::,http-get,http-get:*:;;;:*,\x00", nil, nil},
		{"nothing", "", nil, nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := matching.Declared(c.sink)
			var said []string
			for _, e := range got {
				assert.Equal(t, dossier.EvidenceDeclared, e.Evidence)
				said = append(said, string(e.Part)+" "+string(e.Format))
			}
			assert.Equal(t, c.want, said)
			assert.Equal(t, c.offered, matching.OfferedFor(got))
		})
	}
}

func TestContentByClassThenByTitle(t *testing.T) {
	for _, c := range []struct {
		title string
		class []string
		want  dossier.ContentKind
	}{
		{"Films", []string{"object.item.videoItem.movie"}, dossier.Film},
		{"Series", []string{"object.item.videoItem.movie", "object.item.videoItem"}, dossier.Series},
		{"From the pier", []string{"object.item.videoItem"}, dossier.HomeVideo},
		{"Films", []string{"object.item.audioItem.musicTrack", "object.item.audioItem.musicTrack", "object.item.videoItem"}, dossier.Music},
		{"Channels", []string{"object.item.videoItem.videoBroadcast"}, dossier.LiveTV},
		{"Photos", nil, dossier.Photo},
		{"Things", nil, ""},
		{"Things", []string{"object.item.videoItemX"}, ""},
	} {
		assert.Equal(t, c.want, matching.ContentOf(c.title, c.class), c)
	}
}

func TestProductsOfAServerLine(t *testing.T) {
	assert.Equal(t, []matching.Product{{"Kuunari", "6"}, {"Ahtola", "2.6"}}, matching.Products("Kuunari/6 UPnP/1.1 Ahtola/2.6"))
	assert.Equal(t, []matching.Product{{"Kuunari", "6"}, {"Ahtola", "2.6"}}, matching.Products("Kuunari/6, UPnP/1.0, Ahtola/2.6 (a comment (in one) here)"))
	assert.Equal(t, []matching.Product{{"Rantatie", ""}}, matching.Products(") Rantatie"))
	assert.Empty(t, matching.Products("\x00 / ("))
}

func FuzzDeclared(f *testing.F) {
	f.Add(`http-get:*:video/mp4;codecs="avc1":*`, "Kuunari/6 UPnP/1.1 A/1 (x")
	f.Fuzz(func(t *testing.T, sink, line string) {
		for _, e := range matching.Declared(sink) {
			assert.NotEmpty(t, e.Format)
		}
		assert.LessOrEqual(t, len(matching.Products(line)), 8)
	})
}
