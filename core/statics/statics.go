package statics

import (
	"math"
	"strings"

	"restbend/core/body"
	"restbend/core/pose"
)

// support is one contact that can carry weight.
type support struct {
	at      body.Vec
	seg     int
	report  string
	pad     float64
	surface body.Surface
	line    bool     // a strap: it holds along its line only
	force   body.Vec // on the body, in body weights
}

// normal is the share of body weight the contact carries.
func (s *support) normal() float64 { return s.force.Dot(s.surface.N) }

// friction is how much a contact may push along its surface, as a fraction of how hard
// it presses: a mat or a rubber sole (value from memory of tables of sliding friction).
const friction = 0.5

// supports are the contacts of a pose and, for force sharing, their places.
func supports(b *body.Body, p *pose.Pose, f *body.Frames, index map[string]int) []support {
	var out []support
	for _, c := range p.Contacts {
		i, surface := index[c.Sphere], body.Surfaces[c.Surface]
		out = append(out, support{at: b.TouchPoint(f, i, surface), seg: b.Spheres[i].Seg, report: c.Report,
			pad: b.Spheres[i].Pad, surface: surface})
	}
	for i := range p.Props {
		if h := &p.Props[i]; h.Kind == "strap" {
			ends := h.Ends(b, f)
			seg, _ := b.FixedAt(h.At[0])
			out = append(out, support{at: ends[0], seg: seg, report: strapReport(h.At[0]), line: true,
				surface: body.Surface{N: ends[1].Sub(ends[0]).Unit()}})
		}
	}
	return append(out, restingArms(b, p, f, index)...)
}

// strapReport is the contact under which a strap's hold is reported.
func strapReport(point string) string {
	base, side, _ := strings.Cut(point, ".")
	if pose.ArmPoint(point) {
		base = "hand"
	} else if pose.LegPoint(point) {
		base = "foot"
	}
	return base + "." + side
}

// leans tells whether a pose pushes or is pulled sideways: then contacts hold by
// friction too. On level ground alone only upright reactions are used, which is the
// stricter reading for the low back.
func leans(p *pose.Pose) bool {
	for _, c := range p.Contacts {
		s := body.Surfaces[c.Surface]
		if s.Upright() || armContact(c.Sphere) && s.D >= 0.3 {
			return true
		}
	}
	for i := range p.Props {
		if h := &p.Props[i]; h.Kind == "strap" || h.Newtons > 0 && h.Anchor != "" {
			return true
		}
	}
	return false
}

func armContact(sphere string) bool {
	return strings.HasPrefix(pose.LimbOfSphere(sphere), "arm")
}

// restingArms are forearms that lie on the floor beside a lying body: the floor carries
// the arm although no contact is asked for.
func restingArms(b *body.Body, p *pose.Pose, f *body.Frames, index map[string]int) []support {
	up := f.R[body.SegT3].Col(2)
	if math.Abs(up[2]) > 0.6 {
		return nil
	}
	var out []support
	for _, side := range []string{".left", ".right"} {
		down := false
		for _, c := range p.Contacts {
			down = down || pose.LimbOfSphere(c.Sphere) == "arm"+side
		}
		if down {
			continue
		}
		for _, name := range []string{"elbow", "forearm-end"} {
			if i := index[name+side]; b.SpherePoint(f, i)[2] < nearSupport {
				out = append(out, support{at: b.SpherePoint(f, i), seg: b.Spheres[i].Seg, report: "forearm" + side,
					surface: body.Surfaces["floor"]})
			}
		}
	}
	return out
}

// loadedJoints are the joints whose gravity moments are kept small where statics leaves
// the reactions undetermined.
var loadedJoints = []int{body.SegL2, body.SegT2, body.SegN1,
	body.LimbSeg(body.Left, body.SegUpperArm), body.LimbSeg(body.Left, body.SegForearm),
	body.LimbSeg(body.Left, body.SegThigh), body.LimbSeg(body.Left, body.SegShank),
	body.LimbSeg(body.Right, body.SegUpperArm), body.LimbSeg(body.Right, body.SegForearm), body.LimbSeg(body.Right,
		body.SegThigh), body.LimbSeg(body.Right, body.SegShank)}

// distal tells whether a segment lies on the far side of the joint at the near end of
// segment j, seen from the pelvis.
func distal(seg, j int) bool {
	if j < body.SegLimbs { // a spine joint carries everything above it, arms included
		if seg < body.SegLimbs {
			return seg >= j
		}
		return (seg-body.SegLimbs)%body.SegLimbCount < body.SegThigh
	}
	if seg < body.SegLimbs || (seg-body.SegLimbs)/body.SegLimbCount != (j-body.SegLimbs)/body.SegLimbCount {
		return false
	}
	k, m := (j-body.SegLimbs)%body.SegLimbCount, (seg-body.SegLimbs)%body.SegLimbCount
	if (k < body.SegThigh) != (m < body.SegThigh) {
		return false
	}
	return m >= k
}

