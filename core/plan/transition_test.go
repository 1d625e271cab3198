package plan

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/trade"
)

// The table of transitions: whole seconds, product defaults; every rise from the floor
// counts one transfer.
func TestTransitions(t *testing.T) {
	stand, sit := Place{"standing", ""}, Place{"sitting", "chair"}
	mat := func(p string) Place { return Place{trade.Position(p), "mat"} }
	bed := func(p string) Place { return Place{trade.Position(p), "bed"} }
	for _, c := range []struct {
		from, to Place
		helped   bool
		seconds  int
		rises    bool
	}{
		{stand, stand, false, 0, false},
		{stand, sit, false, 8, false},
		{sit, stand, false, 8, false},
		{stand, mat("supine"), false, 55, false},
		{mat("supine"), stand, false, 55, true},
		{mat("supine"), stand, true, 85, true},
		{mat("side"), stand, false, 45, true},
		{mat("prone"), stand, false, 42, true},
		{mat("all-fours"), stand, false, 30, true},
		{mat("supine"), sit, false, 63, true},
		{mat("supine"), mat("side"), false, 10, false},
		{mat("supine"), mat("prone"), false, 15, false},
		{mat("prone"), mat("all-fours"), false, 12, false},
		{mat("all-fours"), mat("kneeling"), false, 8, false},
		{mat("all-fours"), Place{"kneeling", "sofa"}, false, 8, false},
		{bed("supine"), stand, false, 45, false},
		{bed("supine"), mat("supine"), false, 100, false},
		{mat("supine"), bed("supine"), false, 100, true},
		{mat("supine"), mat("supine"), false, 0, false},
	} {
		s, rises := Move(c.from, c.to, c.helped)
		assert.Equal(t, c.seconds, s, "%v to %v", c.from, c.to)
		assert.Equal(t, c.rises, rises, "%v to %v", c.from, c.to)
	}
}

func TestHeightsClimbWithThePostureLine(t *testing.T) {
	assert.True(t, slices.IsSortedFunc(trade.Positions, func(a, b trade.Position) int { return Height(a) - Height(b) }))
}
