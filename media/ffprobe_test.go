package media_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/format"
	"kaiku/media"
)

type probedStream struct {
	Type        string            `json:"codec_type"`
	Codec       string            `json:"codec_name"`
	Profile     string            `json:"profile"`
	Level       int               `json:"level"`
	Width       int               `json:"width"`
	Height      int               `json:"height"`
	Pixels      string            `json:"pix_fmt"`
	Fields      string            `json:"field_order"`
	Transfer    string            `json:"color_transfer"`
	Average     string            `json:"avg_frame_rate"`
	Channels    int               `json:"channels"`
	Rate        string            `json:"sample_rate"`
	Bits        int               `json:"bits_per_sample"`
	RawBits     string            `json:"bits_per_raw_sample"`
	Tags        map[string]string `json:"tags"`
	Disposition map[string]int    `json:"disposition"`
}

// probed is what ffprobe says of a file, as far as it is compared.
type probed struct {
	Streams []probedStream `json:"streams"`
	Format  struct {
		Name     string `json:"format_name"`
		Duration string `json:"duration"`
	} `json:"format"`
}

var (
	containers = map[string]dossier.Container{"mpegts": dossier.MPEGTS, "mpeg": dossier.MPEGPS, "avi": dossier.AVI, "flac": dossier.FLACFile, "mp3": dossier.MPEGAudio, "ogg": dossier.Ogg, "aac": dossier.ADTS, "wav": dossier.Wave,
		"aiff": dossier.AIFF, "png_pipe": dossier.PNG, "gif": dossier.GIF, "webp_pipe": dossier.WebP, "image2": dossier.JPEG, "jpeg_pipe": dossier.JPEG}
	pictures = map[string]dossier.VideoCodec{"mpeg2video": dossier.MPEG2, "mpeg1video": dossier.MPEG1, "mpeg4": dossier.MPEG4}
	sounds   = map[string]dossier.SoundCodec{"aac": dossier.AAC, "ac3": dossier.AC3, "eac3": dossier.EAC3, "truehd": dossier.MLP, "dts": dossier.DCA, "pcm_s16le": dossier.PCM, "pcm_s24le": dossier.PCM, "pcm_s16be": dossier.PCM}
	written  = map[string]dossier.SubtitleForm{"subrip": dossier.SubRip, "mov_text": dossier.TimedText}
	profiles = map[string]dossier.VideoProfile{"Constrained Baseline": "constrained-baseline", "Main 10": "main-10", "High 10": "high-10", "High 4:2:2": "high-4:2:2", "High 4:4:4 Predictive": "high-4:4:4", "Rext": "range-extensions",
		"Advanced Simple Profile": "advanced-simple", "Simple Profile": "simple", "Profile 0": "profile-0", "Profile 1": "profile-1", "Profile 2": "profile-2"}
)

// level returns a level as the standard writes it: ffprobe gives the number that is in the file.
func level(codec string, n int) string {
	switch codec {
	case "h264", "av1", "mpeg2video":
	case "hevc":
		return strconv.FormatFloat(float64(n)/30, 'f', -1, 64)
	default:
		return ""
	}
	switch codec {
	case "av1":
		return format.AV1Level(n)
	case "mpeg2video":
		return map[int]string{8: "main", 4: "high", 6: "high-1440", 10: "low"}[n]
	}
	return strconv.FormatFloat(float64(n)/10, 'f', -1, 64)
}

// read turns what ffprobe says into what the reader should say. A value of none is not compared.
func (p probed) read() (dossier.FormatEntry, float64) {
	var e dossier.FormatEntry
	e.Container = containers[p.Format.Name]
	seconds, _ := strconv.ParseFloat(p.Format.Duration, 64)
	still := strings.HasSuffix(p.Format.Name, "_pipe") || p.Format.Name == "image2" || p.Format.Name == "gif"
	streams := slices.Clone(p.Streams)
	slices.SortStableFunc(streams, func(a, b probedStream) int {
		return b.Disposition["default"] - a.Disposition["default"]
	})
	for _, s := range streams {
		switch s.Type {
		case "video":
			e.Width, e.Height = s.Width, s.Height
			if still {
				seconds = 0
				continue
			}
			e.Video = pictures[s.Codec]
			if e.Video == "" {
				e.Video = dossier.VideoCodec(s.Codec)
			}
			e.Profile = profiles[s.Profile]
			if e.Profile == "" {
				e.Profile = dossier.VideoProfile(strings.ToLower(s.Profile))
			}
			e.Level = level(s.Codec, s.Level)
			up, down, _ := strings.Cut(s.Average, "/")
			n, _ := strconv.ParseFloat(up, 64)
			d, _ := strconv.ParseFloat(down, 64)
			e.FrameRate = n / d
			e.BitDepth = 8
			if strings.Contains(s.Pixels, "10le") {
				e.BitDepth = 10
			}
			for digits, c := range map[string]dossier.Chroma{"420": "4:2:0", "422": "4:2:2", "444": "4:4:4"} {
				if strings.Contains(s.Pixels, digits) {
					e.Chroma = c
				}
			}
			switch s.Transfer {
			case "smpte2084":
				e.Range = dossier.PQ
			case "arib-std-b67":
				e.Range = dossier.HLG
			}
			switch s.Fields {
			case "progressive":
				e.Interlaced = dossier.No
			case "tt", "tb", "bb", "bt":
				e.Interlaced = dossier.Yes
			}
		case "audio":
			if e.Sound != "" {
				continue
			}
			e.Sound = sounds[s.Codec]
			if e.Sound == "" {
				e.Sound = dossier.SoundCodec(s.Codec)
			}
			e.Channels = s.Channels
			e.SampleRate, _ = strconv.Atoi(s.Rate)
			if e.Sound == dossier.PCM || e.Sound == dossier.FLAC || e.Sound == dossier.ALAC {
				if e.SoundBits = s.Bits; e.SoundBits == 0 {
					e.SoundBits, _ = strconv.Atoi(s.RawBits)
				}
			}
		case "subtitle":
			if e.Subtitles != "" {
				continue
			}
			if e.Subtitles = written[s.Codec]; e.Subtitles == "" {
				e.Subtitles = dossier.SubtitleForm(s.Codec)
			}
		}
	}
	return e, seconds
}

