// Package furniture puts chairs, beds, walls and counters where the poses of an exercise need them.
package furniture

import (
	"maps"
	"math"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/pose"
)

// Block is a solid part of a piece of furniture, metres.
type Block struct {
	Kind           string // wood, or the kind of a surface
	X0, Y0, X1, Y1 float64
	Z0, Z1         float64
}

// Scene is the furniture of one exercise, placed once so that it stays put, and the
// extent of everything on the floor.
type Scene struct {
	Blocks []Block
	Mat    [4]float64 // x0, y0, x1, y1
}

// Place puts the furniture an exercise's poses stand on or lean on.
func Place(b *body.Body, poses []*pose.Pose) Scene {
	var s Scene
	s.Mat = [4]float64{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	grow := func(x0, y0, x1, y1 float64) {
		s.Mat[0], s.Mat[1] = math.Min(s.Mat[0], x0), math.Min(s.Mat[1], y0)
		s.Mat[2], s.Mat[3] = math.Max(s.Mat[2], x1), math.Max(s.Mat[3], y1)
	}
	placed := map[string]bool{}
	legs, highBack := false, false
	for _, p := range poses {
		var f body.Frames
		b.Place(&p.State, &f)
		for _, v := range b.Outline(&f) {
			grow(v[0], v[1], v[0], v[1])
		}
		by := map[string][]body.Vec{}
		seat := false
		pts := p.ContactPoints(b, &f)
		for i, c := range p.Contacts {
			by[c.Surface] = append(by[c.Surface], pts[i])
			highBack = highBack || c.Surface == "chair-back"
			legs = legs || body.Surfaces[c.Surface].Kind == "chair" && strings.HasPrefix(pose.LimbOfSphere(c.Sphere), "leg")
			seat = seat || strings.HasPrefix(c.Sphere, "sit-bone") && body.Surfaces[c.Surface].Kind == "chair"
		}
		for _, surface := range slices.Sorted(maps.Keys(by)) {
			if surface == "floor" || surface == "chair-back" || placed[surface] {
				continue
			}
			placed[surface] = true
			use := reachedFor
			switch {
			case seat && highBack:
				use = leanedOn
			case seat:
				use = satOn
			case legs, surface == "chair-side":
				use = lainOn
			}
			s.place(surface, use, by[surface], f.P[body.SegPelvis])
		}
		for i := range p.Props {
			if h := &p.Props[i]; h.Kind == "cushion" && len(h.At) == 1 && !placed["cushion "+h.At[0]] {
				placed["cushion "+h.At[0]] = true
				s.underneath(h.Ends(b, &f)[0])
			}
		}
	}
	for _, q := range s.Blocks {
		grow(q.X0, q.Y0, q.X1, q.Y1)
	}
	const border = 0.08
	s.Mat[0], s.Mat[1], s.Mat[2], s.Mat[3] = s.Mat[0]-border, s.Mat[1]-border, s.Mat[2]+border, s.Mat[3]+border
	return s
}

const floorCushion = "floor cushion"

// underneath places a cushion on the floor that reaches up to what rests on it.
func (s *Scene) underneath(at body.Vec) {
	const half = 0.12 // product default
	s.Blocks = append(
		s.Blocks,
		Block{
			Kind: floorCushion,
			X0:   at[0] - half,
			X1:   at[0] + half,
			Y0:   at[1] - half,
			Y1:   at[1] + half,
			Z1:   math.Max(0.06, at[2]-0.05),
		},
	)
}

// How a chair is used: hands reach for its seat, someone sits on it, or lower legs lie
// across it or hands reach over it, with its back out of the way.
const (
	reachedFor = iota
	satOn
	leanedOn // sat on with the back against its high back
	lainOn
)

// halves are the half depth and half width of things that lie under what touches them, metres (product
// defaults).
var halves = map[string][2]float64{
	"pillow": {0.13, 0.17}, "towel": {0.09, 0.12}, "bolster": {0.11, 0.32}, "pad": {0.17, 0.19}, "block": {0.11, 0.16},
	"box": {0.14, 0.24}, "cushions": {0.15, 0.28}, "ball": {0.27, 0.27},
}

// place puts what a surface is part of where it is touched.
func (s *Scene) place(surface string, use int, pts []body.Vec, person body.Vec) {
	m := mean(pts)
	kind, h := body.Surfaces[surface].Kind, body.Surfaces[surface].D
	if half, ok := halves[kind]; ok {
		s.Blocks = append(s.Blocks, Block{kind, m[0] - half[0], m[1] - half[1], m[0] + half[0], m[1] + half[1], 0, h})
	}
	switch kind {
	case "wedge": // cushions that rise towards the head
		n := body.Surfaces[surface].N
		for k := range 5 {
			x0 := person[0] - 0.12 - 0.12*float64(k)
			top := (body.Surfaces[surface].D - n[0]*(x0-0.06)) / n[2]
			s.Blocks = append(s.Blocks, Block{"wedge", x0 - 0.12, m[1] - 0.24, x0, m[1] + 0.24, 0, top})
		}
	case "rolled": // a roll under each hand
		for _, p := range pts {
			s.Blocks = append(s.Blocks, Block{"towel", p[0] - 0.035, p[1] - 0.06, p[0] + 0.035, p[1] + 0.06, 0, h})
		}
	case "armrest":
		s.armrests(h, pts)
	case "ball":
		s.wall("wall", body.Surface{N: body.Vec{-1, 0, 0}, D: -m[0] - 0.31}, pts, m) // it cannot roll away
	case "wall", "footplate":
		s.wall(kind, body.Surfaces[surface], pts, m)
	case "chair":
		s.seat(surface, use, h, m)
	case "sofa", "counter", "table":
		s.edged(kind, h, pts, m.Sub(person), m)
	}
}

// armrests puts one under the arm of each side that rests.
func (s *Scene) armrests(h float64, pts []body.Vec) {
	for _, side := range []float64{1, -1} {
		var own []body.Vec
		for _, p := range pts {
			if p[1]*side > 0 {
				own = append(own, p)
			}
		}
		if own == nil {
			continue
		}
		at := mean(own)
		s.Blocks = append(s.Blocks, Block{"arm", at[0] - 0.46, at[1] - 0.03, at[0] + 0.18, at[1] + 0.03, h - 0.035, h},
			Block{"arm", at[0] + 0.13, at[1] - 0.02, at[0] + 0.17, at[1] + 0.02, 0, h - 0.035})
	}
}

// seat puts a chair, with a cushion where its seat is higher than a chair's.
func (s *Scene) seat(surface string, use int, h float64, m body.Vec) {
	back := m[0] + 0.34
	switch {
	case use == leanedOn:
		back = body.Surfaces["chair-back"].D
	case use == satOn && surface == "tall-seat": // sat on at the front
		back = m[0] - 0.36
	case use == satOn && surface != "chair":
		back = m[0] - 0.29
	case use == satOn:
		back = m[0] - 0.14
	}
	s.chair(back, m, use)
	if h > 0.45 {
		s.Blocks = append(s.Blocks, Block{"cushion", back + 0.02, m[1] - 0.19, back + 0.38, m[1] + 0.19, 0.44, h})
	}
}

// edged puts a sofa, counter or table so that its edge is a hand's breadth before the nearest contact, on
// the side the person (dir points from there) turns to it.
func (s *Scene) edged(kind string, h float64, pts []body.Vec, dir, m body.Vec) {
	const depth = 0.60
	half := map[string]float64{"sofa": 0.55, "counter": 0.45, "table": 0.45}[kind]
	q := Block{Kind: kind, Z1: h}
	switch kind {
	case "counter":
		q.Z0 = 0.10 // room for the toes under a kitchen counter
	case "table":
		q.Z0 = h - 0.04
	}
	edge := func(axis int, toward float64) float64 {
		near := math.Inf(1)
		for _, p := range pts {
			near = math.Min(near, toward*p[axis])
		}
		return toward * (near - 0.06)
	}
	var back Block
	switch {
	case math.Abs(dir[0]) > math.Abs(dir[1]):
		q.X0 = edge(0, 1)
		q.X1, q.Y0, q.Y1 = q.X0+depth, m[1]-half, m[1]+half
		back = q
		back.X0 = q.X1 - 0.14
	case dir[1] > 0:
		q.Y0 = edge(1, 1)
		q.Y1, q.X0, q.X1 = q.Y0+depth, m[0]-half, m[0]+half
		back = q
		back.Y0 = q.Y1 - 0.14
	default:
		q.Y1 = edge(1, -1)
		q.Y0, q.X0, q.X1 = q.Y1-depth, m[0]-half, m[0]+half
		back = q
		back.Y1 = q.Y0 + 0.14
	}
	s.Blocks = append(s.Blocks, q)
	if kind == "sofa" {
		back.Z0, back.Z1 = h, h+0.32
		s.Blocks = append(s.Blocks, back)
	}
}

// wall is a slab behind its plane, wide enough to be read as a wall.
func (s *Scene) wall(kind string, w body.Surface, pts []body.Vec, m body.Vec) {
	q := Block{Kind: kind, Z1: 1.9}
	thick, half := 0.06, 0.42
	if kind == "footplate" {
		half, q.Z0, q.Z1 = 0.24, math.Inf(1), 0
		for _, p := range pts {
			q.Z0, q.Z1 = math.Min(q.Z0, math.Max(0, p[2]-0.06)), math.Max(q.Z1, p[2]+0.06)
		}
	}
	axis := 0
	if w.N[1] != 0 {
		axis = 1
	}
	at := w.D * w.N[axis] // where the plane stands
	near, far := at, at-w.N[axis]*thick
	lo, hi := math.Min(near, far), math.Max(near, far)
	q.X0, q.X1, q.Y0, q.Y1 = lo, hi, m[1]-half, m[1]+half
	if axis == 1 {
		q.X0, q.X1, q.Y0, q.Y1 = m[0]-half, m[0]+half, lo, hi
	}
	s.Blocks = append(s.Blocks, q)
}

// chair stands with the back of its seat at x: facing forward when sat on, towards the
// person when reached for, its back to the client's left when legs lie on it.
func (s *Scene) chair(x float64, m body.Vec, use int) {
	add := func(a0, a1, b0, b1, z0, z1 float64) {
		q := Block{"wood", x + a0, m[1] + b0, x + a1, m[1] + b1, z0, z1}
		switch use {
		case reachedFor:
			q.X0, q.X1 = x-a1, x-a0
		case lainOn:
			q.X0, q.X1, q.Y0, q.Y1 = m[0]+0.17+b0, m[0]+0.17+b1, m[1]+0.20-a1, m[1]+0.20-a0
		}
		s.Blocks = append(s.Blocks, q)
	}
	for _, a := range []float64{0.0, 0.37} {
		for _, b := range []float64{0.17, -0.20} {
			add(a, a+0.03, b, b+0.03, 0, 0.41)
		}
	}
	add(-0.02, 0.40, -0.21, 0.21, 0.405, 0.44)
	top := 0.86
	if use == leanedOn {
		top = 1.14
	}
	for _, b := range []float64{0.17, -0.20} {
		add(-0.03, 0, b, b+0.03, 0.44, top)
	}
	add(-0.03, -0.01, -0.2, 0.2, 0.66, top-0.02)
}

// Soft kinds give way under the body.
func Soft(kind string) bool {
	for _, s := range body.Surfaces {
		if s.Kind == kind && s.Soft {
			return true
		}
	}
	return kind == floorCushion
}

func mean(p []body.Vec) body.Vec {
	var m body.Vec
	for _, v := range p {
		m = m.Add(v.Scale(1 / float64(len(p))))
	}
	return m
}

// A bed whose edge is sat on reaches this far behind the seat, and to each side of it, m (product default).
const bedReach = 0.95

// BedForChair is the scene with a bed in place of a chair: its edge where the front of the seat is, its top as high.
func (s Scene) BedForChair() Scene {
	out := s
	out.Blocks = nil
	seat, found := Block{}, false
	for _, q := range s.Blocks {
		if q.Z1 > 0.3 && q.Z1 < 0.7 && (!found || (q.X1-q.X0)*(q.Y1-q.Y0) > (seat.X1-seat.X0)*(seat.Y1-seat.Y0)) {
			seat, found = q, true // the seat is the widest of what is as high as one
		}
	}
	if !found {
		return s
	}
	mid := (seat.Y0 + seat.Y1) / 2
	out.Blocks = []Block{{Kind: "bed", X0: seat.X1 - bedReach, Y0: mid - bedReach, X1: seat.X1, Y1: mid + bedReach,
		Z0: 0.08, Z1: seat.Z1}}
	return out
}
