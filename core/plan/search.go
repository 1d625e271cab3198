package plan

import (
	"math"
	"sort"
)

// The search is deterministic: a fixed seed and counts of steps, never the clock. It
// anneals from the most promising beginnings (prices.go), keeps the better half in each
// round, so that each has twice the steps, and ends with descents over exchanges of one or
// two items, opener and closer.
const (
	seed                    = 20261123
	firstRuns               = 30    // beginnings that are annealed
	mostSteps               = 80000 // of one round over all of them
	columnSteps             = 500   // of one round for each column
	agreeing                = 4     // runs that come to the same best end the rounds
	firstSteps              = 500   // of one start at least
	polishings, polishParts = 3, 8  // walks on from the best, each a part of a round
	polishHeat              = 0.25
	lastRuns                = 3         // starts that go to the end
	hot, cold               = 0.4, 0.02 // temperatures in points
	cooler                  = 0.75      // each round begins cooler
)

// Search is the planner's work on one model.
type Search struct {
	m       *Model
	routes  *routes
	rng     chance
	locked  []int
	options [][]int // columns by candidate
	free    []int   // columns that are not locked
	best    Selection
	value   float64
	ok      bool
	field   *field // of the run
	listed  []int  // blocks in the order of the school's list
}

// NewSearch prepares a search; ok is false when the model has no opener or no closer.
func NewSearch(m *Model) (s *Search, ok bool) {
	if len(m.opens) == 0 || len(m.closes) == 0 {
		return nil, false
	}
	s = &Search{m: m, routes: newRoutes(m), rng: chance(seed + m.Most), value: math.Inf(-1), options: make([][]int, len(m.cands))}
	for i := range m.Items {
		c := &m.Items[i]
		s.options[c.cand] = append(s.options[c.cand], i)
		if c.locked {
			s.locked = append(s.locked, i)
		} else {
			s.free = append(s.free, i)
		}
	}
	return s, true
}

// Best is the best selection found and its value; ok is false when none keeps every rule.
func (s *Search) Best() (sel Selection, value float64, ok bool) { return s.best, s.value, s.ok }

// note keeps a selection when it is the best so far.
func (s *Search) note(t *tally, value float64, ok bool) {
	if ok && (!s.ok || value > s.value+1e-9) {
		t.keep(&s.best)
		s.value, s.ok = value, true
	}
}

// Greedy is the baseline: the opener and closer that do best alone, then always the item
// with the best gain for its seconds until nothing gains.
func (s *Search) Greedy() {
	t := newTally(s.m, s.routes, Selection{0, 0, s.locked})
	value := math.Inf(-1)
	for o := range s.m.opens {
		for c := range s.m.closes {
			t.setOpen(o)
			t.setClose(c)
			if v, fine := t.judge(); v > value {
				value = v
				s.note(t, v, fine)
			}
		}
	}
	if s.ok {
		t.reset(s.best)
	}
	s.fill(t)
}

