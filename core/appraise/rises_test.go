package appraise

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/plan"
	"restbend/core/trade"
)

// Getting up from the floor is counted once for each time the body leaves it for a bed, a
// chair or its feet, wherever the session begins and ends; a bed and a carriage are no floor.
func TestRisesFromTheFloor(t *testing.T) {
	item := func(position, surface string) plan.Item {
		return plan.Item{Position: trade.Position(position), Surface: trade.Surface(surface)}
	}
	var (
		mat, side, fours = item("supine", "mat"), item("side", "mat"), item("all-fours", "mat")
		bed, carriage    = item("supine", "bed"), item("supine", "spring-carriage")
		chair, wall      = item("sitting", "chair"), item("standing", "wall")
		sofa             = item("kneeling", "sofa")
	)
	for name, row := range map[string]struct {
		items []plan.Item
		want  int
	}{
		"nothing":                          {nil, 0},
		"never down":                       {[]plan.Item{chair, wall, chair}, 0},
		"down once, through three":         {[]plan.Item{mat, side, fours, wall}, 1},
		"ends on the floor":                {[]plan.Item{wall, mat}, 1},
		"down twice":                       {[]plan.Item{mat, wall, side, chair}, 2},
		"a bed is no floor":                {[]plan.Item{bed, chair, bed}, 0},
		"from the floor to a bed":          {[]plan.Item{mat, bed}, 1},
		"a carriage is no floor":           {[]plan.Item{carriage, wall}, 0},
		"kneeling at a sofa is down there": {[]plan.Item{sofa, mat, chair}, 1},
	} {
		p := &plan.Plan{Items: row.items}
		assert.Equal(t, row.want, rises(p), name)
	}
}
