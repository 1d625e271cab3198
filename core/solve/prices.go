package solve

import (
	"math"
	"math/bits"
	"slices"
)

// Prices rank the items before any search: a second, a new item, a second on
// the back cost what they keep others from; a minute of an aim is worth what the aim still
// lacks, a direction what it lacks until something visits it. They are the multipliers of
// the Lagrangian relaxation that leaves these rules to their prices and keeps one version
// per branch and two per family. At any prices the relaxation is worth at least as much as
// any session of its postures, opener and closer; at the best ones hardly more, so what an
// item loses against the best choice tells how far a session with it can be from the best.
type prices struct {
	second, fresh, back float64
	minute              []float64  // by aim
	visit               [6]float64 // by direction
	row                 []float64  // by row
	early, late         float64    // an item before and after the turn
}

func (p *prices) copy(from *prices) {
	minute, row := p.minute, p.row
	*p = *from
	p.minute = append(minute[:0], from.minute...)
	p.row = append(row[:0], from.row...)
}

// Bounds of the prices, points.
const (
	secondTop = 0.08 // of a second
	numberTop = 12   // of a place among the new items, or of a unit of a row
)

// relaxed evaluates the relaxation of a field at some prices.
type relaxed struct {
	m       *Model
	items   []lean
	credits []float64  // of each column, by aim
	rowsOf  [][]amount // by column, those that are not 0

	f           *field
	at          prices
	taken       []bool // by candidate: the opener or closer
	used        []int8 // places of each family that they take
	room        int    // seconds for the body
	tail        int    // seconds on the back that the opener brings to its posture
	back        int    // the block on the back, -1 none
	reach       uint8  // directions that something in the field or the ends visits
	endDirs     uint8
	endFresh    int
	endServe    []float64
	endHave     []float64 // by row
	least, most float64   // items up to the turn, less their share of the list

	// of the last evaluation
	profit                 []float64
	family                 []float64
	picked                 []int
	seconds, onBack, fresh float64
	served, have           []float64
	visits                 [6]float64

	best        prices
	speed, push []float64
}

// lean is what the relaxation needs of a column.
type lean struct {
	value, seconds, supine float64
	family, cand, block    int32
	dirs                   uint8
	fresh, locked          bool
}

func newRelaxed(m *Model) *relaxed {
	x := &relaxed{
		m:        m,
		taken:    make([]bool, m.Candidates),
		used:     make([]int8, m.Families),
		endServe: make([]float64, len(m.Aims)),
		endHave:  make([]float64, len(m.Rows)),
		profit:   make([]float64, len(m.Items)),
		family:   make([]float64, m.Families),
		served:   make([]float64, len(m.Aims)),
		have:     make([]float64, len(m.Rows)),
	}
	for i := range m.Items {
		c := &m.Items[i]
		x.items = append(
			x.items,
			lean{
				c.Value,
				float64(c.Seconds),
				float64(c.Supine),
				int32(c.Family),
				int32(c.Cand),
				int32(c.Block),
				c.Dirs,
				c.Fresh,
				c.Locked,
			},
		)
		x.credits = append(x.credits, c.Credit...)
	}
	x.rowsOf = m.amounts()
	x.at = prices{second: 0.005, minute: slices.Clone(m.Weight), row: make([]float64, len(m.Rows))}
	n := 6 + len(m.Aims) + 6 + len(m.Rows)
	x.speed, x.push = make([]float64, n), make([]float64, n)
	return x
}

// begin takes the relaxation to a field, between an opener and a closer or, with none, with
// about their seconds.
func (x *relaxed) begin(f *field, p *pair) {
	m := x.m
	x.f = f
	clear(x.taken)
	clear(x.used)
	clear(x.family) // a family that the field lacks has no price
	clear(x.endServe)
	clear(x.endHave)
	x.endDirs, x.endFresh, x.tail = 0, 0, 0
	x.back = m.onBack(f.mask)
	x.turnFor(1, 1)
	x.room = m.Most - roughWay
	x.reach = f.dirs
	if p == nil {
		return
	}
	o, c := &m.Opens[p.open], &m.Closes[p.close]
	x.room = m.Most - p.way.seconds - m.In[o.First].Seconds - m.Out[c.Last].Seconds - o.Seconds - c.Seconds
	if m.Blocks[o.Last].Twin == x.back {
		x.tail = o.SupineTail
	}
	x.turnFor(len(o.Cands), len(c.Cands))
	for _, e := range [2]*End{o, c} {
		for _, i := range e.Cands {
			x.taken[i] = true
		}
		for _, f := range e.Families {
			x.used[f]++
		}
		for a, v := range e.Credit {
			x.endServe[a] += v
		}
		x.endDirs |= e.Dirs
		x.endFresh += e.Fresh
	}
	for k := range m.Rows {
		x.endHave[k] = o.Rows[k] + c.Rows[k]
	}
	x.reach |= x.endDirs
}

