package pose

import (
	"math"

	"restbend/core/body"
)

// twist is how the points of a segment move with one degree of freedom: a point P moves
// by turn x P + slide.
type twist struct{ turn, slide body.Vec }

func (t *twist) at(p body.Vec) body.Vec { return t.turn.Cross(p).Add(t.slide) }

func rotation(axis, pivot body.Vec, by float64) twist {
	w := axis.Scale(by)
	return twist{w, pivot.Cross(w)}
}

// chain lists the degrees of freedom (of nState) that move each segment.
var chain = func() [body.NSeg][]int {
	var c [body.NSeg][]int
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
		if seg >= body.SegLimbs {
			k := (seg - body.SegLimbs) % body.SegLimbCount
			side := body.Side((seg - body.SegLimbs) / body.SegLimbCount)
			if k < body.SegThigh {
				trunk = body.SegT4
				add(body.Limb(side, 0), body.HipFlex)
			} else {
				trunk = body.SegPelvis
				add(body.Limb(side, body.HipFlex), body.LimbCount-body.HipFlex)
			}
		}
		if trunk >= body.SegL1 {
			add(body.LumbarFlex, 3)
		}
		if trunk >= body.SegT1 {
			add(body.ThoracicFlex, 3)
		}
		if trunk >= body.SegN1 {
			add(body.NeckFlex, 3)
		}
	}
	return c
}()

// twists works out how every segment moves with every degree of freedom.
func twists(b *body.Body, st *body.State, f *body.Frames, out *[nState][body.NSeg]twist) {
	*out = [nState][body.NSeg]twist{}
	for k := 0; k < 3; k++ {
		var e body.Vec
		e[k] = 1
		t := rotation(f.R[body.SegPelvis].Col(k), st.Root, 1)
		for seg := 0; seg < body.NSeg; seg++ {
			out[k][seg] = twist{slide: e}
			out[3+k][seg] = t
		}
	}
	add := func(dof int, t twist, seg int) {
		o := &out[6+dof][seg]
		o.turn, o.slide = o.turn.Add(t.turn), o.slide.Add(t.slide)
	}
	spineTwists(st, f, add)
	for _, side := range []body.Side{body.Left, body.Right} {
		limbTwists(side, st, f, add)
	}
}

// spineTwists adds how the segments above each joint of the spine move with it.
func spineTwists(st *body.State, f *body.Frames, add func(dof int, t twist, seg int)) {
	for _, g := range [3]struct{ first, n, dof int }{{body.SegL1, 4, body.LumbarFlex},
		{body.SegT1, 4, body.ThoracicFlex}, {body.SegN1, 2, body.NeckFlex}} {
		by := 1 / float64(g.n)
		for k := 0; k < g.n; k++ {
			seg := g.first + k
			flexed := f.R[seg-1].Turn(1, st.Q[g.dof]*by)
			ts := [3]twist{
				rotation(f.R[seg-1].Col(1), f.P[seg], by),
				rotation(flexed.Col(0), f.P[seg], -by),
				rotation(f.R[seg].Col(2), f.P[seg], by),
			}
			for i, t := range ts {
				for s := seg; s < body.SegLimbs; s++ {
					add(g.dof+i, t, s)
				}
				if g.dof != body.NeckFlex {
					for _, side := range []body.Side{body.Left, body.Right} {
						for s := body.SegGirdle; s < body.SegThigh; s++ {
							add(g.dof+i, t, body.LimbSeg(side, s))
						}
					}
				}
			}
		}
	}
}

