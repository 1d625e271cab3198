package figure

import (
	"math"
	"strings"

	"restbend/core/body"
)

// The person: every part is an outline of a fixed number of points that follows the
// anatomical front of its segment, so that calf, thigh and seat bulge where they belong from
// every camera. Widths are product defaults of the reference body, metres.

func (s *scene) at2(v body.Vec) (p2, float64) {
	x, y, d := s.cam.see(v)
	return p2{x, y}, d
}

func (s *scene) depth(v body.Vec) float64 { _, d := s.at2(v); return d }

func (s *scene) add(h shape) {
	if s.far {
		h.fill = mix(mix(h.fill, "#6f7f86", 0.22), paper, 0.16)
	}
	if h.alpha == 0 && !h.fade {
		h.alpha = 1
	}
	s.shapes = append(s.shapes, h)
}

// station is one place along a limb, 0 to 1, and the half widths towards the anatomical front
// and back.
type station struct{ t, f, b float64 }

// bone adds a limb segment as one smooth outline; front is a direction in space.
func (s *scene) bone(id, fill string, edge bool, depth float64, from, to, front body.Vec, st []station) {
	a, _ := s.at2(from)
	c, _ := s.at2(to)
	ax := c.sub(a)
	l := math.Max(ax.len(), 4)
	k := px * s.scale()
	u := p2{ax.x / l, ax.y / l}
	if ax.len() < 1e-6 {
		u = p2{0, 1}
	}
	n := p2{-u.y, u.x}
	f2, _ := s.at2(from.Add(front))
	side := f2.sub(a).dot(n) / px // how much of the front lies across the limb, -1 to 1
	half := func(w station, toward float64) float64 { return ((w.f+w.b)/2 + (w.f-w.b)/2*side*toward) * k }
	q := make([]p2, 0, 2*len(st)+4)
	for _, w := range st {
		q = append(q, a.add(ax, w.t).add(n, half(w, 1)))
	}
	first, last := st[0], st[len(st)-1]
	r0, r1 := (first.f+first.b)/2*k, (last.f+last.b)/2*k
	end, start := a.add(ax, last.t), a.add(ax, first.t)
	q = append(q, end.add(u, r1*0.92).add(n, r1*0.45), end.add(u, r1*0.92).add(n, -r1*0.45))
	for i := len(st) - 1; i >= 0; i-- {
		q = append(q, a.add(ax, st[i].t).add(n, -half(st[i], -1)))
	}
	q = append(q, start.add(u, -r0*0.92).add(n, -r0*0.45), start.add(u, -r0*0.92).add(n, r0*0.45))
	s.add(shape{id: id, fill: fill, edge: edge, layer: layerBody, depth: depth, subs: [][]p2{q}})
}

// section is an ellipse across the trunk: height above the hips and half breadths (m at
// reference scale), fixed to a segment.
type section struct {
	seg        int
	z, w, d, x float64
}

var hips = []section{
	{body.SegPelvis, -0.075, 0.110, 0.074, -0.014}, {body.SegPelvis, -0.03, 0.158, 0.100, -0.016},
	{body.SegPelvis, 0.02, 0.166, 0.106, -0.016},
	{body.SegPelvis, 0.065, 0.158, 0.102, -0.012}, {body.SegPelvis, 0.10, 0.146, 0.095, -0.006},
}

var trunk = []section{
	{body.SegPelvis, 0.03, 0.156, 0.102, -0.012}, {body.SegPelvis, 0.085, 0.150, 0.098, -0.008},
	{body.SegL1 + 1, 0.145, 0.134, 0.090, 0.0}, {body.SegL1 + 3, 0.215, 0.122, 0.086, 0.0},
	{body.SegT1, 0.30, 0.128, 0.094, 0.0}, {body.SegT1 + 1, 0.38, 0.142, 0.106, 0.002},
	{body.SegT1 + 2, 0.45, 0.150, 0.108, 0.0},
	{body.SegT1 + 3, 0.505, 0.152, 0.096, -0.008}, {body.SegT1 + 3, 0.545, 0.118, 0.076, -0.016},
	{body.SegT1 + 3, 0.575, 0.070, 0.058, -0.022},
}

