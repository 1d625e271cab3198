package site

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/statics"
	"restbend/core/trade"
)

func TestSharesAreSaidInFractions(t *testing.T) {
	for v, want := range map[float64]string{0.05: "a twentieth", 0.11: "a tenth", 0.19: "a fifth", 0.26: "a quarter", 0.34: "a third", 0.48: "half", 0.66: "two thirds", 0.98: "all"} {
		assert.Equal(t, "about "+want+" of body weight", fraction(v), "%v", v)
	}
}

func TestLoadsNameEachContact(t *testing.T) {
	phase := func(share map[string]float64, resting bool) catalogue.SolvedPhase {
		return catalogue.SolvedPhase{Measures: statics.Measures{Share: share, Indeterminate: resting}}
	}
	assert.Equal(t, []string{"about a third of body weight on each hand", "about a sixth of body weight on each forefoot"},
		Loads(phase(map[string]float64{"hand.left": 0.33, "hand.right": 0.32, "toes.left": 0.17, "toes.right": 0.18}, false)))
	assert.Equal(t, []string{"about a third of body weight on the left hand"}, Loads(phase(map[string]float64{"hand.left": 0.33}, false)))
	assert.Equal(t, []string{"the trunk rests and shares the remainder"}, Loads(phase(map[string]float64{"hand.left": 0.01}, true)))
	for v, want := range map[float64]string{0.1: "little (0.10 Nm per kg)", 0.4: "some (0.40 Nm per kg)", 0.8: "a fair amount (0.80 Nm per kg)", 1.5: "a lot (1.50 Nm per kg)"} {
		assert.Equal(t, want, Demand(catalogue.SolvedPhase{Measures: statics.Measures{Moment: v}}))
	}
}

func TestDirectionsAndComparison(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	get := func(slug string) *catalogue.Version { v, _ := cat.Version(slug); return v }
	assert.Equal(t, []string{"bend", "arch"}, get("cat-cow").Directions())
	assert.Equal(t, []string{"turn"}, get("palms-turn").Directions())
	assert.Contains(t, get("seated-side-reach").Directions(), "side")
	assert.Empty(t, get("plank").Directions())
	rows := Compared(get("cat-cow"), get("cat-cow"))
	for _, r := range rows {
		assert.False(t, r.Differs, r.What)
	}
	differs := map[string]bool{}
	for _, r := range Compared(get("plank-knees"), get("plank")) {
		differs[r.What] = r.Differs
	}
	assert.True(t, differs["effort"])
	assert.True(t, differs["weight"])
	assert.False(t, differs["position"])
	for _, side := range []string{"left", "right"} {
		r := MovementRose(get("palms-turn"), trade.Side(side))
		turned := map[string]int{}
		for _, a := range r.Axes {
			turned[a.Name] = a.UsedDeg
		}
		assert.Greater(t, turned["turn "+side], 20)
		assert.NotEmpty(t, r.Caption)
	}
}
