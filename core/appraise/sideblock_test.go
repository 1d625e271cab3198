package appraise_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/appraise"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/plantest"
)

// Lying on one side, what works the upper side goes with what works the lower. Sided items of one position that follow each other are done all on one side, then on the other.
func TestSideBlocks(t *testing.T) {
	for name, row := range map[string]struct {
		items  []string
		sides  map[int]trade.Side
		blocks []int
		turn   []int // of the items
		first  []string
	}{
		"two in side-lying": {[]string{"clam", "inner-thigh-lift"}, nil, []int{1, 1}, []int{0, 7}, []string{"0 left", "1 right"}},
		"three":             {[]string{"open-book", "clam", "inner-thigh-lift"}, nil, []int{1, 1, 1}, []int{0, 7, 0}, []string{"0 left", "1 left", "2 right"}},
		"one alone":         {[]string{"clam", "bridge"}, nil, []int{0, 0}, []int{0, 0}, []string{"0 left", "1 none"}},
		"one side only":     {[]string{"clam", "inner-thigh-lift"}, map[int]trade.Side{1: "right"}, []int{0, 0}, []int{0, 0}, []string{"0 left", "1 right"}},
		"on one leg":        {[]string{"knee-lift-held", "hip-circle-standing"}, nil, []int{1, 1}, []int{0, 0}, []string{"0 left", "1 left"}},
		"the other leg":     {[]string{"knee-lift-held", "one-leg-held"}, nil, []int{0, 0}, []int{0, 0}, []string{"0 left", "1 left"}},
		"on the back, none": {[]string{"knee-hug-one", "leg-circle-bent"}, nil, []int{0, 0}, []int{0, 0}, []string{"0 left", "1 left"}},
	} {
		r := plantest.For(t, plantest.Able(), nil, 30)
		p := &plan.Plan{Format: "restbend.plan/1", Minutes: 30, Rules: plan.RulesNow}
		for i, slug := range row.items {
			v, ok := plantest.Cat.Version(slug)
			require.True(t, ok, slug)
			side := v.SideMode
			if s, ok := row.sides[i]; ok {
				side = s
			}
			p.Items = append(p.Items, plan.Item{Version: slug, Family: v.Family, Role: trade.Main, Position: v.Position,
				Surface: v.Surfaces[0], Side: side, Dose: v.Dose("reps", 0)})
		}
		appraise.Retime(r, p)
		for i := range p.Items {
			assert.Equal(t, row.blocks[i], p.Items[i].Block, "%s: %s", name, row.items[i])
			assert.Equal(t, row.turn[i], p.Items[i].TurnS, "%s: %s", name, row.items[i])
			assert.Equal(t, row.blocks[i] > 0, p.BlockSays(i) != "", name)
		}
		var order []string // who is done to which side first
		for i := range p.Items {
			order = append(order, string(rune('0'+i))+" "+string(p.Items[i].SideOrder()[0]))
		}
		assert.Equal(t, row.first, order, name)
	}
}
