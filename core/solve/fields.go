package solve

import (
	"math"
	"math/bits"
	"slices"
	"sort"
)

// field is a part of the problem: a set of postures, and perhaps where in it the hardest
// item lies: what may be chosen there, and how good it can get.
type field struct {
	mask    uint32
	turn    *turn
	split   bool  // its cases have taken its place
	columns []int // by family and candidate
	dirs    uint8 // that they visit
	prices  prices
	profit  []float64 // by column of the field, less the price of a place in its family
	best    []int     // index + 1 into the columns by candidate, 0 none
	family  []float64 // price of a place in each family
	base    float64   // worth of the relaxation without opener, closer and way
	odds    []uint16  // indexes of columns, each as often as it is likely
}

// turn is where the hardest item lies: it is the last of its posture, and the postures up
// to there are the ones that come before it and its own. All work may be gentle instead,
// and lie anywhere.
type turn struct {
	hard   int    // block, -1: all work is gentle
	upto   uint32 // blocks
	effort int    // of the hardest item, or at most
	exact  bool
}

// takes tells whether an item may be the hardest.
func (t *turn) takes(effort, gentle int) bool {
	return effort == t.effort || !t.exact && effort > gentle && effort <= t.effort
}

// turns tells whether the field says where the hardest item lies.
func (f *field) turns() bool { return f.turn != nil && f.turn.hard >= 0 }

// pair is an opener and a closer, and what a session with them is worth at most.
type pair struct {
	open, close int
	bound       float64
	way         way
}

// Numbers of the search over sets of postures.
const (
	mostBlocks = 13  // of more postures the ones that earn least are left out
	allSteps   = 300 // of the prices of all postures
	roughSteps = 16  // of a set's prices before its opener and closer are known
	fieldSteps = 60  // ... and with them
	roughWay   = 250 // about the seconds of opener, closer and way before they are known
	eager      = 0.9 // the profit that makes a column e times as likely to be drawn
)

// everything is the field of all postures, at its prices.
func (s *Search) everything() *field {
	f := &field{columns: s.sorted}
	for i := range s.m.Blocks {
		f.mask |= 1 << i
	}
	for _, col := range f.columns {
		f.dirs |= s.m.Items[col].Dirs
	}
	x := s.relaxation
	x.at = prices{second: 0.005, minute: slices.Clone(s.m.Weight), row: make([]float64, len(s.m.Rows))}
	x.begin(f, nil)
	x.improve(allSteps, 1)
	x.settle()
	f.weigh()
	return f
}

// postures is a set of them, and what a session in them is worth at most.
type postures struct {
	mask  uint32
	bound float64
}

// endWorth is what an end is worth, and what it keeps from the body when its posture is visited.
type endWorth struct {
	v    float64
	own  []float64
	in   []int
	dirs uint8
}

type endWorths []endWorth

// endWorths are what openers or closers are worth at the prices of all postures.
func (s *Search) endWorths(all *field, list []End) (out endWorths) {
	for i := range list {
		w := endWorth{v: s.worth(all, &list[i]), dirs: list[i].Dirs}
		for _, c := range list[i].Cands {
			if b := all.best[c]; b > 0 {
				w.v += all.profit[b-1]
				w.own = append(w.own, all.profit[b-1])
				w.in = append(w.in, s.m.Items[all.columns[b-1]].Block)
			}
		}
		out = append(out, w)
	}
	return out
}

// top is the most that one of them can add to the postures of a set.
func (list endWorths) top(mask uint32) float64 {
	best := math.Inf(-1)
	for i := range list {
		v := list[i].v
		for k, own := range list[i].own {
			if mask>>list[i].in[k]&1 == 1 {
				v -= own
			}
		}
		best = math.Max(best, v)
	}
	return best
}

// dirs are the directions any of them visits.
func (list endWorths) dirs() (out uint8) {
	for i := range list {
		out |= list[i].dirs
	}
	return out
}

