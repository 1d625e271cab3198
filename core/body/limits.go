package body

import "math"

// JointLimits are the ends of normal range in degrees, low then high.
//
// Neck, hip, knee, shoulder and ankle: AAOS normal ranges; the lumbar and thoracic
// split: kinesiology texts, approximate (values from memory). Elbow, forearm, wrist,
// toes (70 free, more under body weight) and shoulder blade: common practice. Shoulder adduction past the midline and
// the rotation of a raised arm need more than the anatomical-position figures allow.
var JointLimits = func() [NDof][2]float64 {
	var l [NDof][2]float64
	l[LumbarFlex] = [2]float64{-15, 50}
	l[LumbarSide] = [2]float64{-20, 20}
	l[LumbarTurn] = [2]float64{-8, 8}
	l[ThoracicFlex] = [2]float64{-10, 30}
	l[ThoracicSide] = [2]float64{-20, 20}
	l[ThoracicTurn] = [2]float64{-37, 37}
	l[NeckFlex] = [2]float64{-45, 45}
	l[NeckSide] = [2]float64{-45, 45}
	l[NeckTurn] = [2]float64{-60, 60}
	for _, s := range []Side{Left, Right} {
		set := func(j int, lo, hi float64) { l[Limb(s, j)] = [2]float64{lo, hi} }
		set(ShoulderFlex, -60, 180)
		set(ShoulderAbd, -45, 180)
		set(ShoulderRot, -90, 90)
		set(ElbowFlex, 0, 150)
		set(Pronation, -90, 90)
		set(WristExt, -80, 92)
		set(BladeForward, -20, 20)
		set(BladeUp, -8, 20)
		set(HipFlex, -30, 120)
		set(HipAbd, -30, 45)
		set(HipRot, -45, 45)
		set(KneeFlex, 0, 135)
		set(AnkleUp, -50, 20)
		set(ToesUp, -40, 85)
	}
	return l
}()

// limbEnds are the ends of limb ranges that are a stretch. A straight elbow or knee, a foot at
// rest, a hand that is leaned on and an elbow folded for a hand behind the head are none.
var limbEnds = []struct {
	joint int
	low   bool
}{
	{HipFlex, true}, {HipFlex, false}, {HipAbd, true}, {HipAbd, false}, {HipRot, true}, {HipRot, false}, {KneeFlex, false},
	{ShoulderFlex, true}, {ShoulderFlex, false}, {ShoulderAbd, true}, {ShoulderAbd, false}, {ShoulderRot, true},
	{ShoulderRot, false},
}

// LimbEnds tells of each end of a limb's ranges how far a state of one side is into the last
// degrees before it; 0 when it is not.
func (st *State) LimbEnds(s Side, last float64) []float64 {
	out := make([]float64, len(limbEnds))
	for i, e := range limbEnds {
		r, q := JointLimits[Limb(s, e.joint)], st.Q[Limb(s, e.joint)]/Deg
		into := q - (r[1] - last)
		if e.low {
			into = r[0] + last - q
		}
		out[i] = math.Max(0, into)
	}
	return out
}

// Ranges of the spine's regions in degrees: flexion, extension, side-bend, rotation.
// Trunk is the thoracolumbar range. AAOS normal ranges with an approximate regional
// split from kinesiology texts (values from memory).
var Ranges = map[string][4]float64{
	"neck":     {45, 45, 45, 60},
	"thoracic": {30, 10, 20, 37},
	"lumbar":   {50, 15, 20, 8},
	"trunk":    {80, 25, 35, 45},
}
