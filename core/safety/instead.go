package safety

import (
	"fmt"
	"math"
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
		if !e.Offered || !s.has(e.Kit) || !s.has(e.Also) {
			continue
		}
		ok, any := s.easedSides(v, &rows[i])
		if more := ok[body.Left] && !r.eased[body.Left] || ok[body.Right] && !r.eased[body.Right]; !any ||
			e.Together && !more {
			continue // two eases at once only where one is not enough
		}
		r.Use, r.Eases, r.clears = v.Slug, append(r.Eases, e.Slug), append(r.clears, ok)
		for _, side := range sidesOf(v) {
			r.eased[side] = r.eased[side] || ok[side]
		}
	}
	return len(r.Eases) > 0
}

// easedSides tells on which sides an ease makes a version suit and keeps its distance from what it answers.
func (s *Screener) easedSides(v *catalogue.Version, row *catalogue.Row) (ok [2]bool, any bool) {
	ok, _ = s.cleanSides(v, row)
	for _, side := range sidesOf(v) {
		ok[side] = ok[side] && s.holds(v, row, side)
		any = any || ok[side]
	}
	return ok, any
}

// crossed are the quantities a version crosses as it stands, on any of its sides.
func (s *Screener) crossed(v *catalogue.Version, into []int) []int {
	row := s.row(v)
	for _, side := range sidesOf(v) {
		for i := range s.bounds {
			if b := &s.bounds[i]; !b.watch && !slices.Contains(into, b.id) {
				if _, over := s.crosses(b, v, row, side); over {
					into = append(into, b.id)
				}
			}
		}
		for _, n := range s.needs {
			if n.id >= 0 && row.Value(side, n.id) > 0 && !slices.Contains(into, n.id) {
				into = append(into, n.id)
			}
		}
	}
	return into
}

// whole tells whether a version suits as it stands on every side.
func (s *Screener) whole(v *catalogue.Version) bool {
	if !s.suits(v) {
		return false
	}
	row := s.row(v)
	for _, side := range sidesOf(v) {
		if !s.clean(v, row, side) {
			return false
		}
	}
	return true
}

// easier looks for the version of the same family to do instead: no harder, below the first rung
// of its branch that is out itself, in the nearest position; there the nearest rung of the own
// branch, then the nearest effort. A rung of another branch that opens by a gate is no answer.
func (s *Screener) easier(v *catalogue.Version, r *Result) bool {
	if v.Set {
		return false
	}
	var best *catalogue.Version
	var rank [3]float64
	f, _ := s.cat.Family(v.Family)
	for b, branch := range f.Branches {
		for _, slug := range branch {
			w, _ := s.cat.Version(slug)
			if w == v || w.Effort > v.Effort {
				break
			}
			if !s.whole(w) {
				if len(s.crossed(w, nil)) > 0 {
					break // what is harder on this branch is no answer
				}
				continue // not here, for want of a place or a prop
			}
			if b != v.Branch && w.Gate != nil && !w.Gate.Upright {
				continue
			}
			here := [3]float64{apart(v.Position, w.Position), 1, abs(v.Effort-w.Effort) - 0.1*s.table.Shared(v, w)}
			if b == v.Branch {
				here[1], here[2] = 0, float64(v.Rung-w.Rung)
			}
			if best == nil || slices.Compare(here[:], rank[:]) < 0 {
				best, rank = w, here
			}
		}
	}
	if best != nil {
		r.Use = best.Slug
	}
	return best != nil
}

// apart is how far one position is from another in the order of getting up.
func apart(a, b trade.Position) float64 {
	return abs(slices.Index(trade.Positions, a) - slices.Index(trade.Positions, b))
}

// ways are the movements of the trunk that tell mobility exercises apart.
var ways = []string{"trunk.flexion", "trunk.extension", "trunk.side-bend", "trunk.rotation"}

