package body

import (
	"fmt"
	"math"
	"sort"
	"strings"
)

// A region is a patch of skin a hand may lie on: a point of the drawn skin and the way out
// of it. Fixed to a segment; paired regions name the side.
type region struct {
	seg    int // segment, or limb segment where limb is set
	pair   bool
	limb   bool
	at     func(b *Body, y float64) Vec // in the segment's frame
	normal func(y float64) Vec
}

// onTrunk is a point of the standing reference trunk (m, hips at the origin) whose skin is
// an ellipse of half breadth w and half depth d about x; turn runs from the front to the
// side, degrees.
func onTrunk(seg int, z, x, w, d, turn float64) region {
	sn, cs := math.Sincos(turn * deg)
	return region{seg: seg, pair: turn != 0 && turn != 180,
		at: func(b *Body, y float64) Vec {
			return b.trunkPoint(Vec{x + d*cs, y * w * sn, z}).Sub(b.segRest(seg))
		},
		normal: func(y float64) Vec { return Vec{cs / d, y * sn / w}.Unit() }}
}

// onLimb is a point on the skin of a limb segment: along its length and out by r (m at
// reference scale); turn runs from the front to the outer side, degrees.
func onLimb(seg int, along func(b *Body) float64, r, turn float64) region {
	sn, cs := math.Sincos(turn * deg)
	return region{seg: seg, pair: true, limb: true,
		at:     func(b *Body, y float64) Vec { return Vec{r * cs * b.scale, y * r * sn * b.scale, -along(b)} },
		normal: func(y float64) Vec { return Vec{cs, y * sn} }}
}

// regions by the name an author uses: places and radii are product defaults, the trunk's
// ellipses those the figure is drawn with (trunk and hips in figure/person.go).
var regions = map[string]region{
	"breastbone":     onTrunk(segT3, 0.46, -0.004, 0.146, 0.106, 0),
	"belly":          onTrunk(segL2, 0.145, 0, 0.128, 0.090, 0),
	"pubis":          onTrunk(segPelvis, 0.055, -0.010, 0.160, 0.100, 0),
	"small-of-back":  onTrunk(segL3, 0.20, 0, 0.118, 0.086, 180),
	"ribs":           onTrunk(segT1, 0.33, -0.002, 0.136, 0.103, 58),
	"high-ribs":      onTrunk(segT2, 0.395, -0.003, 0.140, 0.105, 60),
	"waist":          onTrunk(segL3, 0.19, 0, 0.120, 0.087, 80),
	"hip-bone":       onTrunk(segPelvis, 0.085, -0.006, 0.150, 0.096, 48),
	"hip-crease":     onTrunk(segPelvis, 0.02, -0.010, 0.162, 0.100, 35),
	"collarbone":     onTrunk(segT4, 0.51, -0.010, 0.145, 0.092, 42),
	"back-of-head":   onTrunk(segHead, 0.765, -0.002, 0.084, 0.103, 150),
	"thigh":          onLimb(segThigh, func(b *Body) float64 { return 0.62 * b.thigh }, 0.068, 0),
	"outer-thigh":    onLimb(segThigh, func(b *Body) float64 { return 0.36 * b.thigh }, 0.074, 90),
	"back-of-thigh":  onLimb(segThigh, func(b *Body) float64 { return 0.75 * b.thigh }, 0.062, 150),
	"knee":           onLimb(segShank, func(*Body) float64 { return 0 }, 0.056, 0),
	"shin":           onLimb(segShank, func(b *Body) float64 { return 0.22 * b.shank }, 0.052, 40),
	"inner-shin":     onLimb(segShank, func(b *Body) float64 { return 0.22 * b.shank }, 0.050, -40),
	"low-belly":      onTrunk(segPelvis, 0.075, -0.004, 0.140, 0.094, 0),
	"back-ribs":      onTrunk(segT1, 0.34, -0.002, 0.136, 0.103, 145),
	"between-blades": onTrunk(segT3, 0.46, -0.004, 0.146, 0.106, 180),
	"mid-back":       onTrunk(segT1, 0.32, -0.002, 0.136, 0.103, 180),
	"side-of-neck":   onTrunk(segN1, 0.60, -0.010, 0.062, 0.062, 120),
	"buttock":        onTrunk(segPelvis, 0.00, -0.010, 0.160, 0.110, 150),
	"outer-hip":      onTrunk(segPelvis, 0.01, -0.010, 0.168, 0.100, 95),
	"inner-thigh":    onLimb(segThigh, func(b *Body) float64 { return 0.45 * b.thigh }, 0.070, -90),
	"hamstring":      onLimb(segThigh, func(b *Body) float64 { return 0.50 * b.thigh }, 0.070, 180),
	"calf":           onLimb(segShank, func(b *Body) float64 { return 0.32 * b.shank }, 0.050, 180),
	"shoulder-cap":   onLimb(segUpperArm, func(*Body) float64 { return 0.03 }, 0.052, 90),
	"upper-arm":      onLimb(segUpperArm, func(b *Body) float64 { return 0.16 * b.scale }, 0.040, 180),
	"palm": {seg: segHand, pair: true, limb: true,
		at:     func(b *Body, y float64) Vec { return Vec{0, -y * 0.026 * b.scale, -b.palm * 0.7} },
		normal: func(y float64) Vec { return Vec{0, -y} }},
	"back-of-hand": {seg: segHand, pair: true, limb: true,
		at:     func(b *Body, y float64) Vec { return Vec{0, y * 0.018 * b.scale, -b.palm * 0.7} },
		normal: func(y float64) Vec { return Vec{0, y} }},
}

