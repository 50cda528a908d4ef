package probe

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"strings"

	"github.com/huin/goupnp/dcps/av1"

	"kaiku/core/dossier"
)

// Bounds of a walk through a ContentDirectory: a server that invents folders without end, or
// pages without end, does not hold the test.
const (
	mostDepth   = 8
	mostObjects = 50_000
	pageSize    = 200
)

var errEndless = errors.New("the list does not end")

// object is a container or an item of a ContentDirectory.
type object struct {
	id, title string
	container bool
	class     string // UPnP class, such as object.item.videoItem.movie
}

// readObjects reads a DIDL-Lite document.
func readObjects(didl string) ([]object, error) {
	type entry struct {
		ID    string `xml:"id,attr"`
		Title string `xml:"title"`
		Class string `xml:"class"`
	}
	var doc struct {
		Containers []entry `xml:"container"`
		Items      []entry `xml:"item"`
	}
	if err := xml.NewDecoder(strings.NewReader(didl)).Decode(&doc); err != nil {
		return nil, fmt.Errorf("read DIDL-Lite: %w", err)
	}
	out := make([]object, 0, len(doc.Containers)+len(doc.Items))
	for _, c := range doc.Containers {
		out = append(out, object{c.ID, c.Title, true, c.Class})
	}
	for _, i := range doc.Items {
		out = append(out, object{i.ID, i.Title, false, i.Class})
	}
	return out, nil
}

// children lists all children of a container, page by page (ContentDirectory:1, section 2.7.4).
func children(ctx context.Context, directory *av1.ContentDirectory1, id string) ([]object, error) {
	var out []object
	for {
		result, returned, total, _, err := directory.BrowseCtx(ctx, id, "BrowseDirectChildren", "*", uint32(len(out)), pageSize, "")
		if err != nil {
			return nil, fmt.Errorf("browse %s: %w", id, err)
		}
		page, err := readObjects(result)
		if err != nil {
			return nil, err
		}
		out = append(out, page...)
		switch {
		case len(page) == 0 || returned == 0 || uint32(len(out)) >= total && total > 0 || total == 0 && len(page) < pageSize:
			return out, nil
		case len(out) > mostObjects:
			return nil, errEndless
		}
	}
}

// folderNamed finds the container of that title, at most three levels below the root.
func folderNamed(ctx context.Context, directory *av1.ContentDirectory1, name string) (object, bool, error) {
	level := []object{{id: "0"}}
	for range 3 {
		var below []object
		for _, c := range level {
			all, err := children(ctx, directory, c.id)
			if err != nil {
				return object{}, false, err
			}
			for _, o := range all {
				if o.container && strings.EqualFold(o.title, name) {
					return o, true, nil
				}
				if o.container {
					below = append(below, o)
				}
			}
		}
		if level = below; len(level) > 64 {
			break // a directory as wide as this is not the list of a home's folders
		}
	}
	return object{}, false, nil
}

// countItems counts the items in a container and in those within it, as long as there is some of
// the budget of objects left.
func countItems(ctx context.Context, directory *av1.ContentDirectory1, id string, depth int, left *int) (int, error) {
	if depth > mostDepth {
		return 0, errEndless
	}
	all, err := children(ctx, directory, id)
	if err != nil {
		return 0, err
	}
	if *left -= len(all); *left < 0 {
		return 0, errEndless
	}
	n := 0
	for _, o := range all {
		if !o.container {
			n++
			continue
		}
		inside, err := countItems(ctx, directory, o.id, depth+1, left)
		if err != nil {
			return n, err
		}
		n += inside
	}
	return n, nil
}

// opens looks into every folder that the path reaches.
func (v *visit) opens(ctx context.Context) {
	directory, at, ok := v.directory(ctx)
	if !ok {
		return
	}
	var seen []string
	items := 0
	for _, f := range v.d.Index().Reached(v.path) {
		o, there, err := folderNamed(ctx, directory, f.Name)
		var all []object
		if err == nil && there {
			all, err = children(ctx, directory, o.id)
		}
		switch {
		case err != nil:
			v.see(dossier.Fail, browseCode(err), "folder", f.Name, "address", at, "seconds", fmt.Sprint(int(replyTime.Seconds())))
			return
		case !there:
			v.see(dossier.Fail, "folder-missing", "folder", f.Name)
			return
		case len(all) == 0:
			v.see(dossier.Fail, "folder-empty", "folder", f.Name)
			return
		}
		items += len(all)
		seen = append(seen, fmt.Sprintf("%s %d", f.Name, len(all)))
	}
	v.result.Values["entries"] = float64(items)
	v.see(dossier.Pass, "opened", "folders", strings.Join(seen, ", "))
}

// complete counts the items of one folder against those on the disk.
func (v *visit) complete(ctx context.Context, id string) {
	folder, _ := v.d.Folders.Get(dossier.ID[dossier.Folder](id))
	directory, at, ok := v.directory(ctx)
	if !ok {
		return
	}
	o, there, err := folderNamed(ctx, directory, folder.Name)
	if err == nil && !there {
		v.see(dossier.Fail, "folder-missing", "folder", folder.Name)
		return
	}
	items := 0
	if err == nil {
		left := mostObjects
		items, err = countItems(ctx, directory, o.id, 0, &left)
	}
	if err != nil {
		v.see(dossier.Fail, browseCode(err), "folder", folder.Name, "address", at, "seconds", fmt.Sprint(int(replyTime.Seconds())))
		return
	}
	v.result.Values["items"], v.result.Values["itemsOnDisk"] = float64(items), float64(folder.ItemsOnDisk)
	outcome, observed := dossier.Pass, dossier.Observed("complete")
	switch {
	case items < folder.ItemsOnDisk:
		outcome, observed = dossier.Fail, "items-missing"
	case items > folder.ItemsOnDisk:
		outcome, observed = dossier.Marginal, "items-extra"
	}
	v.see(outcome, observed, "folder", folder.Name, "items", fmt.Sprint(items), "onDisk", fmt.Sprint(folder.ItemsOnDisk))
}

// directory reaches the source and returns its ContentDirectory; where it cannot, the result
// says why.
func (v *visit) directory(ctx context.Context) (*av1.ContentDirectory1, string, bool) {
	v.reach(ctx)
	at := v.result.Said["address"]
	if v.result.Outcome != dossier.Pass {
		return nil, at, false
	}
	return v.browsed, at, true
}

func browseCode(err error) dossier.Observed {
	switch {
	case errors.Is(err, errEndless):
		return "endless"
	case dialCode(err) == "time-out":
		return "folder-hangs"
	}
	return "folder-refused"
}