// fill adds the item with the best gain for its seconds until nothing gains.
func (s *Search) fill(t *tally) {
	value, _ := t.judge()
	for {
		best, gain := -1, 0.0
		for _, col := range s.free {
			c := &s.m.Items[col]
			if t.byCand[c.cand] > 0 || t.uses(c.cand) {
				continue
			}
			t.add(col)
			v, _ := t.judge()
			t.remove(col)
			rate := (v - value) / float64(c.seconds)
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

// run is one start of the annealing: a field and what it came to.
type run struct {
	field *field
	sel   Selection
	value float64 // the best of the run that keeps every rule, else what it has
	ok    bool
}

// Run does the whole search.
func (s *Search) Run() {
	s.Greedy()
	fields := s.fields()
	var runs []run
	t := newTally(s.m, s.routes, Selection{0, 0, s.locked})
	for _, b := range beginnings(fields, firstRuns) {
		s.begin(t, b.field, b.ends)
		runs = append(runs, run{field: b.field, sel: t.selection(), value: math.Inf(-1)})
	}
	heat := hot
	for len(runs) > 0 {
		before := s.value
		for i := range runs {
			t.reset(runs[i].sel)
			s.anneal(t, &runs[i], max(firstSteps, s.roundSteps()/len(runs)), heat)
		}
		sort.SliceStable(runs, func(i, k int) bool {
			if runs[i].ok != runs[k].ok {
				return runs[i].ok
			}
			return runs[i].value > runs[k].value
		})
		if len(runs) <= lastRuns || s.agreed(runs, before) {
			break
		}
		runs = cut(runs, max(lastRuns, (len(runs)+1)/2))
		heat *= cooler
	}
	runs = cut(runs, lastRuns)
	for i := range runs {
		s.field = runs[i].field
		t.reset(runs[i].sel)
		s.descend(t)
	}
	s.polish(t)
}

// polish walks on from the best over all postures, gently, and descends again.
func (s *Search) polish(t *tally) {
	if !s.ok {
		return
	}
	f := s.everything()
	for range polishings {
		t.reset(s.best)
		r := run{field: f, value: math.Inf(-1)}
		s.anneal(t, &r, s.roundSteps()/polishParts, polishHeat)
		t.reset(r.sel)
		s.field = f
		s.descend(t)
	}
}

// roundSteps are the steps of one round: as many as the model has columns to choose from,
// up to a bound.
func (s *Search) roundSteps() int { return min(mostSteps, columnSteps*len(s.free)) }

// agreed tells whether a round brought nothing better and several beginnings came to the
// same: then more rounds would only say it again.
func (s *Search) agreed(runs []run, before float64) bool {
	n := 0
	for i := range runs {
		if runs[i].ok && runs[i].value > s.value-1e-9 {
			n++
		}
	}
	return s.value < before+1e-9 && n >= agreeing
}

// cut keeps the best runs, of each field at most half of them, so that one field does not
// crowd out the others.
func cut(runs []run, n int) []run {
	var kept, rest []run
	per := map[*field]int{}
	for _, r := range runs {
		if per[r.field] < max(1, n/2) && len(kept) < n {
			per[r.field]++
			kept = append(kept, r)
		} else {
			rest = append(rest, r)
		}
	}
	return append(kept, rest[:min(len(rest), n-len(kept))]...)
}

// begin fills a field's selection with what earns most, as far as time and numbers go.
func (s *Search) begin(t *tally, f *field, p pair) {
	t.reset(Selection{p.open, p.close, s.locked})
	order := make([]int, 0, len(f.columns))
	for _, b := range f.prices.best {
		if b > 0 {
			order = append(order, b-1)
		}
	}
	sort.SliceStable(order, func(i, k int) bool { return f.prices.profit[order[i]] > f.prices.profit[order[k]] })
	a, b := &s.m.opens[p.open], &s.m.closes[p.close]
	w, _ := s.wayOf(f, a, b)
	room := s.m.Most - w.seconds - s.m.in[a.first].seconds - s.m.out[b.last].seconds
	for _, k := range order {
		c := &s.m.Items[f.columns[k]]
		if t.byCand[c.cand] > 0 || t.uses(c.cand) || t.seconds+c.seconds > room || c.strong && t.strong >= s.m.MaxStrong ||
			c.fresh && s.m.MaxFresh >= 0 && t.fresh >= s.m.MaxFresh || c.family >= 0 && t.families[c.family] >= maxFamily {
			continue
		}
		t.add(f.columns[k])
	}
}

// anneal walks by small changes, downhill now and then, less as it cools. The run goes on
// from its best.
func (s *Search) anneal(t *tally, r *run, steps int, heat float64) {
	s.field = r.field
	value, ok := t.judge()
	if ok && (!r.ok || value > r.value) {
		t.keep(&r.sel)
		r.value, r.ok = value, true
	} else if !r.ok {
		t.keep(&r.sel)
		r.value = value
	}
	cooling := math.Pow(cold/heat, 1/float64(steps))
	for range steps {
		heat *= cooling
		ch, changed := s.draw(t)
		if !changed {
			continue
		}
		least := value - heat*patience[s.rng.next()>>56]
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
		if fine && (!r.ok || v > r.value+1e-9) || !fine && !r.ok && v > r.value {
			t.keep(&r.sel)
			r.value, r.ok = v, fine
			s.note(t, v, fine)
		}
	}
}

// chance is a small fast generator of random numbers (splitmix64): the search draws a few
// hundred thousand of them.
type chance uint64

func (c *chance) next() uint64 {
	*c += 0x9e3779b97f4a7c15
	z := uint64(*c)
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// IntN is a number from 0 to below n.
func (c *chance) IntN(n int) int { return int(c.next() >> 32 * uint64(n) >> 32) }

// Float64 is a number from 0 to below 1.
func (c *chance) Float64() float64 { return float64(c.next()>>11) / (1 << 53) }

// patience is how far below its value, in temperatures, a step may lead: 256 quantiles of
// the exponential distribution.
var patience = func() (out [256]float64) {
	for i := range out {
		out[i] = -math.Log((float64(i) + 0.5) / 256)
	}
	return out
}()
