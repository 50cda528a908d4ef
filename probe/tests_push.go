package probe

import (
	"cmp"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"net/netip"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"kaiku/core/dossier"
)

// mediaRenderer is the search target of UPnP AV renderers.
const mediaRenderer = "urn:schemas-upnp-org:device:MediaRenderer:1"

// Limits of playing. Within five seconds people find a start quick, within ten slow; judged on the second start, as the first may wait for a
// disk. A jump may take as long.
const (
	playsFor    = 3 * time.Minute
	togetherFor = 5 * time.Minute
	startsSoon  = 5 * time.Second
	startsLate  = 10 * time.Second
	stopsSoon   = 3 * time.Second
	lookEach    = 200 * time.Millisecond
	// A renderer tells its position in whole seconds, and may tell the last one for as long again.
	stillFor = 1500 * time.Millisecond
	farFrom  = 4 * time.Second // a jump that ends further from where it should has missed
)

// renderer is the device of the path while something is pushed to it.
type renderer struct {
	*visit
	transport *upnpClient
	sinks     []string // media types that it says it takes; none where it does not say
	title     string
	length    time.Duration // of what is played; 0 where the source does not say
	heaviest  time.Duration // where its heaviest minute begins; 0 where that is not known, or is the beginning
}

// player finds the path's device as a renderer, and something that it can play. It disturbs nobody: where something is playing, the test is
// impossible.
func (v *visit) player(ctx context.Context) (*renderer, bool) {
	answers, _, ok := v.search(ctx, mediaRenderer)
	if !ok {
		return nil, false
	}
	device, _ := v.d.Devices.Get(v.path.Device)
	var addresses []netip.Addr
	for _, i := range v.d.InterfacesOf(device.ID) {
		addresses = append(addresses, i.Addresses...)
	}
	client := v.guard.Client()
	for _, a := range answers {
		root, err := Describe(ctx, client, a.Location)
		if err != nil {
			continue
		}
		for _, one := range root.all() {
			known := device.UDN != "" && one.UDN == device.UDN || device.UDN == "" && slices.Contains(addresses, a.From)
			if !known || !strings.HasPrefix(one.Type, mediaRendererType) {
				continue
			}
			transport, err := root.service(one, "AVTransport")
			if err != nil {
				continue
			}
			r := &renderer{visit: v, transport: transport}
			if manager, err := root.service(one, "ConnectionManager"); err == nil {
				if said, err := manager.call(ctx, "GetProtocolInfo"); err == nil {
					r.sinks = mediaTypes(said["Sink"])
				}
			}
			return r, true
		}
	}
	v.see(dossier.Impossible, "no-renderer", "device", v.d.Label(device.ID.Ref()))
	return nil, false
}

// mediaTypes are those of a list of protocol infos (ConnectionManager:1, section 2.5.2); "*" takes all.
func mediaTypes(list string) []string {
	var out []string
	for _, info := range strings.Split(list, ",") {
		if kind := mediaType(strings.TrimSpace(info)); kind != "" {
			out = append(out, kind)
		}
	}
	return out
}

// takes reports whether the renderer says that it takes a media type; one that says nothing is asked to try.
func (r *renderer) takes(kind string) bool {
	return len(r.sinks) == 0 || slices.ContainsFunc(r.sinks, func(s string) bool {
		all, prefix := strings.CutSuffix(s, "*")
		return strings.EqualFold(s, kind) || prefix && strings.HasPrefix(kind, all)
	})
}

// free reports whether nothing is playing, nor paused: what somebody left there would be lost.
func (r *renderer) free(ctx context.Context) bool {
	state, err := r.state(ctx)
	if err == nil && state != "STOPPED" && state != "NO_MEDIA_PRESENT" {
		r.see(dossier.Impossible, "in-use")
		return false
	}
	return true
}

// load hands the renderer the heaviest item of the path that it says it can play.
func (r *renderer) load(ctx context.Context) bool {
	o, ok := r.pick(ctx, func(o object) (object, bool) { return o, r.takes(o.res.kind) })
	return ok && r.hand(ctx, o)
}

// loadConverted hands the renderer the heaviest item of the path that it cannot play as it is, in a form that the source makes for it.
func (r *renderer) loadConverted(ctx context.Context) bool {
	asItIs := false
	o, ok := r.pick(ctx, func(o object) (object, bool) {
		if r.takes(o.res.kind) {
			asItIs = true
			return o, false
		}
		i := slices.IndexFunc(o.others, func(other resource) bool { return other.address != "" && r.takes(other.kind) })
		if i >= 0 {
			o.res = o.others[i]
		}
		return o, i >= 0
	})
	if !ok && r.result.Observed == "nothing-to-play" && asItIs {
		r.see(dossier.Impossible, "nothing-converted")
	}
	return ok && r.hand(ctx, o)
}

