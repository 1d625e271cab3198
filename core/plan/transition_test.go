package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// The table of transitions: seconds are product defaults, whole, and symmetric except for
// help; every rise from the floor counts one transfer.
func TestTransitions(t *testing.T) {
	stand, sit := place{"standing", ""}, place{"sitting", "chair"}
	mat := func(p string) place { return place{p, "mat"} }
	bed := func(p string) place { return place{p, "bed"} }
	for _, c := range []struct {
		from, to place
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
		{mat("all-fours"), stand, false, 30, true},
		{mat("supine"), sit, false, 63, true},
		{mat("supine"), mat("side"), false, 10, false},
		{mat("supine"), mat("prone"), false, 15, false},
		{mat("prone"), mat("all-fours"), false, 12, false},
		{mat("all-fours"), mat("kneeling"), false, 8, false},
		{bed("supine"), stand, false, 45, false},
		{bed("supine"), mat("supine"), false, 100, false},
		{mat("supine"), bed("supine"), false, 100, true},
		{mat("supine"), mat("supine"), false, 0, false},
	} {
		s, effort, rises := move(c.from, c.to, c.helped)
		assert.Equal(t, c.seconds, s, "%v to %v", c.from, c.to)
		assert.Equal(t, c.rises, rises, "%v to %v", c.from, c.to)
		assert.Equal(t, s > 0, effort > 0, "%v to %v", c.from, c.to)
	}
}

func TestHeightsClimbWithThePostureLine(t *testing.T) {
	last := -1
	for _, p := range []string{"supine", "side", "prone", "all-fours", "kneeling", "half-kneeling", "long-sitting", "sitting", "standing"} {
		assert.Greater(t, Height(p), last, p)
		last = Height(p)
	}
}

func TestMainItemsByLength(t *testing.T) {
	for minutes, want := range map[int]int{15: 6, 30: 6, 35: 7, 45: 8, 50: 9} {
		assert.Equal(t, want, maxMain(minutes), "%d minutes", minutes)
	}
}
