package probe

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// toldApart compares the names that the servers in the device's segments show.
func (v *visit) toldApart(ctx context.Context) {
	answers, searched, ok := v.search(ctx, mediaServer)
	if !ok {
		return
	}
	client := v.guard.Client()
	mine, others := "", map[string]string{} // names of the others, by where they are
	for _, a := range answers {
		root, err := Describe(ctx, client, a.Location)
		if err != nil {
			continue // it has no name that could be shown
		}
		for _, one := range root.all() {
			if !strings.HasPrefix(one.Type, mediaServerType) {
				continue
			}
			if v.isSource(a, one.UDN, one.Name) && (mine == "" || v.source.UDN != "") {
				mine = one.Name
				continue
			}
			others[a.Location.Host] = one.Name
		}
	}
	if mine == "" { // there is nothing to compare
		if len(answers) == 0 {
			v.see(dossier.Impossible, "silence", "seconds", "1.25", "interfaces", strings.Join(searched, ", "))
			return
		}
		v.see(dossier.Impossible, "others-only", "answers", fmt.Sprint(len(answers)), "names", listOf(others))
		return
	}
	for at, name := range others {
		if strings.EqualFold(strings.TrimSpace(name), strings.TrimSpace(mine)) {
			v.see(dossier.Fail, "same-name", "name", mine, "location", at)
			return
		}
	}
	v.see(dossier.Pass, "names-differ", "name", mine, "names", cmp.Or(listOf(others), "no other answered"))
}

// staysFound goes on searching. Some networks forget after minutes to whom multicast is to be passed on.
func (v *visit) staysFound(ctx context.Context) {
	lasts, each := cmp.Or(v.prober.SearchesOn, proving.SearchesOn), cmp.Or(v.prober.SearchEach, searchEachMinute)
	began := time.Now()
	searches, found, missing := 0, 0, time.Duration(0)
	next := time.NewTimer(0)
	defer next.Stop()
	for time.Since(began) < lasts {
		select {
		case <-ctx.Done():
			return
		case <-next.C:
		}
		at := time.Since(began)
		next.Reset(each)
		v.found(ctx)
		switch v.result.Outcome {
		case dossier.Impossible:
			return
		case dossier.Pass:
			found++
		default:
			if v.result.Observed == "old-address" {
				return // it is found, where it is not
			}
			if missing == 0 {
				missing = at
			}
		}
		searches++
	}
	v.result.Values["searches"], v.result.Values["found"] = float64(searches), float64(found)
	minutes := fmt.Sprintf("%.0f", time.Since(began).Minutes())
	switch {
	case found == searches:
		v.see(dossier.Pass, "stayed-found", "searches", fmt.Sprint(searches), "minutes", minutes)
	case found >= searches-1 && searches > 2: // one answer may be lost
		v.see(dossier.Marginal, "found-at-times", "found", fmt.Sprint(found), "searches", fmt.Sprint(searches), "minutes", minutes, "missing", fmt.Sprintf("%.0f", missing.Minutes()))
	default:
		v.see(dossier.Fail, "found-at-times", "found", fmt.Sprint(found), "searches", fmt.Sprint(searches), "minutes", minutes, "missing", fmt.Sprintf("%.0f", missing.Minutes()))
	}
}

const searchEachMinute = time.Minute

func listOf(by map[string]string) string {
	return strings.Join(slices.Compact(slices.Sorted(maps.Values(by))), ", ")
}
