package safety

import (
	"fmt"
	"slices"
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
	// (degrees; product default)
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
	var open []string // only not confirmed
	position := func(word, position string, sure bool) {
		_, confirmed := s.client.Position(position)
		lack(word, sure || !has(position))
		if !sure && !confirmed {
			open = append(open, word)
		}
	}
	for i, side := range trade.Words(trade.BothSides[:]) {
		lack([]string{way.HandLeft, way.HandRight}[i], under(armOnTheWay, "arm-load."+side) || under(stiffArm+1, "overhead."+side))
		position([]string{way.SideLeft, way.SideRight}[i], "side_"+side, under(1, "needs.side."+side))
	}
	m.Unsided = s.oneUnrecorded(m)
	position(way.Hands, "hands", under(1, "needs.hands") ||
		under(armOnTheWay, "wrist-load.left", "wrist-load.right", "wrist-ground.left", "wrist-ground.right"))
	position(way.Kneel, "kneel", under(1, "needs.kneel") || under(kneeOnTheWay, "kneeling-at-all.left", "kneeling-at-all.right"))
	m.Pad = under(kneeOnTheWay, "kneeling.left", "kneeling.right")
	lack(way.FreeStand, s.positions["stand_free"] != "yes")
	lack(way.Standing, s.positions["stand_free"] == "no")
	// Who gets down to the floor and lies on the back has some way there: what nobody asked about is not held against
	// it, the sides first, kneeling last. What was asked and denied always is.
	floor := s.positions["floor"] == "yes" || m.Help
	for _, word := range open {
		if floor && !m.Reaches(way.Place{Position: trade.Supine, Surface: trade.Mat}) {
			m.Without = slices.DeleteFunc(m.Without, func(w string) bool { return w == word })
		}
	}
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

// oneUnrecorded tells that both arms, or lying on both sides, would be out only because nobody recorded which side is
// sore. One of them is good, and the client knows which: the right stands for it.
func (s *Screener) oneUnrecorded(m *way.Mover) (one bool) {
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		if rule, _ := s.rules.Rule(k.Code); slices.Contains(rule.Asks, "side") && k.Side != "" {
			return false
		}
	}
	for _, pair := range [][2]string{{way.HandLeft, way.HandRight}, {way.SideLeft, way.SideRight}} {
		denied := pair[0] == way.SideLeft && (s.positions["side_left"] == "no" || s.positions["side_right"] == "no")
		if m.Lacks(pair[0]) && m.Lacks(pair[1]) && !denied {
			m.Without, one = slices.DeleteFunc(m.Without, func(w string) bool { return w == pair[1] }), true
		}
	}
	return one
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

// GettingUp says how this client comes up from lying: over which side, pushing with what, how long sitting. It is the
// one sentence of its kind: pages, print and player ask it.
func (s *Screener) GettingUp() string {
	m := s.Mover()
	over, up := string(m.Over()), string(m.Over().Other())
	if m.Unsided {
		over, up = "good", "other"
	}
	lower, upper, hands := m.Pushes()
	say := ""
	switch {
	case hands:
		say = "Up from lying over the " + over + " side in one piece, pushing with the hands"
	case lower:
		say = "Up from lying over the " + over + " side in one piece, pushing with the " + over + " forearm"
	case upper:
		say = "Up from lying over the " + over + " side in one piece, pushing with the " + up + " hand"
	case m.Help:
		say = "Up from lying with help behind the shoulders, never by an arm"
	default:
		say = "Lies on raised pillows and comes up from them, the legs over the edge of the bed first"
	}
	if m.Hip && over != "" {
		say += ", a pillow between the knees"
	}
	say += fmt.Sprintf(". Then sits for %d seconds before standing.", m.SitS)
	if m.Weak != "" {
		say += " The weak " + string(m.Weak) + " arm is placed first."
	}
	return say
}