// torso adds trunk sections as one smooth outline: where the line square to the axis touches
// each ellipse, left and right, and both ends.
func (s *scene) torso(id, fill string, depth float64, secs []section) {
	type ring struct{ c, a, b p2 }
	rings := make([]ring, len(secs))
	for i, sec := range secs {
		c, _ := s.at2(s.b.TrunkPoint(&s.f, sec.seg, body.Vec{sec.x, 0, sec.z}))
		a, _ := s.at2(s.b.TrunkPoint(&s.f, sec.seg, body.Vec{sec.x + sec.d, 0, sec.z}))
		b, _ := s.at2(s.b.TrunkPoint(&s.f, sec.seg, body.Vec{sec.x, sec.w, sec.z}))
		rings[i] = ring{c, a.sub(c), b.sub(c)}
	}
	touch := func(r ring, n p2) p2 {
		x, y := r.a.dot(n), r.b.dot(n)
		h := math.Hypot(x, y)
		if h < 1e-6 {
			return r.c
		}
		return r.c.add(r.a, x/h).add(r.b, y/h)
	}
	n := len(rings)
	axis := rings[n-1].c.sub(rings[0].c)
	around := 2*n + 2
	if axis.len() < 0.4*float64(secs[n-1].z-secs[0].z)*px*s.scale() { // seen along the axis: the outline of all rings
		var all []p2
		for _, r := range rings {
			all = append(all, ovalOf(r.c, r.a, r.b, p2{}, 16)...)
		}
		s.add(shape{id: id, fill: fill, layer: layerBody, depth: depth, subs: [][]p2{support(all, around)}})
		return
	}
	var left, right []p2
	for i, r := range rings {
		u := rings[min(n-1, i+1)].c.sub(rings[max(0, i-1)].c)
		l := math.Max(u.len(), 1e-6)
		across := p2{-u.y / l, u.x / l}
		left, right = append(left, touch(r, across)), append(right, touch(r, p2{-across.x, -across.y}))
	}
	end := func(i, j int) p2 {
		u := rings[i].c.sub(rings[j].c)
		l := math.Max(u.len(), 1e-6)
		return touch(rings[i], p2{u.x / l, u.y / l})
	}
	q := append(make([]p2, 0, around), left...)
	q = append(q, end(n-1, n-2))
	for i := n - 1; i >= 0; i-- {
		q = append(q, right[i])
	}
	q = append(q, end(0, 1))
	s.add(shape{id: id, fill: fill, layer: layerBody, depth: depth, subs: [][]p2{q}})
}

// solid adds a body part from points in space: the outline of each group of them.
func (s *scene) solid(id, fill string, edge bool, depth float64, n int, groups ...[]body.Vec) {
	h := shape{id: id, fill: fill, edge: edge, layer: layerBody, depth: depth}
	for _, g := range groups {
		p := make([]p2, len(g))
		for i, v := range g {
			p[i], _ = s.at2(v)
		}
		h.subs = append(h.subs, support(p, n))
	}
	s.add(h)
}

func (s *scene) scale() float64 { return s.b.Stature / 1.735 }

func (s *scene) point(name string) body.Vec { return s.b.Point(&s.f, name) }

