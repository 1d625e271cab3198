package solve

import (
	"math"
	"math/bits"
	"math/rand/v2"
	"slices"
	"sort"
)

// The search is deterministic: a fixed seed and counts of steps, never the clock. Sets of
// postures are bounded by prices (prices.go, fields.go), the most promising are walked
// through by annealing, and what may still hold something better than the best of that is
// tried out whole (enumerate.go). What is too much to try is walked through for longer,
// and tried once more. When nothing is left over, the best is proven.
const (
	seed       = 20261126
	walkedSets = 8    // sets that are walked through at once
	walkedEnds = 1    // ... with so many openers and closers
	walkSteps  = 2000 // of one walk
	manySets   = 16   // sets that are priced before anything is tried out
	manyParts  = 12   // parts that are more than may be tried before looking for better ones
	moreWalks  = 8    // walks of such a look
	longWalks  = 12   // ... between two trials
	longSteps  = 4000 // of one of these
	rounds     = 2    // trials
	polishings = 3    // walks from the best over all postures
	hot, cold  = 0.4, 0.02
	polishHeat = 0.25 // temperatures in points
)

// triedSets is how many sets of postures are walked through until some session keeps every rule.
const triedSets = 40

// Search is the planner's work on one model.
type Search struct {
	m       *Model
	routes  *routes
	rng     *rand.Rand
	locked  []int
	options [][]int // columns by candidate
	free    []int   // columns that are not locked
	sorted  []int   // columns by family and candidate
	best    Selection
	value   float64
	found   bool
	proven  bool
	field   *field // of the walk

	start      prices     // of all postures
	later      []postures // that have no prices of their own yet, the most promising first
	relaxation *relaxed
	low        lowest
	fars       []float64 // bounds on ways from block to block, in the field at hand
}

// NewSearch prepares a search; ok is false when the model has no opener or no closer.
func NewSearch(m *Model) (s *Search, ok bool) {
	if len(m.Opens) == 0 || len(m.Closes) == 0 {
		return nil, false
	}
	s = &Search{
		m:       m,
		routes:  newRoutes(m),
		rng:     rand.New(rand.NewPCG(seed, uint64(m.Most))),
		value:   math.Inf(-1),
		options: make([][]int, m.Candidates),
	}
	for i := range m.Items {
		c := &m.Items[i]
		s.options[c.Cand] = append(s.options[c.Cand], i)
		if c.Locked {
			s.locked = append(s.locked, i)
		} else {
			s.free = append(s.free, i)
		}
		s.sorted = append(s.sorted, i)
	}
	sort.SliceStable(s.sorted, func(i, k int) bool {
		a, b := &m.Items[s.sorted[i]], &m.Items[s.sorted[k]]
		return a.Family < b.Family || a.Family == b.Family && a.Cand < b.Cand
	})
	s.relaxation, s.low = newRelaxed(m), newLowest(m)
	s.fars = make([]float64, len(m.Blocks)*len(m.Blocks))
	return s, true
}

// Best is the best selection found and its value; ok is false when none keeps every rule.
func (s *Search) Best() (sel Selection, value float64, ok bool) { return s.best, s.value, s.found }

// Proven tells whether no selection of the model is better than the best one found by more
// than rounding.
func (s *Search) Proven() bool { return s.found && s.proven }

// note keeps a selection when it is the best so far.
func (s *Search) note(t *tally, value float64, ok bool) {
	if ok && (!s.found || value > s.value+1e-9) {
		t.keep(&s.best)
		s.value, s.found = value, true
	}
}

// Greedy is the baseline: the opener and closer that do best alone, then always the item
// with the best gain for its seconds until nothing gains.
func (s *Search) Greedy() {
	t := newTally(s.m, s.routes, Selection{0, 0, s.locked})
	value := math.Inf(-1)
	for o := range s.m.Opens {
		for c := range s.m.Closes {
			t.setOpen(o)
			t.setClose(c)
			if v, fine := t.judge(); v > value {
				value = v
				s.note(t, v, fine)
			}
		}
	}
	if s.found {
		t.reset(s.best)
	}
	s.fill(t)
}

// Quick is a good answer at once: the greedy one, tidied by single exchanges.
func (s *Search) Quick() {
	s.Greedy()
	if s.found {
		s.descend(newTally(s.m, s.routes, s.best))
	}
}

