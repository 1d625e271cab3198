package score_test

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/core/way"
)

// cat is the whole catalogue.
var cat = func() *catalogue.Catalogue {
	c, err := restbend.Catalogue()
	if err != nil {
		panic(err)
	}
	return c
}()

func facts(t testing.TB, change func(*intake.Client)) score.Facts {
	c := &intake.Client{Format: "restbend.client/1", BreathRate: 12, Positions: map[string]string{"floor": "yes", "stand_free": "yes", "hands": "yes"}}
	if change != nil {
		change(c)
	}
	m := &way.Mover{SitS: way.SitS, Help: c.Positions["floor"] == "help"}
	if c.Positions["hands"] == "no" {
		m.Without = append(m.Without, way.Hands)
	}
	if free := c.Positions["stand_free"]; free != "yes" {
		m.Without = append(m.Without, way.FreeStand)
	}
	return score.Facts{Catalogue: cat, Client: c, Ways: ways(t), Mover: m}
}

// only is a plan of single items, timed as the planner times them.
func only(rate float64, items ...plan.Item) *plan.Plan {
	p := &plan.Plan{Format: "restbend.plan/1", Minutes: 30, Items: items}
	now := 0
	for i := range p.Items {
		it := &p.Items[i]
		it.Start = now
		now += it.Dose.Seconds(rate, it.Sides())
		it.End = now
	}
	return p
}

func item(v *catalogue.Version, side trade.Side, d dose.Dose) plan.Item {
	return plan.Item{Version: v.Slug, Revision: v.Revision, Family: v.Family, Role: trade.Main, Position: v.Position, Surface: v.Surfaces[0], Side: side, Dose: d, Effort: v.Effort}
}

// sound holds what is true of every score.
func sound(t testing.TB, s *score.Score, where string) {
	now := 0.0
	for i := range s.Segments {
		g := &s.Segments[i]
		require.Equal(t, now, g.Start, "%s: segment %d begins where the one before ended", where, i)
		require.Greater(t, g.End, g.Start, "%s: segment %d", where, i)
		require.InDelta(t, math.Round(1000*g.End), 1000*g.End, 1e-6, "%s: three decimals", where)
		require.GreaterOrEqual(t, g.Item, 0, where)
		require.Less(t, g.Item, len(s.Items), where)
		now = g.End
	}
	require.Equal(t, now, s.Seconds, where)
}

// counted holds an item's work against its dose: repetitions, holds, breaths, beats and sides.
func counted(t testing.TB, s *score.Score, i int, it *plan.Item, rate float64, where string) {
	d := it.Dose
	total, holds, reps := 0.0, map[string]float64{}, map[string]map[[2]int]bool{}
	beats, breaths := 0, 0
	for k := range s.Segments {
		g := &s.Segments[k]
		if g.Item != i || g.Kind == score.Move || g.Kind == score.Finish {
			continue
		}
		total += g.End - g.Start
		if g.Kind != score.Work || g.Extra {
			continue
		}
		side := string(g.Side)
		if reps[side] == nil {
			reps[side] = map[[2]int]bool{}
		}
		reps[side][[2]int{g.Set, g.Rep}] = true
		if g.Phase == score.Hold || g.Phase == score.Window {
			holds[side] += g.End - g.Start
		}
		if c := g.Count; c != nil && c.Unit == "beats" {
			beats += c.To
			assert.LessOrEqual(t, c.Base+c.To, c.Of, where)
		}
		if g.Phase == score.Hold && g.Last {
			breaths += d.HoldBreaths
		}
	}
	require.InDelta(t, float64(d.Seconds(rate, it.Sides())), total, 1e-6, "%s: seconds of the dose", where)
	done := 0
	for _, r := range reps {
		done += len(r)
	}
	want := d.TotalReps()
	if it.Side == trade.Each {
		want *= 2
	}
	require.Equal(t, want, done, "%s: repetitions", where)
	if it.Side == trade.Each {
		require.NotEmpty(t, reps["left"], where)
		require.NotEmpty(t, reps["right"], where)
	}
	held := 0.0
	for _, h := range holds {
		held += h
	}
	require.InDelta(t, float64(want*d.HoldSeconds(rate)), held, 1e-6, "%s: holds last what the dose says", where)
	if d.Beats > 0 && d.HoldSeconds(rate) == 0 {
		assert.Equal(t, d.Beats*want, beats, "%s: beats", where)
	}
	if d.HoldBreaths > 0 {
		assert.Equal(t, d.HoldBreaths*want, breaths, "%s: breaths", where)
	}
	if it.Side == trade.Alternate && d.TotalReps() > 1 {
		assert.InDelta(t, len(reps["left"]), len(reps["right"]), float64(want%2), "%s: the same for both sides in turn", where)
	}
}

// Over the whole catalogue, every school, step and side: no gap, no overlap, and everything adds up to the
// dose.
func TestEveryDoseAddsUp(t *testing.T) {
	n := 0
	for _, v := range cat.Versions {
		for _, school := range catalogue.Schools {
			steps, _ := v.Steps(school)
			for step := range steps {
				modes := []trade.Side{v.SideMode}
				if v.SideMode == trade.Each {
					modes = append(modes, trade.Left, trade.Right)
				}
				for _, side := range modes {
					for _, rate := range []float64{12, 7.3} {
						d := v.Dose(school, step)
						it := item(v, side, d)
						where := fmt.Sprintf("%s %s %d %s at %g", v.Slug, school, step, side, rate)
						f := facts(t, func(c *intake.Client) { c.BreathRate = rate })
						s, err := score.Build(only(rate, it), f)
						require.NoError(t, err, where)
						sound(t, s, where)
						counted(t, s, 0, &it, rate, where)
						n++
						if testing.Short() && n > 400 {
							return
						}
					}
				}
			}
		}
	}
	assert.Greater(t, n, 1500)
}

