package verify

// The ways from place to place, worked out again from what the documents say a client has
// (docs/planner.md, Seconds between postures).

// ways is what the screening says the client has to change position with.
type ways struct {
	Without []string `json:"without"`
	Help    bool     `json:"help"`
	SitS    int      `json:"sit_s"`
}

// has tells whether nothing of some words is lacking.
func (w *ways) has(words ...string) bool {
	for _, lack := range w.Without {
		for _, word := range words {
			if lack == word {
				return false
			}
		}
	}
	return true
}

// arms counts the arms that carry.
func (w *ways) arms() (n int) {
	for _, word := range []string{"hand-left", "hand-right"} {
		if w.has(word) {
			n++
		}
	}
	return n
}

// over tells whether the client can roll over a side and push up from it: with the forearm below, or the hand
// above.
func (w *ways) over() bool {
	for _, side := range [][2]string{{"left", "right"}, {"right", "left"}} {
		if w.has("side-"+side[0]) && (w.has("hand-"+side[0]) || w.arms() > 0 && w.has("hands", "hand-"+side[1]) && !w.otherSide(side[0])) {
			return true
		}
	}
	return false
}

// otherSide tells that the other side is the one that is rolled over: it may be lain on, with its arm carrying.
func (w *ways) otherSide(side string) bool {
	other := map[string]string{"left": "right", "right": "left"}[side]
	return w.has("side-"+other, "hand-"+other)
}

// straightUp tells whether somebody on the front pushes straight up onto the knees.
func (w *ways) straightUp() bool { return w.arms() == 2 && w.has("kneel") }

// hub is how the floor is reached: on hands and knees, kneeling, by a seat, or not at all.
func (w *ways) hub() string {
	switch {
	case w.Help && !w.has("kneel", "standing"):
		return "seat"
	case w.Help && w.arms() == 2:
		return "fours"
	case w.Help:
		return "knees"
	case !w.has("standing"):
		return ""
	case !w.has("kneel"):
		if w.arms() == 2 && w.has("hands") {
			return "seat"
		}
		return ""
	case w.arms() == 2:
		return "fours"
	case w.arms() == 1 || w.has("free-stand"):
		return "knees"
	}
	return ""
}

func lying(p string) bool { return p == "supine" || p == "side" || p == "prone" }

// reached tells whether there is a way to a place and up again.
func (w *ways) reached(s spot) bool {
	kneels := s.position == "all-fours" || s.position == "kneeling" || s.position == "half-kneeling"
	if s.position == "side" && !w.has("side-left") && !w.has("side-right") || kneels && !w.has("kneel") ||
		s.position == "all-fours" && w.arms() < 2 {
		return false
	}
	switch s.ground {
	case "up":
		return s.position != "standing" || w.has("standing")
	case "floor":
		if s.position == "long-sitting" && w.arms() == 0 && !w.Help {
			return false
		}
		return w.hub() != "" && (!kneels || w.has("standing")) && (!lying(s.position) || w.over() || w.Help && s.position == "supine" || s.position == "prone" && w.straightUp())
	case "bed":
		switch {
		case !w.has("standing") && !w.Help && !(w.arms() == 2 && w.has("hands")):
			return false
		case s.position == "supine":
			return true
		case lying(s.position):
			return w.over()
		}
		return w.arms() > 0
	}
	return w.has("standing") && w.arms() > 0 && (!lying(s.position) || w.over())
}

// side is from lying onto the side, hubbed from lying to where the floor is got up from.
func side(p string) int {
	if p == "side" {
		return 0
	}
	return 10
}

func (w *ways) hubbed(p string) int {
	if p == "prone" && w.straightUp() {
		return 12
	}
	return side(p) + 15
}

// rise is up to standing, sink down from it.
func (w *ways) rise(s spot) int {
	edge := 8
	if !w.has("standing") {
		edge = 20
	}
	switch {
	case s.ground == "up" && (s.position == "standing" || !w.has("standing")):
		return 0
	case s.ground == "up":
		return 8
	case s.ground == "floor" && lying(s.position):
		return w.hubbed(s.position) + w.SitS + w.stand()
	case s.ground == "floor":
		return w.stand()
	case s.ground == "bed" && s.position == "supine" && !w.over():
		return 15 + w.SitS + edge
	case s.ground == "bed" && lying(s.position):
		return side(s.position) + 15 + w.SitS + edge
	case s.ground == "bed":
		return 12 + edge
	case lying(s.position):
		return side(s.position) + 15 + w.SitS + 12
	}
	return 20
}

func (w *ways) sink(s spot) int {
	edge := 10
	if !w.has("standing") {
		edge = 20
	}
	switch {
	case s.ground == "floor" && lying(s.position):
		return w.stand() + w.hubbed(s.position)
	case s.ground == "bed" && s.position == "supine" && !w.over():
		return edge + 25
	case s.ground == "bed" && lying(s.position):
		return edge + 15 + side(s.position)
	case s.ground == "bed":
		return edge + 10
	case s.ground == "carriage" && lying(s.position):
		return 12 + 15 + side(s.position)
	}
	return w.rise(s)
}

func (w *ways) stand() int {
	switch {
	case w.Help:
		return 60
	case w.hub() == "seat":
		return 40
	}
	return 30
}

// move is from one place to another.
func (w *ways) move(a, b spot) int {
	over := w.rise(a) + w.sink(b)
	low, high := a.position, b.position
	if !lying(low) {
		low, high = high, low
	}
	someSide := w.has("side-left") || w.has("side-right")
	switch {
	case a.ground != b.ground:
		return over
	case a.position == b.position:
		return 0
	case a.ground == "up":
		return 8
	case lying(a.position) && lying(b.position) && !someSide:
		return over
	case lying(a.position) && lying(b.position) && (a.position == "side" || b.position == "side"):
		return 10
	case lying(a.position) && lying(b.position):
		return 15
	case lying(low):
		if low == "supine" && !w.over() || high == "all-fours" && w.arms() < 2 || !w.over() && !(low == "prone" && w.straightUp()) {
			return over
		}
		return w.hubbed(low)
	case (low == "all-fours" || high == "all-fours") && w.arms() < 2:
		return over
	}
	return 8
}