// fill adds the item with the best gain for its seconds until nothing gains.
func (s *Search) fill(t *tally) {
	value, _ := t.judge()
	for {
		best, gain := -1, 0.0
		for _, col := range s.free {
			c := &s.m.Items[col]
			if t.byCand[c.Cand] > 0 || t.uses(c.Cand) {
				continue
			}
			t.add(col)
			v, _ := t.judge()
			t.remove(col)
			rate := (v - value) / float64(c.Seconds)
			if v > value+1e-9 && rate > gain {
				best, gain = col, rate
			}
		}
		if best < 0 {
			return
		}
		t.add(best)
		var ok bool
		value, ok = t.judge()
		s.note(t, value, ok)
	}
}

// Run does the whole search.
func (s *Search) Run() {
	t := newTally(s.m, s.routes, Selection{0, 0, s.locked})
	s.onlyEnds(t)
	open := s.parts(t)
	if !s.found { // nothing keeps every rule wherever one looks: not worth trying out
		open = s.walkOn(t, s.priceMore(open), longWalks, walkSteps)
	}
	for round := 1; s.found; round++ {
		each, all := fewTried, fewInAll
		if round == rounds {
			each, all = manyTried, manyInAll
		}
		open = s.close(t, open, each, all)
		if round == rounds || len(open)+len(s.later) == 0 {
			break
		}
		open = s.walkOn(t, s.priceMore(open), longWalks, longSteps)
		s.polish(t)
	}
	s.proven = len(open)+len(s.later) == 0 && s.holding() <= mostBlocks
}

// holding is how many blocks hold something of the body.
func (s *Search) holding() int {
	held := uint32(0)
	for i := range s.m.Items {
		held |= 1 << s.m.Items[i].Block
	}
	return bits.OnesCount32(held)
}

// onlyEnds judges every opener and closer with nothing between them but what is locked.
func (s *Search) onlyEnds(t *tally) {
	for o := range s.m.Opens {
		for c := range s.m.Closes {
			t.setOpen(o)
			t.setClose(c)
			v, fine := t.judge()
			s.note(t, v, fine)
		}
	}
}

// parts bounds the sets of postures, prices the most promising ones, walks through some and
// lists what may be better than the best session found; the other sets wait in s.later.
func (s *Search) parts(t *tally) (parts []part) {
	all := s.everything()
	s.start.copy(&all.prices)
	s.later = s.sets(all)
	for (len(parts) < walkedSets || !s.found && len(parts) < triedSets) && s.waiting() {
		p, ok := s.next()
		if !ok {
			continue
		}
		parts = append(parts, p)
		for _, q := range s.pairsAbove(p.field, s.value, walkedEnds) {
			s.walk(t, part{field: p.field, pair: q}, walkSteps)
		}
	}
	if !s.found { // what is worth most breaks some rule wherever one looks
		s.Greedy()
		s.polish(t)
	}
	parts = s.priceMore(parts)
	for n := 0; n < 4 && len(parts) > manyParts; n++ {
		before := s.value
		parts = s.walkOn(t, parts, moreWalks, walkSteps<<n)
		if s.value == before && n > 0 {
			break
		}
	}
	return parts
}

// priceMore prices the next sets that wait, so many at a time.
func (s *Search) priceMore(parts []part) []part {
	for n := 0; n < manySets && s.waiting(); n++ {
		if p, ok := s.next(); ok {
			parts = append(parts, p)
		}
	}
	return parts
}

// waiting tells whether a set that has no prices yet may hold something better.
func (s *Search) waiting() bool { return len(s.later) > 0 && s.later[0].bound > s.value+1e-9 }

// next prices the most promising set that waits; ok is false when it holds nothing better.
func (s *Search) next() (p part, ok bool) {
	f := &field{mask: s.later[0].mask}
	s.later = s.later[1:]
	if !f.gather(s) {
		return p, false
	}
	best, ok := s.price(f, &s.start)
	return part{f, best, true}, ok
}

// walk anneals from a part's most promising session.
func (s *Search) walk(t *tally, p part, steps int) {
	if p.field.odds == nil {
		p.field.weigh()
	}
	s.begin(t, p.field, p.pair)
	s.anneal(t, p.field, steps, hot)
}

// walksEach is how many walks of a look one field may have.
const walksEach = 3

