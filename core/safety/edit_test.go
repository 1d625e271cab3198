package safety_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/safety"
)

func TestEveryLimitHasItsOwnKey(t *testing.T) {
	rules, _ := load(t)
	seen := map[string]bool{}
	n := 0
	for _, c := range rules.Conditions {
		for i := range c.Limits {
			key := c.Limits[i].Key(c.Code)
			assert.False(t, seen[key], key)
			seen[key] = true
			rule, l, ok := rules.Limit(key)
			require.True(t, ok, key)
			assert.Equal(t, c.Code, rule.Code)
			assert.Equal(t, c.Limits[i].Quantity, l.Quantity)
			assert.LessOrEqual(t, l.Value(), l.Most(), "%s is within its own bounds", key)
			n++
		}
	}
	assert.Greater(t, n, 100)
}

func TestAChangedLimitChangesVerdictsAndNothingElse(t *testing.T) {
	rules, cat := load(t)
	c := able()
	c.Conditions = []intake.Condition{{Code: "stenosis"}}
	screen := func(r *safety.Rules) *safety.Screener {
		s, err := safety.NewScreener(r, cat, c, today)
		require.NoError(t, err)
		return s
	}
	before := screen(rules)
	loose, aside := rules.With(map[string]safety.Change{"stenosis/lumbar.extension.loaded": {Value: 12}, "stenosis/lumbar.extension.unloaded": {Value: 15}})
	require.Empty(t, aside)
	d := safety.Compare(before, screen(loose))
	assert.Contains(t, d.Looser, "cow-neutral")
	assert.Empty(t, d.Stricter)
	tight, aside := rules.With(map[string]safety.Change{"stenosis/lumbar.extension.unloaded": {Value: 3, Source: "house rule"}})
	require.Empty(t, aside)
	d = safety.Compare(before, screen(tight))
	assert.Empty(t, d.Looser)
	assert.Contains(t, d.Stricter, "clock-circle")
	_, l, _ := tight.Limit("stenosis/lumbar.extension.unloaded")
	assert.Equal(t, "house rule", l.Source)
	_, l, _ = rules.Limit("stenosis/lumbar.extension.unloaded")
	assert.InDelta(t, 7, l.Max, 0, "the defaults stay")
	assert.Equal(t, safety.Difference{}, safety.Compare(before, screen(rules)))
}

// A change of a limit that a release renamed, or to a value it does not take, is set aside
// with what is wrong; the delivered limit holds and the others are in force.
func TestWrongLimitsAreSetAside(t *testing.T) {
	rules, _ := load(t)
	for key, c := range map[string]struct {
		v    float64
		want string
	}{
		"stenosis/lumbar.extension.sideways": {3, "no such limit"},
		"stenosis/lumbar.extension.loaded":   {-1, "allowed: 0 to 180"},
		"stenosis/lumbar.extension.unloaded": {math.NaN(), "allowed: 0 to 180"},
		"neck-pain/neck.flexion":             {0, "allowed: above 0 to 1"},
		"neck-pain/neck.extension":           {1.2, "allowed: above 0 to 1"},
		"deconditioned/effort":               {11, "allowed: 0 to 10"},
		"diastasis/toe-plank":                {0.5, "0 (out) or 1 (allowed)"},
	} {
		out, aside := rules.With(map[string]safety.Change{key: {Value: c.v}, "reflux/pelvis-above-chest": {Value: 4}})
		require.Len(t, aside, 1, key)
		assert.Equal(t, key, aside[0].Key)
		assert.Contains(t, aside[0].Why, c.want, key)
		_, was, known := rules.Limit(key)
		assert.Equal(t, !known, aside[0].Unknown, key)
		if known {
			_, l, _ := out.Limit(key)
			assert.InDelta(t, was.Value(), l.Value(), 0, key)
		}
		_, l, _ := out.Limit("reflux/pelvis-above-chest")
		assert.InDelta(t, 4, l.Max, 0)
	}
}
