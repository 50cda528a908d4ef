package probe

import (
	"context"
	"errors"
	"fmt"
	"html"
	"path"
	"strconv"
	"strings"
	"time"

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
	of        string // id of the item that it refers to, if it only stands for one (refID)
	res       resource
	others    []resource    // other forms of it, which a server makes as they are asked for
	length    time.Duration // how long it plays; 0 where that is not said
}

// key is what an item is counted by: one that stands in several places is one.
func (o object) key() string {
	if o.of != "" {
		return o.of
	}
	return o.id
}

// readObjects reads a DIDL-Lite document.
func readObjects(didl string) ([]object, error) {
	if strings.TrimSpace(didl) == "" {
		return nil, nil // nothing in it
	}
	type res struct {
		Protocol string `xml:"protocolInfo,attr"`
		Size     string `xml:"size,attr"`
		Duration string `xml:"duration,attr"`
		Address  string `xml:",chardata"`
	}
	type entry struct {
		ID    string `xml:"id,attr"`
		RefID string `xml:"refID,attr"`
		Title string `xml:"title"`
		Class string `xml:"class"`
		Date  string `xml:"date"`
		Res   []res  `xml:"res"`
	}
	var doc struct {
		Containers []entry `xml:"container"`
		Items      []entry `xml:"item"`
	}
	if err := decodeXML([]byte(didl), &doc); err != nil {
		return nil, fmt.Errorf("%w: read DIDL-Lite: %w", errRubbish, err)
	}
	out := make([]object, 0, len(doc.Containers)+len(doc.Items))
	for _, c := range doc.Containers {
		out = append(out, object{id: c.ID, title: plainTitle(c.Title), container: true, class: c.Class})
	}
	for _, i := range doc.Items {
		o := object{id: i.ID, title: plainTitle(i.Title), class: i.Class, of: i.RefID}
		for _, r := range i.Res {
			if !strings.HasPrefix(r.Protocol, "http-get:") && r.Protocol != "" {
				continue
			}
			size, _ := strconv.ParseInt(strings.TrimSpace(r.Size), 10, 64)
			date, _ := time.Parse(time.DateOnly, i.Date[:min(len(i.Date), 10)])
			one := resource{strings.TrimSpace(r.Address), mediaType(r.Protocol), max(size, 0), date}
			if o.res != (resource{}) { // the first is the original
				o.others = append(o.others, one)
				continue
			}
			o.length, _ = clockOf(r.Duration)
			o.res = one
		}
		out = append(out, o)
	}
	return out, nil
}

// plainTitle undoes a title that was escaped twice.
func plainTitle(s string) string {
	s = strings.TrimSpace(s)
	if strings.Contains(s, "&") && strings.Contains(s, ";") {
		return html.UnescapeString(s)
	}
	return s
}

// listed is what a container holds.
type listed struct {
	all   []object
	exact bool // that it is all is certain
}

// children lists all children of a container, page by page, to the end (ContentDirectory:1, section
// 2.7.4). A total of 0 beside a result says that the server does not know how many there are.
func children(ctx context.Context, directory *upnpClient, id string) (listed, error) {
	var out listed
	seen := map[string]bool{}
	for {
		answer, err := directory.call(ctx, "Browse", "ObjectID", id, "BrowseFlag", "BrowseDirectChildren", "Filter", "*",
			"StartingIndex", strconv.Itoa(len(out.all)), "RequestedCount", strconv.Itoa(pageSize), "SortCriteria", "")
		var f *fault
		if errors.As(err, &f) && len(out.all) > 0 {
			return out, nil // no page after the last; whether it was the last is not certain
		}
		if err != nil {
			return out, fmt.Errorf("browse %s: %w", id, err)
		}
		page, err := readObjects(answer["Result"])
		if err != nil {
			return out, err
		}
		fresh := 0
		for _, o := range page {
			if key := fmt.Sprint(o.container, o.id); !seen[key] || o.id == "" {
				seen[key] = true
				out.all = append(out.all, o)
				fresh++
			}
		}
		total, _ := strconv.Atoi(strings.TrimSpace(answer["TotalMatches"])) // what is no number is not known
		switch {
		case len(page) == 0:
			out.exact = total == 0 || len(out.all) >= total
			return out, nil
		case fresh == 0:
			return out, nil // the same page again: the server does not turn pages
		case total > 0 && len(out.all) >= total:
			out.exact = len(out.all) == total
			return out, nil
		case len(out.all) > mostObjects:
			return out, errEndless
		}
	}
}

// folderNamed finds the container of that title, at most three levels below the root.
func folderNamed(ctx context.Context, directory *upnpClient, name string) (object, bool, error) {
	level := []object{{id: "0"}}
	for range 3 {
		var below []object
		for _, c := range level {
			all, err := children(ctx, directory, c.id)
			if err != nil {
				return object{}, false, err
			}
			for _, o := range all.all {
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

// countItems counts the items in a container and in those within it, each once, and says whether that is
// all of them. It stops at the bound of objects.
func countItems(ctx context.Context, directory *upnpClient, id string) (items int, exact bool, err error) {
	exact, err = eachItem(ctx, directory, id, func(string, object) { items++ })
	return items, exact, err
}

// eachItem shows the items in a container and in those within it, each once and with the containers it lies in, and says
// whether these are all. It stops at the bounds of depth and of objects.
func eachItem(ctx context.Context, directory *upnpClient, id string, see func(in string, o object)) (exact bool, err error) {
	type container struct{ id, in string }
	seen := map[string]bool{}
	exact = true
	level := []container{{id: id}}
	for depth, left := 0, mostObjects; len(level) > 0; depth++ {
		var below []container
		for _, c := range level {
			if depth > mostDepth {
				return false, errEndless
			}
			all, err := children(ctx, directory, c.id)
			if err != nil {
				return false, err
			}
			exact = exact && all.exact
			if left -= len(all.all); left < 0 {
				return false, errEndless
			}
			for _, o := range all.all {
				switch {
				case o.container:
					below = append(below, container{o.id, path.Join(c.in, o.fileName())})
				case !seen[o.key()]:
					seen[o.key()] = true
					see(c.in, o)
				}
			}
		}
		level = below
	}
	return exact, nil
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
		var all listed
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
		case len(all.all) == 0:
			v.see(dossier.Fail, "folder-empty", "folder", f.Name)
			return
		}
		items += len(all.all)
		seen = append(seen, fmt.Sprintf("%s %d", f.Name, len(all.all)))
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
	items, exact := 0, false
	if err == nil {
		items, exact, err = countItems(ctx, directory, o.id)
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
	case !exact: // as many as there are on the disk, but the server itself says otherwise
		outcome, observed = dossier.Marginal, "count-unsure"
	}
	v.see(outcome, observed, "folder", folder.Name, "items", fmt.Sprint(items), "onDisk", fmt.Sprint(folder.ItemsOnDisk))
}

// directory reaches the source and returns its ContentDirectory; where it cannot, the result
// says why.
func (v *visit) directory(ctx context.Context) (*upnpClient, string, bool) {
	v.reach(ctx)
	at := v.result.Said["address"]
	if v.result.Outcome != dossier.Pass {
		return nil, at, false
	}
	return v.browsed, at, true
}

func browseCode(err error) dossier.Observed {
	switch {
	case errors.Is(err, errEndless), errors.Is(err, errTooLong):
		return "endless"
	case dialCode(err) == "time-out":
		return "folder-hangs"
	}
	return "folder-refused"
}
