package pose

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
)

// parseLay reads: lay HAND REGION. A bare hand stands for both, a bare region lies on the
// hand's own side.
func (s *Spec) parseLay(args []string) error {
	if len(args) != 2 {
		return fmt.Errorf("lay takes a hand and where it lies")
	}
	hand, side, sided := strings.Cut(args[0], ".")
	if hand != "hand" || sided && side != "left" && side != "right" {
		return fmt.Errorf("lay begins with hand, hand.left or hand.right, found %q", args[0])
	}
	known := func(name string) error {
		if !body.Layable(name) {
			return fmt.Errorf("a hand cannot lie on %q; known: %s", name, strings.Join(body.RegionNames(), ", "))
		}
		return nil
	}
	sides := []string{".left", ".right"}
	if sided {
		s.sided, sides = true, []string{"." + side}
	}
	base, _, _ := strings.Cut(args[1], ".")
	for _, side := range sides {
		to := args[1]
		if body.Regions[base].Pair && base == to {
			to += side
		}
		if err := known(to); err != nil {
			return err
		}
		s.Relations = append(s.Relations, Relation{Kind: "lay", Args: []string{"hand" + side, to}})
	}
	return nil
}

// laid is how a hand lies on a region: how far its palm is off the skin and beside the
// point (m), and how far it is turned from lying flat (degrees).
func laid(b *body.Body, f *body.Frames, hand, on string) (off, beside, turned float64) {
	palm, skin := b.Patch(f, strings.Replace(hand, "hand", "palm", 1)), b.Patch(f, on)
	d := palm.At.Sub(skin.At)
	off = d.Dot(skin.Outward)
	beside = d.Sub(skin.Outward.Scale(off)).Len()
	return off, beside, math.Acos(body.Clamp(-palm.Outward.Dot(skin.Outward), -1, 1)) / body.Deg
}

// tolerances of a hand that lies on skin (product defaults).
const (
	tolLay     = 0.003        // off the skin, m
	tolBeside  = 0.02         // beside the point, m
	tolLayFlat = 4 * body.Deg // the palm flat
	tolLaySide = 0.35         // the palm, not the back
	maxLayOff  = 0.01         // m
	maxBeside  = 0.05         // m
	maxLayTurn = 20.0         // degrees
)

// lay adds the residuals of a hand on a region.
func lay(b *body.Body, f *body.Frames, rel *Relation, o *rows) {
	palm, skin := b.Patch(f, strings.Replace(rel.Args[0], "hand", "palm", 1)), b.Patch(f, rel.Args[1])
	n := skin.Outward
	// Two directions along the skin that turn with its segment.
	along := skin.Local.Cross(body.Vec{0, 0, 1})
	if along.Len() < 0.3 {
		along = skin.Local.Cross(body.Vec{0, 1, 0})
	}
	t1 := f.R[skin.Seg].Mul(along.Unit())
	t2 := n.Cross(t1)
	d := palm.At.Sub(skin.At)
	between := func(v, tol float64, dir body.Vec) {
		o.put(v / tol)
		o.with(palm.Seg, palm.At, dir.Scale(1/tol))
		o.with(skin.Seg, skin.At, dir.Scale(-1/tol))
		// The skin's own turning moves the direction too.
		o.spin(skin.Seg, dir, d.Scale(1/tol))
	}
	between(d.Dot(n), tolLay, n)
	between(d.Dot(t1), tolBeside, t1)
	between(d.Dot(t2), tolBeside, t2)
	facing := func(dir body.Vec, tol, add float64) {
		o.put((palm.Outward.Dot(dir) + add) / tol)
		o.spin(palm.Seg, palm.Outward, dir.Scale(1/tol))
		o.spin(skin.Seg, dir, palm.Outward.Scale(1/tol))
	}
	facing(t1, tolLayFlat, 0)
	facing(t2, tolLayFlat, 0)
	facing(n, tolLaySide, 1)
}

// spin adds the gradient of dir . axis, an axis fixed to a segment.
func (o *rows) spin(seg int, axis, dir body.Vec) {
	if o.tw == nil {
		return
	}
	row := &o.j[len(o.j)-1]
	for _, k := range chain[seg] {
		row[k] += dir.Dot(o.tw[k][seg].turn.Cross(axis))
	}
}

// layErrors lists hands that do not lie where they are said to.
func layErrors(b *body.Body, rel *Relation, f *body.Frames) []string {
	var out []string
	off, beside, turned := laid(b, f, rel.Args[0], rel.Args[1])
	if math.Abs(off) > maxLayOff {
		out = append(out, fmt.Sprintf("%s is %.1f cm off the %s", rel.Args[0], off*100, rel.Args[1]))
	}
	if beside > maxBeside {
		out = append(out, fmt.Sprintf("%s lies %.0f cm beside the %s", rel.Args[0], beside*100, rel.Args[1]))
	}
	if turned > maxLayTurn {
		out = append(out, fmt.Sprintf("%s lies %.0f degrees turned on the %s", rel.Args[0], turned, rel.Args[1]))
	}
	return out
}
