package figure

import (
	"fmt"
	"math"
	"reflect"
	"slices"
	"sort"
	"strings"

	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/trade"
)

// corners of the furniture; the mat is clipped to the frame.
func corners(s furniture.Scene) []body.Vec {
	var out []body.Vec
	for _, q := range s.Blocks {
		for _, z := range []float64{q.Z0, q.Z1} {
			out = append(out, body.Vec{q.X0, q.Y0, z}, body.Vec{q.X1, q.Y0, z}, body.Vec{q.X0, q.Y1, z}, body.Vec{q.X1, q.Y1, z})
		}
	}
	return out
}

var fills = map[string]string{"wood": "#c9ad86", "arm": "#c9ad86", "sofa": "#a9b4b0", "counter": "#cfc7ba",
	"pillow": "#efe6d6", "towel": "#e6dcc8", "bed": "#dcd5c8",
	"table": "#c9ad86", "bolster": "#b7a2b0", "pad": "#b7a2b0", "block": "#c7b79a", "box": "#c7b79a", "ball": "#9db8b4", "wall": "#ece5d8", "footplate": "#8d8a84", "cushion": "#b7a2b0", "cushions": "#b7a2b0", "wedge": "#c5b3be", "carriage": "#cdbfa9", "floor cushion": "#d9c9d2"}

// onFeet tells that nobody lies or kneels on the floor in any pose.
func onFeet(poses []*pose.Pose) bool {
	for _, p := range poses {
		for _, c := range p.Contacts {
			if body.Surfaces[c.Surface].Kind != "floor" {
				continue
			}
			switch base, _, _ := strings.Cut(c.Sphere, "."); base {
			case "heel", "ball", "toe":
			default:
				return false
			}
		}
	}
	return true
}

// floor draws what everything stands on: the rails of a carriage, else the mat, bed or floor.
func (s *scene) floor(room furniture.Scene) string {
	if c := s.opt.carriage; c != nil && s.opt.Surface == springs {
		return drawBox(s.cam, c.rails)
	}
	return ground(room, s.cam, s.opt.Surface, s.opt.floor)
}

// ground draws the mat, or the top of a bed, in perspective; under who only stands or sits
// a patch of floor.
func ground(s furniture.Scene, cam camera, surface trade.Surface, floor bool) string {
	if floor && surface != trade.Bed {
		m := s.Mat
		mid := body.Vec{(m[0] + m[2]) / 2, (m[1] + m[3]) / 2, 0}
		at := func(v body.Vec) p2 { x, y, _ := cam.see(v); return p2{x, y} }
		c := at(mid)
		rx, ry := at(body.Vec{m[2], mid[1], 0}).sub(c), at(body.Vec{mid[0], m[3], 0}).sub(c)
		var sb strings.Builder
		outline(&sb, ovalOf(c, rx, ry, p2{}, 16), false, false)
		return fmt.Sprintf(`<path d="%s" fill="#ece6da"/>`, sb.String())
	}
	m := s.Mat
	quad := func(z float64) string {
		var d strings.Builder
		for i, v := range []body.Vec{{m[0], m[1], z}, {m[2], m[1], z}, {m[2], m[3], z}, {m[0], m[3], z}} {
			x, y, _ := cam.see(v)
			d.WriteString([2]string{"L", "M"}[b2i(i == 0)] + pt(x, y))
		}
		return d.String() + "Z"
	}
	if surface == trade.Bed {
		return drawBox(cam, furniture.Block{Kind: "bed", X0: m[0], Y0: m[1], X1: m[2], Y1: m[3], Z0: -0.14})
	}
	return fmt.Sprintf(`<path d="%s" fill="#d9d2c4"/><path d="%s" fill="#e6e0d3"/>`, quad(-0.012), quad(0))
}

// blocksOf draws the blocks, far ones first.
func blocksOf(s furniture.Scene, cam camera) string {
	order := append([]furniture.Block{}, s.Blocks...)
	depth := func(q furniture.Block) float64 {
		_, _, d := cam.see(body.Vec{(q.X0 + q.X1) / 2, (q.Y0 + q.Y1) / 2, (q.Z0 + q.Z1) / 2})
		return d
	}
	sort.SliceStable(order, func(i, j int) bool { return depth(order[i]) > depth(order[j]) })
	var sb strings.Builder
	for _, q := range order {
		sb.WriteString(drawBox(cam, q))
	}
	return sb.String()
}

