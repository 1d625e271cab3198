package figure

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/trade"
)

// Sequence is one version ready to be drawn, on one side: its phases, its furniture, one
// camera, one frame of view and one paint order for all of them.
type Sequence struct {
	drawer *Drawer
	v      *catalogue.Version
	poses  []*pose.Pose
	room   furniture.Scene
	box    Box
	flip   bool
	base   Options // what all pictures of it share
}

// Sequence prepares a version. Side "left" or "right" names the side that works; an
// unsided version ignores it.
func (d *Drawer) Sequence(v *catalogue.Version, side trade.Side) *Sequence {
	q := &Sequence{drawer: d, v: v}
	authored := trade.BothSides[v.Authored]
	q.flip = v.SideMode != trade.None && side.One() && side != authored
	for i := range v.Solved.Phases {
		q.poses = append(q.poses, q.turn(v.Solved.Phases[i].Pose()))
	}
	q.room = furniture.Place(d.body, q.poses)
	q.base = Options{
		Flip:   q.flip,
		camera: v.View(),
		floor:  onFeet(q.poses),
		held:   holdings(q.poses),
		From:   q.poses[v.Round()],
	}
	q.box = d.Extent(q.poses, q.room, q.flip, q.base.camera)
	if v.Surfaces[0] == springs {
		q.base.carriage, q.room = d.carriageOf(q.poses, q.room)
		cam := q.base.cam(q.poses[0])
		for _, at := range q.base.carriage.corners() {
			x, y, _ := cam.see(at)
			q.box.add(x, y, 4)
		}
	}
	q.base.pale = q.paleLimbs()
	return q
}

func (q *Sequence) turn(p *pose.Pose) *pose.Pose {
	if q.flip {
		return p.Mirror()
	}
	return p
}

// A limb is never pale that carries more than this share of body weight, or that bends by
// more than this from phase to phase. Product defaults.
const (
	carrying = 0.15
	bending  = 3 * math.Pi / 180
)

// paleLimbs are the limbs drawn paler in every picture: behind the other in every phase, from a
// camera at the side, and not working: they hold nothing, carry little and stay as they are.
func (q *Sequence) paleLimbs() map[string]bool {
	pale := map[string]bool{}
	for _, joint := range []string{"hip.left", "hip.right", "shoulder.left", "shoulder.right"} {
		pale[joint] = !q.works(joint)
		for _, p := range q.poses {
			s := &scene{cam: q.base.cam(p), b: q.drawer.body, p: p}
			s.b.Place(&p.State, &s.f)
			_, side, _ := strings.Cut(joint, ".")
			busy := strings.HasPrefix(joint, "shoulder") && s.closed("."+side)
			pale[joint] = pale[joint] && !busy && math.Abs(s.cam.st) <= 0.8 && s.cam.sr < 0.6 && s.farther(joint)
		}
	}
	return pale
}

// rests tells that a leg touches something.
func rests(p *pose.Pose, side string) bool {
	return slices.ContainsFunc(p.Contacts, func(c pose.Contact) bool { return pose.LimbOfSphere(c.Sphere) == "leg."+side })
}

// works tells that the limb of a joint carries, bends, holds something or, a leg, is held in
// the air in some phase.
func (q *Sequence) works(joint string) bool {
	base, name, _ := strings.Cut(joint, ".")
	side, parts := body.Left, []string{"foot", "toes", "heel", "knee", "shank", "thigh"}
	first, end := body.HipFlex, body.Limb(body.Right, 0)-body.Limb(body.Left, 0)
	if base == "shoulder" {
		parts, first, end = []string{"hand", "forearm", "elbow"}, body.ShoulderFlex, body.HipFlex
	}
	if name == "right" {
		side = body.Right
	}
	for i, p := range q.poses {
		share := 0.0
		for _, part := range parts {
			measured := part + "." + name
			if q.flip {
				measured = body.MirrorName(measured)
			}
			share += q.v.Solved.Phases[i].Measures.Share[measured]
		}
		if share > carrying || base == "hip" && !rests(p, name) {
			return true
		}
		for k := first; k < end && i >= q.v.Round(); k++ {
			if math.Abs(p.Q[body.Limb(side, k)]-q.poses[q.v.Round()].Q[body.Limb(side, k)]) > bending {
				return true
			}
		}
		for _, h := range p.Props {
			for _, at := range h.At {
				place, of, _ := strings.Cut(at, ".")
				if of == name && (base == "shoulder") == slices.Contains([]string{"palm", "wrist", "fingertip", "elbow"}, place) {
					return true
				}
			}
		}
	}
	return false
}

// paintOrder is by the mean depth over the phases, so that nothing pops in a film.
func (q *Sequence) paintOrder() []int {
	var sum []shape
	for _, p := range q.poses {
		for i, h := range q.drawer.scene(p, q.room, q.whole(p)).shapes {
			if i >= len(sum) {
				sum = append(sum, shape{layer: h.layer})
			}
			sum[i].depth += h.depth
		}
	}
	return paintOrder(sum)
}

