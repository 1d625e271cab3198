package pose

import (
	"math"

	"restbend/core/body"
)

// Path returns n solved poses strictly between a and b: joint angles are blended and
// then settled on the contacts the two poses share. A contact that ends in the same
// place stays there; one that slides moves in a straight line along its surface; one
// that steps is lifted, carried and put down, one limb after the other.
func (s *Solver) Path(a, b *Pose, travel Travel, n int) []*Pose {
	shared, turns := s.shared(a, b, travel)
	fists := a.closed(b)
	out := make([]*Pose, 0, n)
	for k := 1; k <= n; k++ {
		t := float64(k) / float64(n+1)
		t = t * t * (3 - 2*t) // eased: people start and stop gently
		target := body.State{Root: a.Root.Lerp(b.Root, t), Turn: a.Turn.Slerp(b.Turn, t)}
		for i := range target.Q {
			target.Q[i] = a.Q[i] + t*(b.Q[i]-a.Q[i])
		}
		pr := &problem{
			b:         s.Body,
			target:    target,
			rootSigma: 0.03,
			turnSigma: [3]float64{3 * body.Deg, 3 * body.Deg, 3 * body.Deg},
			heading:   a.heading,
		}
		for i := range pr.sigma {
			pr.sigma[i] = 2 * body.Deg
			switch {
			case i < body.Limbs:
				pr.sigma[i] = 0.5 * body.Deg
			case turns > 0: // while one limb steps the others give way to keep their place
				pr.sigma[i] = 8 * body.Deg
			}
		}
		between := &Pose{fists: fists}
		s.carry(pr, between, shared, t, turns)
		st, _ := pr.minimise(target, 60, 1)
		out = append(out, &Pose{
			State:    st,
			Contacts: between.Contacts,
			Position: a.Position,
			Props:    a.Props,
			View:     a.View,
			Pulls:    a.Pulls && b.Pulls,
			fists:    fists,
			heading:  a.heading,
		})
	}
	return out
}

// kept is a contact that two poses share.
type kept struct {
	contactAt
	contact  Contact
	from, to body.Vec
	step     int // which limb's turn it is to step, from 1; 0 stays or slides
}

// shared are the contacts of two poses, and how many limbs step from one to the other.
func (s *Solver) shared(a, b *Pose, travel Travel) (out []kept, turns int) {
	var fa, fb body.Frames
	s.Body.Place(&a.State, &fa)
	s.Body.Place(&b.State, &fb)
	order := map[string]int{}
	for _, ca := range a.Contacts {
		for _, cb := range b.Contacts {
			if ca.Sphere != cb.Sphere || ca.Surface != cb.Surface {
				continue
			}
			i, surface := s.Index[ca.Sphere], body.Surfaces[ca.Surface]
			k := kept{contactAt{sphere: i, surface: surface}, ca,
				s.Body.TouchPoint(&fa, i, surface), s.Body.TouchPoint(&fb, i, surface), 0}
			if travel[ca.Sphere] == Steps && k.to.Sub(k.from).Len() > MaxStray {
				limb := LimbOfSphere(ca.Sphere)
				if order[limb] == 0 {
					order[limb] = len(order) + 1
				}
				k.step = order[limb]
			}
			out = append(out, k)
		}
	}
	return out, len(order)
}

// carry puts shared contacts where they are at a share of the way, and all else above the ground.
func (s *Solver) carry(pr *problem, between *Pose, shared []kept, t float64, turns int) {
	is := map[int]bool{}
	for _, c := range shared {
		at, up := c.from.Lerp(c.to, t), 0.0
		if c.step > 0 {
			at, up = stepped(c.from, c.to, t*float64(turns)-float64(c.step-1))
		}
		c.anchor = &at
		if up > 0 { // in the air: held to its arc, above its surface
			c.surface.D += up
		} else {
			between.Contacts = append(between.Contacts, c.contact)
		}
		is[c.sphere] = true
		pr.touching = append(pr.touching, c.contactAt)
	}
	pr.walls = between.Walls()
	for i := range s.Body.Spheres {
		if !is[i] && !between.Folded(s.Body.Spheres[i].Name) {
			pr.others = append(pr.others, i)
		}
	}
}

// stepHeight is how high a stepping hand or foot is carried, metres (product default:
// clearly lifted, as in walking).
const stepHeight = 0.05

// stepped is where a contact is in its own part of a path, 0 to 1, and how high above its
// surface.
func stepped(from, to body.Vec, t float64) (at body.Vec, up float64) {
	switch {
	case t <= 0:
		return from, 0
	case t >= 1:
		return to, 0
	}
	return from.Lerp(to, body.Clamp((t-0.2)/0.6, 0, 1)), stepHeight * math.Sin(math.Pi*t)
}

// speedWindow is how long a speed is taken over, seconds (product default: shorter ones show the
// steps of the solver).
const speedWindow = 0.5

// Speeds are the fastest joint and the fastest turn of the head in space along a row of states
// that takes some seconds, degrees a second.
func (s *Solver) Speeds(row []body.State, seconds float64) (joint, head float64) {
	last := len(row) - 1
	if last < 1 || seconds <= 0 {
		return 0, 0
	}
	heads := make([]body.Frames, len(row))
	for i := range row {
		s.Body.Place(&row[i], &heads[i])
	}
	w := min(last, int(math.Ceil(speedWindow*float64(last)/seconds)))
	per := float64(last) / seconds / float64(w) / body.Deg
	for k := w; k <= last; k++ {
		for j := range row[k].Q {
			joint = math.Max(joint, per*math.Abs(row[k].Q[j]-row[k-w].Q[j]))
		}
		a, b := heads[k-w].R[body.SegHead], heads[k].R[body.SegHead]
		trace := a.Col(0).Dot(b.Col(0)) + a.Col(1).Dot(b.Col(1)) + a.Col(2).Dot(b.Col(2))
		head = math.Max(head, per*math.Acos(body.Clamp((trace-1)/2, -1, 1)))
	}
	return joint, head
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
	d := rotationTo(a.Turn, b.Turn).Len() / body.Deg
	for i := range a.Q {
		d = math.Max(d, math.Abs(a.Q[i]-b.Q[i])/body.Deg)
	}
	return d
}

// closed tells of the left and the right hand whether it stays closed on the way from a to b:
// when it is in either.
func (a *Pose) closed(b *Pose) [2]bool {
	return [2]bool{a.Fist(".left") || b.Fist(".left"), a.Fist(".right") || b.Fist(".right")}
}

// OnTheWay is a state on the way from a to b as a posture of that way.
func OnTheWay(a, b *Pose, st body.State) *Pose {
	return &Pose{State: st, Position: a.Position, Props: a.Props, View: a.View, fists: a.closed(b)}
}

// MaxStray is how far a contact that stays may seem to move, metres.
const MaxStray = 0.02

// Travel tells, by ball of skin, which contacts of an exercise slide or step.
type Travel map[string]int

// How a contact travels.
const (
	Slides = 1 + iota
	Steps
)

// TravelOf collects what the poses of one exercise let slide or step. Both ways count:
// what slides out slides back.
func TravelOf(specs []*Spec) Travel {
	out := Travel{}
	for _, s := range specs {
		for _, c := range s.Slide {
			out[c] = Slides
		}
		for _, c := range s.Step {
			out[c] = Steps
		}
	}
	return out
}
