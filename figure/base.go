package figure

import (
	"strings"

	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
)

// Pictures of the way that are no base pose: standing with the back to a chair or a bed, and sitting on the edge of a
// bed. Feet keep their place.
const (
	BeforeChair = "standing-before-chair"
	BeforeBed   = "standing-before-bed"
	OnTheEdge   = "seated-bed"
)

// Base draws a base pose by name, or one of the pictures of the way: what a change of position leads to. An
// unknown name is an error.
func (d *Drawer) Base(name string, opt Options) (string, error) {
	s := pose.NewSolver(d.body)
	own, furnished := name, []*pose.Pose(nil)
	switch name {
	case BeforeChair, BeforeBed:
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
	case OnTheEdge:
		own = "seated"
	}
	p, err := s.Base(own)
	if err != nil {
		return "", err
	}
	poses := []*pose.Pose{p}
	room := furniture.Place(d.body, append(furnished, poses...))
	if strings.HasSuffix(name, "-bed") {
		room = room.BedForChair()
		opt.Surface = "" // the bed stands on the floor, its edge is sat on
	}
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
