package catalogue

import (
	"math"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/trade"
)

// Peak is the largest value of a quantity over an exercise and the phase it occurs in.
type Peak struct {
	Value float64 `json:"v"`
	Phase string  `json:"p"`
}

// Quantities are peaks by name, the vocabulary of the limits file:
//
//	lumbar.flexion[.loaded|.unloaded]   degrees; thoracic, neck and trunk likewise,
//	                                    with extension, side-bend and rotation
//	lumbar.rotation.left                degrees, one direction
//	moment                              lumbar gravity demand, Nm per kg
//	share.hand.left, arm-load.left, wrist-load.left   fractions of body weight
//	overhead.left, hip.flexion.left, knee.loaded-flexion.left, nerve-tension.left   degrees
//	head-lift, head-lift.unsupported    1 when it occurs
//	head-lift.thoracic, head-lift.lumbar   flexion while the head is lifted, degrees
//	bridge-rise, head-low, pelvis-above-chest   centimetres
//	standing.free, standing.narrow, standing.one-foot, one-leg-bridge   1 when it occurs
//	needs.floor, needs.supine, ...      1 for each position it needs
//	declared.impact, ...                1 for each declared property
//	hip.across.left                     cm the knee lies across the middle of the pelvis
//	kneeling.left                       share of body weight on a knee that kneels on something hard
//	standing.head-turn                  degrees the head turns against the feet, on the feet
//	prone.neck, prone.lift, prone.unaided   degrees the neck leaves its line; 1 when a limb or the chest lifts; ... without the arms
//	toe-plank                           1 for a long front hold from the toes
//	end-range-hold                      share of a region's range rested in or pulled into while held
//	lumbar.extension.turned             degrees of arching while the trunk turns more than 5
//	bridge.lumbar                       degrees the low back leaves its line in a bridge
//	rising                              1 for rising from a seat to standing
//	rise.free                           1 for rising from a seat without hands
//	effort, weight                      of ten; kg in the hands
//	effort-but-rising                   of ten, rising from a seat with the hands left out
//	hip-and-back.left, hip.extension.left   degrees: hip and low back bent together; hip behind
//	hip.both                            degrees, the lesser of both hips lying on the back or sitting on the floor
//	hip.rotation-in-bent.left, hip.rotation-out-behind.left   degrees with the hip bent 70 or more; with it behind
//	knee.free-flexion.left, kneeling-at-all.left   of a bearing knee without hands; share on a knee, pad or not
//	moment.rising, moment.all-fours, moment.unaided   the moment while hands carry, seat or knees below, or none
//	bend-and-turn, bend.heavy           degrees of bending while turned; of the trunk under a large moment or on the floor
//	head-up[.unsupported|.alone], legs-off, side-plank, behind.left, standing.squeeze   1 when it occurs
//	hand-weight.left, overhead-weight, pulled, pull.left   kg; kg above the shoulder; newtons
//	strap.left                          1 when a strap pulls that hand
//	hip.flexion-held.left, hip.adduction-bent.left   degrees while held or drawn; towards the other leg with the hip bent over 60
//	shoulder.rotation-out.left, wrist-ground.left    degrees; share on a bent-back hand on the ground
//	supine.flat                         1 for lying on the back that is not raised
//	tail-roll                           degrees the pelvis tips back while it is sat on
//	raised-out.left                     degrees that arm is raised sideways while turned out
//	side-lying-flat.left, prone.flat    1 for lying on that side, on the front, without a pillow under ribs or belly
//	speed, head-speed, quick            degrees a second of the fastest joint, of the head; 1 when quick or declared so
//	end-range-limb.left                 degrees into the last ten of a limb's range, held over 10 s or all the time
//	curve-opens.left, curve-works.left, jammed-up.left   1 when the entry binds that side
type Quantities map[string]Peak

func (q Quantities) raise(name string, v float64, phase string) {
	if v <= 1e-9 {
		return
	}
	if old, ok := q[name]; !ok || v > old.Value {
		q[name] = Peak{v, phase}
	}
}

// Mirror exchanges the client's left and right.
func (q Quantities) Mirror() Quantities {
	out := make(Quantities, len(q))
	for k, v := range q {
		out[mirrored(k)] = v
	}
	return out
}