func (s *scene) person() {
	b := s.build
	up := func(seg int, x, y, z float64) body.Vec { return s.b.TrunkPoint(&s.f, seg, body.Vec{x, y, z}) }
	base := s.depth(up(body.SegT1, 0, 0, 0.30))
	s.torso("shirt", b.Top, base, trunk)
	s.torso("seat", b.Trousers, base-0.012, hips)
	neckLow, ear := up(body.SegT1+3, -0.028, 0, 0.555), s.point("ear")
	forward := up(body.SegHead, 1, 0, 0.75).Sub(up(body.SegHead, 0, 0, 0.75))
	s.bone("neck", mix(b.Skin, "#5b2d1a", 0.10), false, s.depth(neckLow)-0.002, neckLow, ear, forward,
		[]station{{0.02, 0.056, 0.056}, {0.4, 0.044, 0.047}, {0.8, 0.046, 0.048}})
	s.head()
	for _, side := range []string{".left", ".right"} {
		s.far = s.faint("hip" + side)
		s.leg(side)
		s.far = s.faint("shoulder" + side)
		s.arm(side, base)
	}
	s.far = false
}

func (s *scene) leg(side string) {
	fill := s.build.Trousers
	hip, knee, ankle := s.point("hip"+side), s.point("knee"+side), s.point("ankle"+side)
	front := s.point("shin" + side).Sub(knee.Lerp(ankle, 0.45)).Unit()
	thigh := s.point("thigh" + side).Sub(hip.Lerp(knee, 0.55)).Unit()
	upper, lower := s.depth(hip.Lerp(knee, 0.5)), s.depth(knee.Lerp(ankle, 0.4))
	s.bone("thigh"+side, fill, true, upper, hip, knee, thigh,
		[]station{{0, 0.078, 0.092}, {0.22, 0.084, 0.088}, {0.5, 0.078, 0.074}, {0.8, 0.060, 0.056}, {1, 0.055, 0.050}})
	s.bone("shank"+side, fill, true, lower, knee, ankle, front,
		[]station{{0, 0.054, 0.050}, {0.12, 0.048, 0.056}, {0.30, 0.043, 0.065}, {0.5, 0.038, 0.056}, {0.75, 0.033, 0.040},
			{0.93, 0.033, 0.036}})
	// One leg: the knee is filled in the colour of both, at the nearer depth.
	s.bone("knee"+side, fill, false, math.Min(upper, lower)-0.0005, knee.Lerp(hip, 0.12), knee.Lerp(ankle, 0.10), front,
		[]station{{0, 0.056, 0.053}, {0.5, 0.056, 0.051}, {1, 0.050, 0.053}})
	s.foot(side)
}

// foot adds heel, arch and instep, and ball and toes.
func (s *scene) foot(side string) {
	heel, ball, toe, ankle := s.point("heel"+side), s.point("ball"+side), s.point("toe"+side), s.point("ankle"+side)
	x := ball.Sub(heel).Unit()
	up := ankle.Sub(heel)
	up = up.Sub(x.Scale(up.Dot(x))).Unit()
	w := x.Cross(up)
	tx := toe.Sub(ball)
	tl := tx.Len()
	if tl < 1e-6 {
		tx, tl = x, 0.05
	}
	tx = tx.Unit()
	tu := w.Cross(tx).Scale(-1)
	if tu.Dot(up) < 0 {
		tu = tu.Scale(-1)
	}
	k, long := s.scale(), ball.Sub(heel).Len()
	var back, fore []body.Vec
	on := func(list *[]body.Vec, v body.Vec, wide float64) {
		*list = append(*list, v.Add(w.Scale(wide*k)), v.Sub(w.Scale(wide*k)))
	}
	f := func(a, h float64) body.Vec { return heel.Add(x.Scale(a * long)).Add(up.Scale(h * k)) }
	t := func(a, h float64) body.Vec { return ball.Add(tx.Scale(a * tl)).Add(tu.Scale(h * k)) }
	for _, v := range [][3]float64{{-0.20, 0.012, 0.022}, {-0.12, -0.026, 0.026}, {0.08, -0.031, 0.030},
		{0.34, -0.018, 0.027}, {0.60, 0.040, 0.030}, {0.33, 0.085, 0.027}, {0.05, 0.088, 0.026}, {-0.13, 0.055, 0.024}} {
		on(&back, f(v[0], v[1]), v[2])
	}
	for _, v := range [][3]float64{{0.30, 0.062, 0.026}, {0.40, -0.016, 0.028}, {0.72, 0.030, 0.036},
		{0.70, -0.018, 0.034}, {0.92, -0.026, 0.042}} {
		on(&fore, f(v[0], v[1]), v[2])
	}
	for _, v := range [][3]float64{{0.35, -0.020, 0.043}, {1.0, -0.014, 0.036}, {1.28, -0.002, 0.020},
		{1.05, 0.012, 0.034}, {0.2, 0.020, 0.040}} {
		on(&fore, t(v[0], v[1]), v[2])
	}
	s.solid("foot"+side, s.build.Skin, true, s.depth(ankle.Lerp(ball, 0.5))-0.003, 14, back, fore)
}

