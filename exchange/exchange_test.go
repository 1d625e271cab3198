package exchange_test

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/assess"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/exchange"
)

var (
	cat, _   = restbend.Catalogue()
	rules, _ = restbend.Rules()
	today    = trade.On(2026, 11, 20)
)

func example(t testing.TB, name string) []byte {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("..", "docs", "formats", "examples", name+".json"))
	require.NoError(t, err)
	return b
}

// valid checks a document of ours against its published schema.
func valid(t *testing.T, schema string, doc any) {
	t.Helper()
	s, err := exchange.Schema(schema)
	require.NoError(t, err)
	var buf bytes.Buffer
	require.NoError(t, exchange.Write(&buf, doc))
	v, err := jsonschema.UnmarshalJSON(&buf)
	require.NoError(t, err)
	assert.NoError(t, s.Validate(v), schema)
}

func TestEveryDocumentWeWriteFollowsItsSchema(t *testing.T) {
	c, err := exchange.ReadClient(bytes.NewReader(example(t, "client")), cat, rules, today)
	require.NoError(t, err)
	log, err := exchange.ReadLog(bytes.NewReader(example(t, "log")), cat, today)
	require.NoError(t, err)
	valid(t, "client", c)
	valid(t, "log", log)
	r, err := facts.New(cat, rules, nil, c, log, 30, today)
	require.NoError(t, err)
	p, err := propose.Build(r)
	require.NoError(t, err)
	p.Alternatives = edit.Alternatives(r, p)
	for _, i := range []int{2, 4} { // what is done by hand as well
		n, side := 9, trade.Left
		_ = edit.Apply(r, p, edit.Edit{Op: "layer", Item: i})
		_ = edit.Apply(r, p, edit.Edit{Op: "dose", Item: i, Dose: &plan.Typed{Reps: &n, Side: side, Why: "weaker"}})
	}
	valid(t, "plan", p)
	ways, err := restbend.Ways()
	require.NoError(t, err)
	for _, mode := range []string{score.Led, score.Flowing} {
		s, err := score.Build(p, score.Facts{Catalogue: cat, Client: c, Log: log, Ways: ways, Mode: mode})
		require.NoError(t, err)
		valid(t, "score", s)
	}
	valid(t, "next", exchange.NewNext(r.Whole, r.Decisions))
	valid(t, "screen", exchange.NewScreen(r.Screener, r.Screening, cat))
	valid(t, "catalogue", exchange.NewCatalogue(cat))
	assert.Len(t, exchange.NewCatalogue(cat).Versions, 224)

	c.RedFlags = []intake.Flag{{Code: "fainting"}}
	s, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	doc := exchange.NewScreen(s, s.Screen(), cat)
	valid(t, "screen", doc)
	for _, r := range doc.Results {
		assert.Equal(t, trade.ReferFirst, r.Verdict)
	}
}

// The example score is what the example plan is laid out as.
func TestTheExampleScoreIsOfTheExamplePlan(t *testing.T) {
	c, err := exchange.ReadClient(bytes.NewReader(example(t, "client")), cat, rules, today)
	require.NoError(t, err)
	log, err := exchange.ReadLog(bytes.NewReader(example(t, "log")), cat, today)
	require.NoError(t, err)
	var p plan.Plan
	require.NoError(t, json.Unmarshal(example(t, "plan"), &p))
	ways, err := restbend.Ways()
	require.NoError(t, err)
	by, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	s, err := score.Build(&p, score.Facts{Catalogue: cat, Client: c, Log: log, Ways: ways, Mover: by.Mover()})
	require.NoError(t, err)
	var buf bytes.Buffer
	require.NoError(t, exchange.Write(&buf, s))
	assert.JSONEq(t, string(example(t, "score")), buf.String())
}

func TestAClientSurvivesWritingAndReading(t *testing.T) {
	c, err := exchange.ReadClient(bytes.NewReader(example(t, "client")), cat, rules, today)
	require.NoError(t, err)
	var buf bytes.Buffer
	require.NoError(t, exchange.Write(&buf, c))
	again, err := exchange.ReadClient(&buf, cat, rules, today)
	require.NoError(t, err)
	assert.Equal(t, c, again)
}

// Every mistake is named by its path, with what was found and what is allowed.
func TestMistakesInAClient(t *testing.T) {
	client := func(rest string) string { return `{"format": "restbend.client/1", "conditions": []` + rest + `}` }
	for doc, want := range map[string]string{
		`{`:                               "(document): is not JSON",
		`[]`:                              "(document): found array, allowed: object",
		`{"conditions": []}`:              "format: is missing",
		`{"format": "restbend.client/1"}`: "conditions: is missing",
		`{"format": "restbend.client/2", "conditions": []}`: "format: found restbend.client/2, allowed: restbend.client/1",
		client(`, "heigth_cm": 160`):                        "heigth_cm: unknown field",
		client(`, "height_cm": 1e999999999`):                "height_cm: found a number with an exponent",
		client(`, "height_cm": 1.6`):                        "height_cm: found 1.6, allowed: 120 or more",
		client(`, "born": "1957"`):                          "born: found string, allowed: integer",
		client(`, "today": {"date": "2026-02-30"}`):         "today.date: found 2026-02-30, allowed: a real date",
		client(`, "positions": {"floor": "maybe"}`):         `positions.floor: found "maybe"`,
		client(`, "kit": ["matt"]`):                         `kit[0]: found "matt", did you mean "mat"`,
		client(`, "levels": {"bridge": "clam"}`):            `levels.bridge: found "clam", which is not a version of bridge`,
		client(`, "levels": {"brigde": "bridge"}`):          `levels.brigde: unknown family, did you mean "bridge"`,
		client(`, "overrides": [{"version": "brige", "reason": "because", "until": "2026-12-01"}]`):             `overrides[0].version: unknown version "brige", did you mean "bridge"`,
		client(`, "clearances": [{"date": "2026-05-01", "by": "doctor", "covers": [], "until": "2026-04-01"}]`): "clearances[0].until: found 2026-04-01, which is before",
		`{"format": "restbend.client/1", "conditions": [{"code": "osteoporsis"}]}`:                              `conditions[0].code: found "osteoporsis", did you mean "osteoporosis"`,
		`{"format": "restbend.client/1", "conditions": [{"code": "stenosis"}, {"code": "stenosis"}]}`:           `conditions[1].code: "stenosis" is recorded twice`,
	} {
		_, err := exchange.ReadClient(strings.NewReader(doc), cat, rules, today)
		var p exchange.Problems
		require.ErrorAs(t, err, &p, doc)
		assert.Contains(t, err.Error(), want)
	}
}