// pick is the heaviest item of the path, other than still pictures, of those that fit and in the form that fits.
func (r *renderer) pick(ctx context.Context, fits func(object) (object, bool)) (object, bool) {
	directory, _, ok := r.directory(ctx)
	if !ok {
		return object{}, false
	}
	var best object
	items, pictures := 0, false
	folders := r.d.Index().Reached(r.path)
	for _, f := range folders {
		top, there, err := folderNamed(ctx, directory, f.Name)
		if err == nil && there {
			_, err = eachItem(ctx, directory, top.id, func(_ string, o object) {
				items++
				if strings.HasPrefix(o.res.kind, "image/") {
					pictures = true
					return
				}
				if fit, ok := fits(o); ok && o.res.address != "" && weight(o) >= weight(best) {
					best = fit
				}
			})
		}
		if err != nil && best.res.address == "" {
			r.folderFailed(err, f.Name, directory)
			return best, false
		}
	}
	switch {
	case best.res.address != "":
		return best, true
	case items == 0 && len(folders) > 0:
		r.see(dossier.Fail, "folder-empty", "folder", folders[0].Name)
	case pictures:
		r.see(dossier.Impossible, "still-pictures")
	default:
		r.see(dossier.Impossible, "nothing-to-play")
	}
	return best, false
}

// folderFailed says how looking into a folder failed.
func (r *renderer) folderFailed(err error, folder string, directory *upnpClient) {
	r.see(dossier.Fail, browseCode(err), "folder", folder, "address", directory.control.Host, "seconds", fmt.Sprint(int(replyTime.Seconds())))
}

// hand hands the renderer what it is to play.
func (r *renderer) hand(ctx context.Context, o object) bool {
	r.title, r.length, r.heaviest = o.title, o.length, heaviestOf(r.d.Index().Reached(r.path), o)
	return r.do(ctx, "SetAVTransportURI", "CurrentURI", o.res.address, "CurrentURIMetaData", didlOf(o))
}

// heaviestOf is where the heaviest minute of an item begins, if it is the file of which that is recorded.
func heaviestOf(folders []dossier.Folder, o object) time.Duration {
	for _, f := range folders {
		for _, e := range f.Mix {
			file := path.Base(e.Heaviest)
			at := time.Duration(e.HeaviestAt * float64(time.Second)).Truncate(time.Second)
			named := file == o.fileName() || file == path.Base(o.res.address) || strings.TrimSuffix(file, path.Ext(file)) == o.title
			if e.Heaviest != "" && named && (o.length == 0 || at < o.length) {
				return at
			}
		}
	}
	return 0
}

// weight orders items by how much they ask for: their rate, or where that is not known their size.
func weight(o object) float64 {
	if o.length > 0 {
		return float64(o.res.size) * 8 / o.length.Seconds()
	}
	return float64(o.res.size) / 1e6
}

// didlOf describes one item for a renderer.
func didlOf(o object) string {
	var b strings.Builder
	text := func(s string) {
		_ = xml.EscapeText(&b, []byte(s)) // a builder never fails
	}
	b.WriteString(`<DIDL-Lite xmlns="urn:schemas-upnp-org:metadata-1-0/DIDL-Lite/" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:upnp="urn:schemas-upnp-org:metadata-1-0/upnp/"><item id="`)
	text(o.id)
	b.WriteString(`" parentID="-1" restricted="1"><dc:title>`)
	text(o.title)
	b.WriteString(`</dc:title><upnp:class>`)
	text(cmp.Or(o.class, "object.item"))
	b.WriteString(`</upnp:class><res protocolInfo="http-get:*:`)
	text(cmp.Or(o.res.kind, "*"))
	b.WriteString(`:*"`)
	if o.length > 0 {
		b.WriteString(` duration="` + clockText(o.length) + `"`)
	}
	b.WriteString(`>`)
	text(o.res.address)
	b.WriteString(`</res></item></DIDL-Lite>`)
	return b.String()
}

func (r *renderer) refused(err error) {
	var f *fault
	if errors.As(err, &f) {
		r.see(dossier.Fail, "renderer-refused", "detail", f.Error())
		return
	}
	r.see(dossier.Fail, replyCode(err), "address", r.transport.control.Host, "seconds", fmt.Sprint(int(replyTime.Seconds())))
}

func (r *renderer) state(ctx context.Context) (string, error) {
	said, err := r.transport.call(ctx, "GetTransportInfo", "InstanceID", "0")
	return strings.TrimSpace(said["CurrentTransportState"]), err
}

