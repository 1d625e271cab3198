package safety_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/safety"
	"restbend/core/survey"
)

// The edge of a limit is a degree or two percent wide, on both sides, and follows the
// limits: a practice that moves one sees other poses at its edge.
func TestWhatIsAtTheEdge(t *testing.T) {
	rules, cat := load(t)
	edges := survey.AtEdge(rules, cat)
	require.NotEmpty(t, edges)
	keeps, crosses := 0, 0
	for _, e := range edges {
		near := 1.0
		if !strings.Contains(e.String(), "flexion") && e.Limit < 3 {
			near = 0.02 * e.Limit
		}
		assert.LessOrEqual(t, math.Abs(e.Value-e.Limit), math.Max(near, 1), e.String())
		assert.NotContains(t, []string{"effort", "weight"}, e.Quantity, "no pose measures it")
		if e.Passes() {
			keeps++
		} else {
			crosses++
			assert.Contains(t, e.String(), "crosses")
		}
	}
	assert.Positive(t, keeps)
	assert.Positive(t, crosses)
	at := func(r *safety.Rules, version, quantity string) bool {
		for _, e := range survey.AtEdge(r, cat) {
			if e.Version == version && e.Quantity == quantity && e.Condition == "neck-pain" {
				return true
			}
		}
		return false
	}
	assert.False(t, at(rules, "roll-down-standing", "neck.flexion"), "a head that hangs is not near half of the range")
	moved, aside := rules.With(map[string]safety.Change{"neck-pain/neck.flexion": {Value: 0.99, Source: "a test"}})
	require.Empty(t, aside)
	assert.True(t, at(moved, "roll-down-standing", "neck.flexion"))
}
