package probe

import (
	"bytes"
	"context"
	"crypto/tls"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"strconv"
	"time"

	"kaiku/core/dossier"
)

// FirmResponder is the firm's responder as a home calls it. It calls the home back at a port, and only at the address that it was called from.
type FirmResponder struct {
	URL, Token string
}

// Times of one call back. The home's own router may take a while to pass the first one on.
const (
	callBackTime = 8 * time.Second
	callBackGets = 5 * time.Second
)

// CalledBack is what a responder saw when it called a home back.
type CalledBack struct {
	Address netip.AddrPort `json:"address"`
	Ended   string         `json:"ended"`            // open, refused or silent
	Status  int            `json:"status,omitempty"` // of HTTP, where it answered by it
	Sealed  bool           `json:"sealed,omitempty"` // it answered by TLS
}

// callsBack calls who asks back at the port that it names.
func callsBack(w http.ResponseWriter, r *http.Request) {
	from, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil {
		http.Error(w, "no address", http.StatusInternalServerError)
		return
	}
	var asked struct{ Port uint16 }
	if err := json.NewDecoder(io.LimitReader(r.Body, 1<<10)).Decode(&asked); err != nil || asked.Port == 0 {
		http.Error(w, "a port is missing", http.StatusBadRequest)
		return
	}
	_ = json.NewEncoder(w).Encode(callBack(r.Context(), netip.AddrPortFrom(from.Addr().Unmap(), asked.Port)))
}

func callBack(ctx context.Context, to netip.AddrPort) CalledBack {
	out := CalledBack{Address: to, Ended: "open"}
	conn, err := (&net.Dialer{Timeout: callBackTime}).DialContext(ctx, "tcp", to.String())
	if err != nil {
		out.Ended = "silent"
		if dialCode(err) == "refused" {
			out.Ended = "refused"
		}
		return out
	}
	_ = conn.Close() // that it opens is known
	// Any certificate will do: what is asked is whether anything answers, and nothing is told to it.
	client := &http.Client{Timeout: callBackGets, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{DisableKeepAlives: true, TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}} //nolint:gosec // see above
	for _, scheme := range []string{"https", "http"} {
		ask, err := http.NewRequestWithContext(ctx, http.MethodGet, scheme+"://"+to.String()+"/", nil)
		if err != nil {
			continue
		}
		resp, err := client.Do(ask)
		if err != nil {
			continue
		}
		_ = resp.Body.Close()
		out.Status, out.Sealed = resp.StatusCode, scheme == "https"
		break
	}
	return out
}

// callMe asks the responder to call this home back at a port.
func (r FirmResponder) callMe(ctx context.Context, network string, port int) (CalledBack, error) {
	var out CalledBack
	body, err := json.Marshal(map[string]int{"port": port})
	if err != nil {
		return out, err
	}
	l := lineClient{r.URL, r.Token}
	resp, err := l.send(ctx, l.over(network), http.MethodPost, "/line/call-back", bytes.NewReader(body))
	if err != nil {
		return out, err
	}
	defer func() { _ = resp.Body.Close() }()
	return out, json.NewDecoder(io.LimitReader(resp.Body, 1<<12)).Decode(&out)
}

// outside has the firm's responder call the home at the source's port. That nothing answers there is certain, and that it plays outside is not:
// what answers is left to a person with a carried device.
func (v *visit) outside(ctx context.Context) {
	if v.prober.Responder.URL == "" {
		v.see(dossier.Impossible, "no-responder")
		return
	}
	network := "tcp4"
	if v.source.OutsideBy == dossier.WayIPv6 {
		network = "tcp6"
	}
	seen, err := v.prober.Responder.callMe(ctx, network, v.source.OutsidePort)
	if err != nil {
		v.see(dossier.Impossible, "responder-failed", "detail", err.Error())
		return
	}
	at := seen.Address.String()
	switch {
	case seen.Ended == "refused":
		v.see(dossier.Fail, "outside-refused", "address", at)
	case seen.Ended != "open":
		v.see(dossier.Fail, "outside-silent", "address", at, "seconds", fmt.Sprint(int(callBackTime.Seconds())))
	case seen.Status == http.StatusUnauthorized || seen.Status == http.StatusForbidden:
		v.see(dossier.Impossible, "outside-asks", "address", at)
	default:
		v.see(dossier.Impossible, "outside-answers", "address", at, "status", map[bool]string{true: "HTTP status " + strconv.Itoa(seen.Status), false: "no HTTP"}[seen.Status > 0])
	}
}