// position is how far it has played, and whether it says so (AVTransport:1, section 2.4.11: what is not known is NOT_IMPLEMENTED).
func (r *renderer) position(ctx context.Context) (time.Duration, bool, error) {
	said, err := r.transport.call(ctx, "GetPositionInfo", "InstanceID", "0")
	if err != nil {
		return 0, false, err
	}
	at, known := clockOf(said["RelTime"])
	return at, known, nil
}

func (r *renderer) do(ctx context.Context, action string, arguments ...string) bool {
	if _, err := r.transport.call(ctx, action, append([]string{"InstanceID", "0"}, arguments...)...); err != nil {
		r.refused(err)
		return false
	}
	return true
}

// end stops what was started, also where the test was stopped.
func (r *renderer) end(ctx context.Context) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), replyTime)
	defer cancel()
	_, _ = r.transport.call(ctx, "Stop", "InstanceID", "0") // at best
}

// start plays and waits until the position moves; it returns how long that took.
func (r *renderer) start(ctx context.Context) (time.Duration, bool) {
	began := time.Now()
	from, _, err := r.position(ctx)
	if err != nil {
		from = 0
	}
	if !r.do(ctx, "Play", "Speed", "1") {
		return 0, false
	}
	for time.Since(began) < 2*startsLate {
		if !pause(ctx, lookEach) {
			return 0, false
		}
		state, err := r.state(ctx)
		if err != nil {
			r.refused(err)
			return 0, false
		}
		at, known, err := r.position(ctx)
		switch {
		case err != nil:
			r.refused(err)
			return 0, false
		case !known && state == "PLAYING":
			r.see(dossier.Impossible, "position-not-told")
			return 0, false
		case known && at != from && state == "PLAYING":
			return time.Since(began), true
		}
	}
	r.see(dossier.Fail, "does-not-start")
	return 0, false
}

// pause waits; it returns false if ctx ends meanwhile.
func pause(ctx context.Context, d time.Duration) bool {
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case <-ctx.Done():
		return false
	case <-t.C:
		return true
	}
}

// plays pushes the heaviest item to the device, twice, and watches the second time whether its position moves with the clock.
func (v *visit) plays(ctx context.Context) {
	r, ok := v.player(ctx)
	if !ok || !r.free(ctx) || !r.load(ctx) {
		return
	}
	defer r.end(ctx)
	first, ok := r.start(ctx)
	if !ok {
		return
	}
	v.result.Values["firstStartS"] = first.Seconds()
	if !r.do(ctx, "Stop") || !r.load(ctx) {
		return
	}
	second, ok := r.start(ctx)
	if !ok {
		return
	}
	if r.toHeaviest(ctx) {
		r.judge(ctx, second, startsSoon, startsLate)
	}
}

// toHeaviest goes on at the heaviest minute of what plays, where one is known and the renderer can jump; the result says where it was watched.
func (r *renderer) toHeaviest(ctx context.Context) bool {
	if r.heaviest <= 0 {
		return true
	}
	began := time.Now()
	if _, err := r.transport.call(ctx, "Seek", "InstanceID", "0", "Unit", "REL_TIME", "Target", clockText(r.heaviest)); err != nil {
		var no *fault
		if errors.As(err, &no) {
			return true // it cannot jump there, and is watched where it is
		}
		r.refused(err)
		return false
	}
	took, _, ok := r.arrives(ctx, began, r.heaviest)
	if ok && took >= 0 {
		r.result.Values["fromS"] = r.heaviest.Seconds()
	}
	return ok
}

// converts plays what the device cannot play as it is, in the form that the source makes for it. Here the first start counts: it is then that the
// source begins to convert.
func (v *visit) converts(ctx context.Context) {
	r, ok := v.player(ctx)
	if !ok || !r.free(ctx) || !r.loadConverted(ctx) {
		return
	}
	defer r.end(ctx)
	if first, ok := r.start(ctx); ok {
		r.judge(ctx, first, startsLate, 2*startsLate) // a conversion has ten seconds to begin
	}
}

// longPlay plays on and on: an item after another, until the time is over. A machine can see that what plays stands still, and cannot see whether
// the screen stays on: what shows no stall is left to an eye.
func (v *visit) longPlay(ctx context.Context) {
	r, ok := v.player(ctx)
	if !ok || !r.free(ctx) || !r.load(ctx) {
		return
	}
	defer r.end(ctx)
	r.goOnFor(ctx, v.prober.lasts("long-play"), r.load)
}