// Merge keeps the larger of both peaks.
func (q Quantities) Merge(o Quantities) Quantities {
	out := make(Quantities, len(q))
	for k, v := range q {
		out[k] = v
	}
	for k, v := range o {
		out.raise(k, v.Value, v.Phase)
	}
	return out
}

// Faster than these a movement is quick, degrees a second: of a joint, of the head in space
// (common practice).
const (
	quickJoint = 90
	quickHead  = 45
)

// The end of a limb's range is its last ten degrees, held longer than this many seconds (shared
// ruling 44).
const (
	endOfLimb = 10
	longHold  = 10
)

// limbEnds raises how far a limb rests in the end of its range: in a phase that is held long, or
// all the time.
func (q Quantities) limbEnds(v *Version, s *Solved) {
	hold := 0
	for _, steps := range v.Doses {
		for _, d := range steps {
			hold = max(hold, d.HoldSeconds(0))
		}
	}
	for i, side := range trade.BothSides {
		var least []float64
		for k := range s.Phases {
			st := s.Phases[k].State.State()
			ends := st.LimbEnds(body.Side(i), endOfLimb)
			if least == nil {
				least = slices.Clone(ends)
			}
			for j, into := range ends {
				least[j] = math.Min(least[j], into)
				if v.Phases[k].Held && hold > longHold {
					q.raise("end-range-limb."+string(side), into, s.Phases[k].Name)
				}
			}
		}
		if least != nil {
			q.raise("end-range-limb."+string(side), slices.Max(least), "the whole exercise")
		}
	}
}

// with adds what a version declares and needs, and what hangs on its doses.
func (q Quantities) with(v *Version, s *Solved) Quantities {
	out := q.Merge(nil)
	out.limbEnds(v, s)
	if p := out["speed"]; p.Value > quickJoint {
		out.raise("quick", 1, p.Phase)
	}
	if p := out["head-speed"]; p.Value > quickHead {
		out.raise("quick", 1, p.Phase)
	}
	for _, d := range v.Declared {
		if d == "quick" { // measured, too
			out.raise(d, 1, "declared")
			continue
		}
		out.raise("declared."+d, 1, "declared")
	}
	if v.Walking { // a step follows the other: no one-leg or narrow stand
		delete(out, "standing.one-foot")
		delete(out, "standing.narrow")
	}
	out.raise("effort", float64(v.Effort), "the whole exercise")
	if out["rising"].Value == 0 || out["rise.free"].Value > 0 { // everybody must get up from a chair
		out.raise("effort-but-rising", float64(v.Effort), "the whole exercise")
	}
	if v.Binds != "" {
		out.raise(v.Binds+"."+[2]string{"left", "right"}[v.Authored], 1, "the whole exercise")
	}
	return out
}

// held adds what hangs on props and on the row of phases.
func (q Quantities) held(s *Solved) {
	sat, stood, hands := "", false, false
	for i := range s.Phases {
		p := &s.Phases[i]
		for _, h := range p.Props {
			if h.Kind == "dumbbell" {
				q.raise("weight", h.Kg, p.Name)
			}
			if h.Kind == "ring" && p.Measures.Standing && slices.ContainsFunc(h.At, func(at string) bool { return strings.HasPrefix(at, "ankle.") }) {
				q.raise("standing.squeeze", 1, p.Name)
			}
			q.raise("pulled", h.Newtons, p.Name)
			for _, at := range h.At {
				side, ok := strings.CutPrefix(at, "palm.")
				if !ok {
					continue
				}
				if h.Kind == "strap" {
					q.raise("strap."+side, 1, p.Name)
				}
				q.raise("hand-weight."+side, h.Kg, p.Name)
				q.raise("pull."+side, h.Newtons, p.Name)
				if i := slices.Index(trade.BothSides[:], trade.Side(side)); h.Kg > 0 && p.Measures.Side[i].ShoulderElevation > 90 {
					q.raise("overhead-weight", h.Kg, p.Name)
				}
			}
		}
		m := &p.Measures
		if m.Standing {
			stood = true
		} else if !m.OnFloor && m.LyingOn == "" && m.Share["seat"]+m.Share["pelvis"] > 0.05 {
			sat = p.Name
		}
		hands = hands || m.Share["hand.left"]+m.Share["hand.right"]+m.Share["forearm.left"]+m.Share["forearm.right"] > 0.03
	}
	if sat != "" && stood {
		q.raise("rising", 1, sat)
		if !hands {
			q.raise("rise.free", 1, sat)
		}
	}
}