// turnFor sets between what the items up to the turn may be, less their share of the body,
// for so many items of the opener and the closer.
func (x *relaxed) turnFor(opens, closes int) {
	ends := float64(opens + closes)
	x.least, x.most = x.m.Terms.HardFrom*ends+0.5-float64(opens), x.m.Terms.HardTo*ends+0.5-float64(opens)
}

// evaluate finds the best body at the prices and returns its worth with everything but the
// opener's, the closer's and the way's own price and preference.
func (x *relaxed) evaluate() float64 {
	w := x.start()
	columns := x.f.columns
	value := 0.0
	for i := 0; i < len(columns); {
		family := x.items[columns[i]].family
		if family < 0 { // bound by no family: its best column, when it is worth anything
			cand := x.items[columns[i]].cand
			best, top, _, next := x.bestColumn(i, &w)
			i = next
			if best >= 0 && !x.taken[cand] {
				x.pick(best)
				value += top
			}
			continue
		}
		left := x.m.Terms.Family - int(x.used[family])
		x.family[family] = 0
		most := top2{first: -1, second: -1}
		for i < len(columns) && x.items[columns[i]].family == family {
			cand := x.items[columns[i]].cand
			best, top, locked, next := x.bestColumn(i, &w)
			i = next
			switch {
			case best < 0 || x.taken[cand]:
			case locked:
				x.pick(best)
				value += top
				left--
			default:
				most.add(best, x.profit)
			}
		}
		value = x.choose(value, int(family), left, &most)
	}
	return x.constant(value)
}

// weights are the prices of an evaluation as columns pay them.
type weights struct {
	dirs          [64]float64 // by set of directions
	before, after float64     // the place of the hardest: for blocks up to the turn, and later ones
	upto          uint32
}

// start forgets the last evaluation and adds up what many columns share.
func (x *relaxed) start() (w weights) {
	p := &x.at
	for k := 1; k < len(w.dirs); k++ {
		w.dirs[k] = w.dirs[k&(k-1)] + p.visit[bits.TrailingZeros(uint(k))]
	}
	if x.f.turns() {
		from, to := x.m.Terms.HardFrom, x.m.Terms.HardTo
		w.before, w.after, w.upto = p.early*(1-from)-p.late*(1-to), p.late*to-p.early*from, x.f.turn.upto
	}
	x.picked = x.picked[:0]
	x.seconds, x.onBack, x.fresh = 0, 0, 0
	copy(x.served, x.endServe)
	copy(x.have, x.endHave)
	for k := range x.visits {
		x.visits[k] = float64(x.endDirs >> k & 1)
	}
	return w
}

// bestColumn prices the columns of the candidate that begins at i; next is where the next one begins.
// No column is best when none is worth anything, and none is locked.
func (x *relaxed) bestColumn(i int, w *weights) (best int, top float64, locked bool, next int) {
	p, columns, aims := &x.at, x.f.columns, len(x.m.Aims)
	cand := x.items[columns[i]].cand
	best = -1
	for ; i < len(columns); i++ {
		col := columns[i]
		c := &x.items[col]
		if c.cand != cand {
			break
		}
		v := c.value - p.second*c.seconds + w.dirs[c.dirs]
		for a, y := range x.credits[col*aims : col*aims+aims] {
			v += p.minute[a] * y
		}
		if c.fresh {
			v -= p.fresh
		}
		if int(c.block) == x.back {
			v -= p.back * c.supine
		}
		for _, a := range x.rowsOf[col] {
			v += p.row[a.row] * a.by
		}
		if w.upto>>c.block&1 == 1 {
			v += w.before
		} else {
			v += w.after
		}
		x.profit[i] = v
		if v > top || c.locked {
			best, top, locked = i, v, c.locked
		}
	}
	return best, top, locked, i
}

