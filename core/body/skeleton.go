// Package body is the articulated human figure: its segments, joints, mass, skin and landmarks, and
// the surfaces and props it meets. It knows no poses but where it is put, and reads no files.
//
// A body is put by 37 joint angles and the place and orientation of the pelvis. The spine bends in
// three regions (lumbar 4, thoracic 4 and neck 2 joints); a region's angle is the sum over its
// joints.
package body

import "math"

// Sex selects one of the two reference bodies.
type Sex int

// The two reference bodies of the segment parameter source.
const (
	Female Sex = iota
	Male
)

// Degrees of freedom. Angles are in radians inside the package and in degrees at its
// border. Side-bend and rotation of the spine are positive to the left; limb angles
// have the same sign on both sides.
const (
	LumbarFlex = iota
	LumbarSide
	LumbarTurn
	ThoracicFlex
	ThoracicSide
	ThoracicTurn
	NeckFlex
	NeckSide
	NeckTurn
	Limbs // first limb angle: left limbs, then right
)

// Limb angles, as offsets from the first angle of a side.
const (
	ShoulderFlex = iota
	ShoulderAbd
	ShoulderRot // outward positive
	ElbowFlex
	Pronation // 0 = thumb forward, positive = palm back
	WristExt
	BladeForward
	BladeUp
	HipFlex
	HipAbd
	HipRot // outward positive
	KneeFlex
	AnkleUp
	ToesUp
	LimbCount
)

// NDof is the number of joint angles.
const NDof = Limbs + 2*LimbCount

// Side is the client's left or right.
type Side int

// The client's sides.
const (
	Left Side = iota
	Right
)

// Limb returns the index of a limb angle on a side.
func Limb(s Side, joint int) int { return Limbs + int(s)*LimbCount + joint }

// State is a posed body: pelvis place (m), orientation and joint angles (rad).
type State struct {
	Root Vec
	Turn Quat
	Q    [NDof]float64
}

// Segments that carry mass, skin and drawing.
const (
	SegPelvis = iota
	SegL1
	SegL2
	SegL3
	SegL4
	SegT1
	SegT2
	SegT3
	SegT4
	SegN1
	SegHead
	SegLimbs
)

// Segments of a limb (see LimbSeg).
const (
	SegGirdle = iota
	SegUpperArm
	SegForearm
	SegHand
	SegThigh
	SegShank
	SegFoot
	SegToe
	SegLimbCount
)

// NSeg is the number of segments.
const NSeg = SegLimbs + 2*SegLimbCount

// LimbSeg returns the index of a limb segment on a side.
func LimbSeg(s Side, seg int) int { return SegLimbs + int(s)*SegLimbCount + seg }

// Body is one build: lengths and masses. Lengths are metres.
type Body struct {
	Sex     Sex
	Stature float64
	Scale   float64 // stature over the reference stature
	tz      float64 // trunk length relative to the female reference
	wide    float64 // shoulder breadth relative to the female reference
	upperArm, forearm, palm, hand,
	thigh, shank, foot float64
	Spheres []Sphere
	Masses  []MassPoint
}

// MassPoint is a share of body weight fixed to a segment.
type MassPoint struct {
	Seg   int
	At    Vec
	Share float64
}

// Segment lengths (mm), mass shares (%) and centres of mass (% of length from the
// upper end): adjustments to segment inertia parameters, J Biomech 1996;29:1223-1230
// (values from memory), female then male.
var reference = [2]struct {
	stature                                                                    float64
	head, upper, mid, lower, upperArm, forearm, palm, hand, thigh, shank, foot float64
	mass                                                                       [10]float64
	com                                                                        [10]float64
}{
	{1735, 243.7, 228.0, 205.3, 181.5, 275.1, 264.3, 78.0, 170, 368.5, 432.3, 228.3,
		[10]float64{6.68, 15.45, 14.65, 12.47, 2.55, 1.38, 0.56, 14.78, 4.81, 1.29},
		[10]float64{48.41, 50.50, 45.12, 49.20, 57.54, 45.59, 74.74, 36.12, 44.16, 40.14}},
	{1741, 242.9, 242.1, 215.5, 145.7, 281.7, 268.9, 86.2, 188, 422.2, 434.0, 258.1,
		[10]float64{6.94, 15.96, 16.33, 11.17, 2.71, 1.62, 0.61, 14.16, 4.33, 1.37},
		[10]float64{50.02, 50.66, 45.02, 61.15, 57.72, 45.74, 79.00, 40.95, 44.59, 44.15}},
}

// DefaultStature is the height in metres of the figure when a client's is not known.
const DefaultStature = 1.62

