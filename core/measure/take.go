package measure

import (
	"math"
	"slices"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/statics"
	"restbend/core/trade"
)

// How one measured posture becomes quantities.

// From these shares of body weight on, something carries (domain/09 for hands; the others product
// defaults): hands together, as a hold in standing, any part at all, the feet of who bears on them.
const (
	handsCarry = 0.10
	aHold      = 0.15
	anything   = 0.03
	feetBear   = 0.50
)

// Angles and lengths from which something counts (domain/09 where not said otherwise).
const (
	bentKnee     = 30   // degrees; rising from a seat, not leaning (product default)
	straightKnee = 20   // bent less, the knee counts as straight and the whole hip pulls
	crossedHip   = 60   // the bent leg that crosses
	bentHip      = 70   // a hip turned in while bent
	bentWrist    = 30   // bent back under weight (domain/03)
	turnedOut    = 45   // an arm turned out further is at risk when raised sideways (product default)
	turned       = 10   // the trunk, while the low back bends
	archTurned   = 5    // ... while it arches (domain/03)
	bentNeck     = 10   // in a standing roll-down, where the head hangs (product default)
	hangingNeck  = 45   // what a hanging head bends the neck by, whatever its pose says
	headHangs    = 15   // cm below the heart
	heavy        = 0.75 // Nm per kg on the low back
	narrowBase   = 3    // cm of margin (product default)
	onOneFoot    = 0.05 // the other foot carries less (product default)
)

// taker raises quantities by one posture.
type taker struct {
	q     catalogue.Quantities
	m     *statics.Measures
	phase string
	rest  bool // it is held
	hands float64
	on    trade.Lying
}

// region is a part of the spine with its name.
type region struct {
	name string
	statics.Region
}

// take raises every quantity by one measured posture; rest tells that it is held.
func take(q catalogue.Quantities, m *statics.Measures, phase string, rest bool) {
	t := taker{q, m, phase, rest, arms(m), trade.Lying(m.LyingOn)}
	spine := []region{{"lumbar", m.Lumbar}, {"thoracic", m.Thoracic}, {"neck", m.Neck}}
	whole := region{"trunk", trunk(m)}
	for _, g := range append(slices.Clone(spine), whole) {
		t.angles(g)
	}
	t.load(whole)
	for k, v := range m.Share {
		t.raise("share."+k, v)
	}
	for i, s := range trade.BothSides {
		t.arm(m.Side[i], i, string(s))
		t.hip(m.Side[i], i, string(s))
		t.knee(m.Side[i], i, string(s))
	}
	t.trunk(spine)
	t.head()
	t.places()
}

func (t *taker) raise(name string, v float64) { t.q.Raise(name, v, t.phase) }

func (t *taker) flag(name string, on bool) {
	if on {
		t.raise(name, 1)
	}
}

func (t *taker) share(parts ...string) (sum float64) {
	for _, p := range parts {
		sum += t.m.Share[p]
	}
	return sum
}

// angles are those of a region, alone, under load or not, and to each side.
func (t *taker) angles(g region) {
	how := map[bool]string{true: ".loaded", false: ".unloaded"}[g.Loaded]
	put := func(dir string, v float64) {
		t.raise(g.name+"."+dir, v)
		t.raise(g.name+"."+dir+how, v)
	}
	put("flexion", g.Flexion)
	put("extension", -g.Flexion)
	put("side-bend", math.Abs(g.SideBend))
	put("rotation", math.Abs(g.Rotation))
	t.raise(g.name+".side-bend.left", g.SideBend)
	t.raise(g.name+".side-bend.right", -g.SideBend)
	t.raise(g.name+".rotation.left", g.Rotation)
	t.raise(g.name+".rotation.right", -g.Rotation)
}

// load is what gravity asks of the low back, by what helps it, and what bends while it asks much.
func (t *taker) load(whole region) {
	m := t.m
	t.raise("moment", m.Moment)
	switch {
	case t.hands >= handsCarry && !m.OnFloor && math.Min(m.Side[0].KneeFlexion, m.Side[1].KneeFlexion) > bentKnee:
		t.raise("moment.rising", m.Moment)
	case t.hands >= handsCarry && t.share("knee.left", "knee.right") > anything && t.on == "":
		t.raise("moment.all-fours", m.Moment)
	default:
		t.raise("moment.unaided", m.Moment)
	}
	both := t.share("hand.left", "hand.right")
	hold := m.Standing || !m.OnFloor && feet(m, "left")+feet(m, "right") > anything // standing, or on the way up from a seat
	t.flag("needs.hands", both >= handsCarry && (!hold || both >= aHold))
	if math.Abs(whole.Rotation) > turned {
		t.raise("bend-and-turn", m.Lumbar.Flexion)
	}
	if m.Moment > heavy || m.FloorSit {
		t.raise("bend.heavy", math.Max(0, whole.Flexion))
	}
}

