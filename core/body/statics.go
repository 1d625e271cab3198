package body

import (
	"math"
	"sort"
)

// Gravity is standard gravity, m/s^2.
const Gravity = 9.80665

// support is one contact that can carry weight.
type support struct {
	at     Vec
	seg    int
	report string
	pad    float64
	force  float64 // share of body weight
}

// supports are the contacts of a pose and, for force sharing, their places.
func (b *Body) supports(p *Pose, f *Frames, index map[string]int) []support {
	var out []support
	for _, c := range p.Contacts {
		i := index[c.Sphere]
		out = append(out, support{at: b.spherePoint(f, i), seg: b.spheres[i].seg, report: c.Report, pad: b.spheres[i].pad})
	}
	return append(out, b.restingArms(p, f, index)...)
}

// restingArms are forearms that lie on the floor beside a lying body: the floor carries
// the arm although no contact is asked for.
func (b *Body) restingArms(p *Pose, f *Frames, index map[string]int) []support {
	up := f.R[segT3].Col(2)
	if math.Abs(up[2]) > 0.6 {
		return nil
	}
	var out []support
	for _, side := range []string{".left", ".right"} {
		down := false
		for _, c := range p.Contacts {
			down = down || limbOfSphere(c.Sphere) == "arm"+side
		}
		if down {
			continue
		}
		for _, name := range []string{"elbow", "forearm-end"} {
			if i := index[name+side]; b.spherePoint(f, i)[2] < nearSupport {
				out = append(out, support{at: b.spherePoint(f, i), seg: b.spheres[i].seg, report: "forearm" + side, pad: 0})
			}
		}
	}
	return out
}

// loadedJoints are the joints whose gravity moments are kept small where statics leaves
// the reactions undetermined.
var loadedJoints = []int{segL2, segT2, segN1,
	limbSeg(Left, segUpperArm), limbSeg(Left, segForearm), limbSeg(Left, segThigh), limbSeg(Left, segShank),
	limbSeg(Right, segUpperArm), limbSeg(Right, segForearm), limbSeg(Right, segThigh), limbSeg(Right, segShank)}

// distal tells whether a segment lies on the far side of the joint at the near end of
// segment j, seen from the pelvis.
func distal(seg, j int) bool {
	if j < segLimbs { // a spine joint carries everything above it, arms included
		if seg < segLimbs {
			return seg >= j
		}
		return (seg-segLimbs)%segLimbCount < segThigh
	}
	if seg < segLimbs || (seg-segLimbs)/segLimbCount != (j-segLimbs)/segLimbCount {
		return false
	}
	k, m := (j-segLimbs)%segLimbCount, (seg-segLimbs)%segLimbCount
	if (k < segThigh) != (m < segThigh) {
		return false
	}
	return m >= k
}

// moment is the moment in body weight x metre about the near joint of segment j of the
// weights and reactions beyond it.
func (b *Body) moment(j int, f *Frames, sup []support) Vec {
	var m Vec
	at := f.P[j]
	for _, w := range b.masses {
		if distal(w.seg, j) {
			arm := f.P[w.seg].Add(f.R[w.seg].Mul(w.at)).Sub(at)
			m = m.Add(arm.Cross(Vec{0, 0, -w.share}))
		}
	}
	for _, s := range sup {
		if distal(s.seg, j) {
			m = m.Add(s.at.Sub(at).Cross(Vec{0, 0, s.force}))
		}
	}
	return m
}

// share finds vertical reactions, none negative, that balance the body; where statics
// leaves them undetermined they minimise the joint moments. It returns the errors of
// force (share of body weight) and moment (body weight x metre).
func (b *Body) share(f *Frames, sup []support) (forceErr, momentErr float64) {
	n := len(sup)
	if n == 0 {
		return 1, 1
	}
	com := b.COM(f)
	const stiff = 200
	var rows [][]float64
	var rhs []float64
	row := func(w, b float64, col func(int) float64) {
		r := make([]float64, n)
		for i := range r {
			r[i] = w * col(i)
		}
		rows, rhs = append(rows, r), append(rhs, w*b)
	}
	row(stiff, 1, func(int) float64 { return 1 })
	row(stiff, com[0], func(i int) float64 { return sup[i].at[0] })
	row(stiff, com[1], func(i int) float64 { return sup[i].at[1] })
	for i := range sup {
		sup[i].force = 0
	}
	for _, j := range loadedJoints {
		at := f.P[j]
		own := b.moment(j, f, sup) // weights only
		on := func(i int) Vec {
			if !distal(sup[i].seg, j) {
				return Vec{}
			}
			return sup[i].at.Sub(at).Cross(Vec{0, 0, 1})
		}
		row(1, -own[0], func(i int) float64 { return on(i)[0] })
		row(1, -own[1], func(i int) float64 { return on(i)[1] })
	}
	for i := range sup { // an even spread where nothing else decides
		row(0.01, 0, func(k int) float64 {
			if k == i {
				return 1
			}
			return 0
		})
	}
	x := nonNegative(rows, rhs)
	sum := 0.0
	var m Vec
	for i := range sup {
		sup[i].force = x[i]
		sum += x[i]
		m = m.Add(sup[i].at.Sub(com).Scale(x[i]))
	}
	return math.Abs(sum - 1), math.Hypot(m[0], m[1])
}

