package httpapi_test

import (
	"context"
	"fmt"
	"net/http/httptest"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"kaiku/client"
	"kaiku/core/dossier"
	"kaiku/demo"
	"kaiku/httpapi"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

// BenchmarkMixedLoad lets 50 clients work on ten homes at once: of ten requests seven read an
// overview, two a list, and one records a reading. It prints the times of single requests.
func BenchmarkMixedLoad(b *testing.B) {
	ctx := context.Background()
	st, err := store.Open(ctx, b.TempDir(), store.Options{})
	require.NoError(b, err)
	defer st.Close()
	s := service.New(st, service.Options{})
	_, err = demo.AddFirm(ctx, s)
	require.NoError(b, err)
	server := httptest.NewServer(httpapi.New(s, httpapi.Options{}))
	defer server.Close()
	session, err := client.New(server.URL, "").LogIn(ctx, "petri", demo.Password, "bench")
	require.NoError(b, err)
	c := client.New(server.URL, session.Token)
	rooms := dossier.KindNamed("room")
	for n := range 10 {
		_, err := c.Begin(ctx, wire.NewHousehold{Code: fmt.Sprintf("H-%04d", n+1), Name: "Quay House"})
		require.NoError(b, err)
	}
	var mu sync.Mutex
	var took []time.Duration
	n := 0
	b.ResetTimer()
	var all sync.WaitGroup
	for worker := range 50 {
		all.Go(func() {
			for {
				mu.Lock()
				mine := n
				n++
				mu.Unlock()
				if mine >= b.N*50 {
					return
				}
				code := fmt.Sprintf("H-%04d", (mine+worker)%10+1)
				began := time.Now()
				var err error
				switch mine % 10 {
				case 0:
					_, err = c.Add(ctx, code, rooms, wire.Record{"name": fmt.Sprint("room ", mine)})
				case 1, 2:
					_, err = c.List(ctx, code, rooms)
				default:
					_, err = c.Overview(ctx, code)
				}
				if err != nil {
					b.Error(err)
					return
				}
				mu.Lock()
				took = append(took, time.Since(began))
				mu.Unlock()
			}
		})
	}
	all.Wait()
	slices.Sort(took)
	ms := func(share float64) float64 {
		return float64(took[int(share*float64(len(took)-1))].Microseconds()) / 1000
	}
	b.ReportMetric(ms(0.5), "p50-ms")
	b.ReportMetric(50, "aim-ms")
	b.ReportMetric(ms(0.99), "measured-ms")
	b.ReportMetric(ms(0.99)/50, "ratio")
}