// sets bounds every set of postures at the prices of all of them, and lists those that may
// be above the best known value, the most promising first.
func (s *Search) sets(all *field) (out []postures) {
	m := s.m
	must := uint32(0)
	for _, col := range s.locked {
		must |= 1 << m.Items[col].Block
	}
	blocks := s.bestBlocks(all)
	earns, dirs := make([]float64, len(m.Blocks)), make([]uint8, len(m.Blocks))
	base := all.base
	for _, col := range all.columns {
		dirs[m.Items[col].Block] |= m.Items[col].Dirs
	}
	for _, b := range all.best {
		if b > 0 {
			earns[m.Items[all.columns[b-1]].Block] += all.profit[b-1]
			base -= all.profit[b-1]
		}
	}
	opens, closes := s.endWorths(all, m.Opens), s.endWorths(all, m.Closes)
	endDirs := opens.dirs() | closes.dirs()
	asks := s.asks()
	for sub := uint32(0); sub < 1<<len(blocks); sub++ {
		mask := uint32(0)
		for rest := sub; rest != 0; rest &= rest - 1 {
			mask |= 1 << blocks[bits.TrailingZeros32(rest)]
		}
		if mask&must != must || mask == 0 || !s.visitable(mask) || !s.fulfils(mask, asks) {
			continue
		}
		bound := base + opens.top(mask) + closes.top(mask)
		visited := endDirs
		far := 0.0 // no way is cheaper than there and back
		for rest := mask; rest != 0; rest &= rest - 1 {
			b := bits.TrailingZeros32(rest)
			bound += earns[b]
			visited |= dirs[b]
			home := len(m.Blocks)
			far = math.Max(far, s.low.from(home, b, all.prices.second)+s.low.from(b, home, all.prices.second))
		}
		if !m.sequences() {
			bound -= far
		}
		for k, v := range all.prices.visit {
			if visited>>k&1 == 1 {
				bound += s.m.Terms.Direction - v
			}
		}
		if bound > s.value {
			out = append(out, postures{mask, bound})
		}
	}
	sort.SliceStable(out, func(i, k int) bool { return out[i].bound > out[k].bound })
	return out
}

// asks are the postures that hold something of each row that asks for something no opener or closer
// brings.
func (s *Search) asks() (out []uint32) {
	m := s.m
	for k := range m.Rows {
		r, mask, ends := &m.Rows[k], uint32(0), false
		for _, list := range [][]End{m.Opens, m.Closes} {
			for i := range list {
				ends = ends || list[i].Rows[k] > 0
			}
		}
		for col, by := range r.Items {
			if by > 0 {
				mask |= 1 << m.Items[col].Block
			}
		}
		if r.Least > 0 && !ends && r.Soft == 0 {
			out = append(out, mask)
		}
	}
	return out
}

// fulfils tells whether a set of postures holds something of all that is asked for.
func (s *Search) fulfils(mask uint32, asks []uint32) bool {
	for _, a := range asks {
		if mask&a == 0 {
			return false
		}
	}
	return true
}

// visitable tells whether a set of postures holds no posture twice.
func (s *Search) visitable(mask uint32) bool {
	for rest := mask; rest != 0; rest &= rest - 1 {
		if s.m.Blocks[bits.TrailingZeros32(rest)].Peers&mask != 0 {
			return false
		}
	}
	return true
}

// bestBlocks are the postures whose items earn most at the prices of all postures.
func (s *Search) bestBlocks(all *field) []int {
	m := s.m
	worth := make([]float64, len(m.Blocks))
	used := make([]bool, len(m.Blocks))
	for _, col := range all.columns {
		used[m.Items[col].Block] = true
	}
	for _, b := range all.best {
		if b > 0 {
			worth[m.Items[all.columns[b-1]].Block] += all.profit[b-1]
		}
	}
	var out []int
	for b := range m.Blocks {
		if used[b] {
			out = append(out, b)
		}
	}
	sort.SliceStable(out, func(i, k int) bool { return worth[out[i]] > worth[out[k]] })
	return out[:min(len(out), mostBlocks)]
}

// price finds the prices of a field and the best opener and closer in it; ok is false when
// nothing in it is better than the best known session.
func (s *Search) price(f *field, start *prices) (best pair, ok bool) {
	x := s.relaxation
	x.at.copy(start)
	x.begin(f, nil)
	above := func() bool {
		x.settle()
		l := s.pairsAbove(f, s.value, 1)
		if l == nil {
			return false
		}
		best = l[0]
		return true
	}
	for _, steps := range [2]int{0, roughSteps} {
		x.improve(steps, 0.5)
		if !above() {
			return best, false
		}
	}
	x.begin(f, &best)
	x.improve(fieldSteps, 0.5)
	return best, above()
}

