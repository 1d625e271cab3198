package web

import (
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/dose"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
)

var day = trade.On(2026, 11, 20)

func request(t *testing.T, c *intake.Client) *facts.Request {
	t.Helper()
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	r, err := facts.New(cat, rules, nil, c, nil, 30, day)
	require.NoError(t, err)
	return r
}

func able() *intake.Client {
	return &intake.Client{Positions: map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes", "kneel": "yes", "hands": "yes", "stand_free": "yes"}}
}

// The rose shows the tightest limit that holds in each direction.
func TestRose(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	no := false
	c := able()
	c.Conditions = []intake.Condition{{Code: "osteoporosis", Fracture: &no}}
	v := rose(request(t, c).Screener, nil)
	allowed := map[string]int{}
	for _, a := range v.Axes {
		allowed[a.Name] = a.AllowedDeg
	}
	assert.Equal(t, map[string]int{"bend": 10, "turn right": 5, "side right": 10, "arch": 25, "side left": 10, "turn left": 5}, allowed)
	assert.Empty(t, v.Used)
	free := rose(request(t, able()).Screener, nil)
	for _, a := range free.Axes {
		assert.InDelta(t, 1, a.Allowed, 1e-9, a.Name)
	}
}

// A session drawn in the rose stays inside the client's shape.
func TestASessionStaysInsideTheRose(t *testing.T) {
	c := able()
	c.Conditions = []intake.Condition{{Code: "stenosis"}}
	r := request(t, c)
	p, err := propose.Build(r)
	require.NoError(t, err)
	v := rose(r.Screener, sessionPeaks(p, r.Catalogue))
	assert.NotEmpty(t, v.Used)
	for _, a := range v.Axes {
		assert.LessOrEqual(t, a.Used, a.Allowed+0.05, a.Name) // a joint may pass its end by half a degree
	}
}

func TestPostureLineFollowsThePlan(t *testing.T) {
	r := request(t, able())
	p, err := propose.Build(r)
	require.NoError(t, err)
	v := postureLine(p, r.Catalogue, 2, map[int]bool{1: true})
	assert.Len(t, v.Stops, len(p.Items))
	assert.Len(t, v.Ribbon, len(p.Items))
	for i := 1; i < len(v.Stops); i++ {
		assert.Greater(t, v.Stops[i].X, v.Stops[i-1].X)
		assert.Equal(t, plan.Height(p.Items[i].Position) > plan.Height(p.Items[i-1].Position), v.Stops[i].Y < v.Stops[i-1].Y)
	}
	assert.True(t, strings.HasPrefix(v.Path, "M96.0 "), "begins standing at minute 0")
	assert.Equal(t, "standing", v.Levels[len(v.Levels)-1].Name)

	// An arrow stands where the client gets up from the floor, as often as the rule counts; a
	// bed is no floor.
	counted := func(p *plan.Plan) string {
		k := p.Checks[slices.IndexFunc(p.Checks, func(k plan.Check) bool { return k.Rule == "floor-transfers" })]
		return k.Detail
	}
	c := able()
	c.Aims, c.Surfaces = map[string]float64{"deep-core": 3, "hip-strength": 2}, []trade.Surface{"mat"}
	p, err = propose.Build(request(t, c))
	require.NoError(t, err)
	require.Len(t, postureLine(p, r.Catalogue, 0, nil).Rises, 1)
	assert.Contains(t, counted(p), "1 rise from the floor")
	c.Positions["floor"], c.Surfaces = "no", []trade.Surface{"bed", "chair", "wall"}
	p, err = propose.Build(request(t, c))
	require.NoError(t, err)
	require.True(t, slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Surface == "bed" }))
	assert.Empty(t, postureLine(p, r.Catalogue, 0, nil).Rises)
	assert.Contains(t, counted(p), "no rise from the floor")
}

func TestDoseInWords(t *testing.T) {
	for want, it := range map[string]plan.Item{
		"6-4-2 times, hold 10 s, each side":              {Side: "each", Dose: dose.Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10}},
		"2 x 8, hold 3 s":                                {Side: "none", Dose: dose.Dose{Sets: 2, Reps: 8, HoldS: 3}},
		"once, hold 5 breaths":                           {Side: "none", Dose: dose.Dose{Sets: 1, Reps: 1, HoldBreaths: 5}},
		"10 times, sides in turn":                        {Side: "alternate", Dose: dose.Dose{Sets: 1, Reps: 10}},
		"8 times, left only":                             {Side: "left", Dose: dose.Dose{Sets: 1, Reps: 8}},
		"6 times, hold 2 counts":                         {Side: "none", Dose: dose.Dose{Sets: 1, Reps: 6, HoldCounts: 2}},
		"once, hold 30 s, each side, extra on the right": {Side: "each", Dose: dose.Dose{Sets: 1, Reps: 1, HoldS: 30, Extra: &dose.Extra{Side: "right", Share: 0.5}}},
	} {
		assert.Equal(t, want, doseText(it))
	}
}