// goOnFor plays what was loaded, and again what is loaded then, until the time is over.
func (r *renderer) goOnFor(ctx context.Context, lasts time.Duration, load func(context.Context) bool) {
	var all watched
	for {
		if _, ok := r.start(ctx); !ok {
			return
		}
		seen, ok := r.watch(ctx, lasts-all.watched)
		if !ok {
			return
		}
		all = watched{all.watched + seen.watched, all.moved + seen.moved, all.still + seen.still, all.stalls + seen.stalls}
		if all.watched >= lasts {
			break
		}
		if !r.do(ctx, "Stop") || !load(ctx) {
			return
		}
	}
	if r.judgeStalls(all) {
		r.see(dossier.Impossible, "no-stall-seen", "title", r.title, "watched", fmt.Sprintf("%.0f", all.watched.Seconds()))
	}
}

// judge watches what was started, and says how it went.
func (r *renderer) judge(ctx context.Context, second, soon, late time.Duration) {
	v := r.visit
	v.result.Values["startS"] = second.Seconds()
	seen, ok := r.watch(ctx, cmp.Or(r.prober.PlaysFor, playsFor))
	if !ok {
		return
	}
	if !r.judgeStalls(seen) {
		return
	}
	started, watched := fmt.Sprintf("%.1f", second.Seconds()), fmt.Sprintf("%.0f", seen.watched.Seconds())
	switch {
	case second > late:
		v.see(dossier.Fail, "played-late", "title", r.title, "seconds", started)
	case second > soon:
		v.see(dossier.Marginal, "played-late", "title", r.title, "seconds", started)
	default:
		v.see(dossier.Pass, "played", "title", r.title, "seconds", started, "watched", watched)
	}
}

// judgeStalls says how what was watched stood still, and reports whether it did not.
func (r *renderer) judgeStalls(seen watched) bool {
	r.result.Values["watchedS"], r.result.Values["stalls"], r.result.Values["stillS"] = seen.watched.Seconds(), float64(seen.stalls), seen.still.Seconds()
	watched := fmt.Sprintf("%.0f", seen.watched.Seconds())
	switch {
	case seen.lies():
		r.see(dossier.Impossible, "position-lies", "moved", fmt.Sprintf("%.0f", seen.moved.Seconds()), "watched", watched)
	case seen.stutters():
		r.see(dossier.Fail, "stutters", "title", r.title, "moved", fmt.Sprintf("%.0f", seen.moved.Seconds()), "watched", watched)
	case seen.stalls > 0:
		r.see(map[bool]dossier.Outcome{true: dossier.Marginal, false: dossier.Fail}[seen.stalls == 1 && seen.still < 5*time.Second], "stalled",
			"title", r.title, "stalls", fmt.Sprint(seen.stalls), "watched", watched, "still", fmt.Sprintf("%.0f", seen.still.Seconds()))
	default:
		return true
	}
	return false
}

// watched is what was seen of something that plays.
type watched struct {
	watched, moved, still time.Duration
	stalls                int
}

// lies reports whether the position moved faster than time passed.
func (w watched) lies() bool { return w.moved+w.still > w.watched*12/10+stillFor }

// stutters reports whether it stood for moments that are too short to be seen one by one.
func (w watched) stutters() bool { return w.moved+w.still+stillFor < w.watched*9/10 }

// watch looks at the position until the time is over or the item has ended.
func (r *renderer) watch(ctx context.Context, lasts time.Duration) (out watched, ok bool) {
	began := time.Now()
	from, _, err := r.position(ctx)
	if err != nil {
		r.refused(err)
		return out, false
	}
	last, lastAt, stalling := from, began, false
	for time.Since(began) < lasts {
		if !pause(ctx, lookEach) {
			return out, false
		}
		state, err := r.state(ctx)
		if err != nil {
			r.refused(err)
			return out, false
		}
		if state != "PLAYING" && state != "TRANSITIONING" {
			if r.length > 0 && last >= r.length-3*time.Second && state != "PAUSED_PLAYBACK" {
				break // it has ended
			}
			if state == "STOPPED" || state == "NO_MEDIA_PRESENT" || state == "PAUSED_PLAYBACK" {
				r.see(dossier.Fail, "does-not-start") // it gave up
				return out, false
			}
		}
		at, _, err := r.position(ctx)
		if err != nil {
			r.refused(err)
			return out, false
		}
		now := time.Now()
		switch {
		case at != last:
			if stalling {
				out.still += now.Sub(lastAt)
			}
			last, lastAt, stalling = at, now, false
		case now.Sub(lastAt) > stillFor && !stalling:
			stalling = true
			out.stalls++
		}
	}
	if stalling {
		out.still += time.Since(lastAt)
	}
	out.watched, out.moved = time.Since(began), last-from
	return out, true
}

