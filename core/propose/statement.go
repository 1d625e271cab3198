package propose

import (
	"slices"

	"restbend/core/appraise"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/solve"
	"restbend/core/trade"
	"restbend/core/way"
)

// A Statement is a request as an optimisation problem: the model, and what its numbers stand for.
type Statement struct {
	*solve.Model
	cands  []facts.Candidate
	places []plan.Place // of the blocks
	sweeps []int        // of the blocks: the candidate of the reset sweep, -1 none
	resets []int        // of the blocks: seconds of the reset sweep after every item, 0 without resets
	start  plan.Place
}

// State states a request as an optimisation problem.
func State(r *facts.Request) *Statement {
	m := &Statement{
		Model: &solve.Model{
			Terms:    terms,
			Most:     60 * r.Minutes,
			MaxRises: r.Transfers(),
			MaxFresh: -1,
		},
		start: r.StartPlace(),
	}
	m.Least = r.LeastSeconds()
	if appraise.Route(r)[0] == trade.Standing {
		m.Terms.Gentle = anyEffort // the hardest standing item closes the standing block
	}
	if t := r.Template; t != nil {
		m.Terms.Rising = t.Rising
		if t.Rising || t.OwnContent && t.Natural {
			m.Terms.Gentle = anyEffort
		}
	}
	if len(r.Seen) > 0 && !r.Ask.AnyNew {
		m.MaxFresh = r.MaxNew()
	}
	m.MaxSupine, _ = r.Screener.SupineCap()
	m.Aims, m.Weight, m.Target = r.Wants()
	if r.Ask.Only { // what is there is only put in order
		m.MaxFresh, m.Terms.Family = -1, len(r.Ask.Locked)
	}
	m.cands = withLocked(r, r.Candidates())
	m.Candidates = len(m.cands)
	if appraise.MayBlock(r, m.cands) {
		m.Most -= appraise.TurnOver
	}
	b := builder{r: r, m: m, blockOf: map[spot]int{}, family: map[string]int{}}
	b.columns()
	b.ends()
	b.network()
	b.rows()
	return m
}

// terms are those of every session.
var terms = solve.Terms{Direction: facts.DirectionPoints, Short: facts.ShortPoints, Beyond: facts.SecondHalf,
	Family: facts.MaxFamily, Gentle: facts.Gentle, HardFrom: appraise.HardestFrom, HardTo: appraise.HardestTo}

// anyEffort is above every effort: the hardest item may lie anywhere.
const anyEffort = 10

type builder struct {
	r       *facts.Request
	m       *Statement
	blockOf map[spot]int
	family  map[string]int
	grounds []string
}

// spot is a place, and whether it only holds an opener or a closer.
type spot struct {
	plan.Place
	role trade.Role
}

// block finds or makes the block of a place: all surfaces of one ground are one block.
func (b *builder) block(p plan.Place) int {
	return b.found(p, trade.Main, func(i int) solve.Block {
		return solve.Block{Tier: appraise.Rank(b.r, p.Position), Supine: p.Position == trade.Supine, Twin: i}
	})
}

// opening and closing find or make the block that only holds an opener, or a closer, in a place: it is
// free of the school, and the body may come to its posture once as to any other.
func (b *builder) opening(p plan.Place) int { return b.apart(p, trade.Open) }
func (b *builder) closing(p plan.Place) int { return b.apart(p, trade.Close) }

func (b *builder) apart(p plan.Place, role trade.Role) int {
	if len(b.m.Blocks) == solve.MaxBlocks {
		return b.block(p) // no room for one of its own
	}
	return b.found(p, role, func(int) solve.Block {
		if twin, ok := b.blockOf[spot{plan.Place{Position: p.Position, Surface: trade.Surface(p.Ground())}, trade.Main}]; ok {
			return solve.Block{Tier: -1, Twin: twin}
		}
		return solve.Block{Tier: -1, Twin: -1}
	})
}

