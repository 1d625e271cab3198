package facts

import (
	"restbend/core/kinds"
	"restbend/core/plan"
)

// InSlot is the request for the work that a slot of so many minutes holds.
func (r *Request) InSlot(minutes int) *Request {
	t := r.Lasting(minutes)
	if minutes >= kinds.MinMinutes && minutes <= kinds.MaxMinutes { // else the minutes asked for are refused as they are
		t.Minutes, t.Ask.Slot = plan.WorkIn(minutes), minutes
	}
	return t
}

// SlotSeconds is the slot that is asked for, 0 when minutes mean work.
func (r *Request) SlotSeconds() int { return 60 * r.Ask.Slot }
