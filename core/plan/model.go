package plan

import (
	"math"
	"slices"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/trade"
)

// A Model is one session as an optimisation problem (docs/planner.md):
//
// Choose one opener, one closer and body items, each in one of its doses. Postures are
// blocks, visited as a route, each posture once; the closer's posture may repeat the
// opener's and then holds only the closer. Inside a block the items sort by effort. The
// hardest item is the last of its block and lies between 40 and 85 % of the list. The
// value is the concave credit of the aims, directions, continuity and small preferences,
// less the price of changing posture; the total stays within the minutes asked, and every
// second below 92 % of them costs.
type Model struct {
	Least, Most int       // seconds
	Aims        []string  // what is credited
	Weight      []float64 // of a minute of each aim, the highest is 1
	Target      []float64 // minutes

	blocks    []block
	start     place
	arcs      [][]arc // between blocks; an arc that the order school forbids has ok false
	in, out   []arc   // from the starting posture, and back to it
	Items     []column
	opens     []end
	closes    []end
	cands     []candidate
	families  []string
	MaxRises  int
	MaxStrong int
	MaxFresh  int // -1: no bound
	MaxSupine int // seconds on the back without a break, 0: no bound
	musts     []must
	reach     uint8 // directions that some item visits
}

// block is one posture on one ground.
type block struct {
	place
	tier  int // of the order school: an arc never leads to a lower tier
	rank  int // in the school's list
	reset int // seconds of the reset sweep after every item, 0 without resets
	sweep int // candidate of the reset sweep, -1 none
	peers uint32
}

type arc struct {
	seconds int
	price   float64
	rise    bool
	ok      bool
}

// column is one body item in one dose.
type column struct {
	cand, option, block int
	family              int // -1: member of a set
	seconds             int // with the reset after it
	credit              []float64
	value               float64 // continuity and preferences
	dirs                uint8
	effort              int
	strong, fresh       bool
	supine              int // seconds on the back
	locked              bool
}

// end is an opener or a closer: one item, or a fixed sequence of a template.
type end struct {
	cands       []int
	option      []int
	first, last int    // blocks
	inner       uint32 // blocks that only it visits
	shut        uint32 // blocks of the same postures on another ground
	families    []int
	seconds     int // with the changes of posture inside it
	price       float64
	rises       int
	credit      []float64
	value       float64
	dirs        uint8
	fresh       int
	supineHead  int // seconds on the back at its beginning
	supineTail  int // ... and at its end
	locked      bool
}

// must asks for some of the listed candidates.
type must struct {
	name  string
	cands []int
	least int
}

// Terms of the value, in points; a point is a minute of the weightiest aim (product
// defaults).
const (
	continuityPoints = 0.5  // an item of the last session comes back
	directionPoints  = 8.0  // each direction of the spine that is visited
	fitPoints        = 0.04 // each point an item wins for the client's best task
	lengthPoints     = 0.2  // a dose that is shorter or longer than normal costs
	shortPoints      = 0.03 // each second below the least length costs; less than a second of moving, so that nobody walks to fill time
	againstPoints    = 0.1  // a change of posture against the order school's list costs
	secondHalf       = 0.5  // credit between the target and one and a half times of it
	mainShare        = 0.7  // of the asked minutes is served to aims; the rest is set-up, rests, changes
	leastShare       = 0.92 // of the asked minutes
)

// directionsFrom is the session length, minutes, from which all directions should appear.
const directionsFrom = 20

// maxNew is how many items whose branch was never done may be new in one session of a
// client who has a log.
const maxNew = 2

// maxNew is how many new items a session may hold: what a kind of session asks for may be
// new besides, and its fixed beginning and end are learned by heart and do not count.
func (r *Request) maxNew() int {
	n := maxNew
	for _, need := range r.Template.needs() {
		n += need.Least
	}
	return n
}

// fixedPart tells whether a version belongs to the fixed beginning or end of the kind of
// session.
func (r *Request) fixedPart(slug string) bool {
	prepare, finish := r.Template.fixed()
	return slices.Contains(prepare, slug) || slices.Contains(finish, slug)
}

