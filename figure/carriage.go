package figure

import (
	"math"
	"slices"

	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
)

// carriage is a bed on rails that rides with the pelvis: its ends as seen from there, and the
// rails that stay. Sizes are product defaults, metres.
type carriage struct {
	back, front float64
	rails       furniture.Block
	seats       []furniture.Block // on it, placed for a pelvis at 0
}

const (
	carriageHalf  = 0.30
	carriageTop   = -0.01
	carriageUnder = -0.16
	railsUnder    = -0.24
)

// carriageOf is the carriage of an exercise done on one, and the furniture that stays where
// it is.
func (d *Drawer) carriageOf(poses []*pose.Pose, room furniture.Scene) (*carriage, furniture.Scene) {
	pelvis := func(p *pose.Pose) float64 { return p.Root[0] }
	first := poses[0]
	var f body.Frames
	d.body.Place(&first.State, &f)
	crown := d.body.Point(&f, "crown")
	c := &carriage{back: math.Min(crown[0]-0.13, pelvis(first)-0.4) - pelvis(first), front: 0.3}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, p := range poses {
		lo, hi = math.Min(lo, pelvis(p)+c.back), math.Max(hi, pelvis(p)+c.front)
	}
	stays := room
	stays.Blocks = nil
	for _, q := range room.Blocks {
		if q.Kind == "footplate" {
			hi = math.Max(hi, q.X1)
			stays.Blocks = append(stays.Blocks, q)
			continue
		}
		q.X0, q.X1 = q.X0-pelvis(first), q.X1-pelvis(first)
		c.seats = append(c.seats, q)
	}
	c.rails = furniture.Block{
		Kind: "footplate",
		X0:   lo - 0.06,
		X1:   hi + 0.06,
		Y0:   -carriageHalf + 0.06,
		Y1:   carriageHalf - 0.06,
		Z0:   railsUnder,
		Z1:   carriageUnder,
	}
	return c, stays
}

// corners of the rails and the carriage at both ends of its way.
func (c *carriage) corners() []body.Vec {
	wide := c.rails
	wide.Y0, wide.Y1, wide.Z1 = -carriageHalf, carriageHalf, carriageTop
	return corners(furniture.Scene{Blocks: []furniture.Block{wide}})
}

// carriage adds the carriage where it is now; asked for another surface it is not there.
func (s *scene) carriage() {
	c := s.opt.carriage
	if c == nil {
		return
	}
	x := s.p.Root[0]
	blocks := append(
		[]furniture.Block{
			{Kind: "carriage", X0: c.back, X1: c.front, Y0: -carriageHalf, Y1: carriageHalf, Z0: carriageUnder, Z1: carriageTop},
		},
		slices.Clone(c.seats)...)
	for i, q := range blocks {
		q.X0, q.X1 = q.X0+x, q.X1+x
		for k, face := range s.cam.faces(q) {
			s.add(
				shape{
					id:    "carriage" + itoa(i) + string('a'+rune(k)),
					fill:  face.fill,
					sharp: true,
					fade:  true,
					alpha: float64(b2i(s.opt.Surface == springs)),
					layer: layerGround,
					depth: 100 - float64(3*i+k),
					subs:  [][]p2{face.p},
				},
			)
		}
	}
}

// springs is the surface that rides.
const springs = "spring-carriage"
