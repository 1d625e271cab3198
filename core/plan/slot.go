package plan

import (
	"math"

	"restbend/core/kinds"
)

// Minutes mean work, or the whole slot: a slot keeps two minutes to arrive, two after and a tenth for talk
// (domain/07, product defaults).
const (
	slotEnds = 4
	slotTalk = 0.1
)

// WorkIn is the minutes of work that a slot holds.
func WorkIn(slot int) int {
	return max(kinds.MinMinutes, int((1-slotTalk)*float64(slot))-slotEnds)
}

// SlotFor is the seconds of the slot that so many seconds of work need.
func SlotFor(work int) int {
	return int(math.Ceil(float64(work+60*slotEnds) / (1 - slotTalk)))
}

// MinutesAsked is what was asked for: the slot's minutes where they were meant, else those of work.
func (p *Plan) MinutesAsked() int {
	if p.SlotS > 0 {
		return p.SlotS / 60
	}
	return p.Minutes
}

// Slot is the seconds the session needs with arriving, talk and after: the slot that was asked for, else
// what its work makes of it.
func (p *Plan) Slot() int { return max(p.SlotS, SlotFor(p.Seconds)) }
