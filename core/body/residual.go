package body

import "math"

// twist is how the points of a segment move with one degree of freedom: a point P moves
// by turn x P + slide.
type twist struct{ turn, slide Vec }

func (t *twist) at(p Vec) Vec { return t.turn.Cross(p).Add(t.slide) }

func rotation(axis, pivot Vec, by float64) twist {
	w := axis.Scale(by)
	return twist{w, pivot.Cross(w)}
}

// chain lists the degrees of freedom (of nState) that move each segment.
var chain = func() [nSeg][]int {
	var c [nSeg][]int
	for seg := range c {
		for k := 0; k < 6; k++ {
			c[seg] = append(c[seg], k)
		}
		add := func(from, n int) {
			for k := 0; k < n; k++ {
				c[seg] = append(c[seg], 6+from+k)
			}
		}
		trunk := seg
		if seg >= segLimbs {
			k := (seg - segLimbs) % segLimbCount
			side := Side((seg - segLimbs) / segLimbCount)
			if k < segThigh {
				trunk = segT4
				add(Limb(side, 0), HipFlex)
			} else {
				trunk = segPelvis
				add(Limb(side, HipFlex), limbCount-HipFlex)
			}
		}
		if trunk >= segL1 {
			add(LumbarFlex, 3)
		}
		if trunk >= segT1 {
			add(ThoracicFlex, 3)
		}
		if trunk >= segN1 {
			add(NeckFlex, 3)
		}
	}
	return c
}()

// twists works out how every segment moves with every degree of freedom.
func (b *Body) twists(st *State, f *Frames, out *[nState][nSeg]twist) {
	*out = [nState][nSeg]twist{}
	for k := 0; k < 3; k++ {
		var e Vec
		e[k] = 1
		t := rotation(f.R[segPelvis].Col(k), st.Root, 1)
		for seg := 0; seg < nSeg; seg++ {
			out[k][seg] = twist{slide: e}
			out[3+k][seg] = t
		}
	}
	add := func(dof int, t twist, seg int) {
		o := &out[6+dof][seg]
		o.turn, o.slide = o.turn.Add(t.turn), o.slide.Add(t.slide)
	}
	for _, g := range [3]struct{ first, n, dof int }{{segL1, 4, LumbarFlex}, {segT1, 4, ThoracicFlex}, {segN1, 2, NeckFlex}} {
		by := 1 / float64(g.n)
		for k := 0; k < g.n; k++ {
			seg := g.first + k
			flexed := f.R[seg-1].turn(1, st.Q[g.dof]*by)
			ts := [3]twist{rotation(f.R[seg-1].Col(1), f.P[seg], by), rotation(flexed.Col(0), f.P[seg], -by), rotation(f.R[seg].Col(2), f.P[seg], by)}
			for i, t := range ts {
				for s := seg; s < segLimbs; s++ {
					add(g.dof+i, t, s)
				}
				if g.dof != NeckFlex {
					for _, side := range []Side{Left, Right} {
						for s := segGirdle; s < segThigh; s++ {
							add(g.dof+i, t, limbSeg(side, s))
						}
					}
				}
			}
		}
	}
	for _, side := range []Side{Left, Right} {
		y := side.sign()
		q := st.Q[Limb(side, 0) : Limb(side, 0)+limbCount]
		seg := func(i int) int { return limbSeg(side, i) }
		hinge := func(dof int, axis, pivot Vec, by float64, from, to int) {
			t := rotation(axis, pivot, by)
			for s := from; s < to; s++ {
				add(Limb(side, dof), t, seg(s))
			}
		}
		// The girdle carries the arm along without turning it.
		gi, ua := seg(segGirdle), seg(segUpperArm)
		r := f.P[ua].Sub(f.P[gi])
		carry := func(dof int, axis Vec, by float64) {
			for s := segUpperArm; s < segThigh; s++ {
				add(Limb(side, dof), twist{slide: axis.Cross(r).Scale(by)}, seg(s))
			}
		}
		rise := f.R[gi].Col(0)
		carry(BladeForward, f.R[segT4].Col(2), -y)
		carry(BladeUp, rise, y)
		carry(ShoulderFlex, rise, y*girdleRise/2*math.Sin(q[ShoulderFlex])*math.Cos(q[ShoulderAbd]))
		carry(ShoulderAbd, rise, y*girdleRise/2*math.Cos(q[ShoulderFlex])*math.Sin(q[ShoulderAbd]))
		swing := f.R[segT4].turn(1, -q[ShoulderFlex])
		hinge(ShoulderFlex, f.R[segT4].Col(1), f.P[ua], -1, segUpperArm, segThigh)
		hinge(ShoulderAbd, swing.Col(0), f.P[ua], y, segUpperArm, segThigh)
		hinge(ShoulderRot, f.R[ua].Col(2), f.P[ua], y, segUpperArm, segThigh)
		fa, ha := seg(segForearm), seg(segHand)
		hinge(ElbowFlex, f.R[ua].Col(1), f.P[fa], -1, segForearm, segThigh)
		hinge(Pronation, f.R[fa].Col(2), f.P[ha], -y, segHand, segThigh)
		hinge(WristExt, f.R[ha].Col(0), f.P[ha], y, segHand, segThigh)
		th, sh, fo, to := seg(segThigh), seg(segShank), seg(segFoot), seg(segToe)
		lift := f.R[segPelvis].turn(1, -q[HipFlex])
		hinge(HipFlex, f.R[segPelvis].Col(1), f.P[th], -1, segThigh, segLimbCount)
		hinge(HipAbd, lift.Col(0), f.P[th], y, segThigh, segLimbCount)
		hinge(HipRot, f.R[th].Col(2), f.P[th], y, segThigh, segLimbCount)
		hinge(KneeFlex, f.R[th].Col(1), f.P[sh], 1, segShank, segLimbCount)
		hinge(AnkleUp, f.R[sh].Col(1), f.P[fo], -1, segFoot, segLimbCount)
		hinge(ToesUp, f.R[fo].Col(1), f.P[to], -1, segToe, segLimbCount)
	}
}

