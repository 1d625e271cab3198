package facts

import (
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/core/trade"
)

// Terms of the value, in points; a point is a minute of the weightiest aim (product
// defaults).
const (
	ContinuityPoints = 0.5  // an item of the last session comes back
	DirectionPoints  = 8.0  // each direction of the spine that is visited
	LengthPoints     = 0.2  // a dose that is shorter or longer than normal costs
	RestPoints       = 2.0  // a closer that is there to relax
	ShortPoints      = 0.03 // each second too short costs; less than one of moving, so that nobody walks to fill time
	SecondHalf       = 0.5  // credit between the target and one and a half times of it
	mainShare        = 0.7  // of the asked minutes is served to aims; the rest is set-up, rests, changes
	leastShare       = 0.92 // of the asked minutes
)

// directionsFrom is the session length, minutes, from which all directions should appear.
const directionsFrom = 20

// maxNew is how many items whose branch was never done may be new in one session of a client who
// has a log, and introduced how many branches a client has got to know before that holds: the first
// sessions, or one that was broken off, do not make the next ones tiny (product defaults).
const (
	maxNew     = 2
	introduced = 8
)

// MaxNew is how many new items a session may hold: what a kind of session asks for may be
// new besides, and its fixed beginning and end are learned by heart and do not count.
func (r *Request) MaxNew() int {
	n := max(maxNew, introduced-len(r.BranchesOf(r.Seen)), r.Ask.AllowNew)
	for _, need := range r.Needs() {
		n += need.Least
	}
	return n + r.unknownSides()
}

// unknownSides counts the front, the side and the back that the session asks for and the client has
// never trained: each may be new besides.
func (r *Request) unknownSides() (n int) {
	if !r.ThreeSides() {
		return 0
	}
	for _, s := range Sides {
		n += CountIf(!slices.ContainsFunc(r.Seen, func(slug string) bool {
			v, ok := r.Catalogue.Version(slug)
			return ok && s.Takes(v)
		}))
	}
	return n
}

// FixedPart tells whether a version belongs to the fixed beginning or end of the kind of
// session.
func (r *Request) FixedPart(slug string) bool {
	return r.Template.IsRoutine() || r.Template.Writes(slug)
}

// Wants lists the aims in a fixed order with weights and target minutes.
func (r *Request) Wants() (aims []string, weight, target []float64) {
	wanted := r.aims()
	sum, top := 0.0, 0.0
	for _, a := range catalogue.Aims {
		sum += wanted[a]
		top = math.Max(top, wanted[a])
	}
	for _, a := range catalogue.Aims {
		if w := wanted[a]; w > 0 {
			aims = append(aims, a)
			weight = append(weight, w/top)
			target = append(target, mainShare*float64(r.Minutes)*w/sum)
		}
	}
	return aims, weight, target
}

// StartPlace is how a session starts and ends: standing, or sitting for a client who
// stays seated.
func (r *Request) StartPlace() plan.Place {
	if pos, _ := r.Client.Position("stand_free"); pos == "no" {
		return plan.Place{Position: trade.Sitting, Surface: trade.Chair}
	}
	return plan.Place{Position: trade.Standing}
}

// BodyItem tells whether a candidate may be a body item: everything but the resets.
func BodyItem(v *catalogue.Version) bool { return v.Family != ResetFamily }

// OnBack tells whether a version is done lying on the back.
func OnBack(v *catalogue.Version) bool { return v.Quantities["needs.supine"].Value > 0 }

// Normal is the option a fixed item is done in.
func (c *Candidate) Normal() int {
	return max(0, slices.IndexFunc(c.Doses, func(o Option) bool { return o.Length == plan.Normal }))
}

// AllDirections tells whether the session visits every direction of the spine.
func (r *Request) AllDirections() bool {
	t := r.Template
	if t != nil && t.Desk {
		return true
	}
	return r.Minutes >= directionsFrom && !r.Resting() && !r.Acute() && !r.has("spinal-fusion") &&
		(t == nil || !t.Natural)
}

// reaches are the spinal directions of a version as it is done: more than a fifth of what the client
// may use in it (shared ruling 23), and more than posture noise.
func (r *Request) reaches(v *catalogue.Version, d catalogue.Doing) (mask uint8) {
	peaks, allowed := v.Trunk(d), r.AllowedDirections()
	for k := range peaks {
		if peaks[k] > math.Max(catalogue.PostureNoise, 0.2*allowed[k]) {
			mask |= 1 << k
		}
	}
	return mask
}

// Bits of the spinal directions that a back may not like.
const (
	bending = 1 << 0
	arching = 1 << 1
)

// Disliked are the directions that this client's back does not like: arching with a narrow canal, what is
// not preferred with a disc, what provokes a sore back. Mobility there is not chosen freely, and the
// direction earns nothing and is not missed (domain/07).
func (r *Request) Disliked() (mask uint8) {
	for _, k := range r.Client.Conditions {
		if k.Code == "stenosis" || k.Preference == "flexion" || slices.Contains(k.ProvokedBy, "extension") {
			mask |= arching
		}
		if k.Preference == "extension" || slices.Contains(k.ProvokedBy, "flexion") {
			mask |= bending
		}
	}
	return mask
}

// Visits are the spinal directions an item earns for.
func (r *Request) Visits(c *Candidate) (mask uint8) {
	if !r.AllDirections() {
		return 0
	}
	return r.reaches(c.V, c.Doing()) &^ r.Disliked()
}

// AllowedDirections is what the client may use of each direction of the trunk, degrees.
func (r *Request) AllowedDirections() [6]float64 {
	if !r.known().directionsKnown {
		r.memo.directionsKnown = true
		for k, name := range []string{"flexion", "extension", "side-bend", "side-bend", "rotation", "rotation"} {
			r.memo.directions[k] = math.Min(
				r.Screener.TrunkLimit(name, ".loaded"),
				r.Screener.TrunkLimit(name, ".unloaded"),
			)
		}
	}
	return r.memo.directions
}

// The families that open a session (breath and set-up), and the one that only settles.
var (
	OpenFamilies = []string{"side-rib-breath", "low-breath", "long-spine", "deep-core", "neutral-imprint"}
	ResetFamily  = "reset-sweep"
)

// Relaxes tells whether a version is there to relax.
func Relaxes(v *catalogue.Version) bool { return catalogue.Has(v.MainAims, "relaxation") }

// CountIf is 1 for what holds.
func CountIf(b bool) int {
	if b {
		return 1
	}
	return 0
}

// LeastSeconds is how long a session should last: what has a natural length is never padded, and two
// to five minutes may be three quarters full (shared ruling 49).
func (r *Request) LeastSeconds() int {
	share := leastShare
	switch {
	case r.Template != nil && r.Template.Natural || r.Resting():
		return 0
	case r.Minutes <= deskMinutes:
		share = deskShare
	}
	return int(math.Ceil(share * float64(60*r.Minutes)))
}

// Sessions of so many minutes are desk rounds or one family (domain/07, shared ruling 49).
const (
	deskMinutes = 5
	deskShare   = 0.75
)
