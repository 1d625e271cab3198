package body

import "strings"

// landmark is a named point an author can relate to others.
type landmark struct {
	seg  int // segment, or limb segment when paired
	pair bool
	at   func(b *Body, y float64) Vec
}

func fixed(v Vec) func(*Body, float64) Vec {
	return func(b *Body, _ float64) Vec { return v.Scale(b.scale) }
}

var landmarks = map[string]landmark{
	"pelvis":  {segPelvis, false, fixed(Vec{})},
	"waist":   {segL3, false, fixed(Vec{0.04, 0, 0})},
	"neck":    {segN1, false, fixed(Vec{})},
	"crown":   {segHead, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0, 0, 0.8585}).Sub(b.segRest(segHead)) }},
	"ear":     {segHead, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0, 0, 0.745}).Sub(b.segRest(segHead)) }},
	"occiput": {segHead, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{-0.105, 0, 0.765}).Sub(b.segRest(segHead)) }},
	// A stick along the back, behind the head and behind the waist.
	"stick-head":  {segHead, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{-0.125, 0, 0.66}).Sub(b.segRest(segHead)) }},
	"stick-waist": {segL2, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{-0.125, 0, 0.17}).Sub(b.segRest(segL2)) }},
	"brow":        {segHead, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0.1, 0, 0.785}).Sub(b.segRest(segHead)) }},
	"hip":         {segThigh, true, fixed(Vec{})},
	"knee":        {segShank, true, fixed(Vec{})},
	"kneecap":     {segShank, true, fixed(Vec{0.055, 0, 0})},
	"shin":        {segShank, true, func(b *Body, _ float64) Vec { return Vec{0.045 * b.scale, 0, -0.18 * b.shank} }},
	"outer-knee":  {segShank, true, func(b *Body, y float64) Vec { return Vec{0, y * 0.055 * b.scale, 0} }},
	"thigh":       {segThigh, true, func(b *Body, _ float64) Vec { return Vec{0.07 * b.scale, 0, -0.55 * b.thigh} }},
	"ankle":       {segFoot, true, fixed(Vec{})},
	"heel":        {segFoot, true, fixed(Vec{-0.045, 0, -0.045})},
	"ball":        {segToe, true, fixed(Vec{})},
	"toe":         {segToe, true, func(b *Body, _ float64) Vec { return Vec{0.25 * b.foot, 0, 0} }},
	"shoulder":    {segUpperArm, true, fixed(Vec{})},
	"elbow":       {segForearm, true, fixed(Vec{})},
	"wrist":       {segHand, true, fixed(Vec{})},
	"palm":        {segHand, true, func(b *Body, y float64) Vec { return Vec{0, -y * 0.026 * b.scale, -b.palm * 0.7} }},
	"fingertip":   {segHand, true, func(b *Body, _ float64) Vec { return Vec{0, 0, -b.hand} }},
	"hip-bone":    {segPelvis, true, func(b *Body, y float64) Vec { return b.trunkPoint(Vec{0.095, y * 0.11, 0.09}) }},
	"pubis":       {segPelvis, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0.105, 0, 0.02}) }},
	"side-rib": {segT2, true, func(b *Body, y float64) Vec {
		return b.trunkPoint(Vec{0.04, y * 0.14, 0.38}).Sub(b.segRest(segT2))
	}},
	"chest":         {segT3, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0.11, 0, 0.47}).Sub(b.segRest(segT3)) }},
	"navel":         {segL3, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{0.105, 0, 0.19}).Sub(b.segRest(segL3)) }},
	"small-of-back": {segL3, false, func(b *Body, _ float64) Vec { return b.trunkPoint(Vec{-0.125, 0, 0.20}).Sub(b.segRest(segL3)) }},
}

func isPoint(name string) bool {
	base, side, sided := strings.Cut(name, ".")
	l, ok := landmarks[base]
	return ok && l.pair == sided && (!sided || side == "left" || side == "right")
}

// pairedPoint tells whether a bare name stands for a left and a right point or segment.
func pairedPoint(name string) bool {
	if l, ok := landmarks[name]; ok {
		return l.pair
	}
	e, ok := ends[name]
	return ok && landmarks[e[0]].pair
}

// ends are the landmarks at the near and far end of what aim can point.
var ends = map[string][2]string{
	"thigh": {"hip", "knee"}, "shank": {"knee", "ankle"}, "leg": {"hip", "ankle"}, "foot": {"heel", "ball"},
	"upper-arm": {"shoulder", "elbow"}, "forearm": {"elbow", "wrist"}, "arm": {"shoulder", "wrist"}, "hand": {"wrist", "fingertip"},
	"trunk": {"pelvis", "neck"}, "head": {"neck", "crown"},
}

func segmentEnds(name string) (near, far string, ok bool) {
	base, side, sided := strings.Cut(name, ".")
	e, ok := ends[base]
	if !ok {
		return "", "", false
	}
	if sided {
		return e[0] + "." + side, e[1] + "." + side, isPoint(e[0] + "." + side)
	}
	return e[0], e[1], !landmarks[e[0]].pair
}

// point returns segment and local offset of a landmark.
func (b *Body) point(name string) (int, Vec) {
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
		seg = limbSeg(s, l.seg)
	}
	return seg, l.at(b, s.sign())
}

// Point is where a landmark is in the world, for example "knee.left" or "crown".
func (b *Body) Point(f *Frames, name string) Vec {
	seg, at := b.point(name)
	return f.P[seg].Add(f.R[seg].Mul(at))
}

// View is a camera: turn to the client's right about the vertical and raise, degrees.
type View struct{ Turn, Raise float64 }

// Views an author may name. The plain side view looks from the client's right with a
// slight three-quarter turn so that far limbs show.
// ViewNames lists the cameras.
func ViewNames() []string { return sortedKeys(Views) }

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
	if !isPoint(name) {
		return v, false
	}
	return b.Point(f, name), true
}
