package score_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/plan"
	"restbend/core/score"
)

// Whatever is added wherever in drawn sessions, the score stays sound, what ran stays as it was, no hold becomes
// longer than the dose has it, and it can be taken back until it runs.
func TestMoreThanWasPlanned(t *testing.T) {
	drawn(t, few(12), func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err)
		for share := 0.03; share < 1; share += 0.061 {
			at := share * s.Seconds
			running := s.Running(at)
			for what, add := range map[string]func() (*score.Score, string, error){
				"set":    func() (*score.Score, string, error) { return s.OneMoreSet(at) },
				"minute": func() (*score.Score, string, error) { return s.Longer(at, 60) },
			} {
				got, said, err := add()
				if err != nil {
					assert.Equal(t, "set", what, "%s: %v", where, err)
					continue
				}
				sound(t, got, where)
				assert.NotEmpty(t, said)
				assert.Equal(t, s.Rev+1, got.Rev)
				assert.Greater(t, got.Seconds, s.Seconds)
				assert.Equal(t, s.Segments[:running], got.Segments[:running], "%s: what ran", where)
				for i := range got.Segments {
					if g := &got.Segments[i]; g.Phase == score.Hold && g.Added {
						assert.LessOrEqual(t, g.End-g.Start, float64(max(got.Items[g.Item].Dose.HoldSeconds(got.Breaths), 1))+0.001, where)
					}
				}
				back, err := got.Back(s, at)
				require.NoError(t, err, where)
				assert.Equal(t, s.Segments, back.Segments)
				assert.Equal(t, got.Rev+1, back.Rev)
				_, err = got.Back(s, got.Seconds-0.5)
				assert.Error(t, err, "it ran already")
			}
		}
	})
}

func TestSetsAreAddedTwiceAtMost(t *testing.T) {
	drawn(t, 1, func(where string, p *plan.Plan, f score.Facts) {
		s, err := score.Build(p, f)
		require.NoError(t, err)
		_, _, err = s.OneMoreSet(0)
		assert.EqualError(t, err, "no set was begun yet")
		at := 0.0
		for i := range s.Segments {
			if s.Segments[i].Kind == score.Work {
				at = s.Segments[i].Start + 0.1
				break
			}
		}
		for range 2 {
			s, _, err = s.OneMoreSet(at)
			require.NoError(t, err)
		}
		_, _, err = s.OneMoreSet(at)
		assert.ErrorContains(t, err, "2 sets were added already")
		_, _, err = s.Longer(at, 9000)
		assert.Error(t, err)
	})
}