// Extra, apart, by set, weak hours and layers keep the seconds of the dose, and the extra comes directly
// after its side.
func TestChangedDosesAddUp(t *testing.T) {
	clam, _ := cat.Version("clam")
	clock, _ := cat.Version("clock-circle")
	d := clam.Dose("reps", 0)
	for name, change := range map[string]func(*plan.Item){
		"extra right": func(it *plan.Item) { it.Dose.Extra = &dose.Extra{Side: trade.Right, Share: 0.5} },
		"extra left":  func(it *plan.Item) { it.Dose.Extra = &dose.Extra{Side: trade.Left, Share: 0.5} },
		"by set":      func(it *plan.Item) { it.Dose.Sets, it.Dose.Pattern, it.Dose.By = 3, []int{6, 4, 2}, "set" },
		"by side":     func(it *plan.Item) { it.Dose.Sets, it.Dose.Pattern, it.Dose.RestS = 3, []int{6, 4, 2}, 15 },
		"layers":      func(it *plan.Item) { it.Layers = []string{"clam", "clam-lifted"} },
		"apart": func(it *plan.Item) {
			a := it.Dose
			a.Reps = 12
			it.Dose.Apart = &[2]dose.Dose{a, it.Dose}
		},
	} {
		it := item(clam, trade.Each, d)
		change(&it)
		s, err := score.Build(only(12, it), facts(t, nil))
		require.NoError(t, err, name)
		sound(t, s, name)
		total, order := 0.0, []string{}
		for _, g := range s.Segments {
			if g.Kind == score.Move || g.Kind == score.Finish {
				continue
			}
			total += g.End - g.Start
			if g.Kind == score.Work {
				what := string(g.Side)
				if g.Extra {
					what += " extra"
				}
				if k := len(order); k == 0 || order[k-1] != what {
					order = append(order, what)
				}
			}
		}
		assert.InDelta(t, float64(it.Dose.Seconds(12, it.Sides())), total, 1e-6, name)
		want := map[string][]string{
			"extra right": {"right", "right extra", "left"}, "extra left": {"left", "left extra", "right"},
			"by set": {"left", "right", "left", "right", "left", "right"},
		}[name]
		if want == nil {
			want = []string{"left", "right"}
		}
		assert.Equal(t, want, order, name)
	}
	it := item(clock, trade.None, clock.Dose("reps", 0))
	it.Dose.Hours = []int{4, 5}
	s, err := score.Build(only(12, it), facts(t, nil))
	require.NoError(t, err)
	sound(t, s, "weak hours")
	passes, slow := map[int]int{}, 0.0
	for _, g := range s.Segments {
		if g.Hours != nil && g.Hours.Extra {
			passes[g.Hours.Weak[0]]++
			slow = g.End - g.Start
		}
	}
	assert.Equal(t, map[int]int{4: 3, 5: 3}, passes, "three more passes over each weak hour")
	assert.Equal(t, 18.0, slow, "half as slow again as the 12 s of a lap")
}

// A pass round the clock leads over all twelve hours, and the other way round in the second half.
func TestTheClockGoesHourByHour(t *testing.T) {
	v, _ := cat.Version("clock-circle")
	it := item(v, trade.None, v.Dose("reps", 0))
	s, err := score.Build(only(12, it), facts(t, nil))
	require.NoError(t, err)
	laps := map[int][]int{}
	for _, g := range s.Segments {
		if g.Kind == score.Work {
			laps[g.Rep] = append(laps[g.Rep], g.Hours.To)
			f := g.Figure
			assert.NotEqual(t, f.Phase, f.ToPhase)
			assert.LessOrEqual(t, f.From, f.To, "lap %d to %d", g.Rep, g.Hours.To)
		}
	}
	assert.Equal(t, []int{2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 1}, laps[1])
	assert.Equal(t, []int{12, 11, 10, 9, 8, 7, 6, 5, 4, 3, 2, 1}, laps[it.Dose.Reps], "back")
	assert.Len(t, laps, it.Dose.Reps)
}

// A plan that no clock could run is refused with the field.
func TestWhatNoClockCouldRunIsRefused(t *testing.T) {
	v, _ := cat.Version("clam")
	for want, change := range map[string]func(*plan.Item){
		`items[0].version: there is no "wings"`:    func(it *plan.Item) { it.Version = "wings" },
		"items[0].dose: sets: found 0":             func(it *plan.Item) { it.Dose.Sets = 0 },
		"items[0].dose: reps: found 2000000":       func(it *plan.Item) { it.Dose.Reps = 2000000 },
		"items[0].dose: hold_s: found -1":          func(it *plan.Item) { it.Dose.HoldS = -1 },
		"items[0].dose: hours: found 13":           func(it *plan.Item) { it.Dose.Hours = []int{13} },
		"items[0].dose: pattern: found 0":          func(it *plan.Item) { it.Dose.Pattern = []int{6, 0} },
		"items[0].dose: extra: found 9 on the top": func(it *plan.Item) { it.Dose.Extra = &dose.Extra{Side: "top", Share: 9} },
	} {
		it := item(v, trade.Each, v.Dose("reps", 0))
		change(&it)
		_, err := score.Build(&plan.Plan{Items: []plan.Item{it}}, facts(t, nil))
		assert.ErrorContains(t, err, want)
	}
	assert.True(t, slices.Contains(score.Levels, score.Full))
}