// NewBody returns the reference body of a sex at a stature in metres (0: the default
// female 1.62, male 1.741).
func NewBody(sex Sex, stature float64) *Body {
	r := reference[sex]
	if stature == 0 {
		stature = [2]float64{DefaultStature, 1.741}[sex]
	}
	s := stature / (r.stature / 1000)
	b := &Body{Sex: sex, Stature: stature, Scale: s}
	m := s / 1000
	trunk := r.upper + r.mid + r.lower
	b.tz = trunk / 614.8
	b.wide = [2]float64{1, 1.08}[sex]
	b.upperArm, b.forearm, b.palm, b.hand = r.upperArm*m, r.forearm*m, r.palm*m, r.hand*m
	b.thigh, b.shank, b.foot = r.thigh*m, r.shank*m, r.foot*m
	b.layMass()
	b.laySkin()
	return b
}

func (b *Body) layMass() {
	r := reference[b.Sex]
	s := b.Scale
	m, c := r.mass, r.com
	top := (r.upper + r.mid + r.lower) / 1000
	mid := (r.mid + r.lower) / 1000
	low := r.lower / 1000
	add := func(seg int, at Vec, pct float64) {
		b.Masses = append(b.Masses, MassPoint{seg, at.Sub(b.segRest(seg)), pct / 100})
	}
	// Trunk and head points are given in the standing pelvis frame.
	add(SegHead, Vec{0.005, 0, top + r.head/1000*(1-c[0]/100)}.Scale(s), m[0])
	add(SegT3, Vec{-0.005, 0, top - r.upper/1000*c[1]/100}.Scale(s), m[1])
	add(SegL4, Vec{0.0, 0, mid - r.mid/1000*c[2]/100}.Scale(s), m[2])
	add(SegPelvis, Vec{-0.005, 0, low * (1 - c[3]/100)}.Scale(s), m[3])
	for _, side := range []Side{Left, Right} {
		limb := func(seg int, at Vec, pct float64) {
			b.Masses = append(b.Masses, MassPoint{LimbSeg(side, seg), at, pct / 100})
		}
		limb(SegUpperArm, Vec{0, 0, -b.upperArm * c[4] / 100}, m[4])
		limb(SegForearm, Vec{0, 0, -b.forearm * c[5] / 100}, m[5])
		limb(SegHand, Vec{0, 0, -b.palm * c[6] / 100}, m[6])
		limb(SegThigh, Vec{0, 0, -b.thigh * c[7] / 100}, m[7])
		limb(SegShank, Vec{0, 0, -b.shank * c[8] / 100}, m[8])
		limb(SegFoot, Vec{-0.07*s + b.foot*c[9]/100, 0, -0.045 * s}, m[9])
	}
}

// Joint heights above the hip axis and depth behind it, for the female reference (m).
var spineJoint = [10]Vec{
	{-0.045, 0, 0.105}, {-0.042, 0, 0.145}, {-0.040, 0, 0.185}, {-0.042, 0, 0.225},
	{-0.048, 0, 0.275}, {-0.055, 0, 0.345}, {-0.055, 0, 0.420}, {-0.045, 0, 0.495},
	{-0.030, 0, 0.600}, {-0.012, 0, 0.665},
}

// trunkPoint scales a point of the female reference trunk to this body.
func (b *Body) trunkPoint(v Vec) Vec {
	return Vec{v[0] * b.Scale, v[1] * b.Scale, v[2] * b.tz * b.Scale}
}

// segRest is the origin of a trunk segment in the standing pelvis frame.
func (b *Body) segRest(seg int) Vec {
	if seg == SegPelvis {
		return Vec{}
	}
	return b.trunkPoint(spineJoint[seg-1])
}

const (
	clavicleIn = 0.025 // sternal end from the midline, m at reference scale
	halfHips   = 0.085 // hip joint from the midline, m at reference scale
)

func (b *Body) clavicle(side Side) (root, out Vec) {
	y := side.Sign()
	root = b.trunkPoint(Vec{0.0, 0, 0.535})
	root[1] = y * clavicleIn * b.Scale
	return root, Vec{-0.015 * b.Scale, y * 0.145 * b.Scale * b.wide, 0.012 * b.Scale}
}

// Sign is 1 for the left, which is where y points, and -1 for the right.
func (s Side) Sign() float64 {
	if s == Left {
		return 1
	}
	return -1
}

// Frames holds where every segment is: its origin and orientation in the world.
type Frames struct {
	P [NSeg]Vec
	R [NSeg]Mat
}

// GirdleRise is how far the shoulder girdle rises with a fully raised arm (radians);
// about a third of the scapulohumeral rhythm, value from memory.
const GirdleRise = 22 * Deg

