package catalogue

import (
	"math"

	"restbend/core/body"
)

// smallestMove is the travel of a joint from which on it is a movement of the exercise, degrees:
// twice the noise of postures.
const smallestMove = 2 * PostureNoise

// easeKeeps is how much of the movement an ease keeps at least; with less it is another exercise, and an
// easier step or a swap is offered instead (product default).
const easeKeeps = 1.0 / 3

// mainShare is from which share of the longest way of any joint on a joint belongs to the
// movement of an exercise (product default).
const mainShare = 1.0 / 3

// Kept is how much of the movement of an exercise is left with an ease: of the joints that go
// furthest from phase to phase as it stands (of the spine, shoulders, hips and knees; hands and
// feet follow), the one that keeps most: its way then and with the ease, degrees. Where a back
// rounds 30 and a head nods 60, an ease that keeps the head in line has kept the whole of the back.
// Share is 1 where nothing moves: what is held has no range.
func (v *Version) Kept(e *Ease) (joint int, full, eased, share float64) {
	if v.Solved == nil || e.Solved == nil {
		return -1, 0, 0, 1
	}
	a, b := v.travel(v.Solved), v.travel(e.Solved)
	most := 0.0
	for q := range a {
		if moving(q) {
			most = math.Max(most, a[q])
		}
	}
	joint = -1
	for q := range a {
		if most >= smallestMove && moving(q) && a[q] >= mainShare*most && (joint < 0 || b[q]/a[q] > share) {
			joint, full, eased, share = q, a[q], b[q], b[q]/a[q]
		}
	}
	if joint < 0 {
		return -1, 0, 0, 1
	}
	return joint, full, eased, share
}

// moving tells whether a joint is one that exercises are about.
func moving(q int) bool {
	if q < body.Limbs {
		return true
	}
	switch (q - body.Limbs) % body.LimbCount {
	case body.ShoulderFlex, body.ShoulderAbd, body.HipFlex, body.HipAbd, body.HipRot, body.KneeFlex:
		return true
	}
	return false
}

// travel is how far each joint goes over the phases that are repeated, degrees.
func (v *Version) travel(s *Solved) (out [body.NDof]float64) {
	for q := range out {
		low, high := math.Inf(1), math.Inf(-1)
		for i := v.Round(); i < len(s.Phases); i++ {
			st := s.Phases[i].State.State()
			low, high = math.Min(low, st.Q[q]), math.Max(high, st.Q[q])
		}
		out[q] = (high - low) * 180 / math.Pi
	}
	return out
}
