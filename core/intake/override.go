package intake

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/trade"
)

// How long an override holds (product defaults): six weeks unless a day is given, six months at
// most; and how much of a reason it takes, characters.
const (
	OverrideDays   = 42
	overrideMonths = 6
	leastReason    = 10
)

// NewOverride is one exercise that is left out and used nevertheless, on somebody's word. until may be
// empty; what is wrong is said in a sentence.
func NewOverride(version, reason, until string, today trade.Day) (o Override, wrong string) {
	o = Override{Version: version, Reason: strings.TrimSpace(reason)}
	if len(o.Reason) < leastReason {
		return o, "Reason: say in a sentence why, for this client, it may be used."
	}
	if until == "" {
		o.Until = today.AddDays(OverrideDays)
		return o, ""
	}
	latest := today.AddMonths(overrideMonths)
	if err := o.Until.UnmarshalText([]byte(until)); err != nil || o.Until.YearOnly() || o.Until.Before(today) ||
		o.Until.After(latest) {
		return o, fmt.Sprintf("Until: found %q, allowed: a day from %s to %s.", until, today, latest)
	}
	return o, ""
}

// Override keeps one in place of an older one of the same exercise; EndOverride takes it away.
func (c *Client) Override(o Override) {
	c.EndOverride(o.Version)
	c.Overrides = append(c.Overrides, o)
}

// EndOverride takes the override of a version away.
func (c *Client) EndOverride(version string) {
	c.Overrides = slices.DeleteFunc(slices.Clone(c.Overrides), func(o Override) bool { return o.Version == version })
}

// Found is what tests found of a client and what holds from then on.
type Found struct {
	FallsRisk *bool
	OneLegS   float64
	HeightCM  float64
	TightTurn trade.Side
	ClockWeak []int
	SIJSide   trade.Side
}

// Take puts what tests of a day found into a client: a risk of falls is added and never taken away
// by itself (shared ruling 26).
func (c *Client) Take(f Found, today trade.Day) {
	if f.FallsRisk != nil && *f.FallsRisk && !c.Has(FallsRisk) {
		c.Conditions = append(c.Conditions, Condition{Code: FallsRisk})
	}
	if f.OneLegS > 0 {
		c.OneLegS = f.OneLegS
	}
	if f.HeightCM > 0 {
		c.HeightCM = f.HeightCM
	}
	if f.TightTurn != "" {
		c.Today.TightTurn = f.TightTurn
	}
	if f.ClockWeak != nil {
		c.Today.ClockWeak = f.ClockWeak
	}
	if f.SIJSide != "" {
		c.Today.SIJSide, c.Today.Date = f.SIJSide, today
	}
}

// FallsRisk is the code of a risk of falls.
const FallsRisk = "falls-risk"

// Has tells whether a condition is recorded.
func (c *Client) Has(code string) bool {
	return slices.ContainsFunc(c.Conditions, func(k Condition) bool { return k.Code == code })
}
