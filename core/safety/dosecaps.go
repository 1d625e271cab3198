package safety

import (
	"math"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/intake"
)

// doseCaps are the client's rules on doses.
func (s *Screener) doseCaps(do func(*DoseCap)) {
	for i := range s.client.Conditions {
		k := &s.client.Conditions[i]
		rule, _ := s.rules.Rule(k.Code)
		each := func(k *intake.Condition, r *Rule) {
			for j := range r.Dose {
				if d := &r.Dose[j]; s.applies(k, d.When) {
					do(d)
				}
			}
		}
		each(k, rule)
		s.also(k, rule, func(as *intake.Condition, _ *Also, like *Rule) { each(as, like) })
	}
}

// HoldCap is the longest hold of a version the client's conditions allow, in seconds (0: no
// cap), and the reason. Caps mean muscles held against load: breath, rest, walking and waves of effort 1 and 2 are none
// (domain/10, section 4).
func (s *Screener) HoldCap(v *catalogue.Version) (seconds int, reason string) {
	if !heldByMuscle(v) {
		return 0, ""
	}
	s.doseCaps(func(d *DoseCap) {
		if d.HoldS > 0 && v.Effort >= d.EffortFrom && (!d.Strength || strengthWork(v)) &&
			(seconds == 0 || d.HoldS < seconds) {
			seconds, reason = d.HoldS, d.Reason
		}
	})
	return seconds, reason
}

// heldByMuscle tells whether what lasts in a version is a hold. Of effort 1 nothing is, of effort 2 breath, rest, walking
// and a wave of the spine are not; a round that goes on does not exempt by itself. Source: domain/10, section 4; that all
// of effort 1 is free is a product default.
func heldByMuscle(v *catalogue.Version) bool {
	const easy = 2
	switch {
	case v.Effort > easy:
		return true
	case v.Effort < easy, v.Walking:
		return false
	case len(v.MainAims) == 0:
		return true
	}
	switch v.MainAims[0] {
	case "breathing", "relaxation":
		return false
	case "spinal-mobility": // a wave
		return v.Hold != "cycle"
	}
	return true
}

// strengthWork is work whose first aim is to resist or to get strong, and holding an arm above
// the shoulder; balance stands and open stretches are none (domain/09). Deep core from the effort
// on that the caps name is a hold by strength as well.
func strengthWork(v *catalogue.Version) bool {
	if max(v.Quantities["overhead.left"].Value, v.Quantities["overhead.right"].Value) > 120 {
		return true
	}
	if len(v.Aims) == 0 {
		return false
	}
	return v.Aims[0] == "deep-core" || strings.HasPrefix(v.Aims[0], "anti-") || strings.HasSuffix(v.Aims[0], "-strength")
}

// CapDose fits a dose to what the client's conditions allow and says what was changed.
func (s *Screener) CapDose(
	v *catalogue.Version,
	d dose.Dose,
	breathsPerMinute float64,
) (capped dose.Dose, why []string) {
	if limit, reason := s.HoldCap(v); limit > 0 {
		var did bool
		if d, did = d.CapHold(limit, breathsPerMinute); did {
			why = append(why, reason)
		}
	}
	if factor, reason := s.RestFactor(); factor > 1 && d.RestS > 0 {
		d.RestS = int(math.Ceil(factor * float64(d.RestS)))
		why = append(why, reason)
	}
	return d, why
}

// RestFactor is how many times as long rests are for this client, and why.
func (s *Screener) RestFactor() (factor float64, reason string) {
	factor = 1
	s.doseCaps(func(d *DoseCap) {
		if d.RestFactor > factor {
			factor, reason = d.RestFactor, d.Reason
		}
	})
	return factor, reason
}

// SupineCap is the longest unbroken stretch on the back in seconds (0: no cap).
func (s *Screener) SupineCap() (seconds int, reason string) {
	s.doseCaps(func(d *DoseCap) {
		if d.SupineS > 0 && (seconds == 0 || d.SupineS < seconds) {
			seconds, reason = d.SupineS, d.Reason
		}
	})
	return seconds, reason
}

// SittingCap is the longest stretch in sitting without a rise in seconds (0: no cap).
func (s *Screener) SittingCap() (seconds int, reason string) {
	s.doseCaps(func(d *DoseCap) {
		if d.SittingS > 0 && (seconds == 0 || d.SittingS < seconds) {
			seconds, reason = d.SittingS, d.Reason
		}
	})
	return seconds, reason
}

// ItemCap is how many exercises of a session, at most, may have a quantity.
type ItemCap struct {
	Of     string
	Items  int
	Reason string
}

// ItemCaps are the tightest cap on each quantity.
func (s *Screener) ItemCaps() (out []ItemCap) {
	s.doseCaps(func(d *DoseCap) {
		if d.Of == "" {
			return
		}
		for i := range out {
			if out[i].Of == d.Of {
				out[i].Items = min(out[i].Items, d.Items)
				return
			}
		}
		out = append(out, ItemCap{d.Of, d.Items, d.Reason})
	})
	return out
}

// RisesCap is how often the client's conditions let a session rise from the floor, at most; ok is
// false when none says.
func (s *Screener) RisesCap() (rises int, ok bool) {
	s.doseCaps(func(d *DoseCap) {
		if d.Rises > 0 && (!ok || d.Rises < rises) {
			rises, ok = d.Rises, true
		}
	})
	return rises, ok
}
