package body

import (
	"maps"
	"math"
	"slices"
	"strings"
)

// landmark is a named point an author can relate to others.
type landmark struct {
	seg  int // segment, or limb segment when paired
	pair bool
	at   func(b *Body, y float64) Vec
}

// ofTrunk is a point of the standing reference trunk (m, hips at the origin), fixed to a segment.
func ofTrunk(seg int, v Vec) landmark {
	return landmark{seg, false, func(b *Body, _ float64) Vec { return b.trunkPoint(v).Sub(b.segRest(seg)) }}
}

func fixed(v Vec) func(*Body, float64) Vec {
	return func(b *Body, _ float64) Vec { return v.Scale(b.Scale) }
}

var landmarks = map[string]landmark{
	"pelvis":  {SegPelvis, false, fixed(Vec{})},
	"waist":   {SegL3, false, fixed(Vec{0.04, 0, 0})},
	"neck":    {SegN1, false, fixed(Vec{})},
	"crown":   ofTrunk(SegHead, Vec{0, 0, 0.8585}),
	"ear":     ofTrunk(SegHead, Vec{0, 0, 0.745}),
	"occiput": ofTrunk(SegHead, Vec{-0.105, 0, 0.765}),
	// A stick along the back, behind the head and behind the waist.
	"stick-head":  ofTrunk(SegHead, Vec{-0.125, 0, 0.66}),
	"stick-waist": ofTrunk(SegL2, Vec{-0.125, 0, 0.17}),
	"brow":        ofTrunk(SegHead, Vec{0.1, 0, 0.785}),
	"hip":         {SegThigh, true, fixed(Vec{})},
	"knee":        {SegShank, true, fixed(Vec{})},
	"kneecap":     {SegShank, true, fixed(Vec{0.055, 0, 0})},
	"shin":        {SegShank, true, func(b *Body, _ float64) Vec { return Vec{0.045 * b.Scale, 0, -0.18 * b.shank} }},
	"outer-knee":  {SegShank, true, func(b *Body, y float64) Vec { return Vec{0, y * 0.055 * b.Scale, 0} }},
	"thigh":       {SegThigh, true, func(b *Body, _ float64) Vec { return Vec{0.07 * b.Scale, 0, -0.55 * b.thigh} }},
	"ankle":       {SegFoot, true, fixed(Vec{})},
	"heel":        {SegFoot, true, fixed(Vec{-0.045, 0, -0.045})},
	"ball":        {SegToe, true, fixed(Vec{})},
	"toe":         {SegToe, true, func(b *Body, _ float64) Vec { return Vec{0.25 * b.foot, 0, 0} }},
	"shoulder":    {SegUpperArm, true, fixed(Vec{})},
	"elbow":       {SegForearm, true, fixed(Vec{})},
	"wrist":       {SegHand, true, fixed(Vec{})},
	"palm":        {SegHand, true, func(b *Body, y float64) Vec { return Vec{0, -y * 0.026 * b.Scale, -b.palm * 0.7} }},
	"fingertip":   {SegHand, true, func(b *Body, _ float64) Vec { return Vec{0, 0, -b.hand} }},
	"hip-bone":    {SegPelvis, true, func(b *Body, y float64) Vec { return b.trunkPoint(Vec{0.095, y * 0.11, 0.09}) }},
	"pubis":       {SegPelvis, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0.105, 0, 0.02}) }},
	"side-rib": {SegT2, true, func(b *Body, y float64) Vec {
		return b.trunkPoint(Vec{0.04, y * 0.14, 0.38}).Sub(b.segRest(SegT2))
	}},
	"chest":         ofTrunk(SegT3, Vec{0.11, 0, 0.47}),
	"navel":         ofTrunk(SegL3, Vec{0.105, 0, 0.19}),
	"small-of-back": ofTrunk(SegL3, Vec{-0.125, 0, 0.20}),
}

// IsPoint tells whether a name is a landmark, with the side it needs.
func IsPoint(name string) bool {
	base, side, sided := strings.Cut(name, ".")
	l, ok := landmarks[base]
	return ok && l.pair == sided && (!sided || side == "left" || side == "right")
}

// PairedPoint tells whether a bare name stands for a left and a right point or segment.
func PairedPoint(name string) bool {
	if l, ok := landmarks[name]; ok {
		return l.pair
	}
	e, ok := ends[name]
	return ok && landmarks[e[0]].pair
}

