package figure

import (
	"math"
	"strings"
)

// p2 is a point of the picture, drawing units.
type p2 struct{ x, y float64 }

func (a p2) add(b p2, k float64) p2 { return p2{a.x + b.x*k, a.y + b.y*k} }
func (a p2) sub(b p2) p2            { return p2{a.x - b.x, a.y - b.y} }
func (a p2) dot(b p2) float64       { return a.x*b.x + a.y*b.y }
func (a p2) len() float64           { return math.Hypot(a.x, a.y) }

// shape is one part of a picture: outlines of a fixed number of points each, so that the
// same part of another moment has the same points and a film can move between them.
type shape struct {
	id    string
	fill  string
	width float64 // of an open line; 0 for a filled outline
	sharp bool    // straight from point to point, else smooth
	edge  bool    // a thin darker line round it, where a limb lies on another part
	fade  bool    // comes and goes: alpha counts
	alpha float64
	layer int // what touches the ground, the person and what is held, the line of the back
	depth float64
	subs  [][]p2
}

// Layers, painted in this order whatever their depth.
const (
	layerGround = iota
	layerBody
	layerLine
)

const (
	tension = 0.2  // of a smooth outline
	handle  = 0.36 // the most of a span that a tangent takes
)

// path is the outline as SVG path data, in tenths of a drawing unit rounded to whole ones and
// printed as units.
func (h *shape) path() string {
	var sb strings.Builder
	for _, q := range h.subs {
		outline(&sb, q, h.width > 0, h.sharp)
	}
	return sb.String()
}

// outline writes one outline: closed and smooth (Catmull-Rom as cubic curves), straight, or
// an open line.
func outline(sb *strings.Builder, q []p2, open, sharp bool) {
	n := len(q)
	if n == 0 {
		return
	}
	sb.WriteString("M" + pt(q[0].x, q[0].y))
	if open || sharp {
		for _, p := range q[1:] {
			sb.WriteString("L" + pt(p.x, p.y))
		}
		if !open {
			sb.WriteString("Z")
		}
		return
	}
	tangent := func(i int, span float64) p2 {
		v := q[(i+1)%n].sub(q[(i+n-1)%n])
		l := v.len()
		if l < 1e-6 {
			return p2{}
		}
		k := math.Min(tension, span*handle/l)
		return p2{v.x * k, v.y * k}
	}
	for i := range q {
		j := (i + 1) % n
		span := q[j].sub(q[i]).len()
		a, b := q[i].add(tangent(i, span), 1), q[j].add(tangent(j, span), -1)
		sb.WriteString("C" + pt(a.x, a.y) + " " + pt(b.x, b.y) + " " + pt(q[j].x, q[j].y))
	}
	sb.WriteString("Z")
}

// circleOf is a round outline of n points.
func circleOf(c p2, rx, ry float64, n int) []p2 {
	out := make([]p2, n)
	for i := range out {
		s, k := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		out[i] = p2{c.x + rx*k, c.y + ry*s}
	}
	return out
}

// support is the convex outline of points as n points: the farthest one in each of n
// directions. The number is fixed and the outline moves smoothly as the points do.
func support(p []p2, n int) []p2 {
	out := make([]p2, n)
	for i := range out {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		best := math.Inf(-1)
		for _, v := range p {
			if d := v.x*c + v.y*s; d > best {
				best, out[i] = d, v
			}
		}
	}
	return out
}

// nothing is an outline of n points that draws nothing.
func nothing(at p2, n int) []p2 {
	out := make([]p2, n)
	for i := range out {
		out[i] = at
	}
	return out
}

// ovalOf is the outline of a ball with three half axes, given as they lie on the picture.
func ovalOf(c, a, b, e p2, n int) []p2 {
	out := make([]p2, n)
	for i := range out {
		s, k := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		d := p2{k, s}
		x, y, z := a.dot(d), b.dot(d), e.dot(d)
		l := math.Sqrt(x*x + y*y + z*z)
		if l < 1e-6 {
			out[i] = c
			continue
		}
		out[i] = c.add(a, x/l).add(b, y/l).add(e, z/l)
	}
	return out
}
