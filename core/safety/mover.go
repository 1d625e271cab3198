package safety

import (
	"strings"

	"restbend/core/trade"
	"restbend/core/way"
)

// OnTheWay is how a condition changes the way from one position to the next.
type OnTheWay struct {
	SitLong bool `yaml:"sit_long"` // the pressure falls easily: sits longer between lying and standing
	Pillow  bool `yaml:"pillow"`   // rolls with a pillow between the knees
	Weak    bool `yaml:"weak"`     // the arm of its side is placed first
}

// What an arm or a knee must carry on the way, a share of body weight: one with a limit below it
// is not used (product defaults: pushing up from the side takes a sixth, half kneeling a third).
const (
	armOnTheWay  = 0.15
	kneeOnTheWay = 0.3
	// an arm that may not be raised as far as this from hanging is stiff or healing: it is not leaned on
	stiffArm = 100
)

// Mover is what the client has to change position with, from positions and limits.
func (s *Screener) Mover() *way.Mover {
	if s.mover == nil {
		s.mover = s.findMover()
	}
	return s.mover
}

func (s *Screener) findMover() *way.Mover {
	m := &way.Mover{Help: s.positions["floor"] == "help", SitS: way.SitS}
	lack := func(word string, lacks bool) {
		if lacks {
			m.Without = append(m.Without, word)
		}
	}
	has := func(position string) bool { return s.positions[position] == "yes" || s.positions[position] == "help" }
	under := func(least float64, quantities ...string) bool {
		for _, q := range quantities {
			if limit, _, limited := s.Allowed(q); limited && limit < least {
				return true
			}
		}
		return false
	}
	lack(way.Kneel, !has("kneel") || under(1, "needs.kneel") || under(kneeOnTheWay, "kneeling-at-all.left", "kneeling-at-all.right"))
	lack(way.Hands, !has("hands") || under(1, "needs.hands") ||
		under(armOnTheWay, "wrist-load.left", "wrist-load.right", "wrist-ground.left", "wrist-ground.right"))
	for i, side := range trade.Words(trade.BothSides[:]) {
		lack([]string{way.HandLeft, way.HandRight}[i], under(armOnTheWay, "arm-load."+side) || under(stiffArm+1, "overhead."+side))
		lack([]string{way.SideLeft, way.SideRight}[i], !has("side_"+side) || under(1, "needs.side."+side))
	}
	lack(way.FreeStand, s.positions["stand_free"] != "yes")
	lack(way.Standing, s.positions["stand_free"] == "no")
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		if rule.Way.SitLong {
			m.SitS = way.SitLongS
		}
		m.Hip = m.Hip || rule.Way.Pillow
		if rule.Way.Weak && k.Side.One() {
			m.Weak = k.Side
		}
	}
	if year, _, _ := s.today.Date(); s.client.Born > 0 && s.rules.SitLongFrom > 0 && year-s.client.Born >= s.rules.SitLongFrom {
		m.SitS = way.SitLongS
	}
	return m
}

// lackWords say what a client lacks on the way.
var lackWords = map[string]string{
	way.Kneel: "kneeling", way.Hands: "pushing with the hands", way.HandLeft: "the left arm", way.HandRight: "the right arm",
	way.SideLeft: "lying on the left side", way.SideRight: "lying on the right side", way.Standing: "standing",
}

// noWay says why there is no way to a place.
func (s *Screener) noWay() string {
	var out []string
	for _, w := range s.Mover().Without {
		if say := lackWords[w]; say != "" {
			out = append(out, say)
		}
	}
	return "there is no way there and back without " + strings.Join(out, ", ")
}