func (s *scene) arm(side string, trunk float64) {
	b := s.build
	sh, el, wr := s.point("shoulder"+side), s.point("elbow"+side), s.point("wrist"+side)
	y := map[string]float64{".left": 1, ".right": -1}[side]
	top := s.b.TrunkPoint(&s.f, body.SegT1+3, body.Vec{-0.015, y * 0.07, 0.53})
	upper := math.Min(s.depth(sh.Lerp(el, 0.4)), s.depth(sh)+0.02) - 0.008
	lower := s.depth(el.Lerp(wr, 0.5)) - 0.010
	s.bone("cap"+side, b.Top, false, math.Min(trunk, s.depth(sh))-0.004, top, sh, body.Vec{0, 0, 1},
		[]station{{0, 0.058, 0.062}, {0.6, 0.056, 0.058}, {1, 0.050, 0.052}})
	front := el.Sub(wr).Cross(sh.Sub(el)).Cross(sh.Sub(el)) // the side of the biceps
	if front.Len() < 1e-4 {
		front = body.Vec{1, 0, 0}
	}
	front = front.Unit()
	s.bone("upper-arm"+side, b.Skin, true, upper, sh, el, front,
		[]station{{0.1, 0.046, 0.048}, {0.4, 0.045, 0.042}, {0.75, 0.037, 0.036}, {1, 0.034, 0.034}})
	s.bone("sleeve"+side, mix(b.Top, "#0c1416", 0.10), false, upper-0.001, sh, el, front,
		[]station{{0, 0.054, 0.054}, {0.25, 0.056, 0.054}, {0.5, 0.051, 0.050}})
	s.bone("forearm"+side, b.Skin, true, lower, el, wr, front,
		[]station{{0, 0.034, 0.034}, {0.22, 0.039, 0.035}, {0.55, 0.032, 0.029}, {0.97, 0.022, 0.021}})
	s.bone("elbow"+side, b.Skin, false, math.Min(upper, lower)-0.0005, el.Lerp(sh, 0.12), el.Lerp(wr, 0.12), front,
		[]station{{0, 0.036, 0.036}, {0.5, 0.0355, 0.034}, {1, 0.036, 0.035}})
	s.hand(side, lower-0.003)
}

