package assess_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend"
	"restbend/core/assess"
	"restbend/core/intake"
	"restbend/core/trade"
	"restbend/exchange"
)

func judged(t testing.TB, c *intake.Client, tests string) (assess.Assessment, map[string]assess.Item) {
	t.Helper()
	norms, err := restbend.Norms()
	require.NoError(t, err)
	r, err := exchange.ReadResults(strings.NewReader(`{"format": "restbend.results/1", "date": "2026-11-18", "results": {`+tests+`}}`), trade.On(2026, 11, 20))
	require.NoError(t, err)
	a := assess.Assess(norms, c, r)
	items := map[string]assess.Item{}
	for _, it := range a.Items {
		assert.NotEmpty(t, it.Source, it.Test)
		assert.NotEmpty(t, it.Reference, it.Test)
		assert.NotEmpty(t, it.Say, it.Test)
		items[it.Test] = it
	}
	return a, items
}

// The published cut-offs, each just on both sides.
func TestCutOffs(t *testing.T) {
	woman := func(age int) *intake.Client {
		return &intake.Client{Born: 2026 - age, Sex: "female", YoungHeight: 165}
	}
	man := func(age int) *intake.Client { return &intake.Client{Born: 2026 - age, Sex: "male"} }
	for _, c := range []struct {
		client            *intake.Client
		tests, test, flag string
	}{
		{woman(62), `"chair_rises_30s": 12`, "chair_rises_30s", "ok"},
		{woman(62), `"chair_rises_30s": 11`, "chair_rises_30s", "watch"},
		{man(62), `"chair_rises_30s": 13`, "chair_rises_30s", "watch"},
		{man(92), `"chair_rises_30s": 7`, "chair_rises_30s", "ok"},
		{woman(92), `"chair_rises_30s": 3`, "chair_rises_30s", "watch"},
		{woman(62), `"chair_rises_30s": 20, "chair_rises_with_arms": true`, "chair_rises_30s", "watch"},
		{woman(50), `"chair_rises_30s": 9`, "chair_rises_30s", "info"},
		{&intake.Client{}, `"chair_rises_30s": 9`, "chair_rises_30s", "info"},
		{&intake.Client{Born: 1964}, `"chair_rises_30s": 13`, "chair_rises_30s", "watch"}, // sex not noted: the stricter
		{woman(62), `"tandem_s": 9.9`, "tandem_s", "watch"},
		{woman(62), `"tandem_s": 10`, "tandem_s", "ok"},
		{woman(62), `"up_and_go_s": 12`, "up_and_go_s", "watch"},
		{woman(62), `"up_and_go_s": 11.9`, "up_and_go_s", "ok"},
		{woman(75), `"one_leg_left_s": [22, 20, 10]`, "one_leg_left_s", "ok"},
		{woman(75), `"one_leg_left_s": [21, 20, 10]`, "one_leg_left_s", "watch"}, // best under 21.5
		{woman(75), `"one_leg_left_s": [30, 5, 5]`, "one_leg_left_s", "watch"},   // mean under 15.0
		{woman(62), `"height_cm": 161`, "height_loss_young", "refer"},
		{woman(62), `"height_cm": 161.5`, "height_loss_young", "ok"},
		{woman(62), `"height_cm": 163, "height_last_cm": 165`, "height_loss_last", "refer"},
		{woman(62), `"head_wall_cm": 0`, "head_wall_cm", "ok"},
		{woman(62), `"head_wall_cm": 0.5`, "head_wall_cm", "watch"},
		{woman(62), `"rib_pelvis_fingers": 1.5`, "rib_pelvis_fingers", "watch"},
		{woman(62), `"trunk_rotation_deg": {"left": 7}`, "trunk_rotation_left", "refer"},
		{woman(62), `"trunk_rotation_deg": {"left": 6.5}`, "trunk_rotation_left", "watch"},
		{woman(62), `"trunk_rotation_deg": {"left": 4}`, "trunk_rotation_left", "ok"},
		{&intake.Client{Conditions: []intake.Condition{{Code: "scoliosis"}}}, `"trunk_rotation_deg": {"left": 9}`, "trunk_rotation_left", "watch"},
		{woman(40), `"hold_flexor_s": 61, "hold_extensor_s": 60`, "flexor_extensor", "watch"},
		{woman(40), `"hold_side_right_s": 100, "hold_side_left_s": 100`, "side_right_left", "ok"},
		{woman(40), `"hold_side_right_s": 94, "hold_side_left_s": 100`, "side_right_left", "watch"},
		{woman(40), `"hold_side_left_s": 76, "hold_extensor_s": 100`, "side_left_extensor", "watch"},
	} {
		_, items := judged(t, c.client, c.tests)
		assert.Equal(t, c.flag, items[c.test].Flag, "%s: %s", c.tests, items[c.test].Reference)
	}
	_, items := judged(t, man(25), `"hold_extensor_s": 100`)
	assert.Contains(t, items["hold_extensor_s"].Reference, "about 146 (SD 51)")
}

// The document of the format page, answered as it says.
func TestWhatTheResultsSet(t *testing.T) {
	a, _ := judged(t, &intake.Client{}, `"tandem_s": 8, "up_and_go_s": 12.4, "turn_deg": {"left": 30, "right": 42}, "clock": {"4": 1, "5": 2, "6": 0}, "sij_side": "left", "breaths_30s": [7, 8], "one_leg_right_s": [12, 9, 14], "one_leg_left_s": [60]`)
	require.NotNil(t, a.Sets.FallsRisk)
	assert.True(t, *a.Sets.FallsRisk)
	assert.Equal(t, trade.Left, a.Sets.TightTurn)
	assert.Equal(t, []int{4, 5}, a.Sets.ClockWeak)
	assert.Equal(t, trade.Left, a.Sets.SIJSide)
	assert.InDelta(t, 15, a.Sets.Breaths, 1e-9)
	assert.InDelta(t, 14, a.Sets.OneLegS, 1e-9)
	a, _ = judged(t, &intake.Client{}, `"tandem_s": 10, "turn_deg": {"left": 40, "right": 42}`)
	require.NotNil(t, a.Sets.FallsRisk)
	assert.False(t, *a.Sets.FallsRisk)
	assert.Empty(t, a.Sets.TightTurn)
	a, items := judged(t, &intake.Client{}, "")
	assert.Nil(t, a.Sets.FallsRisk, "no balance test was done")
	assert.Empty(t, items)
}

// Longer stands and shorter walks never find a risk that was not there before.
func TestBetterBalanceNeverAddsARisk(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		tandem := rapid.Float64Range(0, 30).Draw(rt, "tandem")
		walk := rapid.Float64Range(5, 30).Draw(rt, "walk")
		more := rapid.Float64Range(0, 5).Draw(rt, "more")
		risk := func(s, w float64) bool {
			a, _ := judged(t, &intake.Client{}, fmt.Sprintf(`"tandem_s": %.3f, "up_and_go_s": %.3f`, s, w))
			return *a.Sets.FallsRisk
		}
		if !risk(tandem, walk) && risk(tandem+more, walk-more) {
			rt.Fatalf("tandem %v, walk %v", tandem, walk)
		}
	})
}
