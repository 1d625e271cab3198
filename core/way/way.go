// Package way knows places of the body, what a client has to get from one to the next, and how
// many seconds that takes. It decides which places can be reached at all: a way uses only
// positions and contacts that the client has. What is said on the way is in core/score.
//
// A client who may not put weight on the left arm, for example, lacks hand-left: rolls over the
// right side, pushes up with the right forearm and reaches the floor by kneeling, not over both
// hands. One who lacks both hands and does not kneel does not reach the floor alone.
package way

import (
	"slices"

	"restbend/core/trade"
)

// What a client may lack. Hands means that no weight goes on a bent wrist; the forearms may
// still carry. Hand-left and hand-right mean that this whole arm carries nothing.
const (
	Kneel     = "kneel"
	Hands     = "hands"
	HandLeft  = "hand-left"
	HandRight = "hand-right"
	SideLeft  = "side-left"
	SideRight = "side-right"
	FreeStand = "free-stand"
	Standing  = "standing"
)

// Words lists them.
var Words = []string{Kneel, Hands, HandLeft, HandRight, SideLeft, SideRight, FreeStand, Standing}

// Seconds that are sat on the way from lying to standing, and asked whether it is light in the
// head: by default, and where the pressure falls easily (domain/10).
const (
	SitS     = 30
	SitLongS = 60
)

// A Mover is what a client has to change position with.
type Mover struct {
	Without []string `json:"without,omitempty"` // what is lacking, of Words
	Help    bool     `json:"help,omitempty"`    // gets down to the floor and up with help
	SitS    int      `json:"sit_s"`             // sits so long between lying and standing
	Hip     bool     `json:"hip,omitempty"`     // a replaced hip: a pillow between the knees when rolling
	Pad     bool     `json:"pad,omitempty"`     // a knee that does not kneel on hard ground: something soft under it
	// one arm or side is out and nobody recorded which: the right stands for the good one in Without, and words say good
	Unsided bool `json:"unsided,omitempty"`
	// the weak arm, which is placed first
	Weak trade.Side `json:"weak,omitempty"`
	// the side to roll over now, for who is about to lie on it or lies on it
	On trade.Side `json:"-"`
	// plans made under earlier rules keep the seconds they had
	Earlier bool `json:"earlier,omitempty"`
}

// Lacks tells whether something is lacking.
func (m *Mover) Lacks(word string) bool { return slices.Contains(m.Without, word) }

// arm tells whether an arm may carry, hand whether its hand may be pushed with.
func (m *Mover) arm(side trade.Side) bool {
	return side == trade.Left && !m.Lacks(HandLeft) || side == trade.Right && !m.Lacks(HandRight)
}

func (m *Mover) hand(side trade.Side) bool { return m.arm(side) && !m.Lacks(Hands) }

func (m *Mover) lies(side trade.Side) bool {
	return side == trade.Left && !m.Lacks(SideLeft) || side == trade.Right && !m.Lacks(SideRight)
}

// Over is the side that is rolled over: one that may be lain on, if it can be with the arm below
// it carrying, the right before the left. It is empty when neither side may be lain on.
func (m *Mover) Over() trade.Side {
	if m.On != "" {
		return m.On
	}
	order := []trade.Side{trade.Right, trade.Left}
	for _, side := range order {
		if m.lies(side) && m.arm(side) {
			return side
		}
	}
	for _, side := range order {
		if m.lies(side) {
			return side
		}
	}
	return ""
}

// Rolling is the client rolling over a side, where it may be lain on and sides are known.
func (m *Mover) Rolling(side trade.Side) *Mover {
	if !side.One() || !m.lies(side) || m.Unsided {
		return m
	}
	out := *m
	out.On = side
	return &out
}

// Pushes tells with what somebody gets up from the side rolled over: the forearm below, the upper
// hand, or both hands.
func (m *Mover) Pushes() (lower, upper, hands bool) {
	over := m.Over()
	if over == "" {
		return false, false, false
	}
	lower, upper = m.arm(over), m.hand(over.Other())
	return lower, upper, upper && m.hand(over)
}

