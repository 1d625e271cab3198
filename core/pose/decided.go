package pose

import (
	"fmt"
	"math"

	"restbend/core/body"
)

// RelationErrors lists the relations of its statements that a pose misses.
func (s *Solver) RelationErrors(p *Pose, f *body.Frames) []string {
	if p.Spec == nil {
		return nil
	}
	var out []string
	pr := &problem{b: s.Body, props: p.Props}
	for _, c := range p.Contacts {
		pr.touching = append(pr.touching, contactAt{sphere: s.Index[c.Sphere], surface: body.Surfaces[c.Surface]})
	}
	for i := range p.Spec.Relations {
		rel := &p.Spec.Relations[i]
		if rel.Kind == "lay" {
			out = append(out, layErrors(s.Body, rel, f)...)
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
		mn = append(mn, body.MirrorName(names[i]))
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
			out = append(
				out,
				fmt.Sprintf("%s: the mirrored solve differs by %.2f degrees in %s", names[i], d, WidestAngle(other[i], p.Mirror())),
			)
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
		st.Q[i] += 4 * body.Deg * next()
	}
	st.Turn = st.Turn.Small(body.Vec{next(), next(), next()}.Scale(4 * body.Deg))
	st.Root = st.Root.Add(body.Vec{next(), next(), next()}.Scale(0.02))
	got, _ := pr.settle(st, 400)
	return AngleBetween(&Pose{State: got}, p), WidestAngle(&Pose{State: got}, p)
}

// maxMirror is how far a mirrored solve may be off, degrees.
const maxMirror = 0.1
