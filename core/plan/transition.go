package plan

import (
	"slices"

	"restbend/core/trade"
)

// Transition seconds between postures are product defaults. A posture here is a height:
// what it costs to change depends on how far up or down the body travels.

// Height is how far up the body is, 0 lying on the back to 8 standing.
func Height(position trade.Position) int { return slices.Index(trade.Positions, position) }

// Place is where an item leaves the body.
type Place struct {
	Position trade.Position
	Surface  trade.Surface
}

// Upright is the ground of sitting on a chair and of standing.
const Upright = "upright"

// Ground is what carries a position on a surface: upright, floor, bed or the carriage.
func Ground(position trade.Position, surface trade.Surface) string {
	return Place{position, surface}.Ground()
}

// TransitionSeconds is the time from one position to another on their surfaces.
func TransitionSeconds(from trade.Position, on trade.Surface, to trade.Position, onto trade.Surface, helped bool) int {
	s, _ := Move(Place{from, on}, Place{to, onto}, helped)
	return s
}

// What carries a posture. Leaning on a sofa from the floor is still down on the floor.
const (
	Floor    = "floor"
	Bed      = "bed"
	carriage = "carriage"
)

// Ground is what carries the body there.
func (p Place) Ground() string {
	switch {
	case p.Surface == trade.Carriage:
		return carriage
	case p.Position.Upright():
		return Upright
	case p.Surface == trade.Bed:
		return Bed
	}
	return Floor
}

// Seconds of the parts of a change of position (product defaults).
const (
	lyingToSide   = 10
	sideToFours   = 15
	frontToBack   = 15
	frontToFours  = 12
	foursToKneel  = 8
	floorToStand  = 30
	helpedToStand = 60
	bedToStand    = 20
	sitToStand    = 8
)

// Move is the seconds of getting from one place to another, and whether it rises from the
// floor. The table is metric: no detour is shorter, and both ways take the same time.
func Move(from, to Place, helped bool) (seconds int, rises bool) {
	a, b := from.Ground(), to.Ground()
	if a == b {
		return within(from.Position, to.Position), false
	}
	return up(from, helped) + up(to, helped), a == Floor
}

// Finish is the seconds of getting up at the end of a session, and whether it rises from the floor.
func Finish(from, home Place, helped bool) (seconds int, rises bool) {
	return Move(from, home, helped)
}

// FromFloor tells whether going from one item to the next is getting up from the floor; nil
// is the upright place where a session begins and ends.
func FromFloor(from, to *Item) bool {
	at := func(it *Item) Place {
		if it == nil {
			return Place{Position: trade.Standing}
		}
		return it.Place()
	}
	_, rises := Move(at(from), at(to), false)
	return rises
}

// up is coming up to standing from a place, or going down to it: from lying always by the
// side, never straight up.
func up(p Place, helped bool) int {
	switch p.Ground() {
	case Upright:
		return within(p.Position, trade.Standing)
	case Floor:
		if helped {
			return toFours(p.Position) + helpedToStand
		}
		return toFours(p.Position) + floorToStand
	}
	return toFours(p.Position) + bedToStand
}

func toFours(position trade.Position) int {
	switch position {
	case trade.Supine:
		return lyingToSide + sideToFours
	case trade.SideLying:
		return sideToFours
	case trade.Prone:
		return frontToFours
	}
	return 0
}

func within(a, b trade.Position) int {
	switch {
	case a == b:
		return 0
	case a.Lies() && b.Lies():
		if a == trade.SideLying || b == trade.SideLying {
			return lyingToSide
		}
		return frontToBack
	case a.Lies():
		return toFours(a)
	case b.Lies():
		return toFours(b)
	case Height(a) >= Height(trade.Sitting) && Height(b) >= Height(trade.Sitting):
		return sitToStand
	}
	return foursToKneel
}