// rows collects residuals and, when tw is set, the gradient of each.
type rows struct {
	r  []float64
	j  [][nState]float64
	tw *[nState][nSeg]twist
}

func (o *rows) reset() { o.r, o.j = o.r[:0], o.j[:0] }

// put appends a residual; the gradient, filled by with, starts at zero.
func (o *rows) put(v float64) {
	o.r = append(o.r, v)
	if o.tw != nil {
		o.j = append(o.j, [nState]float64{})
	}
}

// with adds the gradient of dir . P to the last residual, P fixed to a segment.
func (o *rows) with(seg int, p, dir Vec) {
	if o.tw == nil {
		return
	}
	row := &o.j[len(o.j)-1]
	for _, k := range chain[seg] {
		row[k] += dir.Dot(o.tw[k][seg].at(p))
	}
}

// turned adds the gradient of dir . axis, an axis of the pelvis.
func (o *rows) turned(axis, dir Vec) {
	if o.tw == nil {
		return
	}
	row := &o.j[len(o.j)-1]
	for k := 3; k < 6; k++ {
		row[k] += dir.Dot(o.tw[k][segPelvis].turn.Cross(axis))
	}
}

// residuals writes the geometric residuals of a placed body.
func (pr *problem) residuals(st *State, f *Frames, o *rows) {
	b := pr.b
	for i := range pr.touching {
		c := &pr.touching[i]
		seg, v := b.spheres[c.sphere].seg, b.sphereCenter(f, c.sphere)
		o.put(c.surface.gap(v, b.spheres[c.sphere].r) / tolContact)
		o.with(seg, v, c.surface.N.Scale(1/tolContact))
		if c.anchor != nil {
			d := b.touchPoint(f, c.sphere, c.surface).Sub(*c.anchor)
			t1, t2 := c.surface.tangents()
			for _, t := range []Vec{t1, t2} {
				o.put(d.Dot(t) / tolAnchor)
				o.with(seg, v, t.Scale(1/tolAnchor))
			}
		}
	}
	above := func(i int, s Surface) {
		v := b.sphereCenter(f, i)
		if gap := s.gap(v, b.spheres[i].r); gap < 0.002 {
			o.put((0.002 - gap) / (2 * tolContact))
			o.with(b.spheres[i].seg, v, s.N.Scale(-1/(2*tolContact)))
		}
	}
	for _, i := range pr.others {
		above(i, Surfaces["floor"])
		for _, w := range pr.walls {
			above(i, w)
		}
	}
	for i := range pr.relations {
		pr.relation(&pr.relations[i], st, f, o)
	}
	left := f.R[segPelvis].Col(1)
	if pr.symmetric {
		o.put(st.Root[1] / tolStraight)
		o.single(1, 1/tolStraight)
		o.put(left[0] / tolSame)
		o.turned(left, Vec{1 / tolSame})
		o.put(left[2] / tolSame)
		o.turned(left, Vec{0, 0, 1 / tolSame})
		for _, i := range []int{LumbarSide, LumbarTurn, ThoracicSide, ThoracicTurn, NeckSide, NeckTurn} {
			o.put(st.Q[i] / tolSame)
			o.single(6+i, 1/tolSame)
		}
		for j := 0; j < limbCount; j++ {
			o.put((st.Q[Limb(Left, j)] - st.Q[Limb(Right, j)]) / tolSame)
			o.single(6+Limb(Left, j), 1/tolSame)
			o.single(6+Limb(Right, j), -1/tolSame)
		}
		return
	}
	// The heading: the pelvis' left (or the head, lying on the side), seen from above, keeps the base's direction.
	axis := left
	if math.Hypot(left[0], left[1]) < 0.5 {
		axis = f.R[segPelvis].Col(2)
	}
	const w = 1 / (tolHeading * 4)
	o.put((axis[0]*pr.heading[1] - axis[1]*pr.heading[0]) * w)
	o.turned(axis, Vec{pr.heading[1] * w, -pr.heading[0] * w})
}

