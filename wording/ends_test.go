package wording

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/matching"
	"kaiku/core/network"
)

// Whatever both ends have to have alike, and however it goes together, has words.
func TestEndsHaveWords(t *testing.T) {
	for _, m := range matching.EndMembers {
		assert.NotEmpty(t, EndMembers[m], m)
		for _, a := range matching.Agreement("").Values() {
			assert.NotEmpty(t, Agreements[matching.Agreement(a)], a)
			said := EndRow(matching.EndRow{Member: m, Server: []string{"a"}, Device: []string{"b"}, Seen: []string{"c"}, Agreement: matching.Agreement(a)})
			assert.Equal(t, a == "device-differs" || a == "record-behind", said != "", "%s %s", m, a)
		}
	}
}

// What a scan saw of a port is never said to be more than it is.
func TestWhatAScanSaysOfAnOpening(t *testing.T) {
	for _, c := range []struct {
		state network.OpeningNeed
		seen  matching.Ended
		want  string
	}{
		{network.NeedOpen, "", ""},
		{network.NeedOpen, matching.Answered, "It answered the latest scan."},
		{network.NeedUnknown, matching.Denied, "It answered the latest scan: from there it is open."},
		{network.NeedShut, matching.Answered, "It answered the latest scan all the same: look again, and correct the record."},
		{network.NeedOpen, matching.Refused, "It refused the latest scan: nothing listens there, or a firewall turns callers away."},
		{network.NeedShut, matching.Silent, "It did not answer the latest scan."},
	} {
		assert.Equal(t, c.want, OpeningSeen(c.state, c.seen))
	}
}