func (t *taker) arm(l statics.Limbs, i int, s string) {
	t.raise("arm-load."+s, t.share("hand."+s, "forearm."+s, "elbow."+s))
	if l.WristExtension > bentWrist {
		t.raise("wrist-load."+s, t.m.Share["hand."+s])
		if t.m.OnFloor { // not a hold at a counter or an armrest
			t.raise("wrist-ground."+s, t.m.Share["hand."+s])
		}
	}
	t.raise("overhead."+s, l.ShoulderElevation)
	t.raise("shoulder.rotation-out."+s, l.ShoulderRotation)
	if l.ShoulderRotation > turnedOut && sideways(l) {
		t.raise("raised-out."+s, l.ShoulderElevation)
	}
	t.flag("behind."+s, t.m.Behind[i])
}

func (t *taker) hip(l statics.Limbs, i int, s string) {
	t.raise("hip.flexion."+s, l.HipFlexion)
	t.raise("hip.extension."+s, -l.HipFlexion)
	t.raise("hip.adduction."+s, -l.HipAbduction)
	t.raise("hip.across."+s, t.m.HipAcross[i])
	t.raise("hip.rotation-in."+s, -l.HipRotation)
	t.raise("hip-and-back."+s, l.HipFlexion+t.m.Lumbar.Flexion)
	t.raise("nerve-tension."+s, l.HipFlexion-l.KneeFlexion)
	if l.KneeFlexion < straightKnee {
		t.raise("nerve-tension."+s, l.HipFlexion)
	}
	if t.rest || t.m.Drawn {
		t.raise("hip.flexion-held."+s, l.HipFlexion)
	}
	if l.HipFlexion > crossedHip {
		t.raise("hip.adduction-bent."+s, -l.HipAbduction)
	}
	if l.HipFlexion >= bentHip {
		t.raise("hip.rotation-in-bent."+s, -l.HipRotation)
	}
	if l.HipFlexion < -catalogue.PostureNoise {
		t.raise("hip.rotation-out-behind."+s, l.HipRotation)
	}
}

func (t *taker) knee(l statics.Limbs, i int, s string) {
	m, carries := t.m, t.m.Share["knee."+s]
	if feet(m, s) > anything && feet(m, "left")+feet(m, "right") > feetBear { // the leg that bears
		t.raise("knee.loaded-flexion."+s, l.KneeFlexion)
		if t.hands < handsCarry {
			t.raise("knee.free-flexion."+s, l.KneeFlexion)
		}
	}
	t.raise("kneeling-at-all."+s, carries)
	t.flag("needs.kneel", carries > anything && t.on == "")
	if !m.KneePad[i] && (t.on == "" || !m.Indeterminate) {
		t.raise("kneeling."+s, carries)
	}
}

// trunk is what the trunk does beyond its angles: arching turned, a bridge, resting at the end of a
// range, both hips, the pelvis.
func (t *taker) trunk(spine []region) {
	m := t.m
	if math.Abs(m.Lumbar.Rotation+m.Thoracic.Rotation) > archTurned {
		t.raise("lumbar.extension.turned", -m.Lumbar.Flexion)
	}
	if m.BridgeRise > 0 && t.share("foot.left", "foot.right", "shank.left", "shank.right") > onOneFoot {
		t.raise("bridge.lumbar", math.Abs(m.Lumbar.Flexion))
	}
	if t.rest && m.BridgeRise == 0 { // a bridge is held by muscle
		for _, g := range spine {
			if g.Loaded && !m.Drawn {
				continue
			}
			for k, a := range []float64{g.Flexion, -g.Flexion, math.Abs(g.SideBend), math.Abs(g.Rotation)} {
				t.raise("end-range-hold", a/body.Ranges[g.name][k])
			}
		}
	}
	if t.on == trade.OnBack || m.FloorSit {
		t.raise("hip.both", math.Min(m.Side[0].HipFlexion, m.Side[1].HipFlexion))
	}
	t.flag("legs-off", t.on == trade.OnBack && !m.Drawn && legs(m, "left")+legs(m, "right") < anything)
	t.flag(
		"side-plank",
		(t.on == trade.OnLeft || t.on == trade.OnRight) && !m.Indeterminate && t.share("knee.left", "knee.right") < anything,
	)
	t.flag("one-leg-bridge", m.OneLegBridge)
	t.raise("bridge-rise", m.BridgeRise)
	t.raise("tail-roll", m.PelvisBack)
	t.raise("pelvis-above-chest", m.PelvisAboveChest)
	t.raise("hip.difference", math.Abs(m.Side[0].HipFlexion-m.Side[1].HipFlexion))
	if m.LegsLoaded {
		t.raise("thighs-apart", m.ThighsApart)
	}
	if m.OnFeet && feet(m, "left") > anything && feet(m, "right") > anything { // a leg that is lifted is no step
		t.raise("standing.wide", m.Side[0].HipAbduction+m.Side[1].HipAbduction)
	}
}