func (o *rows) single(k int, v float64) {
	if o.tw != nil {
		o.j[len(o.j)-1][k] += v
	}
}

func (pr *problem) relation(rel *Relation, st *State, f *Frames, o *rows) {
	b := pr.b
	type place struct {
		seg int
		at  Vec
	}
	point := func(name string) place {
		seg, _ := b.point(name)
		return place{seg, b.Point(f, name)}
	}
	between := func(a, c place, dir Vec) { // gradient of dir . (a - c)
		o.with(a.seg, a.at, dir)
		o.with(c.seg, c.at, dir.Scale(-1))
	}
	switch rel.Kind {
	case "aim":
		n, fa, _ := segmentEnds(rel.Args[0])
		near, far := point(n), point(fa)
		d := far.at.Sub(near.at)
		l := d.Len()
		u := d.Scale(1 / l)
		o.put((math.Asin(clamp(u[2], -1, 1)) - rel.Value*deg) / tolAim)
		slope := 1 / (l * math.Max(0.05, math.Sqrt(math.Max(0, 1-u[2]*u[2]))) * tolAim)
		between(far, near, Vec{0, 0, 1}.Sub(u.Scale(u[2])).Scale(slope))
	case "stack":
		a, c := point(rel.Args[0]), point(rel.Args[1])
		d := a.at.Sub(c.at)
		o.put(d[0] / tolPoint / 2)
		between(a, c, Vec{1 / tolPoint / 2})
		o.put(d[1] / tolPoint / 4)
		between(a, c, Vec{0, 1 / tolPoint / 4})
	case "line":
		ps := [3]place{point(rel.Args[0]), point(rel.Args[1]), point(rel.Args[2])}
		left := f.R[segPelvis].Col(1)
		// Only the bend seen from the side counts: across the line and away from the left.
		bend := func(p [4]Vec) float64 { // the fourth is the pelvis' left
			n := p[2].Sub(p[0]).Unit().Cross(p[3]).Unit()
			return p[1].Sub(p[0]).Dot(n) / tolPoint
		}
		at := [4]Vec{ps[0].at, ps[1].at, ps[2].at, left}
		v := bend(at)
		o.put(v)
		if o.tw == nil {
			return
		}
		const h = 1e-6
		for i := range at {
			var g Vec
			for k := range g {
				moved := at
				moved[i][k] += h
				g[k] = (bend(moved) - v) / h
			}
			if i == 3 {
				o.turned(left, g)
				continue
			}
			o.with(ps[i].seg, ps[i].at, g)
		}
	case "touch":
		a, c := point(rel.Args[0]), point(rel.Args[1])
		d := a.at.Sub(c.at)
		if rel.Value > 0 {
			o.put((d.Len() - rel.Value) / tolPoint)
			between(a, c, d.Unit().Scale(1/tolPoint))
			return
		}
		for k := 0; k < 3; k++ {
			var e Vec
			e[k] = 1 / tolPoint / 2
			o.put(d.Dot(e))
			between(a, c, e)
		}
	case "lay":
		b.lay(f, rel, o)
	case "flat":
		a := point(rel.Args[0])
		across := f.R[a.seg].Col(1)
		o.put(across[2] / tolFlat)
		o.with(a.seg, a.at.Add(across), Vec{0, 0, 1 / tolFlat})
		o.with(a.seg, a.at, Vec{0, 0, -1 / tolFlat})
	case "plumb", "level":
		foot, neck := f.P[segPelvis].Add(f.R[segPelvis].Mul(b.trunkFoot())), f.P[segN1]
		d := neck.Sub(foot)
		l := d.Len()
		u := d.Scale(1 / l)
		near, far := place{segPelvis, foot}, place{segN1, neck}
		part := func(k int) { // how much of the trunk's direction points along an axis
			var e Vec
			e[k] = 1
			o.put(u[k] / tolAim)
			between(far, near, e.Sub(u.Scale(u[k])).Scale(1/l/tolAim))
		}
		if rel.Kind == "level" {
			part(2)
			left := f.R[segPelvis].Col(1)
			o.put(left[2] / tolAim)
			o.turned(left, Vec{0, 0, 1 / tolAim})
			return
		}
		part(0)
		part(1)
	case "height":
		a := point(rel.Args[0])
		o.put((a.at[2] - rel.Value) / tolPoint)
		o.with(a.seg, a.at, Vec{0, 0, 1 / tolPoint})
	case "balance":
		v := pr.imbalance(f)
		o.put(v)
		if o.tw == nil || v == 0 {
			return
		}
		const h = 1e-6
		row := &o.j[len(o.j)-1]
		var g Frames
		for k := range row {
			var d [nState]float64
			d[k] = h
			moved := st.moved(&d)
			b.Place(&moved, &g)
			row[k] = (pr.imbalance(&g) - v) / h
		}
	}
}

// imbalance is how far the centre of mass is from being safely inside the base of
// support, in tolerances.
func (pr *problem) imbalance(f *Frames) float64 {
	const inside = 0.035
	pts := make([]Vec, 0, 8*len(pr.touching))
	for _, t := range pr.touching {
		pts = ring(pts, pr.b.touchPoint(f, t.sphere, t.surface), pr.b.spheres[t.sphere].pad)
	}
	return math.Max(0, inside-margin(effectiveCentre(pr.b.COM(f), pr.pulls(f)), pts)) / tolBalance
}

func (pr *problem) pulls(f *Frames) []pull {
	if len(pr.props) == 0 {
		return nil
	}
	return pr.b.pulls(&Pose{Props: pr.props}, f)
}
