package catalogue

import (
	"math"
	"slices"

	"restbend/core/say"
	"restbend/core/trade"
)

// A Doing is how a version is done: where, to which side, with which ease, and whether that is
// for one of its sides alone. What is allowed was judged for it; what is said, drawn and measured
// is asked of it, so that all of them are about the same movement.
type Doing struct {
	Surface   trade.Surface
	Side      trade.Side
	Ease      string     // empty for none
	EasedSide trade.Side // left or right where only that side is eased
}

// Eases tells whether the ease is for a side: left, right, or none in turn.
func (d Doing) Eases(side trade.Side) bool {
	return d.Ease != "" && (!d.EasedSide.One() || side == d.EasedSide)
}

// sides are the sides that are worked, one after the other or in turn; one without a name where
// there are none.
func (d Doing) sides(v *Version) []trade.Side {
	switch {
	case v.SideMode == trade.None:
		return []trade.Side{trade.None}
	case d.Side.One() && v.SideMode == trade.Each:
		return []trade.Side{d.Side}
	}
	return trade.BothSides[:]
}

// For is the version as a side of it is done: on its surface, in its eased postures where the
// ease is for that side.
func (v *Version) For(d Doing, side trade.Side) *Version {
	at := v.At(d.Surface)
	if at != v || !d.Eases(side) { // another surface has postures of its own
		return at
	}
	if eased, ok := v.Eased(d.Ease); ok {
		return eased
	}
	return v
}

// Words are what is said on a side of a version as it is done.
func (v *Version) Words(d Doing, side trade.Side) say.Words {
	if d.Eases(side) {
		return v.WordsWith(d.Ease)
	}
	return v.WordsWith("")
}

// Peaks are the quantities of a version as it is done, over all of its sides.
func (v *Version) Peaks(d Doing) Quantities {
	out := Quantities{}
	for _, side := range d.sides(v) {
		q := v.For(d, side).Quantities
		if side != trade.None && side != trade.BothSides[v.Authored] {
			q = q.Mirror()
		}
		out = out.Merge(q)
	}
	if v.SideMode == trade.None { // whose bent knee or upper hand follows comfort
		out = out.Merge(out.Mirror())
	}
	return out
}

// Trunk is how far the trunk moves in each direction in a version as it is done, as in TrunkPeaks.
func (v *Version) Trunk(d Doing) (out [6]float64) {
	for _, side := range d.sides(v) {
		peaks := v.For(d, side).trunk(side != trade.None && side != trade.BothSides[v.Authored])
		for k := range out {
			out[k] = math.Max(out[k], peaks[k])
		}
	}
	return out
}

// TrunkPeaks is how far the trunk (low and upper back together, parts in the same
// direction) moves in each direction in the phases of a version as it stands, done to a side:
// left, right, or each, alternate and none for all of it. Degrees from neutral, rounded to a
// tenth as the documents say them.
func (v *Version) TrunkPeaks(side trade.Side) [6]float64 {
	if side == "" {
		side = v.SideMode
	}
	return v.Trunk(Doing{Side: side})
}

// trunk is how far the trunk goes on the side that the file describes, or on the other one.
func (v *Version) trunk(flip bool) (out [6]float64) {
	if v.Solved == nil {
		return out
	}
	for i := range v.Solved.Phases {
		m := &v.Solved.Phases[i].Measures
		add := func(k int, a, b float64) {
			out[k] = math.Max(out[k], math.Max(0, tenth(a))+math.Max(0, tenth(b)))
		}
		add(0, m.Lumbar.Flexion, m.Thoracic.Flexion)
		add(1, -m.Lumbar.Flexion, -m.Thoracic.Flexion)
		for k, d := range [][2]float64{{m.Lumbar.SideBend, m.Thoracic.SideBend}, {m.Lumbar.Rotation, m.Thoracic.Rotation}} {
			l, r := 2+2*k, 3+2*k
			if flip {
				l, r = r, l
			}
			add(l, d[0], d[1])
			add(r, -d[0], -d[1])
		}
	}
	return out
}

// EaseSide says an ease for one side, before its sentence: "On the left: only half as far.".
func (v *Version) EaseSide(d Doing) (out []string) {
	e := v.Ease(d.Ease)
	if e == nil {
		return nil
	}
	for _, s := range e.Sentences() {
		if d.EasedSide.One() {
			s = "On the " + string(d.EasedSide) + ": " + lower(s)
		}
		out = append(out, s)
	}
	return out
}

// EaseShort are the few words of an ease, with its side where only one is eased.
func (v *Version) EaseShort(d Doing) string {
	e := v.Ease(d.Ease)
	if e == nil || e.Short == "" {
		return ""
	}
	if d.EasedSide.One() {
		return "On the " + string(d.EasedSide) + ": " + e.Short + "."
	}
	return sentence(e.Short) + "."
}

func lower(s string) string {
	if s == "" || !slices.Contains([]byte("ABCDEFGHIJKLMNOPQRSTUVWXYZ"), s[0]) {
		return s
	}
	return string(s[0]+32) + s[1:]
}
