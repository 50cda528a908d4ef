package probe

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/homes"
)

// transport is a renderer's AVTransport that does as it is told to, or not.
type transport struct {
	mu    sync.Mutex
	state string
	began time.Time
	at    func(since time.Duration) string // position since Play
	fault int                              // answered to Play
	ends  time.Duration                    // after Play, when it has come to the end of the title; 0 for never
	gone  time.Duration                    // after Play, when it vanishes; 0 for never
}

func (x *transport) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.gone > 0 && !x.began.IsZero() && time.Since(x.began) > x.gone {
		c, _, err := http.NewResponseController(w).Hijack()
		if err == nil {
			_ = c.Close()
		}
		return
	}
	_, action, _ := strings.Cut(strings.Trim(r.Header.Get("SOAPACTION"), `"`), "#")
	inner := ""
	switch action {
	case "Play":
		if x.fault != 0 {
			w.WriteHeader(http.StatusInternalServerError)
			_, _ = fmt.Fprintf(w, `<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><s:Fault><detail><UPnPError><errorCode>%d</errorCode><errorDescription>not now</errorDescription></UPnPError></detail></s:Fault></s:Body></s:Envelope>`, x.fault)
			return
		}
		x.state, x.began = "PLAYING", time.Now()
	case "Stop":
		x.state = "STOPPED"
	case "GetTransportInfo":
		if x.ends > 0 && x.state == "PLAYING" && time.Since(x.began) > x.ends {
			x.state = "STOPPED"
		}
		inner = "<CurrentTransportState>" + x.state + "</CurrentTransportState>"
	case "GetPositionInfo":
		at := "0:00:00"
		if !x.began.IsZero() {
			at = x.at(time.Since(x.began))
		}
		inner = "<RelTime>" + at + "</RelTime>"
	}
	_, _ = fmt.Fprintf(w, `<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><u:%[1]sResponse xmlns:u="urn:schemas-upnp-org:service:AVTransport:1">%[2]s</u:%[1]sResponse></s:Body></s:Envelope>`, action, inner)
}

func exactly(d time.Duration) string {
	return fmt.Sprintf("%d:%02d:%02d.%d", int(d.Hours()), int(d.Minutes())%60, int(d.Seconds())%60, int(d.Milliseconds()/100)%10)
}

// facing is a renderer of that kind, and a test that is under way with it.
func facing(t *testing.T, x *transport) *renderer {
	x.state = "STOPPED"
	s := httptest.NewServer(x)
	t.Cleanup(s.Close)
	to, err := url.Parse(s.URL)
	require.NoError(t, err)
	v := &visit{d: homes.Small(), prober: Prober{PlaysFor: 4 * time.Second}, result: proving.Result{Outcome: dossier.Fail, Values: map[string]float64{}, Said: map[string]string{}}}
	return &renderer{visit: v, title: "Fog Signal", transport: &upnpClient{service: "urn:schemas-upnp-org:service:AVTransport:1", control: to, client: http.DefaultClient}}
}

func TestWhatIsSeenOfPlaying(t *testing.T) {
	slow := func(d time.Duration) string { return exactly(d / 3) }
	stands := func(d time.Duration) string {
		if d > time.Second && d < 3200*time.Millisecond {
			d = time.Second
		}
		return exactly(d)
	}
	for name, c := range map[string]struct {
		x        *transport
		outcome  dossier.Outcome
		observed string
	}{
		"it moves with the clock":             {&transport{at: exactly}, dossier.Pass, "played"},
		"it tells whole seconds":              {&transport{at: func(d time.Duration) string { return exactly(d.Truncate(time.Second)) }}, dossier.Pass, "played"},
		"it stands for two seconds":           {&transport{at: stands}, dossier.Marginal, "stalled"},
		"it moves at a third of the clock":    {&transport{at: slow}, dossier.Fail, "stutters"},
		"it runs ahead of the clock":          {&transport{at: func(d time.Duration) string { return exactly(3 * d) }}, dossier.Impossible, "position-lies"},
		"it does not tell where it is":        {&transport{at: func(time.Duration) string { return "NOT_IMPLEMENTED" }}, dossier.Impossible, "position-not-told"},
		"it refuses":                          {&transport{at: exactly, fault: 701}, dossier.Fail, "renderer-refused"},
		"it vanishes in the middle of a test": {&transport{at: exactly, gone: 1500 * time.Millisecond}, dossier.Fail, "hung-up"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			r := facing(t, c.x)
			if took, ok := r.start(t.Context()); ok {
				r.judge(t.Context(), took, startsSoon, startsLate)
			}
			assert.Equal(t, c.outcome, r.result.Outcome, "%s %v", r.result.Observed, r.result.Said)
			assert.Equal(t, c.observed, string(r.result.Observed))
		})
	}
}

