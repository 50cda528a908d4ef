package service_test

import (
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"kaiku/core/dossier"
	"kaiku/service"
	"kaiku/wire"
)

// busy lets several people write to a home without a pause until the returned function is called; it returns how
// many writes there were.
func (f *firm) busy(code string, as service.Actor) func() int {
	var writers sync.WaitGroup
	var writes atomic.Int64
	var over atomic.Bool
	begun := make(chan struct{}, 1)
	for n := range 4 {
		writers.Go(func() {
			for i := 0; !over.Load(); i++ {
				_, _, err := f.Add(f.t.Context(), as, code, service.Change{Kind: dossier.KindNamed("room"), Record: &dossier.Room{Name: fmt.Sprint("room ", n, " ", i)}}, service.Request{})
				if !assert.NoError(f.t, err) {
					return
				}
				writes.Add(1)
				select {
				case begun <- struct{}{}:
				default:
				}
			}
		})
	}
	<-begun
	return func() int { over.Store(true); writers.Wait(); return int(writes.Load()) }
}

// An offer and an import come through while others write without a pause, and keep them waiting only for a moment.
func TestLongWritesComeThroughWhereOthersWriteWithoutAPause(t *testing.T) {
	f := newFirm(t, service.Options{})
	ctx := t.Context()
	_, petri := f.in("petri")
	_, err := f.Begin(ctx, petri, wire.NewHousehold{Code: "H-0001", Name: "Quay House"}, service.Request{})
	require.NoError(t, err)
	h, err := f.DraftHandover(ctx, petri, "H-0001", wire.NewHandover{To: "aino"}, service.Request{})
	require.NoError(t, err)
	stop := f.busy("H-0001", petri)
	offered, err := f.StepHandover(ctx, petri, "H-0001", h.Record.ID, "offer", wire.HandoverStep{}, service.Request{})
	require.NoError(t, err)
	assert.Equal(t, dossier.Offered, offered.Record.State)
	assert.Equal(t, offered.Record.Revision-1, offered.Record.UntilRevision, "nobody wrote between what it tells and the offer")
	var csv strings.Builder
	csv.WriteString("name,serial\n")
	for n := range 300 {
		fmt.Fprintf(&csv, "device %d,SN-%d\n", n, n)
	}
	reader := func(_ *dossier.Kind, _ dossier.Verb, _ dossier.Record, members map[string]any) (service.Change, error) {
		v := dossier.Device{Name: strings.Trim(fmt.Sprintf("%s", members["name"]), `"`)}
		return service.Change{Kind: dossier.KindNamed("device"), Record: &v}, nil
	}
	out, err := f.Import(ctx, petri, "H-0001", []byte(csv.String()), wire.ImportOptions{What: "devices"}, reader, service.Request{})
	require.NoError(t, err)
	assert.True(t, out.Written)
	assert.Equal(t, 300, out.Counts[wire.LineAdded])
	writes := stop()
	d, err := f.Home(ctx, petri, "show-dossier", "H-0001")
	require.NoError(t, err)
	assert.Len(t, d.Rooms, writes, "none of the others' writes was lost")
	assert.Len(t, d.Devices, 300)
}