// layable tells whether a name is a region with the side it needs.
func layable(name string) bool {
	base, side, sided := strings.Cut(name, ".")
	r, ok := regions[base]
	return ok && r.pair == sided && (!sided || side == "left" || side == "right")
}

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
		if !layable(name) {
			return fmt.Errorf("a hand cannot lie on %q; known: %s", name, strings.Join(regionNames(), ", "))
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
		if regions[base].pair && base == to {
			to += side
		}
		if err := known(to); err != nil {
			return err
		}
		s.Relations = append(s.Relations, Relation{Kind: "lay", Args: []string{"hand" + side, to}})
	}
	return nil
}

func regionNames() []string {
	var out []string
	for name, r := range regions {
		if r.pair {
			name += ".left"
		}
		out = append(out, name)
	}
	sort.Strings(out)
	return out
}

// patch is a region of a placed body.
type patch struct {
	seg         int
	at, outward Vec
	local       Vec // the way out in the segment's frame
}

func (b *Body) patch(f *Frames, name string) patch {
	base, side, _ := strings.Cut(name, ".")
	r, y, s := regions[base], 1.0, Left
	if side == "right" {
		y, s = -1, Right
	}
	seg := r.seg
	if r.limb {
		seg = limbSeg(s, r.seg)
	}
	n := r.normal(y)
	return patch{seg, f.P[seg].Add(f.R[seg].Mul(r.at(b, y))), f.R[seg].Mul(n), n}
}

// SkinAt is where a region of the skin of a placed body is and the way out of it; a paired
// region is named with its side. ok is false for an unknown one.
func (b *Body) SkinAt(f *Frames, region string) (at, outward Vec, ok bool) {
	if !layable(region) {
		return at, outward, false
	}
	p := b.patch(f, region)
	return p.at, p.outward, true
}

// RegionSided tells whether a region has a left and a right, and whether there is one.
func RegionSided(name string) (sided, ok bool) {
	r, ok := regions[name]
	return r.pair, ok
}

// laid is how a hand lies on a region: how far its palm is off the skin and beside the
// point (m), and how far it is turned from lying flat (degrees).
func (b *Body) laid(f *Frames, hand, on string) (off, beside, turned float64) {
	palm, skin := b.patch(f, strings.Replace(hand, "hand", "palm", 1)), b.patch(f, on)
	d := palm.at.Sub(skin.at)
	off = d.Dot(skin.outward)
	beside = d.Sub(skin.outward.Scale(off)).Len()
	return off, beside, math.Acos(clamp(-palm.outward.Dot(skin.outward), -1, 1)) / deg
}

// tolerances of a hand that lies on skin (product defaults).
const (
	tolLay     = 0.003   // off the skin, m
	tolBeside  = 0.02    // beside the point, m
	tolLayFlat = 4 * deg // the palm flat
	tolLaySide = 0.35    // the palm, not the back
	maxLayOff  = 0.01    // m
	maxBeside  = 0.05    // m
	maxLayTurn = 20.0    // degrees
)

// lay adds the residuals of a hand on a region.
func (b *Body) lay(f *Frames, rel *Relation, o *rows) {
	palm, skin := b.patch(f, strings.Replace(rel.Args[0], "hand", "palm", 1)), b.patch(f, rel.Args[1])
	n := skin.outward
	// Two directions along the skin that turn with its segment.
	along := skin.local.Cross(Vec{0, 0, 1})
	if along.Len() < 0.3 {
		along = skin.local.Cross(Vec{0, 1, 0})
	}
	t1 := f.R[skin.seg].Mul(along.Unit())
	t2 := n.Cross(t1)
	d := palm.at.Sub(skin.at)
	between := func(v, tol float64, dir Vec) {
		o.put(v / tol)
		o.with(palm.seg, palm.at, dir.Scale(1/tol))
		o.with(skin.seg, skin.at, dir.Scale(-1/tol))
		// The skin's own turning moves the direction too.
		o.spin(skin.seg, dir, d.Scale(1/tol))
	}
	between(d.Dot(n), tolLay, n)
	between(d.Dot(t1), tolBeside, t1)
	between(d.Dot(t2), tolBeside, t2)
	facing := func(dir Vec, tol, add float64) {
		o.put((palm.outward.Dot(dir) + add) / tol)
		o.spin(palm.seg, palm.outward, dir.Scale(1/tol))
		o.spin(skin.seg, dir, palm.outward.Scale(1/tol))
	}
	facing(t1, tolLayFlat, 0)
	facing(t2, tolLayFlat, 0)
	facing(n, tolLaySide, 1)
}

// spin adds the gradient of dir . axis, an axis fixed to a segment.
func (o *rows) spin(seg int, axis, dir Vec) {
	if o.tw == nil {
		return
	}
	row := &o.j[len(o.j)-1]
	for _, k := range chain[seg] {
		row[k] += dir.Dot(o.tw[k][seg].turn.Cross(axis))
	}
}

// layErrors lists hands that do not lie where they are said to.
func (b *Body) layErrors(rel *Relation, f *Frames) []string {
	var out []string
	off, beside, turned := b.laid(f, rel.Args[0], rel.Args[1])
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