// A gap between two tracks is seen where it is long; that there is none has to be heard.
func TestWhatIsSeenBetweenTwoTracks(t *testing.T) {
	const length = 20 * time.Second
	// after plays the first track from its 18th second on, and the second one after a pause in which it tells that position.
	after := func(gap time.Duration, told string, whole bool) func(time.Duration) string {
		return func(d time.Duration) string {
			at := 18*time.Second + d
			switch {
			case d > 2*time.Second && d < 2*time.Second+gap:
				return told
			case d >= 2*time.Second+gap:
				at = d - 2*time.Second - gap + 10*time.Millisecond
			}
			if whole {
				at = at.Truncate(time.Second)
			}
			return exactly(at)
		}
	}
	for name, c := range map[string]struct {
		at       func(time.Duration) string
		outcome  dossier.Outcome
		observed string
	}{
		"one runs into the other":              {after(0, "", false), dossier.Impossible, "no-gap-seen"},
		"the same, in whole seconds":           {after(0, "", true), dossier.Impossible, "no-gap-seen"},
		"half a second":                        {after(500*time.Millisecond, "0:00:00", false), dossier.Impossible, "no-gap-seen"},
		"four seconds of nothing":              {after(4*time.Second, "0:00:00", false), dossier.Fail, "gap"},
		"four seconds at the end of the first": {after(4*time.Second, "0:00:20", true), dossier.Fail, "gap"},
		"the second never comes":               {after(time.Hour, "0:00:00", false), dossier.Fail, "next-missing"},
		"no position is told":                  {func(time.Duration) string { return "NOT_IMPLEMENTED" }, dossier.Impossible, "position-not-told"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			r := facing(t, &transport{at: c.at, began: time.Now()})
			r.follows(t.Context(), length, "Second Bell")
			assert.Equal(t, c.outcome, r.result.Outcome, "%s %v", r.result.Observed, r.result.Said)
			assert.Equal(t, c.observed, string(r.result.Observed))
		})
	}
}

// What somebody watches, or has left paused, is not disturbed.
func TestNothingIsTakenFromTheScreen(t *testing.T) {
	for _, state := range []string{"PLAYING", "PAUSED_PLAYBACK", "TRANSITIONING", "RECORDING"} {
		x := &transport{at: exactly}
		r := facing(t, x)
		x.state = state
		assert.False(t, r.free(t.Context()), state)
		assert.Equal(t, "in-use", string(r.result.Observed))
	}
	for _, state := range []string{"STOPPED", "NO_MEDIA_PRESENT"} {
		x := &transport{at: exactly}
		r := facing(t, x)
		x.state = state
		assert.True(t, r.free(t.Context()), state)
	}
}

func TestTimesOfRenderers(t *testing.T) {
	for text, want := range map[string]time.Duration{"0:00:05": 5 * time.Second, "00:01:02.500": 62500 * time.Millisecond, "1:00:00.1/2": time.Hour + 500*time.Millisecond, " 10:00:00 ": 10 * time.Hour} {
		got, known := clockOf(text)
		assert.True(t, known, text)
		assert.InDelta(t, want.Seconds(), got.Seconds(), 1e-6, text)
	}
	for _, text := range []string{"", "NOT_IMPLEMENTED", "5", "0:05", "a:b:c", "-1:00:00"} {
		_, known := clockOf(text)
		assert.False(t, known, text)
	}
	assert.Equal(t, "1:02:03", clockText(time.Hour+2*time.Minute+3*time.Second))
}

func FuzzClockOf(f *testing.F) {
	f.Add("1:02:03.1/3")
	f.Fuzz(func(t *testing.T, s string) {
		if d, known := clockOf(s); known && d < 0 {
			t.Errorf("%q is %v", s, d)
		}
	})
}
