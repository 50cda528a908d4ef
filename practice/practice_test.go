package practice_test

import (
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/huin/goupnp/dcps/av1"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.uber.org/goleak"

	"kaiku/practice"
	"kaiku/practice/layout"
)

func TestMain(m *testing.M) { goleak.VerifyTestMain(m) }

func start(t *testing.T, octet byte) *practice.House {
	h := practice.New(octet)
	require.NoError(t, h.Start(t.Context()))
	t.Cleanup(func() { h.Stop(); http.DefaultTransport.(*http.Transport).CloseIdleConnections() })
	return h
}

func description(t *testing.T, d *practice.Device) *url.URL {
	at, err := url.Parse("http://" + d.Address.String() + layout.Locator)
	require.NoError(t, err)
	return at
}

func TestTheServerIsBrowsed(t *testing.T) {
	h := start(t, 41)
	clients, err := av1.NewContentDirectory1ClientsByURLCtx(t.Context(), description(t, h.Server))
	require.NoError(t, err)
	require.Len(t, clients, 1)
	c := clients[0]
	didl, returned, total, _, err := c.Browse("0", "BrowseDirectChildren", "*", 0, 0, "")
	require.NoError(t, err)
	assert.Equal(t, uint32(3), returned)
	assert.Equal(t, uint32(3), total)
	assert.Contains(t, didl, "Films")
	didl, returned, total, _, err = c.Browse("1", "BrowseDirectChildren", "*", 1, 1, "")
	require.NoError(t, err, "paging")
	assert.Equal(t, uint32(1), returned)
	assert.Equal(t, uint32(3), total)
	assert.Contains(t, didl, "Fog Signal")
	_, returned, _, _, err = c.Browse("1", "BrowseDirectChildren", "*", 99, 10, "")
	require.NoError(t, err)
	assert.Zero(t, returned, "past the end")
	didl, _, _, _, err = c.Browse("1-1", "BrowseMetadata", "*", 0, 0, "")
	require.NoError(t, err)
	assert.Contains(t, didl, "/media/1-1")
	for _, id := range []string{"9", "x", "1-9", "-1"} {
		_, _, _, _, err = c.Browse(id, "BrowseMetadata", "*", 0, 0, "")
		assert.ErrorContains(t, err, "<errorCode>701<", id)
	}
	caps, err := c.GetSearchCapabilities()
	require.NoError(t, err)
	assert.Empty(t, caps)
	_, _, _, _, err = c.Search("0", "*", "*", 0, 0, "")
	assert.ErrorContains(t, err, "<errorCode>401<", "it cannot search")
	managers, err := av1.NewConnectionManager1ClientsByURLCtx(t.Context(), description(t, h.Screen))
	require.NoError(t, err)
	_, sink, err := managers[0].GetProtocolInfo()
	require.NoError(t, err)
	assert.Contains(t, sink, "video/mp4")
}

func TestMediaIsFetchedByRanges(t *testing.T) {
	h := start(t, 42)
	base := "http://" + h.Server.Address.String()
	for _, c := range []struct {
		path, ranges string
		status, size int
	}{
		{"/media/2-2", "", 200, 640_000},
		{"/media/1-1", "bytes=100-199", 206, 100},
		{"/media/1-1", "bytes=999999999-", 416, -1},
		{"/media/9-9", "", 404, -1},
		{"/media/x", "", 404, -1},
	} {
		req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, base+c.path, nil)
		require.NoError(t, err)
		if c.ranges != "" {
			req.Header.Set("Range", c.ranges)
		}
		resp, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, c.status, resp.StatusCode, c)
		if c.size >= 0 {
			assert.Len(t, b, c.size)
		}
	}
}

func TestRubbishIsAnsweredWithAFault(t *testing.T) {
	h := start(t, 43)
	for _, body := range []string{"", "<", "<a/>", strings.Repeat("<a>", 10000), `<s:Envelope xmlns:s="x"><s:Body><u:Nothing xmlns:u="y"/></s:Body></s:Envelope>`} {
		resp, err := http.Post("http://"+h.Server.Address.String()+"/control/ContentDirectory", "text/xml", strings.NewReader(body))
		require.NoError(t, err)
		b, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		require.NoError(t, resp.Body.Close())
		assert.Equal(t, 500, resp.StatusCode)
		assert.Contains(t, string(b), "<errorCode>401</errorCode>")
	}
}

func TestHousesStandSideBySideButNotInEachOther(t *testing.T) {
	start(t, 44)
	start(t, 45)
	again := practice.New(44)
	err := again.Start(t.Context())
	require.ErrorContains(t, err, fmt.Sprintf("practice house %s", again.Segment))
}
