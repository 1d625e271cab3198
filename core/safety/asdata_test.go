package safety_test

import (
	"bytes"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// The published schema names the conditions and the words of the rule file.
func TestThePublishedSchemaIsTheData(t *testing.T) {
	published, err := os.ReadFile("../../docs/formats/client.schema.json")
	require.NoError(t, err)
	filled, err := restbend.Schema("client")
	require.NoError(t, err)
	assert.JSONEq(t, string(filled), string(published))
}

// Adding a condition is its data: verdicts, notes, referral and the schema of documents come
// from it, and no line of the program names it.
func TestAConditionIsItsData(t *testing.T) {
	file, err := os.ReadFile("limits.yaml")
	require.NoError(t, err)
	text := strings.Replace(string(file), "\nconditions:\n", `
conditions:
- code: sore-heel
  group: Joints
  name: Sore heel
  asks: [side, phase, date]
  also:
  - {when: {phase: acute}, like: falls-risk, without: [standing.narrow]}
  limits:
  - {quantity: "knee.loaded-flexion.{side}", max: 60, reason: the heel does not bear a deep bend, source: invented for a test}
  - {quantity: effort, max: 5, reason: nothing hard, source: invented for a test}
  refer:
  - {date: date, weeks: 4, recorded: true, reason: a fresh heel is looked at first}
  notes: ["Soft shoes."]
`, 1)
	rules, err := safety.ParseRules([]byte(text), words(t))
	require.NoError(t, err)
	_, cat := load(t)
	screen := func(k intake.Condition) *safety.Screening {
		c := able()
		c.Conditions = []intake.Condition{k}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		return s.Screen()
	}
	for _, row := range []struct {
		condition intake.Condition
		version   string
		want      trade.Verdict
	}{
		{intake.Condition{Code: "sore-heel", Side: trade.Left, Phase: "persistent"}, "squat", trade.LeaveOut},
		{intake.Condition{Code: "sore-heel", Side: trade.Left, Phase: "persistent"}, "bridge", trade.Suits},
		{intake.Condition{Code: "sore-heel", Side: trade.Left, Phase: "persistent"}, "heel-raise", trade.Suits},
		{intake.Condition{Code: "sore-heel", Side: trade.Left, Phase: "acute"}, "heel-raise", trade.Adapt},
		{intake.Condition{Code: "sore-heel", Side: trade.Left}, "heel-raise", trade.Adapt},
		{intake.Condition{Code: "sore-heel", Side: trade.Left, Date: today.AddDays(-27)}, "bridge", trade.ReferFirst},
		{intake.Condition{Code: "sore-heel", Side: trade.Left, Date: today.AddDays(-28)}, "bridge", trade.Suits},
	} {
		r, ok := screen(row.condition).Result(row.version)
		require.True(t, ok)
		if row.want == trade.LeaveOut {
			assert.NotEqual(t, trade.Suits, r.Verdict, "%s %+v", row.version, row.condition)
			continue
		}
		assert.Equal(t, row.want, r.Verdict, "%s %+v: %+v", row.version, row.condition, r.Findings)
	}
	notes := strings.Join(screen(intake.Condition{Code: "sore-heel"}).Notes, "\n")
	assert.Contains(t, notes, "Sore heel: side is not recorded and is read as the strictest possibility.")
	assert.Contains(t, notes, "Soft shoes.")
	published, err := os.ReadFile("../../docs/formats/client.schema.json")
	require.NoError(t, err)
	data, err := restbend.WithConditions(published, rules)
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	require.NoError(t, compiler.AddResource("client", doc))
	schema, err := compiler.Compile("client")
	require.NoError(t, err)
	for code, fine := range map[string]bool{"sore-heel": true, "sore-toe": false} {
		var v any
		require.NoError(t, json.Unmarshal([]byte(`{"format": "restbend.client/1", "conditions": [{"code": "`+code+`"}]}`), &v))
		assert.Equal(t, fine, schema.Validate(v) == nil, code)
	}
	for wrong, want := range map[string]string{
		"asks: [side, phase, date]": "asks for \"moon\"",
		"like: falls-risk":          "like \"nobody\"",
	} {
		_, err := safety.ParseRules([]byte(strings.Replace(text, wrong, map[string]string{"asks: [side, phase, date]": "asks: [moon]", "like: falls-risk": "like: nobody"}[wrong], 1)), words(t))
		assert.ErrorContains(t, err, want)
	}
}

// Disc-related pain of no recorded phase is read as the middle, and as acute while it hurts
// like it; a recorded phase says more than the pain.
func TestThePhaseOfDiscPain(t *testing.T) {
	rules, cat := load(t)
	for _, row := range []struct {
		phase, irritability string
		pain                float64
		acute               bool
	}{
		{"", "", 0, false}, {"", "", 5.9, false}, {"", "", 6, true}, {"", "", 9, true},
		{"acute", "", 0, true}, {"subacute", "", 8, false}, {"persistent", "", 3, false},
		{"persistent", "high", 0, true}, {"", "low", 0, false}, {"", "moderate", 0, false}, {"", "low", 7, true},
	} {
		c := able()
		c.Conditions = []intake.Condition{{Code: "disc-sciatica", Preference: "extension", Phase: row.phase, Irritability: row.irritability}}
		c.Pain = &intake.Pain{Now: row.pain}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		max, who, limited := s.Allowed("effort")
		assert.Equal(t, row.acute, limited && max == 4 && who == "disc-sciatica", "%+v", row)
	}
}

// A limits file that was written out and read again says the same.
func TestLimitsSurviveBeingWritten(t *testing.T) {
	rules, cat := load(t)
	data, err := yaml.Marshal(rules)
	require.NoError(t, err)
	again, err := safety.ParseRules(data, words(t))
	require.NoError(t, err)
	for _, code := range []string{"disc-sciatica", "spinal-fusion", "hip-replacement", "knee-replacement", "pregnancy", "osteoporosis"} {
		for _, born := range []int{1940, 1949, 1980} {
			c := able()
			c.Born, c.Conditions = born, []intake.Condition{{Code: code}}
			a, err := safety.NewScreener(rules, cat, c, today)
			require.NoError(t, err)
			b, err := safety.NewScreener(again, cat, c, today)
			require.NoError(t, err)
			assert.Equal(t, a.Screen().Results, b.Screen().Results, "%s, born %d", code, born)
			assert.Equal(t, a.Notes(), b.Notes())
		}
	}
}

// What is acute back pain as well keeps its dose caps too.
func TestAlsoBringsTheDoseCaps(t *testing.T) {
	rules, cat := load(t)
	v, _ := cat.Version("deep-core-find")
	for phase, want := range map[string]int{"acute": 10, "persistent": 0} {
		c := able()
		c.Conditions = []intake.Condition{{Code: "disc-sciatica", Preference: "extension", Phase: phase}}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		got, _ := s.HoldCap(v)
		assert.Equal(t, want, got, phase)
	}
}

// What a condition is like may itself be like another, with the details as they are read there.
func TestAlsoReachesOn(t *testing.T) {
	file, err := os.ReadFile("limits.yaml")
	require.NoError(t, err)
	_, cat := load(t)
	text := strings.Replace(string(file), "\nconditions:\n", `
conditions:
- {code: first, group: Joints, name: First, asks: [side], also: [{like: second, as: {side: right}}], limits: []}
- {code: second, group: Joints, name: Second, asks: [side], also: [{like: third}], limits: []}
- {code: third, group: Joints, name: Third, asks: [side], limits: [{quantity: "kneeling.{side}", max: 0.05, reason: r, source: s}], dose: [{rest_factor: 3, reason: r}]}
`, 1)
	rules, err := safety.ParseRules([]byte(text), words(t))
	require.NoError(t, err)
	c := able()
	c.Conditions = []intake.Condition{{Code: "first", Side: trade.Left}}
	s, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	most, by, ok := s.Allowed("kneeling.right")
	assert.True(t, ok)
	assert.Equal(t, 0.05, most)
	assert.Equal(t, "first", by)
	_, _, ok = s.Allowed("kneeling.left")
	assert.False(t, ok, "read as the right side there")
	factor, _ := s.RestFactor()
	assert.Equal(t, 3.0, factor)
	for _, bad := range []string{
		"- {code: first, group: J, name: F, asks: [], also: [{like: second}], limits: []}\n- {code: second, group: J, name: S, asks: [], also: [{like: first}], limits: []}\n",
		"- {code: first, group: J, name: F, asks: [], also: [{like: first}], limits: []}\n",
		"- {code: first, group: J, name: F, asks: [], also: [{like: nobody}], limits: []}\n",
		"- {code: first, group: J, name: F, asks: [], also: [{like: reflux, as: {grade: two}}], limits: []}\n",
		"- {code: first, group: J, name: F, asks: [], prefers: [gold], limits: []}\n",
		"- {code: first, group: J, name: F, asks: [], dose: [{items: 1, reason: r}], limits: []}\n",
		"- {code: first, group: J, name: F, asks: [], limits: [{when: {colour: red}, quantity: effort, max: 1, reason: r, source: s}]}\n",
	} {
		_, err := safety.ParseRules([]byte(strings.Replace(string(file), "\nconditions:\n", "\nconditions:\n"+bad, 1)), words(t))
		assert.Error(t, err, bad)
	}
}

// Holds of strength work are capped with high blood pressure, deep core from effort 3 among them;
// balance stands, stretches and finding the deep core are not.
func TestWhichHoldsAreCapped(t *testing.T) {
	rules, cat := load(t)
	c := able()
	c.Conditions = []intake.Condition{{Code: "high-blood-pressure", Controlled: ptr(true)}}
	s, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	for slug, want := range map[string]int{"plank-knees": 10, "bear-hover": 10, "side-plank-knees": 10, "deep-core-find": 0, "one-leg-held": 0, "knee-hug-one": 0, "bridge": 10, "heel-on-ankle-reach": 10} {
		v, ok := cat.Version(slug)
		require.True(t, ok)
		got, _ := s.HoldCap(v)
		assert.Equal(t, want, got, slug)
	}
}
