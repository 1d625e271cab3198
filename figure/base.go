package figure

import (
	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
)

// BeforeChair is a picture of a change of position that is no pose of its own: standing, with the chair that somebody
// is about to sit on behind both legs.
const BeforeChair = "standing-before-chair"

// Base draws a base pose, as the steps of a change of position show it. It fails for a name that is none.
func (d *Drawer) Base(name string, opt Options) (string, error) {
	s := pose.NewSolver(d.body)
	own, furnished := name, []*pose.Pose(nil)
	if name == BeforeChair {
		own = "standing"
		sits, err := s.Base("seated")
		if err != nil {
			return "", err
		}
		stands, err := s.Base(own)
		if err != nil {
			return "", err
		}
		moved := *sits // the feet stay where they are
		moved.Root[0] += d.feet(stands) - d.feet(sits)
		furnished = []*pose.Pose{&moved}
	}
	p, err := s.Base(own)
	if err != nil {
		return "", err
	}
	poses := []*pose.Pose{p}
	room := furniture.Place(d.body, append(furnished, poses...))
	opt.floor, opt.held, opt.From = onFeet(poses), holdings(poses), p
	return d.SVG(p, room, d.Extent(poses, room, false, opt.camera), opt), nil
}

// feet is how far ahead somebody's feet are, m.
func (d *Drawer) feet(p *pose.Pose) (x float64) {
	var f body.Frames
	d.body.Place(&p.State, &f)
	n := 0
	for i, at := range p.ContactPoints(d.body, &f) {
		if p.Contacts[i].Surface == "floor" {
			x += at[0]
			n++
		}
	}
	if n == 0 {
		return 0
	}
	return x / float64(n)
}