// head is what the head and the neck do: hang, turn over standing feet, leave the line on the front,
// lift from lying, lie low.
func (t *taker) head() {
	m := t.m
	if m.OnFeet && m.HeadLow > headHangs && m.Neck.Flexion > bentNeck { // posed milder than it hangs
		t.raise("neck.flexion", hangingNeck)
		t.raise("neck.flexion.loaded", hangingNeck)
	}
	if m.OnFeet {
		t.raise("standing.head-turn", math.Abs(m.Neck.Rotation+m.Thoracic.Rotation+m.Lumbar.Rotation))
	}
	if t.on == trade.OnFront {
		t.raise(
			"prone.neck",
			math.Max(math.Abs(m.Neck.Flexion), math.Max(math.Abs(m.Neck.SideBend), math.Abs(m.Neck.Rotation))),
		)
	}
	if m.HeadLift {
		t.raise("head-lift", 1)
		t.raise("head-lift.thoracic", m.Thoracic.Flexion)
		t.raise("head-lift.lumbar", m.Lumbar.Flexion)
		t.flag("head-lift.unsupported", !m.HeadHeld)
	}
	t.raise("head-low", m.HeadLow)
	t.flag("head-up", m.HeadUp)
	t.flag("head-up.alone", m.HeadUp && t.hands < handsCarry)
	t.flag("head-up.unsupported", m.HeadUp && !m.HeadHeld)
}

// places are the positions it needs and how it stands or lies there.
func (t *taker) places() {
	m := t.m
	t.flag("toe-plank", m.ToePlank)
	t.flag("prone.lift", m.ProneLift)
	t.flag("prone.unaided", m.ProneLimb || m.ProneLift && t.hands < handsCarry)
	t.flag("standing.free", m.StandingFree)
	t.flag(
		"standing.one-foot",
		m.StandingFree && math.Min(t.share("foot.left", "toes.left"), t.share("foot.right", "toes.right")) < onOneFoot,
	)
	t.flag("standing.narrow", m.StandingFree && m.Margin < narrowBase)
	t.flag("needs.standing", m.Standing)
	t.flag("needs.floor", m.OnFloor)
	t.flag("needs.floor-sit", m.FloorSit)
	switch t.on {
	case trade.OnBack:
		t.flag("needs.supine", true)
		t.flag("supine.flat", !m.BackRaised)
	case trade.OnFront:
		t.flag("needs.prone", true)
		t.flag("prone.flat", !m.BellyPad)
	case trade.OnLeft, trade.OnRight:
		t.flag("needs.side."+string(t.on), true)
		t.flag("side-lying-flat."+string(t.on), !m.RibPad[slices.Index(trade.BothSides[:], trade.Side(t.on))])
	}
}

// sideways tells whether an arm is raised more to the side than to the front or back.
func sideways(l statics.Limbs) bool {
	forward := math.Abs(math.Cos(l.ShoulderFlexion * math.Pi / 180))
	if forward <= 1e-3 {
		return false
	}
	out := math.Acos(math.Max(-1, math.Min(1, math.Cos(l.ShoulderElevation*math.Pi/180)/forward))) * 180 / math.Pi
	return out >= math.Abs(l.ShoulderFlexion)
}

// arms, feet and legs are the shares of body weight on them.
func arms(m *statics.Measures) (sum float64) {
	for _, s := range trade.BothSides {
		sum += m.Share["hand."+string(s)] + m.Share["forearm."+string(s)] + m.Share["elbow."+string(s)]
	}
	return sum
}

func feet(m *statics.Measures, s string) float64 {
	return m.Share["foot."+s] + m.Share["toes."+s] + m.Share["heel."+s]
}

func legs(m *statics.Measures, s string) float64 {
	return feet(m, s) + m.Share["knee."+s] + m.Share["shank."+s] + m.Share["thigh."+s]
}

// trunk adds the parts of the lumbar and thoracic regions that point the same way.
func trunk(m *statics.Measures) statics.Region {
	add := func(a, b float64) float64 {
		if a*b < 0 {
			if math.Abs(a) > math.Abs(b) {
				return a
			}
			return b
		}
		return a + b
	}
	l, t := m.Lumbar, m.Thoracic
	return statics.Region{
		Flexion:  add(l.Flexion, t.Flexion),
		SideBend: add(l.SideBend, t.SideBend),
		Rotation: add(l.Rotation, t.Rotation),
		Loaded:   l.Loaded || t.Loaded,
	}
}
