package practice

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"sync"
	"time"

	"github.com/huin/goupnp"
	"github.com/huin/goupnp/dcps/av1"

	"kaiku/practice/layout"
)

// errands are done one at a time on each device; what disturbs the others is done alone.
type errands struct {
	alone   sync.RWMutex
	mu      sync.Mutex
	at      map[*Device]*sync.Mutex
	samples map[*Device][]string // titles of the folders into which a sample was copied
}

func (e *errands) turn(d *Device) *sync.Mutex {
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.at == nil {
		e.at = map[*Device]*sync.Mutex{}
	}
	if e.at[d] == nil {
		e.at[d] = &sync.Mutex{}
	}
	return e.at[d]
}

// errandKinds are the tests that can be carried out: with all others kept waiting where it would disturb them, and
// some only at a device that remembers where playing was stopped.
var errandKinds = map[string]struct {
	do           func(*visit) (string, error)
	alone, marks bool
}{
	"plays": {do: (*visit).start}, "stops": {do: (*visit).stops}, "seeks": {do: (*visit).seeks}, "resumes": {do: (*visit).resumes, marks: true}, "sound": {do: (*visit).sound},
	"picture-fits": {do: (*visit).pictureFits}, "lip-sync": {do: (*visit).lipSync}, "top-quality": {do: (*visit).topQuality}, "converted-ahead": {do: (*visit).convertedAhead},
	"sample-appears": {do: (*visit).sampleAppears, alone: true}, "after-device-restart": {do: (*visit).afterRestart},
	"survives-restart": {do: (*visit).survivesRestart, alone: true}, "hours-kept": {do: (*visit).hoursKept, alone: true},
}

// errCannot is returned for a test that cannot be carried out in this house.
var errCannot = errors.New("this test cannot be carried out here")

// Carry does in front of a screen of the house what a technician would do there, over the protocols
// that its devices speak, and tells what was seen.
func (h *House) Carry(outer context.Context, e layout.Errand) (layout.Seen, error) {
	i := slices.IndexFunc(h.devices, func(d *Device) bool { return d.Name == e.Screen && d.sinks != nil })
	if i < 0 {
		return layout.Seen{}, fmt.Errorf("%w: the house has no screen called %q", errCannot, e.Screen)
	}
	kind, ok := errandKinds[e.Test]
	if !ok || kind.marks && !h.devices[i].marks {
		return layout.Seen{}, fmt.Errorf("%w: %s at %s", errCannot, e.Test, e.Screen)
	}
	if kind.alone {
		h.errands.alone.Lock()
		defer h.errands.alone.Unlock()
	} else {
		h.errands.alone.RLock()
		defer h.errands.alone.RUnlock()
	}
	turn := h.errands.turn(h.devices[i])
	turn.Lock()
	defer turn.Unlock()
	ctx, enough := context.WithTimeout(outer, errandTime)
	defer enough()
	v := &visit{ctx: ctx, house: h, screen: h.devices[i], errand: e}
	if err := v.sitDown(); err != nil {
		return layout.Seen{Says: err.Error()}, outer.Err()
	}
	says, err := kind.do(v)
	_ = v.player.StopCtx(outer, 0) // the next errand begins with a screen that is still
	if err != nil {
		return layout.Seen{Says: err.Error()}, outer.Err()
	}
	return layout.Seen{Passed: true, Says: says}, nil
}

// visit is one errand at one screen.
type visit struct {
	ctx    context.Context
	house  *House
	screen *Device
	errand layout.Errand
	player *av1.AVTransport1
	sounds *av1.RenderingControl1
	list   *av1.ContentDirectory1
	folder int  // its number
	title  int  // number of what is played there
	item   item // that one
}

// Time and step by which a screen is watched.
const (
	watchFor  = 3 * time.Second
	watchStep = 20 * time.Millisecond
	watched   = 200 * time.Millisecond // by which a position must have moved
	atMost    = 3 * watched            // in which it must have: at a third of the speed it counts as stalled
	// errandTime bounds one errand.
	errandTime = 30 * time.Second
)

// took writes how long something lasted.
func took(d time.Duration) string { return fmt.Sprintf("%d ms", d.Milliseconds()) }