// gather lists the columns of a field; ok is false when a posture would stay empty, a
// locked item is too hard or none is as hard as the turn says.
func (f *field) gather(s *Search) bool {
	filled, hardest := uint32(0), !f.turns()
	for _, i := range s.sorted {
		c := &s.m.Items[i]
		if f.mask>>c.Block&1 == 0 {
			continue
		}
		if f.turn != nil && c.Effort > f.turn.effort {
			if c.Locked {
				return false
			}
			continue
		}
		hardest = hardest || c.Block == f.turn.hard && f.turn.takes(c.Effort, s.m.Terms.Gentle)
		filled |= 1 << c.Block
		f.dirs |= c.Dirs
		f.columns = append(f.columns, i)
	}
	return filled == f.mask && hardest
}

// worth is what an end is worth at the prices of the field, less what it keeps from the
// body.
func (s *Search) worth(f *field, e *End) float64 {
	p := &f.prices
	v := e.Value - e.Price - p.second*float64(e.Seconds) - p.fresh*float64(e.Fresh)
	for a, x := range e.Credit {
		v += p.minute[a] * x
	}
	for mask := e.Dirs; mask != 0; mask &= mask - 1 {
		v += p.visit[bits.TrailingZeros8(mask)]
	}
	for k, price := range p.row {
		v += price * e.Rows[k]
	}
	for _, c := range e.Cands {
		if b := f.best[c]; b > 0 {
			v -= f.profit[b-1]
		}
	}
	for _, i := range e.Families {
		v -= f.family[i]
	}
	return v
}

// pairsAbove lists the openers and closers whose bound in the field is above a value, the
// best n of them, best first.
func (s *Search) pairsAbove(f *field, least float64, n int) (out []pair) {
	m := s.m
	second := f.prices.second
	back := m.onBack(f.mask)
	perOpen, perClose := 0.0, 0.0
	if f.turns() {
		perOpen = f.prices.early*(1-s.m.Terms.HardFrom) - f.prices.late*(1-s.m.Terms.HardTo)
		perClose = f.prices.late*s.m.Terms.HardTo - f.prices.early*s.m.Terms.HardFrom
	}
	closes := make([]float64, len(m.Closes))
	for c := range m.Closes {
		e := &m.Closes[c]
		closes[c] = s.worth(f, e) - m.Out[e.Last].Price - second*float64(
			m.Out[e.Last].Seconds) + perClose*float64(len(e.Cands))
	}
	for i := range s.fars {
		s.fars[i] = -1
	}
	type blocks struct{ first, last int }
	ways := map[blocks]way{}
	for o := range m.Opens {
		a := &m.Opens[o]
		opens := f.base + s.worth(f, a) - m.In[a.First].Price - second*float64(
			m.In[a.First].Seconds) + perOpen*float64(len(a.Cands))
		if m.Blocks[a.Last].Twin == back {
			opens -= f.prices.back * float64(a.SupineTail)
		}
		for c := range m.Closes {
			b := &m.Closes[c]
			v := opens + closes[c]
			for k := range 6 {
				if (f.dirs|a.Dirs|b.Dirs)>>k&1 == 1 {
					v += s.m.Terms.Direction - f.prices.visit[k]
				}
			}
			enough := least
			if len(out) == n {
				enough = math.Max(least, out[n-1].bound)
			}
			if v-s.far(f.mask, a.Last, b.First, second) <= enough || a.shares(b) {
				continue
			}
			w, known := ways[blocks{a.Last, b.First}]
			if !known || a.Rises+b.Rises > 0 {
				var ok bool
				if w, ok = s.wayOf(f, a, b); !ok {
					w.price = math.Inf(1)
				}
				ways[blocks{a.Last, b.First}] = w
			}
			if v -= w.price + second*float64(w.seconds); v <= enough || math.IsInf(v, -1) {
				continue
			}
			at := sort.Search(len(out), func(i int) bool { return out[i].bound < v })
			out = slices.Insert(out, at, pair{o, c, v, w})
			out = out[:min(n, len(out))]
		}
	}
	return out
}

// far is a bound on a way through postures: none is cheaper than to the farthest of them
// and on to the end, by whatever other postures.
func (s *Search) far(mask uint32, first, end int, second float64) (far float64) {
	known := &s.fars[first*len(s.m.Blocks)+end]
	if far = *known; far >= 0 {
		return far
	}
	far = 0
	for rest := mask; rest != 0; rest &= rest - 1 {
		b := bits.TrailingZeros32(rest)
		far = math.Max(far, s.low.from(first, b, second)+s.low.from(b, end, second))
	}
	*known = far
	return far
}

