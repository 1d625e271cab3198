package score

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/core/way"
)

// Ways are how a client leaves one place and reaches the next, step by step. A way is made of legs: from the
// back, for example, onto the side, up to the edge of the bed, a while of sitting, and up to standing. Each leg
// is the first row of the file whose needs the client has, so that nobody is told to push with a hand that may
// not push; how long it all takes and whether there is a way is core/way's.
type Ways struct{ rows map[wayKey][]wayRow }

type wayKey struct{ from, to, surface string }

type wayRow struct {
	From    string    `yaml:"from"`
	To      string    `yaml:"to"`
	Surface string    `yaml:"surface"`
	Help    bool      `yaml:"help"`
	Needs   []string  `yaml:"needs"`
	Steps   []wayStep `yaml:"steps"`
}

// wayStep is one step: what is said, for how long, and the picture it leads to.
type wayStep struct {
	Say     string `yaml:"say"`
	Hip     string `yaml:"hip"`  // with a replaced hip
	Weak    string `yaml:"weak"` // with a weak arm
	Seconds int    `yaml:"seconds"`
	Pose    string `yaml:"pose"`
	surface string
}

// Places on the way that are no positions of exercises, and surfaces of ways besides the grounds.
const (
	edge  = "edge"  // sitting on the edge of the bed or carriage
	pause = "pause" // sitting on the floor

	anySurface  = "any"
	upSurface   = "up"
	seatSurface = "seat"
)

var wayNeeds = []string{"kneel", "stand", "free", "side", "hands", "lower", "upper", "arm", "arms", "raise", "help"}

// ReadWays reads the file of transitions.
func ReadWays(data []byte) (*Ways, error) {
	var rows []wayRow
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(&rows); err != nil {
		return nil, fmt.Errorf("transitions.yaml: %w", err)
	}
	places := append(trade.Words(trade.Positions), edge, pause)
	w := &Ways{map[wayKey][]wayRow{}}
	for i, r := range rows {
		wrong := func(format string, a ...any) error {
			return fmt.Errorf("transitions.yaml: row %d: %s", i+1, fmt.Sprintf(format, a...))
		}
		switch {
		case !slices.Contains(places, r.From) || !slices.Contains(places, r.To):
			return nil, wrong("found %s to %s, allowed: positions, edge, pause", r.From, r.To)
		case len(r.Steps) < 1 || len(r.Steps) > 4:
			return nil, wrong("found %d steps, allowed: 1 to 4", len(r.Steps))
		}
		for _, n := range r.Needs {
			if !slices.Contains(wayNeeds, n) {
				return nil, wrong("needs: found %q, allowed: %s", n, strings.Join(wayNeeds, ", "))
			}
		}
		for _, s := range r.Steps {
			if s.Say == "" || s.Pose == "" || s.Seconds < 1 {
				return nil, wrong("a step needs words, seconds and a pose")
			}
		}
		key := wayKey{r.From, r.To, r.Surface}
		w.rows[key] = append(w.rows[key], r)
	}
	return w, nil
}

// walker lays one way out for one client.
type walker struct {
	ways *Ways
	m    *way.Mover
	has  map[string]bool
	out  []wayStep
	fill *strings.Replacer // in words: where nobody recorded which side is sore, good and other

	poses *strings.Replacer
	fine  bool // every leg was found
}

// Way is how a client gets from one place to another, with the seconds of each step from the beginning on,
// and how long it takes; ok is false when there is no way.
func (w *Ways) Way(from, to plan.Place, m *way.Mover) (steps []Step, seconds int, ok bool) {
	now := *m
	now.Earlier = false
	if _, _, ok := way.Move(from, to, &now); !ok {
		return nil, 0, false
	}
	k := newWalker(w, &now)
	k.walk(from, to)
	pad := now.Pad && !slices.Contains([]trade.Position{trade.AllFours, trade.Kneeling, trade.HalfKneel}, from.Position)
	for _, s := range k.out {
		say := s.Say
		switch {
		case now.Weak != "" && s.Weak != "":
			say = s.Weak
		case now.Hip && s.Hip != "":
			say = s.Hip
		}
		if pad && onKnees(s.Pose) && s.surface == "" { // a bed is soft
			pad, say = false, strings.TrimSuffix(say, ".")+", something soft under the knees."
		}
		steps = append(steps, Step{At: float64(seconds), Say: k.fill.Replace(say), Pose: k.poses.Replace(s.Pose), Surface: s.surface})
		seconds += s.Seconds
	}
	return steps, seconds, k.fine
}

