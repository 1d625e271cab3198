package spot_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/appraise"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/plantest"
)

// A session planned before anybody knew the side: the hand check is taken in it, and the let-down follows for the
// jammed side, in time for the rest; an even pelvis lets both down.
func TestTheHandCheckDecidesInTheSession(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	all, err := restbend.Templates(tr.Cat)
	require.NoError(t, err)
	kind := &all[slices.IndexFunc(all, func(k kinds.Template) bool { return k.Slug == "sacroiliac" })]
	ways, err := restbend.Ways()
	require.NoError(t, err)
	day := trade.MustDay("2026-11-20")
	who := func() *intake.Client {
		return &intake.Client{Format: "restbend.client/1", Born: 1980, BreathRate: 12, Conditions: []intake.Condition{{Code: "sij-pain", Side: trade.Left}},
			Positions: map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes", "kneel": "yes", "hands": "yes", "floor_sit": "yes", "stand_free": "yes"},
			Surfaces:  []trade.Surface{trade.Mat, trade.Chair, trade.Wall}, Kit: []string{"towel", "pillow"}, EffortCap: 8}
	}
	before, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, who(), nil, 15, day)
	require.NoError(t, err)
	p, err := propose.Build(before.For(kind))
	require.NoError(t, err)
	require.Equal(t, "side-check", p.Items[0].Version)
	require.False(t, slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Version == "side-let-down" }), "nobody knows the side yet")
	lacks := before.For(kind).Lacks(p)
	require.Len(t, lacks, 1)
	assert.Contains(t, lacks[0].Why, "the hand check in the session says for which side")
	s, err := score.Build(p, score.Facts{Catalogue: tr.Cat, Client: who(), Ways: ways})
	require.NoError(t, err)
	require.Equal(t, []string{"sij_side"}, s.Items[0].Checks, "the player asks for it")
	for _, value := range []string{"left", "right", "even"} {
		c := who()
		c.Today.Date = day
		text, err := json.Marshal(value)
		require.NoError(t, err)
		require.NoError(t, spot.Checked(&c.Today, "sij_side", text))
		now, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, c, nil, 15, day)
		require.NoError(t, err)
		laid := score.Facts{Catalogue: tr.Cat, Client: c, Ways: ways}
		f := spot.Facts{Request: now.For(kind), Plan: p, Score: s, Laid: laid}
		at := s.Segments[slices.IndexFunc(s.Segments, func(g score.Segment) bool { return g.Kind == score.Work })].End - 0.1
		out, err := f.Refitted(at, "check")
		require.NoError(t, err)
		require.True(t, out.Score != nil, value)
		require.Equal(t, "spine-wave", out.Score.Items[1].Version)
		next := out.Score.Items[2]
		assert.Equal(t, "side-let-down", next.Version)
		assert.Equal(t, map[string]trade.Side{"left": trade.Left, "right": trade.Right, "even": trade.Each}[value], next.Side, "the jammed side goes up")
		assert.Contains(t, out.Say[0], "comes in")
		assert.Len(t, out.Plan.Items, len(out.Score.Items))
		for i := range out.Plan.Items {
			assert.True(t, appraise.Safe(now, &out.Plan.Items[i]), out.Plan.Items[i].Version)
		}
		assert.Equal(t, p.Items[len(p.Items)-1].Version, out.Plan.Items[len(out.Plan.Items)-1].Version, "it still finishes standing")
	}
}