// wayOf is the cheapest way through a field between an opener and a closer.
func (s *Search) wayOf(f *field, a, b *End) (w way, ok bool) {
	set := s.routes.set(f.mask|1<<a.Last, a.Last, b.First)
	if set == nil {
		return w, false
	}
	left := min(s.m.MaxRises-a.Rises-b.Rises-b2i(s.m.Out[b.Last].Rise), set.deep-1)
	if left < 0 {
		return w, false
	}
	if f.turns() {
		if f.mask&^f.turn.upto>>a.Last&1 == 1 {
			return w, false // the opener's posture comes first
		}
		return set.turningAt(f.turn, left)
	}
	return set.free(left)
}

// onBack is the block on the back of a set of postures, where a stretch on the back is
// bounded; -1 when there is none or no bound.
func (m *Model) onBack(mask uint32) int {
	if m.MaxSupine > 0 {
		for rest := mask; rest != 0; rest &= rest - 1 {
			if b := bits.TrailingZeros32(rest); m.Blocks[b].Supine {
				return b
			}
		}
	}
	return -1
}

// hardest lists the columns of a field of which one must be in it, and what each loses at
// its prices against the best choice, the least first; none when some may be missing or the
// best body has one.
func (f *field) hardest(m *Model) (out []instead) {
	if !f.turns() {
		return nil
	}
	for k, col := range f.columns {
		c := &m.Items[col]
		if c.Block != f.turn.hard || !f.turn.takes(c.Effort, m.Terms.Gentle) {
			continue
		}
		in := instead{loss: -f.profit[k], cand: c.Cand, was: -1, then: col}
		if b := f.best[c.Cand]; b > 0 {
			in.loss += f.profit[b-1]
			in.was = f.columns[b-1]
		}
		if in.was == col {
			return nil
		}
		out = append(out, in)
	}
	sort.SliceStable(out, func(i, k int) bool { return out[i].loss < out[k].loss })
	return out
}

// cases are the parts of a field by where its hardest item lies, and those by how hard it
// is.
func (s *Search) cases(f *field) (out []field) {
	m := s.m
	var efforts [MaxBlocks][11]bool
	for _, col := range f.columns {
		if c := &m.Items[col]; c.Effort > s.m.Terms.Gentle {
			efforts[c.Block][c.Effort] = true
		}
	}
	offer := func(t turn) {
		if c := (field{mask: f.mask, turn: &t}); c.gather(s) {
			out = append(out, c)
		}
	}
	if f.turn != nil {
		for e, some := range efforts[f.turn.hard] {
			if some {
				offer(turn{f.turn.hard, f.turn.upto, e, true})
			}
		}
		return out
	}
	offer(turn{hard: -1, effort: s.m.Terms.Gentle})
	for hard := range m.Blocks {
		others := f.mask &^ (1 << hard)
		top := 0
		for e, some := range efforts[hard] {
			if some {
				top = e
			}
		}
		if f.mask>>hard&1 == 0 || top == 0 {
			continue
		}
		for sub := others; ; sub = (sub - 1) & others {
			if s.inOrder(f.mask, hard, sub|1<<hard) {
				offer(turn{hard, sub | 1<<hard, top, false})
			}
			if sub == 0 {
				break
			}
		}
	}
	return out
}

// inOrder tells whether the school may let some postures come before the others, one of
// them last; the opener's posture, whichever it is, is free of the school.
func (s *Search) inOrder(mask uint32, last int, upto uint32) bool {
	against := 0
	for rest := upto; rest != 0; rest &= rest - 1 {
		a := bits.TrailingZeros32(rest)
		wrong := s.m.Blocks[last].Tier < s.m.Blocks[a].Tier
		for after := mask &^ upto; after != 0; after &= after - 1 {
			wrong = wrong || s.m.Blocks[bits.TrailingZeros32(after)].Tier < s.m.Blocks[a].Tier
		}
		against += b2i(wrong)
	}
	return against <= 1
}

// oddsBits is the size of the table of odds.
const oddsBits = 10

// weigh makes columns the likelier the more they earn.
func (f *field) weigh() {
	total := 0.0
	if len(f.columns) == 0 {
		return
	}
	weight := func(k int) float64 { return math.Exp(math.Max(-5, math.Min(3, f.profit[k]/eager))) }
	for k := range f.columns {
		total += weight(k)
	}
	f.odds = make([]uint16, 1<<oddsBits)
	k, sum := 0, weight(0)
	for i := range f.odds {
		for k < len(f.columns)-1 && sum < (float64(i)+0.5)/float64(len(f.odds))*total {
			k++
			sum += weight(k)
		}
		f.odds[i] = uint16(k)
	}
}
