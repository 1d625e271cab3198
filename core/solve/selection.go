package solve

import (
	"math"
	"math/bits"
)

// Selection is one answer to a model: an opener, a closer and body items by column.
type Selection struct {
	Open, Close int
	Body        []int
}

// MaxBlocks bounds the postures of one model.
const MaxBlocks = 32

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
	counts      [MaxBlocks]int
	efforts     [MaxBlocks][11]int8
	supine      [MaxBlocks]int
	dirs        [6]int
	families    []int8
	rows        []float64 // amounts
	fresh       int
	misplaced   bool // the hardest item found no place in the last judgement
}

func newTally(m *Model, r *routes, sel Selection) *tally {
	t := &tally{
		m:        m,
		routes:   r,
		open:     -1,
		close:    -1,
		byCand:   make([]int, m.Candidates),
		credit:   make([]float64, len(m.Aims)),
		families: make([]int8, m.Families),
		rows:     make([]float64, len(m.Rows)),
	}
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
		t.byCand[c.Cand] = col + 1
	} else {
		for i, b := range t.body {
			if b == col {
				t.body[i] = t.body[len(t.body)-1]
				t.body = t.body[:len(t.body)-1]
				break
			}
		}
		t.byCand[c.Cand] = 0
	}
	sign := float64(by)
	for a, x := range c.Credit {
		t.credit[a] += sign * x
	}
	t.seconds += by * c.Seconds
	t.value += sign * c.Value
	t.counts[c.Block] += by
	t.efforts[c.Block][c.Effort] += int8(by)
	t.supine[c.Block] += by * c.Supine
	t.directions(c.Dirs, by)
	if c.Family >= 0 {
		t.families[c.Family] += int8(by)
	}
	for _, a := range t.routes.amounts[col] {
		t.rows[a.row] += sign * a.by
	}
	if c.Fresh {
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
		t.countEnd(&t.m.Opens[t.open], -1)
	}
	t.open = i
	t.countEnd(&t.m.Opens[i], 1)
}

func (t *tally) setClose(i int) {
	if t.close >= 0 {
		t.countEnd(&t.m.Closes[t.close], -1)
	}
	t.close = i
	t.countEnd(&t.m.Closes[i], 1)
}

func (t *tally) countEnd(e *End, by int) {
	sign := float64(by)
	for a, x := range e.Credit {
		t.credit[a] += sign * x
	}
	t.seconds += by * e.Seconds
	t.value += sign * (e.Value - e.Price)
	t.directions(e.Dirs, by)
	for _, f := range e.Families {
		t.families[f] += int8(by)
	}
	t.fresh += by * e.Fresh
	for k := range t.rows {
		t.rows[k] += sign * e.Rows[k]
	}
}

// uses tells whether the opener or the closer is this candidate.
func (t *tally) uses(cand int) bool {
	return t.m.Opens[t.open].has(cand) || t.m.Closes[t.close].has(cand)
}

