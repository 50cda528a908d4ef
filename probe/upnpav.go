package probe

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"

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
	root, _, err := describe(ctx, client, at)
	return root, err
}

// describe fetches a description with the headers of its answer.
func describe(ctx context.Context, client *http.Client, at *url.URL) (*goupnp.RootDevice, http.Header, error) {
	r, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		return nil, nil, err
	}
	resp, err := client.Do(r)
	if err != nil {
		return nil, nil, err
	}
	defer resp.Body.Close()
	if resp.StatusCode != http.StatusOK {
		return nil, resp.Header, fmt.Errorf("%w: %s", ErrNotDescribed, resp.Status)
	}
	dec := xml.NewDecoder(io.LimitReader(resp.Body, mostDescription))
	dec.CharsetReader = charset.NewReaderLabel
	root := &goupnp.RootDevice{}
	if err := dec.Decode(root); err != nil {
		return nil, resp.Header, fmt.Errorf("%w: %w", ErrNotDescribed, err)
	}
	root.SetURLBase(at)
	if root.URLBaseStr != "" {
		if base, err := url.Parse(root.URLBaseStr); err == nil {
			root.SetURLBase(base)
		}
	}
	return root, resp.Header, nil
}

// directoryOf returns a client of the device's ContentDirectory.
func directoryOf(client *http.Client, root *goupnp.RootDevice, at *url.URL) (*av1.ContentDirectory1, error) {
	directories, err := av1.NewContentDirectory1ClientsFromRootDevice(root, at)
	if err != nil || len(directories) == 0 {
		return nil, fmt.Errorf("%w: no ContentDirectory", ErrNotDescribed)
	}
	directories[0].SOAPClient.HTTPClient = *client
	return directories[0], nil
}
