// Package plantest draws random clients and logs by seed, for tests and benchmarks of the
// planner.
package plantest

import (
	"math/rand/v2"
	"slices"
	"time"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/safety"
	"restbend/core/trade"
)

// Today is the day of every drawn request.
var Today = trade.On(2026, time.November, 20)

// Trade is what requests are drawn from.
type Trade struct {
	Cat       *catalogue.Catalogue
	Rules     *safety.Rules
	Tasks     []catalogue.Task
	Templates []kinds.Template
}

// Load reads the trade as it is delivered.
func Load() (t Trade, err error) {
	if t.Cat, err = restbend.Catalogue(); err != nil {
		return t, err
	}
	if t.Rules, err = restbend.Rules(); err != nil {
		return t, err
	}
	if t.Tasks, err = restbend.Tasks(); err != nil {
		return t, err
	}
	t.Templates, err = restbend.Templates(t.Cat)
	return t, err
}

// Minutes are the lengths drawn.
var Minutes = []int{15, 20, 25, 30, 35, 40, 45, 50}

// Request draws a client, often with a log, and a length between 15 and 50 minutes.
func (t Trade) Request(seed uint64) (*facts.Request, error) {
	rng := rand.New(rand.NewPCG(seed, 4711))
	c := t.client(rng)
	minutes := Minutes[rng.IntN(len(Minutes))]
	var log *progress.Log
	if rng.IntN(3) > 0 {
		log = t.log(rng, c)
	}
	r, err := facts.New(t.Cat, t.Rules, t.Tasks, c, log, minutes, Today)
	if err != nil {
		return nil, err
	}
	if len(t.Templates) > 0 && rng.IntN(4) == 0 {
		r = r.For(&t.Templates[rng.IntN(len(t.Templates))])
	}
	return r, nil
}

func one[T any](rng *rand.Rand, of ...T) T { return of[rng.IntN(len(of))] }

func (t Trade) client(rng *rand.Rand) *intake.Client {
	c := &intake.Client{
		Format:     "restbend.client/1",
		Name:       "Drawn",
		Positions:  map[string]string{},
		BreathRate: one(rng, 8.0, 10, 12, 12, 15, 20),
		Aims:       map[string]float64{},
		Today:      intake.Today{Date: Today},
	}
	for _, p := range []string{"floor", "supine", "prone", "side_left", "side_right", "kneel", "hands", "floor_sit"} {
		c.Positions[p] = one(rng, "yes", "yes", "yes", "yes", "help", "no")
	}
	c.Positions["stand_free"] = one(rng, "yes", "yes", "yes", "held", "no")
	c.Surfaces = append(c.Surfaces, trade.Mat, trade.Chair)
	for _, s := range []trade.Surface{trade.Bed, trade.Sofa, trade.Counter, trade.Wall} {
		if rng.IntN(2) == 0 {
			c.Surfaces = append(c.Surfaces, s)
		}
	}
	c.Kit = []string{"towel", "pillow"}
	for _, k := range []string{"dowel", "band", "ball", "ring", "dumbbell", "strap", "bolster", "cushion"} {
		if rng.IntN(3) == 0 {
			c.Kit = append(c.Kit, k)
		}
	}
	for range rng.IntN(4) {
		c.Conditions = append(c.Conditions, t.condition(rng))
	}
	cover := intake.Clearance{Date: trade.On(2026, time.November, 1), By: "physiotherapist"}
	for _, k := range c.Conditions {
		cover.Covers = append(cover.Covers, k.Code)
	}
	if cover.Covers != nil {
		c.Clearances = []intake.Clearance{cover}
	}
	for range 1 + rng.IntN(6) {
		c.Aims[one(rng, catalogue.Aims...)] = float64(1 + rng.IntN(5))
	}
	if rng.IntN(2) == 0 {
		c.Tasks = []string{one(rng, t.Tasks...).Name}
	}
	c.Schools = intake.Schools{
		Dose:  one(rng, append([]string{""}, catalogue.Schools...)...),
		Order: one(rng, "", "lying-first", "standing-first"),
		Sides: one(rng, "", "alternate", "same-side"),
	}
	if rng.IntN(4) == 0 {
		c.EffortCap = 3 + rng.IntN(5)
	}
	if rng.IntN(3) == 0 {
		n := rng.IntN(3)
		c.FloorMax = &n
	}
	c.Today.TightTurn = one(rng, "", "", trade.Left, trade.Right)
	return c
}

