package practice

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"
)

// events keeps who subscribed to a device's services, and sends them what changed (UPnP Device
// Architecture 2.0, section 4).
type events struct {
	mu     sync.Mutex
	by     map[string]subscription // by subscription id
	ctx    context.Context
	cancel context.CancelFunc
	sends  sync.WaitGroup
	count  int
}

type subscription struct {
	service  string
	callback string
	key      int
	until    time.Time
}

// eventTime is how long a subscription lasts.
const eventTime = 30 * time.Minute

func newEvents() *events {
	e := &events{by: map[string]subscription{}}
	e.ctx, e.cancel = context.WithCancel(context.Background())
	return e
}

func (e *events) stop() {
	e.cancel()
	e.sends.Wait()
}

// of answers SUBSCRIBE and UNSUBSCRIBE for one service. A callback that leads elsewhere than to the
// subscriber itself is refused.
func (e *events) of(s service) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		id := r.Header.Get("Sid")
		switch {
		case r.Method == "UNSUBSCRIBE":
			e.mu.Lock()
			_, known := e.by[id]
			delete(e.by, id)
			e.mu.Unlock()
			if !known {
				http.Error(w, "no such subscription", http.StatusPreconditionFailed)
			}
		case r.Method != "SUBSCRIBE":
			http.Error(w, "subscribe to it", http.StatusMethodNotAllowed)
		case id != "":
			e.renew(w, id)
		default:
			callback := strings.Trim(r.Header.Get("Callback"), "<>")
			to, err := url.Parse(callback)
			from, _, _ := strings.Cut(r.RemoteAddr, ":")
			if err != nil || to.Scheme != "http" || to.Hostname() != from || r.Header.Get("Nt") != "upnp:event" {
				http.Error(w, "the callback must lead to the subscriber", http.StatusPreconditionFailed)
				return
			}
			e.add(w, s, callback)
		}
	})
}

func (e *events) add(w http.ResponseWriter, s service, callback string) {
	e.mu.Lock()
	e.count++
	id := fmt.Sprintf("uuid:4b616b75-1000-4000-8000-%012d", e.count)
	e.by[id] = subscription{service: s.name(), callback: callback, until: time.Now().Add(eventTime)}
	e.mu.Unlock()
	answerSubscription(w, id)
	if s.state != nil { // the first message holds everything (4.1.2)
		e.send(id, s.state())
	}
}

func (e *events) renew(w http.ResponseWriter, id string) {
	e.mu.Lock()
	one, known := e.by[id]
	if known {
		one.until = time.Now().Add(eventTime)
		e.by[id] = one
	}
	e.mu.Unlock()
	if !known {
		http.Error(w, "no such subscription", http.StatusPreconditionFailed)
		return
	}
	answerSubscription(w, id)
}

func answerSubscription(w http.ResponseWriter, id string) {
	w.Header().Set("Sid", id)
	w.Header().Set("Timeout", fmt.Sprintf("Second-%d", int(eventTime.Seconds())))
}

// send sends one message to a subscriber, in the background.
func (e *events) send(id string, values []argument) {
	e.mu.Lock()
	one, known := e.by[id]
	if known {
		next := one
		next.key++
		e.by[id] = next
	}
	e.mu.Unlock()
	if !known || time.Now().After(one.until) {
		return
	}
	var b bytes.Buffer
	b.WriteString(`<?xml version="1.0"?><e:propertyset xmlns:e="urn:schemas-upnp-org:event-1-0">`)
	for _, v := range values {
		fmt.Fprintf(&b, "<e:property><%s>%s</%s></e:property>", v.name, escape(v.value), v.name)
	}
	b.WriteString("</e:propertyset>")
	e.sends.Go(func() {
		ctx, cancel := context.WithTimeout(e.ctx, 2*time.Second)
		defer cancel()
		r, err := http.NewRequestWithContext(ctx, "NOTIFY", one.callback, &b)
		if err != nil {
			return
		}
		for name, value := range map[string]string{"NT": "upnp:event", "NTS": "upnp:propchange", "SID": id, "SEQ": fmt.Sprint(one.key), "Content-Type": "text/xml"} {
			r.Header.Set(name, value)
		}
		client := http.Client{Transport: &http.Transport{DisableKeepAlives: true}}
		if resp, err := client.Do(r); err == nil {
			_ = resp.Body.Close()
		}
	})
}

// tell sends what changed of a service to all who subscribed to it.
func (e *events) tell(service string, values ...argument) {
	e.mu.Lock()
	var to []string
	for id, s := range e.by {
		if s.service == service {
			to = append(to, id)
		}
	}
	e.mu.Unlock()
	for _, id := range to {
		e.send(id, values)
	}
}