// found is the block of a place for a role, made when it is not there yet, with the sweep that settles in it.
func (b *builder) found(p plan.Place, role trade.Role, made func(i int) solve.Block) int {
	key := spot{plan.Place{Position: p.Position, Surface: trade.Surface(p.Ground())}, role}
	if i, ok := b.blockOf[key]; ok {
		return i
	}
	i := len(b.m.Blocks)
	b.blockOf[key] = i
	block := made(i)
	block.Ground = b.ground(p)
	sweep, reset := -1, 0
	if b.r.Template.HasResets() {
		if sweep = b.sweep(p); sweep >= 0 {
			d := resetIn(p.Position)
			reset = d.Seconds(b.r.Client.BreathRate, dose.OneSide)
		}
	}
	b.m.Blocks = append(b.m.Blocks, block)
	b.m.places, b.m.sweeps, b.m.resets = append(b.m.places, p), append(b.m.sweeps, sweep), append(b.m.resets, reset)
	return i
}

// ground numbers what carries a place, 0 for upright ones.
func (b *builder) ground(p plan.Place) int {
	g := p.Ground()
	if g == way.Upright {
		return 0
	}
	if i := slices.Index(b.grounds, g); i >= 0 {
		return i + 1
	}
	b.grounds = append(b.grounds, g)
	return len(b.grounds)
}

// resetIn is one arm sweep with one breath, with the way to the posture it is done in and back: kneeling
// from all fours and from the front, the back from the side. It is part of the flow, neither a rise nor a
// change of block (domain/07; the seconds are product defaults).
func resetIn(position trade.Position) dose.Dose {
	return dose.Dose{Sets: 1, Reps: 1, MoveS: 6, SetupS: settlesIn[position].way}
}

// settlesIn is where the sweep is taken from a position that does not allow one, and the seconds there and back.
var settlesIn = map[trade.Position]struct {
	position trade.Position
	way      int
}{
	trade.SideLying: {trade.Supine, 8},
	trade.Prone:     {trade.Kneeling, 12},
	trade.AllFours:  {trade.Kneeling, 8},
	trade.HalfKneel: {trade.Kneeling, 4},
}

// sweep is the candidate that settles in a posture, or in the one next to it that allows a sweep, -1 when
// there is none.
func (b *builder) sweep(p plan.Place) int {
	position := p.Position
	if in, ok := settlesIn[position]; ok {
		position = in.position
	}
	return slices.IndexFunc(b.m.cands, func(c facts.Candidate) bool {
		return c.V.Family == facts.ResetFamily && c.V.Position == position && c.Place().Ground() == p.Ground()
	})
}

func (b *builder) columns() {
	for i := range b.m.cands {
		c := &b.m.cands[i]
		if !facts.BodyItem(c.V) || c.Locked != "" && c.Locked != trade.Main || b.outOfReach(c) ||
			b.r.Template.IsRoutine() && c.Locked == "" { // a routine is what it is

			continue
		}
		for k := range c.Doses {
			b.m.Items = append(b.m.Items, b.column(i, k))
		}
	}
}

// outOfReach: who may not rise from the floor does not get down to it.
func (b *builder) outOfReach(c *facts.Candidate) bool {
	return b.m.MaxRises == 0 && c.Place().Ground() == way.Floor && c.Locked == ""
}

func (b *builder) column(i, k int) solve.Column {
	c := &b.m.cands[i]
	bl := b.block(c.Place())
	col := solve.Column{
		Cand:   i,
		Option: k,
		Block:  bl,
		Family: b.familyOf(c.V),
		Effort: c.V.Effort,
		Fresh:  b.r.IsFresh(c),
		Locked: c.Locked != "",
	}
	seconds, credit, value := b.worth(c, k)
	col.Seconds, col.Credit, col.Value = seconds+b.m.resets[bl], credit, value
	col.Dirs = b.r.Visits(c)
	b.m.Reach |= col.Dirs
	if facts.OnBack(c.V) {
		col.Supine = col.Seconds
	}
	return col
}

// worth is an item's seconds, credit by aim and preference.
func (b *builder) worth(c *facts.Candidate, k int) (seconds int, credit []float64, value float64) {
	o := &c.Doses[k]
	seconds = o.Dose.Seconds(b.r.Client.BreathRate, c.Sides())
	by := appraise.CreditOf(c.V, seconds-o.Dose.SetupS, appraise.Factor(b.r, c.V, c.Fit))
	credit = make([]float64, len(b.m.Aims))
	for i, a := range b.m.Aims {
		credit[i] = by[a]
	}
	if c.Continuous {
		value += facts.ContinuityPoints
	}
	if b.r.Usual(c.V.Family) {
		value += facts.UsualPoints
	}
	if o.Length != plan.Normal {
		value -= facts.LengthPoints
	}
	return seconds, credit, value
}

