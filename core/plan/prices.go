package plan

import (
	"math"
	"math/bits"
	"slices"
	"sort"
)

// Prices rank the items before any search: a second, a strong item and a new item cost
// what they keep others from, a minute of an aim is worth what the aim still lacks. They
// are the multipliers of the Lagrangian relaxation that leaves time, numbers and aims to
// their prices, found by subgradient steps for one set of postures.
type prices struct {
	second, strong, fresh float64
	minute                []float64 // by aim
	profit                []float64 // by column of the field
	best                  []int     // index + 1 into the field by candidate, 0 none
	served                []float64
}

// field is a set of postures, in the gentle regime (no item above gentle effort, and so no
// rule for the hardest) or not: what may be chosen there, and how good it can get.
type field struct {
	mask    uint32
	gentle  bool
	columns []int
	prices  prices
	promise float64  // the value of the relaxation, less the price of the way
	ends    []pair   // the best openers and closers, best first
	odds    []uint16 // indexes of columns, each as often as it is likely
}

// pair is an opener and a closer, and what they are worth less the way.
type pair struct {
	open, close int
	worth       float64
}

const (
	fieldSteps = 24
	firstStep  = 0.25
	secondTop  = 0.05 // points a second may cost at most
	numberTop  = 3    // points a place among the strong or new items may cost at most
	eager      = 0.9  // the profit that makes a column e times as likely
)

// prepare finds the prices of a field and its promise for so many seconds.
func (f *field) prepare(m *Model, room float64, scratch *prices) {
	p := scratch
	p.second, p.strong, p.fresh = 0.005, 0, 0
	copy(p.minute, m.Weight)
	dual := math.Inf(1)
	for step := range fieldSteps {
		clear(p.best)
		clear(p.served)
		for k, col := range f.columns {
			c := &m.Items[col]
			v := p.of(c)
			p.profit[k] = v
			if b := p.best[c.cand]; v > 0 && (b == 0 || v > p.profit[b-1]) || c.locked {
				p.best[c.cand] = k + 1
			}
		}
		value, seconds, strong, fresh := 0.0, 0.0, 0.0, 0.0
		for _, b := range p.best {
			if b == 0 {
				continue
			}
			c := &m.Items[f.columns[b-1]]
			value += p.profit[b-1]
			seconds += float64(c.seconds)
			strong += float64(b2i(c.strong))
			fresh += float64(b2i(c.fresh))
			for a, x := range c.credit {
				p.served[a] += x
			}
		}
		least := room - float64(m.Most-m.Least)
		value += math.Max(p.second, 0)*room + math.Min(p.second, 0)*least + p.strong*float64(m.MaxStrong)
		if m.MaxFresh >= 0 {
			value += p.fresh * float64(m.MaxFresh)
		}
		for a, t := range m.Target {
			value += math.Max(0, m.Weight[a]-p.minute[a])*t + math.Max(0, secondHalf*m.Weight[a]-p.minute[a])*secondHalf*t
		}
		dual = math.Min(dual, value)
		pace := firstStep / (1 + 0.15*float64(step))
		move := func(price, excess, scale, low, high float64) float64 {
			return math.Min(high, math.Max(low, price+pace*high*math.Max(-1, math.Min(1, excess/scale))))
		}
		wanted := room
		if p.second < 0 {
			wanted = least
		}
		p.second = move(p.second, seconds-wanted, 0.3*room, -shortPoints, secondTop)
		p.strong = move(p.strong, strong-float64(m.MaxStrong), float64(m.MaxStrong), 0, numberTop)
		if m.MaxFresh >= 0 {
			p.fresh = move(p.fresh, fresh-float64(m.MaxFresh), 3, 0, numberTop)
		}
		for a, x := range p.served {
			t, wish := m.Target[a], m.Weight[a]
			switch {
			case x > (1+secondHalf)*t:
				wish = 0
			case x > t:
				wish *= secondHalf
			}
			p.minute[a] += 1.2 * pace * (wish - p.minute[a])
		}
	}
	f.promise = dual
}

// of is what a column earns at these prices.
func (p *prices) of(c *column) float64 {
	v := c.value - p.second*float64(c.seconds)
	for a, x := range c.credit {
		v += p.minute[a] * x
	}
	if c.strong {
		v -= p.strong
	}
	if c.fresh {
		v -= p.fresh
	}
	return v
}

// mostFieldBlocks bounds the sets of postures that are priced: of more postures the ones
// that earn least are left to the last rounds of the search.
const mostFieldBlocks = 8