// moment is the moment in body weight x metre about the near joint of segment j of the
// weights, outside forces and reactions beyond it.
func moment(b *body.Body, j int, f *body.Frames, sup []support, pulls []body.Pull) body.Vec {
	var m body.Vec
	at := f.P[j]
	for _, w := range b.Masses {
		if distal(w.Seg, j) {
			arm := f.P[w.Seg].Add(f.R[w.Seg].Mul(w.At)).Sub(at)
			m = m.Add(arm.Cross(body.Vec{0, 0, -w.Share}))
		}
	}
	for _, p := range pulls {
		if distal(p.Seg, j) {
			m = m.Add(p.At.Sub(at).Cross(p.Force))
		}
	}
	for _, s := range sup {
		if distal(s.seg, j) {
			m = m.Add(s.at.Sub(at).Cross(s.force))
		}
	}
	return m
}

// ray is one direction in which a contact can push: straight off its surface, or leaning
// as far as friction allows.
type ray struct {
	support int
	dir     body.Vec
}

func rays(sup []support, leaning bool) []ray {
	var out []ray
	for i := range sup {
		s := &sup[i]
		out = append(out, ray{i, s.surface.N})
		if !leaning || s.line || s.surface.Kind == "ball" { // a ball rolls away
			continue
		}
		t1, t2 := s.surface.Tangents()
		for _, t := range []body.Vec{t1, t1.Scale(-1), t2, t2.Scale(-1)} {
			out = append(out, ray{i, s.surface.N.Add(t.Scale(friction))})
		}
	}
	return out
}

// Weights of the conditions in sharing: balance is kept exactly; where statics leaves a
// choice, joint moments are kept small, then friction, then unevenness.
const (
	stiffBalance = 200
	tinyFriction = 0.1
	tinyUneven   = 0.01
)

// share finds reactions that push and never pull and that balance the body; where
// statics leaves them undetermined they minimise the joint moments. It returns the
// errors of force (share of body weight) and moment (body weight x metre).
func share(b *body.Body, f *body.Frames, sup []support, pulls []body.Pull, leaning bool) (forceErr, momentErr float64) {
	if len(sup) == 0 {
		return 1, 1
	}
	com := b.COM(f)
	rs := rays(sup, leaning)
	n := len(rs)
	var a [][]float64
	var rhs []float64
	row := func(w, b float64, col func(ray) float64) {
		r := make([]float64, n)
		for i := range r {
			r[i] = w * col(rs[i])
		}
		a, rhs = append(a, r), append(rhs, w*b)
	}
	outside, turning := body.Vec{0, 0, -1}, body.Vec{} // forces and moments about the centre of mass to hold
	for _, p := range pulls {
		outside, turning = outside.Add(p.Force), turning.Add(p.At.Sub(com).Cross(p.Force))
	}
	for k := 0; k < 3; k++ {
		if k < 2 && !leaning {
			continue // level ground pushes straight up
		}
		row(stiffBalance, -outside[k], func(r ray) float64 { return r.dir[k] })
	}
	for k := 0; k < 3; k++ {
		row(stiffBalance, -turning[k], func(r ray) float64 { return sup[r.support].at.Sub(com).Cross(r.dir)[k] })
	}
	for i := range sup {
		sup[i].force = body.Vec{}
	}
	for _, j := range loadedJoints {
		at := f.P[j]
		own := moment(b, j, f, sup, pulls) // weights and outside forces only
		for k := 0; k < 3; k++ {
			row(1, -own[k], func(r ray) float64 {
				if !distal(sup[r.support].seg, j) {
					return 0
				}
				return sup[r.support].at.Sub(at).Cross(r.dir)[k]
			})
		}
	}
	for i := range sup {
		for _, t := range []body.Vec{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}} {
			if along := t.Sub(sup[i].surface.N.Scale(t.Dot(sup[i].surface.N))); leaning && along.Len() > 0.1 {
				row(tinyFriction, 0, func(r ray) float64 { return b2f(r.support == i) * r.dir.Dot(along) })
			}
		}
		row(tinyUneven, 0, func(r ray) float64 { return b2f(r.support == i) * r.dir.Dot(sup[i].surface.N) })
	}
	x := nonNegative(a, rhs)
	force, m := outside, turning
	for i, r := range rs {
		s := &sup[r.support]
		s.force = s.force.Add(r.dir.Scale(x[i]))
	}
	for i := range sup {
		force, m = force.Add(sup[i].force), m.Add(sup[i].at.Sub(com).Cross(sup[i].force))
	}
	if !leaning {
		return math.Abs(force[2]), math.Hypot(m[0], m[1])
	}
	return force.Len(), m.Len()
}

func b2f(b bool) float64 {
	if b {
		return 1
	}
	return 0
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
