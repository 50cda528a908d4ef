package probe

import (
	"encoding/binary"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/practice"
)

// foldersSeen lists the folders of a host's sources of a protocol, with what was counted in each.
func foldersSeen(h matching.Host, protocol dossier.Protocol, member string) []string {
	var out []string
	for _, s := range h.Seen {
		if s.Kind == "folder" && h.Seen[s.Of].Members["protocol"] == protocol {
			out = append(out, fmt.Sprint(h.Seen[s.Of].Members["locator"], " ", s.Members["name"], " ", s.Members[member]))
		}
	}
	slices.Sort(out)
	return out
}

// An export is read for its folders as a share is, and what a tuner host has recorded is found from its page.
func TestExportsAndRecordingsAreReadForFolders(t *testing.T) {
	h := practice.New(63)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(h.Stop)
	g := gather(t, bare(h))
	kelp := hostAt(t, g, h.Device("kelp").Address.Addr())
	exported := foldersSeen(kelp, dossier.ProtocolNFS, "itemsOnDisk")
	require.NotEmpty(t, exported)
	for _, f := range exported {
		assert.NotContains(t, f, "<nil>", "each is counted")
	}
	aerial := hostAt(t, g, h.Device("aerial").Address.Addr())
	assert.Equal(t, []string{"/aerial.m3u Channels 4", "/kept.m3u Recordings 2"}, foldersSeen(aerial, dossier.ProtocolM3U, "itemsInIndex"))
	again := gather(t, bare(h))
	for _, b := range matching.Compare(bare(h), again, g, nil) {
		assert.Equal(t, matching.SinceSame, b.Since, "%s: %v", b.Host.Address, b.Changes)
	}
}

func TestAPageLeadsToListsOfItsOwnServerAlone(t *testing.T) {
	page, err := url.Parse("http://127.66.1.10:8080/a/index.html")
	require.NoError(t, err)
	body := `<a href="one.m3u">1</a><a class="x" href="/two.M3U8?x=1">2</a><a href="http://127.66.1.11/three.m3u">3</a><a href="four.html">4</a><link href="five.m3u"><a href="https://127.66.1.10:8080/six.m3u">6</a><a href="::">7</a>` + strings.Repeat(`<a href="more.m3u">`, 20)
	found := listsIn([]byte(body), page)
	assert.Len(t, found, mostLinked)
	assert.Equal(t, "http://127.66.1.10:8080/a/one.m3u", found[0].String())
	assert.Equal(t, "http://127.66.1.10:8080/two.M3U8?x=1", found[1].String())
	assert.Equal(t, "http://127.66.1.10:8080/a/more.m3u", found[2].String())
}

// directory writes an answer to READDIRPLUS with these entries, each with its kind or 0 for one that is not said.
func directory(end bool, kinds ...uint32) []byte {
	b := make([]byte, 8) // success, and no attributes
	b = append(b, "verifier"...)
	for n, kind := range kinds {
		b = binary.BigEndian.AppendUint32(b, 1)
		b = binary.BigEndian.AppendUint64(b, uint64(n))
		b = appendOpaque(b, fmt.Appendf(nil, "entry %d", n))
		b = binary.BigEndian.AppendUint64(b, uint64(n+1))
		if kind == 0 {
			b = append(b, make([]byte, 8)...)
			continue
		}
		b = binary.BigEndian.AppendUint32(b, 1)
		b = binary.BigEndian.AppendUint32(b, kind)
		b = append(b, make([]byte, attributes3-4)...)
		b = appendOpaque(binary.BigEndian.AppendUint32(b, 1), []byte("handle"))
	}
	b = binary.BigEndian.AppendUint32(b, 0)
	return binary.BigEndian.AppendUint32(b, map[bool]uint32{true: 1}[end])
}

func TestDirectoriesOfNFS(t *testing.T) {
	page, err := readEntries(directory(true, nfsDirectory, nfsFile, 0))
	require.NoError(t, err)
	assert.Equal(t, nfsPage{entries: []nfsEntry{{"entry 0", nfsFileInfo{kind: nfsDirectory}, []byte("handle")}, {"entry 1", nfsFileInfo{kind: nfsFile}, []byte("handle")}, {name: "entry 2"}}, cookie: 3, verifier: []byte("verifier"), end: true}, page)
	page, err = readEntries(directory(false))
	require.NoError(t, err)
	assert.False(t, page.end)
	_, err = readEntries([]byte{0, 0, 0, 13})
	assert.ErrorIs(t, err, errRPC)
	assert.ErrorContains(t, err, "access denied")
	_, err = readEntries(directory(true, nfsFile)[:60])
	assert.ErrorIs(t, err, errRPC)
}

func FuzzDirectoriesOfNFS(f *testing.F) {
	f.Add(directory(true, nfsDirectory, 0))
	f.Fuzz(func(t *testing.T, b []byte) {
		page, err := readEntries(b)
		if err != nil {
			return
		}
		for _, e := range page.entries {
			if len(e.handle) > handle3 {
				t.Errorf("a handle of %d bytes", len(e.handle))
			}
		}
	})
}
