package solve

import (
	"cmp"
	"math"
	"slices"
	"sort"
)

// The last part of the search is exact where it can be: between one opener and one closer,
// in one set of postures, no session whose items lose more at the prices than the bound is
// above the best known value can be better. What is left is tried out whole.

// Bounds on what is tried out.
const (
	firstReprices, reprices = 6, 20 // steps towards better prices for one opener and closer
	fewTried                = 1500  // sessions tried out for one opener and closer at first
	fewInAll                = 30000 // ... and for all
	manyTried               = 12000 // ... when the first time did not settle it
	manyInAll               = 80000
	mostOpen                = 24   // parts left open before a better session is looked for
	mostCases               = 1000 // priced, of fields in which the hardest item finds no place
	mostPriced              = 1000 // parts with prices of their own
)

// part is what is bounded and tried out at once: a field between an opener and a closer, or
// the whole field, with the best of them, before they are told apart.
type part struct {
	field *field
	pair  pair
	whole bool
}

// byBound sorts parts, the most promising first.
func byBound(list []part) {
	slices.SortFunc(list, func(a, b part) int { return cmp.Compare(b.pair.bound, a.pair.bound) })
}

// instead is a change of the relaxation's best body: another dose of a candidate, or
// putting it in or leaving it out, and what that loses at the prices.
type instead struct {
	loss      float64
	cand      int
	was, then int // columns, -1 none
}

// enumeration tries out what may be better in one part after the other.
type enumeration struct {
	s       *Search
	t       *tally
	bound   float64
	list    []instead
	changed []bool // by candidate
	left    int    // sessions that may still be tried

	misplaced bool // the hardest item of the relaxation's best session finds no place
}

// close tries out the parts that may hold a better session, the most promising first, and
// then what the sets that have no prices yet may hold. It returns the parts left open because
// there was too much to try; sets left are in s.later.
func (s *Search) close(t *tally, list []part, each, all int) (open []part) {
	e := enumeration{s: s, t: t, changed: make([]bool, s.m.Candidates)}
	x := s.relaxation
	byBound(list)
	split, priced := 0, 0
	for all > 0 && priced < mostPriced && len(open) < mostOpen {
		if len(list) == 0 || list[0].pair.bound <= s.value+1e-9 {
			if !s.waiting() {
				s.later = nil
				return open
			}
			priced++
			list = list[:0]
			if p, ok := s.next(); ok {
				list = append(list, p)
			}
			continue
		}
		f, p, whole := list[0].field, list[0].pair, list[0].whole
		list = list[1:]
		if f.split {
			continue
		}
		if whole {
			for _, q := range s.pairsAbove(f, s.value, math.MaxInt) {
				list = append(list, part{field: f, pair: q})
			}
			byBound(list)
			continue
		}
		priced++
		x.at.copy(&f.prices)
		x.begin(f, &p)
		for _, steps := range [2]int{firstReprices, reprices} { // most need only a few
			e.bound = x.bound(&p, x.improve(steps, 0.3))
			if e.bound <= s.value+1e-9 {
				break
			}
		}
		if e.bound <= s.value+1e-9 {
			continue
		}
		x.settle()
		e.left = min(each, all)
		was := e.left
		done := e.run(f, &p)
		all -= was - e.left
		switch {
		case done:
		case e.misplaced && split < mostCases && (f.turn == nil || f.turns() && !f.turn.exact):
			f.split = true
			cases := s.cases(f)
			split += len(cases)
			for i := range cases {
				if best, ok := s.price(&cases[i], &f.prices); ok {
					list = append(list, part{&cases[i], best, true})
				}
			}
			byBound(list)
		default:
			open = append(open, part{field: f, pair: p})
		}
	}
	return append(open, list...)
}

// run tries out one part; it is false when there was too much to try. When the hardest item
// must be one that the relaxation's best body lacks, each that it may be is put in in turn.
func (e *enumeration) run(f *field, p *pair) bool {
	list := f.hardest(e.s.m)
	if list == nil {
		return e.around(f, p, nil)
	}
	bound := e.bound
	for i := range list {
		if o, c := &e.s.m.Opens[p.open], &e.s.m.Closes[p.close]; o.has(list[i].cand) || c.has(list[i].cand) {
			continue
		}
		e.bound = bound - math.Max(0, list[i].loss)
		if e.bound > e.s.value+1e-9 && !e.around(f, p, &list[i]) {
			return false
		}
	}
	return true
}

// around tries out one part, with a column put in for good if one is given.
func (e *enumeration) around(f *field, p *pair, with *instead) bool {
	s := e.s
	sel := Selection{Open: p.open, Close: p.close}
	e.list = e.list[:0]
	o, c := &s.m.Opens[p.open], &s.m.Closes[p.close]
	for i := 0; i < len(f.columns); {
		cand := s.m.Items[f.columns[i]].Cand
		from := i
		for i < len(f.columns) && s.m.Items[f.columns[i]].Cand == cand {
			i++
		}
		if o.has(cand) || c.has(cand) {
			continue
		}
		if with != nil && with.cand == cand {
			sel.Body = append(sel.Body, with.then)
			continue
		}
		best, top := -1, 0.0
		if b := f.best[cand]; b > 0 {
			best, top = f.columns[b-1], f.profit[b-1]
			sel.Body = append(sel.Body, best)
			if s.m.Items[best].Locked {
				continue
			}
			e.offer(instead{top, cand, best, -1})
		}
		for k := from; k < i; k++ {
			if f.columns[k] != best {
				e.offer(instead{top - f.profit[k], cand, best, f.columns[k]})
			}
		}
	}
	sort.SliceStable(e.list, func(i, k int) bool { return e.list[i].loss < e.list[k].loss })
	e.t.reset(sel)
	v, ok := e.t.judge()
	s.note(e.t, v, ok)
	e.misplaced = !e.t.placed()
	return e.try(0, 0)
}

func (e *enumeration) offer(in instead) {
	if in.loss < e.bound-e.s.value-1e-9 {
		e.list = append(e.list, in)
	}
}

// try changes the candidates from a place of the list on, as long as the loss stays below
// what the bound is above the best value.
func (e *enumeration) try(from int, lost float64) bool {
	for i := from; i < len(e.list); i++ {
		in := &e.list[i]
		if lost+in.loss >= e.bound-e.s.value-1e-9 {
			return true
		}
		if e.changed[in.cand] {
			continue
		}
		if e.left <= 0 {
			return false
		}
		e.left--
		ch := change{}
		if in.was >= 0 {
			ch.drop(in.was)
		}
		if in.then >= 0 {
			ch.put(in.then)
		}
		good := e.t.bound(&ch) > e.s.value+1e-9
		last := i+1 == len(e.list) || lost+in.loss+e.list[i+1].loss >= e.bound-e.s.value-1e-9
		if last && !good {
			continue // nothing comes of it, and nothing more can be changed besides
		}
		e.change(in.was, in.then, in.cand, true)
		if good {
			if v, ok := e.t.judgeAbove(e.s.value + 1e-9); ok {
				e.s.note(e.t, v, ok)
			}
		}
		done := e.try(i+1, lost+in.loss)
		e.change(in.then, in.was, in.cand, false)
		if !done {
			return false
		}
	}
	return true
}

func (e *enumeration) change(out, in, cand int, changed bool) {
	if out >= 0 {
		e.t.remove(out)
	}
	if in >= 0 {
		e.t.add(in)
	}
	e.changed[cand] = changed
}