// Side returns the quantities of a version done to one side; alternating versions merge
// both, and so do unsided ones, whose bent knee or upper hand follows comfort.
func (v *Version) Side(s body.Side, q Quantities) Quantities {
	switch {
	case v.SideMode != trade.Each:
		return q.Merge(q.Mirror())
	case s == v.Authored:
		return q
	}
	return q.Mirror()
}

// take raises every quantity by one measured posture; rest tells that it is held.
func (q Quantities) take(m *body.Measures, phase string, rest bool) {
	type reg struct {
		name string
		r    body.Region
	}
	regions := []reg{{"lumbar", m.Lumbar}, {"thoracic", m.Thoracic}, {"neck", m.Neck}, {"trunk", trunk(m)}}
	for _, g := range regions {
		how := ".unloaded"
		if g.r.Loaded {
			how = ".loaded"
		}
		put := func(dir string, v float64) {
			q.raise(g.name+"."+dir, v, phase)
			q.raise(g.name+"."+dir+how, v, phase)
		}
		put("flexion", g.r.Flexion)
		put("extension", -g.r.Flexion)
		put("side-bend", math.Abs(g.r.SideBend))
		put("rotation", math.Abs(g.r.Rotation))
		q.raise(g.name+".side-bend.left", g.r.SideBend, phase)
		q.raise(g.name+".side-bend.right", -g.r.SideBend, phase)
		q.raise(g.name+".rotation.left", g.r.Rotation, phase)
		q.raise(g.name+".rotation.right", -g.r.Rotation, phase)
	}
	hands := arms(m)
	q.raise("moment", m.Moment, phase)
	switch {
	case hands >= 0.1 && !m.OnFloor && math.Min(m.Side[0].KneeFlexion, m.Side[1].KneeFlexion) > 30:
		q.raise("moment.rising", m.Moment, phase)
	case hands >= 0.1 && m.Share["knee.left"]+m.Share["knee.right"] > 0.03 && m.LyingOn == "":
		q.raise("moment.all-fours", m.Moment, phase)
	default:
		q.raise("moment.unaided", m.Moment, phase)
	}
	if both := m.Share["hand.left"] + m.Share["hand.right"]; both >= 0.1 && (!m.Standing || both >= 0.15) {
		q.raise("needs.hands", 1, phase)
	}
	t := regions[3].r
	if math.Abs(t.Rotation) > 10 {
		q.raise("bend-and-turn", m.Lumbar.Flexion, phase)
	}
	if m.Moment > 0.75 || m.FloorSit {
		q.raise("bend.heavy", math.Max(0, t.Flexion), phase)
	}
	if trade.Lying(m.LyingOn) == trade.OnBack || m.FloorSit {
		q.raise("hip.both", math.Min(m.Side[0].HipFlexion, m.Side[1].HipFlexion), phase)
	}
	if trade.Lying(m.LyingOn) == trade.OnBack && !m.Drawn && legs(m, "left")+legs(m, "right") < 0.03 {
		q.raise("legs-off", 1, phase)
	}
	if side := trade.Lying(m.LyingOn); (side == trade.OnLeft || side == trade.OnRight) && !m.Indeterminate && m.Share["knee.left"]+m.Share["knee.right"] < 0.03 {
		q.raise("side-plank", 1, phase)
	}
	if m.OnFeet && m.HeadLow > 15 && m.Neck.Flexion > 10 { // posed milder than it hangs
		q.raise("neck.flexion", hangingNeck, phase)
		q.raise("neck.flexion.loaded", hangingNeck, phase)
	}
	for k, v := range m.Share {
		q.raise("share."+k, v, phase)
	}
	for i, s := range []string{"left", "right"} {
		l := m.Side[i]
		q.raise("arm-load."+s, m.Share["hand."+s]+m.Share["forearm."+s]+m.Share["elbow."+s], phase)
		if l.WristExtension > 30 {
			q.raise("wrist-load."+s, m.Share["hand."+s], phase)
			if m.OnFloor { // not a hold at a counter or an armrest
				q.raise("wrist-ground."+s, m.Share["hand."+s], phase)
			}
		}
		q.raise("overhead."+s, l.ShoulderElevation, phase)
		q.raise("hip.flexion."+s, l.HipFlexion, phase)
		q.raise("hip.adduction."+s, -l.HipAbduction, phase)
		q.raise("hip.across."+s, m.HipAcross[i], phase)
		q.raise("hip.rotation-in."+s, -l.HipRotation, phase)
		q.raise("nerve-tension."+s, l.HipFlexion-l.KneeFlexion, phase)
		if l.KneeFlexion < straightKnee {
			q.raise("nerve-tension."+s, l.HipFlexion, phase)
		}
		q.raise("hip-and-back."+s, l.HipFlexion+m.Lumbar.Flexion, phase)
		q.raise("hip.extension."+s, -l.HipFlexion, phase)
		q.raise("shoulder.rotation-out."+s, l.ShoulderRotation, phase)
		if rest || m.Drawn {
			q.raise("hip.flexion-held."+s, l.HipFlexion, phase)
		}
		if l.HipFlexion > 60 {
			q.raise("hip.adduction-bent."+s, -l.HipAbduction, phase)
		}
		if l.HipFlexion >= 70 {
			q.raise("hip.rotation-in-bent."+s, -l.HipRotation, phase)
		}
		if l.HipFlexion < -PostureNoise {
			q.raise("hip.rotation-out-behind."+s, l.HipRotation, phase)
		}
		if l.ShoulderRotation > turnedOut && sideways(l) {
			q.raise("raised-out."+s, l.ShoulderElevation, phase)
		}
		if m.Behind[i] {
			q.raise("behind."+s, 1, phase)
		}
		if feet(m, s) > 0.03 && feet(m, "left")+feet(m, "right") > 0.5 { // the leg that bears
			q.raise("knee.loaded-flexion."+s, l.KneeFlexion, phase)
			if hands < 0.1 {
				q.raise("knee.free-flexion."+s, l.KneeFlexion, phase)
			}
		}
		q.raise("kneeling-at-all."+s, m.Share["knee."+s], phase)
		if m.Share["knee."+s] > 0.03 && m.LyingOn == "" {
			q.raise("needs.kneel", 1, phase)
		}
		if !m.KneePad[i] && (m.LyingOn == "" || !m.Indeterminate) {
			q.raise("kneeling."+s, m.Share["knee."+s], phase)
		}
	}
	turn := math.Abs(m.Lumbar.Rotation + m.Thoracic.Rotation)
	if turn > 5 {
		q.raise("lumbar.extension.turned", -m.Lumbar.Flexion, phase)
	}
	if feet := m.Share["foot.left"] + m.Share["foot.right"] + m.Share["shank.left"] + m.Share["shank.right"]; m.BridgeRise > 0 && feet > 0.05 {
		q.raise("bridge.lumbar", math.Abs(m.Lumbar.Flexion), phase)
	}
	if m.OnFeet {
		q.raise("standing.head-turn", math.Abs(m.Neck.Rotation+m.Thoracic.Rotation+m.Lumbar.Rotation), phase)
	}
	if trade.Lying(m.LyingOn) == trade.OnFront {
		q.raise("prone.neck", math.Max(math.Abs(m.Neck.Flexion), math.Max(math.Abs(m.Neck.SideBend), math.Abs(m.Neck.Rotation))), phase)
	}
	if rest {
		for _, g := range regions[:3] {
			if g.r.Loaded && !m.Drawn || m.BridgeRise > 0 { // a bridge is held by muscle
				continue
			}
			full := body.Ranges[g.name]
			for k, a := range []float64{g.r.Flexion, -g.r.Flexion, math.Abs(g.r.SideBend), math.Abs(g.r.Rotation)} {
				q.raise("end-range-hold", a/full[k], phase)
			}
		}
	}
	if m.HeadLift {
		q.raise("head-lift", 1, phase)
		q.raise("head-lift.thoracic", m.Thoracic.Flexion, phase)
		q.raise("head-lift.lumbar", m.Lumbar.Flexion, phase)
		if !m.HeadHeld {
			q.raise("head-lift.unsupported", 1, phase)
		}
	}
	q.raise("bridge-rise", m.BridgeRise, phase)
	q.raise("tail-roll", m.PelvisBack, phase)
	q.raise("head-low", m.HeadLow, phase)
	q.raise("pelvis-above-chest", m.PelvisAboveChest, phase)
	q.raise("hip.difference", math.Abs(m.Side[0].HipFlexion-m.Side[1].HipFlexion), phase)
	if m.LegsLoaded {
		q.raise("thighs-apart", m.ThighsApart, phase)
	}
	flag := func(name string, on bool) {
		if on {
			q.raise(name, 1, phase)
		}
	}
	flag("head-up", m.HeadUp)
	flag("head-up.alone", m.HeadUp && arms(m) < 0.1)
	flag("head-up.unsupported", m.HeadUp && !m.HeadHeld)
	flag("toe-plank", m.ToePlank)
	flag("prone.lift", m.ProneLift)
	flag("prone.unaided", m.ProneLimb || m.ProneLift && arms(m) < 0.1)
	flag("one-leg-bridge", m.OneLegBridge)
	flag("standing.free", m.StandingFree)
	flag("standing.one-foot", m.StandingFree && math.Min(m.Share["foot.left"]+m.Share["toes.left"], m.Share["foot.right"]+m.Share["toes.right"]) < 0.05)
	flag("standing.narrow", m.StandingFree && m.Margin < 3)
	flag("needs.standing", m.Standing)
	flag("needs.floor", m.OnFloor)
	flag("needs.floor-sit", m.FloorSit)
	switch on := trade.Lying(m.LyingOn); on {
	case trade.OnBack:
		flag("needs.supine", true)
		flag("supine.flat", !m.BackRaised)
	case trade.OnFront:
		flag("needs.prone", true)
		flag("prone.flat", !m.BellyPad)
	case trade.OnLeft, trade.OnRight:
		flag("needs.side."+string(on), true)
		flag("side-lying-flat."+string(on), !m.RibPad[slices.Index(trade.BothSides[:], trade.Side(on))])
	}
}

