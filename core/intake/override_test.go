package intake_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/intake"
	"restbend/core/trade"
)

var on = trade.On(2026, 11, 20)

func TestHowLongAnOverrideHolds(t *testing.T) {
	for _, row := range []struct {
		reason, until, want string
		wrong               bool
	}{
		{"agreed with her physician", "", "2027-01-01", false},
		{"agreed with her physician", "2026-11-20", "2026-11-20", false}, // today
		{"agreed with her physician", "2026-11-19", "", true},
		{"agreed with her physician", "2027-05-20", "2027-05-20", false},
		{"agreed with her physician", "2027-05-21", "", true},
		{"agreed with her physician", "2027", "", true},
		{"agreed with her physician", "soon", "", true},
		{"loves it", "", "", true},
		{"ten chars!", "", "2027-01-01", false},
		{"  nine chr ", "", "", true},
	} {
		o, wrong := intake.NewOverride("saw", row.reason, row.until, on)
		assert.Equal(t, row.wrong, wrong != "", "%q until %q: %s", row.reason, row.until, wrong)
		if !row.wrong {
			assert.Equal(t, row.want, o.Until.String(), row.until)
		}
	}
	c := &intake.Client{}
	c.Override(intake.Override{Version: "saw", Reason: "first"})
	c.Override(intake.Override{Version: "swim", Reason: "other"})
	c.Override(intake.Override{Version: "saw", Reason: "second"})
	assert.Equal(t, []intake.Override{{Version: "swim", Reason: "other"}, {Version: "saw", Reason: "second"}}, c.Overrides)
	c.EndOverride("swim")
	assert.Len(t, c.Overrides, 1)
}

// Tests add a risk of falls and never take it away; what was not measured stays as it was.
func TestWhatTestsSet(t *testing.T) {
	yes, no := true, false
	c := &intake.Client{OneLegS: 4, HeightCM: 160, Today: intake.Today{TightTurn: trade.Left}}
	c.Take(intake.Found{}, on)
	assert.Equal(t, &intake.Client{OneLegS: 4, HeightCM: 160, Today: intake.Today{TightTurn: trade.Left}}, c)
	c.Take(intake.Found{FallsRisk: &yes, OneLegS: 12, HeightCM: 159, TightTurn: trade.Right, ClockWeak: []int{4}, SIJSide: trade.Even}, on)
	assert.True(t, c.Has(intake.FallsRisk))
	assert.Equal(t, intake.Today{Date: on, SIJSide: trade.Even, TightTurn: trade.Right, ClockWeak: []int{4}}, c.Today)
	assert.Equal(t, 12.0, c.OneLegS)
	c.Take(intake.Found{FallsRisk: &yes}, on)
	assert.Len(t, c.Conditions, 1, "once")
	c.Take(intake.Found{FallsRisk: &no}, on)
	assert.True(t, c.Has(intake.FallsRisk), "never taken away by itself")
}
