package plan

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sort"

	"restbend/core/catalogue"
)

// rounds of the search; a count, never a clock, so that the same input gives the same
// session.
const rounds = 2500

// Build makes a session. It refuses (Refused) when a clinician comes first, when the
// minutes are out of range or when nothing suits.
func Build(r *Request) (*Plan, error) {
	if r.Screening.Refer != nil {
		return nil, &Refused{r.Screening.Refer.Say}
	}
	if r.Minutes < MinMinutes || r.Minutes > MaxMinutes {
		return nil, &Refused{fmt.Sprintf("minutes: found %d, allowed: %d to %d", r.Minutes, MinMinutes, MaxMinutes)}
	}
	for _, d := range r.Decisions {
		if d.Decision == "refer" {
			return nil, &Refused{"See a clinician before the next session: " + d.Because}
		}
	}
	cs := r.candidates()
	s := &search{r: r, all: cs, items: map[itemKey]Item{}, rng: rand.New(rand.NewPCG(20261123, uint64(r.Minutes)))}
	if !s.start() {
		return nil, &Refused{"no opener or closer suits this client in this place; confirm positions or add a surface"}
	}
	s.run()
	p := s.plan(s.best)
	if len(p.Items) < 3 {
		return nil, &Refused{"too little suits this client in this place; confirm positions or add a surface"}
	}
	return p, nil
}

// choice is one set of items: candidate index to dose step.
type choice struct {
	open, close int
	main        map[int]int
}

func (c choice) clone() choice {
	m := make(map[int]int, len(c.main))
	for k, v := range c.main {
		m[k] = v
	}
	return choice{c.open, c.close, m}
}

type search struct {
	r         *Request
	all       []candidate
	opens     []int
	closes    []int
	mains     []int
	rng       *rand.Rand
	best      choice
	bestScore float64
	items     map[itemKey]Item
}

type itemKey struct {
	candidate, step int
	role            string
}

// item is a candidate's item, worked out once.
func (s *search) item(k int, role string, step int) Item {
	key := itemKey{k, step, role}
	it, ok := s.items[key]
	if !ok {
		it = s.r.item(&s.all[k], role, step)
		s.items[key] = it
	}
	return it
}

// opener families come from breath and set-up, closers serve relaxation or posture
// (rule 1).
var openFamilies = []string{"side-rib-breath", "low-breath", "long-spine", "deep-core", "neutral-imprint"}

func (s *search) start() bool {
	for i, c := range s.all {
		if c.v.Family == "reset-sweep" {
			if c.v.Effort <= 2 {
				s.closes = append(s.closes, i)
			}
			continue
		}
		if slices.Contains(openFamilies, c.v.Family) && c.v.Effort <= 2 {
			s.opens = append(s.opens, i)
		}
		if c.v.Effort <= 2 && (catalogue.Has(c.v.Aims, "relaxation") || catalogue.Has(c.v.Aims, "posture")) {
			s.closes = append(s.closes, i)
		}
		s.mains = append(s.mains, i)
	}
	for _, o := range s.opens {
		for _, c := range s.closes {
			ch := choice{o, c, map[int]int{}}
			if o == c {
				continue
			}
			if sc := s.value(ch); s.best.main == nil || sc > s.bestScore {
				s.best, s.bestScore = ch, sc
			}
		}
	}
	return s.best.main != nil
}

// run climbs by small changes: add, drop, exchange, lengthen, change opener or closer.
// Now and then it starts again from the best.
func (s *search) run() {
	cur, curScore := s.best.clone(), s.bestScore
	for i := 0; i < rounds; i++ {
		if i%250 == 249 {
			cur = s.best.clone()
			for k := 0; k < 2; k++ {
				s.change(&cur)
			}
			curScore = s.value(cur)
		}
		next := cur.clone()
		s.change(&next)
		if v := s.value(next); v >= curScore {
			cur, curScore = next, v
			if v > s.bestScore {
				s.best, s.bestScore = next.clone(), v
			}
		}
	}
}

