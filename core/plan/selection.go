package plan

import (
	"math"
	"math/bits"
)

// Selection is one answer to a model: an opener, a closer and body items by column.
type Selection struct {
	Open, Close int
	Body        []int
}

// maxBlocks bounds the postures of one model; eight of the positions on two grounds fit.
const maxBlocks = 32

// tally keeps the running sums of a selection, so that a change is judged by what
// changes.
type tally struct {
	m           *Model
	routes      *routes
	open, close int
	body        []int // columns
	byCand      []int // column + 1 of each candidate in the body, 0 for none
	credit      []float64
	seconds     int
	value       float64
	counts      [maxBlocks]int
	efforts     [maxBlocks][11]int8
	supine      [maxBlocks]int
	dirs        [6]int
	families    []int8
	strong      int
	fresh       int
	misplaced   bool // the hardest item found no place in the last judgement
}

func newTally(m *Model, r *routes, sel Selection) *tally {
	t := &tally{m: m, routes: r, open: -1, close: -1, byCand: make([]int, len(m.cands)), credit: make([]float64, len(m.Aims)), families: make([]int8, len(m.families))}
	t.setOpen(sel.Open)
	t.setClose(sel.Close)
	for _, c := range sel.Body {
		t.add(c)
	}
	return t
}

func (t *tally) selection() Selection {
	return Selection{t.open, t.close, append([]int(nil), t.body...)}
}

// keep copies the selection into one that is no longer needed.
func (t *tally) keep(into *Selection) {
	into.Open, into.Close = t.open, t.close
	into.Body = append(into.Body[:0], t.body...)
}

// reset takes the tally to another selection.
func (t *tally) reset(sel Selection) {
	for len(t.body) > 0 {
		t.remove(t.body[len(t.body)-1])
	}
	t.setOpen(sel.Open)
	t.setClose(sel.Close)
	for _, c := range sel.Body {
		t.add(c)
	}
}

func (t *tally) add(col int)    { t.count(col, 1) }
func (t *tally) remove(col int) { t.count(col, -1) }

func (t *tally) count(col, by int) {
	c := &t.m.Items[col]
	if by > 0 {
		t.body = append(t.body, col)
		t.byCand[c.cand] = col + 1
	} else {
		for i, b := range t.body {
			if b == col {
				t.body[i] = t.body[len(t.body)-1]
				t.body = t.body[:len(t.body)-1]
				break
			}
		}
		t.byCand[c.cand] = 0
	}
	sign := float64(by)
	for a, x := range c.credit {
		t.credit[a] += sign * x
	}
	t.seconds += by * c.seconds
	t.value += sign * c.value
	t.counts[c.block] += by
	t.efforts[c.block][c.effort] += int8(by)
	t.supine[c.block] += by * c.supine
	t.directions(c.dirs, by)
	if c.family >= 0 {
		t.families[c.family] += int8(by)
	}
	if c.strong {
		t.strong += by
	}
	if c.fresh {
		t.fresh += by
	}
}

func (t *tally) directions(mask uint8, by int) {
	for ; mask != 0; mask &= mask - 1 {
		t.dirs[bits.TrailingZeros8(mask)] += by
	}
}

func (t *tally) setOpen(i int) {
	if t.open >= 0 {
		t.countEnd(&t.m.opens[t.open], -1)
	}
	t.open = i
	t.countEnd(&t.m.opens[i], 1)
}

func (t *tally) setClose(i int) {
	if t.close >= 0 {
		t.countEnd(&t.m.closes[t.close], -1)
	}
	t.close = i
	t.countEnd(&t.m.closes[i], 1)
}

func (t *tally) countEnd(e *end, by int) {
	sign := float64(by)
	for a, x := range e.credit {
		t.credit[a] += sign * x
	}
	t.seconds += by * e.seconds
	t.value += sign * (e.value - e.price)
	t.directions(e.dirs, by)
	for _, f := range e.families {
		t.families[f] += int8(by)
	}
	t.fresh += by * e.fresh
}

// uses tells whether the opener or the closer is this candidate.
func (t *tally) uses(cand int) bool {
	return t.m.opens[t.open].has(cand) || t.m.closes[t.close].has(cand)
}

func (e *end) has(cand int) bool {
	for _, c := range e.cands {
		if c == cand {
			return true
		}
	}
	return false
}

// broken is what each unit of a broken rule costs in the search; no broken selection is
// ever an answer.
const broken = 30

// What it costs that the hardest item is out of its place, and each place it is out by:
// little enough for the search to walk through such sessions, which are no answers.
const (
	outOfPlace = 4
	perPlace   = 3
)

