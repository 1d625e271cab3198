package safety

import (
	"math"

	"restbend/core/body"
)

var rangeIndex = map[string]int{"flexion": 0, "extension": 1, "side-bend": 2, "rotation": 3}

// TrunkLimit is what the client may use of the whole trunk in a direction (flexion,
// extension, side-bend or rotation), degrees: the full range, or the tightest limit on the
// trunk or on a region with all of the other region's range. How is ".loaded",
// ".unloaded" or "" for limits that do not distinguish.
func (s *Screener) TrunkLimit(direction, how string) float64 {
	k := rangeIndex[direction]
	full := body.Ranges["trunk"][k]
	limit := full
	for _, h := range []string{"", how} {
		if m, _, ok := s.Allowed("trunk." + direction + h); ok {
			limit = math.Min(limit, m)
		}
		for _, region := range []string{"lumbar", "thoracic"} {
			if m, _, ok := s.Allowed(region + "." + direction + h); ok {
				limit = math.Min(limit, full-body.Ranges[region][k]+m)
			}
		}
	}
	return limit
}