// alike is how far two versions move the trunk the same way, 0 to 1.
func alike(v, w *catalogue.Version) float64 {
	var both, a, b float64
	for i, q := range ways {
		x, y := v.Quantities[q].Value/body.Ranges["trunk"][i], w.Quantities[q].Value/body.Ranges["trunk"][i]
		both, a, b = both+x*y, a+x*x, b+y*y
	}
	if a == 0 || b == 0 {
		return 0
	}
	return both / math.Sqrt(a*b)
}

// maxSwaps is how many swaps a verdict offers.
const maxSwaps = 3

// share tells whether two lists of aims have one in common.
func share(a, b []string) bool {
	return slices.ContainsFunc(a, func(x string) bool { return slices.Contains(b, x) })
}

// swaps ranks versions of other families that keep the purpose: what is written for it, in its
// order; then the chair answer; then no harder work that serves a main aim, the first one above
// all, in the same position and of the nearest effort.
func (s *Screener) swaps(v *catalogue.Version) []string {
	out := make([]string, 0, maxSwaps)
	offer := func(w *catalogue.Version) bool {
		if len(out) < maxSwaps && w != v && !slices.Contains(out, w.Slug) && s.suits(w) {
			out = append(out, w.Slug)
		}
		return len(out) == maxSwaps
	}
	for _, sw := range v.WrittenSwaps() {
		if w, ok := s.cat.Version(sw.Version); ok && share(v.Aims, w.Aims) && offer(w) {
			return out
		}
	}
	if w, ok := s.cat.Version(v.Chair.Version); ok && w.Family != v.Family && w.Effort <= v.Effort &&
		share(v.MainAims, w.Aims) &&
		offer(w) {
		return out
	}
	for _, w := range s.likeliest(v, out) {
		if offer(w) {
			break
		}
	}
	return out
}

// likeliest are the versions of other families that suit, are no harder and serve a main aim of v,
// the likeliest first; not those that were offered.
func (s *Screener) likeliest(v *catalogue.Version, offered []string) []*catalogue.Version {
	var top [maxSwaps]struct {
		w     *catalogue.Version
		score float64
	}
	n := 0
	for _, w := range s.cat.Versions {
		if w.Family == v.Family || w.Effort > v.Effort || !share(v.MainAims, w.Aims) {
			continue
		}
		score := s.likeness(v, w)
		if n == maxSwaps && score <= top[n-1].score || slices.Contains(offered, w.Slug) || !s.suits(w) {
			continue
		}
		if n < maxSwaps {
			n++
		}
		i := n - 1
		for ; i > 0 && top[i-1].score < score; i-- {
			top[i] = top[i-1]
		}
		top[i].w, top[i].score = w, score
	}
	out := make([]*catalogue.Version, n)
	for i := range out {
		out[i] = top[i].w
	}
	return out
}

// likeness is how well w keeps the purpose of v: its aims, the first above all and then the way it
// moves, the nearest effort, the same position.
func (s *Screener) likeness(v, w *catalogue.Version) float64 {
	score := s.table.Shared(v, w) - 0.3*abs(w.Effort-v.Effort)
	if w.Position == v.Position {
		score++
	}
	if len(v.Aims) > 0 && slices.Contains(w.Aims, v.Aims[0]) {
		score += 2
		if strings.HasSuffix(v.Aims[0], "-mobility") { // the purpose is where it moves to
			score += 2 * alike(v, w)
		}
	}
	return score
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
	for _, sw := range v.WrittenSwaps() {
		if sw.Version == w.Slug && sw.Note != "" {
			keeps = sw.Note
		}
	}
	if v.Chair.Version == w.Slug && v.Chair.Note != "" {
		keeps = v.Chair.Note
	}
	if w.Position != v.Position {
		lost = append(
			lost,
			fmt.Sprintf(
				"the position (%s instead of %s)",
				catalogue.PositionWords(w.Position),
				catalogue.PositionWords(v.Position),
			),
		)
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
