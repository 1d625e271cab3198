package body

import "math"

// Surface is something a body stands on or leans on: a plane with the body on its free
// side. N points from the surface to the body, D is its distance along N (m).
type Surface struct {
	N    Vec
	D    float64
	Soft bool // a pillow, bolster or pad: the body may sink into it
	Kind string
}

// Level is a surface that lies level at a height (m).
func Level(height float64, kind string, soft bool) Surface {
	return Surface{Vec{0, 0, 1}, height, soft, kind}
}

// Surfaces by the name an author uses. The floor is also the mat and the top of a firm
// bed; chair and sofa 44 cm, a raised seat 54, a counter 90 (shared catalogue brief).
// Table, bolster, pads, block, footplate and walls: product defaults. A body slides to a wall, so
// where the wall's plane stands in space does not matter.
var Surfaces = map[string]Surface{
	"floor":        Level(0, "floor", false),
	"pillow":       Level(0.085, "pillow", true),
	"towel":        Level(0.04, "towel", true), // folded
	"chair":        Level(0.44, "chair", false),
	"seat-edge":    Level(0.44, "chair", false), // the front half of the seat, away from its back
	"chair-side":   Level(0.44, "chair", false), // turned sideways, its back to the client's left
	"high-seat":    Level(0.54, "chair", false),
	"tall-seat":    Level(0.55, "chair", false),    // of an armchair, or raised by two cushions
	"towel-roll":   Level(0.025, "rolled", true),   // under the heel of the hand
	"forearm-rest": Level(0.20, "cushions", false), // under the forearms on hands and knees
	"belly-pillow": Level(0.012, "pillow", true),
	"wedge":        {Vec{0.5, 0, 0.866}, 0.05, true, "wedge"}, // cushions that raise the back by 30 degrees
	"armrest":      Level(0.74, "armrest", false),
	"firm-cushion": Level(0.34, "cushions", false), // cushions stacked firmly under the calves, on a bed
	"high-cushion": Level(0.14, "cushions", false), // firm cushions to sit on, on the floor
	"sofa":         Level(0.44, "sofa", false),
	"table":        Level(0.74, "table", false),
	"counter":      Level(0.90, "counter", false),
	"headrest":     Level(0.13, "pillow", true),
	"bolster":      Level(0.11, "bolster", true),
	"box":          Level(0.30, "box", false), // to sit on, on the carriage
	"block":        Level(0.10, "block", false),
	"pad-1":        Level(0.05, "pad", true),
	"pad-2":        Level(0.08, "pad", true),
	"pad-3":        Level(0.11, "pad", true),
	"pad-4":        Level(0.14, "pad", true),
	"knee-pad":     Level(0.04, "pad", true),
	"ball-top":     Level(0.55, "ball", true),

	"wall":       {Vec{-1, 0, 0}, -0.5, false, "wall"},
	"wall-back":  {Vec{1, 0, 0}, -0.14, false, "wall"},
	"wall-left":  {Vec{0, -1, 0}, -0.5, false, "wall"},
	"wall-right": {Vec{0, 1, 0}, -0.5, false, "wall"},
	"footplate":  {Vec{-1, 0, 0}, -0.7, false, "footplate"},
	"chair-back": {Vec{1, 0, 0}, -0.16, false, "chair-back"},
}

// Upright tells whether a surface pushes sideways rather than up.
func (s Surface) Upright() bool { return s.N[2] < 0.5 }

// Gap is how far the skin of a sphere is from the surface, metres.
func (s Surface) Gap(center Vec, r float64) float64 { return s.N.Dot(center) - r - s.D }

// Tangents are two directions along the surface.
func (s Surface) Tangents() (Vec, Vec) {
	if s.Upright() {
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

// ReferenceMass turns newtons and kilograms into shares of body weight (product default
// between the two reference bodies, kg).
const ReferenceMass = 65

// Anchors are the directions a band or strap is fixed in.
var Anchors = map[string]Vec{"front": {1, 0, 0}, "behind": {-1, 0, 0}, "left": {0, 1, 0}, "right": {0, -1, 0}}

// anchorPoint is where a band or strap is fixed.
func (p *Prop) anchorPoint(root Vec) Vec {
	a := Anchors[p.Anchor].Scale(anchorDistance)
	return Vec{root[0] + a[0], root[1] + a[1], p.Height}
}

// Ends are the two ends of a band or strap, or the places of a held thing.
func (p *Prop) Ends(b *Body, f *Frames) []Vec {
	var out []Vec
	for _, n := range p.At {
		out = append(out, b.Point(f, n))
	}
	if p.Anchor != "" {
		out = append(out, p.anchorPoint(f.P[SegPelvis]))
	}
	return out
}

// Mirror exchanges left and right.
func (p Prop) Mirror() Prop {
	m := p
	m.At = MirrorNames(p.At)
	switch p.Anchor {
	case "left":
		m.Anchor = "right"
	case "right":
		m.Anchor = "left"
	}
	return m
}

// Pull is an outside force on a segment, in body weights.
type Pull struct {
	Seg   int
	At    Vec
	Force Vec
}

// Pulls are the weights and bands of a pose.
func (b *Body) Pulls(held []Prop, f *Frames) []Pull {
	var out []Pull
	for i := range held {
		h := &held[i]
		switch {
		case h.Kg > 0:
			seg, _ := b.FixedAt(h.At[0])
			out = append(out, Pull{seg, b.Point(f, h.At[0]), Vec{0, 0, -h.Kg / ReferenceMass}})
		case h.Newtons > 0:
			ends := h.Ends(b, f)
			dir := ends[1].Sub(ends[0]).Unit().Scale(h.Newtons / (ReferenceMass * Gravity))
			seg, _ := b.FixedAt(h.At[0])
			out = append(out, Pull{seg, ends[0], dir})
			if len(h.At) == 2 {
				seg, _ := b.FixedAt(h.At[1])
				out = append(out, Pull{seg, ends[1], dir.Scale(-1)})
			}
		}
	}
	return out
}

// EffectiveCentre is where the weight of the body and all outside forces press on the
// ground; without outside forces it is under the centre of mass.
func EffectiveCentre(com Vec, pulls []Pull) Vec {
	force, m := Vec{0, 0, -1}, com.Cross(Vec{0, 0, -1})
	for _, p := range pulls {
		force, m = force.Add(p.Force), m.Add(p.At.Cross(p.Force))
	}
	if math.Abs(force[2]) < 0.1 {
		return com
	}
	return Vec{-m[1] / force[2], m[0] / force[2], 0}
}
