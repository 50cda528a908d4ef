package reel_test

import (
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/proving"
	"kaiku/media"
	"kaiku/papers"
	"kaiku/reel"
)

// The forms that the clips are to have, written down by hand.
var forms = map[string]string{
	"h264-1080p25-aac": "mp4 h264 high 1080 25 8 sdr aac-lc 2", "h264-1080p50-aac": "mp4 h264 high 1080 50 8 sdr aac-lc 2", "h264-720p25-aac-index-last": "mp4 h264 main 720 25 8 sdr aac-lc 2",
	"hevc10-hdr-1080p25-aac": "matroska hevc main-10 1080 25 10 pq aac-lc 2 srt", "hevc10-2160p25-aac": "mp4 hevc main-10 2160 25 10 aac-lc 2",
	"mpeg2-576i25-ac3": "mpeg-ts mpeg-2 main 576 25 8 sdr ac-3 2", "h264-1080p25-ac3-51": "mpeg-ts h264 high 1080 25 8 sdr ac-3 6", "mpeg4-576p25-mp3": "avi mpeg-4 simple 576 25 8 sdr mp3 2",
	"vp9-720p25-opus": "webm vp9 profile-0 720 25 8 sdr opus 2", "flac-16-44": "flac flac 2 44100 16", "flac-24-96": "flac flac 2 96000 24", "mp3": "mpeg-audio mp3 2 44100", "vorbis": "ogg vorbis 2 44100",
	"aac": "mp4 aac-lc 2 44100", "jpeg": "jpeg 1080",
}

// Each clip is what it is to be, by the same reader that reads the customer's files.
func TestClipsAreWhatTheySay(t *testing.T) {
	total := int64(0)
	for _, c := range reel.Clips {
		f, err := media.Head(c.Open(), c.Bytes())
		require.NoError(t, err, c.Name)
		e := f.Format
		var said []string
		for _, one := range []any{e.Container, e.Video, e.Profile, e.Height, e.FrameRate, e.BitDepth, e.Range, e.Sound, e.Channels, e.Subtitles} {
			if text := fmt.Sprint(one); text != "" && text != "0" {
				said = append(said, text)
			}
		}
		if e.Video == "" && e.Sound != "" {
			said = append(said, fmt.Sprint(e.SampleRate))
			if e.SoundBits > 0 {
				said = append(said, fmt.Sprint(e.SoundBits))
			}
		}
		assert.Equal(t, forms[c.Name], strings.Join(said, " "), c.Name)
		assert.InDelta(t, c.Seconds, f.Seconds, 0.3, c.Name)
		assert.Equal(t, e, c.Format())
		total += c.Bytes()
	}
	assert.Less(t, total, int64(8<<20))
	assert.GreaterOrEqual(t, len(forms), 14)
	assert.Len(t, reel.Clips, len(forms))
}

func TestCopiesAreCollectedAgain(t *testing.T) {
	dir := t.TempDir()
	first, err := reel.Named("mp3")
	require.NoError(t, err)
	second, err := reel.Named("h264-1080p25-aac")
	require.NoError(t, err)
	clips := []reel.Clip{first, second}
	written, err := reel.Copy(dir, clips)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{first.File, second.File, strings.TrimSuffix(second.File, ".mp4") + ".srt"}, written, "with the subtitles beside it")
	written, err = reel.Copy(dir, clips)
	require.NoError(t, err)
	assert.Empty(t, written, "they are there already")

	own := filepath.Join(dir, "Holiday.mp4")
	require.NoError(t, os.WriteFile(own, []byte("ours"), 0o600))
	changed := filepath.Join(dir, first.File)
	require.NoError(t, os.WriteFile(changed, []byte("not a clip"), 0o600))
	_, err = reel.Copy(dir, clips)
	require.ErrorIs(t, err, reel.ErrInTheWay)
	taken, left, err := reel.Collect(dir)
	require.NoError(t, err)
	assert.Len(t, taken, 2)
	assert.Equal(t, []string{first.File}, left, "what is no clip is left, whatever its name")
	list, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, list, 2)
	_, err = reel.Named("mp4000")
	require.ErrorIs(t, err, reel.ErrNoClip)
	_, _, err = reel.Collect(filepath.Join(dir, "nowhere"))
	require.ErrorIs(t, err, os.ErrNotExist)
	_, err = reel.Copy(filepath.Join(dir, "nowhere"), clips)
	require.ErrorIs(t, err, os.ErrNotExist)
}

func TestClipsAreServed(t *testing.T) {
	s := httptest.NewServer(reel.Handler())
	defer s.Close()
	get := func(path, from string) (*http.Response, []byte) {
		r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, s.URL+path, nil)
		require.NoError(t, err)
		if from != "" {
			r.Header.Set("Range", from)
		}
		resp, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer resp.Body.Close()
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		return resp, b
	}
	_, b := get("/samples.m3u", "")
	list, is := papers.ReadStreamList(b)
	require.True(t, is)
	assert.True(t, list.Ends())
	assert.Len(t, list.Streams, len(reel.Clips)-1, "a still picture is in no list of streams")
	for _, one := range list.Streams {
		path := strings.TrimPrefix(one.URL, s.URL)
		resp, part := get(path, "bytes=0-9")
		assert.Equal(t, http.StatusPartialContent, resp.StatusCode, one.Name)
		assert.Len(t, part, 10)
		c, err := reel.Named(one.Name)
		require.NoError(t, err)
		assert.Equal(t, c.Media, resp.Header.Get("Content-Type"))
	}
	for _, path := range []string{"/" + proving.SamplePrefix + "no.mp4", "/../reel.go", "/clips/", "/"} {
		resp, _ := get(path, "")
		assert.Equal(t, http.StatusNotFound, resp.StatusCode, path)
	}
}