// Place computes all frames of a state.
func (b *Body) Place(st *State, f *Frames) {
	f.P[SegPelvis], f.R[SegPelvis] = st.Root, st.Turn.Mat()
	regions := [3]struct{ first, n, dof int }{{SegL1, 4, LumbarFlex}, {SegT1, 4, ThoracicFlex}, {SegN1, 2, NeckFlex}}
	rest := Vec{}
	for _, g := range regions {
		n := float64(g.n)
		fl, sb, tu := st.Q[g.dof]/n, -st.Q[g.dof+1]/n, st.Q[g.dof+2]/n
		for k := 0; k < g.n; k++ {
			seg := g.first + k
			at := b.segRest(seg)
			f.P[seg] = f.P[seg-1].Add(f.R[seg-1].Mul(at.Sub(rest)))
			f.R[seg] = f.R[seg-1].Turn(1, fl).Turn(0, sb).Turn(2, tu)
			rest = at
		}
	}
	chestRest := b.segRest(SegT4)
	for _, side := range []Side{Left, Right} {
		y := side.Sign()
		q := st.Q[Limb(side, 0) : Limb(side, 0)+LimbCount]
		seg := func(i int) int { return LimbSeg(side, i) }

		root, out := b.clavicle(side)
		gi := seg(SegGirdle)
		f.P[gi] = f.P[SegT4].Add(f.R[SegT4].Mul(root.Sub(chestRest)))
		rise := q[BladeUp] + GirdleRise*(1-math.Cos(q[ShoulderFlex])*math.Cos(q[ShoulderAbd]))/2
		f.R[gi] = f.R[SegT4].Turn(2, -y*q[BladeForward]).Turn(0, y*rise)
		ua := seg(SegUpperArm)
		f.P[ua] = f.P[gi].Add(f.R[gi].Mul(out))
		// The arm turns against the chest, not the girdle: its angles are what is seen.
		f.R[ua] = f.R[SegT4].Turn(1, -q[ShoulderFlex]).Turn(0, y*q[ShoulderAbd]).Turn(2, y*q[ShoulderRot])
		fa := seg(SegForearm)
		f.P[fa] = f.P[ua].Add(f.R[ua].Mul(Vec{0, 0, -b.upperArm}))
		f.R[fa] = f.R[ua].Turn(1, -q[ElbowFlex])
		ha := seg(SegHand)
		f.P[ha] = f.P[fa].Add(f.R[fa].Mul(Vec{0, 0, -b.forearm}))
		// Hand frame: x towards the thumb, y away from the palm (left hand), -z fingers.
		f.R[ha] = f.R[fa].Turn(2, -y*q[Pronation]).Turn(0, y*q[WristExt])

		th := seg(SegThigh)
		f.P[th] = f.P[SegPelvis].Add(f.R[SegPelvis].Mul(Vec{0, y * halfHips * b.Scale, 0}))
		f.R[th] = f.R[SegPelvis].Turn(1, -q[HipFlex]).Turn(0, y*q[HipAbd]).Turn(2, y*q[HipRot])
		sh := seg(SegShank)
		f.P[sh] = f.P[th].Add(f.R[th].Mul(Vec{0, 0, -b.thigh}))
		f.R[sh] = f.R[th].Turn(1, q[KneeFlex])
		fo := seg(SegFoot)
		f.P[fo] = f.P[sh].Add(f.R[sh].Mul(Vec{0, 0, -b.shank}))
		f.R[fo] = f.R[sh].Turn(1, -q[AnkleUp])
		to := seg(SegToe)
		f.P[to] = f.P[fo].Add(f.R[fo].Mul(Vec{0.52 * b.foot, 0, -0.057 * b.Scale}))
		f.R[to] = f.R[fo].Turn(1, -q[ToesUp])
	}
}

// COM is the whole-body centre of mass.
func (b *Body) COM(f *Frames) Vec {
	var c Vec
	for _, m := range b.Masses {
		c = c.Add(f.P[m.Seg].Add(f.R[m.Seg].Mul(m.At)).Scale(m.Share))
	}
	return c
}

// Mirror exchanges left and right about the plane y = 0.
func (st State) Mirror() State {
	out := st
	out.Root[1] = -st.Root[1]
	out.Turn = Quat{st.Turn[0], -st.Turn[1], st.Turn[2], -st.Turn[3]}
	for _, i := range []int{LumbarSide, LumbarTurn, ThoracicSide, ThoracicTurn, NeckSide, NeckTurn} {
		out.Q[i] = -st.Q[i]
	}
	for j := 0; j < LimbCount; j++ {
		out.Q[Limb(Left, j)], out.Q[Limb(Right, j)] = st.Q[Limb(Right, j)], st.Q[Limb(Left, j)]
	}
	return out
}

// Gravity is standard gravity, m/s^2.
const Gravity = 9.80665

// SideName is a side as the names of points end in it.
func SideName(s Side) string { return [2]string{".left", ".right"}[s] }