// judge gives the value of the selection; ok is false when it breaks a rule, and then the
// value is less by how far.
func (t *tally) judge() (value float64, ok bool) { return t.judgeAbove(math.Inf(-1)) }

// judgeAbove is judge for a selection that matters only above a value: it stops early,
// with a bound that is not above it, where the route cannot help.
func (t *tally) judgeAbove(least float64) (value float64, ok bool) {
	m := t.m
	o, c := &m.opens[t.open], &m.closes[t.close]
	wrong := 0
	mask := t.mask()
	if mask&(o.inner|o.shut)&^(1<<o.last) != 0 {
		wrong += 2
	}
	for _, n := range t.families {
		if n > maxFamily {
			wrong += int(n - maxFamily)
		}
	}
	wrong += max(0, t.strong-m.MaxStrong)
	if m.MaxFresh >= 0 {
		wrong += max(0, t.fresh-m.MaxFresh)
	}
	for i := range m.musts {
		wrong += max(0, m.musts[i].least-t.have(&m.musts[i]))
	}
	if o.clashes(c) {
		wrong += 2
	}
	value = t.value - m.in[o.first].price - m.out[c.last].price - broken*float64(wrong)
	for a, x := range t.credit {
		value += m.Weight[a] * m.credited(a, x)
	}
	for _, n := range t.dirs {
		if n > 0 {
			value += directionPoints
		}
	}
	seconds := t.seconds + m.in[o.first].seconds + m.out[c.last].seconds
	if value-lengthPenalty(m, seconds) <= least { // a second on the way costs more than it gains
		return value - lengthPenalty(m, seconds), false
	}
	before := wrong
	w, found := t.way(mask, &wrong)
	value -= broken * float64(wrong-before)
	ok = !t.misplaced
	t.misplaced = false
	if found {
		value -= w.price
		seconds += w.seconds
	}
	return value - lengthPenalty(m, seconds), ok && wrong == 0 && seconds <= m.Most
}

// bound is a value that the selection cannot exceed after a change: rules, directions that
// would be lost and the way are left out.
func (t *tally) bound(ch *change) float64 {
	m := t.m
	o, c := &m.opens[t.open], &m.closes[t.close]
	value, seconds := t.value, t.seconds
	var dirs uint8
	for i := range ch.ins {
		col := &m.Items[ch.in[i]]
		value += col.value
		seconds += col.seconds
		dirs |= col.dirs
	}
	for i := range ch.outs {
		col := &m.Items[ch.out[i]]
		value -= col.value
		seconds -= col.seconds
	}
	if ch.newOpen {
		e := &m.opens[ch.open]
		value += e.value - e.price - o.value + o.price
		seconds += e.seconds - o.seconds
		dirs |= e.dirs
		o = e
	}
	if ch.newClose {
		e := &m.closes[ch.close]
		value += e.value - e.price - c.value + c.price
		seconds += e.seconds - c.seconds
		dirs |= e.dirs
		c = e
	}
	for a, x := range t.credit {
		for i := range ch.ins {
			x += m.Items[ch.in[i]].credit[a]
		}
		for i := range ch.outs {
			x -= m.Items[ch.out[i]].credit[a]
		}
		if ch.newOpen {
			x += o.credit[a] - m.opens[t.open].credit[a]
		}
		if ch.newClose {
			x += c.credit[a] - m.closes[t.close].credit[a]
		}
		value += m.Weight[a] * m.credited(a, x)
	}
	for k, n := range t.dirs {
		if n > 0 || dirs>>k&1 == 1 {
			value += directionPoints
		}
	}
	seconds += m.in[o.first].seconds + m.out[c.last].seconds
	return value - m.in[o.first].price - m.out[c.last].price - lengthPenalty(m, seconds)
}

// credited is what minutes of an aim count: in full to the target, half to one and a half
// times it.
func (m *Model) credited(aim int, x float64) float64 {
	target := m.Target[aim]
	if x > target {
		return target + secondHalf*math.Min(x-target, secondHalf*target)
	}
	return x
}

// lengthPenalty is the cost of being short, or in the search of being too long.
func lengthPenalty(m *Model, seconds int) float64 {
	switch {
	case seconds < m.Least:
		return shortPoints * float64(m.Least-seconds)
	case seconds > m.Most:
		return 2 + float64(seconds-m.Most)/6
	}
	return 0
}

func (t *tally) have(mu *must) int {
	n := 0
	for _, c := range mu.cands {
		if t.byCand[c] > 0 || t.uses(c) {
			n++
		}
	}
	return n
}

