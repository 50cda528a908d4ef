package practice

import (
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"time"

	"kaiku/practice/layout"
)

// control is where a running house lets its faults be switched and errands be carried out: a small
// web service at an address of its own in the house's segment.
type control struct{ server *http.Server }

func newControl(h *House) (*control, error) {
	l, err := net.Listen("tcp4", layout.ControlAddress(h.octet).String())
	if err != nil {
		return nil, err
	}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /faults", func(w http.ResponseWriter, _ *http.Request) {
		out := []layout.FaultState{}
		for _, f := range layout.Faults {
			out = append(out, layout.FaultState{Name: f.Name, Says: f.Says, Tests: f.Tests, On: h.On(f.Name)})
		}
		answer(w, out)
	})
	mux.HandleFunc("PUT /faults/{name}/{state}", func(w http.ResponseWriter, r *http.Request) {
		if err := h.Switch(r.PathValue("name"), r.PathValue("state") == "on"); err != nil {
			http.Error(w, err.Error(), http.StatusNotFound)
			return
		}
		_, _ = fmt.Fprintln(w, "switched")
	})
	mux.HandleFunc("PUT /samples/{folder}/{state}", func(w http.ResponseWriter, r *http.Request) {
		if err := h.PutSample(r.PathValue("folder"), r.PathValue("state") == "there"); err != nil {
			http.Error(w, err.Error(), http.StatusNotFound)
			return
		}
		_, _ = fmt.Fprintln(w, "done")
	})
	mux.HandleFunc("POST /errands", func(w http.ResponseWriter, r *http.Request) {
		var e layout.Errand
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 4096)).Decode(&e); err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		seen, err := h.Carry(r.Context(), e)
		if err != nil {
			status := http.StatusInternalServerError
			if errors.Is(err, errCannot) {
				status = http.StatusUnprocessableEntity
			}
			http.Error(w, err.Error(), status)
			return
		}
		answer(w, seen)
	})
	c := &control{&http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}}
	go func() { _ = c.server.Serve(l) }() // ends when stop closes it
	return c, nil
}

func answer(w http.ResponseWriter, body any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(body) // who asked may be gone
}

func (c *control) stop() { _ = c.server.Close() }
