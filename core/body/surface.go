package body

import (
	"fmt"
	"math"
	"strings"
)

// Surface is something a body stands on or leans on: a plane with the body on its free
// side. N points from the surface to the body, D is its distance along N (m).
type Surface struct {
	N    Vec
	D    float64
	Soft bool // a pillow, bolster or pad: the body may sink into it
	Kind string
}

func level(height float64, kind string, soft bool) Surface {
	return Surface{Vec{0, 0, 1}, height, soft, kind}
}

// Surfaces by the name an author uses. The floor is also the mat and the top of a firm
// bed; chair and sofa 44 cm, a raised seat 54, a counter 90 (shared catalogue brief).
// Table, bolster, pads, block, footplate and walls: product defaults. A body slides to a wall, so
// where the wall's plane stands in space does not matter.
var Surfaces = map[string]Surface{
	"floor":        level(0, "floor", false),
	"pillow":       level(0.085, "pillow", true),
	"towel":        level(0.04, "towel", true), // folded
	"chair":        level(0.44, "chair", false),
	"seat-edge":    level(0.44, "chair", false), // the front half of the seat, away from its back
	"chair-side":   level(0.44, "chair", false), // turned sideways, its back to the client's left
	"high-seat":    level(0.54, "chair", false),
	"tall-seat":    level(0.55, "chair", false),    // of an armchair, or raised by two cushions
	"towel-roll":   level(0.025, "rolled", true),   // under the heel of the hand
	"forearm-rest": level(0.20, "cushions", false), // under the forearms on hands and knees
	"belly-pillow": level(0.012, "pillow", true),
	"wedge":        {Vec{0.5, 0, 0.866}, 0.05, true, "wedge"}, // cushions that raise the back by 30 degrees
	"armrest":      level(0.74, "armrest", false),
	"firm-cushion": level(0.34, "cushions", false), // cushions stacked firmly under the calves, on a bed
	"high-cushion": level(0.14, "cushions", false), // firm cushions to sit on, on the floor
	"sofa":         level(0.44, "sofa", false),
	"table":        level(0.74, "table", false),
	"counter":      level(0.90, "counter", false),
	"headrest":     level(0.13, "pillow", true),
	"bolster":      level(0.11, "bolster", true),
	"box":          level(0.30, "box", false), // to sit on, on the carriage
	"block":        level(0.10, "block", false),
	"pad-1":        level(0.05, "pad", true),
	"pad-2":        level(0.08, "pad", true),
	"pad-3":        level(0.11, "pad", true),
	"pad-4":        level(0.14, "pad", true),
	"knee-pad":     level(0.04, "pad", true),
	"ball-top":     level(0.55, "ball", true),

	"wall":       {Vec{-1, 0, 0}, -0.5, false, "wall"},
	"wall-back":  {Vec{1, 0, 0}, -0.14, false, "wall"},
	"wall-left":  {Vec{0, -1, 0}, -0.5, false, "wall"},
	"wall-right": {Vec{0, 1, 0}, -0.5, false, "wall"},
	"footplate":  {Vec{-1, 0, 0}, -0.7, false, "footplate"},
	"chair-back": {Vec{1, 0, 0}, -0.16, false, "chair-back"},
}

// upright tells whether a surface pushes sideways rather than up.
func (s Surface) upright() bool { return s.N[2] < 0.5 }

// gap is how far the skin of a sphere is from the surface, metres.
func (s Surface) gap(center Vec, r float64) float64 { return s.N.Dot(center) - r - s.D }

// tangents are two directions along the surface.
func (s Surface) tangents() (Vec, Vec) {
	if s.upright() {
		return s.N.Cross(Vec{0, 0, 1}), Vec{0, 0, 1}
	}
	return Vec{1, 0, 0}, Vec{0, 1, 0}
}

// Prop is a thing held or attached. A band pulls with a known force, a strap holds like
// a support along its line, a dumbbell weighs; the others are only drawn.
type Prop struct {
	Kind    string   `json:"kind"`
	At      []string `json:"at,omitempty"`      // one or two landmarks
	Anchor  string   `json:"anchor,omitempty"`  // front, behind, left or right
	Height  float64  `json:"height,omitempty"`  // of the anchor, m
	Newtons float64  `json:"newtons,omitempty"` // pull of a band
	Kg      float64  `json:"kg,omitempty"`      // of a weight
}

// anchorDistance is how far from the pelvis a band or strap is fixed, metres (product
// default).
const anchorDistance = 0.95

// referenceMass turns newtons and kilograms into shares of body weight (product default
// between the two reference bodies, kg).
const referenceMass = 65

var anchors = map[string]Vec{"front": {1, 0, 0}, "behind": {-1, 0, 0}, "left": {0, 1, 0}, "right": {0, -1, 0}}

