package score_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/plan"
	"restbend/core/score"
)

// Whatever is capped, left or left out wherever in drawn sessions: the score stays sound, what ran stays, nothing still
// to come of the exercise is above the cap, and everything else is there as it was.
func TestLessThanWasPlanned(t *testing.T) {
	drawn(t, few(12), func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err)
		for share := 0.02; share < 1; share += 0.053 {
			at := share * s.Seconds
			running := s.Running(at)
			for name, c := range map[string]score.Cap{"sets": {Sets: 1, Why: "a symptom in set 2"}, "reps": {Reps: 2, Why: "a warning at 2"}, "hold": {HoldS: 5, Why: "a symptom at 6 s"}, "nothing": {}} {
				got, _ := s.Capped(at, s.UnderWay(at), c)
				sound(t, got, where+" "+name)
				assert.Equal(t, s.Segments[:running], got.Segments[:running], where)
				assert.LessOrEqual(t, got.Seconds, s.Seconds)
				item := -1
				for i := range got.Items {
					if got.Items[i].Cap != nil {
						item = i
					}
				}
				if name == "nothing" || item < 0 {
					continue
				}
				held := map[[3]int]float64{}
				for i := range got.Segments {
					g := &got.Segments[i]
					if g.Item == item && g.Start >= at && c.Sets > 0 && (g.Kind == score.Work || g.Kind == score.Rest) {
						assert.LessOrEqual(t, g.Set, c.Sets, "%s: a %s of a set that is left out", where, g.Kind)
						assert.False(t, g.Extra, where)
					}
					if g.Item == item && g.Start >= at && (g.Kind == score.Rest || g.Kind == score.Change) && c.Sets > 0 {
						assert.True(t, i+1 < len(got.Segments) && got.Segments[i+1].Item == item || got.Items[item].Block > 0, "%s: a %s before nothing", where, g.Kind)
					}
					if g.Item != item || g.Kind != score.Work || g.Start < at {
						continue
					}
					if c.Reps > 0 {
						assert.LessOrEqual(t, g.Rep, c.Reps, where)
						assert.LessOrEqual(t, g.OfReps, c.Reps, where)
					}
					if g.Phase == score.Hold && g.Breath == "free" && c.HoldS > 0 && !g.Extra {
						held[[3]int{g.Set, g.Rep, len(g.Side)}] += g.End - g.Start
					}
				}
				for _, h := range held {
					assert.LessOrEqual(t, h, 5.001, where)
				}
				others := func(s *score.Score) (n int) {
					for i := range s.Segments {
						if s.Segments[i].Item != item {
							n++
						}
					}
					return n
				}
				assert.Equal(t, others(s), others(got), "%s: the rest of the session", where)
			}
			left, said := s.Left(at, s.UnderWay(at), "of pain")
			sound(t, left, where)
			assert.Equal(t, s.Segments[:running], left.Segments[:running], where)
			if said != "" {
				assert.Contains(t, said, "of pain")
			}
			last := len(s.Items) - 1
			out, _, err := s.Without(at, last)
			if err == nil {
				sound(t, out, where)
				for i := range out.Segments {
					assert.False(t, out.Segments[i].Item == last && out.Segments[i].Kind == score.Work, where)
				}
			}
		}
		_, _, err = s.Without(0, 99)
		assert.Error(t, err)
	})
}

// Who does less while others go on: no second moves, what ran is as it was, and of the exercise under way nothing over
// the cap is work any more.
func TestRestedMovesNoSecond(t *testing.T) {
	n := 0
	drawn(t, 12, func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err)
		for share := 0.03; share < 1; share += 0.09 {
			at := share * s.Seconds
			item := s.UnderWay(at)
			if item < 0 {
				continue
			}
			for _, c := range []score.Cap{{}, {Reps: 2}, {HoldS: 4}} {
				out, said := s.Rested(at, s.UnderWay(at), c)
				require.NotEmpty(t, said, where)
				require.Equal(t, s.Seconds, out.Seconds, where)
				require.Equal(t, s.Rev+1, out.Rev)
				now, last := 0.0, out.Segments[len(out.Segments)-1]
				require.Equal(t, s.Seconds, last.End, where)
				running := s.Segments[s.Running(at)]
				for i := range out.Segments {
					g := &out.Segments[i]
					require.Equal(t, now, g.Start, "%s at %g", where, at)
					require.GreaterOrEqual(t, g.End, g.Start)
					now = g.End
					if g.Item != item || g.Kind != score.Work || g.Start < at {
						continue
					}
					require.False(t, c.Reps == 0 && c.HoldS == 0, "%s: work after it was left at %g", where, at)
					if c.Reps > 0 {
						require.LessOrEqual(t, g.Rep, c.Reps, where)
					}
					if c.HoldS > 0 && g.Phase == score.Hold && g.Breath == "" {
						require.LessOrEqual(t, g.End-g.Start, float64(c.HoldS)+1e-6, where)
					}
					require.False(t, running.Kind == score.Work && g.Set == running.Set && g.Side == running.Side, "%s: the set under way goes on after %g", where, at)
				}
				for i := range s.Segments {
					if g := s.Segments[i]; g.End <= at {
						require.Equal(t, g, out.Segments[i], where)
					}
				}
				n++
			}
		}
	})
	assert.Greater(t, n, 200)
}
