package plan

// Transition seconds between postures are product defaults. A posture here is a height:
// what it costs to change depends on how far up or down the body travels.

// heights of the postures, lowest first, the steps of the posture line.
var heights = map[string]int{"supine": 0, "side": 1, "prone": 2, "all-fours": 3, "kneeling": 4, "half-kneeling": 5, "long-sitting": 6, "sitting": 7, "standing": 8}

// Height is how far up the body is, 0 lying on the back to 8 standing.
func Height(position string) int { return heights[position] }

// place is where an item leaves the body.
type place struct{ position, surface string }

// low tells whether a place is down on the mat or a bed.
func (p place) low() bool { return p.position != "standing" && p.position != "sitting" }

// Seconds of the parts of a change of position (product defaults).
const (
	lyingToSide   = 10
	sideToSide    = 15
	frontToBack   = 15
	lyingToFours  = 12
	foursToKneel  = 8
	sideToSitting = 15
	floorToStand  = 30
	helpedToStand = 60
	bedToStand    = 20
	sitToStand    = 8
)

// move is the seconds and the effort (0 to 3) of getting from one place to another, and
// whether it rises from the floor.
func move(from, to place, helped bool) (seconds, effort int, rises bool) {
	if from.position == to.position && (from.low() == to.low()) && (!from.low() || from.surface == to.surface) {
		return 0, 0, false
	}
	switch {
	case !from.low() && !to.low():
		return sitToStand, 1, false
	case from.low() && to.low() && from.surface == to.surface:
		return within(from.position, to.position), 1, false
	case from.low() && to.low(): // from the bed to the floor or back
		s, _, r := move(from, place{"standing", ""}, helped)
		d, _, _ := move(place{"standing", ""}, to, helped)
		return s + d, 3, r
	case from.low():
		s := upToSitting(from.position)
		if from.surface == "bed" {
			s += bedToStand
			return s + chairAfter(to), 2, false
		}
		s += floorToStand
		if helped {
			s += helpedToStand - floorToStand
		}
		return s + chairAfter(to), 3, true
	default: // going down costs what rising costs, without help
		s := upToSitting(to.position)
		if to.surface == "bed" {
			return s + bedToStand, 2, false
		}
		return s + floorToStand, 2, false
	}
}

func chairAfter(to place) int {
	if to.position == "sitting" {
		return sitToStand
	}
	return 0
}

// upToSitting is coming from a low posture to where one can stand up: by the side, never
// straight up.
func upToSitting(position string) int {
	switch position {
	case "supine", "prone":
		return lyingToSide + sideToSitting
	case "side":
		return sideToSitting
	}
	return 0
}

func within(a, b string) int {
	if a == b {
		return 0
	}
	lying := func(p string) bool { return p == "supine" || p == "side" || p == "prone" }
	switch {
	case lying(a) && lying(b):
		if a == "side" || b == "side" {
			return lyingToSide
		}
		return frontToBack
	case lying(a) || lying(b):
		return lyingToFours
	}
	return foursToKneel
}