// nonNegative solves min |A x - b| with x >= 0 (active set, Lawson and Hanson 1974).
func nonNegative(a [][]float64, b []float64) []float64 {
	n := len(a[0])
	ata := make([][]float64, n)
	atb := make([]float64, n)
	for i := range ata {
		ata[i] = make([]float64, n)
		for r := range a {
			atb[i] += a[r][i] * b[r]
		}
		for j := range ata[i] {
			for r := range a {
				ata[i][j] += a[r][i] * a[r][j]
			}
		}
	}
	x := make([]float64, n)
	in := make([]bool, n)
	for it := 0; it < 6*n+10; it++ {
		best, w := -1, 1e-9
		for i := range x {
			if in[i] {
				continue
			}
			g := atb[i]
			for j := range x {
				g -= ata[i][j] * x[j]
			}
			if g > w {
				best, w = i, g
			}
		}
		if best < 0 {
			break
		}
		in[best] = true
		for {
			z := solveActive(ata, atb, in)
			t, block := 1.0, -1
			for i := range z {
				if in[i] && z[i] <= 0 {
					if s := x[i] / (x[i] - z[i]); s < t || block < 0 {
						t, block = s, i
					}
				}
			}
			if block < 0 {
				copy(x, z)
				break
			}
			for i := range x {
				if in[i] {
					x[i] += t * (z[i] - x[i])
					if x[i] <= 1e-12 {
						x[i], in[i] = 0, false
					}
				}
			}
			x[block], in[block] = 0, false
		}
	}
	return x
}

func solveActive(ata [][]float64, atb []float64, in []bool) []float64 {
	var idx []int
	for i, v := range in {
		if v {
			idx = append(idx, i)
		}
	}
	n := len(idx)
	m := make([][]float64, n)
	for i := range m {
		m[i] = make([]float64, n+1)
		for j := range idx {
			m[i][j] = ata[idx[i]][idx[j]]
		}
		m[i][n] = atb[idx[i]]
	}
	for c := 0; c < n; c++ {
		p := c
		for r := c + 1; r < n; r++ {
			if math.Abs(m[r][c]) > math.Abs(m[p][c]) {
				p = r
			}
		}
		m[c], m[p] = m[p], m[c]
		if math.Abs(m[c][c]) < 1e-14 {
			continue
		}
		for r := c + 1; r < n; r++ {
			k := m[r][c] / m[c][c]
			for j := c; j <= n; j++ {
				m[r][j] -= k * m[c][j]
			}
		}
	}
	out := make([]float64, len(in))
	for c := n - 1; c >= 0; c-- {
		v := m[c][n]
		for j := c + 1; j < n; j++ {
			v -= m[c][j] * out[idx[j]]
		}
		if math.Abs(m[c][c]) > 1e-14 {
			out[idx[c]] = v / m[c][c]
		}
	}
	return out
}

// margin is how far inside the convex base of support a point lies, in metres; negative
// outside.
func margin(c Vec, pts []Vec) float64 {
	h := hull(pts)
	if len(h) < 3 {
		return -1
	}
	m := math.Inf(1)
	for i := range h {
		a, b := h[i], h[(i+1)%len(h)]
		e := b.Sub(a)
		l := math.Hypot(e[0], e[1])
		if l < 1e-9 {
			continue
		}
		m = math.Min(m, (e[0]*(c[1]-a[1])-e[1]*(c[0]-a[0]))/l)
	}
	return m
}

// hull is the counter-clockwise convex hull of points seen from above.
func hull(pts []Vec) []Vec {
	p := append([]Vec{}, pts...)
	sort.Slice(p, func(i, j int) bool {
		if p[i][0] != p[j][0] {
			return p[i][0] < p[j][0]
		}
		return p[i][1] < p[j][1]
	})
	cross := func(o, a, b Vec) float64 { return (a[0]-o[0])*(b[1]-o[1]) - (a[1]-o[1])*(b[0]-o[0]) }
	var h []Vec
	for pass := 0; pass < 2; pass++ {
		start := len(h)
		for _, q := range p {
			for len(h) >= start+2 && cross(h[len(h)-2], h[len(h)-1], q) <= 0 {
				h = h[:len(h)-1]
			}
			h = append(h, q)
		}
		h = h[:len(h)-1]
		for i, j := 0, len(p)-1; i < j; i, j = i+1, j-1 {
			p[i], p[j] = p[j], p[i]
		}
	}
	return h
}