// top2 are the two columns of a family that are worth most, and the worth of the third.
type top2 struct {
	first, second int
	third         float64
}

func (t *top2) add(col int, profit []float64) {
	top := profit[col]
	if t.first >= 0 && top <= profit[t.first] && t.second >= 0 && top <= profit[t.second] {
		t.third = math.Max(t.third, top)
		return
	}
	if t.second >= 0 {
		t.third = math.Max(t.third, profit[t.second])
	}
	if t.first < 0 || top > profit[t.first] {
		t.first, t.second = col, t.first
	} else {
		t.second = col
	}
}

// choose takes what a family has room for, keeps what one more place would be worth, and adds the
// worth of what it took.
func (x *relaxed) choose(value float64, family, left int, t *top2) float64 {
	switch {
	case left >= 2:
		x.family[family] = t.third
	case left == 1 && t.second >= 0:
		x.family[family] = x.profit[t.second]
	case left <= 0 && t.first >= 0:
		x.family[family] = x.profit[t.first]
	}
	if left >= 1 && t.first >= 0 {
		x.pick(t.first)
		value += x.profit[t.first]
	}
	if left >= 2 && t.second >= 0 {
		x.pick(t.second)
		value += x.profit[t.second]
	}
	return value
}

// constant adds what the prices are worth whatever is picked.
func (x *relaxed) constant(value float64) float64 {
	m, p := x.m, &x.at
	if x.f.turns() {
		value += p.late*x.most - p.early*x.least
	}
	room, least := float64(x.room), float64(x.room-m.Most+m.Least)
	value += math.Max(p.second, 0)*room + math.Min(p.second, 0)*least
	if m.MaxFresh >= 0 {
		value += p.fresh * float64(m.MaxFresh-x.endFresh)
	}
	if x.back >= 0 {
		value += p.back * float64(m.MaxSupine-x.tail)
	}
	for a, t := range m.Target {
		w := m.Weight[a]
		value += math.Max(0, w-p.minute[a])*t + math.Max(0,
			m.Terms.Beyond*w-p.minute[a])*m.Terms.Beyond*t + p.minute[a]*x.endServe[a]
	}
	for k := range x.visits {
		if x.reach>>k&1 == 1 {
			value += m.Terms.Direction - p.visit[k] + p.visit[k]*float64(x.endDirs>>k&1)
		}
	}
	for k := range p.row {
		value += p.row[k] * (x.endHave[k] - m.Rows[k].Least)
	}
	return value
}

func (x *relaxed) pick(k int) {
	col := x.f.columns[k]
	c := &x.items[col]
	x.picked = append(x.picked, k)
	x.seconds += c.seconds
	if int(c.block) == x.back {
		x.onBack += c.supine
	}
	if c.fresh {
		x.fresh++
	}
	for a := range x.served {
		x.served[a] += x.credits[col*len(x.served)+a]
	}
	for mask := c.dirs; mask != 0; mask &= mask - 1 {
		x.visits[bits.TrailingZeros8(mask)]++
	}
	for _, a := range x.rowsOf[col] {
		x.have[a.row] += a.by
	}
}

// Steps of the prices: each moves against its own excess, scaled by how large that has
// been, by less and less (product defaults of the search).
const (
	paceFirst, paceLast = 0.25, 0.01
	inertia             = 0.6
)