func TestMistakesInALog(t *testing.T) {
	log := func(item string) string {
		return `{"format": "restbend.log/1", "sessions": [{"date": "2026-11-10", "items": [` + item + `]}]}`
	}
	for doc, want := range map[string]string{
		log(`{"version": "bridg", "done": {"sets": 1, "reps": 1}}`):                       `sessions[0].items[0].version: unknown version "bridg", did you mean "bridge"`,
		log(`{"version": "bridge"}`):                                                      "sessions[0].items[0].done: is missing",
		log(`{"version": "bridge", "done": {"sets": 1, "reps": -1}}`):                     "sessions[0].items[0].done.reps: found -1, allowed: 0 or more",
		log(`{"version": "bridge", "done": {"sets": 1, "reps": 1}, "ended_by": "bell"}`):  `ended_by: found "bell"`,
		log(`{"version": "bridge", "done": {"sets": 1, "reps": 1}, "pain": 11}`):          "pain: found 11, allowed: 10 or less",
		`{"format": "restbend.log/1", "sessions": [{"date": "10.11.2026", "items": []}]}`: "sessions[0].date: found 10.11.2026",
		`{"format": "restbend.log/1", "sessions": [{"date": "2026-11-10"}], "extra": 1}`:  "extra: unknown field",
	} {
		_, err := exchange.ReadLog(strings.NewReader(doc), cat, today)
		assert.ErrorContains(t, err, want)
	}
	_, err := exchange.ReadLog(strings.NewReader(log(`{"version": "bridge", "done": {"sets": 1, "reps": 1}, "form_lost_s": null, "symptom_at_rep": null}`)), cat, today)
	assert.NoError(t, err, "null is absent")
}

func FuzzReadClient(f *testing.F) {
	f.Add(example(f, "client"))
	f.Add([]byte(`{"format":"restbend.client/1","conditions":[{"code":"stenosis"}],"today":{"date":"2026-11-20"}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		c, err := exchange.ReadClient(bytes.NewReader(data), cat, rules, today)
		if err != nil {
			return
		}
		s, err := safety.NewScreener(rules, cat, c, today) // an accepted client can be screened
		if err != nil {
			t.Fatal(err)
		}
		if len(s.Screen("bridge").Results) != 1 {
			t.Fatal("no verdict")
		}
		if _, err := json.Marshal(c); err != nil {
			t.Fatal(err)
		}
	})
}

func FuzzReadLog(f *testing.F) {
	f.Add(example(f, "log"))
	f.Fuzz(func(t *testing.T, data []byte) {
		l, err := exchange.ReadLog(bytes.NewReader(data), cat, today)
		if err != nil {
			return
		}
		_, ds := progress.Decide(progress.Input{Catalogue: cat, Log: *l, Today: today, Suits: func(string) bool { return true }})
		for _, d := range ds {
			if d.Rule == "" || d.Because == "" { // decisions never panic and always say why
				t.Fatalf("%+v", d)
			}
		}
	})
}

// Results that are accepted are judged in numbers that can be written down.
func FuzzReadResults(f *testing.F) {
	norms, err := restbend.Norms()
	if err != nil {
		f.Fatal(err)
	}
	f.Add(example(f, "results"))
	f.Add([]byte(`{"format":"restbend.results/1","date":"2026-11-18","results":{"up_and_go_s":12.4,"one_leg_left_s":[1,2],"clock":{"4":1}}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		r, err := exchange.ReadResults(bytes.NewReader(data), today)
		if err != nil {
			return
		}
		if _, err := json.Marshal(assess.Assess(norms, &intake.Client{}, r)); err != nil {
			t.Fatal(err)
		}
	})
}

// The document tells of every joint of the arm what a reader needs to draw it.
func TestLimbsOfTheArm(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	for _, v := range exchange.NewCatalogue(cat).Versions {
		if v.Version != "low-breath-supine" {
			continue
		}
		limbs := v.Phases[0].Limbs
		for _, name := range []string{"shoulder.left", "shoulder.right"} {
			assert.InDelta(t, -55, limbs[name]["rotation"], 10, "the arm is turned in")
			assert.InDelta(t, 25, limbs[name]["elevation"], 10)
		}
		assert.Contains(t, limbs["forearm.left"], "pronation")
		assert.InDelta(t, 0, limbs["wrist.left"]["extension"], 59)
		return
	}
	t.Fatal("low-breath-supine is not in the catalogue")
}
