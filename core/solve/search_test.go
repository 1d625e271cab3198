package solve

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// spot is a posture of the test: its height in the order of getting up, and what carries it.
type spot struct{ height, ground int }

var (
	back   = spot{0, 1}
	side   = spot{1, 1}
	front  = spot{2, 2} // on a ground of its own
	fours  = spot{3, 1}
	seated = spot{7, 0}
	stood  = spot{8, 0}
)

// grid is a model of some postures with nothing in them, for routes: changes cost by how far the
// postures are apart, and rising from a ground more.
func grid(rises int, standingFirst bool, spots ...spot) *Model {
	m := &Model{MaxRises: rises, Terms: Terms{Direction: 8, Short: 0.03, Beyond: 0.5, Family: 2, Gentle: 2, HardFrom: 0.4, HardTo: 0.85}}
	change := func(a, b spot) Arc {
		if a == b {
			return Arc{OK: true}
		}
		s := 8 + 2*max(a.height-b.height, b.height-a.height)
		p := 0.0
		if a.ground != b.ground {
			s += 30
			p = 0.6
		}
		return Arc{Seconds: s, Price: p + 0.035*float64(s), Rise: a.ground != 0 && a.ground != b.ground, OK: true}
	}
	for i, p := range spots {
		bl := Block{Twin: i, Tier: p.height, Ground: p.ground, Supine: p == back}
		if standingFirst {
			bl.Tier = (p.height + 1) % 9
		}
		m.Blocks = append(m.Blocks, bl)
		m.In, m.Out = append(m.In, change(stood, p)), append(m.Out, change(p, stood))
	}
	for _, a := range spots {
		var row []Arc
		for _, b := range spots {
			row = append(row, change(a, b))
		}
		m.Arcs = append(m.Arcs, row)
	}
	return m
}

// walk is the price of one order of blocks and then the closer's, and the rises in it;
// ok is false when the school forbids it.
func walk(m *Model, order []int, end int) (price float64, rises int, ok bool) {
	for i := 1; i < len(order); i++ {
		a := m.Arcs[order[i-1]][order[i]]
		fine := m.Allowed(order[i-1], order[i], i == 1)
		if !fine {
			return 0, 0, false
		}
		price += a.Price
		rises += b2i(a.Rise)
	}
	if last := order[len(order)-1]; last != end {
		price += m.Arcs[last][end].Price
		rises += b2i(m.Arcs[last][end].Rise)
	}
	return price, rises, true
}

// orders calls do with every order of the blocks that begins with the first one.
func orders(first int, others []int, do func([]int)) {
	var step func(got []int, left []int)
	step = func(got, left []int) {
		if len(left) == 0 {
			do(got)
			return
		}
		for i, b := range left {
			rest := append(append([]int{}, left[:i]...), left[i+1:]...)
			step(append(append([]int{}, got...), b), rest)
		}
	}
	step([]int{first}, others)
}