func (e *End) has(cand int) bool {
	for _, c := range e.Cands {
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
	outOfOrder = 4 // a posture that comes after a later one
)

// judge gives the value of the selection; ok is false when it breaks a rule, and then the
// value is less by how far.
func (t *tally) judge() (value float64, ok bool) { return t.judgeAbove(math.Inf(-1)) }

// judgeAbove is judge for a selection that matters only above a value: it stops early,
// with a bound that is not above it, where the route cannot help.
func (t *tally) judgeAbove(least float64) (value float64, ok bool) {
	m := t.m
	o, c := &m.Opens[t.open], &m.Closes[t.close]
	wrong := 0
	mask := t.mask()
	for _, n := range t.families {
		if int(n) > t.m.Terms.Family {
			wrong += int(n) - t.m.Terms.Family
		}
	}
	if m.MaxFresh >= 0 {
		wrong += max(0, t.fresh-m.MaxFresh)
	}
	missing := 0.0
	for i := range m.Rows {
		if r := &m.Rows[i]; r.Soft > 0 {
			missing += r.missing(t.rows[i])
		} else {
			wrong += r.short(t.rows[i])
		}
	}
	back := 0
	if m.Terms.Rising {
		back = t.falls()
	}
	if o.shares(c) {
		wrong += 2
	}
	value = t.value - m.In[o.First].Price - m.Out[c.Last].Price
	value = value - broken*float64(wrong) - missing - outOfOrder*float64(back)
	for a, x := range t.credit {
		value += m.Weight[a] * m.credited(a, x)
	}
	for _, n := range t.dirs {
		if n > 0 {
			value += t.m.Terms.Direction
		}
	}
	seconds := t.seconds + m.In[o.First].Seconds + m.Out[c.Last].Seconds
	if value-lengthPenalty(m, seconds) <= least { // a second on the way costs more than it gains
		return value - lengthPenalty(m, seconds), false
	}
	before := wrong
	w, found := t.way(mask, &wrong)
	value -= broken * float64(wrong-before)
	ok = !t.misplaced && back == 0
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
	o, c := &m.Opens[t.open], &m.Closes[t.close]
	value, seconds := t.value, t.seconds
	var dirs uint8
	for i := range ch.ins {
		col := &m.Items[ch.in[i]]
		value += col.Value
		seconds += col.Seconds
		dirs |= col.Dirs
	}
	for i := range ch.outs {
		col := &m.Items[ch.out[i]]
		value -= col.Value
		seconds -= col.Seconds
	}
	if ch.newOpen {
		e := &m.Opens[ch.open]
		value += e.Value - e.Price - o.Value + o.Price
		seconds += e.Seconds - o.Seconds
		dirs |= e.Dirs
		o = e
	}
	if ch.newClose {
		e := &m.Closes[ch.close]
		value += e.Value - e.Price - c.Value + c.Price
		seconds += e.Seconds - c.Seconds
		dirs |= e.Dirs
		c = e
	}
	for a, x := range t.credit {
		for i := range ch.ins {
			x += m.Items[ch.in[i]].Credit[a]
		}
		for i := range ch.outs {
			x -= m.Items[ch.out[i]].Credit[a]
		}
		if ch.newOpen {
			x += o.Credit[a] - m.Opens[t.open].Credit[a]
		}
		if ch.newClose {
			x += c.Credit[a] - m.Closes[t.close].Credit[a]
		}
		value += m.Weight[a] * m.credited(a, x)
	}
	for k, n := range t.dirs {
		if n > 0 || dirs>>k&1 == 1 {
			value += t.m.Terms.Direction
		}
	}
	seconds += m.In[o.First].Seconds + m.Out[c.Last].Seconds
	return value - m.In[o.First].Price - m.Out[c.Last].Price - lengthPenalty(m, seconds)
}

// credited is what minutes of an aim count: in full to the target, half to one and a half
// times it.
func (m *Model) credited(aim int, x float64) float64 {
	target := m.Target[aim]
	if x > target {
		return target + m.Terms.Beyond*math.Min(x-target, m.Terms.Beyond*target)
	}
	return x
}

// lengthPenalty is the cost of being short, or in the search of being too long.
func lengthPenalty(m *Model, seconds int) float64 {
	switch {
	case seconds < m.Least:
		return m.Terms.Short * float64(m.Least-seconds)
	case seconds > m.Most:
		return 2 + float64(seconds-m.Most)/6
	}
	return 0
}

// falls counts the pairs of postures of which the later one holds something easier than the earlier.
func (t *tally) falls() (n int) {
	for a := range t.m.Blocks {
		for b := range t.m.Blocks {
			if t.counts[a] > 0 && t.counts[b] > 0 && t.m.Blocks[a].Tier < t.m.Blocks[b].Tier &&
				t.hardestIn(a) > t.easiestIn(b) {
				n++
			}
		}
	}
	return n
}

func (t *tally) hardestIn(block int) int {
	e := len(t.efforts[block]) - 1
	for e > 0 && t.efforts[block][e] == 0 {
		e--
	}
	return e
}

func (t *tally) easiestIn(block int) int {
	e := 0
	for e < len(t.efforts[block])-1 && t.efforts[block][e] == 0 {
		e++
	}
	return e
}

// way finds the route of the selection; wrong grows when there is none.
func (t *tally) way(mask uint32, wrong *int) (w way, found bool) {
	m := t.m
	o, c := &m.Opens[t.open], &m.Closes[t.close]
	s := t.routes.set(mask, o.Last, c.First)
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
	if top := t.top(); top > t.m.Terms.Gentle {
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
	o, c := &t.m.Opens[t.open], &t.m.Closes[t.close]
	top := t.top()
	s := t.routes.set(t.mask(), o.Last, c.First)
	if top <= t.m.Terms.Gentle || s == nil || t.left(s) < 0 {
		return true
	}
	_, ok := t.turning(s, top, t.left(s))
	return ok
}

// mask is the set of postures visited.
func (t *tally) mask() uint32 {
	mask := uint32(1) << t.m.Opens[t.open].Last
	for b := range t.m.Blocks {
		if t.counts[b] > 0 {
			mask |= 1 << b
		}
	}
	return mask
}

// left is the level of a route set's tables that the rises of the opener, the closer and
// the way up at the end leave, below 0 when there are too many already.
func (t *tally) left(s *routeSet) int {
	o, c := &t.m.Opens[t.open], &t.m.Closes[t.close]
	return min(t.m.MaxRises-o.Rises-c.Rises-b2i(t.m.Out[c.Last].Rise), s.deep-1)
}

// turning finds the cheapest route on which an item of the highest effort lies where the
// hardest should: its place is counted among all items.
func (t *tally) turning(s *routeSet, top, rises int) (best way, ok bool) {
	var counts [MaxBlocks]int
	o, c := &t.m.Opens[t.open], &t.m.Closes[t.close]
	n := float64(len(t.body) + len(o.Cands) + len(c.Cands))
	for i, id := range s.ids {
		counts[i] = t.counts[id]
	}
	counts[0] += len(o.Cands)
	best.price = math.Inf(1)
	for i, id := range s.ids {
		if t.efforts[id][top] > 0 {
			s.turning(i, counts[:s.k], t.m.Terms.HardFrom*n+0.5-1e-9, t.m.Terms.HardTo*n+0.5+1e-9, rises, &best)
		}
	}
	return best, !math.IsInf(best.price, 1)
}

// outBy is by how many places, at least, the hardest item misses its part of the list.
func (t *tally) outBy(s *routeSet, top int) float64 {
	o, c := &t.m.Opens[t.open], &t.m.Closes[t.close]
	n := float64(len(t.body) + len(o.Cands) + len(c.Cands))
	all := float64(len(t.body) + len(o.Cands))
	best := math.Inf(1)
	for i, id := range s.ids {
		if t.efforts[id][top] == 0 {
			continue
		}
		least := float64(t.counts[id] + len(o.Cands)) // with nothing but the opener's posture before
		if i > 0 {
			least += float64(t.counts[s.ids[0]])
		}
		out := math.Max(least-(t.m.Terms.HardTo*n+0.5), t.m.Terms.HardFrom*n+0.5-all)
		best = math.Min(best, math.Max(1, out))
	}
	return best
}

// top is the highest effort in the body.
func (t *tally) top() int {
	for e := 10; e > 0; e-- {
		for b := range t.m.Blocks {
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
	o, c := &m.Opens[t.open], &m.Closes[t.close]
	last := -1
	order := s.order(w, rises)
	if twin := m.Blocks[c.First].Twin; order[len(order)-1] == twin {
		last = twin
	}
	n := 0
	for b := range m.Blocks {
		run := t.supine[b]
		if b == m.Blocks[o.Last].Twin {
			run += o.SupineTail
		}
		if b == last {
			run += c.SupineHead
		}
		if over := run - m.MaxSupine; over > 0 {
			n += 1 + over/30
		}
	}
	if c.SupineHead > m.MaxSupine {
		n++
	}
	return n
}
