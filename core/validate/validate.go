// Package validate finds what is wrong with a solved pose: gaps, joints beyond their range, limbs in
// each other or in furniture, what a camera hides, and a body that would fall.
package validate

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"

	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/statics"
)

// Tolerances of the validator: metres, degrees, shares, body weight x metre.
const (
	maxGap         = 0.003
	maxPenetration = 0.005
	maxOverLimit   = 0.5
	maxOffAngle    = 6.0
	maxOffSpine    = 3.0
	minMargin      = 2.0 // cm
)

// Pose checks one solved pose; every line says what is wrong and by how much.
// Held poses must also balance.
func Pose(s *pose.Solver, p *pose.Pose, held bool) []string { return validate(s, p, held, 1) }

// Path checks a pose between two phases at twice the tolerances.
func Path(s *pose.Solver, p *pose.Pose) []string { return validate(s, p, false, 2) }

func validate(s *pose.Solver, p *pose.Pose, held bool, slack float64) []string {
	var out []string
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	var f body.Frames
	b := s.Body
	b.Place(&p.State, &f)
	touching := map[int]bool{}
	for _, c := range p.Contacts {
		i := s.Index[c.Sphere]
		touching[i] = true
		gap := body.Surfaces[c.Surface].Gap(b.SphereCenter(&f, i), b.Spheres[i].R)
		if gap > maxGap*slack || gap < -maxPenetration*slack {
			say("%s is %.1f mm off the %s", c.Sphere, gap*1000, c.Surface)
		}
	}
	for i := range b.Spheres {
		if v := b.SpherePoint(&f, i)[2]; !touching[i] && !p.Folded(b.Spheres[i].Name) && v < -maxPenetration*slack {
			say("%s is %.1f mm under the floor", b.Spheres[i].Name, -v*1000)
		}
		for _, w := range p.Walls() {
			if g := w.Gap(b.SphereCenter(&f, i), b.Spheres[i].R); !touching[i] && g < -maxPenetration*slack {
				say("%s is %.1f mm inside the %s", b.Spheres[i].Name, -g*1000, w.Kind)
			}
		}
	}
	for i, l := range body.JointLimits {
		a := p.Q[i] / body.Deg
		if over := math.Max(a-l[1], l[0]-a); over > maxOverLimit*slack {
			say("%s is %.1f degrees beyond its range", pose.DofName(i), over)
		}
	}
	for i, want := range p.Asked {
		limit := maxOffAngle
		if i < body.Limbs {
			limit = maxOffSpine
		}
		if d := math.Abs(p.Q[i]-want) / body.Deg; d > limit {
			say("%s asked %.0f, solved %.1f", pose.DofName(i), want/body.Deg, p.Q[i]/body.Deg)
		}
	}
	out = append(out, s.RelationErrors(p, &f)...)
	out = append(out, crossings(b, &f, slack)...)
	if slack == 1 {
		out = append(out, hidden(s, p, &f)...)
	}
	if held || p.Spec.Promises() {
		m := statics.NewMeasurer(s).Measure(p)
		out = append(out, carriesLess(p, &m)...)
		if !held {
			sort.Strings(out)
			return out
		}
		// Someone hanging in a strap may lean beyond the feet: the balance of forces decides.
		if m.Margin < minMargin && !p.Strapped() {
			say("would fall: centre of mass %.1f cm inside the base", m.Margin)
		}
		if fe, me := m.Errors(); fe > statics.MaxForceError || me > statics.MaxMomentError {
			say("does not balance: force error %.3f, moment error %.3f", fe, me)
		}
	}
	sort.Strings(out)
	return out
}

// capsule is a limb segment as a line with a radius, for crossings.
type capsule struct {
	name string
	a, b body.Vec
	r    float64
}

func capsules(b *body.Body, f *body.Frames) []capsule {
	s := b.Scale
	var out []capsule
	for _, side := range []string{".left", ".right"} {
		p := func(n string) body.Vec { return b.Point(f, n+side) }
		out = append(out,
			capsule{"upper arm" + side, p("shoulder").Lerp(p("elbow"), 0.35), p("elbow"), 0.035 * s},
			capsule{"forearm" + side, p("elbow"), p("wrist"), 0.028 * s},
			capsule{"thigh" + side, p("hip").Lerp(p("knee"), 0.3), p("knee"), 0.05 * s},
			capsule{"shank" + side, p("knee"), p("ankle"), 0.04 * s})
	}
	out = append(
		out,
		capsule{
			"trunk",
			f.P[body.SegL2].Add(f.R[body.SegL2].Mul(body.Vec{0.045 * s, 0, 0})),
			f.P[body.SegT3].Add(f.R[body.SegT3].Mul(body.Vec{0.05 * s, 0, 0})),
			0.075 * s,
		},
		capsule{"head", b.Point(f, "ear"), b.Point(f, "crown").Lerp(b.Point(f, "ear"), 0.4), 0.075 * s},
	)
	return out
}

// crossings lists limbs that pass through each other or the trunk.
func crossings(b *body.Body, f *body.Frames, slack float64) []string {
	cs := capsules(b, f)
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
func segmentDistance(p1, q1, p2, q2 body.Vec) float64 {
	d1, d2, r := q1.Sub(p1), q2.Sub(p2), p1.Sub(p2)
	a, e, f := d1.Dot(d1), d2.Dot(d2), d2.Dot(r)
	c, b := d1.Dot(r), d1.Dot(d2)
	den := a*e - b*b
	s := 0.0
	if den > 1e-12 {
		s = body.Clamp((b*f-c*e)/den, 0, 1)
	}
	t := (b*s + f) / e
	if t < 0 {
		t, s = 0, body.Clamp(-c/a, 0, 1)
	} else if t > 1 {
		t, s = 1, body.Clamp((b-c)/a, 0, 1)
	}
	return p1.Add(d1.Scale(s)).Sub(p2.Add(d2.Scale(t))).Len()
}

// Collisions lists skin that is inside the furniture by more than the tolerance.
func Collisions(s *pose.Solver, p *pose.Pose, scene furniture.Scene, slack float64) []string {
	var f body.Frames
	s.Body.Place(&p.State, &f)
	worst := map[string]float64{}
	for i := range s.Body.Spheres {
		sp := &s.Body.Spheres[i]
		if p.Folded(sp.Name) {
			continue
		}
		c := f.P[sp.Seg].Add(f.R[sp.Seg].Mul(sp.At))
		for _, q := range scene.Blocks {
			if furniture.Soft(q.Kind) {
				continue
			}
			dx, dy, dz := c[0]-body.Clamp(c[0], q.X0, q.X1), c[1]-body.Clamp(c[1], q.Y0, q.Y1), c[2]-body.Clamp(c[2], q.Z0, q.Z1)
			depth := sp.R - math.Sqrt(dx*dx+dy*dy+dz*dz)
			if depth > maxPenetration*slack+0.015 { // flesh and clothes give a little at an edge
				worst[sp.Name+" is inside the "+q.Kind] = math.Max(depth, worst[sp.Name+" is inside the "+q.Kind])
			}
		}
	}
	return slices.Sorted(maps.Keys(worst))
}
