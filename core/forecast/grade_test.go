package forecast_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"kaiku/core/forecast"
)

// No rest, however small, is left out of the word for the whole, and what is not known is never counted as played.
func TestTheGradeOfACell(t *testing.T) {
	type outcomes = []forecast.Outcome
	for _, c := range []struct {
		of     outcomes
		unread int
		want   forecast.Grade
	}{
		{nil, 0, forecast.Unknown}, {nil, 5, forecast.Unknown}, {outcomes{forecast.NotKnown}, 0, forecast.Unknown},
		{outcomes{forecast.AsIs}, 0, forecast.Plays}, {outcomes{forecast.AsIs}, 1, forecast.GradeDoubt}, {outcomes{forecast.AsIs, forecast.NotKnown}, 0, forecast.GradeDoubt},
		{outcomes{forecast.AsIs, forecast.Repackaged}, 0, forecast.Converted}, {outcomes{forecast.PictureConverted}, 0, forecast.Converted}, {outcomes{forecast.SoundConverted}, 2, forecast.GradeDoubt},
		{outcomes{forecast.AsIs, forecast.Silent}, 0, forecast.Partly}, {outcomes{forecast.SoundConverted, forecast.Unplayable, forecast.NotKnown}, 0, forecast.Partly},
		{outcomes{forecast.Unplayable}, 0, forecast.PlaysNone}, {outcomes{forecast.Silent, forecast.Unplayable}, 0, forecast.PlaysNone}, {outcomes{forecast.Unplayable, forecast.NotKnown}, 0, forecast.GradeDoubt}, {outcomes{forecast.Unplayable}, 1, forecast.GradeDoubt},
	} {
		cell := forecast.Cell{Of: map[forecast.Outcome]forecast.Share{}, Unread: c.unread}
		for _, o := range c.of {
			cell.Of[o] = forecast.Share{Items: 1}
		}
		assert.Equal(t, c.want, cell.Grade(), "%v, %d not read", c.of, c.unread)
		assert.Contains(t, forecast.Grades, cell.Grade())
	}
}
