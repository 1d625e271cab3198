package score_test

import (
	"os"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/plan"
	"restbend/core/pose"
	"restbend/core/score"
	"restbend/core/trade"
)

var readWays = sync.OnceValues(func() (*score.Ways, error) {
	data, err := os.ReadFile("transitions.yaml")
	if err != nil {
		return nil, err
	}
	return score.ReadWays(data)
})

func ways(t testing.TB) *score.Ways {
	w, err := readWays()
	require.NoError(t, err)
	return w
}

// The steps of every way add up to the planner's table, lead to the position that is meant, and are drawn
// by poses that exist.
func TestWaysAddUpToTheTable(t *testing.T) {
	w := ways(t)
	solver := pose.NewSolver(body.NewBody(body.Female, 0))
	var places []plan.Place
	for _, p := range trade.Positions {
		surfaces := []trade.Surface{trade.Mat, trade.Bed, trade.Carriage}
		if p.Upright() {
			surfaces = []trade.Surface{trade.Chair}
		}
		for _, s := range surfaces {
			places = append(places, plan.Place{Position: p, Surface: s})
		}
	}
	poses := map[string]bool{}
	n := 0
	for _, from := range places {
		for _, to := range places {
			for _, who := range []score.Who{{}, {Help: true}, {Forearm: true, Hold: true}, {OnLeft: true}} {
				steps, seconds := w.Way(from, to, who)
				want := plan.TransitionSeconds(from.Position, from.Surface, to.Position, to.Surface, who.Help)
				require.Equal(t, want, seconds, "%v to %v, help %v", from, to, who.Help)
				assert.Equal(t, from == to || want == 0, len(steps) == 0, "%v to %v", from, to)
				at := -1.0
				for _, s := range steps {
					assert.Greater(t, s.At, at)
					at, poses[s.Pose] = s.At, true
					assert.NotEmpty(t, s.Say)
					if who.Forearm {
						assert.False(t, strings.Contains(s.Say, "Push with the hands") || strings.Contains(s.Say, "Hands under"), "%v to %v: %s", from, to, s.Say)
					}
				}
				n++
			}
		}
	}
	assert.Greater(t, n, 1000)
	for pose := range poses {
		_, err := solver.Base(strings.TrimSuffix(pose, "-before-chair")) // a picture of its own, of a base pose
		assert.NoError(t, err, pose)
	}
	assert.True(t, slices.Contains(pose.BaseNames(), "hook-lying"))
}

func TestMistakesInTheWaysAreNamed(t *testing.T) {
	step := "{say: Up., seconds: 4, pose: standing}"
	for text, want := range map[string]string{
		"- {from: roof, to: standing, surface: up, steps: [" + step + ", " + step + "]}":                              "allowed: positions",
		"- {from: sitting, to: standing, surface: up, steps: [" + step + "]}":                                         "allowed: 2 to 4",
		"- {from: sitting, to: standing, surface: up, steps: [" + step + ", {say: Up., seconds: 0, pose: standing}]}": "needs words, seconds and a pose",
		"- {from: sitting, by: hand}": "field by not found",
	} {
		_, err := score.ReadWays([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}
