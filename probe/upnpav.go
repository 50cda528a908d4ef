package probe

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"

	"github.com/huin/goupnp"
	"github.com/huin/goupnp/dcps/av1"
	"golang.org/x/net/html/charset"
)

// mostDescription bounds a device description; real ones have a few kB.
const mostDescription = 256 << 10

// ErrNotDescribed is returned when what answers is not a UPnP device with a ContentDirectory.
var ErrNotDescribed = errors.New("not described as a media server")

// Describe fetches a device description (UPnP Device Architecture 2.0, section 2).
func Describe(ctx context.Context, client *http.Client, at *url.URL) (*goupnp.RootDevice, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		return nil, err
	}
	resp, err := client.Do(r)
	if err != nil {
		return nil, err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("%w: %s", ErrNotDescribed, resp.Status)
	}
	dec := xml.NewDecoder(io.LimitReader(resp.Body, mostDescription))
	dec.CharsetReader = charset.NewReaderLabel
	root := &goupnp.RootDevice{}
	if err := dec.Decode(root); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrNotDescribed, err)
	}
	root.SetURLBase(at)
	if root.URLBaseStr != "" {
		if base, err := url.Parse(root.URLBaseStr); err == nil {
			root.SetURLBase(base)
		}
	}
	return root, nil
}

// RootFolders browses the root of a media server's ContentDirectory and returns the titles of
// the folders in it.
func RootFolders(ctx context.Context, client *http.Client, root *goupnp.RootDevice, at *url.URL) ([]string, error) {
	directories, err := av1.NewContentDirectory1ClientsFromRootDevice(root, at)
	if err != nil || len(directories) == 0 {
		return nil, fmt.Errorf("%w: no ContentDirectory", ErrNotDescribed)
	}
	d := directories[0]
	d.SOAPClient.HTTPClient = *client
	result, _, _, _, err := d.BrowseCtx(ctx, "0", "BrowseDirectChildren", "*", 0, 0, "")
	if err != nil {
		return nil, fmt.Errorf("browse the root: %w", err)
	}
	return containers(result)
}

// containers returns the titles of the containers in a DIDL-Lite document.
func containers(didl string) ([]string, error) {
	var doc struct {
		Containers []struct {
			Title string `xml:"title"`
		} `xml:"container"`
	}
	if err := xml.NewDecoder(strings.NewReader(didl)).Decode(&doc); err != nil {
		return nil, fmt.Errorf("read DIDL-Lite: %w", err)
	}
	out := make([]string, len(doc.Containers))
	for i, c := range doc.Containers {
		out[i] = c.Title
	}
	return out, nil
}
