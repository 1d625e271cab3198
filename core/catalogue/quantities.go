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
//	standing.wide                       degrees both hips lead out to the sides, on the feet
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

// Raise keeps a value and its phase if nothing higher was there.
func (q Quantities) Raise(name string, v float64, phase string) {
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
		out.Raise(k, v.Value, v.Phase)
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
					q.Raise("end-range-limb."+string(side), into, s.Phases[k].Name)
				}
			}
		}
		if least != nil {
			q.Raise("end-range-limb."+string(side), slices.Max(least), "the whole exercise")
		}
	}
}

// with adds what a version declares and needs, and what hangs on its doses.
func (q Quantities) with(v *Version, s *Solved) Quantities {
	out := q.Merge(nil)
	out.limbEnds(v, s)
	if p := out["speed"]; p.Value > quickJoint {
		out.Raise("quick", 1, p.Phase)
	}
	if p := out["head-speed"]; p.Value > quickHead {
		out.Raise("quick", 1, p.Phase)
	}
	for _, d := range v.Declared {
		if d == "quick" { // measured, too
			out.Raise(d, 1, "declared")
			continue
		}
		out.Raise("declared."+d, 1, "declared")
	}
	if v.Walking { // a step follows the other: no one-leg or narrow stand, the leg under the trunk is where it carries
		for _, q := range []string{"standing.one-foot", "standing.narrow", "hip.adduction.left", "hip.adduction.right"} {
			delete(out, q)
		}
	}
	out.Raise("effort", float64(v.Effort), "the whole exercise")
	if out["rising"].Value == 0 || out["rise.free"].Value > 0 { // everybody must get up from a chair
		out.Raise("effort-but-rising", float64(v.Effort), "the whole exercise")
	}
	if v.Binds != "" {
		out.Raise(v.Binds+"."+[2]string{"left", "right"}[v.Authored], 1, "the whole exercise")
	}
	return out
}

// Held adds what hangs on props and on the row of phases.
func (q Quantities) Held(s *Solved) {
	sat, stood, hands := "", false, false
	for i := range s.Phases {
		p := &s.Phases[i]
		for _, h := range p.Props {
			if h.Kind == "dumbbell" {
				q.Raise("weight", h.Kg, p.Name)
			}
			if h.Kind == "ring" && p.Measures.Standing &&
				slices.ContainsFunc(h.At, func(at string) bool { return strings.HasPrefix(at, "ankle.") }) {
				q.Raise("standing.squeeze", 1, p.Name)
			}
			q.Raise("pulled", h.Newtons, p.Name)
			for _, at := range h.At {
				side, ok := strings.CutPrefix(at, "palm.")
				if !ok {
					continue
				}
				if h.Kind == "strap" {
					q.Raise("strap."+side, 1, p.Name)
				}
				q.Raise("hand-weight."+side, h.Kg, p.Name)
				q.Raise("pull."+side, h.Newtons, p.Name)
				if i := slices.Index(trade.BothSides[:], trade.Side(side)); h.Kg > 0 && p.Measures.Side[i].ShoulderElevation > 90 {
					q.Raise("overhead-weight", h.Kg, p.Name)
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
		q.Raise("rising", 1, sat)
		if !hands {
			q.Raise("rise.free", 1, sat)
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

// PostureNoise is what an angle may be without meaning anything, degrees (shared ruling 3); LoadNoise
// is what an angle under load, or a direction of the trunk, must exceed to count (shared ruling 2).
const (
	PostureNoise = 3
	LoadNoise    = 5
)

// StrongFrom is the effort from which an exercise counts as strength or control (shared ruling 21).
const StrongFrom = 3
