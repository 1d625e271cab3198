package safety_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/core/way"
)

// Which side a client rolls over, with what they push, and how long they sit.
func TestWhatAClientHasOnTheWay(t *testing.T) {
	rules, cat := load(t)
	for name, row := range map[string]struct {
		change func(*intake.Client)
		over   trade.Side
		lacks  []string
		sit    int
	}{
		"able": {func(*intake.Client) {}, trade.Right, nil, 30},
		"a replaced left hip, with a pillow": {func(c *intake.Client) {
			c.Conditions = []intake.Condition{{Code: "hip-replacement", Side: trade.Left, Date: trade.MustDay("2025-05-01"), Approach: "posterior"}}
		}, trade.Right, nil, 30},
		"a replaced left hip, no pillow": {func(c *intake.Client) {
			c.Conditions = []intake.Condition{{Code: "hip-replacement", Side: trade.Left, Date: trade.MustDay("2025-05-01"), Approach: "posterior"}}
			c.Kit = nil
		}, trade.Left, []string{way.SideRight}, 30},
		"a sore right shoulder": {func(c *intake.Client) {
			c.Conditions = []intake.Condition{{Code: "shoulder-pain", Side: trade.Right}}
		}, trade.Left, []string{way.HandRight}, 30},
		"a sore outer hip": {func(c *intake.Client) {
			c.Conditions = []intake.Condition{{Code: "lateral-hip-pain", Side: trade.Right}}
		}, trade.Left, []string{way.SideRight}, 30},
		"parkinson":   {func(c *intake.Client) { c.Conditions = []intake.Condition{{Code: "parkinson"}} }, trade.Right, nil, 60},
		"at 76":       {func(c *intake.Client) { c.Born = 1950 }, trade.Right, nil, 60},
		"no kneeling": {func(c *intake.Client) { c.Positions["kneel"] = "no" }, trade.Right, []string{way.Kneel}, 30},
	} {
		c := able()
		c.Kit = []string{"pillow"}
		row.change(c)
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err, name)
		m := s.Mover()
		assert.Equal(t, row.over, m.Over(), name)
		assert.ElementsMatch(t, row.lacks, m.Without, name)
		assert.Equal(t, row.sit, m.SitS, name)
	}
}