// familyOf numbers the families that hold at most two items; -1 for one that the kind wants whole.
func (b *builder) familyOf(v *catalogue.Version) int {
	if b.r.ManyOf(v) {
		return -1
	}
	i, ok := b.family[v.Family]
	if !ok {
		i = b.m.Families
		b.family[v.Family] = i
		b.m.Families++
	}
	return i
}

// ends lists openers and closers: single items, or the fixed sequences of a template.
func (b *builder) ends() {
	prepare, finish := b.r.Template.Fixed()
	locked := func(role trade.Role) bool {
		return slices.ContainsFunc(b.m.cands, func(c facts.Candidate) bool { return c.Locked == role })
	}
	if seq := b.sequence(prepare); seq != nil && !locked(trade.Open) {
		b.m.Opens = append(b.m.Opens, b.opener(seq))
	}
	if seq := b.sequence(finish); seq != nil && !locked(trade.Close) {
		b.m.Closes = append(b.m.Closes, b.end(seq, b.closing))
	}
	opens, closes := len(b.m.Opens) == 0, len(b.m.Closes) == 0
	b.bareEnds(opens, closes)
	b.singleEnds(opens, closes, locked)
}

// singleEnds list every candidate that may open or close a session by itself.
func (b *builder) singleEnds(opens, closes bool, locked func(trade.Role) bool) {
	openLocked, closeLocked := locked(trade.Open), locked(trade.Close)
	some := func(is func(c *facts.Candidate) bool) bool {
		return slices.ContainsFunc(b.m.cands, func(c facts.Candidate) bool { return !b.outOfReach(&c) && is(&c) })
	}
	// down only once: such a session begins upright and ends sitting or lying
	standing := appraise.Route(b.r)[0] == trade.Standing
	upright := standing && some(func(c *facts.Candidate) bool { return Opens(b.r, c.V.Slug) && c.V.Position.Upright() })
	seated := standing &&
		some(func(c *facts.Candidate) bool { return Calms(b.r, c.V.Slug) && c.V.Position != trade.Standing })
	for i := range b.m.cands {
		c := &b.m.cands[i]
		if c.Locked == trade.Main || b.outOfReach(c) {
			continue
		}
		free := c.Locked == ""
		mayOpen := free && !openLocked && Opens(b.r, c.V.Slug) && !(upright && !c.V.Position.Upright())
		mayClose := free && !closeLocked && Calms(b.r, c.V.Slug) && !(seated && c.V.Position == trade.Standing)
		if opens && (c.Locked == trade.Open || mayOpen) {
			b.m.Opens = append(b.m.Opens, b.opener([]int{i}))
		}
		if closes && !b.r.Template.IsRoutine() && (c.Locked == trade.Close || mayClose) {
			e := b.end([]int{i}, b.closing)
			e.Value += facts.RestPoints * facts.One(facts.Relaxes(c.V))
			b.m.Closes = append(b.m.Closes, e)
		}
	}
}

// bareEnds let a session begin, and end, with the work itself where it may.
func (b *builder) bareEnds(opens, closes bool) {
	mayOpen, mayClose := b.r.Bare()
	for i := range len(b.m.Blocks) {
		if opens && mayOpen {
			k := b.opening(b.m.places[i])
			b.m.Opens = append(b.m.Opens, solve.End{First: k, Last: k, Credit: make([]float64, len(b.m.Aims))})
		}
		if closes && mayClose {
			k := b.closing(b.m.places[i])
			b.m.Closes = append(b.m.Closes, solve.End{First: k, Last: k, Credit: make([]float64, len(b.m.Aims))})
		}
	}
}

