package intake

import "restbend/core/trade"

// painHolds is for how many days a recorded pain counts as pain now (common practice).
const painHolds = 7

// On is the client as they are on a day: what was checked or felt for one day holds no longer
// than that. A check without a day counts as made on it.
func (c *Client) On(day trade.Day) *Client {
	out := *c
	if !c.Today.Date.IsZero() && c.Today.Date != day {
		out.Today.SIJSide = "" // a jammed side is one day's; the tight side and the weak hours are the last known
	}
	out.Today.Date = day
	if c.Pain != nil && !c.Pain.On.IsZero() && day.Since(c.Pain.On) > painHolds {
		pain := *c.Pain
		pain.Now = 0
		out.Pain = &pain
	}
	return &out
}

// Stamp writes a day on what was recorded without one, so that it does not roll on: red flags,
// the checks of a day and pain now.
func (c *Client) Stamp(day trade.Day) {
	for i := range c.RedFlags {
		if c.RedFlags[i].Since.IsZero() {
			c.RedFlags[i].Since = day
		}
	}
	if c.Today.SIJSide != "" && c.Today.Date.IsZero() {
		c.Today.Date = day
	}
	if c.Pain != nil && c.Pain.On.IsZero() {
		c.Pain.On = day
	}
}
