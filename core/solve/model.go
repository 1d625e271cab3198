// Package solve finds the best selection of items for a model made of numbers: an opener, a closer
// and body items in blocks visited along a route, with bounds that prove it. It knows nothing of
// what the numbers stand for; core/plan states a session as such a model.
package solve

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
	Terms       Terms

	Blocks     []Block
	Arcs       [][]Arc // between blocks; an arc that the order school forbids has ok false
	In, Out    []Arc   // from the starting posture, and back to it
	Items      []Column
	Opens      []End
	Closes     []End
	Candidates int // candidates, numbered from 0: a candidate comes in once
	Families   int // families that hold at most two items, numbered from 0
	MaxRises   int
	MaxStrong  int
	MaxFresh   int // -1: no bound
	MaxSupine  int // seconds on the back without a break, 0: no bound
	Musts      []Must
	Reach      uint8 // directions that some item visits
}

// block is one posture on one ground.
type Block struct {
	Tier   int    // of the order school: an arc never leads to a lower tier
	Rank   int    // in the school's list
	Peers  uint32 // blocks of the same posture on another ground
	Ground int    // what carries it: 0 upright, else one of the grounds that are risen from
	Supine bool   // its items count as seconds on the back
}

type Arc struct {
	Seconds int
	Price   float64
	Rise    bool
	OK      bool
}

// column is one body item in one dose.
type Column struct {
	Cand, Option, Block int
	Family              int // -1: member of a set
	Seconds             int // with the reset after it
	Credit              []float64
	Value               float64 // continuity and preferences
	Dirs                uint8
	Effort              int
	Strong, Fresh       bool
	Supine              int // seconds on the back
	Locked              bool
}

// end is an opener or a closer: one item, or a fixed sequence of a template.
type End struct {
	Cands       []int
	Options     []int
	First, Last int    // blocks
	Inner       uint32 // blocks that only it visits
	Shut        uint32 // blocks of the same postures on another ground
	Families    []int
	Seconds     int // with the changes of posture inside it
	Price       float64
	Rises       int
	Credit      []float64
	Value       float64
	Dirs        uint8
	Fresh       int
	SupineHead  int // seconds on the back at its beginning
	SupineTail  int // ... and at its end
	Locked      bool
}

// must asks for some of the listed candidates.
type Must struct {
	Name  string
	Cands []int
	Least int
}

// Terms are the numbers of the value, in points, and of the rules; a point is a minute of the
// weightiest aim.
type Terms struct {
	Direction float64 // each direction that is visited
	Short     float64 // each second below the least length costs
	Against   float64 // a change of posture against the order school's list costs
	Beyond    float64 // credit between the target and one and a half times of it

	Family           int     // items of one family, at most
	Gentle           int     // effort up to which the hardest item may lie anywhere
	HardFrom, HardTo float64 // shares of the list between which it lies else
}

// clashes tells whether an opener and a closer share an item, or the closer would return to
// a posture that a fixed beginning has already left.
func (e *End) clashes(c *End) bool {
	if (e.Inner|e.Shut)>>c.First&1 == 1 {
		return true
	}
	return e.shares(c)
}

// shares tells whether two ends have an item in common.
func (e *End) shares(c *End) bool {
	for _, i := range e.Cands {
		if c.has(i) {
			return true
		}
	}
	return false
}

// against is the price of going against the order school's list; ok is false when the
// school forbids it. Leaving the opener's posture is free of the school.
func (m *Model) Against(from, to int, leavesOpener bool) (points float64, ok bool) {
	if leavesOpener {
		return 0, true
	}
	a, b := &m.Blocks[from], &m.Blocks[to]
	if b.Tier < a.Tier {
		return 0, false
	}
	if b.Rank < a.Rank {
		return m.Terms.Against, true
	}
	return 0, true
}

// Order is the blocks of a selection as they are visited.
func (m *Model) Order(sel Selection) []int {
	t := newTally(m, newRoutes(m), sel)
	o, c := &m.Opens[sel.Open], &m.Closes[sel.Close]
	mask := uint32(1) << o.Last
	for b := range m.Blocks {
		if t.counts[b] > 0 {
			mask |= 1 << b
		}
	}
	s := t.routes.set(mask, o.Last, c.First)
	wrong := 0
	w, found := t.way(mask, &wrong)
	if s == nil || !found {
		return nil
	}
	return s.order(w, t.left(s))
}

// Value judges a selection; ok is false when it breaks a rule.
func (m *Model) Value(sel Selection) (value float64, ok bool) {
	t := newTally(m, newRoutes(m), sel)
	value, ok = t.judge()
	seen := map[int]bool{}
	for _, c := range sel.Body {
		cand := m.Items[c].Cand
		ok = ok && !seen[cand] && !t.uses(cand)
		seen[cand] = true
	}
	return value, ok
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
