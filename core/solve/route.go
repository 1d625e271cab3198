package solve

import (
	"math"
	"math/bits"
)

// Routing is exact: for a set of blocks, a first block and the closer's block, the
// cheapest order of visiting them is found over all subsets, once, and remembered.

// routes remembers the route sets of one model.
type routes struct {
	m      *Model
	memo   map[routeKey]*routeSet
	counts bool // whether rises have to be counted
	deep   int  // levels of the tables: one for each number of rises, or one

	amounts [][]amount // of each column, in the rows where it counts
}

type routeKey struct {
	mask       uint32
	first, end uint8
}

// leg is the best way to do one part of a route.
type leg struct {
	price   float64
	seconds int32
	via     int8 // the block before (forwards) or after (backwards), -1 none
}

var noLeg = leg{price: math.Inf(1), via: -1}

// routeSet is every best way through one set of blocks: forwards from the first block
// over a subset to a last one, and backwards from a block over a subset to the closer.
type routeSet struct {
	ids      []int // of the blocks; the first block leads
	k, deep  int
	counts   bool
	forward  []leg  // [rises][subset][last]
	backward []leg  // [rises][subset][from]
	risen    []bool // whether a step between two blocks rises from the floor
}

func newRoutes(m *Model) *routes {
	rs := &routes{m: m, memo: map[routeKey]*routeSet{}, deep: 1, amounts: m.amounts()}
	grounds := map[int]bool{}
	for _, b := range m.Blocks {
		if b.Ground != 0 {
			grounds[b.Ground] = true
		}
	}
	// On one ground the tiers allow two rises at most: one in the body, one at the end. A
	// fixed sequence may bring its own.
	if m.MaxRises < 3 || len(grounds) > 1 || len(m.Opens)+len(m.Closes) > 0 && m.sequences() {
		rs.counts, rs.deep = true, m.MaxRises+1
	}
	return rs
}

func (m *Model) sequences() bool {
	for _, list := range [][]End{m.Opens, m.Closes} {
		for i := range list {
			if list[i].Rises > 0 {
				return true
			}
		}
	}
	return false
}

func (s *routeSet) at(table []leg, rises, subset, block int) *leg {
	return &table[(rises<<s.k+subset)*s.k+block]
}

// set finds or works out the route set, nil when the blocks cannot be visited together.
func (rs *routes) set(mask uint32, first, end int) *routeSet {
	key := routeKey{mask, uint8(first), uint8(end)}
	s, known := rs.memo[key]
	if !known {
		s = rs.solve(mask, first, end)
		rs.memo[key] = s
	}
	return s
}

func (rs *routes) solve(mask uint32, first, end int) *routeSet {
	m := rs.m
	s := &routeSet{ids: []int{first}, deep: rs.deep, counts: rs.counts}
	for rest := mask &^ (1 << first); rest != 0; rest &= rest - 1 {
		s.ids = append(s.ids, bits.TrailingZeros32(rest))
	}
	for _, id := range s.ids {
		if m.Blocks[id].Peers&mask != 0 {
			return nil // one posture on two grounds
		}
	}
	if m.Blocks[end].Peers&mask&^(1<<first) != 0 {
		return nil
	}
	s.k = len(s.ids)
	size := s.deep << s.k * s.k
	s.forward, s.backward = make([]leg, size), make([]leg, size)
	for i := range s.forward {
		s.forward[i], s.backward[i] = noLeg, noLeg
	}
	s.risen = make([]bool, s.k*s.k)
	for i, a := range s.ids {
		for j, b := range s.ids {
			s.risen[i*s.k+j] = m.Arcs[a][b].Rise
		}
	}
	s.fillForward(rs)
	s.fillBackward(rs, mask, first, end)
	return s
}

// step is the way of going from one block of the set to another; ok is false when the
// order school forbids it. Only the first block is left free of the school.
func (s *routeSet) step(rs *routes, from, to int) (a Arc, ok bool) {
	a = rs.m.Arcs[s.ids[from]][s.ids[to]]
	return a, a.OK && rs.m.Allowed(s.ids[from], s.ids[to], from == 0)
}

// improve offers a way to a table's cell at its number of rises; cells of more rises
// inherit it.
func (s *routeSet) improve(table []leg, rises, subset, block int, l leg) {
	for r := rises; r < s.deep; r++ {
		if c := s.at(table, r, subset, block); l.price < c.price {
			*c = l
		}
	}
}

func (s *routeSet) rise(a Arc) int {
	return b2i(s.counts && a.Rise)
}

func (s *routeSet) fillForward(rs *routes) {
	s.improve(s.forward, 0, 1, 0, leg{via: -1})
	full := 1<<s.k - 1
	for subset := 1; subset <= full; subset += 2 { // the first block is always in
		for last := 0; last < s.k; last++ {
			if subset>>last&1 == 0 {
				continue
			}
			for to := 1; to < s.k; to++ {
				if subset>>to&1 == 1 {
					continue
				}
				a, ok := s.step(rs, last, to)
				if !ok {
					continue
				}
				for r := 0; r+s.rise(a) < s.deep; r++ {
					from := *s.at(s.forward, r, subset, last)
					if math.IsInf(from.price, 1) {
						continue
					}
					s.improve(s.forward, r+s.rise(a), subset|1<<to, to,
						leg{from.price + a.Price, from.seconds + int32(a.Seconds), int8(last)})
				}
			}
		}
	}
}

