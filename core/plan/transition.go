package plan

// Transition seconds between postures are product defaults. A posture here is a height:
// what it costs to change depends on how far up or down the body travels.

// heights of the postures, lowest first, the steps of the posture line.
var heights = map[string]int{"supine": 0, "side": 1, "prone": 2, "all-fours": 3, "kneeling": 4, "half-kneeling": 5, "long-sitting": 6, "sitting": 7, "standing": 8}

// Height is how far up the body is, 0 lying on the back to 8 standing.
func Height(position string) int { return heights[position] }

// place is where an item leaves the body.
type place struct{ position, surface string }

// What carries a posture. Leaning on a sofa from the floor is still down on the floor.
const (
	upright  = "upright" // sitting on a chair or standing
	floor    = "floor"
	bed      = "bed"
	carriage = "carriage"
)

func (p place) ground() string {
	switch {
	case p.surface == "spring-carriage":
		return carriage
	case p.position == "standing" || p.position == "sitting":
		return upright
	case p.surface == "bed":
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

// FromFloor tells whether going from one item to the next is getting up from the floor; nil
// is the upright place where a session begins and ends.
func FromFloor(from, to *Item) bool {
	at := func(it *Item) place {
		if it == nil {
			return place{position: "standing"}
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
	case upright:
		return within(p.position, "standing")
	case floor:
		if helped {
			return toFours(p.position) + helpedToStand
		}
		return toFours(p.position) + floorToStand
	}
	return toFours(p.position) + bedToStand
}

func toFours(position string) int {
	switch position {
	case "supine":
		return lyingToSide + sideToFours
	case "side":
		return sideToFours
	case "prone":
		return frontToFours
	}
	return 0
}

func within(a, b string) int {
	lying := func(p string) bool { return p == "supine" || p == "side" || p == "prone" }
	switch {
	case a == b:
		return 0
	case lying(a) && lying(b):
		if a == "side" || b == "side" {
			return lyingToSide
		}
		return frontToBack
	case lying(a):
		return toFours(a)
	case lying(b):
		return toFours(b)
	case Height(a) >= Height("sitting") && Height(b) >= Height("sitting"):
		return sitToStand
	}
	return foursToKneel
}

// The price of getting from place to place: by the second, and dearer between the ground
// and standing, for that is what tires people (product defaults).
const (
	moveWeight = 0.035 // points a second
	upPoints   = 0.6   // points each time the body comes up from the ground or goes down to it
)

func price(from, to place, seconds int) float64 {
	p := moveWeight * float64(seconds)
	if from.ground() != to.ground() {
		p += upPoints * float64(b2i(from.ground() != upright)+b2i(to.ground() != upright))
	}
	return p
}
