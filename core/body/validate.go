package body

import (
	"fmt"
	"math"
	"sort"
)

// Tolerances of the validator: metres, degrees, shares, body weight x metre.
const (
	maxGap         = 0.003
	maxPenetration = 0.005
	maxOverLimit   = 0.5
	maxOffAngle    = 6.0
	maxOffSpine    = 3.0
	minMargin      = 2.0 // cm
	maxForceError  = 0.005
	maxMomentError = 0.02
	maxMirror      = 0.1
	maxJitter      = 2.0
)

// Validate checks one solved pose; every line says what is wrong and by how much.
// Held poses must also balance.
func (s *Solver) Validate(p *Pose, held bool) []string { return s.validate(p, held, 1) }

// ValidatePath checks a pose between two phases at twice the tolerances.
func (s *Solver) ValidatePath(p *Pose) []string { return s.validate(p, false, 2) }

func (s *Solver) validate(p *Pose, held bool, slack float64) []string {
	var out []string
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	var f Frames
	b := s.Body
	b.Place(&p.State, &f)
	touching := map[int]bool{}
	for _, c := range p.Contacts {
		i := s.index[c.Sphere]
		touching[i] = true
		gap := Surfaces[c.Surface].gap(b.sphereCenter(&f, i), b.spheres[i].r)
		if gap > maxGap*slack || gap < -maxPenetration*slack {
			say("%s is %.1f mm off the %s", c.Sphere, gap*1000, c.Surface)
		}
	}
	for i := range b.spheres {
		if v := b.spherePoint(&f, i)[2]; !touching[i] && !p.folded(b.spheres[i].name) && v < -maxPenetration*slack {
			say("%s is %.1f mm under the floor", b.spheres[i].name, -v*1000)
		}
		for _, w := range p.walls() {
			if g := w.gap(b.sphereCenter(&f, i), b.spheres[i].r); !touching[i] && g < -maxPenetration*slack {
				say("%s is %.1f mm inside the %s", b.spheres[i].name, -g*1000, w.Kind)
			}
		}
	}
	for i, l := range jointLimits {
		a := p.Q[i] / deg
		if over := math.Max(a-l[1], l[0]-a); over > maxOverLimit*slack {
			say("%s is %.1f degrees beyond its range", DofName(i), over)
		}
	}
	for i, want := range p.Asked {
		limit := maxOffAngle
		if i < limbs {
			limit = maxOffSpine
		}
		if d := math.Abs(p.Q[i]-want) / deg; d > limit {
			say("%s asked %.0f, solved %.1f", DofName(i), want/deg, p.Q[i]/deg)
		}
	}
	out = append(out, s.relationErrors(p, &f)...)
	out = append(out, b.crossings(&f, slack)...)
	if slack == 1 {
		out = append(out, s.hidden(p, &f)...)
	}
	if held || p.Spec.promises() {
		m := NewMeasurer(s).Measure(p)
		out = append(out, p.carried(&m)...)
		if !held {
			sort.Strings(out)
			return out
		}
		// Someone hanging in a strap may lean beyond the feet: the balance of forces decides.
		if m.Margin < minMargin && !p.strapped() {
			say("would fall: centre of mass %.1f cm inside the base", m.Margin)
		}
		if fe, me := m.Errors(); fe > maxForceError || me > maxMomentError {
			say("does not balance: force error %.3f, moment error %.3f", fe, me)
		}
	}
	sort.Strings(out)
	return out
}

func (s *Solver) relationErrors(p *Pose, f *Frames) []string {
	if p.Spec == nil {
		return nil
	}
	var out []string
	pr := &problem{b: s.Body, props: p.Props}
	for _, c := range p.Contacts {
		pr.touching = append(pr.touching, contactAt{sphere: s.index[c.Sphere], surface: Surfaces[c.Surface]})
	}
	for i := range p.Spec.Relations {
		rel := &p.Spec.Relations[i]
		if rel.Kind == "lay" {
			out = append(out, s.Body.layErrors(rel, f)...)
			continue
		}
		worst := 0.0
		var o rows
		pr.relation(rel, &p.State, f, &o)
		for _, v := range o.r {
			worst = math.Max(worst, math.Abs(v))
		}
		// Six times the tolerance: 6 degrees of aim, about 4 cm of a landmark.
		if worst > 6 {
			out = append(out, fmt.Sprintf("%s %v is missed by %.1f tolerances", rel.Kind, rel.Args, worst))
		}
	}
	return out
}

// Mirrored checks that mirroring twice changes nothing and that solving the mirrored
// statements gives the mirrored poses.
func (s *Solver) Mirrored(names []string, specs []*Spec, solved []*Pose) ([]string, error) {
	var mn []string
	var ms []*Spec
	for i := range specs {
		mn = append(mn, MirrorName(names[i]))
		ms = append(ms, specs[i].Mirror())
	}
	other, err := s.Sequence(mn, ms)
	if err != nil {
		return nil, err
	}
	var out []string
	for i, p := range solved {
		if d := AngleBetween(p.Mirror().Mirror(), p); d > 0.01 {
			out = append(out, fmt.Sprintf("%s: mirrored twice differs by %.3f degrees", names[i], d))
		}
		if d := AngleBetween(other[i], p.Mirror()); d > maxMirror {
			out = append(out, fmt.Sprintf("%s: the mirrored solve differs by %.2f degrees in %s", names[i], d, WidestAngle(other[i], p.Mirror())))
		}
	}
	return out, nil
}

