package httpapi

import (
	"net/http"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"kaiku/service"
)

// figures are what /metrics tells in Prometheus' text format: counts and times, no names of
// people, homes or addresses.
type figures struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
	streams  prometheus.Gauge
}

func newFigures(s *service.Service, version string) *figures {
	f := &figures{registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "kaiku_requests_total", Help: "Requests answered, by operation and status."}, []string{"operation", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "kaiku_request_seconds", Help: "Time to answer a request, by operation.",
			Buckets: []float64{.001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5, 10}}, []string{"operation"}),
		streams: prometheus.NewGauge(prometheus.GaugeOpts{Name: "kaiku_event_streams", Help: "Open event streams."})}
	about := prometheus.NewGaugeVec(prometheus.GaugeOpts{Name: "kaiku_version_info", Help: "Always 1; the label is the version."}, []string{"version"})
	about.WithLabelValues(version).Set(1)
	f.registry.MustRegister(f.requests, f.seconds, f.streams, about, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		prometheus.NewCounterFunc(prometheus.CounterOpts{Name: "kaiku_writes_total", Help: "Writes to households since the start."}, func() float64 { return float64(s.WriteCount()) }),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "kaiku_clock_behind_seconds", Help: "How far the machine's clock is behind the newest journal entry."}, func() float64 { return s.ClockBehind().Seconds() }))
	return f
}

func (f *figures) handler() http.Handler {
	return promhttp.HandlerFor(f.registry, promhttp.HandlerOpts{})
}

// answered counts one request. Files of the console and what is nowhere count as operation "".
func (f *figures) answered(operation string, status int, took time.Duration) {
	f.requests.WithLabelValues(operation, strconv.Itoa(status)).Inc()
	if operation != "follow-events" { // a stream lasts as long as its page
		f.seconds.WithLabelValues(operation).Observe(took.Seconds())
	}
}
