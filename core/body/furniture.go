package body

import (
	"math"
	"strings"
)

// Block is a solid part of a piece of furniture, metres.
type Block struct {
	Kind           string // wood, sofa, counter or pillow
	X0, Y0, X1, Y1 float64
	Z0, Z1         float64
}

// Scene is the furniture of one exercise, placed once so that it stays put, and the
// extent of everything on the floor.
type Scene struct {
	Blocks []Block
	Mat    [4]float64 // x0, y0, x1, y1
}

// Furnish places the furniture an exercise's poses stand on or lean on.
func (b *Body) Furnish(poses []*Pose) Scene {
	var s Scene
	s.Mat = [4]float64{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	grow := func(x0, y0, x1, y1 float64) {
		s.Mat[0], s.Mat[1] = math.Min(s.Mat[0], x0), math.Min(s.Mat[1], y0)
		s.Mat[2], s.Mat[3] = math.Max(s.Mat[2], x1), math.Max(s.Mat[3], y1)
	}
	placed := map[string]bool{}
	for _, p := range poses {
		var f Frames
		b.Place(&p.State, &f)
		for _, v := range b.Outline(&f) {
			grow(v[0], v[1], v[0], v[1])
		}
		by := map[string][]Vec{}
		seat := false
		pts := b.ContactPoints(p, &f)
		for i, c := range p.Contacts {
			by[c.Surface] = append(by[c.Surface], pts[i])
			seat = seat || strings.HasPrefix(c.Sphere, "sit-bone") && c.Surface == "chair"
		}
		for _, surface := range sortedKeys(by) {
			if surface == "floor" || placed[surface] {
				continue
			}
			placed[surface] = true
			s.place(surface, seat, by[surface], by["floor"])
		}
	}
	for _, q := range s.Blocks {
		grow(q.X0, q.Y0, q.X1, q.Y1)
	}
	const border = 0.08
	s.Mat[0], s.Mat[1], s.Mat[2], s.Mat[3] = s.Mat[0]-border, s.Mat[1]-border, s.Mat[2]+border, s.Mat[3]+border
	return s
}

func (s *Scene) place(surface string, seat bool, pts, feet []Vec) {
	m := mean(pts)
	dir := m.Sub(mean(feet))
	h := Surfaces[surface]
	switch surface {
	case "pillow":
		s.Blocks = append(s.Blocks, Block{"pillow", m[0] - 0.13, m[1] - 0.17, m[0] + 0.13, m[1] + 0.17, 0, h})
	case "chair":
		if seat {
			s.chair(m[0]-0.14, m[1], 1)
		} else {
			s.chair(m[0]+0.34, m[1], -1)
		}
	case "sofa", "counter":
		const depth = 0.60
		half := map[string]float64{"sofa": 0.55, "counter": 0.45}[surface]
		q := Block{Kind: surface, Z1: h}
		if surface == "counter" {
			q.Z0 = 0.10 // room for the toes under a kitchen counter
		}
		reach := func(axis int) float64 { // how far the nearest contact lies inside the edge
			near := math.Inf(1)
			for _, p := range pts {
				near = math.Min(near, math.Abs(p[axis]-mean(feet)[axis]))
			}
			return near - 0.06
		}
		back := q
		switch {
		case math.Abs(dir[0]) > math.Abs(dir[1]):
			q.X0 = mean(feet)[0] + reach(0)
			q.X1, q.Y0, q.Y1 = q.X0+depth, m[1]-half, m[1]+half
			back = q
			back.X0 = q.X1 - 0.14
		case dir[1] > 0:
			q.Y0 = mean(feet)[1] + reach(1)
			q.Y1, q.X0, q.X1 = q.Y0+depth, m[0]-half, m[0]+half
			back = q
			back.Y0 = q.Y1 - 0.14
		default:
			q.Y1 = mean(feet)[1] - reach(1)
			q.Y0, q.X0, q.X1 = q.Y1-depth, m[0]-half, m[0]+half
			back = q
			back.Y1 = q.Y0 + 0.14
		}
		s.Blocks = append(s.Blocks, q)
		if surface == "sofa" {
			back.Z0, back.Z1 = h, h+0.32
			s.Blocks = append(s.Blocks, back)
		}
	}
}

// chair stands with the back of its seat at x; facing 1 looks forward, -1 at the person.
func (s *Scene) chair(x, y, facing float64) {
	add := func(a0, a1, b0, b1, z0, z1 float64) {
		x0, x1 := x+facing*a0, x+facing*a1
		s.Blocks = append(s.Blocks, Block{"wood", math.Min(x0, x1), y + b0, math.Max(x0, x1), y + b1, z0, z1})
	}
	for _, a := range []float64{0.0, 0.37} {
		for _, b := range []float64{0.17, -0.20} {
			add(a, a+0.03, b, b+0.03, 0, 0.41)
		}
	}
	add(-0.02, 0.40, -0.21, 0.21, 0.405, 0.44)
	for _, b := range []float64{0.17, -0.20} {
		add(-0.03, 0, b, b+0.03, 0.44, 0.86)
	}
	add(-0.03, -0.01, -0.2, 0.2, 0.66, 0.84)
}

func mean(p []Vec) Vec {
	var m Vec
	for _, v := range p {
		m = m.Add(v.Scale(1 / float64(len(p))))
	}
	return m
}

// Collisions lists skin that is inside the furniture by more than the tolerance.
func (s *Solver) Collisions(p *Pose, scene Scene, slack float64) []string {
	var f Frames
	s.Body.Place(&p.State, &f)
	worst := map[string]float64{}
	for i := range s.Body.spheres {
		sp := &s.Body.spheres[i]
		if p.folded(sp.name) {
			continue
		}
		c := f.P[sp.seg].Add(f.R[sp.seg].Mul(sp.at))
		for _, q := range scene.Blocks {
			if q.Kind == "pillow" { // soft
				continue
			}
			dx, dy, dz := c[0]-clamp(c[0], q.X0, q.X1), c[1]-clamp(c[1], q.Y0, q.Y1), c[2]-clamp(c[2], q.Z0, q.Z1)
			depth := sp.r - math.Sqrt(dx*dx+dy*dy+dz*dz)
			if depth > maxPenetration*slack+0.015 { // flesh and clothes give a little at an edge
				worst[sp.name+" is inside the "+q.Kind] = math.Max(depth, worst[sp.name+" is inside the "+q.Kind])
			}
		}
	}
	return sortedKeys(worst)
}