// hand adds a palm with the fingers held together and a thumb; a hand that holds is closed.
func (s *scene) hand(side string, depth float64) {
	wr, tip, palm := s.point("wrist"+side), s.point("fingertip"+side), s.point("palm"+side)
	l := tip.Sub(wr)
	long, u := l.Len(), l.Unit()
	n := palm.Sub(wr)
	n = n.Sub(u.Scale(n.Dot(u))).Unit() // towards the palm
	y := map[string]float64{".left": 1, ".right": -1}[side]
	thumb := u.Cross(n).Scale(-y)
	k, curl := s.scale(), 0.10
	if s.closed(side) {
		curl, long = 0.9, long*0.62
	}
	at := func(a, w, h float64) body.Vec {
		return wr.Add(u.Scale(a * long)).Add(thumb.Scale(w * k)).Add(n.Scale(h * k))
	}
	var flat, fingers []body.Vec
	on := func(list *[]body.Vec, v body.Vec, thick float64) {
		*list = append(*list, v.Add(n.Scale(thick*k)), v.Sub(n.Scale(thick*k)))
	}
	for _, v := range [][4]float64{{-0.06, -0.022, 0, 0.017}, {0.20, -0.034, 0, 0.016}, {0.46, -0.037, 0, 0.014},
		{0.48, 0.036, 0, 0.014}, {0.24, 0.034, 0, 0.018}, {-0.06, 0.022, 0, 0.017}} {
		on(&flat, at(v[0], v[1], v[2]), v[3])
	}
	for _, v := range [][4]float64{{0.42, -0.036, 0, 0.014}, {0.70, -0.031, 0.02, 0.010}, {0.90, -0.021, 0.045, 0.008},
		{0.99, -0.004, 0.06, 0.006}, {1.0, 0.010, 0.06, 0.006}, {0.92, 0.022, 0.045, 0.008}, {0.70, 0.031, 0.02,
			0.010}, {0.44, 0.036, 0, 0.014}} {
		on(&fingers, at(v[0], v[1], curl*v[2]), v[3])
	}
	s.solid("hand"+side, s.build.Skin, false, depth, 14, flat, fingers)
	s.bone("thumb"+side, s.build.Skin, true, depth-0.0006, at(0.16, 0.026, 0.008), at(0.52, 0.058, 0.020), n,
		[]station{{0, 0.015, 0.015}, {0.5, 0.0125, 0.012}, {1, 0.009, 0.009}})
}

// closed tells whether a hand is drawn closed: a fist, or the hand over the one that holds.
func (s *scene) closed(side string) bool {
	other := strings.TrimPrefix(body.MirrorName("x"+side), "x")
	return s.p.Fist(side) || s.p.Fist(other) && s.point("palm"+side).Sub(s.point("palm"+other)).Len() < 0.10
}

// farther tells whether a side lies clearly behind the other, seen by the camera.
func (s *scene) farther(joint string) bool {
	own, other := s.depth(s.point(joint)), s.depth(s.point(body.MirrorName(joint)))
	return own-other > 0.06
}

// faint tells whether a limb is drawn paler: it lies behind, the camera looks from the side,
// and it neither carries nor works. Decided once for all pictures of an exercise.
func (s *scene) faint(joint string) bool {
	if s.opt.pale != nil {
		return s.opt.pale[joint]
	}
	return math.Abs(s.cam.st) <= 0.8 && s.farther(joint)
}

// faceLine are directions on the skull, in front of the hair line.
var faceLine = func() (out []body.Vec) {
	for i := 0; i <= 10; i++ {
		se, ce := math.Sincos(float64(i)*math.Pi/10 - math.Pi/2)
		for k := range 16 {
			sa, ca := math.Sincos(float64(k) * math.Pi / 8)
			u := body.Vec{ce * ca, ce * sa, se}
			line := 0.12 + 0.30*u[2]
			if u[2] > 0 {
				line = 0.12 + 0.95*u[2]*u[2]
			}
			if u[0] > line {
				out = append(out, u)
			}
		}
	}
	return out
}()

