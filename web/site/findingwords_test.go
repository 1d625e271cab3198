package site

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// A finding is drawn in its phase, with the side working that it was found at, and round what carries it: of a sore
// right shoulder reaching on hands and knees leans on the right hand while the left reaches, and lifts the right arm
// while the right does.
func TestAFindingIsDrawnWhereItIs(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	c := &intake.Client{
		Positions:  map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "kneel": "yes", "hands": "yes", "side_left": "yes", "side_right": "yes", "stand_free": "yes"},
		Surfaces:   trade.Surfaces,
		Conditions: []intake.Condition{{Code: "shoulder-pain", Side: trade.Right}},
	}
	s, err := safety.NewScreener(rules, cat, c, trade.MustDay("2026-12-01"))
	require.NoError(t, err)
	v, ok := cat.Version("bird-dog-arm")
	require.True(t, ok)
	seen := map[string]string{}
	for _, f := range s.Screen(v.Slug).Results[0].Findings {
		phase := -1
		for i := range v.Phases {
			if v.Phases[i].Name == f.Phase {
				phase = i
			}
		}
		if phase < 0 {
			continue
		}
		m := MarkOf(rules.Words, v, f, phase, f.Turn)
		seen[f.Quantity] = f.Phase + " " + string(f.Turn) + ": " + m.At
		if f.Quantity == "arm-load.right" {
			assert.Greater(t, Carried(v, &f, phase), 0.1, "what is circled carries")
		}
	}
	assert.Equal(t, "reach left: palm.right", seen["arm-load.right"])
	assert.Equal(t, "reach right: elbow.right", seen["overhead.right"])
}