// ends are the landmarks at the near and far end of what aim can point.
var ends = map[string][2]string{
	"thigh": {"hip", "knee"}, "shank": {"knee", "ankle"}, "leg": {"hip", "ankle"}, "foot": {"heel", "ball"},
	"upper-arm": {"shoulder", "elbow"}, "forearm": {"elbow", "wrist"}, "arm": {"shoulder", "wrist"},
	"hand":  {"wrist", "fingertip"},
	"trunk": {"pelvis", "neck"}, "head": {"neck", "crown"},
}

// SegmentEnds are the landmarks at the ends of a named segment.
func SegmentEnds(name string) (near, far string, ok bool) {
	base, side, sided := strings.Cut(name, ".")
	e, ok := ends[base]
	if !ok {
		return "", "", false
	}
	if sided {
		return e[0] + "." + side, e[1] + "." + side, IsPoint(e[0] + "." + side)
	}
	return e[0], e[1], !landmarks[e[0]].pair
}

// FixedAt returns segment and local offset of a landmark.
func (b *Body) FixedAt(name string) (int, Vec) {
	base, side, _ := strings.Cut(name, ".")
	l := landmarks[base]
	if !l.pair {
		return l.seg, l.at(b, 0)
	}
	s := Left
	if side == "right" {
		s = Right
	}
	seg := l.seg
	if base != "hip-bone" && base != "side-rib" {
		seg = LimbSeg(s, l.seg)
	}
	return seg, l.at(b, s.Sign())
}

// Point is where a landmark is in the world, for example "knee.left" or "crown".
func (b *Body) Point(f *Frames, name string) Vec {
	seg, at := b.FixedAt(name)
	return f.P[seg].Add(f.R[seg].Mul(at))
}

// View is a camera: turn to the client's right about the vertical and raise, degrees.
type View struct{ Turn, Raise float64 }

// ViewNames lists the cameras.
func ViewNames() []string { return slices.Sorted(maps.Keys(Views)) }

// Views an author may name. The plain side view looks from the client's right with a
// slight three-quarter turn so that far limbs show.
var Views = map[string]View{
	"side":    {14, 8},  // from the client's right, heads or faces to the right
	"front":   {88, 9},  // facing the camera
	"face":    {16, 31}, // for side-lying, which faces the camera already, from a little above
	"foot":    {84, 16}, // from beyond the feet of someone lying on the back
	"above":   {14, 70},
	"oblique": {42, 22},  // from before and the right: presses, reaches and turns
	"back":    {-88, 9},  // from behind
	"left":    {-166, 8}, // from the client's left

	// For checking poses: cameras that together hide nothing.
	"plain":  {0, 4},
	"ahead":  {90, 4},
	"behind": {-90, 4},
	"top":    {0, 86},
}

// Landmark is a point by name in a placed body; ok is false for a name that is not one.
func (b *Body) Landmark(f *Frames, name string) (v Vec, ok bool) {
	if !IsPoint(name) {
		return v, false
	}
	return b.Point(f, name), true
}

// trunkLine is where the trunk points, from the hips to the neck, so that an upright
// neutral trunk points straight up.
func (b *Body) trunkLine(f *Frames) Vec {
	foot := f.P[SegPelvis].Add(f.R[SegPelvis].Mul(b.TrunkFoot()))
	return f.P[SegN1].Sub(foot).Unit()
}

// TrunkFoot is the point under the neck at the height of the hips of a standing body.
func (b *Body) TrunkFoot() Vec {
	v := b.segRest(SegN1)
	v[2] = 0
	return v
}

// TrunkLean is how far the trunk is from plumb and from level, degrees.
func (b *Body) TrunkLean(f *Frames) (plumb, level float64) {
	z := b.trunkLine(f)[2]
	return math.Acos(Clamp(z, -1, 1)) / Deg, math.Abs(math.Asin(Clamp(z, -1, 1))) / Deg
}

// MirrorNames exchanges left and right in names.
func MirrorNames(in []string) []string {
	var out []string
	for _, n := range in {
		out = append(out, MirrorName(n))
	}
	return out
}

// MirrorName exchanges left and right at the end of a name.
func MirrorName(n string) string {
	for _, sep := range []string{".", "-"} {
		if s, ok := strings.CutSuffix(n, sep+"left"); ok {
			return s + sep + "right"
		}
		if s, ok := strings.CutSuffix(n, sep+"right"); ok {
			return s + sep + "left"
		}
	}
	return n
}