// head adds hair, face and features; what the camera cannot see draws nothing.
func (s *scene) head() {
	b := s.build
	at := func(x, y, z float64) body.Vec { return s.b.TrunkPoint(&s.f, body.SegHead, body.Vec{x, y, z}) }
	_, dc := s.at2(at(-0.002, 0, 0.750))
	depth := dc - 0.01
	add := func(id, fill string, lift float64, subs ...[]p2) {
		s.add(shape{id: id, fill: fill, layer: layerBody, depth: depth - lift, subs: subs})
	}
	oval := func(cx, cz, rx, ry, rz float64) []p2 {
		c, _ := s.at2(at(cx, 0, cz))
		x, _ := s.at2(at(cx+rx, 0, cz))
		y, _ := s.at2(at(cx, ry, cz))
		z, _ := s.at2(at(cx, 0, cz+rz))
		return ovalOf(c, x.sub(c), y.sub(c), z.sub(c), 16)
	}
	centre, _ := s.at2(at(-0.002, 0, 0.750))
	bun, bd := s.at2(at(bunAt[0], bunAt[1], bunAt[2]))
	behind, before := nothing(bun, 8), nothing(bun, 8)
	if ring := circleOf(bun, bunRadius*px*s.scale(), bunRadius*px*s.scale(), 8); !b.Short {
		if bd > dc {
			behind = ring
		} else {
			before = ring
		}
	}
	add("bun-behind", b.Hair, -0.001, behind)
	add("hair", b.Hair, 0, oval(-0.010, 0.756, 0.100, 0.082, 0.112))
	jaw := 0.001
	if s.depth(at(0.1, 0, 0.74)) > dc { // seen from behind the hair covers it
		jaw = -0.0005
	}
	add("jaw", b.Skin, jaw, oval(0.026, 0.694, 0.064, 0.054, 0.060))
	var seen []p2
	for _, u := range faceLine {
		if q, d := s.at2(at(-0.002+0.0965*u[0], 0.077*u[1], 0.748+0.108*u[2])); d < dc+0.004 {
			seen = append(seen, q)
		}
	}
	face := nothing(centre, 16)
	if len(seen) > 4 {
		face = support(seen, 16)
	}
	add("face", b.Skin, 0.002, face)
	nose := nothing(centre, 8)
	if _, front := s.at2(at(0.1, 0, 0.74)); front < dc+0.09 {
		var p []p2
		for _, v := range []body.Vec{at(0.091, 0, 0.772), at(0.114, 0, 0.733), at(0.107, 0, 0.722), at(0.088, 0.015, 0.721),
			at(0.088, -0.015, 0.721)} {
			q, _ := s.at2(v)
			p = append(p, q)
		}
		nose = support(p, 8)
	}
	add("nose", mix(b.Skin, "#5b2d1a", 0.13), 0.003, nose)
	s.features(add, at, dc)
	add("bun", b.Hair, 0.006, before)
}

// features adds eyes, brows, mouth and ears, as far as they lie before the middle of the head.
func (s *scene) features(add func(id, fill string, lift float64, subs ...[]p2), at func(x, y, z float64) body.Vec,
	dc float64) {
	b := s.build
	// A lens between two corners and a middle: eye, brow, mouth.
	lens := func(from, mid, to body.Vec, thick float64) []p2 {
		m, d := s.at2(mid)
		a, _ := s.at2(from)
		c, _ := s.at2(to)
		if d >= dc-0.012 {
			return nothing(m, 4)
		}
		return []p2{a, {m.x, m.y - thick}, c, {m.x, m.y + thick}}
	}
	var eyes, brows, ears [][]p2
	for _, y := range []float64{1, -1} {
		eyes = append(eyes, lens(at(0.088, 0.021*y, 0.752), at(0.083, 0.032*y, 0.752), at(0.074, 0.044*y, 0.752), 1.5))
		brows = append(brows, lens(at(0.090, 0.017*y, 0.775), at(0.087, 0.034*y, 0.782), at(0.074, 0.047*y, 0.776), 0.9))
		ear, d := s.at2(at(-0.008, 0.078*y, 0.740))
		ring := nothing(ear, 4)
		if d < dc-0.018 {
			a, _ := s.at2(at(-0.020, 0.080*y, 0.762))
			k, _ := s.at2(at(-0.024, 0.082*y, 0.738))
			z, _ := s.at2(at(-0.002, 0.076*y, 0.716))
			f, _ := s.at2(at(0.008, 0.076*y, 0.748))
			ring = []p2{a, k, z, f}
		}
		ears = append(ears, ring)
	}
	add("eyes", mix(b.Skin, "#2a1710", 0.72), 0.004, eyes...)
	add("brows", mix(b.Hair, b.Skin, 0.25), 0.004, brows...)
	add("mouth", mix(b.Skin, "#7a2f24", 0.55), 0.004,
		lens(at(0.080, 0.021, 0.694), at(0.092, 0, 0.692), at(0.080, -0.021, 0.694), 1.1))
	add("ears", mix(b.Skin, "#5b2d1a", 0.20), 0.005, ears...)
}