// NewModel states a request as an optimisation problem.
func NewModel(r *Request) *Model {
	m := &Model{Most: 60 * r.Minutes, MaxRises: r.transfers(), MaxStrong: r.maxMain(), MaxFresh: -1, start: r.startPlace()}
	m.Least = int(math.Ceil(leastShare * float64(m.Most)))
	if len(r.Seen) > 0 && !r.anyNew {
		m.MaxFresh = r.maxNew()
	}
	m.MaxSupine, _ = r.Screener.SupineCap()
	m.Aims, m.Weight, m.Target = r.wants()
	m.cands = r.withLocked(r.candidates())
	b := builder{r: r, m: m, blockOf: map[place]int{}, family: map[string]int{}}
	b.columns()
	b.ends()
	b.network()
	b.musts()
	return m
}

// wants lists the aims in a fixed order with weights and target minutes.
func (r *Request) wants() (aims []string, weight, target []float64) {
	wanted := r.aims()
	sum, top := 0.0, 0.0
	for _, a := range catalogue.Aims {
		sum += wanted[a]
		top = math.Max(top, wanted[a])
	}
	for _, a := range catalogue.Aims {
		if w := wanted[a]; w > 0 {
			aims = append(aims, a)
			weight = append(weight, w/top)
			target = append(target, mainShare*float64(r.Minutes)*w/sum)
		}
	}
	return aims, weight, target
}

// startPlace is how a session starts and ends: standing, or sitting for a client who
// stays seated.
func (r *Request) startPlace() place {
	if pos, _ := r.Client.Position("stand_free"); pos == "no" {
		return place{trade.Sitting, trade.Chair}
	}
	return place{trade.Standing, ""}
}

type builder struct {
	r       *Request
	m       *Model
	blockOf map[place]int
	family  map[string]int
}

// block finds or makes the block of a place: all surfaces of one ground are one block.
func (b *builder) block(p place) int {
	key := place{p.position, trade.Surface(p.ground())}
	i, ok := b.blockOf[key]
	if ok {
		return i
	}
	i = len(b.m.blocks)
	b.blockOf[key] = i
	bl := block{place: p, rank: slices.Index(b.r.route(), p.position), tier: b.r.tier(p.position), sweep: -1}
	if b.r.Template.resets() {
		bl.sweep = b.sweep(p)
		if bl.sweep >= 0 {
			bl.reset = resetDose.Seconds(b.r.Client.BreathRate, dose.OneSide)
		}
	}
	b.m.blocks = append(b.m.blocks, bl)
	return i
}

// resetDose is one arm sweep with one breath.
var resetDose = dose.Dose{Sets: 1, Reps: 1, MoveS: 6}

// sweep is the candidate that settles in a posture without leaving it, -1 when there is none
// there.
func (b *builder) sweep(p place) int {
	return slices.IndexFunc(b.m.cands, func(c candidate) bool {
		return c.v.Family == resetFamily && c.v.Position == p.position && c.place().ground() == p.ground()
	})
}

// body tells whether a candidate may be a body item: everything but the resets.
func bodyItem(v *catalogue.Version) bool { return v.Family != resetFamily }

func (b *builder) columns() {
	for i := range b.m.cands {
		c := &b.m.cands[i]
		if !bodyItem(c.v) || c.locked != "" && c.locked != trade.Main || b.outOfReach(c) {
			continue
		}
		for k := range c.doses {
			b.m.Items = append(b.m.Items, b.column(i, k))
		}
	}
}

// outOfReach: who may not rise from the floor does not get down to it.
func (b *builder) outOfReach(c *candidate) bool {
	return b.m.MaxRises == 0 && c.place().ground() == floor && c.locked == ""
}

func (b *builder) column(i, k int) column {
	c := &b.m.cands[i]
	bl := b.block(c.place())
	col := column{cand: i, option: k, block: bl, family: b.familyOf(c.v), effort: c.v.Effort, strong: c.v.Effort >= strongFrom,
		fresh: !c.seen && !b.r.fixedPart(c.v.Slug), locked: c.locked != ""}
	seconds, credit, value := b.worth(c, k)
	col.seconds, col.credit, col.value = seconds+b.m.blocks[bl].reset, credit, value
	col.dirs = b.r.visits(c)
	b.m.reach |= col.dirs
	if onBack(c.v) {
		col.supine = col.seconds
	}
	return col
}

