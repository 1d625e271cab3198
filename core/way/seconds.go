package way

import (
	"slices"

	"restbend/core/trade"
)

// Seconds of changes of position are product defaults. A posture here is a height: what it costs
// to change depends on how far up or down the body travels.

// Height is how far up the body is, 0 lying on the back to 8 standing.
func Height(position trade.Position) int { return slices.Index(trade.Positions, position) }

// Seconds of the parts of a change of position (product defaults).
const (
	lyingToSide   = 10
	sideToHub     = 15
	frontToBack   = 15
	frontToHub    = 12
	foursToKneel  = 8
	floorToStand  = 30
	helpedToStand = 60
	seatToStand   = 40 // by a low seat, where kneeling is out
	bedToStand    = 20 // from a position on hands, knees or seat on the bed
	edgeToStand   = 8
	edgeFromStand = 10
	sideToEdge    = 15
	backToEdge    = 15 // from raised pillows, the legs first
	edgeToBack    = 25
	frameToStand  = 12
	sitToStand    = 8
	chairToEdge   = 20 // sliding across, for who does not stand
)

// Move is the seconds of getting from one place to another, and whether it rises from the floor; ok is
// false when there is no way that this client can go. No way down is longer than the way up: somebody who
// comes up from lying sits for a while before standing.
func Move(from, to Place, m *Mover) (seconds int, rises, ok bool) {
	if m.Earlier {
		return earlier(from, to, m.Help)
	}
	a, b := from.Ground(), to.Ground()
	if !m.Reaches(from) || !m.Reaches(to) {
		return 0, a == Floor && b != Floor, false
	}
	if a == b {
		if s, direct := m.within(from, to); direct {
			return s, false, true
		}
	}
	return m.up(from) + m.down(to), a == Floor, true
}

// up is coming up to standing from a place (or, for who does not stand, to the chair); down going down to it.
func (m *Mover) up(p Place) int {
	lies := p.Position.Lies()
	switch p.Ground() {
	case Upright:
		if m.Lacks(Standing) {
			return 0
		}
		return m.upright(p.Position, trade.Standing)
	case Floor:
		if lies {
			return m.toHub(p.Position) + m.SitS + m.hubToStand()
		}
		return m.hubToStand()
	case Bed:
		switch {
		case lies:
			return m.toEdge(p.Position) + m.SitS + m.edgeUp()
		case m.Lacks(Standing):
			return bedToStand - edgeToStand + m.edgeUp()
		}
		return bedToStand
	}
	if lies {
		return lyingSide(p.Position) + sideToEdge + m.SitS + frameToStand
	}
	return bedToStand
}

func (m *Mover) down(p Place) int {
	lies := p.Position.Lies()
	switch p.Ground() {
	case Upright:
		return m.up(p)
	case Floor:
		if lies {
			return m.hubToStand() + m.toHub(p.Position)
		}
		return m.hubToStand()
	case Bed:
		switch {
		case p.Position == trade.Supine && m.Raised():
			return m.edgeDown() + edgeToBack
		case lies:
			return m.edgeDown() + sideToEdge + lyingSide(p.Position)
		case m.Lacks(Standing):
			return bedToStand - edgeFromStand + m.edgeDown()
		}
		return bedToStand
	}
	if lies {
		return frameToStand + sideToEdge + lyingSide(p.Position)
	}
	return bedToStand
}

func (m *Mover) edgeUp() int {
	if m.Lacks(Standing) {
		return chairToEdge
	}
	return edgeToStand
}

func (m *Mover) edgeDown() int {
	if m.Lacks(Standing) {
		return chairToEdge
	}
	return edgeFromStand
}

func (m *Mover) toEdge(position trade.Position) int {
	if position == trade.Supine && m.Raised() {
		return backToEdge
	}
	return lyingSide(position) + sideToEdge
}

func (m *Mover) hubToStand() int {
	switch {
	case m.Help:
		return helpedToStand
	case m.Hub() == trade.LongSitting:
		return seatToStand
	}
	return floorToStand
}

func lyingSide(position trade.Position) int {
	if position == trade.SideLying {
		return 0
	}
	return lyingToSide
}

// toHub is from lying to hands and knees, to kneeling or to sitting on the floor.
func (m *Mover) toHub(position trade.Position) int {
	if position == trade.Prone && m.Prone() {
		return frontToHub
	}
	return lyingSide(position) + sideToHub
}

// Prone tells whether somebody on the front pushes straight back up: over both hands or forearms, onto the knees.
func (m *Mover) Prone() bool { return m.Arms() && !m.Lacks(Kneel) }

// upright is between sitting on a chair and standing.
func (m *Mover) upright(a, b trade.Position) int {
	if a == b {
		return 0
	}
	return sitToStand
}

// within is a change of position on one ground; direct is false where it leads over getting up.
func (m *Mover) within(from, to Place) (seconds int, direct bool) {
	a, b := from.Position, to.Position
	raised := m.Raised() && (a == trade.Supine || b == trade.Supine)
	switch {
	case a == b:
		return 0, true
	case from.Ground() == Upright:
		return m.upright(a, b), true
	case a.Lies() && b.Lies():
		switch {
		case m.Over() == "":
			return 0, false
		case a == trade.SideLying || b == trade.SideLying:
			return lyingToSide, true
		}
		return frontToBack, true
	case a.Lies():
		return m.toHub(a), !raised && m.joins(a, b)
	case b.Lies():
		return m.toHub(b), !raised && m.joins(b, a)
	}
	return foursToKneel, a != trade.AllFours && b != trade.AllFours || m.Arms()
}

// joins tells whether there is a way between a lying position and one that is not, on one ground.
func (m *Mover) joins(lying, other trade.Position) bool {
	if other == trade.AllFours && !m.Arms() {
		return false
	}
	return m.Rolls() || lying == trade.Prone && m.Prone()
}

// earlier is the table of the rules before the third: the same both ways, and for everybody.
func earlier(from, to Place, helped bool) (seconds int, rises, ok bool) {
	toFours := map[trade.Position]int{trade.Supine: 25, trade.SideLying: 15, trade.Prone: 12}
	up := func(p Place) int {
		switch {
		case p.Ground() == Upright && p.Position == trade.Sitting:
			return sitToStand
		case p.Ground() == Upright:
			return 0
		case p.Ground() == Floor && helped:
			return toFours[p.Position] + helpedToStand
		case p.Ground() == Floor:
			return toFours[p.Position] + floorToStand
		}
		return toFours[p.Position] + bedToStand
	}
	a, b := from.Position, to.Position
	switch {
	case from.Ground() != to.Ground():
		return up(from) + up(to), from.Ground() == Floor, true
	case a == b:
		return 0, false, true
	case a.Lies() && b.Lies() && (a == trade.SideLying || b == trade.SideLying):
		return lyingToSide, false, true
	case a.Lies() && b.Lies():
		return frontToBack, false, true
	case a.Lies() || b.Lies():
		return max(toFours[a], toFours[b]), false, true
	case Height(a) >= Height(trade.Sitting) && Height(b) >= Height(trade.Sitting):
		return sitToStand, false, true
	}
	return foursToKneel, false, true
}

// Straight tells whether a way between two places on one ground does not lead over getting up.
func Straight(from, to Place, m *Mover) bool {
	_, direct := m.within(from, to)
	return from.Ground() == to.Ground() && direct
}