// walkOn walks through the most promising parts and keeps the parts that may still be
// better.
func (s *Search) walkOn(t *tally, parts []part, n, steps int) []part {
	byBound(parts)
	walks := map[*field]int{}
	for _, p := range parts {
		if n == 0 {
			break
		}
		if walks[p.field]++; walks[p.field] <= walksEach {
			n--
			s.walk(t, p, steps)
		}
	}
	return slices.DeleteFunc(parts, func(p part) bool { return p.pair.bound <= s.value+1e-9 })
}

// polish walks on from the best over all postures, gently, and descends.
func (s *Search) polish(t *tally) {
	if !s.found {
		return
	}
	f := s.everything()
	for range polishings {
		t.reset(s.best)
		s.anneal(t, f, longWalks*walkSteps/polishings, polishHeat)
		t.reset(s.best)
		s.descend(t)
	}
}

// begin fills a field's selection with what earns most, as far as time and numbers go.
func (s *Search) begin(t *tally, f *field, p pair) {
	t.reset(Selection{p.open, p.close, s.locked})
	order := make([]int, 0, len(f.columns))
	for _, b := range f.best {
		if b > 0 {
			order = append(order, b-1)
		}
	}
	sort.SliceStable(order, func(i, k int) bool { return f.profit[order[i]] > f.profit[order[k]] })
	a, b := &s.m.Opens[p.open], &s.m.Closes[p.close]
	if list := f.hardest(s.m); len(list) > 0 && !a.has(list[0].cand) && !b.has(list[0].cand) &&
		t.byCand[list[0].cand] == 0 {
		t.add(list[0].then)
	}
	room := s.m.Most - p.way.seconds - s.m.In[a.First].Seconds - s.m.Out[b.Last].Seconds
	s.owed(t, f, room)
	for _, k := range order {
		c := &s.m.Items[f.columns[k]]
		if t.byCand[c.Cand] > 0 || t.uses(c.Cand) || t.seconds+c.Seconds > room || t.over(f.columns[k]) ||
			c.Fresh && s.m.MaxFresh >= 0 &&
				t.fresh >= s.m.MaxFresh || c.Family >= 0 && int(t.families[c.Family]) >= s.m.Terms.Family {
			continue
		}
		t.add(f.columns[k])
	}
}

// costly is what a second of an item that a row asks for weighs against what it earns, points: what
// must be in comes in briefly first.
const costly = 0.02

// owed puts in what the rows ask for, as far as there is room.
func (s *Search) owed(t *tally, f *field, room int) {
	for i := range s.m.Rows {
		r := &s.m.Rows[i]
		for r.short(t.rows[i]) > 0 {
			best, top := -1, math.Inf(-1)
			for k, col := range f.columns {
				c := &s.m.Items[col]
				worth := f.profit[k] - costly*float64(c.Seconds)
				if r.Items[col] > 0 && worth > top && t.byCand[c.Cand] == 0 && !t.uses(c.Cand) &&
					t.seconds+c.Seconds <= room &&
					!t.over(col) &&
					(c.Family < 0 || int(t.families[c.Family]) < s.m.Terms.Family) {
					best, top = col, worth
				}
			}
			if best < 0 {
				break
			}
			t.add(best)
		}
	}
}

// over tells whether a row that holds is broken by one more column.
func (t *tally) over(col int) bool {
	for i, have := range t.rows {
		r := &t.m.Rows[i]
		if by := r.Items[col]; by < 0 && r.short(have+by) > r.short(have) {
			return true
		}
	}
	return false
}

// anneal walks by small changes within a field, downhill now and then, less as it cools.
func (s *Search) anneal(t *tally, f *field, steps int, heat float64) {
	s.field = f
	value, ok := t.judge()
	s.note(t, value, ok)
	cooling := math.Pow(cold/heat, 1/float64(steps))
	for range steps {
		heat *= cooling
		ch, changed := s.draw(t)
		if !changed {
			continue
		}
		least := value - heat*patience[s.rng.Uint64()>>56]
		if t.bound(&ch) <= least {
			continue
		}
		ch.apply(t)
		v, fine := t.judgeAbove(least)
		if v <= least {
			ch.undo(t)
			continue
		}
		value = v
		s.note(t, v, fine)
	}
}

// patience is how far below its value, in temperatures, a step may lead: 256 quantiles of
// the exponential distribution.
var patience = func() (out [256]float64) {
	for i := range out {
		out[i] = -math.Log((float64(i) + 0.5) / 256)
	}
	return out
}()
