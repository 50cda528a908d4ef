// Package reel holds the sample clips that are played in tests: made up, in the forms that homes have, each with a time code, a label and a
// flash that sounds. With one clip for all, a difference lies in the device.
package reel

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/media"
)

//go:embed clips
var files embed.FS

// Clip is one sample clip.
type Clip struct {
	Name    string // by which people call it: what it is
	File    string
	Media   string  // its media type
	Seconds float64 // 0 for a still picture
}

// Clips lists all of them, the usual first.
var Clips = []Clip{
	clip("h264-1080p25-aac", "mp4", "video/mp4", 60), clip("h264-1080p50-aac", "mp4", "video/mp4", 12), clip("h264-720p25-aac-index-last", "mp4", "video/mp4", 12),
	clip("hevc10-hdr-1080p25-aac", "mkv", "video/x-matroska", 12), clip("hevc10-2160p25-aac", "mp4", "video/mp4", 6),
	clip("mpeg2-576i25-ac3", "ts", "video/mp2t", 12), clip("h264-1080p25-ac3-51", "ts", "video/mp2t", 12), clip("mpeg4-576p25-mp3", "avi", "video/x-msvideo", 12), clip("vp9-720p25-opus", "webm", "video/webm", 12),
	clip("flac-16-44", "flac", "audio/flac", 8), clip("flac-24-96", "flac", "audio/flac", 3), clip("mp3", "mp3", "audio/mpeg", 15), clip("vorbis", "ogg", "audio/ogg", 15), clip("aac", "m4a", "audio/mp4", 15),
	clip("jpeg", "jpg", "image/jpeg", 0),
}

func clip(name, ending, media string, seconds float64) Clip {
	return Clip{name, proving.SamplePrefix + name + "." + ending, media, seconds}
}

// Format is what the clip is, read from its own bytes as a customer's file would be.
func (c Clip) Format() dossier.FormatEntry {
	f, err := media.Head(c.Open(), c.Bytes())
	if err != nil {
		panic(err) // they are part of the program, and a test reads each
	}
	return f.Format
}

// Beside are files that belong to a clip and lie beside it, such as its subtitles.
func (c Clip) Beside() []string {
	stem := strings.TrimSuffix(c.File, filepath.Ext(c.File))
	var out []string
	for _, e := range entries() {
		if e.Name() != c.File && strings.TrimSuffix(e.Name(), filepath.Ext(e.Name())) == stem {
			out = append(out, e.Name())
		}
	}
	return out
}

func entries() []fs.DirEntry {
	list, err := files.ReadDir("clips")
	if err != nil {
		panic(err) // they are part of the program
	}
	return list
}

func body(file string) []byte {
	b, err := files.ReadFile("clips/" + file)
	if err != nil {
		panic(err) // so is each of them
	}
	return b
}

// Bytes is how large the clip is.
func (c Clip) Bytes() int64 { return int64(len(body(c.File))) }

// Open returns the clip's bytes.
func (c Clip) Open() *bytes.Reader { return bytes.NewReader(body(c.File)) }

// ErrNoClip is returned for a clip that there is not.
var ErrNoClip = errors.New("there is no such sample clip")

// Named returns the clip of that name, or of that file.
func Named(name string) (Clip, error) {
	if i := slices.IndexFunc(Clips, func(c Clip) bool { return c.Name == name || c.File == name }); i >= 0 {
		return Clips[i], nil
	}
	return Clip{}, fmt.Errorf("%w as %q; kaiku reel list shows them", ErrNoClip, name)
}

// ErrInTheWay is returned where another file has the name of a clip.
var ErrInTheWay = errors.New("another file of this name lies there")

// Copy writes clips, with what lies beside them, into a directory, and returns the names of the files that it wrote. One that is there
// already is left; a file of that name that is another is never written over.
func Copy(dir string, clips []Clip) (written []string, err error) {
	for _, c := range clips {
		for _, name := range append([]string{c.File}, c.Beside()...) {
			at := filepath.Join(dir, name)
			have, err := os.ReadFile(at)
			switch {
			case err == nil && bytes.Equal(have, body(name)):
				continue
			case err == nil:
				return written, fmt.Errorf("%s: %w", at, ErrInTheWay)
			case !errors.Is(err, fs.ErrNotExist):
				return written, err
			}
			// Under another name first: a server that looks for new files must not see half of one.
			part := filepath.Join(dir, "."+name+".part")
			if err := os.WriteFile(part, body(name), 0o644); err != nil {
				_ = os.Remove(part) // what is there of it is of no use
				return written, err
			}
			if err := os.Rename(part, at); err != nil {
				_ = os.Remove(part)
				return written, err
			}
			written = append(written, name)
		}
	}
	return written, nil
}

// Collect takes the clips out of a directory again: files that bear the name of a clip and are it, byte for byte. What bears such a name and is
// something else is left, and named.
func Collect(dir string) (taken, left []string, err error) {
	list, err := os.ReadDir(dir)
	if err != nil {
		return nil, nil, err
	}
	for _, e := range list {
		if e.IsDir() || !strings.HasPrefix(e.Name(), proving.SamplePrefix) {
			continue
		}
		at := filepath.Join(dir, e.Name())
		if !slices.ContainsFunc(entries(), func(own fs.DirEntry) bool { return own.Name() == e.Name() }) || !same(at, e.Name()) {
			left = append(left, e.Name())
			continue
		}
		if err := os.Remove(at); err != nil {
			return taken, append(left, e.Name()), err
		}
		taken = append(taken, e.Name())
	}
	return taken, left, nil
}

func same(at, name string) bool {
	f, err := os.Open(at)
	if err != nil {
		return false
	}
	defer f.Close()
	sum := sha256.New()
	if _, err := io.Copy(sum, f); err != nil {
		return false
	}
	want := sha256.Sum256(body(name))
	return bytes.Equal(sum.Sum(nil), want[:])
}

// Handler serves the clips over HTTP, with ranges (RFC 9110, section 14), and a list of them at /samples.m3u.
func Handler() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /samples.m3u", func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "audio/x-mpegurl")
		_, _ = fmt.Fprint(w, "#EXTM3U\n#PLAYLIST:Sample clips\n")
		for _, c := range Clips {
			if c.Seconds > 0 {
				_, _ = fmt.Fprintf(w, "#EXTINF:%.0f,%s\nhttp://%s/%s\n", c.Seconds, c.Name, r.Host, c.File)
			}
		}
	})
	mux.HandleFunc("GET /{file}", func(w http.ResponseWriter, r *http.Request) {
		name := r.PathValue("file")
		if !slices.ContainsFunc(entries(), func(e fs.DirEntry) bool { return e.Name() == name }) {
			http.NotFound(w, r)
			return
		}
		if c, err := Named(name); err == nil {
			w.Header().Set("Content-Type", c.Media)
		}
		w.Header().Set("X-Content-Type-Options", "nosniff")
		http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(body(name)))
	})
	return mux
}