// Jittered solves a pose again from a disturbed start; a large difference means the
// statements leave it undecided. The disturbance is fixed by seed.
func (s *Solver) Jittered(p, from *Pose, anchored bool, seed uint64) (differs float64, in string) {
	if p.Spec.Mirrored { // decided as much as the pose it mirrors
		return 0, ""
	}
	pr, _ := s.prepare(p.Spec, from, anchored)
	st := p.State
	r := seed*2862933555777941757 + 3037000493
	next := func() float64 { // -1..1
		r = r*6364136223846793005 + 1442695040888963407
		return float64(int64(r>>11))/float64(1<<52) - 1
	}
	for i := range st.Q {
		st.Q[i] += 4 * deg * next()
	}
	st.Turn = st.Turn.small(Vec{next(), next(), next()}.Scale(4 * deg))
	st.Root = st.Root.Add(Vec{next(), next(), next()}.Scale(0.02))
	got, _ := pr.settle(st, 400)
	return AngleBetween(&Pose{State: got}, p), WidestAngle(&Pose{State: got}, p)
}

// DofName names a joint angle as an author would.
func DofName(dof int) string {
	best := ""
	for key, m := range motions {
		if m.sign > 0 && ((!m.limb && m.dof == dof) || (m.limb && dof >= limbs && m.dof == (dof-limbs)%limbCount)) {
			best = key
		}
	}
	if dof >= limbs {
		side := " left"
		if dof >= limbs+limbCount {
			side = " right"
		}
		best += side
	}
	return best
}

// capsule is a limb segment as a line with a radius, for crossings.
type capsule struct {
	name string
	a, b Vec
	r    float64
}

func (b *Body) capsules(f *Frames) []capsule {
	s := b.scale
	var out []capsule
	for _, side := range []string{".left", ".right"} {
		p := func(n string) Vec { return b.Point(f, n+side) }
		out = append(out,
			capsule{"upper arm" + side, p("shoulder").Lerp(p("elbow"), 0.35), p("elbow"), 0.035 * s},
			capsule{"forearm" + side, p("elbow"), p("wrist"), 0.028 * s},
			capsule{"thigh" + side, p("hip").Lerp(p("knee"), 0.3), p("knee"), 0.05 * s},
			capsule{"shank" + side, p("knee"), p("ankle"), 0.04 * s})
	}
	out = append(out,
		capsule{"trunk", f.P[segL2].Add(f.R[segL2].Mul(Vec{0.045 * s, 0, 0})), f.P[segT3].Add(f.R[segT3].Mul(Vec{0.05 * s, 0, 0})), 0.075 * s},
		capsule{"head", b.Point(f, "ear"), b.Point(f, "crown").Lerp(b.Point(f, "ear"), 0.4), 0.075 * s})
	return out
}

// crossings lists limbs that pass through each other or the trunk.
func (b *Body) crossings(f *Frames, slack float64) []string {
	cs := b.capsules(f)
	var out []string
	for i := range cs {
		for j := i + 1; j < len(cs); j++ {
			if adjacent(cs[i].name, cs[j].name) {
				continue
			}
			if d := segmentDistance(cs[i].a, cs[i].b, cs[j].a, cs[j].b) - cs[i].r - cs[j].r; d < -0.018*slack {
				out = append(out, fmt.Sprintf("%s passes %.0f mm through %s", cs[i].name, -d*1000, cs[j].name))
			}
		}
	}
	return out
}

func adjacent(a, b string) bool {
	pairs := map[string]string{"upper arm": "forearm", "thigh": "shank"}
	for x, y := range pairs {
		for _, s := range []string{".left", ".right"} {
			if a == x+s && b == y+s {
				return true
			}
		}
	}
	return (a == "trunk" && b == "head") || (b == "trunk" && (a == "upper arm.left" || a == "upper arm.right"))
}

// segmentDistance is the distance of two line segments.
func segmentDistance(p1, q1, p2, q2 Vec) float64 {
	d1, d2, r := q1.Sub(p1), q2.Sub(p2), p1.Sub(p2)
	a, e, f := d1.Dot(d1), d2.Dot(d2), d2.Dot(r)
	c, b := d1.Dot(r), d1.Dot(d2)
	den := a*e - b*b
	s := 0.0
	if den > 1e-12 {
		s = clamp((b*f-c*e)/den, 0, 1)
	}
	t := (b*s + f) / e
	if t < 0 {
		t, s = 0, clamp(-c/a, 0, 1)
	} else if t > 1 {
		t, s = 1, clamp((b-c)/a, 0, 1)
	}
	return p1.Add(d1.Scale(s)).Sub(p2.Add(d2.Scale(t))).Len()
}