// fields prices every set of postures and returns the most promising ones.
func (s *Search) fields() []field {
	m := s.m
	scratch := prices{minute: make([]float64, len(m.Aims)), profit: make([]float64, len(m.Items)), best: make([]int, len(m.cands)), served: make([]float64, len(m.Aims))}
	must := uint32(0)
	for _, col := range s.locked {
		must |= 1 << m.Items[col].block
	}
	blocks := s.bestBlocks(&scratch)
	s.listed = s.listed[:0]
	for b := range m.blocks {
		s.listed = append(s.listed, b)
	}
	sort.SliceStable(s.listed, func(i, k int) bool {
		a, b := &m.blocks[s.listed[i]], &m.blocks[s.listed[k]]
		return a.tier < b.tier || a.tier == b.tier && a.rank < b.rank
	})
	var out []field
	for sub := uint32(0); sub < 1<<len(blocks); sub++ {
		mask := must
		for rest := sub; rest != 0; rest &= rest - 1 {
			mask |= 1 << blocks[bits.TrailingZeros32(rest)]
		}
		if bits.OnesCount32(mask) != bits.OnesCount32(sub)+bits.OnesCount32(must) || mask == 0 || !s.visitable(mask) {
			continue
		}
		for _, soft := range []bool{false, true} {
			f := field{mask: mask, gentle: soft}
			if f.gather(s) {
				f.prepare(m, float64(m.Most)-roughWay, &scratch)
				f.promise += s.visible(&f) - s.rough(mask)
				out = append(out, f)
			}
		}
	}
	sort.SliceStable(out, func(i, k int) bool { return out[i].promise > out[k].promise })
	var kept []field
	for _, f := range out {
		if len(kept) == fieldsWeighed {
			break
		}
		f.prepare(m, float64(m.Most)-roughWay, &scratch)
		if !s.bestEnds(&f, &scratch, 1) {
			continue
		}
		f.prices = prices{minute: append([]float64(nil), scratch.minute...), profit: make([]float64, len(f.columns)), best: make([]int, len(m.cands)), served: make([]float64, len(m.Aims))}
		f.prepare(m, s.room(&f), &f.prices)
		s.bestEnds(&f, &f.prices, endsTried)
		f.promise += s.visible(&f)
		f.weigh()
		kept = append(kept, f)
	}
	return kept
}

// beginning is a field with one of its openers and closers.
type beginning struct {
	field   *field
	ends    pair
	promise float64
}

// beginnings are the most promising ways to begin in all the fields.
func beginnings(fields []field, n int) (out []beginning) {
	for i := range fields {
		for _, p := range fields[i].ends {
			out = append(out, beginning{&fields[i], p, fields[i].promise + p.worth})
		}
	}
	sort.SliceStable(out, func(i, k int) bool { return out[i].promise > out[k].promise })
	return out[:min(n, len(out))]
}

// visitable tells whether a set of postures holds no posture twice and whether some opener
// leaves it free.
func (s *Search) visitable(mask uint32) bool {
	for rest := mask; rest != 0; rest &= rest - 1 {
		if s.m.blocks[bits.TrailingZeros32(rest)].peers&mask != 0 {
			return false
		}
	}
	return slices.ContainsFunc(s.m.opens, func(e end) bool { return mask&(e.inner|e.shut)&^(1<<e.last) == 0 })
}

// fieldsWeighed is how many fields are weighed with their exact way; roughWay is about the
// seconds of opener, closer and way before they are known.
const (
	fieldsWeighed = 32
	roughWay      = 250
)

// rough is about the price of the way through a set of postures: in the order of the
// school's list.
func (s *Search) rough(mask uint32) float64 {
	m := s.m
	price, at := 0.0, -1
	for _, b := range s.listed {
		if mask>>b&1 == 0 {
			continue
		}
		if at < 0 {
			price += m.in[b].price
		} else {
			price += m.arcs[at][b].price
		}
		at = b
	}
	if at >= 0 {
		price += m.out[at].price
	}
	return price
}

// gather lists the columns of a field; ok is false when a posture would stay empty or a
// locked item is too hard.
func (f *field) gather(s *Search) bool {
	filled, hard := uint32(0), false
	for i := range s.m.Items {
		c := &s.m.Items[i]
		if f.mask>>c.block&1 == 0 {
			continue
		}
		if f.gentle && c.effort > gentle {
			if c.locked {
				return false
			}
			hard = true
			continue
		}
		hard = hard || c.effort > gentle
		filled |= 1 << c.block
		f.columns = append(f.columns, i)
	}
	return filled == f.mask && (hard || f.gentle) && (!f.gentle || hard)
}