// onKnees tells of a picture that it is of somebody on the knees.
func onKnees(pose string) bool {
	return slices.Contains([]string{"all-fours", "tall-kneeling", "half-kneeling-left", "half-kneeling-right"}, pose)
}

func newWalker(w *Ways, m *way.Mover) *walker {
	over := m.Over()
	lower, upper, hands := m.Pushes()
	left, right := !m.Lacks(way.HandLeft), !m.Lacks(way.HandRight)
	good, hand := "one", "a hand"
	switch {
	case left && !right:
		good, hand = "left", "the left hand"
	case right && !left:
		good, hand = "right", "the right hand"
	}
	named := func(side trade.Side, unknown string) string {
		if m.Unsided {
			return unknown
		}
		return string(side)
	}
	if m.Unsided {
		good, hand = "the good", "the good hand"
	}
	overArm := over == trade.Left && left || over == trade.Right && right
	both := left && right && !m.Lacks(way.Hands)
	return &walker{
		ways: w,
		m:    m,
		fine: true,
		has: map[string]bool{"kneel": !m.Lacks(way.Kneel), "stand": !m.Lacks(way.Standing), "free": !m.Lacks(way.FreeStand),
			"side": over != "", "hands": hands || over == "" && both, "lower": lower, "upper": upper, "arm": left || right,
			"arms": left && right, "raise": overArm && left && right, "help": m.Help},
		fill:  strings.NewReplacer("{over}", named(over, "good"), "{up}", named(over.Other(), "other"), "{a hand}", hand, "{Good}", capital(good)),
		poses: strings.NewReplacer("{over}", string(over)),
	}
}

// leg adds the first row whose needs the client has.
func (k *walker) leg(from, to, surface, ground string) {
	for _, on := range []string{surface, anySurface} {
		for _, r := range k.ways.rows[wayKey{from, to, on}] {
			if r.Help && !k.m.Help || slices.ContainsFunc(r.Needs, func(n string) bool { return !k.has[n] }) {
				continue
			}
			if surface == way.Floor && k.m.Help && !r.Help && (from == string(trade.Standing) || to == string(trade.Standing)) {
				continue // somebody helps down and up
			}
			k.add(r.Steps, ground)
			return
		}
	}
	k.fine = false
}

// drawnOn is the surface that steps are drawn on where it is not the floor.
var drawnOn = map[string]string{way.Bed: string(trade.Bed), way.Carriage: string(trade.Carriage)}

func (k *walker) add(steps []wayStep, ground string) {
	for _, s := range steps {
		if s.surface = drawnOn[ground]; strings.HasPrefix(s.Pose, "standing") || s.Pose == "seated" {
			s.surface = ""
		}
		k.out = append(k.out, s)
	}
}

// sit is the while of sitting between lying and standing, with its question.
func (k *walker) sit(ground string) {
	s := wayStep{Say: fmt.Sprintf("Sit for %d seconds, eyes open. Light-headed? Then stay and say so.", k.m.SitS), Seconds: k.m.SitS,
		Pose: "long-sitting"}
	if ground != way.Floor {
		s.Pose = "seated-bed"
	}
	k.add([]wayStep{s}, ground)
}

func (k *walker) walk(from, to plan.Place) {
	a, b := from.Ground(), to.Ground()
	if a == b && way.Straight(from, to, k.m) {
		k.within(from.Position, to.Position, a)
		return
	}
	k.up(from, a)
	k.down(to, b)
}