// limbTwists adds how the segments of one side move with the joints of its arm and its leg.
func limbTwists(side body.Side, st *body.State, f *body.Frames, add func(dof int, t twist, seg int)) {
	y := side.Sign()
	q := st.Q[body.Limb(side, 0) : body.Limb(side, 0)+body.LimbCount]
	seg := func(i int) int { return body.LimbSeg(side, i) }
	hinge := func(dof int, axis, pivot body.Vec, by float64, from, to int) {
		t := rotation(axis, pivot, by)
		for s := from; s < to; s++ {
			add(body.Limb(side, dof), t, seg(s))
		}
	}
	// The girdle carries the arm along without turning it.
	gi, ua := seg(body.SegGirdle), seg(body.SegUpperArm)
	r := f.P[ua].Sub(f.P[gi])
	carry := func(dof int, axis body.Vec, by float64) {
		for s := body.SegUpperArm; s < body.SegThigh; s++ {
			add(body.Limb(side, dof), twist{slide: axis.Cross(r).Scale(by)}, seg(s))
		}
	}
	rise := f.R[gi].Col(0)
	carry(body.BladeForward, f.R[body.SegT4].Col(2), -y)
	carry(body.BladeUp, rise, y)
	carry(body.ShoulderFlex, rise, y*body.GirdleRise/2*math.Sin(q[body.ShoulderFlex])*math.Cos(q[body.ShoulderAbd]))
	carry(body.ShoulderAbd, rise, y*body.GirdleRise/2*math.Cos(q[body.ShoulderFlex])*math.Sin(q[body.ShoulderAbd]))
	swing := f.R[body.SegT4].Turn(1, -q[body.ShoulderFlex])
	hinge(body.ShoulderFlex, f.R[body.SegT4].Col(1), f.P[ua], -1, body.SegUpperArm, body.SegThigh)
	hinge(body.ShoulderAbd, swing.Col(0), f.P[ua], y, body.SegUpperArm, body.SegThigh)
	hinge(body.ShoulderRot, f.R[ua].Col(2), f.P[ua], y, body.SegUpperArm, body.SegThigh)
	fa, ha := seg(body.SegForearm), seg(body.SegHand)
	hinge(body.ElbowFlex, f.R[ua].Col(1), f.P[fa], -1, body.SegForearm, body.SegThigh)
	hinge(body.Pronation, f.R[fa].Col(2), f.P[ha], -y, body.SegHand, body.SegThigh)
	hinge(body.WristExt, f.R[ha].Col(0), f.P[ha], y, body.SegHand, body.SegThigh)
	th, sh, fo, to := seg(body.SegThigh), seg(body.SegShank), seg(body.SegFoot), seg(body.SegToe)
	lift := f.R[body.SegPelvis].Turn(1, -q[body.HipFlex])
	hinge(body.HipFlex, f.R[body.SegPelvis].Col(1), f.P[th], -1, body.SegThigh, body.SegLimbCount)
	hinge(body.HipAbd, lift.Col(0), f.P[th], y, body.SegThigh, body.SegLimbCount)
	hinge(body.HipRot, f.R[th].Col(2), f.P[th], y, body.SegThigh, body.SegLimbCount)
	hinge(body.KneeFlex, f.R[th].Col(1), f.P[sh], 1, body.SegShank, body.SegLimbCount)
	hinge(body.AnkleUp, f.R[sh].Col(1), f.P[fo], -1, body.SegFoot, body.SegLimbCount)
	hinge(body.ToesUp, f.R[fo].Col(1), f.P[to], -1, body.SegToe, body.SegLimbCount)
}