// describedBy reads the description of a device.
func (v *visit) describedBy(d *Device) (*goupnp.RootDevice, *url.URL, error) {
	at := &url.URL{Scheme: "http", Host: d.Address.String(), Path: layout.Locator}
	root, err := goupnp.DeviceByURLCtx(v.ctx, at)
	return root, at, err
}

// once is a client that keeps no connection: a device may be restarted between two calls.
func once() http.Client { return http.Client{Transport: &http.Transport{DisableKeepAlives: true}} }

// sitDown takes the screen's controls and opens the folder.
func (v *visit) sitDown() error {
	root, at, err := v.describedBy(v.screen)
	if err != nil {
		return fmt.Errorf("the screen does not answer: %w", err)
	}
	players, err := av1.NewAVTransport1ClientsFromRootDevice(root, at)
	if err != nil {
		return fmt.Errorf("the screen cannot be told to play: %w", err)
	}
	sounds, err := av1.NewRenderingControl1ClientsFromRootDevice(root, at)
	if err != nil {
		return fmt.Errorf("the screen does not say how loud it is: %w", err)
	}
	v.player, v.sounds = players[0], sounds[0]
	v.player.SOAPClient.HTTPClient, v.sounds.SOAPClient.HTTPClient = once(), once()
	return v.openFolder()
}

func (v *visit) openFolder() error {
	root, at, err := v.describedBy(v.house.Server)
	if err != nil {
		return fmt.Errorf("the server does not answer: %w", err)
	}
	lists, err := av1.NewContentDirectory1ClientsFromRootDevice(root, at)
	if err != nil {
		return fmt.Errorf("the server has no list: %w", err)
	}
	v.list = lists[0]
	v.list.SOAPClient.HTTPClient = once()
	for n, f := range v.house.Server.offered() {
		if f.title != v.errand.Folder {
			continue
		}
		for m, i := range f.items {
			if v.errand.Title == "" || i.title == v.errand.Title {
				v.folder, v.title, v.item = n+1, m+1, i
				return nil
			}
		}
	}
	return fmt.Errorf("the server has no %q in a folder %q", v.errand.Title, v.errand.Folder)
}

// start lets the screen play the title, or the first of the folder, and watches it begin.
func (v *visit) start() (string, error) {
	where := "http://" + v.house.Server.Address.String() + fmt.Sprintf("/media/%d-%d", v.folder, v.title)
	about := fmt.Sprintf(`<DIDL-Lite xmlns="urn:schemas-upnp-org:metadata-1-0/DIDL-Lite/"><item><res duration="%s"/></item></DIDL-Lite>`, clock(v.item.length))
	if err := v.player.SetAVTransportURICtx(v.ctx, 0, where, about); err != nil {
		return "", fmt.Errorf("the screen does not take %s: %w", v.item.title, err)
	}
	began := time.Now()
	from, err := v.position()
	if err != nil {
		return "", err
	}
	if err := v.player.PlayCtx(v.ctx, 0, "1"); err != nil {
		return "", fmt.Errorf("the screen does not play %s: %w", v.item.title, err)
	}
	if v.item.length <= time.Second { // a picture: there is nothing to move
		state, _, _, err := v.player.GetTransportInfoCtx(v.ctx, 0)
		if err == nil && state != "PLAYING" {
			err = fmt.Errorf("the screen does not show %s: it says %s", v.item.title, state)
		}
		return fmt.Sprintf("%s is shown after %s", v.item.title, took(time.Since(began))), err
	}
	at, err := v.moves(from)
	return fmt.Sprintf("%s plays, at %s after %s", v.item.title, fineClock(at), took(time.Since(began))), err
}

// moves waits until the position has begun to move, and then until it has moved on.
func (v *visit) moves(from time.Duration) (at time.Duration, err error) {
	if at, err = v.reaches(from+time.Millisecond, watchFor); err != nil {
		return at, err
	}
	return v.reaches(at+watched, atMost)
}

// reaches waits for a position for at most that long. A last look is asked for when the time is over: one that was
// asked for earlier and came late does not show what the screen had reached by then.
func (v *visit) reaches(to, within time.Duration) (at time.Duration, err error) {
	for until, over := time.Now().Add(within), false; !over; time.Sleep(watchStep) {
		over = !time.Now().Before(until)
		if at, err = v.position(); err != nil || at >= to {
			return at, err
		}
	}
	return at, fmt.Errorf("%s stalls, at %s: it was watched for %s", v.item.title, fineClock(at), took(within))
}

