package plan

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/intake"
	"restbend/core/trade"
)

// The table of transitions: whole seconds, product defaults; every rise from the floor
// counts one transfer.
func TestTransitions(t *testing.T) {
	stand, sit := place{"standing", ""}, place{"sitting", "chair"}
	mat := func(p string) place { return place{trade.Position(p), "mat"} }
	bed := func(p string) place { return place{trade.Position(p), "bed"} }
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
		{mat("prone"), stand, false, 42, true},
		{mat("all-fours"), stand, false, 30, true},
		{mat("supine"), sit, false, 63, true},
		{mat("supine"), mat("side"), false, 10, false},
		{mat("supine"), mat("prone"), false, 15, false},
		{mat("prone"), mat("all-fours"), false, 12, false},
		{mat("all-fours"), mat("kneeling"), false, 8, false},
		{mat("all-fours"), place{"kneeling", "sofa"}, false, 8, false},
		{bed("supine"), stand, false, 45, false},
		{bed("supine"), mat("supine"), false, 100, false},
		{mat("supine"), bed("supine"), false, 100, true},
		{mat("supine"), mat("supine"), false, 0, false},
	} {
		s, rises := move(c.from, c.to, c.helped)
		assert.Equal(t, c.seconds, s, "%v to %v", c.from, c.to)
		assert.Equal(t, c.rises, rises, "%v to %v", c.from, c.to)
	}
}

// No detour is shorter or cheaper, and both ways take the same time.
func TestTheTransitionTableIsMetric(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	var places []place
	for _, p := range trade.Positions {
		for _, s := range []string{"mat", "bed", "spring-carriage", "sofa"} {
			places = append(places, place{p, trade.Surface(s)})
		}
	}
	for _, helped := range []bool{false, true} {
		for _, a := range places {
			for _, b := range places {
				ab, _ := move(a, b, helped)
				ba, _ := move(b, a, helped)
				assert.Equal(t, ab, ba, "%v and %v", a, b)
				for _, via := range places {
					x, _ := move(a, via, helped)
					y, _ := move(via, b, helped)
					assert.LessOrEqual(t, ab, x+y, "%v to %v by %v", a, b, via)
					for _, floor := range []string{"yes", "help"} {
						r := &Request{Client: &intake.Client{Positions: map[string]string{"floor": floor}}}
						assert.LessOrEqual(t, r.price(a, b, ab), r.price(a, via, x)+r.price(via, b, y)+1e-9, "%v to %v by %v", a, b, via)
					}
				}
			}
		}
	}
}

func TestHeightsClimbWithThePostureLine(t *testing.T) {
	assert.True(t, slices.IsSortedFunc(trade.Positions, func(a, b trade.Position) int { return Height(a) - Height(b) }))
}

// Getting up from the floor is counted once for each time the body leaves it for a bed, a
// chair or its feet, wherever the session begins and ends; a bed and a carriage are no floor.
func TestRisesFromTheFloor(t *testing.T) {
	item := func(position, surface string) Item {
		return Item{Position: trade.Position(position), Surface: trade.Surface(surface)}
	}
	var (
		mat, side, fours = item("supine", "mat"), item("side", "mat"), item("all-fours", "mat")
		bed, carriage    = item("supine", "bed"), item("supine", "spring-carriage")
		chair, wall      = item("sitting", "chair"), item("standing", "wall")
		sofa             = item("kneeling", "sofa")
	)
	for name, row := range map[string]struct {
		items []Item
		want  int
	}{
		"nothing":                          {nil, 0},
		"never down":                       {[]Item{chair, wall, chair}, 0},
		"down once, through three":         {[]Item{mat, side, fours, wall}, 1},
		"ends on the floor":                {[]Item{wall, mat}, 1},
		"down twice":                       {[]Item{mat, wall, side, chair}, 2},
		"a bed is no floor":                {[]Item{bed, chair, bed}, 0},
		"from the floor to a bed":          {[]Item{mat, bed}, 1},
		"a carriage is no floor":           {[]Item{carriage, wall}, 0},
		"kneeling at a sofa is down there": {[]Item{sofa, mat, chair}, 1},
	} {
		p := &Plan{Items: row.items}
		assert.Equal(t, row.want, p.rises(), name)
	}
}
