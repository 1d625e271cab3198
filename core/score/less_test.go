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
	drawn(t, 12, func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err)
		for share := 0.02; share < 1; share += 0.053 {
			at := share * s.Seconds
			running := s.Running(at)
			for name, c := range map[string]score.Cap{"reps": {Reps: 2, Why: "a warning at 2"}, "hold": {HoldS: 5, Why: "a symptom at 6 s"}, "nothing": {}} {
				got, _ := s.Capped(at, c)
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
			left, said := s.Left(at, "of pain")
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
