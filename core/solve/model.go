// Package solve finds the best selection of items for a model made of numbers: an opener, a closer
// and body items in blocks visited along a route, with bounds that prove it. It knows nothing of
// what the numbers stand for; core/propose states a session as such a model.
package solve

import "math"

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
	Arcs       [][]Arc // between blocks; an arc with ok false is never taken, a way in or out always is there
	In, Out    []Arc   // from the starting posture, and back to it
	Items      []Column
	Opens      []End
	Closes     []End
	Candidates int // candidates, numbered from 0: a candidate comes in once
	Families   int // families that hold at most two items, numbered from 0
	MaxRises   int
	MaxFresh   int // -1: no bound
	MaxSupine  int // seconds on the back without a break, 0: no bound
	Rows       []Row
	Reach      uint8 // directions that some item visits
}

// Block is one posture on one ground.
type Block struct {
	Tier   int    // in the order school's list: an arc never leads to a lower one
	Peers  uint32 // blocks of the same posture on another ground
	Ground int    // what carries it: 0 upright, else one of the grounds that are risen from
	Supine bool   // its items count as seconds on the back
	// for a block that only holds an opener, the one of its posture that holds the body, -1 none; else itself
	Twin int
}

type Arc struct {
	Seconds int
	Price   float64
	Rise    bool
	OK      bool
}

// Column is one body item in one dose.
type Column struct {
	Cand, Option, Block int
	Family              int // -1: member of a set
	Seconds             int // with the reset after it
	Credit              []float64
	Value               float64 // continuity and preferences
	Dirs                uint8
	Effort              int
	Fresh               bool
	Supine              int // seconds on the back
	Locked              bool
}

// End is an opener or a closer: one item, or a fixed sequence of a template.
type End struct {
	Cands       []int
	Options     []int
	First, Last int // blocks
	Families    []int
	Seconds     int // with the changes of posture inside it
	Price       float64
	Rises       int
	Credit      []float64
	Value       float64
	Dirs        uint8
	Fresh       int
	Rows        []float64 // its amount in each row
	SupineHead  int       // seconds on the back at its beginning
	SupineTail  int       // ... and at its end
	Locked      bool
}

// Row asks that what is chosen amounts to at least so much: items of some kind, no more than
// some (with amounts below 0), or a share of the seconds. A soft row may be missed at a price.
type Row struct {
	Name  string
	Items []float64 // amount of each column; an end carries its own
	Least float64
	Unit  float64 // an amount of this size that is missing is one broken rule in the search
	Soft  float64 // ... or costs so many points; 0: the row must hold
}

// amount is what a column counts in a row.
type amount struct {
	row int
	by  float64
}

// amounts lists for each column the rows in which it counts.
func (m *Model) amounts() [][]amount {
	out := make([][]amount, len(m.Items))
	for i := range m.Rows {
		for col, by := range m.Rows[i].Items {
			if by != 0 {
				out[col] = append(out[col], amount{i, by})
			}
		}
	}
	return out
}

// short is by how many units an amount misses the row, rounded up.
func (r *Row) short(have float64) int {
	if have >= r.Least-1e-6 {
		return 0
	}
	return int(math.Ceil((r.Least - have) / r.Unit))
}

// top is the highest price of an amount of the row.
func (r *Row) top() float64 {
	if r.Soft > 0 {
		return r.Soft / r.Unit
	}
	return numberTop / r.Unit
}

// missing is what missing a soft row costs.
func (r *Row) missing(have float64) float64 { return r.Soft / r.Unit * math.Max(0, r.Least-have) }

// Terms are the numbers of the value, in points, and of the rules; a point is a minute of the
// weightiest aim.
type Terms struct {
	Direction float64 // each direction that is visited
	Short     float64 // each second below the least length costs
	Beyond    float64 // credit between the target and one and a half times of it

	Family           int     // items of one family, at most
	Gentle           int     // effort up to which the hardest item may lie anywhere
	HardFrom, HardTo float64 // shares of the list between which it lies else
	Rising           bool    // no item is easier than one of an earlier posture
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

// Allowed tells whether the order school lets a posture follow another. Leaving the opener's
// posture is free of the school.
func (m *Model) Allowed(from, to int, leavesOpener bool) bool {
	return leavesOpener || m.Blocks[to].Tier >= m.Blocks[from].Tier
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