// whole is the options of a picture with every contact of the exercise, there or not, so that
// all pictures have the same parts.
func (q *Sequence) whole(p *pose.Pose) Options {
	opt := q.base
	opt.touches = q.touches(p, p, 0)
	return opt
}

// touching tells that a part touches a surface, whatever the contact is called.
func touching(all []pose.Contact, c pose.Contact) bool {
	return slices.ContainsFunc(all, func(o pose.Contact) bool { return o.Sphere == c.Sphere && o.Surface == c.Surface })
}

// touches are all contacts of the exercise at a moment between two phases: firm where both
// have them, going in the first quarter or coming in the last.
func (q *Sequence) touches(from, to *pose.Pose, t float64) []touch {
	var all []pose.Contact
	for _, p := range q.poses {
		for _, c := range p.Contacts {
			if !touching(all, c) {
				all = append(all, c)
			}
		}
	}
	at := &pose.Pose{State: from.State, Contacts: all}
	var f body.Frames
	q.drawer.body.Place(&at.State, &f)
	out := make([]touch, len(all))
	for i, v := range at.ContactPoints(q.drawer.body, &f) {
		a, b := touching(from.Contacts, all[i]), touching(to.Contacts, all[i])
		out[i].at = v
		switch {
		case a && b:
			out[i].firm = 1
		case a:
			out[i].firm = math.Max(0, 1-4*t)
		case b:
			out[i].firm = math.Max(0, 4*t-3)
		}
	}
	return out
}

// Phases is the number of phases.
func (q *Sequence) Phases() int { return len(q.poses) }

// Effort is the index of the phase that shows the exercise: the first held one, else
// the last.
func (q *Sequence) Effort() int { return q.v.EffortPhase() }

// options completes what a picture of this sequence needs: its side, camera and order, and
// where nobody says otherwise the surface the entry names first.
func (q *Sequence) options(opt Options, from, to *pose.Pose, t float64) Options {
	if q.base.order == nil && !opt.Compact {
		q.base.order = q.paintOrder()
	}
	b := q.base
	opt.Flip, opt.camera, opt.floor, opt.From, opt.held, opt.carriage, opt.pale, opt.order = b.Flip, b.camera, b.floor, b.From, b.held, b.carriage, b.pale, b.order
	opt.touches = q.touches(from, to, t)
	if opt.Compact { // marks belong to the order; a thumbnail has none
		opt.order = nil
	}
	if opt.Felt {
		opt.felt = felt(q.v)
		if q.flip {
			for i := range opt.felt {
				opt.felt[i] = body.MirrorName(opt.felt[i])
			}
		}
	}
	if opt.Surface == "" {
		opt.Surface = q.v.Surfaces[0]
	}
	return opt
}

// Phase draws one phase.
func (q *Sequence) Phase(i int, opt Options) string {
	p := q.poses[i]
	return q.drawer.SVG(p, q.room, q.box, q.options(opt, p, p, 0))
}

// Pair draws the beginning and the effort position beside each other.
func (q *Sequence) Pair(opt Options) string {
	opt.Compact = true
	effort := q.Effort()
	start := q.v.Round()
	if effort == start {
		start = len(q.poses) - 1
	}
	w := q.box.X1 - q.box.X0
	var sb strings.Builder
	fmt.Fprintf(
		&sb,
		`<svg xmlns="http://www.w3.org/2000/svg" viewBox="%.0f %.0f %.0f %.0f" role="img">`,
		q.box.X0,
		q.box.Y0,
		2*w,
		q.box.Y1-q.box.Y0,
	)
	if opt.Title != "" {
		sb.WriteString("<title>" + escape(opt.Title) + "</title>")
	}
	inner := func(i int) string {
		p := q.poses[i]
		return q.drawer.Inner(p, q.room, q.options(opt, p, p, 0))
	}
	// Each picture keeps to its own half.
	fmt.Fprintf(
		&sb,
		`<svg x="%s" y="%s" width="%s" height="%s" viewBox="%.0f %.0f %.0f %.0f">`,
		num(q.box.X0),
		num(q.box.Y0),
		num(w),
		num(q.box.Y1-q.box.Y0),
		q.box.X0,
		q.box.Y0,
		w,
		q.box.Y1-q.box.Y0,
	)
	sb.WriteString(inner(start) + "</svg>")
	fmt.Fprintf(
		&sb,
		`<svg x="%s" y="%s" width="%s" height="%s" viewBox="%.0f %.0f %.0f %.0f">`,
		num(q.box.X0+w),
		num(q.box.Y0),
		num(w),
		num(q.box.Y1-q.box.Y0),
		q.box.X0,
		q.box.Y0,
		w,
		q.box.Y1-q.box.Y0,
	)
	sb.WriteString(inner(effort) + "</svg></svg>\n")
	return sb.String()
}