// Routes are exact: held against every order written out, with and without a bound on
// rises, for the cheapest order and for the cheapest one that puts a block where its items
// end between two places of the list.
func TestRoutesAgainstEveryOrder(t *testing.T) {
	places := []spot{back, side, fours, seated, stood, front}
	rng := rand.New(rand.NewPCG(7, 7))
	for range 300 {
		rises := rng.IntN(4)
		m := grid(rises, rng.IntN(2) == 0, places...)
		rs := &routes{m: m, memo: map[routeKey]*routeSet{}, counts: true, deep: rises + 1}
		mask := uint32(1 + rng.IntN(1<<len(places)-1))
		var in []int
		for b := range places {
			if mask>>b&1 == 1 {
				in = append(in, b)
			}
		}
		first := in[rng.IntN(len(in))]
		var others []int
		for _, b := range in {
			if b != first {
				others = append(others, b)
			}
		}
		end := rng.IntN(len(places))
		s := rs.set(mask, first, end)
		require.NotNil(t, s)
		counts := make([]int, len(s.ids)) // items of each block
		total := 0
		for i := range counts {
			counts[i] = 1 + rng.IntN(3)
			total += counts[i]
		}
		of := map[int]int{}
		for i, id := range s.ids {
			of[id] = counts[i]
		}
		hard := rng.IntN(len(s.ids))
		hardID := s.ids[hard]
		lo := float64(1 + rng.IntN(total))
		hi := lo + float64(rng.IntN(3))
		cheapest, turning := math.Inf(1), math.Inf(1)
		orders(first, others, func(order []int) {
			p, up, ok := walk(m, order, end)
			inside := mask>>end&1 == 1 && end != first && order[len(order)-1] != end // a posture of the body is no closer's of its own
			if !ok || up > rises || inside {
				return
			}
			cheapest = math.Min(cheapest, p)
			n := 0
			for _, b := range order {
				n += of[b]
				if b == s.ids[hard] {
					break
				}
			}
			if float64(n) >= lo && float64(n) <= hi {
				turning = math.Min(turning, p)
			}
		})
		upto := uint32(1) << hardID
		for _, b := range in {
			if rng.IntN(2) == 0 && b != hardID {
				upto |= 1 << b
			}
		}
		at := math.Inf(1)
		orders(first, others, func(order []int) {
			p, up, ok := walk(m, order, end)
			inside := mask>>end&1 == 1 && end != first && order[len(order)-1] != end
			before := uint32(0)
			for _, b := range order {
				before |= 1 << b
				if b == hardID {
					break
				}
			}
			if ok && up <= rises && !inside && before == upto|1<<first {
				at = math.Min(at, p)
			}
		})
		turned, ok := s.turningAt(&turn{hard: hardID, upto: upto}, rises)
		assert.Equal(t, !math.IsInf(at, 1), ok)
		if ok {
			assert.InDelta(t, at, turned.price, 1e-9, "with these postures up to the hardest")
		}
		w, ok := s.free(rises)
		assert.Equal(t, !math.IsInf(cheapest, 1), ok)
		if ok {
			assert.InDelta(t, cheapest, w.price, 1e-9)
			p, up, fine := walk(m, s.order(w, rises), end)
			assert.True(t, fine)
			assert.InDelta(t, w.price, p, 1e-9, "the order that is told is the one that was priced")
			assert.LessOrEqual(t, up, rises)
		}
		best := way{price: math.Inf(1)}
		s.turning(hard, counts, lo, hi, rises, &best)
		if math.IsInf(turning, 1) {
			assert.True(t, math.IsInf(best.price, 1))
			continue
		}
		assert.InDelta(t, turning, best.price, 1e-9)
		p, _, fine := walk(m, s.order(best, rises), end)
		assert.True(t, fine)
		assert.InDelta(t, best.price, p, 1e-9)
	}
}

// little is a small real model, drawn by seed, with so many candidates of two doses each.
func little(t *testing.T, seed uint64, cands int) *Model {
	t.Helper()
	m := grid(3, false, back, seated, stood)
	m.Least, m.Most, m.MaxFresh = 600, 900, 2
	m.Aims, m.Weight, m.Target = []string{"a", "b"}, []float64{1, 0.5}, []float64{6, 4}
	m.Families = 2
	rng := rand.New(rand.NewPCG(seed, 3))
	for i := range cands {
		m.Candidates++
		for k := range 2 {
			m.Items = append(m.Items, Column{Cand: i, Option: k, Block: i % 3, Family: i%4 - 1 - i%4/3, Effort: 1 + i%5, Seconds: 40 + rng.IntN(120), Fresh: i%6 == 0,
				Credit: []float64{rng.Float64() * 2, rng.Float64()}, Value: rng.Float64() - 0.3, Dirs: uint8(rng.IntN(64))})
		}
	}
	for i := range 3 {
		e := End{Options: []int{0}, First: i, Last: i, Seconds: 30, Credit: []float64{0.1, 0.2}, Value: 0.1, Dirs: 1 << i}
		of := func(cand int) End { // an item takes its family's place and may be new
			c := &m.Items[2*cand]
			e.Cands, e.Families, e.Fresh = []int{cand}, nil, b2i(c.Fresh)
			if c.Family >= 0 {
				e.Families = []int{c.Family}
			}
			return e
		}
		m.Opens = append(m.Opens, of(i))
		m.Closes = append(m.Closes, of(i+3))
	}
	return m
}

// After any steps and any of them taken back, the running sums judge as a fresh count
// does; a bound is never below what it bounds; no item is ever in twice.
func TestRunningSumsAndBounds(t *testing.T) {
	m := little(t, 3, 24)
	s, ok := NewSearch(m)
	require.True(t, ok)
	s.field = s.everything()
	tl := newTally(m, s.routes, Selection{0, 0, nil})
	rng := rand.New(rand.NewPCG(5, 5))
	for range 4000 {
		ch, changed := s.draw(tl)
		if !changed {
			continue
		}
		before, _ := tl.judge()
		bound := tl.bound(&ch)
		ch.apply(tl)
		v, fine := tl.judge()
		require.GreaterOrEqual(t, bound, v-1e-9)
		fresh, freshOK := newTally(m, newRoutes(m), tl.selection()).judge()
		require.InDelta(t, fresh, v, 1e-6)
		require.Equal(t, freshOK, fine)
		cut, _ := tl.judgeAbove(v + 1)
		require.LessOrEqual(t, cut, v+1+1e-9, "stopped early, never promising too much")
		seen := map[int]bool{}
		for _, col := range tl.body {
			require.False(t, seen[m.Items[col].Cand] || tl.uses(m.Items[col].Cand), "an item twice")
			seen[m.Items[col].Cand] = true
		}
		if rng.IntN(3) == 0 {
			ch.undo(tl)
			again, _ := tl.judge()
			require.InDelta(t, before, again, 1e-6)
		}
	}
}

