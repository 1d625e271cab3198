package figure

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
)

// Sequence is one version ready to be drawn, on one side: its phases, its furniture and
// one frame of view for all of them.
type Sequence struct {
	drawer *Drawer
	v      *catalogue.Version
	poses  []*body.Pose
	room   body.Scene
	box    Box
	flip   bool
}

// Sequence prepares a version. Side "left" or "right" names the side that works; an
// unsided version ignores it.
func (d *Drawer) Sequence(v *catalogue.Version, side string) *Sequence {
	q := &Sequence{drawer: d, v: v}
	authored := [2]string{"left", "right"}[v.Authored]
	q.flip = v.SideMode != "none" && side != "" && side != authored && (side == "left" || side == "right")
	for i := range v.Solved.Phases {
		q.poses = append(q.poses, q.turn(v.Solved.Phases[i].Pose()))
	}
	q.room = d.body.Furnish(q.poses)
	q.box = d.Extent(q.poses, q.room, q.flip)
	return q
}

func (q *Sequence) turn(p *body.Pose) *body.Pose {
	if q.flip {
		return p.Mirror()
	}
	return p
}

// Phases is the number of phases.
func (q *Sequence) Phases() int { return len(q.poses) }

// Effort is the index of the phase that shows the exercise: the first held one, else
// the last.
func (q *Sequence) Effort() int { return q.v.EffortPhase() }

// options completes what a picture of this sequence needs: its side, the pose a round
// begins with, and where nobody says otherwise the surface the entry names first.
func (q *Sequence) options(opt Options) Options {
	opt.Flip, opt.From = q.flip, q.poses[q.v.Round()]
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
	opt = q.options(opt)
	return q.drawer.SVG(q.poses[i], q.room, q.box, opt)
}

// Pair draws the beginning and the effort position beside each other.
func (q *Sequence) Pair(opt Options) string {
	opt = q.options(opt)
	opt.Compact = true
	effort := q.Effort()
	start := 0
	if effort == 0 {
		start = len(q.poses) - 1
	}
	w := q.box.X1 - q.box.X0
	var sb strings.Builder
	fmt.Fprintf(&sb, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="%.0f %.0f %.0f %.0f" role="img">`, q.box.X0, q.box.Y0, 2*w, q.box.Y1-q.box.Y0)
	if opt.Title != "" {
		sb.WriteString("<title>" + escape(opt.Title) + "</title>")
	}
	sb.WriteString(q.drawer.Inner(q.poses[start], q.room, opt))
	fmt.Fprintf(&sb, `<g transform="translate(%s 0)">`, num(w))
	sb.WriteString(q.drawer.Inner(q.poses[effort], q.room, opt))
	sb.WriteString("</g></svg>\n")
	return sb.String()
}

// Frame is one picture of an animation: the inside of the svg element and how long it
// stays, milliseconds.
type Frame struct {
	SVG    string `json:"svg"`
	MS     int    `json:"ms"`
	Phase  string `json:"phase"`
	Breath string `json:"breath"`
}

// Film is a whole round of an exercise.
type Film struct {
	ViewBox [4]float64 `json:"viewBox"`
	Frames  []Frame    `json:"frames"`
}

// Film draws every solved frame of the path through the repeated phases and back to the
// first of them.
func (q *Sequence) Film(opt Options) Film {
	opt = q.options(opt)
	f := Film{ViewBox: [4]float64{math.Round(q.box.X0), math.Round(q.box.Y0), math.Round(q.box.X1 - q.box.X0), math.Round(q.box.Y1 - q.box.Y0)}}
	for i := q.v.Round(); i < len(q.poses); i++ {
		ph := q.v.Phases[i]
		next := q.v.Phases[q.v.Next(i)]
		hold := 250
		if ph.Held {
			hold = 1200
		}
		f.Frames = append(f.Frames, Frame{q.drawer.Inner(q.poses[i], q.room, opt), hold, ph.Name, ph.Breath})
		if i >= len(q.v.Solved.Frames) { // with an ease: the way between is measured, not kept
			f.Frames[len(f.Frames)-1].MS += 600
			continue
		}
		frames := q.v.Solved.Frames[i].States()
		each := int(next.Seconds * 1000 / float64(len(frames)+1))
		for _, st := range frames {
			p := &body.Pose{State: st.State(), View: q.v.Solved.Phases[i].View, Props: q.v.Solved.Phases[i].Props}
			f.Frames = append(f.Frames, Frame{q.drawer.Inner(q.turn(p), q.room, opt), min(each, 200), next.Name, next.Breath})
		}
	}
	return f
}