func onBack(v *catalogue.Version) bool { return v.Quantities["needs.supine"].Value > 0 }

// worth is an item's seconds, credit by aim and preference.
func (b *builder) worth(c *candidate, k int) (seconds int, credit []float64, value float64) {
	o := &c.doses[k]
	seconds = o.dose.Seconds(b.r.Client.BreathRate, c.sides())
	by := creditOf(c.v, seconds-o.dose.SetupS)
	credit = make([]float64, len(b.m.Aims))
	for i, a := range b.m.Aims {
		credit[i] = by[a]
	}
	if c.continuous {
		value += continuityPoints
	}
	value += fitPoints * float64(c.fit)
	if o.length != Normal {
		value -= lengthPoints
	}
	return seconds, credit, value
}

// familyOf numbers the families that hold at most two items; -1 for a set.
func (b *builder) familyOf(v *catalogue.Version) int {
	if v.Set {
		return -1
	}
	i, ok := b.family[v.Family]
	if !ok {
		i = len(b.m.families)
		b.family[v.Family] = i
		b.m.families = append(b.m.families, v.Family)
	}
	return i
}

// ends lists openers and closers: single items, or the fixed sequences of a template.
func (b *builder) ends() {
	prepare, finish := b.r.Template.fixed()
	locked := func(role trade.Role) bool {
		return slices.ContainsFunc(b.m.cands, func(c candidate) bool { return c.locked == role })
	}
	if seq := b.sequence(prepare); seq != nil && !locked(trade.Open) {
		b.m.opens = append(b.m.opens, b.opener(seq))
	}
	if seq := b.sequence(finish); seq != nil && !locked(trade.Close) {
		b.m.closes = append(b.m.closes, b.end(seq))
	}
	opens, closes := len(b.m.opens) == 0, len(b.m.closes) == 0
	openLocked, closeLocked := locked(trade.Open), locked(trade.Close)
	for i := range b.m.cands {
		c := &b.m.cands[i]
		if c.locked == trade.Main || b.outOfReach(c) {
			continue
		}
		if opens && (c.locked == trade.Open || !openLocked && c.locked == "" && b.r.opens(c.v.Slug)) {
			b.m.opens = append(b.m.opens, b.opener([]int{i}))
		}
		if closes && (c.locked == trade.Close || !closeLocked && c.locked == "" && b.r.calms(c.v.Slug)) {
			b.m.closes = append(b.m.closes, b.end([]int{i}))
		}
	}
}

// sequence finds the candidates of a template's fixed versions that this client may do.
func (b *builder) sequence(slugs []string) (out []int) {
	for _, slug := range slugs {
		if i := slices.IndexFunc(b.m.cands, func(c candidate) bool { return c.v.Slug == slug && !b.outOfReach(&c) }); i >= 0 {
			out = append(out, i)
		}
	}
	return out
}

// clashes tells whether an opener and a closer share an item, or the closer would return to
// a posture that a fixed beginning has already left.
func (e *end) clashes(c *end) bool {
	if (e.inner|e.shut)>>c.first&1 == 1 {
		return true
	}
	return e.shares(c)
}

// shares tells whether two ends have an item in common.
func (e *end) shares(c *end) bool {
	for _, i := range e.cands {
		if c.has(i) {
			return true
		}
	}
	return false
}

// normal is the option a fixed item is done in.
func (c *candidate) normal() int {
	return max(0, slices.IndexFunc(c.doses, func(o option) bool { return o.length == Normal }))
}

// opener is an end with the reset sweep after it.
func (b *builder) opener(cands []int) end {
	e := b.end(cands)
	e.seconds += b.m.blocks[e.last].reset
	return e
}