// The search on a small model finds what trying everything near it cannot better, and
// always the same.
func TestTheSearchIsDeterministicAndAtRest(t *testing.T) {
	m := little(t, 3, 24)
	run := func() (Selection, float64) {
		s, ok := NewSearch(m)
		require.True(t, ok)
		s.Run()
		sel, v, ok := s.Best()
		require.True(t, ok)
		return sel, v
	}
	a, v := run()
	b, w := run()
	assert.Equal(t, a, b)
	assert.Equal(t, v, w)
	for out := range a.Body {
		for col := range m.Items {
			sel := Selection{a.Open, a.Close, append([]int{}, a.Body...)}
			sel.Body[out] = col
			if x, ok := m.Value(sel); ok {
				assert.LessOrEqual(t, x, v+1e-9, "one exchange betters it")
			}
		}
	}
}

// row is a row over the columns and the ends of a model: an end counts as its item does.
func (m *Model) row(name string, least, unit float64, by func(*Column) float64) Row {
	r := Row{Name: name, Least: least, Unit: unit}
	for i := range m.Items {
		r.Items = append(r.Items, by(&m.Items[i]))
	}
	for _, list := range [][]End{m.Opens, m.Closes} {
		for i := range list {
			at := slices.IndexFunc(m.Items, func(c Column) bool { return c.Cand == list[i].Cands[0] })
			list[i].Rows = append(list[i].Rows, by(&m.Items[at]))
		}
	}
	return r
}

// varied is a small model with one or the other bound that real ones have.
func varied(t *testing.T, seed uint64, cands int) *Model {
	t.Helper()
	m := little(t, seed, cands)
	rng := rand.New(rand.NewPCG(seed, 9))
	m.Most = 300 + rng.IntN(600)
	m.Least = m.Most * 9 / 10
	m.MaxFresh, m.MaxRises = rng.IntN(4)-1, 1+rng.IntN(3)
	m.Rows = []Row{m.row("few hard ones", float64(-1-rng.IntN(3)), 1, func(c *Column) float64 { return -float64(b2i(c.Effort >= 3)) })}
	m.Target = []float64{1 + 3*rng.Float64(), 2 * rng.Float64()}
	if rng.IntN(3) == 0 {
		m.MaxSupine = 100 + rng.IntN(200)
		for i := range m.Items {
			if m.Items[i].Block == 0 {
				m.Items[i].Supine = m.Items[i].Seconds
			}
		}
		m.Opens[0].SupineTail, m.Closes[0].SupineHead, m.Closes[0].SupineTail = 30, 30, 30
	}
	if rng.IntN(3) == 0 {
		m.Rows = append(m.Rows, m.row("a wish", 2, 1, func(c *Column) float64 { return float64(b2i(slices.Contains([]int{1, 4, 6}, c.Cand))) }))
	}
	if rng.IntN(3) == 0 { // half of the time in the first posture
		m.Rows = append(m.Rows, m.row("a share", 0, 60, func(c *Column) float64 {
			return float64(c.Seconds) * (float64(b2i(c.Block == 0)) - 0.5)
		}))
		m.Rows[len(m.Rows)-1].Soft = float64(rng.IntN(4)) // may be missed
	}
	if rng.IntN(3) == 0 { // what is locked has one dose, and opens or closes nothing
		at := 2 * (6 + rng.IntN(cands-6))
		m.Items[at].Locked = true
		m.Items = slices.Delete(m.Items, at+1, at+2)
		for i := range m.Rows {
			m.Rows[i].Items = slices.Delete(m.Rows[i].Items, at+1, at+2)
		}
	}
	return m
}