// anchorPoint is where a band or strap is fixed.
func (p *Prop) anchorPoint(root Vec) Vec {
	a := anchors[p.Anchor].Scale(anchorDistance)
	return Vec{root[0] + a[0], root[1] + a[1], p.Height}
}

// Ends are the two ends of a band or strap, or the places of a held thing.
func (p *Prop) Ends(b *Body, f *Frames) []Vec {
	var out []Vec
	for _, n := range p.At {
		out = append(out, b.Point(f, n))
	}
	if p.Anchor != "" {
		out = append(out, p.anchorPoint(f.P[segPelvis]))
	}
	return out
}

// props and what each statement needs: points, then anchor, height and force.
var props = map[string]struct {
	points []int // allowed numbers of points
	force  string
}{
	"dowel":    {[]int{0, 2}, ""},
	"ball":     {[]int{1, 2}, ""},
	"ring":     {[]int{2}, ""},
	"towel":    {[]int{1}, ""},
	"cushion":  {[]int{1, 2}, ""},
	"dumbbell": {[]int{1}, "kg"},
	"band":     {[]int{1, 2}, "newtons"},
	"spring":   {[]int{1}, "newtons"}, // of a carriage: it pulls but is not drawn
	"strap":    {[]int{1}, "anchor"},
}

// parseProp reads: hold KIND points... [anchor heightCm] [force].
func parseProp(args []string) (Prop, error) {
	k, ok := props[args[0]]
	if !ok {
		return Prop{}, fmt.Errorf("unknown thing to hold %q; known: %s", args[0], strings.Join(sortedKeys(props), ", "))
	}
	p := Prop{Kind: args[0]}
	rest := args[1:]
	for len(rest) > 0 && isPoint(rest[0]) {
		p.At, rest = append(p.At, rest[0]), rest[1:]
	}
	if len(rest) > 1 && anchors[rest[0]] != (Vec{}) {
		h, err := number(rest[1])
		if err != nil {
			return p, err
		}
		p.Anchor, p.Height, rest = rest[0], h/100, rest[2:]
	}
	force := 0.0
	if len(rest) == 1 {
		v, err := number(rest[0])
		if err != nil {
			return p, err
		}
		force, rest = v, nil
	}
	wrong := len(rest) > 0
	switch k.force {
	case "kg":
		p.Kg, wrong = force, wrong || force <= 0 || p.Anchor != ""
	case "newtons":
		p.Newtons, wrong = force, wrong || force <= 0 || (p.Anchor == "") != (len(p.At) == 2)
	case "anchor":
		wrong = wrong || p.Anchor == "" || force != 0
	default:
		wrong = wrong || p.Anchor != "" || force != 0
	}
	count := false
	for _, n := range k.points {
		count = count || n == len(p.At)
	}
	if wrong || !count {
		return p, fmt.Errorf("hold %s cannot be read; a band reads: hold band palm.right front 100 20, a weight: hold dumbbell palm.right 2", p.Kind)
	}
	return p, nil
}

func (p Prop) mirror() Prop {
	m := p
	m.At = mirrorNames(p.At)
	switch p.Anchor {
	case "left":
		m.Anchor = "right"
	case "right":
		m.Anchor = "left"
	}
	return m
}

// pull is an outside force on a segment, in body weights.
type pull struct {
	seg   int
	at    Vec
	force Vec
}

// pulls are the weights and bands of a pose.
func (b *Body) pulls(p *Pose, f *Frames) []pull {
	var out []pull
	for i := range p.Props {
		h := &p.Props[i]
		switch {
		case h.Kg > 0:
			seg, _ := b.point(h.At[0])
			out = append(out, pull{seg, b.Point(f, h.At[0]), Vec{0, 0, -h.Kg / referenceMass}})
		case h.Newtons > 0:
			ends := h.Ends(b, f)
			dir := ends[1].Sub(ends[0]).Unit().Scale(h.Newtons / (referenceMass * Gravity))
			seg, _ := b.point(h.At[0])
			out = append(out, pull{seg, ends[0], dir})
			if len(h.At) == 2 {
				seg, _ := b.point(h.At[1])
				out = append(out, pull{seg, ends[1], dir.Scale(-1)})
			}
		}
	}
	return out
}

// effectiveCentre is where the weight of the body and all outside forces press on the
// ground; without outside forces it is under the centre of mass.
func effectiveCentre(com Vec, pulls []pull) Vec {
	force, m := Vec{0, 0, -1}, com.Cross(Vec{0, 0, -1})
	for _, p := range pulls {
		force, m = force.Add(p.force), m.Add(p.at.Cross(p.force))
	}
	if math.Abs(force[2]) < 0.1 {
		return com
	}
	return Vec{-m[1] / force[2], m[0] / force[2], 0}
}