// rows collects residuals and, when tw is set, the gradient of each.
type rows struct {
	r  []float64
	j  [][nState]float64
	tw *[nState][body.NSeg]twist
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
func (o *rows) with(seg int, p, dir body.Vec) {
	if o.tw == nil {
		return
	}
	row := &o.j[len(o.j)-1]
	for _, k := range chain[seg] {
		row[k] += dir.Dot(o.tw[k][seg].at(p))
	}
}

// turned adds the gradient of dir . axis, an axis of the pelvis.
func (o *rows) turned(axis, dir body.Vec) {
	if o.tw == nil {
		return
	}
	row := &o.j[len(o.j)-1]
	for k := 3; k < 6; k++ {
		row[k] += dir.Dot(o.tw[k][body.SegPelvis].turn.Cross(axis))
	}
}

// residuals writes the geometric residuals of a placed body.
func (pr *problem) residuals(st *body.State, f *body.Frames, o *rows) {
	b := pr.b
	for i := range pr.touching {
		c := &pr.touching[i]
		seg, v := b.Spheres[c.sphere].Seg, b.SphereCenter(f, c.sphere)
		o.put(c.surface.Gap(v, b.Spheres[c.sphere].R) / tolContact)
		o.with(seg, v, c.surface.N.Scale(1/tolContact))
		if c.anchor != nil {
			d := b.TouchPoint(f, c.sphere, c.surface).Sub(*c.anchor)
			t1, t2 := c.surface.Tangents()
			for _, t := range []body.Vec{t1, t2} {
				o.put(d.Dot(t) / tolAnchor)
				o.with(seg, v, t.Scale(1/tolAnchor))
			}
		}
	}
	above := func(i int, s body.Surface) {
		v := b.SphereCenter(f, i)
		if gap := s.Gap(v, b.Spheres[i].R); gap < 0.002 {
			o.put((0.002 - gap) / (2 * tolContact))
			o.with(b.Spheres[i].Seg, v, s.N.Scale(-1/(2*tolContact)))
		}
	}
	for _, i := range pr.others {
		above(i, body.Surfaces["floor"])
		for _, w := range pr.walls {
			above(i, w)
		}
	}
	for i := range pr.relations {
		pr.relation(&pr.relations[i], st, f, o)
	}
	left := f.R[body.SegPelvis].Col(1)
	if pr.symmetric {
		o.put(st.Root[1] / tolStraight)
		o.single(1, 1/tolStraight)
		o.put(left[0] / tolSame)
		o.turned(left, body.Vec{1 / tolSame})
		o.put(left[2] / tolSame)
		o.turned(left, body.Vec{0, 0, 1 / tolSame})
		for _, i := range []int{body.LumbarSide, body.LumbarTurn, body.ThoracicSide, body.ThoracicTurn, body.NeckSide,
			body.NeckTurn} {
			o.put(st.Q[i] / tolSame)
			o.single(6+i, 1/tolSame)
		}
		for j := 0; j < body.LimbCount; j++ {
			o.put((st.Q[body.Limb(body.Left, j)] - st.Q[body.Limb(body.Right, j)]) / tolSame)
			o.single(6+body.Limb(body.Left, j), 1/tolSame)
			o.single(6+body.Limb(body.Right, j), -1/tolSame)
		}
		return
	}
	// The heading: the pelvis' left (or the head, lying on the side), seen from above, keeps the base's direction.
	axis := left
	if math.Hypot(left[0], left[1]) < 0.5 {
		axis = f.R[body.SegPelvis].Col(2)
	}
	const w = 1 / (tolHeading * 4)
	o.put((axis[0]*pr.heading[1] - axis[1]*pr.heading[0]) * w)
	o.turned(axis, body.Vec{pr.heading[1] * w, -pr.heading[0] * w})
}

func (o *rows) single(k int, v float64) {
	if o.tw != nil {
		o.j[len(o.j)-1][k] += v
	}
}

// fixedPoint is a landmark where it is now, with the segment it moves with.
type fixedPoint struct {
	seg int
	at  body.Vec
}

func (pr *problem) point(f *body.Frames, name string) fixedPoint {
	seg, _ := pr.b.FixedAt(name)
	return fixedPoint{seg, pr.b.Point(f, name)}
}

// between adds the gradient of dir . (a - c).
func (o *rows) between(a, c fixedPoint, dir body.Vec) {
	o.with(a.seg, a.at, dir)
	o.with(c.seg, c.at, dir.Scale(-1))
}

// relation adds the residuals of one relation, and their gradients where they are wanted.
func (pr *problem) relation(rel *Relation, st *body.State, f *body.Frames, o *rows) {
	switch rel.Kind {
	case "aim":
		n, fa, _ := body.SegmentEnds(rel.Args[0])
		near, far := pr.point(f, n), pr.point(f, fa)
		d := far.at.Sub(near.at)
		l := d.Len()
		u := d.Scale(1 / l)
		o.put((math.Asin(body.Clamp(u[2], -1, 1)) - rel.Value*body.Deg) / tolAim)
		slope := 1 / (l * math.Max(0.05, math.Sqrt(math.Max(0, 1-u[2]*u[2]))) * tolAim)
		o.between(far, near, body.Vec{0, 0, 1}.Sub(u.Scale(u[2])).Scale(slope))
	case "stack":
		a, c := pr.point(f, rel.Args[0]), pr.point(f, rel.Args[1])
		d := a.at.Sub(c.at)
		o.put(d[0] / tolPoint / 2)
		o.between(a, c, body.Vec{1 / tolPoint / 2})
		o.put(d[1] / tolPoint / 4)
		o.between(a, c, body.Vec{0, 1 / tolPoint / 4})
	case "line":
		pr.inLine(rel, f, o)
	case "touch":
		pr.touch(rel, f, o)
	case "lay":
		lay(pr.b, f, rel, o)
	case "flat":
		a := pr.point(f, rel.Args[0])
		across := f.R[a.seg].Col(1)
		o.put(across[2] / tolFlat)
		o.with(a.seg, a.at.Add(across), body.Vec{0, 0, 1 / tolFlat})
		o.with(a.seg, a.at, body.Vec{0, 0, -1 / tolFlat})
	case "plumb", "level":
		pr.trunk(rel, f, o)
	case "height":
		a := pr.point(f, rel.Args[0])
		o.put((a.at[2] - rel.Value) / tolPoint)
		o.with(a.seg, a.at, body.Vec{0, 0, 1 / tolPoint})
	case "balance":
		pr.balance(st, f, o)
	}
}

// inLine keeps three points in a line as seen from the side: only the bend across the line and away
// from the left counts.
func (pr *problem) inLine(rel *Relation, f *body.Frames, o *rows) {
	ps := [3]fixedPoint{pr.point(f, rel.Args[0]), pr.point(f, rel.Args[1]), pr.point(f, rel.Args[2])}
	left := f.R[body.SegPelvis].Col(1)
	bend := func(p [4]body.Vec) float64 { // the fourth is the pelvis' left
		n := p[2].Sub(p[0]).Unit().Cross(p[3]).Unit()
		return p[1].Sub(p[0]).Dot(n) / tolPoint
	}
	at := [4]body.Vec{ps[0].at, ps[1].at, ps[2].at, left}
	v := bend(at)
	o.put(v)
	if o.tw == nil {
		return
	}
	const h = 1e-6
	for i := range at {
		var g body.Vec
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
}

// touch keeps two points together, or a distance apart.
func (pr *problem) touch(rel *Relation, f *body.Frames, o *rows) {
	a, c := pr.point(f, rel.Args[0]), pr.point(f, rel.Args[1])
	d := a.at.Sub(c.at)
	if rel.Value > 0 {
		o.put((d.Len() - rel.Value) / tolPoint)
		o.between(a, c, d.Unit().Scale(1/tolPoint))
		return
	}
	for k := 0; k < 3; k++ {
		var e body.Vec
		e[k] = 1 / tolPoint / 2
		o.put(d.Dot(e))
		o.between(a, c, e)
	}
}

// trunk keeps the trunk plumb or level.
func (pr *problem) trunk(rel *Relation, f *body.Frames, o *rows) {
	foot, neck := f.P[body.SegPelvis].Add(f.R[body.SegPelvis].Mul(pr.b.TrunkFoot())), f.P[body.SegN1]
	d := neck.Sub(foot)
	l := d.Len()
	u := d.Scale(1 / l)
	near, far := fixedPoint{body.SegPelvis, foot}, fixedPoint{body.SegN1, neck}
	part := func(k int) { // how much of the trunk's direction points along an axis
		var e body.Vec
		e[k] = 1
		o.put(u[k] / tolAim)
		o.between(far, near, e.Sub(u.Scale(u[k])).Scale(1/l/tolAim))
	}
	if rel.Kind == "level" {
		part(2)
		left := f.R[body.SegPelvis].Col(1)
		o.put(left[2] / tolAim)
		o.turned(left, body.Vec{0, 0, 1 / tolAim})
		return
	}
	part(0)
	part(1)
}

// balance keeps the centre of mass inside the base of support, by small steps.
func (pr *problem) balance(st *body.State, f *body.Frames, o *rows) {
	v := pr.imbalance(f)
	o.put(v)
	if o.tw == nil || v == 0 {
		return
	}
	const h = 1e-6
	row := &o.j[len(o.j)-1]
	var g body.Frames
	for k := range row {
		var d [nState]float64
		d[k] = h
		moved := moved(st, &d)
		pr.b.Place(&moved, &g)
		row[k] = (pr.imbalance(&g) - v) / h
	}
}

// imbalance is how far the centre of mass is from being safely inside the base of
// support, in tolerances.
func (pr *problem) imbalance(f *body.Frames) float64 {
	const inside = 0.035
	pts := make([]body.Vec, 0, 8*len(pr.touching))
	for _, t := range pr.touching {
		pts = body.Ring(pts, pr.b.TouchPoint(f, t.sphere, t.surface), pr.b.Spheres[t.sphere].Pad)
	}
	return math.Max(0, inside-body.Margin(body.EffectiveCentre(pr.b.COM(f), pr.pulls(f)), pts)) / tolBalance
}

func (pr *problem) pulls(f *body.Frames) []body.Pull {
	if len(pr.props) == 0 {
		return nil
	}
	return pr.b.Pulls(pr.props, f)
}