// No session is worth more than what bounds it, at any prices: the set of its postures, its
// opener and closer there, and some case of where its hardest item lies, by place and then
// by effort.
func TestBoundsHoldAtAnyPrices(t *testing.T) {
	tried := 0
	for seed := range uint64(80) {
		m := varied(t, seed, 14)
		s, ok := NewSearch(m)
		require.True(t, ok)
		all := s.everything()
		sets := map[uint32]float64{}
		for _, p := range s.sets(all) {
			sets[p.mask] = p.bound
		}
		rng := rand.New(rand.NewPCG(seed, 4))
		tl := newTally(m, s.routes, Selection{0, 0, nil})
		for range 400 {
			sel := Selection{Open: rng.IntN(3), Close: rng.IntN(3)}
			mask := uint32(0)
			for cand := range m.Candidates {
				if l := s.options[cand]; m.Items[l[0]].Locked {
					sel.Body = append(sel.Body, l[0])
					mask |= 1 << m.Items[l[0]].Block
				} else if col := l[rng.IntN(2)]; rng.IntN(3) == 0 && !m.Opens[sel.Open].has(cand) && !m.Closes[sel.Close].has(cand) {
					sel.Body = append(sel.Body, col)
					mask |= 1 << m.Items[col].Block
				}
			}
			tl.reset(sel)
			v, fine := tl.judge()
			if !fine || mask == 0 {
				continue
			}
			tried++
			require.GreaterOrEqual(t, sets[mask], v-1e-9, "seed %d: the set's bound", seed)
			x := s.relaxation
			bound := func(f *field) float64 {
				x.at = prices{second: secondTop*rng.Float64() - m.Terms.Short*rng.Float64(), fresh: 2 * rng.Float64(), back: 0.02 * rng.Float64(), early: rng.Float64(), late: rng.Float64(),
					minute: []float64{rng.Float64() * m.Weight[0], rng.Float64() * m.Weight[1]}, row: make([]float64, len(m.Rows))}
				if m.MaxFresh < 0 {
					x.at.fresh = 0 // what is not bounded has no price
				}
				for k := range x.at.visit {
					x.at.visit[k] = m.Terms.Direction * rng.Float64()
				}
				for k := range x.at.row {
					x.at.row[k] = m.Rows[k].top() * rng.Float64() / 6
				}
				x.begin(f, nil)
				x.evaluate()
				x.settle()
				for _, p := range s.pairsAbove(f, math.Inf(-1), math.MaxInt) {
					if p.open == sel.Open && p.close == sel.Close {
						p := p
						x.begin(f, &p) // the opener and closer known before: a bound too, and no higher
						direct := x.bound(&p, x.evaluate())
						require.LessOrEqual(t, direct, p.bound+mustLoss(f, m)+1e-6, "seed %d", seed)
						return math.Max(p.bound, direct)
					}
				}
				return math.Inf(-1)
			}
			f := &field{mask: mask}
			require.True(t, f.gather(s))
			require.GreaterOrEqual(t, bound(f), v-1e-9, "seed %d: the bound of opener and closer", seed)
			cases := s.cases(f)
			best, exact := math.Inf(-1), math.Inf(-1)
			for i := range cases {
				best = math.Max(best, bound(&cases[i]))
				if !cases[i].turns() {
					exact = math.Max(exact, bound(&cases[i]))
					continue
				}
				parts := s.cases(&cases[i])
				for k := range parts {
					exact = math.Max(exact, bound(&parts[k]))
				}
			}
			require.GreaterOrEqual(t, best, v-1e-9, "seed %d: the cases by place", seed)
			require.GreaterOrEqual(t, exact, v-1e-9, "seed %d: the cases by effort", seed)
		}
	}
	assert.Greater(t, tried, 500)
}

// mustLoss is what a field's bound is lower because one of the hardest must be in.
func mustLoss(f *field, m *Model) float64 {
	if list := f.hardest(m); list != nil {
		return math.Max(0, list[0].loss)
	}
	return 0
}

// What is said to be proven is the best of all sessions there are, every one tried: small
// drawn models with bounds on seconds, strong, new and long stretches on the back, with the
// order of either school and with kinds of session that ask for something.
func TestProvenIsTheBestOfAll(t *testing.T) {
	proven := 0
	for seed := range uint64(60) {
		m := varied(t, seed, 8)
		s, ok := NewSearch(m)
		require.True(t, ok)
		s.Run()
		_, value, found := s.Best()

		best := math.Inf(-1)
		tl := newTally(m, newRoutes(m), Selection{0, 0, nil})
		var try func(cand int)
		try = func(cand int) {
			if cand == m.Candidates {
				if v, ok := tl.judge(); ok {
					best = math.Max(best, v)
				}
				return
			}
			if !m.Items[s.options[cand][0]].Locked {
				try(cand + 1)
			}
			if tl.uses(cand) {
				return
			}
			for _, col := range s.options[cand] {
				tl.add(col)
				try(cand + 1)
				tl.remove(col)
			}
		}
		for o := range m.Opens {
			for c := range m.Closes {
				tl.setOpen(o)
				tl.setClose(c)
				try(0)
			}
		}
		require.Equal(t, !math.IsInf(best, -1), found, "seed %d", seed)
		if !found {
			continue
		}
		assert.InDelta(t, best, value, 1e-6, "seed %d", seed)
		proven += b2i(s.Proven())
	}
	assert.GreaterOrEqual(t, proven, 45, "small models are proven")
}