// sequence finds the candidates of a template's fixed versions that this client may do. What would
// keep them on the back or in sitting for longer than their conditions allow is left out.
func (b *builder) sequence(slugs []string) (out []int) {
	sitting, _ := b.r.Screener.SittingCap()
	lies, sat := 0, 0
	run := func(so int, how bool, seconds, most int) (int, bool) {
		if !how {
			return 0, true
		}
		return so + seconds, most == 0 || so+seconds <= most
	}
	for _, slug := range slugs {
		i := slices.IndexFunc(b.m.cands, func(c facts.Candidate) bool { return c.V.Slug == slug && !b.outOfReach(&c) })
		if i < 0 {
			i = b.standIn(slug, slugs, out)
		}
		if i < 0 {
			continue
		}
		c := &b.m.cands[i]
		seconds, _, _ := b.worth(c, c.Normal())
		lying, mayLie := run(lies, facts.OnBack(c.V), seconds, b.m.MaxSupine)
		sits, maySit := run(sat, appraise.Sits(c.V), seconds, sitting)
		if mayLie && maySit {
			out = append(out, i)
			lies, sat = lying, sits
		}
	}
	return out
}

// standIn is the candidate that stands in the place of a version of a routine which does not suit, -1 none.
func (b *builder) standIn(slug string, routine []string, taken []int) int {
	v, ok := b.r.Catalogue.Version(slug)
	if !ok || !b.r.Template.IsRoutine() {
		return -1
	}
	for _, w := range b.r.StandIns(v) {
		i := slices.IndexFunc(b.m.cands, func(c facts.Candidate) bool { return c.V.Slug == w && !b.outOfReach(&c) })
		if i >= 0 && !slices.Contains(routine, w) && !slices.Contains(taken, i) {
			return i
		}
	}
	return -1
}

// opener is an end with the reset sweep after it.
func (b *builder) opener(cands []int) solve.End {
	e := b.end(cands, b.opening)
	e.Seconds += b.m.resets[e.Last]
	return e
}

func (b *builder) end(cands []int, in func(plan.Place) int) solve.End {
	e := solve.End{Cands: cands, Credit: make([]float64, len(b.m.Aims))}
	mover := b.r.Mover()
	supine, all := 0, true
	for n, i := range cands {
		c := &b.m.cands[i]
		k := c.Normal()
		seconds, credit, value := b.worth(c, k)
		bl := in(c.Place())
		if n == 0 {
			e.First = bl
		} else {
			s, rise, _ := way.Move(b.m.places[e.Last], c.Place(), mover)
			e.Seconds += s
			e.Price += b.r.Price(b.m.places[e.Last], c.Place(), s)
			if rise {
				e.Rises++
			}
		}
		e.Last = bl
		if f := b.familyOf(c.V); f >= 0 && !b.r.FixedPart(c.V.Slug) {
			e.Families = append(e.Families, f)
		}
		e.Options = append(e.Options, k)
		e.Seconds += seconds
		for a := range credit {
			e.Credit[a] += credit[a]
		}
		e.Value += value
		e.Dirs |= b.r.Visits(c)
		e.Locked = e.Locked || c.Locked != ""
		e.Fresh += facts.CountIf(b.r.IsFresh(c))
		if facts.OnBack(c.V) {
			supine += seconds
		} else {
			supine, all = 0, false
		}
		if all {
			e.SupineHead = supine
		}
	}
	e.SupineTail = supine
	b.m.Reach |= e.Dirs
	return e
}

// network works out every change of posture.
func (b *builder) network() {
	m, mover := b.m, b.r.Mover()
	for i := range m.Blocks {
		for k := range m.Blocks {
			if i != k && m.Blocks[i].Tier >= 0 && m.Blocks[k].Tier >= 0 &&
				m.places[i].Position == m.places[k].Position {
				m.Blocks[i].Peers |= 1 << k
			}
		}
	}
	between := func(from, to plan.Place) solve.Arc {
		s, rise, ok := way.Move(from, to, mover)
		return solve.Arc{Seconds: s, Price: b.r.Price(from, to, s), Rise: rise, OK: ok}
	}
	m.Arcs = make([][]solve.Arc, len(m.Blocks))
	for i := range m.Blocks {
		m.In = append(m.In, between(m.start, m.places[i]))
		m.Out = append(m.Out, between(m.places[i], m.start))
		for k := range m.Blocks {
			m.Arcs[i] = append(m.Arcs[i], between(m.places[i], m.places[k]))
		}
	}
}