// face is one side of a box.
type face struct {
	fill string
	p    []p2
}

// faces are the three sides of a box that a camera above and to one side can see.
func (c camera) faces(q furniture.Block) []face {
	fill := fills[q.Kind]
	dark, mid := mix(fill, "#40362c", 0.22), mix(fill, "#40362c", 0.10)
	ySide, xSide := q.Y0, q.X0
	if c.ct < 0 {
		ySide = q.Y1
	}
	if c.st > 0 {
		xSide = q.X1
	}
	if c.flip {
		ySide = q.Y0 + q.Y1 - ySide
	}
	side := func(fill string, v ...body.Vec) face {
		f := face{fill: fill}
		for _, p := range v {
			x, y, _ := c.see(p)
			f.p = append(f.p, p2{x, y})
		}
		return f
	}
	return []face{
		side(mid, body.Vec{q.X0, ySide, q.Z0}, body.Vec{q.X1, ySide, q.Z0}, body.Vec{q.X1, ySide, q.Z1},
			body.Vec{q.X0, ySide, q.Z1}),
		side(dark, body.Vec{xSide, q.Y0, q.Z0}, body.Vec{xSide, q.Y1, q.Z0}, body.Vec{xSide, q.Y1, q.Z1},
			body.Vec{xSide, q.Y0, q.Z1}),
		side(fill, body.Vec{q.X0, q.Y0, q.Z1}, body.Vec{q.X1, q.Y0, q.Z1}, body.Vec{q.X1, q.Y1, q.Z1},
			body.Vec{q.X0, q.Y1, q.Z1}),
	}
}

// drawBox draws a piece of furniture.
func drawBox(cam camera, q furniture.Block) string {
	fill := fills[q.Kind]
	var sb strings.Builder
	if p, ok := round(cam, q); ok {
		outline(&sb, support(p, 24), false, true)
		return fmt.Sprintf(`<path d="%s" fill="%s" stroke="%s"/>`, sb.String(), fill, mix(fill, "#40362c", 0.25))
	}
	for _, f := range cam.faces(q) {
		var d strings.Builder
		outline(&d, f.p, false, true)
		fmt.Fprintf(&sb, `<path d="%s" fill="%s"/>`, d.String(), f.fill)
	}
	return sb.String()
}

// round is the outline of furniture that is not a box: a rolled bolster, a domed pad, a
// ball.
func round(cam camera, q furniture.Block) ([]p2, bool) {
	x, h := (q.X0+q.X1)/2, q.Z1-q.Z0
	switch q.Kind {
	case "pillow", "towel", "floor cushion":
		// The ends are round, like those of a filled or folded cloth.
		var pts []p2
		for k := 0; k < 16; k++ {
			s, c := math.Sincos(float64(k) * math.Pi / 8)
			for _, y := range []float64{q.Y0, q.Y1} {
				end := math.Copysign((q.X1-q.X0)/2-h/2, c)
				px0, py0, _ := cam.see(body.Vec{x + end + c*h/2, y - math.Copysign(h/2, y-(q.Y0+q.Y1)/2)*(1-math.Abs(s)),
					q.Z0 + h/2 + s*h/2})
				pts = append(pts, p2{px0, py0})
			}
		}
		return pts, true
	case "ball":
		// A soft ball gives way under what lies on it: flat at the top.
		const give = 0.05
		r := (h + give) / 2
		cx, cy, _ := cam.see(body.Vec{x, (q.Y0 + q.Y1) / 2, q.Z0 + r})
		_, top, _ := cam.see(body.Vec{x, (q.Y0 + q.Y1) / 2, q.Z1})
		top -= math.Sqrt(r*r-(h-r)*(h-r)) * math.Abs(cam.sr) * px // the far edge of the flat top
		var pts []p2
		for k := range 40 {
			sn, cs := math.Sincos(float64(k) * math.Pi / 20)
			pts = append(pts, p2{cx + r*px*cs, math.Max(cy-r*px*sn, top)})
		}
		return pts, true
	case "pad", "bolster":
		var pts []p2
		for k := 0; k <= 12; k++ {
			s, c := math.Sincos(float64(k) * math.Pi / 12)
			for _, y := range []float64{q.Y0, q.Y1} {
				px0, py0, _ := cam.see(body.Vec{x + c*(q.X1-q.X0)/2, y, q.Z0 + s*h})
				pts = append(pts, p2{px0, py0})
			}
		}
		return pts, true
	}
	return nil, false
}

