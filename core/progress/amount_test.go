package progress

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/trade"
)

// A movement nobody did must not count as reached; a long hold left half way counts by its seconds.
func TestNoRepetitionIsNothingDone(t *testing.T) {
	for _, c := range []struct {
		name         string
		done, target Amount
		want         int
	}{
		{"a single movement not done", Amount{Sets: 1}, Amount{Sets: 1, Reps: 1}, 0},
		{"a single movement done", Amount{Sets: 1, Reps: 1}, Amount{Sets: 1, Reps: 1}, 1},
		{"sets of holds not done", Amount{Sets: 2, HoldS: 3}, Amount{Sets: 2, Reps: 8, HoldS: 3}, 0},
		{"sets of holds in part", Amount{Sets: 2, Reps: 4, HoldS: 3}, Amount{Sets: 2, Reps: 8, HoldS: 3}, 24},
		{"one hold left half way", Amount{Sets: 1, HoldS: 12}, Amount{Sets: 1, Reps: 1, HoldS: 30}, 12},
		{"one hold without repetitions", Amount{Sets: 1, HoldS: 30}, Amount{Sets: 1, HoldS: 30}, 30},
		{"one hold of one breath not done", Amount{Sets: 1}, Amount{Sets: 1, Reps: 1, HoldBreaths: 1}, 0},
		{"nothing logged", Amount{}, Amount{Sets: 1, Reps: 1}, 0},
	} {
		assert.Equal(t, c.want, c.done.doneOf(c.target), c.name)
	}
}

// Amounts are said in the shape of their target.
func TestAmountsInWords(t *testing.T) {
	for _, c := range []struct {
		done, target Amount
		say, of      string
	}{
		{Amount{Sets: 2, Reps: 4, HoldS: 3}, Amount{Sets: 3, Reps: 8, HoldS: 3}, "2 x 4 x 3 s", "3 x 8 x 3 s"},
		{Amount{Sets: 1, Reps: 6}, Amount{Sets: 1, Reps: 8}, "6 repetitions", "8 repetitions"},
		{Amount{Sets: 1, HoldS: 12}, Amount{Sets: 1, Reps: 1, HoldS: 30}, "12 s", "30 s"},
		{Amount{Sets: 1, Reps: 3, HoldBreaths: 2}, Amount{Sets: 1, Reps: 5, HoldBreaths: 2}, "3 x 2 breaths", "5 x 2 breaths"},
		{Amount{Sets: 2, HoldS: 3}, Amount{Sets: 2, Reps: 8, HoldS: 3}, "nothing", "2 x 8 x 3 s"},
		{Amount{}, Amount{Sets: 1, Reps: 1}, "nothing", "1 repetition"},
	} {
		assert.Equal(t, c.say, c.done.words(c.target))
		assert.Equal(t, c.of, c.target.words(c.target))
	}
}

// Why an exercise stays says what ended it.
func TestWhatEndedItIsSaid(t *testing.T) {
	target, done := Amount{Sets: 1, Reps: 8}, Amount{Sets: 1, Reps: 5}
	lost := 12.0
	for want, it := range map[string]Item{
		"form was lost before the target: 5 repetitions of 8 repetitions":       {Target: target, Done: done, EndedBy: "form"},
		"form was lost before the target: 12 s of 30 s":                         {Target: Amount{Sets: 1, Reps: 1, HoldS: 30}, Done: Amount{Sets: 1, Reps: 1, HoldS: 12}, FormLostS: &lost},
		"the breath was held before the target: 5 repetitions of 8 repetitions": {Target: target, Done: done, EndedBy: "breath"},
		"it ended before the target: 5 repetitions of 8 repetitions":            {Target: target, Done: done, EndedBy: "choice"},
		"it ended before the target: nothing of 8 repetitions":                  {Target: target, EndedBy: "choice"},
		"": {Target: target, Done: target, EndedBy: "target"},
	} {
		side, why := lagging(turn{items: []Item{it}})
		assert.Empty(t, side)
		assert.Equal(t, want, why)
	}
	side, why := lagging(turn{items: []Item{{Side: "left", Target: target, Done: done, EndedBy: "form"}, {Side: "right", Target: target, Done: target, EndedBy: "target"}}})
	assert.Equal(t, trade.Left, side)
	assert.Equal(t, "the left side lags and sets the level", why)
}
