package plan

import (
	"slices"

	"restbend/core/trade"
)

// Transition seconds between postures are product defaults. A posture here is a height:
// what it costs to change depends on how far up or down the body travels.

// Height is how far up the body is, 0 lying on the back to 8 standing.
func Height(position trade.Position) int { return slices.Index(trade.Positions, position) }

// place is where an item leaves the body.
type place struct {
	position trade.Position
	surface  trade.Surface
}

// Upright is the ground of sitting on a chair and of standing.
const Upright = "upright"

// Ground is what carries a position on a surface: upright, floor, bed or the carriage.
func Ground(position trade.Position, surface trade.Surface) string {
	return place{position, surface}.ground()
}

// TransitionSeconds is the time from one position to another on their surfaces.
func TransitionSeconds(from trade.Position, on trade.Surface, to trade.Position, onto trade.Surface, helped bool) int {
	s, _ := move(place{from, on}, place{to, onto}, helped)
	return s
}

// What carries a posture. Leaning on a sofa from the floor is still down on the floor.
const (
	floor    = "floor"
	bed      = "bed"
	carriage = "carriage"
)

func (p place) ground() string {
	switch {
	case p.surface == trade.Carriage:
		return carriage
	case p.position.Upright():
		return Upright
	case p.surface == trade.Bed:
		return bed
	}
	return floor
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

// move is the seconds of getting from one place to another, and whether it rises from the
// floor. The table is metric: no detour is shorter, and both ways take the same time.
func move(from, to place, helped bool) (seconds int, rises bool) {
	a, b := from.ground(), to.ground()
	if a == b {
		return within(from.position, to.position), false
	}
	return up(from, helped) + up(to, helped), a == floor
}

// finish is the seconds of getting up at the end of a session, and whether it rises from the floor.
func finish(from, home place, helped bool) (seconds int, rises bool) {
	return move(from, home, helped)
}

// FromFloor tells whether going from one item to the next is getting up from the floor; nil
// is the upright place where a session begins and ends.
func FromFloor(from, to *Item) bool {
	at := func(it *Item) place {
		if it == nil {
			return place{position: trade.Standing}
		}
		return it.place()
	}
	_, rises := move(at(from), at(to), false)
	return rises
}

// up is coming up to standing from a place, or going down to it: from lying always by the
// side, never straight up.
func up(p place, helped bool) int {
	switch p.ground() {
	case Upright:
		return within(p.position, trade.Standing)
	case floor:
		if helped {
			return toFours(p.position) + helpedToStand
		}
		return toFours(p.position) + floorToStand
	}
	return toFours(p.position) + bedToStand
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

// The price of getting from place to place: by the second, and for who does not rise freely dearly
// each time the body comes up from the ground or goes down to it, for that is what tires people
// (product defaults). For the others it costs its seconds and hardly more (domain/07).
const (
	moveWeight = 0.035 // points a second, more than a second too short costs: nobody walks to fill time
	upPoints   = 2.5   // points each time, for who does not rise freely
)

// price is what a change of posture costs.
func (r *Request) price(from, to place, seconds int) float64 {
	p := moveWeight * float64(seconds)
	if from.ground() != to.ground() && !r.risesFreely() {
		p += upPoints * float64(b2i(from.ground() != Upright)+b2i(to.ground() != Upright))
	}
	return p
}

// risesFreely tells whether the client gets up from the floor without help, bone loss or a risk of falls.
func (r *Request) risesFreely() bool {
	return r.Client.Positions["floor"] == "yes" && !r.bonesOrFalls()
}