// way finds the route of the selection; wrong grows when there is none.
func (t *tally) way(mask uint32, wrong *int) (w way, found bool) {
	m := t.m
	o, c := &m.opens[t.open], &m.closes[t.close]
	s := t.routes.set(mask, o.last, c.first)
	if s == nil {
		*wrong += 2
		return w, false
	}
	rises := t.left(s)
	if rises < 0 {
		*wrong -= rises
		return w, false
	}
	if w, found = s.free(rises); !found {
		*wrong += 2
		return w, false
	}
	if top := t.top(); top > gentle {
		if hard, turns := t.turning(s, top, rises); turns {
			w = hard
		} else {
			t.misplaced = true
			w.price += outOfPlace + perPlace*t.outBy(s, top)
		}
	}
	if m.MaxSupine > 0 {
		*wrong += t.tooLong(s, w, rises)
	}
	return w, true
}

// placed tells whether some way puts the hardest item where it should lie.
func (t *tally) placed() bool {
	o, c := &t.m.opens[t.open], &t.m.closes[t.close]
	top := t.top()
	s := t.routes.set(t.mask(), o.last, c.first)
	if top <= gentle || s == nil || t.left(s) < 0 {
		return true
	}
	_, ok := t.turning(s, top, t.left(s))
	return ok
}

// mask is the set of postures visited.
func (t *tally) mask() uint32 {
	mask := uint32(1) << t.m.opens[t.open].last
	for b := range t.m.blocks {
		if t.counts[b] > 0 {
			mask |= 1 << b
		}
	}
	return mask
}

// left is the level of a route set's tables that the rises of the opener, the closer and
// the way up at the end leave, below 0 when there are too many already.
func (t *tally) left(s *routeSet) int {
	o, c := &t.m.opens[t.open], &t.m.closes[t.close]
	return min(t.m.MaxRises-o.rises-c.rises-b2i(t.m.out[c.last].rise), s.deep-1)
}

// turning finds the cheapest route on which an item of the highest effort lies where the
// hardest should: its place is counted among all items.
func (t *tally) turning(s *routeSet, top, rises int) (best way, ok bool) {
	var counts [maxBlocks]int
	o, c := &t.m.opens[t.open], &t.m.closes[t.close]
	n := float64(len(t.body) + len(o.cands) + len(c.cands))
	for i, id := range s.ids {
		counts[i] = t.counts[id]
	}
	counts[0] += len(o.cands)
	best.price = math.Inf(1)
	for i, id := range s.ids {
		if t.efforts[id][top] > 0 {
			s.turning(i, counts[:s.k], hardestFrom*n+0.5-1e-9, hardestTo*n+0.5+1e-9, rises, &best)
		}
	}
	return best, !math.IsInf(best.price, 1)
}

// outBy is by how many places, at least, the hardest item misses its part of the list.
func (t *tally) outBy(s *routeSet, top int) float64 {
	o, c := &t.m.opens[t.open], &t.m.closes[t.close]
	n := float64(len(t.body) + len(o.cands) + len(c.cands))
	all := float64(len(t.body) + len(o.cands))
	best := math.Inf(1)
	for i, id := range s.ids {
		if t.efforts[id][top] == 0 {
			continue
		}
		least := float64(t.counts[id] + len(o.cands)) // with nothing but the opener's posture before
		if i > 0 {
			least += float64(t.counts[s.ids[0]])
		}
		out := math.Max(least-(hardestTo*n+0.5), hardestFrom*n+0.5-all)
		best = math.Min(best, math.Max(1, out))
	}
	return best
}

// The hardest item lies between these shares of the list (domain/04).
const (
	hardestFrom = 0.40
	hardestTo   = 0.85
)

// top is the highest effort in the body.
func (t *tally) top() int {
	for e := 10; e > 0; e-- {
		for b := range t.m.blocks {
			if t.efforts[b][e] > 0 {
				return e
			}
		}
	}
	return 0
}

// tooLong counts the started half minutes beyond the longest stretch on the back.
func (t *tally) tooLong(s *routeSet, w way, rises int) int {
	m := t.m
	o, c := &m.opens[t.open], &m.closes[t.close]
	last := -1
	order := s.order(w, rises)
	if order[len(order)-1] == c.first {
		last = c.first
	}
	n := 0
	for b := range m.blocks {
		run := t.supine[b]
		if b == o.last {
			run += o.supineTail
		}
		if b == last {
			run += c.supineHead
		}
		if over := run - m.MaxSupine; over > 0 {
			n += 1 + over/30
		}
	}
	if c.supineHead > m.MaxSupine {
		n++
	}
	return n
}
