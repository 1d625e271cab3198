package body

import "math"

// Path returns n solved poses strictly between a and b: joint angles are blended and
// then settled on the contacts the two poses share. A contact that ends in the same
// place stays there; one that slides moves in a straight line along its surface.
func (s *Solver) Path(a, b *Pose, n int) []*Pose {
	var fa, fb Frames
	s.Body.Place(&a.State, &fa)
	s.Body.Place(&b.State, &fb)
	type kept struct {
		contactAt
		from, to Vec
	}
	var shared []kept
	var contacts []Contact
	for _, ca := range a.Contacts {
		for _, cb := range b.Contacts {
			if ca.Sphere == cb.Sphere && ca.Surface == cb.Surface {
				i, surface := s.index[ca.Sphere], Surfaces[ca.Surface]
				shared = append(shared, kept{contactAt{sphere: i, surface: surface},
					s.Body.touchPoint(&fa, i, surface), s.Body.touchPoint(&fb, i, surface)})
				contacts = append(contacts, ca)
			}
		}
	}
	fists := [2]bool{a.Fist(".left") || b.Fist(".left"), a.Fist(".right") || b.Fist(".right")}
	between := &Pose{fists: fists, Contacts: contacts}
	is := map[int]bool{}
	for _, k := range shared {
		is[k.sphere] = true
	}
	out := make([]*Pose, 0, n)
	for k := 1; k <= n; k++ {
		t := float64(k) / float64(n+1)
		t = t * t * (3 - 2*t) // eased: people start and stop gently
		target := State{Root: a.Root.Lerp(b.Root, t), Turn: a.Turn.slerp(b.Turn, t)}
		for i := range target.Q {
			target.Q[i] = a.Q[i] + t*(b.Q[i]-a.Q[i])
		}
		pr := &problem{b: s.Body, target: target, rootSigma: 0.03, turnSigma: [3]float64{3 * deg, 3 * deg, 3 * deg}, heading: a.heading, walls: between.walls()}
		for i := range pr.sigma {
			pr.sigma[i] = 2 * deg
			if i < limbs {
				pr.sigma[i] = 0.5 * deg
			}
		}
		for _, c := range shared {
			at := c.from.Lerp(c.to, t)
			c.anchor = &at
			pr.touching = append(pr.touching, c.contactAt)
		}
		for i := range s.Body.spheres {
			if !is[i] && !between.folded(s.Body.spheres[i].name) {
				pr.others = append(pr.others, i)
			}
		}
		st, _ := pr.minimise(target, 25)
		p := &Pose{State: st, Contacts: contacts, Position: a.Position, Props: a.Props, View: a.View, Pulls: a.Pulls && b.Pulls, fists: fists, heading: a.heading}
		out = append(out, p)
	}
	return out
}

// WidestAngle names the angle in which two poses differ most.
func WidestAngle(a, b *Pose) string {
	name, d := "orientation", rotationTo(a.Turn, b.Turn).Len()
	for i := range a.Q {
		if x := math.Abs(a.Q[i] - b.Q[i]); x > d {
			name, d = DofName(i), x
		}
	}
	return name
}

// AngleBetween is the largest difference of two poses in any angle, degrees.
func AngleBetween(a, b *Pose) float64 {
	d := rotationTo(a.Turn, b.Turn).Len() / deg
	for i := range a.Q {
		d = math.Max(d, math.Abs(a.Q[i]-b.Q[i])/deg)
	}
	return d
}