// stops plays something, stops it, and looks whether it has stopped.
func (v *visit) stops(ctx context.Context) {
	r, ok := v.player(ctx)
	if !ok || !r.free(ctx) || !r.load(ctx) {
		return
	}
	defer r.end(ctx)
	if _, ok := r.start(ctx); !ok {
		return
	}
	began := time.Now()
	if !r.do(ctx, "Stop") {
		return
	}
	state := ""
	for time.Since(began) < 3*stopsSoon {
		var err error
		if state, err = r.state(ctx); err != nil {
			r.refused(err)
			return
		}
		if took := time.Since(began); state == "STOPPED" || state == "NO_MEDIA_PRESENT" {
			v.result.Values["stopS"] = took.Seconds()
			v.see(map[bool]dossier.Outcome{true: dossier.Pass, false: dossier.Marginal}[took <= stopsSoon], "stopped", "seconds", fmt.Sprintf("%.1f", took.Seconds()))
			return
		}
		if !pause(ctx, lookEach) {
			return
		}
	}
	v.see(dossier.Fail, "plays-on", "state", strings.ToLower(state), "seconds", fmt.Sprint(int(3*stopsSoon/time.Second)))
}

// seeks plays something, jumps forward and back, and looks where it goes on.
func (v *visit) seeks(ctx context.Context) {
	r, ok := v.player(ctx)
	if !ok || !r.free(ctx) || !r.load(ctx) {
		return
	}
	defer r.end(ctx)
	if _, ok := r.start(ctx); !ok {
		return
	}
	far := cmp.Or(r.length, 20*time.Minute) / 2
	var slowest time.Duration
	for _, to := range []time.Duration{min(far, 10*time.Minute).Truncate(time.Second), min(far/4, time.Minute).Truncate(time.Second)} {
		began := time.Now()
		if !r.do(ctx, "Seek", "Unit", "REL_TIME", "Target", clockText(to)) {
			return
		}
		took, at, ok := r.arrives(ctx, began, to)
		if !ok {
			return
		}
		if took < 0 {
			v.see(dossier.Fail, "jump-missed", "to", clockText(to), "at", clockText(at))
			return
		}
		slowest = max(slowest, took)
		v.result.Values["jumpS"] = slowest.Seconds()
		outcome := dossier.Pass
		if slowest > startsSoon {
			outcome = dossier.Marginal
		}
		v.see(outcome, "jumped", "to", clockText(to), "seconds", fmt.Sprintf("%.1f", slowest.Seconds()))
	}
}

// arrives waits until playing goes on where it was to jump to, and returns how long that took; below zero if it never did.
func (r *renderer) arrives(ctx context.Context, began time.Time, to time.Duration) (took, at time.Duration, ok bool) {
	var last time.Duration
	there := false
	for time.Since(began) < 2*startsLate {
		if !pause(ctx, lookEach) {
			return 0, 0, false
		}
		at, _, err := r.position(ctx)
		if err != nil {
			r.refused(err)
			return 0, 0, false
		}
		since := time.Since(began)
		near := at >= to-farFrom && at <= to+since+farFrom
		if near && there && at != last {
			return since, at, true
		}
		there, last = near, at
	}
	return -1, last, true
}

// clockOf reads a time as renderers write it: H+:MM:SS, with a fraction as decimal or as a ratio (AVTransport:1, section 2.2.13).
func clockOf(s string) (time.Duration, bool) {
	parts := strings.Split(strings.TrimSpace(s), ":")
	if len(parts) != 3 {
		return 0, false
	}
	whole, fraction, _ := strings.Cut(parts[2], ".")
	var out time.Duration
	for i, unit := range []time.Duration{time.Hour, time.Minute, time.Second} {
		n, err := strconv.ParseUint(map[bool]string{true: whole, false: parts[i]}[i == 2], 10, 16)
		if err != nil {
			return 0, false
		}
		out += time.Duration(n) * unit
	}
	if above, below, ratio := strings.Cut(fraction, "/"); ratio {
		a, err1 := strconv.ParseFloat(above, 64)
		b, err2 := strconv.ParseFloat(below, 64)
		if err1 == nil && err2 == nil && b > 0 && a < b && a >= 0 {
			out += time.Duration(a / b * float64(time.Second))
		}
	} else if f, err := strconv.ParseFloat("0."+fraction, 64); fraction != "" && err == nil {
		out += time.Duration(f * float64(time.Second))
	}
	return out, true
}

// clockText writes a time as H:MM:SS.
func clockText(d time.Duration) string {
	s := int(d.Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}