// condition draws one whose limits can be planned around: with dates long past.
func (t Trade) condition(rng *rand.Rand) intake.Condition {
	no := false
	k := intake.Condition{
		Code:       one(rng, t.Rules.Conditions...).Code,
		Side:       one(rng, trade.BothSides[:]...),
		Preference: one(rng, "extension", "flexion", "none"),
		School:     one(rng, "strict", "graded"),
		Region:     one(rng, "lumbar", "thoracic"),
		Convex:     one(rng, trade.BothSides[:]...),
		Degrees:    20,
		Date:       trade.On(2025, time.June, 1),
		Phase:      one(rng, "acute", "subacute", "persistent"),
		Grade:      1,
		Fracture:   &no,
		Approach:   one(rng, "posterior", "anterior"),
	}
	if k.Code == "pregnancy" {
		k.Date, k.Weeks = trade.Day{}, 10+rng.IntN(20)
	}
	return k
}

// log draws sessions of versions the client may do: a first one, then a few in which some
// items leave and others come, as over the weeks of a course.
func (t Trade) log(rng *rand.Rand, c *intake.Client) *progress.Log {
	r, err := facts.New(t.Cat, t.Rules, t.Tasks, c, nil, 30, Today)
	if err != nil || r.Screening.Refer != nil {
		return nil
	}
	others := edit.Adoptable(r, &plan.Plan{})
	var items []plan.Item
	come := func() {
		if len(others) > 0 {
			k := rng.IntN(len(others))
			v := others[k]
			others = append(others[:k:k], others[k+1:]...)
			items = append(
				items[:len(items):len(items)],
				plan.Item{Version: v.Slug, Side: v.SideMode, Dose: v.Dose(c.DoseSchool(), 0)},
			)
		}
	}
	for range 6 + rng.IntN(6) {
		come()
	}
	if len(items) == 0 {
		return nil
	}
	log := &progress.Log{Format: "restbend.log/1"}
	sessions := 2 + rng.IntN(6)
	for i := range sessions {
		s := progress.Session{
			Date:     Today.AddDays(-4 * (sessions - i)),
			Soreness: &progress.Soreness{Peak: 1, SettledH: one(rng, 6.0, 12, 20, 30)},
		}
		for _, it := range items {
			s.Items = append(s.Items, done(rng, it.Version, it.Side, it.Dose))
		}
		log.Sessions = append(log.Sessions, s)
		for range 3 { // some leave, some come
			if k := rng.IntN(len(items)); len(items) > 4 {
				items = append(items[:k:k], items[k+1:]...)
			}
			come()
		}
	}
	return log
}

// done is one item as it was done: mostly clean, now and then not.
func done(rng *rand.Rand, slug string, side trade.Side, d dose.Dose) progress.Item {
	a := progress.Amount{Sets: max(1, d.Sets), Reps: d.Reps, HoldS: d.HoldS, HoldBreaths: d.HoldBreaths}
	it := progress.Item{Version: slug, Target: a, Done: a, EndedBy: "target"}
	if side.One() {
		it.Side = side
	}
	switch n := rng.IntN(12); {
	case n == 0 && a.Reps > 2:
		rep := 2
		it.SymptomRep, it.EndedBy = &rep, "symptom"
	case n == 1:
		it.EndedBy = "form"
	}
	return it
}

// Next is the request after a session in which every item was done and some were not
// clean, three days later.
func (t Trade) Next(rng *rand.Rand, r *facts.Request, p *plan.Plan) (*facts.Request, error) {
	log := &progress.Log{Format: "restbend.log/1"}
	if r.Log != nil {
		log.Sessions = slices.Clone(r.Log.Sessions)
	}
	s := progress.Session{Date: Today, Soreness: &progress.Soreness{Peak: 1, SettledH: 12}}
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		a := progress.Amount{
			Sets:        max(1, it.Dose.Sets),
			Reps:        it.Dose.Reps,
			HoldS:       it.Dose.HoldS,
			HoldBreaths: it.Dose.HoldBreaths,
		}
		d := progress.Item{Version: it.Version, Target: a, Done: a, EndedBy: "target"}
		switch rep := 1 + rng.IntN(4); rng.IntN(4) {
		case 0:
			d.SymptomRep, d.EndedBy = &rep, "symptom"
		case 1:
			d.EndedBy = "form"
		}
		s.Items = append(s.Items, d)
	}
	log.Sessions = append(log.Sessions, s)
	if rng.IntN(5) == 0 {
		start := 7.0
		log.Sessions[len(log.Sessions)-1].PainStart = &start
	}
	c := *r.Client
	c.Today.Date = Today.AddDays(3)
	q, err := facts.New(t.Cat, t.Rules, t.Tasks, &c, log, r.Minutes, Today.AddDays(3))
	if err != nil {
		return nil, err
	}
	return q.For(r.Template), nil
}
