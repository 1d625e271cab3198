package safety

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/trade"
)

// has tells whether one of some props is there, or something soft from the household does.
func (s *Screener) has(kit []string) bool {
	return len(kit) == 0 || slices.ContainsFunc(kit, func(k string) bool { return s.owns[k] || catalogue.Comfort(k) })
}

// eased looks for the listed eases that by themselves make the version suit.
func (s *Screener) eased(v *catalogue.Version, r *Result) bool {
	rows := s.table.Rows(v)
	if s.row(v) != &rows[0] {
		return false // the eases are those of its own surface
	}
	for i := 1; i < len(rows); i++ {
		e := rows[i].Ease
		if !s.has(e.Kit) || !s.has(e.Also) {
			continue
		}
		ok, any := s.cleanSides(v, &rows[i])
		if more := ok[body.Left] && !r.eased[body.Left] || ok[body.Right] && !r.eased[body.Right]; !any || e.Together && !more {
			continue // two eases at once only where one is not enough
		}
		r.Use, r.Eases, r.clears = v.Slug, append(r.Eases, e.Slug), append(r.clears, ok)
		for _, side := range sidesOf(v) {
			r.eased[side] = r.eased[side] || ok[side]
		}
	}
	return len(r.Eases) > 0
}

// places ranks where a version is done, nearest to the floor's purpose first
// (domain/03: bed, chair, counter, wall).
var places = []trade.Surface{trade.Mat, trade.Bed, trade.Chair, trade.Counter, trade.Wall}

func placeRank(v *catalogue.Version) int {
	best := len(places)
	for _, k := range v.Surfaces {
		if i := slices.Index(places, k); i >= 0 && i < best {
			best = i
		}
	}
	return best
}

// easier looks for the nearest version of the same family that is no harder and suits:
// down the own branch first, then over the other branches by purpose, place and effort.
func (s *Screener) easier(v *catalogue.Version, r *Result) bool {
	if v.Set {
		return false
	}
	for w := s.cat.Previous(v); w != nil; w = s.cat.Previous(w) {
		if s.suits(w) {
			r.Use = w.Slug
			return true
		}
	}
	var best *catalogue.Version
	most := 0.0
	f, _ := s.cat.Family(v.Family)
	for b, branch := range f.Branches {
		if b == v.Branch {
			continue
		}
		for _, slug := range branch {
			w, _ := s.cat.Version(slug)
			if w.Effort > v.Effort || !s.suits(w) {
				continue
			}
			score := 10 + s.table.Shared(v, w) - 0.1*float64(placeRank(w)) - 0.4*abs(w.Effort-v.Effort)
			if w.Position == v.Position {
				score++
			}
			if best == nil || score > most {
				best, most = w, score
			}
		}
	}
	if best != nil {
		r.Use = best.Slug
	}
	return best != nil
}

// maxSwaps is how many swaps a verdict offers.
const maxSwaps = 3

// swaps ranks versions of other families that keep the purpose: the entry's own swaps and
// chair answer, then by shared aims, the same position and nearness of effort.
func (s *Screener) swaps(v *catalogue.Version) []string {
	type cand struct {
		slug  string
		score float64
	}
	var top [maxSwaps]cand
	n := 0
	for _, w := range s.cat.Versions {
		if w.Family == v.Family || w.Effort > v.Effort+1 {
			continue
		}
		purpose := s.table.Shared(v, w)
		if purpose == 0 {
			continue
		}
		score := purpose - 0.3*abs(w.Effort-v.Effort)
		if w.Position == v.Position {
			score += 0.5
		}
		if w.Slug == v.Chair.Version {
			score++
		}
		if slices.ContainsFunc(v.Swaps, func(s catalogue.Swap) bool { return s.Version == w.Slug }) {
			score += 2
		}
		if n == maxSwaps && score <= top[n-1].score || !s.suits(w) {
			continue
		}
		if n < maxSwaps {
			n++
		}
		i := n - 1
		for ; i > 0 && top[i-1].score < score; i-- {
			top[i] = top[i-1]
		}
		top[i] = cand{w.Slug, score}
	}
	out := make([]string, n)
	for i := range out {
		out[i] = top[i].slug
	}
	return out
}

// Because says why w can stand for v and what is lost: the aims kept and lost, where it is
// done, how it stands to gravity and to what carries it.
func Because(v, w *catalogue.Version) (keeps, loses string) {
	var kept, lost []string
	for _, a := range v.Aims {
		if slices.Contains(w.Aims, a) {
			kept = append(kept, aimWords(a))
		} else {
			lost = append(lost, aimWords(a))
		}
	}
	if len(kept) > 0 {
		keeps = "keeps " + strings.Join(kept, ", ")
	}
	for _, sw := range v.Swaps {
		if sw.Version == w.Slug && sw.Note != "" {
			keeps = sw.Note
		}
	}
	if v.Chair.Version == w.Slug && v.Chair.Note != "" {
		keeps = v.Chair.Note
	}
	if w.Position != v.Position {
		lost = append(lost, fmt.Sprintf("the position (%s instead of %s)", catalogue.PositionWords(w.Position), catalogue.PositionWords(v.Position)))
	}
	if w.Chain != v.Chain {
		lost = append(lost, fmt.Sprintf("the %s chain", v.Chain))
	}
	if w.Effort < v.Effort-1 {
		lost = append(lost, fmt.Sprintf("some effort (%d instead of %d)", w.Effort, v.Effort))
	}
	if lost != nil {
		loses = strings.Join(lost, ", ")
	}
	return keeps, loses
}

func aimWords(a string) string {
	return strings.ReplaceAll(strings.ReplaceAll(a, "-", " "), "anti ", "anti-")
}

func abs(v int) float64 {
	if v < 0 {
		return float64(-v)
	}
	return float64(v)
}