func (s *routeSet) fillBackward(rs *routes, mask uint32, first, end int) {
	for i, id := range s.ids {
		switch {
		case id == end:
			s.improve(s.backward, 0, 1<<i, i, leg{via: -1})
		case mask>>end&1 == 0 || end == first:
			a := rs.m.Arcs[id][end]
			if !a.OK {
				continue
			}
			s.improve(s.backward, s.rise(a), 1<<i, i, leg{a.Price, int32(a.Seconds), -1})
		}
	}
	full := 1<<s.k - 1
	for subset := 1; subset <= full; subset++ {
		for from := 0; from < s.k; from++ {
			if subset>>from&1 == 1 || subset&1 == 1 {
				continue // nothing comes before a subset that holds the first block
			}
			for to := 1; to < s.k; to++ {
				if subset>>to&1 == 0 {
					continue
				}
				a, ok := s.step(rs, from, to)
				if !ok {
					continue
				}
				for r := 0; r+s.rise(a) < s.deep; r++ {
					rest := *s.at(s.backward, r, subset, to)
					if math.IsInf(rest.price, 1) {
						continue
					}
					s.improve(s.backward, r+s.rise(a), subset|1<<from, from,
						leg{rest.price + a.Price, rest.seconds + int32(a.Seconds), int8(to)})
				}
			}
		}
	}
}

// way is a whole route: its price and seconds, and where it turns: the block with the
// hardest work, the blocks before it and the rises before it. Hard is -1 for no bound on
// the place of the hardest work.
type way struct {
	price   float64
	seconds int
	hard    int
	before  int
	rises   int
}

// free is the cheapest route wherever the hardest work comes. The rises are those left.
func (s *routeSet) free(rises int) (best way, ok bool) {
	best.price = math.Inf(1)
	full := 1<<s.k - 1
	l := *s.at(s.backward, rises, full, 0)
	return way{price: l.price, seconds: int(l.seconds), hard: -1}, !math.IsInf(l.price, 1)
}

// turning is the cheapest route on which the block hard comes after exactly such blocks
// that its last body item is at a place between lo and hi (items counted from 1).
func (s *routeSet) turning(hard int, counts []int, lo, hi float64, rises int, best *way) {
	full := 1<<s.k - 1
	base := counts[hard]
	others := full &^ (1 << hard)
	if hard != 0 {
		others &^= 1 // the first block always comes before
		base += counts[0]
	}
	for sub := others; ; sub = (sub - 1) & others {
		n := base
		for rest := sub; rest != 0; rest &= rest - 1 {
			n += counts[bits.TrailingZeros(uint(rest))]
		}
		if at := float64(n); at >= lo && at <= hi && (hard != 0 || sub == 0) {
			before := sub
			if hard != 0 {
				before |= 1
			}
			for r := 0; r <= rises; r++ {
				f := s.at(s.forward, r, before|1<<hard, hard)
				if math.IsInf(f.price, 1) {
					continue
				}
				b := s.at(s.backward, rises-r, full&^before, hard)
				if p := f.price + b.price; p < best.price {
					*best = way{p, int(f.seconds + b.seconds), hard, before, r}
				}
			}
		}
		if sub == 0 {
			break
		}
	}
}

// turningAt is the cheapest route on which the hardest item's block comes right after the
// others up to the turn; ok is false when there is none.
func (s *routeSet) turningAt(t *turn, rises int) (best way, ok bool) {
	hard, upto := -1, 1 // the first block always comes before
	for i, id := range s.ids {
		if id == t.hard {
			hard = i
		}
		upto |= int(t.upto>>id&1) << i
	}
	best.price = math.Inf(1)
	if hard < 0 || hard == 0 && upto != 1 {
		return best, false
	}
	full := 1<<s.k - 1
	before := upto &^ (1 << hard)
	for r := 0; r <= rises; r++ {
		f, b := s.at(s.forward, r, upto, hard), s.at(s.backward, rises-r, full&^before, hard)
		if p := f.price + b.price; p < best.price {
			best = way{p, int(f.seconds + b.seconds), hard, before, r}
		}
	}
	return best, !math.IsInf(best.price, 1)
}

// order lists the blocks of a route as it is walked.
func (s *routeSet) order(w way, rises int) []int {
	full := 1<<s.k - 1
	var out []int
	forwards := func(r, subset, last int) []int {
		var rev []int
		for last >= 0 {
			l := *s.at(s.forward, r, subset, last)
			rev = append(rev, last)
			subset &^= 1 << last
			if l.via >= 0 {
				r = s.spent(r, int(l.via), last)
			}
			last = int(l.via)
		}
		for i := len(rev) - 1; i >= 0; i-- {
			out = append(out, rev[i])
		}
		return out
	}
	backwards := func(r, subset, from int) {
		for from >= 0 {
			l := *s.at(s.backward, r, subset, from)
			out = append(out, from)
			subset &^= 1 << from
			if l.via >= 0 {
				r = s.spent(r, from, int(l.via))
			}
			from = int(l.via)
		}
	}
	if w.hard < 0 {
		backwards(rises, full, 0)
	} else {
		forwards(w.rises, w.before|1<<w.hard, w.hard)
		out = out[:len(out)-1]
		backwards(rises-w.rises, full&^w.before, w.hard)
	}
	for i, k := range out {
		out[i] = s.ids[k]
	}
	return out
}

// spent is the number of rises left after a step.
func (s *routeSet) spent(r, from, to int) int {
	return r - b2i(s.counts && s.risen[from*s.k+to])
}
