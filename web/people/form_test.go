package people

import (
	"net/url"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
)

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
	for _, s := range IntakeSteps {
		s.fill(f)
	}
	return f.problems
}

func TestTheFormNamesNumbersThatAreNot(t *testing.T) {
	p := fillAll(&intake.Client{}, url.Values{"name": {"R"}, "asked": {"yes"}, "surfaces": {"mat"}, "born": {"1960.5"}, "mass_kg": {"heavy"}, "height_cm": {"165,5"}, "conditions": {"scoliosis"}, "condition.scoliosis.degrees": {"many"}})
	assert.Equal(t, "born: found 1960.5, allowed: a whole number\nmass_kg: found \"heavy\", allowed: a number\ncondition.scoliosis.degrees: found \"many\", allowed: a number", p.Error())
}