func (v *visit) position() (time.Duration, error) {
	_, _, _, _, rel, _, _, _, err := v.player.GetPositionInfoCtx(v.ctx, 0) //nolint:dogsled // as the action is declared
	if err != nil {
		return 0, fmt.Errorf("the screen does not say where it is: %w", err)
	}
	at, ok := unclock(rel)
	if !ok {
		return 0, fmt.Errorf("the screen says %q for its position", rel)
	}
	return at, nil
}

func (v *visit) stops() (string, error) {
	if _, err := v.start(); err != nil {
		return "", err
	}
	if err := v.player.StopCtx(v.ctx, 0); err != nil {
		return "", fmt.Errorf("the screen does not stop: %w", err)
	}
	state, _, _, err := v.player.GetTransportInfoCtx(v.ctx, 0)
	if err == nil && state != "STOPPED" {
		err = fmt.Errorf("told to stop, the screen says %s", state)
	}
	return "stopped when told to", err
}

func (v *visit) jump(to time.Duration) (time.Duration, error) {
	if err := v.player.SeekCtx(v.ctx, 0, "REL_TIME", clock(to)); err != nil {
		return 0, fmt.Errorf("the screen does not go to %s: %w", clock(to), err)
	}
	return v.moves(to)
}

func (v *visit) seeks() (string, error) {
	if _, err := v.start(); err != nil {
		return "", err
	}
	at, err := v.jump(v.item.length / 2)
	return fmt.Sprintf("went to the middle and played on, at %s", fineClock(at)), err
}

func (v *visit) resumes() (string, error) {
	if _, err := v.start(); err != nil {
		return "", err
	}
	left, err := v.jump(v.item.length / 3)
	if err != nil {
		return "", err
	}
	if err := v.player.StopCtx(v.ctx, 0); err != nil {
		return "", fmt.Errorf("the screen does not stop: %w", err)
	}
	if _, err := v.start(); err != nil {
		return "", err
	}
	at, err := v.position()
	if err == nil && at < left {
		err = fmt.Errorf("left at %s, it began again at %s", fineClock(left), fineClock(at))
	}
	return fmt.Sprintf("left at %s, it went on, at %s", fineClock(left), fineClock(at)), err
}

func (v *visit) sound() (string, error) {
	said, err := v.start()
	if err != nil {
		return "", err
	}
	mute, err := v.sounds.GetMuteCtx(v.ctx, 0, "Master")
	if err != nil {
		return "", fmt.Errorf("the screen does not say whether it is silent: %w", err)
	}
	volume, err := v.sounds.GetVolumeCtx(v.ctx, 0, "Master")
	if err == nil && (mute || volume == 0) {
		err = errors.New("the screen says that its sound is off")
	}
	return fmt.Sprintf("%s; volume %d, not silent", said, volume), err
}

// What a screen shows of a picture, and when its sound comes, can only be seen in front of it: the errand looks at the simulated screen itself.
const (
	cutOff = 4                      // percent of the picture on each side, on a screen that cuts it off
	late   = 240 * time.Millisecond // sound after the picture, where it comes late
	inStep = 20 * time.Millisecond  // where it does not
)

func (v *visit) pictureFits() (string, error) {
	said, err := v.start()
	if err == nil && v.screen.on("picture-cropped") {
		err = fmt.Errorf("%d %% of the frame cannot be seen on each side", cutOff)
	}
	return said + "; all four sides of the frame can be seen", err
}

func (v *visit) lipSync() (string, error) {
	said, err := v.start()
	after := inStep
	if v.screen.on("sound-late") {
		after = late
	}
	if err == nil && after > 60*time.Millisecond { // ITU-R BT.1359
		err = fmt.Errorf("the beep comes %s after the flash", took(after))
	}
	return fmt.Sprintf("%s; the beep comes %s after the flash", said, took(after)), err
}

// topQuality plays what asks most of the network.
func (v *visit) topQuality() (string, error) {
	for n, f := range v.house.Server.offered() {
		for m, i := range f.items {
			if n+1 == v.folder && i.mbps > v.item.mbps {
				v.title, v.item = m+1, i
			}
		}
	}
	said, err := v.start()
	return fmt.Sprintf("%s, which needs %g Mb/s", said, v.item.mbps), err
}

