package safety_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

func summaryOf(t require.TestingT, c *intake.Client, rules *safety.Rules) ([]string, []safety.Gain) {
	_, cat := loadOnce()
	s, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	return s.Summary(s.Screen()), s.Gains()
}

// What is left is said in five lines at most, and what to ask about first is what frees most.
func TestSummary(t *testing.T) {
	rules, _ := loadOnce()
	c := able()
	c.Conditions = []intake.Condition{{Code: "breathlessness"}, {Code: "reflux"}}
	lines, gains := summaryOf(t, c, rules)
	require.NotEmpty(t, gains)
	assert.Equal(t, "breathlessness", gains[0].Code)
	assert.Contains(t, gains[0].Open, "can lie flat")
	assert.LessOrEqual(t, len(lines), 5)
	text := strings.Join(lines, "\n")
	assert.Contains(t, text, "exercises suit as they stand")
	assert.Contains(t, text, "Nothing is left on the front")
	assert.Contains(t, text, "Ask first about breathlessness (lungs): its limits hold back")

	c = able()
	c.Positions["stand_free"] = "no"
	_, gains = summaryOf(t, c, rules)
	assert.Equal(t, "stand_free", gains[0].Code)

	c = able()
	c.Surfaces, c.Kit = []trade.Surface{"chair", "wall", "counter"}, []string{"towel"}
	_, gains = summaryOf(t, c, rules)
	assert.Equal(t, "kit", gains[0].Kind)

	c.RedFlags = []intake.Flag{{Code: "fainting"}}
	lines, _ = summaryOf(t, c, rules)
	assert.Equal(t, []string{"Nothing before a clinician has looked."}, lines)

	lines, gains = summaryOf(t, able(), rules)
	assert.Empty(t, gains, "with everything there is nothing to ask")
	assert.Len(t, lines, 2)
}

// Whatever the client: what is said to be gained is gained when it is there.
func TestGainsAreTrue(t *testing.T) {
	rules, cat := loadOnce()
	count := func(t require.TestingT, c *intake.Client) (n int) {
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		if s.Referral() != nil {
			return -1
		}
		for _, v := range s.Verdicts() {
			if v == trade.Suits {
				n++
			}
		}
		return n
	}
	rapid.Check(t, func(t *rapid.T) {
		c := client(t, 3)
		_, gains := summaryOf(t, c, rules)
		now := count(t, c)
		for i, g := range gains {
			if i > 0 && g.Frees > gains[i-1].Frees {
				t.Fatal("not the most first")
			}
			if g.Kind != "condition" || now < 0 {
				continue
			}
			without := *c
			without.Conditions = nil
			for _, k := range c.Conditions {
				if k.Code != g.Code {
					without.Conditions = append(without.Conditions, k)
				}
			}
			if got := count(t, &without); got >= 0 && got-now != g.Frees {
				t.Fatalf("%s frees %d, said %d", g.Code, got-now, g.Frees)
			}
		}
	})
}