// PostureNoise is what an angle may be without meaning anything, degrees (shared ruling 3); LoadNoise
// is what an angle under load, or a direction of the trunk, must exceed to count (shared ruling 2).
const (
	PostureNoise = 3
	LoadNoise    = 5
)

// StrongFrom is the effort from which an exercise counts as strength or control (shared ruling 21).
const StrongFrom = 3

// A head that hangs in a standing
// roll-down bends the neck by this much whatever its pose says (common practice), degrees.
const (
	straightKnee = 20 // bent less, the knee counts as straight and the whole hip pulls
	hangingNeck  = 45
	turnedOut    = 45 // an arm turned out further is at risk when raised sideways
)

// sideways tells whether an arm is raised more to the side than to the front or back.
func sideways(l body.Limbs) bool {
	forward := math.Abs(math.Cos(l.ShoulderFlexion * math.Pi / 180))
	return forward > 1e-3 && math.Acos(math.Max(-1, math.Min(1, math.Cos(l.ShoulderElevation*math.Pi/180)/forward)))*180/math.Pi >= math.Abs(l.ShoulderFlexion)
}

// arms, feet and legs are the shares of body weight on them.
func arms(m *body.Measures) (sum float64) {
	for _, s := range trade.BothSides {
		sum += m.Share["hand."+string(s)] + m.Share["forearm."+string(s)] + m.Share["elbow."+string(s)]
	}
	return sum
}

func feet(m *body.Measures, s string) float64 {
	return m.Share["foot."+s] + m.Share["toes."+s] + m.Share["heel."+s]
}

func legs(m *body.Measures, s string) float64 {
	return feet(m, s) + m.Share["knee."+s] + m.Share["shank."+s] + m.Share["thigh."+s]
}

// trunk adds the parts of the lumbar and thoracic regions that point the same way.
func trunk(m *body.Measures) body.Region {
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
	return body.Region{Flexion: add(l.Flexion, t.Flexion), SideBend: add(l.SideBend, t.SideBend), Rotation: add(l.Rotation, t.Rotation), Loaded: l.Loaded || t.Loaded}
}