// explained are the differences that are right, or that neither can know.
var explained = map[string]string{
	"h264-aac.ts seconds":              "from the first clock to the last; ffprobe adds the last frame of sound",
	"hevc.ts seconds":                  "likewise",
	"h264.avi seconds":                 "the length of the picture; ffprobe takes the longer one of the sound, with its padding",
	"h264-changing-rate.mp4 frameRate": "frames by the length that the file states; ffprobe leaves the last frame out of the length",
	"h264-disc.m2ts container":         "ffprobe calls both forms of a transport stream mpegts",
}

// Every field of every clip is what an independent reader says, or the difference is explained. What that reader says
// is committed beside the clips; where it is installed it is asked again.
func TestTheReaderAgreesWithAnother(t *testing.T) {
	clips, err := filepath.Glob("testdata/clips/*.json")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(clips), 60)
	program, _ := exec.LookPath("ffprobe")
	compared, used := 0, map[string]bool{}
	for _, name := range clips {
		clip := strings.TrimSuffix(name, ".json")
		base := filepath.Base(clip)
		said, err := os.ReadFile(name)
		require.NoError(t, err)
		if program != "" {
			said, err = exec.Command(program, "-v", "error", "-show_format", "-show_streams", "-of", "json", clip).Output()
			require.NoError(t, err)
		}
		var p probed
		require.NoError(t, json.Unmarshal(said, &p))
		want, seconds := p.read()
		body, err := os.ReadFile(clip)
		require.NoError(t, err)
		got, err := media.Head(bytes.NewReader(body), int64(len(body)))
		require.NoError(t, err, base)
		e := got.Format
		for _, c := range []struct {
			field     string
			want, got any
		}{
			{"container", want.Container, e.Container}, {"video", want.Video, e.Video}, {"profile", want.Profile, e.Profile}, {"level", want.Level, e.Level}, {"width", want.Width, e.Width}, {"height", want.Height, e.Height},
			{"frameRate", fmt.Sprintf("%.2f", want.FrameRate), fmt.Sprintf("%.2f", e.FrameRate)}, {"bitDepth", want.BitDepth, e.BitDepth}, {"chroma", want.Chroma, e.Chroma}, {"range", want.Range, e.Range},
			{"interlaced", want.Interlaced, e.Interlaced}, {"sound", want.Sound, e.Sound}, {"channels", want.Channels, e.Channels}, {"sampleRate", want.SampleRate, e.SampleRate},
			{"soundBits", want.SoundBits, e.SoundBits}, {"subtitles", want.Subtitles, e.Subtitles},
		} {
			if empty := fmt.Sprint(c.want); empty == "" || empty == "0" || empty == "NaN" || empty == "0.00" {
				continue // the other reader does not say
			}
			compared++
			if c.want != c.got {
				key := base + " " + c.field
				used[key] = true
				assert.Contains(t, explained, key, "%s: ffprobe says %v, the reader %v", key, c.want, c.got)
			}
		}
		if math.Abs(seconds-got.Seconds) > 0.06 && seconds > 0 {
			key := base + " seconds"
			used[key] = true
			assert.Contains(t, explained, key, "%s: ffprobe says %.3f, the reader %.3f", key, seconds, got.Seconds)
		}
	}
	for key := range explained {
		assert.True(t, used[key], "%s is explained and does not differ", key)
	}
	t.Logf("%d clips, %d fields compared, %d differences explained, ffprobe asked now: %v", len(clips), compared, len(explained), program != "")
}