func (b *builder) end(cands []int) end {
	e := end{cands: cands, credit: make([]float64, len(b.m.Aims))}
	helped := b.r.helped()
	supine, all := 0, true
	for n, i := range cands {
		c := &b.m.cands[i]
		k := c.normal()
		seconds, credit, value := b.worth(c, k)
		bl := b.block(c.place())
		if n == 0 {
			e.first = bl
		} else {
			s, rise := move(b.m.blocks[e.last].place, c.place(), helped)
			e.seconds += s
			e.price += price(b.m.blocks[e.last].place, c.place(), s)
			if rise {
				e.rises++
			}
			e.inner |= 1 << e.last
		}
		e.last = bl
		if f := b.familyOf(c.v); f >= 0 {
			e.families = append(e.families, f)
		}
		e.option = append(e.option, k)
		e.seconds += seconds
		for a := range credit {
			e.credit[a] += credit[a]
		}
		e.value += value
		e.dirs |= b.r.visits(c)
		e.locked = e.locked || c.locked != ""
		e.fresh += b2i(!c.seen && !b.r.fixedPart(c.v.Slug))
		if onBack(c.v) {
			supine += seconds
		} else {
			supine, all = 0, false
		}
		if all {
			e.supineHead = supine
		}
	}
	e.supineTail = supine
	e.inner &^= 1 << e.last
	b.m.reach |= e.dirs
	return e
}

// network works out every change of posture.
func (b *builder) network() {
	m, helped := b.m, b.r.helped()
	for i := range m.blocks {
		for k := range m.blocks {
			if i != k && m.blocks[i].position == m.blocks[k].position {
				m.blocks[i].peers |= 1 << k
			}
		}
	}
	between := func(from, to place) arc {
		s, rise := move(from, to, helped)
		return arc{s, price(from, to, s), rise, true}
	}
	for i := range m.opens {
		for k := range m.blocks {
			if m.opens[i].inner>>k&1 == 1 {
				m.opens[i].shut |= m.blocks[k].peers
			}
		}
	}
	m.arcs = make([][]arc, len(m.blocks))
	for i := range m.blocks {
		m.in = append(m.in, between(m.start, m.blocks[i].place))
		m.out = append(m.out, between(m.blocks[i].place, m.start))
		for k := range m.blocks {
			m.arcs[i] = append(m.arcs[i], between(m.blocks[i].place, m.blocks[k].place))
		}
	}
}

// against is the price of going against the order school's list; ok is false when the
// school forbids it. Leaving the opener's posture is free of the school.
func (m *Model) against(from, to int, leavesOpener bool) (points float64, ok bool) {
	if leavesOpener {
		return 0, true
	}
	a, b := &m.blocks[from], &m.blocks[to]
	if b.tier < a.tier {
		return 0, false
	}
	if b.rank < a.rank {
		return againstPoints, true
	}
	return 0, true
}

func (b *builder) musts() {
	for _, need := range b.r.Template.needs() {
		mu := must{name: need.Name(), least: max(1, need.Least)}
		for i := range b.m.cands {
			c := &b.m.cands[i]
			if bodyItem(c.v) && need.takes(c.v) {
				mu.cands = append(mu.cands, i)
			}
		}
		mu.least = min(mu.least, len(mu.cands))
		if mu.least > 0 {
			b.m.musts = append(b.m.musts, mu)
		}
	}
}

// visits are the spinal directions an item reaches: more than a fifth of what the client
// may use in it (shared ruling 23), and more than posture noise.
func (r *Request) visits(c *candidate) (mask uint8) {
	if r.Minutes < directionsFrom {
		return 0
	}
	peaks := c.v.TrunkPeaks(c.side)
	allowed := r.allowedDirections()
	for k := range peaks {
		if peaks[k] > math.Max(postureNoise, 0.2*allowed[k]) {
			mask |= 1 << k
		}
	}
	return mask
}

// allowedDirections is what the client may use of each direction of the trunk, degrees.
func (r *Request) allowedDirections() [6]float64 {
	if !r.directionsKnown {
		r.directionsKnown = true
		for k, name := range []string{"flexion", "extension", "side-bend", "side-bend", "rotation", "rotation"} {
			r.directions[k] = math.Min(r.Screener.TrunkLimit(name, ".loaded"), r.Screener.TrunkLimit(name, ".unloaded"))
		}
	}
	return r.directions
}
