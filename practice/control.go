package practice

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"time"
)

// control is where a running house lets its faults be switched: a small web service at an address
// of its own in the house's segment.
type control struct{ server *http.Server }

// FaultState is a fault and whether it is on, as the control tells it.
type FaultState struct {
	Name  string   `json:"name"`
	Says  string   `json:"says"`
	Tests []string `json:"tests"`
	On    bool     `json:"on"`
}

// ControlAddress is where the house in that octet lets its faults be switched.
func ControlAddress(octet byte) netip.AddrPort {
	return netip.AddrPortFrom(netip.AddrFrom4([4]byte{127, 77, octet, 253}), ControlPort)
}

func newControl(h *House) (*control, error) {
	l, err := net.Listen("tcp4", ControlAddress(h.octet).String())
	if err != nil {
		return nil, err
	}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /faults", func(w http.ResponseWriter, _ *http.Request) {
		out := []FaultState{}
		for _, f := range Faults {
			out = append(out, FaultState{f.Name, f.Says, f.Tests, h.On(f.Name)})
		}
		w.Header().Set("Content-Type", "application/json")
		_ = json.NewEncoder(w).Encode(out)
	})
	mux.HandleFunc("PUT /faults/{name}/{state}", func(w http.ResponseWriter, r *http.Request) {
		if err := h.Switch(r.PathValue("name"), r.PathValue("state") == "on"); err != nil {
			http.Error(w, err.Error(), http.StatusNotFound)
			return
		}
		_, _ = fmt.Fprintln(w, "switched")
	})
	c := &control{&http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}}
	go func() { _ = c.server.Serve(l) }() // ends when stop closes it
	return c, nil
}

func (c *control) stop() { _ = c.server.Close() }
