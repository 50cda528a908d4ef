package service

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Some tries are free, then each has to wait twice as long as the one before; who waited is taken again, and
// nobody waits longer than five minutes.
func TestPatienceGrowsAndLocksNobodyOut(t *testing.T) {
	var p patience
	now := time.Date(2026, 11, 28, 9, 0, 0, 0, time.UTC)
	mine, shared := by{"petri from a", 5}, by{"from a", 40}
	for range 5 {
		assert.Zero(t, p.try(now, mine, shared))
	}
	var waits []time.Duration
	for range 12 {
		wait := p.try(now, mine, shared)
		waits = append(waits, wait)
		assert.Equal(t, wait, p.try(now, mine, shared), "one that comes too early does not count")
		now = now.Add(wait)
		assert.Zero(t, p.try(now, mine, shared), "who has waited is taken")
	}
	s := time.Second
	assert.Equal(t, []time.Duration{s, 2 * s, 4 * s, 8 * s, 16 * s, 32 * s, 64 * s, 128 * s, 256 * s, 300 * s, 300 * s, 300 * s}, waits)
	assert.Zero(t, p.try(now, by{"petri from b", 5}, by{"from b", 40}), "from elsewhere the right person gets in")
	p.right(mine, shared)
	assert.Zero(t, p.try(now, mine, shared), "one that was right is forgiven")

	p.try(now, mine, shared)
	assert.Zero(t, p.try(now.Add(2*time.Hour), mine, shared), "old ones are forgotten")
}

// Many names from one address are slowed down too, and what is remembered is bounded.
func TestPatienceOfAnAddress(t *testing.T) {
	var p patience
	now := time.Date(2026, 11, 28, 9, 0, 0, 0, time.UTC)
	taken := 0
	for n := range 200 {
		if p.try(now, by{fmt.Sprint("name ", n), 5}, by{"from a", 40}) == 0 {
			taken++
		}
	}
	assert.Equal(t, 40, taken)
	for n := range 3 * mostGuessers {
		p.try(now, by{fmt.Sprint("from ", n), 5})
	}
	assert.LessOrEqual(t, len(p.of), mostGuessers)
}
