package figure

import "restbend/core/body"

// Base draws a base pose, as the steps of a change of position show it. It fails for a name that is none.
func (d *Drawer) Base(name string, opt Options) (string, error) {
	p, err := body.NewSolver(d.body).Base(name)
	if err != nil {
		return "", err
	}
	poses := []*body.Pose{p}
	room := d.body.Furnish(poses)
	opt.floor, opt.held, opt.From = onFeet(poses), holdings(poses), p
	return d.SVG(p, room, d.Extent(poses, room, false, opt.camera), opt), nil
}