func (s *search) change(c *choice) {
	keys := make([]int, 0, len(c.main))
	for k := range c.main {
		keys = append(keys, k)
	}
	sort.Ints(keys)
	pick := func(l []int) int { return l[s.rng.IntN(len(l))] }
	add := func() {
		if k := pick(s.mains); k != c.open && k != c.close {
			if _, in := c.main[k]; !in {
				c.main[k] = s.all[k].minStep
			}
		}
	}
	switch op := s.rng.IntN(10); {
	case op < 4 || len(keys) == 0:
		add()
	case op < 5:
		delete(c.main, pick(keys))
	case op < 7:
		delete(c.main, pick(keys))
		add()
	case op < 9:
		k := pick(keys)
		lo, hi := s.all[k].minStep, s.all[k].maxStep
		if hi > lo {
			c.main[k] = lo + s.rng.IntN(hi-lo+1)
		}
	default:
		if s.rng.IntN(2) == 0 {
			c.open = pick(s.opens)
		} else {
			c.close = pick(s.closes)
		}
		delete(c.main, c.open)
		delete(c.main, c.close)
	}
}

// order of the positions: a little more demanding each time, or standing first while
// fresh and ending seated (two schools).
var (
	lyingFirst    = []string{"supine", "side", "prone", "all-fours", "kneeling", "half-kneeling", "long-sitting", "sitting", "standing"}
	standingFirst = []string{"standing", "sitting", "all-fours", "kneeling", "half-kneeling", "long-sitting", "prone", "side", "supine"}
)

// route is the client's order school: standing first by default with bone loss or a
// risk of falls when standing free is confirmed.
func (r *Request) route() []string {
	order := r.Client.Schools.Order
	if order == "" && r.Client.Positions["stand_free"] == "yes" {
		for _, c := range r.Client.Conditions {
			if c.Code == "osteoporosis" || c.Code == "falls-risk" {
				order = "standing-first"
			}
		}
	}
	if order == "standing-first" {
		return standingFirst
	}
	return lyingFirst
}

// plan lays a choice out in order and times it.
func (s *search) plan(c choice) *Plan {
	r := s.r
	p := &Plan{Format: "restbend.plan/1", Minutes: r.Minutes, Items: []Item{}}
	keys := make([]int, 0, len(c.main))
	for k := range c.main {
		keys = append(keys, k)
	}
	route := r.route()
	// The opener's position comes first, so that nobody gets up to come back down.
	open := &s.all[c.open]
	rank := func(k int) int {
		if s.all[k].v.Position == open.v.Position {
			return -1
		}
		return slices.Index(route, s.all[k].v.Position)
	}
	sort.Slice(keys, func(i, j int) bool {
		a, b := keys[i], keys[j]
		if rank(a) != rank(b) {
			return rank(a) < rank(b)
		}
		if s.all[a].v.Effort != s.all[b].v.Effort {
			return s.all[a].v.Effort < s.all[b].v.Effort
		}
		return a < b
	})
	p.Items = append(p.Items, s.item(c.open, "open", min(1, open.maxStep)))
	for _, k := range keys {
		p.Items = append(p.Items, s.item(k, "main", c.main[k]))
	}
	p.Items = append(p.Items, s.item(c.close, "close", s.all[c.close].minStep))
	r.Retime(p)
	return p
}

// value is the score with a penalty for every rule that is broken.
func (s *search) value(c choice) float64 {
	p := s.plan(c)
	v := p.Score
	for _, k := range p.Checks {
		if !k.OK && k.Rule != "time" {
			v -= 25
		}
	}
	if over := strong(p) - maxMain(p.Minutes); over > 0 { // the more too many, the worse
		v -= 10 * float64(over)
	}
	asked := float64(60 * p.Minutes)
	if over := float64(p.Seconds) - asked; over > 0 {
		v -= 30 + over/10
	}
	if short := 0.94*asked - float64(p.Seconds); short > 0 {
		v -= short / 12
	}
	fresh := 0
	for i := range p.Items {
		if len(s.r.Last) > 0 && !slices.Contains(s.r.Seen, p.Items[i].Version) {
			fresh++
		}
	}
	if fresh > 2 { // at most two new items a session
		v -= 4 * float64(fresh-2)
	}
	return v
}