// Arms tells whether both arms carry, Rolls whether the client can roll over a side and push up from it.
func (m *Mover) Arms() bool { return m.arm(trade.Left) && m.arm(trade.Right) }

// Rolls tells whether the client can roll over a side and push up from it.
func (m *Mover) Rolls() bool {
	lower, upper, _ := m.Pushes()
	return lower || upper
}

// anyArm tells whether one arm at least may carry.
func (m *Mover) anyArm() bool { return m.arm(trade.Left) || m.arm(trade.Right) }

// Place is where an item leaves the body.
type Place struct {
	Position trade.Position
	Surface  trade.Surface
}

// What carries a posture. Leaning on a sofa from the floor is still down on the floor.
const (
	Upright  = "upright" // sitting on a chair and standing
	Floor    = "floor"
	Bed      = "bed"
	Carriage = "carriage"
)

// Ground is what carries the body there.
func (p Place) Ground() string {
	switch {
	case p.Surface == trade.Carriage:
		return Carriage
	case p.Position.Upright():
		return Upright
	case p.Surface == trade.Bed:
		return Bed
	}
	return Floor
}

// Hub is the position by which a client gets down to the floor and up from it: hands and knees;
// kneeling where both hands do not carry; sitting, over a seat, where kneeling is out. Empty when
// there is none.
func (m *Mover) Hub() trade.Position {
	switch {
	case m.Help && (m.Lacks(Kneel) || m.Lacks(Standing)):
		return trade.LongSitting
	case m.Help && m.Arms():
		return trade.AllFours
	case m.Help:
		return trade.Kneeling
	case m.Lacks(Standing):
		return ""
	case m.Lacks(Kneel):
		if m.Arms() && !m.Lacks(Hands) {
			return trade.LongSitting
		}
		return ""
	case m.Arms():
		return trade.AllFours
	case m.anyArm(), !m.Lacks(FreeStand):
		return trade.Kneeling
	}
	return ""
}

// Reaches tells whether a client gets to a place and up from it again, with nothing that is lacking.
func (m *Mover) Reaches(p Place) bool {
	lies := p.Position.Lies()
	switch {
	case p.Position == trade.SideLying && m.Over() == "",
		p.Position.Kneels() && m.Lacks(Kneel),
		p.Position == trade.AllFours && !m.Arms():
		return false
	}
	switch p.Ground() {
	case Upright:
		return p.Position != trade.Standing || !m.Lacks(Standing)
	case Floor:
		if m.Hub() == "" || m.Lacks(Standing) && p.Position.Kneels() {
			return false
		}
		if p.Position == trade.LongSitting && !m.anyArm() {
			return m.Help
		}
		return !lies || m.Rolls() || m.Help && p.Position == trade.Supine || p.Position == trade.Prone && m.Arms() && !m.Lacks(Kneel)
	case Bed:
		switch {
		case m.Lacks(Standing) && !m.Help && !(m.Arms() && !m.Lacks(Hands)):
			return false
		case p.Position == trade.Supine: // over the side, or back onto raised pillows
			return true
		case lies:
			return m.Rolls()
		}
		return m.anyArm()
	}
	return !m.Lacks(Standing) && m.anyArm() && (!lies || m.Rolls())
}

// Raised tells that somebody lies down on the back from the edge of a bed, onto raised pillows, because they
// can roll over neither side.
func (m *Mover) Raised() bool { return !m.Rolls() }

// Together is what several people have who go the same way: what one lacks nobody uses, and all sit as long as
// who sits longest.
func Together(all ...*Mover) *Mover {
	out := &Mover{SitS: SitS}
	for _, m := range all {
		for _, w := range m.Without {
			if !out.Lacks(w) {
				out.Without = append(out.Without, w)
			}
		}
		out.SitS = max(out.SitS, m.SitS)
		out.Help, out.Hip, out.Pad = out.Help || m.Help, out.Hip || m.Hip, out.Pad || m.Pad
		if m.Weak != "" {
			out.Weak = m.Weak
		}
		out.Unsided = out.Unsided || m.Unsided
	}
	if out.Unsided && len(all) > 1 { // whose good side is which cannot be said to all at once
		out.Without = append(out.Without, HandLeft, HandRight)
	}
	return out
}