// near adds furniture that lies before the person: the near end of a bolster, of which the
// whole is drawn before anyone lies on it, and armrests, each at its own depth.
func (s *scene) near(room furniture.Scene) {
	for i, q := range room.Blocks {
		id := "near" + itoa(i)
		switch q.Kind {
		case "bolster":
			d0, d1 := s.depth(body.Vec{(q.X0 + q.X1) / 2, q.Y0, q.Z1}), s.depth(body.Vec{(q.X0 + q.X1) / 2, q.Y1, q.Z1})
			if d0 < d1 {
				q.Y1 = q.Y0 + (q.Y1-q.Y0)*0.27
			} else {
				q.Y0 = q.Y1 - (q.Y1-q.Y0)*0.27
			}
			p, _ := round(s.cam, q)
			s.add(shape{id: id, fill: fills[q.Kind], edge: true, sharp: true, layer: layerBody, depth: math.Min(d0, d1),
				subs: [][]p2{support(p, 20)}})
		case "arm":
			mid := s.depth(body.Vec{(q.X0 + q.X1) / 2, (q.Y0 + q.Y1) / 2, q.Z1})
			for k, face := range s.cam.faces(q) {
				s.add(shape{id: id + string('a'+rune(k)), fill: face.fill, sharp: true, layer: layerBody,
					depth: mid + 0.25 - 0.0001*float64(k), subs: [][]p2{face.p}})
			}
		}
	}
}

// holding is a thing held or attached at some time of an exercise.
type holding struct {
	body.Prop
	always bool
}

// holdings are all things held in any of the poses.
func holdings(poses []*pose.Pose) (out []holding) {
	for _, p := range poses {
		for _, h := range p.Props {
			if !slices.ContainsFunc(out, func(o holding) bool { return reflect.DeepEqual(o.Prop, h) }) {
				out = append(out, holding{h, !slices.ContainsFunc(poses, func(q *pose.Pose) bool { return !holds(q, h) })})
			}
		}
	}
	return out
}

func holds(p *pose.Pose, h body.Prop) bool {
	return slices.ContainsFunc(p.Props, func(o body.Prop) bool { return reflect.DeepEqual(o, h) })
}

// props adds what the person holds or is attached to; what is let go in another phase fades.
func (s *scene) props() {
	for i, h := range s.opt.held {
		first := len(s.shapes)
		s.prop(i, &h.Prop)
		if h.always {
			continue
		}
		for k := range s.shapes[first:] {
			s.shapes[first+k].fade, s.shapes[first+k].alpha = true, float64(b2i(holds(s.p, h.Prop)))
		}
	}
}

