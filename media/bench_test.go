package media_test

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"kaiku/core/contents"
	"kaiku/media"
)

// measured reports a time in ms beside its aim.
func measured(b *testing.B, aim, ms float64) {
	b.ReportMetric(aim, "aim-ms")
	b.ReportMetric(ms, "measured-ms")
	b.ReportMetric(ms/aim, "ratio")
}

// BenchmarkHeadOfOneFile prints how long the slowest of the clips takes.
func BenchmarkHeadOfOneFile(b *testing.B) {
	all, slowest := clips(b), 0.0
	for b.Loop() {
		for _, body := range all {
			began := time.Now()
			_, err := media.Head(bytes.NewReader(body), int64(len(body)))
			require.NoError(b, err)
			slowest = max(slowest, time.Since(began).Seconds()*1000)
		}
	}
	measured(b, 10, slowest)
}

// shelfOf10000 fills a directory with copies of the clips.
func shelfOf10000(b *testing.B) string {
	b.Helper()
	dir := b.TempDir()
	n := 0
	for n < 10000 {
		for name, body := range clips(b) {
			at := filepath.Join(dir, fmt.Sprint("shelf ", n/100), fmt.Sprint(n, " ", name))
			require.NoError(b, os.MkdirAll(filepath.Dir(at), 0o755))
			require.NoError(b, os.WriteFile(at, body, 0o644))
			if n++; n == 10000 {
				break
			}
		}
	}
	return dir
}

// BenchmarkReadingOf10000Files prints how long the heads of ten thousand files take.
func BenchmarkReadingOf10000Files(b *testing.B) {
	dir := shelfOf10000(b)
	var took time.Duration
	var held uint64
	for b.Loop() {
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		began := time.Now()
		c, err := media.Folder(b.Context(), media.Dir(dir), media.Reading{})
		took = time.Since(began)
		require.NoError(b, err)
		runtime.ReadMemStats(&after)
		held = after.HeapSys - min(before.HeapSys, after.HeapSys) + after.HeapInuse
		runtime.KeepAlive(c)
	}
	measured(b, 60000, took.Seconds()*1000)
	b.ReportMetric(float64(held)/1e6, "idle-MB")
	b.ReportMetric(150, "aim-MB")
}

// BenchmarkReading10000FilesAgain prints how long they take when none has changed.
func BenchmarkReading10000FilesAgain(b *testing.B) {
	dir := shelfOf10000(b)
	known := map[string]contents.File{}
	_, err := media.Folder(b.Context(), media.Dir(dir), media.Reading{Each: func(i contents.File) { known[i.Path] = i }})
	require.NoError(b, err)
	var took time.Duration
	for b.Loop() {
		began := time.Now()
		c, err := media.Folder(b.Context(), media.Dir(dir), media.Reading{Known: known})
		took = time.Since(began)
		require.NoError(b, err)
		require.Equal(b, 10000, c.Kept)
	}
	measured(b, 5000, took.Seconds()*1000)
}
