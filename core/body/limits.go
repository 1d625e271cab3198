package body

// jointLimits are the ends of normal range in degrees, low then high.
//
// Neck, hip, knee, shoulder and ankle: AAOS normal ranges; the lumbar and thoracic
// split: kinesiology texts, approximate (values from memory). Elbow, forearm, wrist,
// toes (70 free, more under body weight) and shoulder blade: common practice. Shoulder adduction past the midline and
// the rotation of a raised arm need more than the anatomical-position figures allow.
var jointLimits = func() [NDof][2]float64 {
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

// Ranges of the spine's regions in degrees: flexion, extension, side-bend, rotation.
// Trunk is the thoracolumbar range. AAOS normal ranges with an approximate regional
// split from kinesiology texts (values from memory).
var Ranges = map[string][4]float64{
	"neck":     {45, 45, 45, 60},
	"thoracic": {30, 10, 20, 37},
	"lumbar":   {50, 15, 20, 8},
	"trunk":    {80, 25, 35, 45},
}