// prop adds one thing.
func (s *scene) prop(i int, h *body.Prop) {
	name := "held" + itoa(i) + h.Kind
	ends := h.Ends(s.b, &s.f)
	var mid body.Vec
	for _, e := range ends {
		mid = mid.Add(e.Scale(1 / float64(len(ends))))
	}
	line := func(id, color string, width, lift float64, at ...body.Vec) {
		var q []p2
		deep := 0.0
		for _, v := range at {
			p, d := s.at2(v)
			q, deep = append(q, p), deep+d/float64(len(at))
		}
		s.add(shape{id: name + id, fill: color, width: width, layer: layerBody, depth: deep - lift, subs: [][]p2{q}})
	}
	disc := func(id string, at body.Vec, r float64, fill string, lift float64) {
		p, d := s.at2(at)
		s.add(shape{id: name + id, fill: fill, edge: true, layer: layerBody, depth: d - lift,
			subs: [][]p2{circleOf(p, r*px, r*px, 12)}})
	}
	switch h.Kind {
	case "dowel":
		a, c := dowel(s.b, &s.f, ends)
		const n = 6
		for k := range n {
			line(itoa(k), "#8a6a3f", 5, 0.03, a.Lerp(c, float64(k)/n), a.Lerp(c, float64(k+1)/n))
		}
	case "ball":
		disc("", mid, ballRadius, "#9db8b4", 0.06)
	case "ring":
		s.ring(name, h.At, ends[0], ends[1])
	case "towel":
		disc("", mid, 0.035, "#efe6d6", 0.06)
	case "cushion":
		if len(ends) == 1 { // it lies on the floor: furniture
			break
		}
		disc("", mid, 0.075, "#d9c9d2", 0.06)
	case "dumbbell":
		across := s.across(h.At[0][strings.IndexByte(h.At[0], '.'):]).Scale(0.11)
		line("handle", "#4a4a4a", 5, 0.03, mid.Sub(across), mid.Add(across))
		disc("a", mid.Sub(across), 0.045, "#4a4a4a", 0.035)
		disc("b", mid.Add(across), 0.045, "#4a4a4a", 0.035)
	case "band", "strap":
		color, width := "#b5533c", 3.0
		if h.Kind == "strap" {
			color, width = "#3f3a36", 4
		}
		line("", color, width, 0.03, ends[0], ends[1])
		if h.Anchor != "" { // a hook on the edge of a door
			foot, top := ends[1], doorTop(ends[1])
			foot[2] = 0
			line("door", "#cdbfa9", 9, -0.02, foot, top)
			disc("hook", ends[1], 0.025, "#6d655b", 0.04)
		}
	}
}

// Sizes of what is held (product default, m).
const (
	ballRadius = 0.10
	ringRadius = 0.18
)

// dowel is where a stick begins and ends: along the back, or through both hands.
func dowel(b *body.Body, f *body.Frames, ends []body.Vec) (from, to body.Vec) {
	if len(ends) == 2 {
		out := ends[1].Sub(ends[0]).Unit().Scale(0.22)
		return ends[0].Sub(out), ends[1].Add(out)
	}
	return b.TrunkPoint(f, body.SegPelvis, body.Vec{-0.125, 0, -0.10}),
		b.TrunkPoint(f, body.SegHead, body.Vec{-0.125, 0, 0.90})
}

// doorTop is how far the edge of a door is drawn above its hook.
func doorTop(hook body.Vec) body.Vec { return hook.Add(body.Vec{0, 0, 0.12}) }

// across is the way a handle lies in a hand: square to the palm and to the fingers.
func (s *scene) across(side string) body.Vec {
	wrist := s.point("wrist" + side)
	along := s.point("fingertip" + side).Sub(wrist).Unit()
	palm := s.point("palm" + side).Sub(wrist)
	return along.Cross(palm.Sub(along.Scale(palm.Dot(along)))).Unit()
}

// ring draws a springy ring between two places: a circle in space that flattens between
// them, square to the fingers that press it; in eight arcs, each at its own depth.
func (s *scene) ring(name string, at []string, a, c body.Vec) {
	u := c.Sub(a)
	half := u.Len() / 2
	u = u.Unit()
	v := body.Vec{1, 0, 0} // between the ankles it lies level
	if base, side, _ := strings.Cut(at[0], "."); base == "palm" {
		v = s.across("." + side)
	}
	v = v.Sub(u.Scale(u.Dot(v))).Unit()
	// What is pressed in goes out to the sides.
	wide := math.Sqrt(math.Max(2*ringRadius*ringRadius-half*half, half*half/4))
	mid := a.Lerp(c, 0.5)
	const arcs, each = 8, 4
	for i := range arcs {
		var q []p2
		deep := 0.0
		for k := range each + 1 {
			sn, cs := math.Sincos(2 * math.Pi * float64(i*each+k) / (arcs * each))
			p, d := s.at2(mid.Add(u.Scale(half * cs)).Add(v.Scale(wide * sn)))
			q, deep = append(q, p), deep+d/(each+1)
		}
		s.add(shape{id: name + itoa(i), fill: "#6b5b73", width: 5, layer: layerBody, depth: deep - 0.03, subs: [][]p2{q}})
	}
}