// What the intake form shows is what it saves: a client goes through the form unchanged.
func TestAClientSurvivesTheForm(t *testing.T) {
	yes, three := true, 3
	c := &intake.Client{Format: "restbend.client/1", Name: "Runa Tidewell", Born: 1960, Sex: "female", HeightCM: 165.5, MassKG: 70, Complaint: "stiff", RedFlags: []intake.Flag{{Code: "weight-loss"}},
		Conditions: []intake.Condition{{Code: "osteoporosis", School: "graded", Fracture: &yes, FractureDate: trade.MustDay("2025-01-02")}, {Code: "low-back-pain", Phase: "acute", ProvokedBy: []string{"flexion", "rotation"}},
			{Code: "scoliosis", Region: "thoracic", Convex: "left", Degrees: 22}, {Code: "spinal-fusion", Region: "lumbar", Date: trade.MustDay("2024-03-01"), Levels: "L4-S1"}, {Code: "pregnancy", Weeks: 12, Date: trade.MustDay("2026-11-01")},
			{Code: "hip-replacement", Side: "left", Approach: "anterior", Date: trade.MustDay("2026-01-05")}, {Code: "high-blood-pressure", Controlled: &yes}, {Code: "spondylolisthesis", Grade: 2}, {Code: "disc-sciatica", Preference: "extension"}},
		Positions: map[string]string{"floor": "help", "stand_free": "held"}, FloorMax: &three, Pain: &intake.Pain{Now: 0, Worst: 4, StopAbove: 5},
		Clearances: []intake.Clearance{{Date: trade.MustDay("2026-05-01"), By: "surgeon", Covers: []string{"spinal-fusion"}, Limits: "no lifting", Until: trade.MustDay("2026-12-01")}, {Date: trade.MustDay("2026-01-01"), By: "doctor", Covers: []string{"weight-loss"}}},
		Operations: []intake.Operation{{What: "appendix", Date: trade.MustDay("1990-01-01")}, {What: "knee"}}, Confidence: &three, Consent: &intake.Consent{Date: trade.MustDay("2026-11-01")}, History: "since spring", NextReview: trade.MustDay("2027-01-01"), SessionsPerWeek: 2, Notes: "likes mornings",
		Kit: []string{"towel"}, Surfaces: []trade.Surface{"bed", "chair"}, Aims: map[string]float64{"balance": 2.5}, Tasks: []string{"stairs", "lift a bag"},
		Schools: intake.Schools{Core: "brace", Dose: "reps", Order: "standing-first"}, BreathRate: 11, EffortCap: 5}
	got := &intake.Client{Aims: map[string]float64{"balance": 2.5}} // the form says an aim in words; the same in words keeps its weight
	assert.Empty(t, fillAll(got, valuesOf(c)))
	got.Format = c.Format
	assert.Equal(t, c, got)

	fresh := &intake.Client{}
	assert.Empty(t, fillAll(fresh, valuesOf(c)))
	assert.Equal(t, map[string]float64{"balance": 3}, fresh.Aims, "more")
	proposed := &intake.Client{}
	v := valuesOf(c)
	v.Set("proposed.balance", "more")
	assert.Empty(t, fillAll(proposed, v))
	assert.Empty(t, proposed.Aims, "what is proposed goes on following the client")

	// A step changes only what it shows.
	again := *c
	f := &filler{c: &again, rules: published(), v: url.Values{"effort_cap": {"4"}}}
	f.schools()
	assert.Equal(t, c.Conditions, again.Conditions)
	assert.Equal(t, c.Clearances, again.Clearances)
	assert.Equal(t, 4, again.EffortCap)
}

// published are the rules of the program.
var published = sync.OnceValue(func() *safety.Rules {
	rules, err := restbend.Rules()
	if err != nil {
		panic(err)
	}
	return rules
})

// fillAll takes a client through every step of the form.
func fillAll(c *intake.Client, v url.Values) exchange.Problems {
	f := &filler{c: c, rules: published(), v: v}
	for _, s := range intakeSteps {
		s.fill(f)
	}
	return f.problems
}

func TestTheFormNamesNumbersThatAreNot(t *testing.T) {
	p := fillAll(&intake.Client{}, url.Values{"name": {"R"}, "asked": {"yes"}, "surfaces": {"mat"}, "born": {"1960.5"}, "mass_kg": {"heavy"}, "height_cm": {"165,5"}, "conditions": {"scoliosis"}, "condition.scoliosis.degrees": {"many"}})
	assert.Equal(t, "born: found 1960.5, allowed: a whole number\nmass_kg: found \"heavy\", allowed: a number\ncondition.scoliosis.degrees: found \"many\", allowed: a number", p.Error())
}