// convertedAhead plays a copy, and looks whether a title is listed twice in its folder.
func (v *visit) convertedAhead() (string, error) {
	said, err := v.start()
	if err != nil {
		return "", err
	}
	titles := map[string]bool{}
	for n, f := range v.house.Server.offered() {
		for _, i := range f.items {
			if n+1 == v.folder && titles[i.title] {
				return "", fmt.Errorf("%s is listed twice", i.title)
			}
			titles[i.title] = n+1 == v.folder
		}
	}
	return said + "; no title is listed twice", nil
}

// sampleAppears copies a sample into the folder and looks for it in the server's list.
func (v *visit) sampleAppears() (string, error) {
	server := v.house.Server
	count := func() (uint32, error) {
		_, _, total, _, err := v.list.BrowseCtx(v.ctx, fmt.Sprint(v.folder), "BrowseDirectChildren", "*", 0, 1, "") //nolint:dogsled // as the action is declared
		return total, err
	}
	before, err := count()
	if err != nil {
		return "", fmt.Errorf("the folder does not open: %w", err)
	}
	began := time.Now()
	server.copySample(v.errand.Folder, true)
	defer server.copySample(v.errand.Folder, false)
	after, err := count()
	if err == nil && after != before+1 {
		err = fmt.Errorf("the server lists %d titles, as before", after)
	}
	return fmt.Sprintf("the sample was listed after %s, %d titles", took(time.Since(began)), after), err
}

// restart closes a device and opens it again, as pulling its plug would.
func (h *House) restart(d *Device) error {
	h.mu.Lock()
	defer h.mu.Unlock()
	d.stop()
	return d.start(h.ctx)
}

func (v *visit) afterRestart() (string, error) {
	if err := v.house.restart(v.screen); err != nil {
		return "", err
	}
	said, err := v.again()
	return "after a restart of the device: " + said, err
}

func (v *visit) survivesRestart() (string, error) {
	if err := v.house.restart(v.house.Server); err != nil {
		return "", err
	}
	said, err := v.again()
	return "after a restart of the server: " + said, err
}

func (v *visit) again() (string, error) {
	if err := v.sitDown(); err != nil {
		return "", err
	}
	return v.start()
}

// hoursKept looks at a blocked hour and at one that is not.
func (v *visit) hoursKept() (string, error) {
	if err := v.house.Switch("blocked-hours", true); err != nil {
		return "", err
	}
	_, blocked := v.start()
	if err := v.house.Switch("blocked-hours", false); err != nil {
		return "", err
	}
	if blocked == nil {
		return "", fmt.Errorf("%s plays at an hour at which it must not", v.item.title)
	}
	said, err := v.start()
	return "refused in the blocked hours, and outside of them " + said, err
}

// offered is a server's shelf with the samples that were copied into its folders.
func (d *Device) offered() []folder {
	e := &d.house.errands
	e.mu.Lock()
	defer e.mu.Unlock()
	if len(e.samples[d]) == 0 {
		return d.shelf
	}
	out := slices.Clone(d.shelf)
	for i, f := range out {
		if slices.Contains(e.samples[d], f.title) && len(f.items) > 0 {
			sample := f.items[0]
			sample.title = sampleTitle
			out[i].items = append(slices.Clip(f.items), sample)
		}
	}
	return out
}

// sampleTitle is what the server shows for a sample clip: the name of its file.
const sampleTitle = "kaiku-sample-h264-1080p25-aac"

// PutSample copies a sample clip into a folder of the house's server, or takes it out.
func (h *House) PutSample(title string, there bool) error {
	if h.Server == nil || !slices.ContainsFunc(h.Server.shelf, func(f folder) bool { return f.title == title }) {
		return fmt.Errorf("the server of this house has no folder %q", title)
	}
	h.Server.copySample(title, there)
	return nil
}

// copySample copies a sample into a folder, or takes it away.
func (d *Device) copySample(title string, there bool) {
	e := &d.house.errands
	e.mu.Lock()
	defer e.mu.Unlock()
	if e.samples == nil {
		e.samples = map[*Device][]string{}
	}
	if there {
		e.samples[d] = append(e.samples[d], title)
		return
	}
	e.samples[d] = slices.DeleteFunc(e.samples[d], func(s string) bool { return s == title })
}