// within is a way on one ground.
func (k *walker) within(from, to trade.Position, ground string) {
	switch {
	case from == to:
	case ground == way.Upright:
		k.leg(string(from), string(to), upSurface, ground)
	case from.Lies() && to.Lies():
		k.leg(string(from), string(to), anySurface, ground)
	case from.Lies():
		k.rise(from, string(to), ground)
	case to.Lies():
		k.lie(string(from), to, ground)
	default:
		k.leg(string(from), string(to), anySurface, ground)
	}
}

// rise is from lying to a position on the same ground, lie the way back: always over the side, or straight
// from and to the front where both arms carry.
func (k *walker) rise(from trade.Position, to, ground string) {
	if k.m.Raised() && from == trade.Supine {
		k.leg(string(from), to, ground, ground)
		return
	}
	if from == trade.Supine || from == trade.Prone && (to == edge || !k.m.Prone()) {
		k.leg(string(from), string(trade.SideLying), anySurface, ground)
		from = trade.SideLying
	}
	k.leg(string(from), to, ground, ground)
}

func (k *walker) lie(from string, to trade.Position, ground string) {
	if k.m.Raised() && to == trade.Supine {
		k.leg(from, string(to), ground, ground)
		return
	}
	if to == trade.Prone && k.m.Prone() && from != edge {
		k.leg(from, string(to), ground, ground)
		return
	}
	k.leg(from, string(trade.SideLying), ground, ground)
	if to != trade.SideLying {
		k.leg(string(trade.SideLying), string(to), anySurface, ground)
	}
}

// up is coming up to standing from a place (to the chair, for who does not stand), down going down to it.
func (k *walker) up(p plan.Place, ground string) {
	stand := string(trade.Standing)
	switch {
	case p.Position == trade.Standing, ground == way.Upright && k.m.Lacks(way.Standing):
	case ground == way.Upright:
		k.leg(string(p.Position), stand, upSurface, ground)
	case ground == way.Floor && p.Position.Lies():
		k.rise(p.Position, pause, ground)
		k.sit(ground)
		k.leg(pause, string(k.m.Hub()), way.Floor, ground)
		k.leg(string(k.m.Hub()), stand, k.floor(), ground)
	case ground == way.Floor:
		k.leg(string(p.Position), stand, k.floor(), ground)
	case p.Position.Lies():
		k.rise(p.Position, edge, ground)
		k.sit(ground)
		k.leg(edge, stand, ground, ground)
	case ground == way.Bed:
		k.leg(string(p.Position), edge, ground, ground)
		k.leg(edge, stand, ground, ground)
	default:
		k.leg(string(p.Position), stand, ground, ground)
	}
}

func (k *walker) down(p plan.Place, ground string) {
	stand := string(trade.Standing)
	switch {
	case p.Position == trade.Standing, ground == way.Upright && k.m.Lacks(way.Standing):
	case ground == way.Upright:
		k.leg(stand, string(p.Position), upSurface, ground)
	case ground == way.Floor && p.Position.Lies():
		k.leg(stand, string(k.m.Hub()), k.floor(), ground)
		k.lie(string(k.m.Hub()), p.Position, ground)
	case ground == way.Floor:
		k.leg(stand, string(p.Position), k.floor(), ground)
	case p.Position.Lies():
		k.leg(stand, edge, ground, ground)
		k.lie(edge, p.Position, ground)
	case ground == way.Bed:
		k.leg(stand, edge, ground, ground)
		k.leg(edge, string(p.Position), ground, ground)
	default:
		k.leg(stand, string(p.Position), ground, ground)
	}
}

// floor is how the floor is reached: by a low seat where kneeling is out and nobody helps.
func (k *walker) floor() string {
	if !k.m.Help && k.m.Hub() == trade.LongSitting {
		return seatSurface
	}
	return way.Floor
}