// bestBlocks are the postures whose items earn most at the prices of all postures.
func (s *Search) bestBlocks(scratch *prices) []int {
	m := s.m
	all := field{}
	worth := make([]float64, len(m.blocks))
	for i := range m.Items {
		all.columns = append(all.columns, i)
	}
	all.prepare(m, float64(m.Most)-120, scratch)
	used := make([]bool, len(m.blocks))
	for k, col := range all.columns {
		used[m.Items[col].block] = true
		if b := scratch.best[m.Items[col].cand]; b == k+1 {
			worth[m.Items[col].block] += scratch.profit[k]
		}
	}
	var out []int
	for b := range m.blocks {
		if used[b] {
			out = append(out, b)
		}
	}
	sort.SliceStable(out, func(i, k int) bool { return worth[out[i]] > worth[out[k]] })
	out = out[:min(len(out), mostFieldBlocks)]
	return out
}

// endsTried is how many pairs of opener and closer a field is begun with.
const endsTried = 5

// bestEnds chooses the openers and the closers that suit a field best at its prices: what
// they bring, less what they keep from the body and the way; false when none does.
func (s *Search) bestEnds(f *field, p *prices, n int) bool {
	m := s.m
	earns := make(map[int]float64, len(m.cands)) // of a candidate in the body
	if p != nil {
		for k, col := range f.columns {
			if v := p.profit[k]; v > 0 {
				earns[m.Items[col].cand] = math.Max(earns[m.Items[col].cand], v)
			}
		}
	}
	worth := func(e *end) float64 {
		v := e.value - e.price
		for a, x := range e.credit {
			if p == nil {
				v += m.Weight[a] * x
			} else {
				v += p.minute[a] * x
			}
		}
		if p != nil {
			v -= p.second*float64(e.seconds) + p.fresh*float64(e.fresh)
		}
		for _, c := range e.cands {
			v -= earns[c]
		}
		return v
	}
	closes := make([]float64, len(m.closes))
	for c := range m.closes {
		closes[c] = worth(&m.closes[c]) - m.out[m.closes[c].last].price
	}
	f.ends = f.ends[:0]
	type blocks struct{ first, last int }
	ways := map[blocks]float64{}
	for o := range m.opens {
		a := &m.opens[o]
		if f.mask&(a.inner|a.shut)&^(1<<a.last) != 0 {
			continue
		}
		opens := worth(a) - m.in[a.first].price
		for c := range m.closes {
			b := &m.closes[c]
			v := opens + closes[c]
			if a.clashes(b) || len(f.ends) == n && v <= f.ends[n-1].worth {
				continue
			}
			price, known := ways[blocks{a.last, b.first}]
			if !known || a.rises+b.rises > 0 {
				price = math.Inf(1)
				if w, ok := s.wayOf(f, a, b); ok {
					price = w.price
				}
				ways[blocks{a.last, b.first}] = price
			}
			if v -= price; math.IsInf(v, -1) || len(f.ends) == n && v <= f.ends[n-1].worth {
				continue
			}
			at := sort.Search(len(f.ends), func(i int) bool { return f.ends[i].worth < v })
			f.ends = slices.Insert(f.ends, at, pair{o, c, v})
			f.ends = f.ends[:min(n, len(f.ends))]
		}
	}
	return len(f.ends) > 0
}

// wayOf is the cheapest way through a field between an opener and a closer.
func (s *Search) wayOf(f *field, a, b *end) (w way, ok bool) {
	set := s.routes.set(f.mask|1<<a.last, a.last, b.first)
	if set == nil {
		return w, false
	}
	left := min(s.m.MaxRises-a.rises-b.rises-b2i(s.m.out[b.last].rise), set.deep-1)
	if left < 0 {
		return w, false
	}
	return set.free(left)
}

// room is the seconds that a field's best way, opener and closer leave.
func (s *Search) room(f *field) float64 {
	a, b := &s.m.opens[f.ends[0].open], &s.m.closes[f.ends[0].close]
	w, _ := s.wayOf(f, a, b)
	return float64(s.m.Most - w.seconds - s.m.in[a.first].seconds - s.m.out[b.last].seconds - a.seconds - b.seconds)
}

// visible is what the directions are worth that a field can visit.
func (s *Search) visible(f *field) float64 {
	mask := uint8(0)
	for _, col := range f.columns {
		mask |= s.m.Items[col].dirs
	}
	return directionPoints * float64(bits.OnesCount8(mask))
}

// everything is the field of all postures, at its prices.
func (s *Search) everything() *field {
	m := s.m
	f := &field{columns: s.free, prices: prices{minute: make([]float64, len(m.Aims)), profit: make([]float64, len(m.Items)), best: make([]int, len(m.cands)), served: make([]float64, len(m.Aims))}}
	f.prepare(m, float64(m.Most)-roughWay, &f.prices)
	f.weigh()
	return f
}

// oddsBits is the size of the table of odds.
const oddsBits = 10

// weigh makes columns the likelier the more they earn.
func (f *field) weigh() {
	total := 0.0
	if len(f.columns) == 0 {
		return
	}
	weight := func(k int) float64 { return math.Exp(math.Max(-5, math.Min(3, f.prices.profit[k]/eager))) }
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
