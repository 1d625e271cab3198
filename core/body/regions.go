package body

import (
	"math"
	"sort"
	"strings"
)

// A SkinRegion is a patch of skin a hand may lie on: a point of the drawn skin and the way out
// of it. Fixed to a segment; paired regions name the side.
type SkinRegion struct {
	seg    int // segment, or limb segment where limb is set
	Pair   bool
	limb   bool
	at     func(b *Body, y float64) Vec // in the segment's frame
	normal func(y float64) Vec
}

// onTrunk is a point of the standing reference trunk (m, hips at the origin) whose skin is
// an ellipse of half breadth w and half depth d about x; turn runs from the front to the
// side, degrees.
func onTrunk(seg int, z, x, w, d, turn float64) SkinRegion {
	sn, cs := math.Sincos(turn * Deg)
	return SkinRegion{seg: seg, Pair: turn != 0 && turn != 180,
		at: func(b *Body, y float64) Vec {
			return b.trunkPoint(Vec{x + d*cs, y * w * sn, z}).Sub(b.segRest(seg))
		},
		normal: func(y float64) Vec { return Vec{cs / d, y * sn / w}.Unit() }}
}

// onLimb is a point on the skin of a limb segment: along its length and out by r (m at
// reference scale); turn runs from the front to the outer side, degrees.
func onLimb(seg int, along func(b *Body) float64, r, turn float64) SkinRegion {
	sn, cs := math.Sincos(turn * Deg)
	return SkinRegion{seg: seg, Pair: true, limb: true,
		at:     func(b *Body, y float64) Vec { return Vec{r * cs * b.Scale, y * r * sn * b.Scale, -along(b)} },
		normal: func(y float64) Vec { return Vec{cs, y * sn} }}
}

// Regions by the name an author uses: places and radii are product defaults, the trunk's
// ellipses those the figure is drawn with (trunk and hips in figure/person.go).
var Regions = map[string]SkinRegion{
	"breastbone":     onTrunk(SegT3, 0.46, -0.004, 0.146, 0.106, 0),
	"belly":          onTrunk(SegL2, 0.145, 0, 0.128, 0.090, 0),
	"pubis":          onTrunk(SegPelvis, 0.055, -0.010, 0.160, 0.100, 0),
	"small-of-back":  onTrunk(SegL3, 0.20, 0, 0.118, 0.086, 180),
	"ribs":           onTrunk(SegT1, 0.33, -0.002, 0.136, 0.103, 58),
	"high-ribs":      onTrunk(SegT2, 0.395, -0.003, 0.140, 0.105, 60),
	"waist":          onTrunk(SegL3, 0.19, 0, 0.120, 0.087, 80),
	"hip-bone":       onTrunk(SegPelvis, 0.085, -0.006, 0.150, 0.096, 48),
	"hip-crease":     onTrunk(SegPelvis, 0.02, -0.010, 0.162, 0.100, 35),
	"collarbone":     onTrunk(SegT4, 0.51, -0.010, 0.145, 0.092, 42),
	"back-of-head":   onTrunk(SegHead, 0.765, -0.002, 0.084, 0.103, 150),
	"thigh":          onLimb(SegThigh, func(b *Body) float64 { return 0.62 * b.thigh }, 0.068, 0),
	"outer-thigh":    onLimb(SegThigh, func(b *Body) float64 { return 0.36 * b.thigh }, 0.074, 90),
	"back-of-thigh":  onLimb(SegThigh, func(b *Body) float64 { return 0.75 * b.thigh }, 0.062, 150),
	"knee":           onLimb(SegShank, func(*Body) float64 { return 0 }, 0.056, 0),
	"shin":           onLimb(SegShank, func(b *Body) float64 { return 0.22 * b.shank }, 0.052, 40),
	"inner-shin":     onLimb(SegShank, func(b *Body) float64 { return 0.22 * b.shank }, 0.050, -40),
	"low-belly":      onTrunk(SegPelvis, 0.075, -0.004, 0.140, 0.094, 0),
	"back-ribs":      onTrunk(SegT1, 0.34, -0.002, 0.136, 0.103, 145),
	"between-blades": onTrunk(SegT3, 0.46, -0.004, 0.146, 0.106, 180),
	"mid-back":       onTrunk(SegT1, 0.32, -0.002, 0.136, 0.103, 180),
	"side-of-neck":   onTrunk(SegN1, 0.60, -0.010, 0.062, 0.062, 120),
	"buttock":        onTrunk(SegPelvis, 0.00, -0.010, 0.160, 0.110, 150),
	"outer-hip":      onTrunk(SegPelvis, 0.01, -0.010, 0.168, 0.100, 95),
	"inner-thigh":    onLimb(SegThigh, func(b *Body) float64 { return 0.45 * b.thigh }, 0.070, -90),
	"hamstring":      onLimb(SegThigh, func(b *Body) float64 { return 0.50 * b.thigh }, 0.070, 180),
	"calf":           onLimb(SegShank, func(b *Body) float64 { return 0.32 * b.shank }, 0.050, 180),
	"shoulder-cap":   onLimb(SegUpperArm, func(*Body) float64 { return 0.03 }, 0.052, 90),
	"upper-arm":      onLimb(SegUpperArm, func(b *Body) float64 { return 0.16 * b.Scale }, 0.040, 180),
	"palm": {seg: SegHand, Pair: true, limb: true,
		at:     func(b *Body, y float64) Vec { return Vec{0, -y * 0.026 * b.Scale, -b.palm * 0.7} },
		normal: func(y float64) Vec { return Vec{0, -y} }},
	"back-of-hand": {seg: SegHand, Pair: true, limb: true,
		at:     func(b *Body, y float64) Vec { return Vec{0, y * 0.018 * b.Scale, -b.palm * 0.7} },
		normal: func(y float64) Vec { return Vec{0, y} }},
}

// Layable tells whether a name is a region with the side it needs.
func Layable(name string) bool {
	base, side, sided := strings.Cut(name, ".")
	r, ok := Regions[base]
	return ok && r.Pair == sided && (!sided || side == "left" || side == "right")
}

// RegionNames lists the regions as an author writes them, paired ones with a side.
func RegionNames() []string {
	var out []string
	for name, r := range Regions {
		if r.Pair {
			name += ".left"
		}
		out = append(out, name)
	}
	sort.Strings(out)
	return out
}

// SkinPatch is a region of a placed body.
type SkinPatch struct {
	Seg         int
	At, Outward Vec
	Local       Vec // the way out in the segment's frame
}

// Patch is where a region of a placed body is.
func (b *Body) Patch(f *Frames, name string) SkinPatch {
	base, side, _ := strings.Cut(name, ".")
	r, y, s := Regions[base], 1.0, Left
	if side == "right" {
		y, s = -1, Right
	}
	seg := r.seg
	if r.limb {
		seg = LimbSeg(s, r.seg)
	}
	n := r.normal(y)
	return SkinPatch{seg, f.P[seg].Add(f.R[seg].Mul(r.at(b, y))), f.R[seg].Mul(n), n}
}

// SkinAt is where a region of the skin of a placed body is and the way out of it; a paired
// region is named with its side. ok is false for an unknown one.
func (b *Body) SkinAt(f *Frames, region string) (at, outward Vec, ok bool) {
	if !Layable(region) {
		return at, outward, false
	}
	p := b.Patch(f, region)
	return p.At, p.Outward, true
}

// RegionSided tells whether a region has a left and a right, and whether there is one.
func RegionSided(name string) (sided, ok bool) {
	r, ok := Regions[name]
	return r.Pair, ok
}
