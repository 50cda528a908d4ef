package probe

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"time"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/proving"
)

// shareTime is how long a file server may take for all folders of a path: some wake a disk first.
const shareTime = 15 * time.Second

// loggedIn reports whether the share is opened with the account that the device uses. Where it is not, the result says so.
func (v *visit) loggedIn() bool {
	account, named := v.d.Accounts.Get(cmp.Or(v.path.Account, v.source.Account))
	if v.source.Protocol == dossier.ProtocolNFS || !named || account.Login == "" || strings.EqualFold(account.Login, v.prober.Shares.User) {
		return true
	}
	v.see(dossier.Impossible, "no-login")
	return false
}

// opensShare opens every folder of the path on its share or export, and looks whether something lies in it.
func (v *visit) opensShare(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, v.guard.lag.patient(shareTime))
	defer cancel()
	if _, ok := v.shareAddress(); !ok || !v.loggedIn() {
		return
	}
	var seen []string
	entries := 0
	for _, f := range v.d.Index().Reached(v.path) {
		open, err := v.prober.OpenFolder(ctx, v.d, f, "")
		if err != nil {
			v.shareRefused(ctx, err)
			return
		}
		list, err := fs.ReadDir(open.FS, ".")
		open.Close()
		switch {
		case err != nil:
			v.shareRefused(ctx, err)
			return
		case len(list) == 0:
			v.see(dossier.Fail, "folder-empty", "folder", f.Name)
			return
		}
		entries += len(list)
		seen = append(seen, fmt.Sprintf("%s %d", f.Name, len(list)))
	}
	if len(seen) == 0 {
		v.see(dossier.Impossible, "no-place")
		return
	}
	v.result.Values["entries"] = float64(entries)
	v.see(dossier.Pass, "share-opened", "folders", strings.Join(seen, ", "))
}

func (v *visit) shareAddress() (string, bool) {
	addr := v.d.AddressOf(v.source)
	switch {
	case !addr.IsValid():
		v.see(dossier.Impossible, "no-address")
		return "", false
	case v.guard.Allow(addr) != nil:
		v.see(dossier.Impossible, "not-allowed", "address", addr.String())
		return "", false
	}
	return addr.String(), true
}

func (v *visit) shareRefused(ctx context.Context, err error) {
	address := v.d.AddressOf(v.source).String()
	switch code := dialCode(err); {
	case ctx.Err() != nil || outOfTime(ctx):
		v.see(dossier.Fail, "time-out", "address", address, "seconds", fmt.Sprint(int(shareTime.Seconds())))
	case errors.Is(err, contents.ErrPlace):
		v.see(dossier.Impossible, "no-place")
	case errors.Is(err, fs.ErrNotExist):
		v.see(dossier.Fail, "folder-missing", "folder", address)
	case code != "unreachable":
		v.see(dossier.Fail, code, "address", address, "seconds", fmt.Sprint(int(replyTime.Seconds())))
	default:
		v.see(dossier.Fail, "share-refused", "address", address, "detail", err.Error())
	}
}

// outOfTime reports whether ctx ends at once: what waits on a connection may have given up a moment before it.
func outOfTime(ctx context.Context) bool {
	end, bounded := ctx.Deadline()
	return bounded && time.Until(end) < time.Second
}

// writeRefused tries to write into each folder of the path, with the account that the device uses: to create a file and a directory, and to
// rename and delete a sample clip that lies there. What it makes it removes, and it touches nothing else.
func (v *visit) writeRefused(ctx context.Context) {
	ctx, cancel := context.WithTimeout(ctx, v.guard.lag.patient(shareTime))
	defer cancel()
	if _, ok := v.shareAddress(); !ok || !v.loggedIn() {
		return
	}
	var seen []string
	samples := 0
	for _, f := range v.d.Index().Reached(v.path) {
		open, err := v.prober.OpenFolder(ctx, v.d, f, "")
		if err != nil {
			v.shareRefused(ctx, err)
			return
		}
		share, is := open.FS.(shareFS)
		if !is {
			open.Close()
			v.see(dossier.Impossible, "no-place")
			return
		}
		what, left, sample := share.tryToWrite()
		open.Close()
		if sample {
			samples++
		}
		if what != "" {
			if left != "" {
				left = "; " + left
			}
			v.see(dossier.Fail, "could-write", "folder", f.Name, "what", what, "left", left)
			return
		}
		seen = append(seen, f.Name)
	}
	v.result.Values["samples"] = float64(samples)
	switch {
	case len(seen) == 0:
		v.see(dossier.Impossible, "no-place")
	case samples < len(seen): // whether something can be deleted is found out on a sample clip only
		v.see(dossier.Marginal, "writing-refused", "folders", strings.Join(seen, ", ")+"; renaming and deleting were not tried, as no sample clip lies there")
	default:
		v.see(dossier.Pass, "writing-refused", "folders", strings.Join(seen, ", ")+", and so was renaming and deleting a sample clip")
	}
}

// tryToWrite says what could be done in a directory, or "" if all was refused; what was left behind by it; and whether a sample clip was there.
func (f shareFS) tryToWrite() (what, left string, sample bool) {
	name := f.at(unusedName())
	if left, err := makeFile(f.share, name); err == nil {
		return "creating a file", left, false
	}
	if err := f.share.Mkdir(name, 0o700); err == nil {
		if err := f.share.Remove(name); err != nil {
			left = fmt.Sprintf("the directory %s could not be removed again: %v", name, err)
		}
		return "creating a directory", left, false
	}
	list, err := f.ReadDir(".")
	if err != nil {
		return "", "", false
	}
	for _, e := range list {
		if e.IsDir() || !strings.HasPrefix(e.Name(), proving.SamplePrefix) {
			continue
		}
		from, to := f.at(e.Name()), f.at("renamed-"+e.Name())
		if f.share.Rename(from, to) == nil {
			if err := f.share.Rename(to, from); err != nil {
				left = fmt.Sprintf("the sample clip is now called renamed-%s", e.Name())
			}
			return "renaming a sample clip", left, true
		}
		if f.share.Remove(from) == nil {
			return "deleting a sample clip", "the clip " + e.Name() + " is gone; copy it again", true
		}
		return "", "", true
	}
	return "", "", false
}