// improve looks for better prices in so many steps from where they are and returns the
// least worth of the relaxation; pace scales the first steps.
func (x *relaxed) improve(steps int, pace float64) float64 {
	m := x.m
	bound := math.Inf(1)
	clear(x.speed)
	clear(x.push)
	fall := math.Pow(paceLast/(paceFirst*pace), 1/float64(max(1, steps-1)))
	step := paceFirst * pace
	for n := 0; ; n++ {
		v := x.evaluate()
		if v < bound {
			bound = v
			x.best.copy(&x.at)
		}
		if n >= steps {
			break
		}
		i := 0
		move := func(price *float64, gradient, scale, low, high float64) {
			if *price <= low && gradient > 0 || *price >= high && gradient < 0 {
				x.push[i] *= inertia
				i++
				return
			}
			x.speed[i] = math.Max(0.9*x.speed[i], math.Abs(gradient))
			if x.speed[i] > 0 {
				x.push[i] = inertia*x.push[i] + (1-inertia)*gradient/x.speed[i]
				*price = math.Min(high, math.Max(low, *price-step*scale*x.push[i]))
			}
			i++
		}
		wanted := float64(x.room)
		if x.at.second < 0 {
			wanted = float64(x.room - m.Most + m.Least)
		}
		move(&x.at.second, wanted-x.seconds, 0.03, -x.m.Terms.Short, secondTop)
		if m.MaxFresh >= 0 {
			move(&x.at.fresh, float64(m.MaxFresh-x.endFresh)-x.fresh, 4, 0, numberTop)
		}
		if x.back >= 0 {
			move(&x.at.back, float64(m.MaxSupine-x.tail)-x.onBack, 0.03, 0, secondTop)
		}
		for a, t := range m.Target {
			w, supply := m.Weight[a], 0.0
			switch mu := x.at.minute[a]; {
			case mu < x.m.Terms.Beyond*w:
				supply = (1 + x.m.Terms.Beyond) * t
			case mu < w:
				supply = t
			}
			move(&x.at.minute[a], x.served[a]-supply, w, 0, w)
		}
		for k := range x.visits {
			if x.reach>>k&1 == 1 {
				move(&x.at.visit[k], x.visits[k]-1, 4, 0, x.m.Terms.Direction)
			}
		}
		for k := range x.at.row {
			r := &m.Rows[k]
			move(&x.at.row[k], x.have[k]-r.Least, math.Min(4/r.Unit, r.top()), 0, r.top())
		}
		if x.f.turns() {
			up, all := 0.0, float64(len(x.picked))
			for _, k := range x.picked {
				up += float64(x.f.turn.upto >> x.items[x.f.columns[k]].block & 1)
			}
			move(&x.at.early, up-x.m.Terms.HardFrom*all-x.least, 2, 0, numberTop)
			move(&x.at.late, x.most-up+x.m.Terms.HardTo*all, 2, 0, numberTop)
		}
		step *= fall
	}
	x.at.copy(&x.best)
	return x.evaluate()
}

// settle keeps the prices of the last evaluation in the field, and what they say of its
// columns.
func (x *relaxed) settle() {
	m, f, p := x.m, x.f, &x.at
	f.prices.copy(p)
	f.profit = append(f.profit[:0], x.profit[:len(f.columns)]...)
	f.family = append(f.family[:0], x.family...)
	if f.best == nil {
		f.best = make([]int, m.Candidates)
	}
	clear(f.best)
	f.base = math.Max(p.second, 0)*float64(m.Most) + math.Min(p.second, 0)*float64(m.Least)
	if m.MaxFresh >= 0 {
		f.base += p.fresh * float64(m.MaxFresh)
	}
	if x.back >= 0 {
		f.base += p.back * float64(m.MaxSupine)
	}
	for a, t := range m.Target {
		w := m.Weight[a]
		f.base += math.Max(0, w-p.minute[a])*t + math.Max(0, x.m.Terms.Beyond*w-p.minute[a])*x.m.Terms.Beyond*t
	}
	for k := range p.row {
		f.base -= p.row[k] * m.Rows[k].Least
	}
	for _, v := range x.family {
		f.base += float64(x.m.Terms.Family) * v
	}
	if f.turns() {
		f.base += 0.5 * (p.late - p.early)
	}
	for k, col := range f.columns {
		c := &m.Items[col]
		if c.Family >= 0 {
			f.profit[k] -= x.family[c.Family]
		}
		if b := f.best[c.Cand]; c.Locked || f.profit[k] > 0 && (b == 0 || f.profit[k] > f.profit[b-1]) {
			f.best[c.Cand] = k + 1
		}
	}
	for _, b := range f.best {
		if b > 0 {
			f.base += f.profit[b-1]
		}
	}
	if list := f.hardest(m); list != nil { // one of them must be in
		f.base -= math.Max(0, list[0].loss)
	}
}

// bound is what the relaxation is worth between its opener and closer, for an evaluation's
// value.
func (x *relaxed) bound(p *pair, value float64) float64 {
	o, c := &x.m.Opens[p.open], &x.m.Closes[p.close]
	return value + o.Value - o.Price + c.Value - c.Price - x.m.In[o.First].Price - x.m.Out[c.Last].Price - p.way.price
}