// spine adds the line of the back on the trunk, where the back or the side is seen; what has
// moved since the start lies over it in another colour.
func (s *scene) spine() {
	dofs := []int{body.LumbarFlex, body.ThoracicFlex, body.NeckFlex}
	from := []int{body.SegPelvis, body.SegL1 + 3, body.SegT1 + 3}
	to := []int{body.SegL1 + 3, body.SegT1 + 3, body.SegN1 + 1}
	chest, inside := s.point("chest"), s.f.P[body.SegT3]
	shown := 0.0
	if s.depth(chest)-s.depth(inside) > -0.07*s.scale() { // the front of the chest does not face the camera
		shown = 1
	}
	// ... nor is the trunk seen from its end, as from the feet of somebody lying.
	pelvis, neck := s.f.P[body.SegPelvis], s.point("neck")
	shown *= math.Min(1, math.Max(0, (0.92-math.Abs(s.depth(neck)-s.depth(pelvis))/neck.Sub(pelvis).Len())/0.1))
	for k, region := range []string{"lumbar", "thoracic", "neck"} {
		moved := 0.0
		for j := range 3 {
			if s.opt.From != nil {
				moved = math.Max(moved, math.Abs(s.p.Q[dofs[k]+j]-s.opt.From.Q[dofs[k]+j])*180/math.Pi)
			}
		}
		var line []p2
		for seg := from[k]; seg <= to[k]; seg++ {
			at := s.f.P[seg]
			if seg == body.SegPelvis {
				at = s.b.TrunkPoint(&s.f, seg, body.Vec{-0.045, 0, 0.06})
			}
			q, _ := s.at2(at)
			line = append(line, q)
		}
		col := mix(s.build.Top, "#ffffff", 0.45)
		if k == 2 {
			col = mix(s.build.Skin, "#ffffff", 0.25)
		}
		s.add(shape{id: "line-" + region, fill: col, width: 3, fade: true, alpha: shown, layer: layerLine,
			depth: -float64(k), subs: [][]p2{line}})
		// It warms from 6 to 10 degrees of change, so that nothing switches in a film.
		s.add(shape{id: "line-" + region + "-moved", fill: "#e9b44c", width: 4.2, fade: true,
			alpha: shown * math.Min(1, math.Max(0, (moved-6)/4)), layer: layerLine, depth: -float64(k) - 10, subs: [][]p2{line}})
	}
}

// touch is what the body rests on at one place and how firmly (1, or less while it comes or
// goes in a film).
type touch struct {
	at   body.Vec
	firm float64
}

// bunAt is where the hair is tied, in the trunk's own rest, metres of the female body.
var bunAt = body.Vec{-0.118, 0, 0.795}

const bunRadius = 0.036

// shadowX is half the width of the shadow of a contact, drawing units.
const shadowX = 15

// ground adds the shadows where the body meets what carries it, and marks for them.
func (s *scene) ground(touches []touch, marks bool) {
	for i, t := range touches {
		c, _ := s.at2(t.at)
		s.add(shape{id: "shadow" + itoa(i), fill: "#2b2620", fade: true, alpha: 0.13 * t.firm, layer: layerGround, depth: 1,
			subs: [][]p2{circleOf(c, shadowX, 4.5, 8)}})
		if marks {
			s.add(shape{id: "touch" + itoa(i), fill: "#a4532f", fade: true, alpha: t.firm, layer: layerGround,
				subs: [][]p2{circleOf(p2{c.x, c.y + 1}, 5, 1.8, 6)}})
		}
	}
}
