package safety_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// A yes before a session refers from its day on, until somebody who may clear it wrote a
// clearance on that day or later; a no afterwards lifts nothing (shared rulings 42, 47).
func TestQuestionsBeforeASession(t *testing.T) {
	rules, cat := load(t)
	for _, row := range []struct {
		why            string
		code, question string
		urgent         bool
		said           int // days ago, -1 no day
		clearance, by  string
		ago            int
		refers         bool
	}{
		{"nobody cleared it", "hernia", "painful", true, 3, "", "", 0, true},
		{"an older clearance", "hernia", "painful", true, 3, "hernia", "doctor", 4, true},
		{"on that day", "hernia", "painful", true, 3, "hernia", "doctor", 3, false},
		{"later", "hernia", "painful", true, 3, "hernia", "surgeon", 0, false},
		{"urgent: a physiotherapist does not do", "hernia", "painful", true, 3, "hernia", "physiotherapist", 0, true},
		{"no day counts as today", "hernia", "painful", true, -1, "hernia", "doctor", 1, true},
		{"no day, cleared today", "hernia", "painful", true, -1, "hernia", "doctor", 0, false},
		{"not urgent: a physiotherapist does", "epilepsy", "new_kind", false, 3, "epilepsy", "physiotherapist", 2, false},
		{"fever under treatment takes a doctor", "cancer-treatment", "fever", false, 3, "cancer-treatment", "physiotherapist", 0, true},
		{"fever under treatment, a doctor", "cancer-treatment", "fever", false, 3, "cancer-treatment", "gp", 0, false},
		{"another condition's clearance", "blood-thinners", "blow", true, 3, "hernia", "doctor", 0, true},
		{"chest pain after the heart was cleared", "heart-condition", "chest_pain", true, 3, "heart-condition", "specialist", 90, true},
		{"chest pain, seen since", "heart-condition", "chest_pain", true, 3, "heart-condition", "specialist", 1, false},
	} {
		c := able()
		c.Conditions = []intake.Condition{{Code: row.code, Date: today.AddDays(-400)}}
		if row.said >= 0 {
			require.NoError(t, rules.Answer(c, today.AddDays(-row.said), func(q safety.Question) bool { return q.Detail == row.question }))
		} else {
			k, err := c.Conditions[0].With(map[string]any{row.question: true})
			require.NoError(t, err)
			c.Conditions[0] = k
		}
		require.NoError(t, rules.Answer(c, today, func(safety.Question) bool { return false }), "a no lifts nothing")
		if row.clearance != "" {
			c.Clearances = []intake.Clearance{{Date: today.AddDays(-row.ago), By: row.by, Covers: []string{row.clearance}}}
		}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		ref := s.Referral()
		if assert.Equal(t, row.refers, ref != nil, "%s: %s", row.code, row.why) && ref != nil {
			assert.Equal(t, row.urgent, ref.Urgent, row.why)
			assert.Contains(t, ref.Flags, row.code)
			if row.urgent {
				assert.NotEmpty(t, ref.Do, row.code)
			}
		}
	}
}

// Every question of a condition refers when it is answered with yes, whatever else is recorded.
func TestEveryQuestionRefers(t *testing.T) {
	rules, cat := load(t)
	asked := 0
	for _, r := range rules.Conditions {
		c := able()
		c.Conditions = []intake.Condition{{Code: r.Code, Date: today.AddDays(-400)}}
		c.Clearances = []intake.Clearance{{Date: today.AddDays(-1), By: "specialist", Covers: []string{r.Code}, Limits: "x"}}
		for _, q := range rules.Questions(c) {
			asked++
			d := *c
			require.NoError(t, rules.Answer(&d, today, func(x safety.Question) bool { return x == q }))
			s, err := safety.NewScreener(rules, cat, &d, today)
			require.NoError(t, err)
			assert.NotNil(t, s.Referral(), "%s: %s", r.Code, q.Ask)
			s, err = safety.NewScreener(rules, cat, c, today)
			require.NoError(t, err)
			assert.Nil(t, s.Referral(), "%s, not asked", r.Code)
		}
	}
	assert.Greater(t, asked, 10)
}

// A detail without a field of its own survives documents, and one of a wrong kind is refused.
func TestDetailsAreKeptInDocuments(t *testing.T) {
	in := `{"code":"inflammatory-arthritis","side":"left","flare":false,"joints":["neck","wrist"],"dose":3.5,"said":"yes"}`
	var k, again, fromYAML intake.Condition
	require.NoError(t, json.Unmarshal([]byte(in), &k))
	out, err := json.Marshal(k)
	require.NoError(t, err)
	assert.JSONEq(t, in, string(out))
	require.NoError(t, json.Unmarshal(out, &again))
	assert.Equal(t, k, again)
	require.NoError(t, yaml.Unmarshal([]byte(in), &fromYAML))
	assert.Equal(t, k, fromYAML)
	for _, bad := range []string{`{"code":"x","flare":{"a":1}}`, `{"code":"x","joints":[1]}`} {
		assert.Error(t, json.Unmarshal([]byte(bad), &k), bad)
	}
	without, err := again.With(map[string]any{"flare": "", "side": "", "grade": 2.0, "joints": []any{"knee"}})
	require.NoError(t, err)
	out, err = json.Marshal(without)
	require.NoError(t, err)
	assert.JSONEq(t, `{"code":"inflammatory-arthritis","grade":2,"joints":["knee"],"dose":3.5,"said":"yes"}`, string(out))
	assert.Equal(t, false, again.More["flare"], "the first stays as it was")
	_, err = again.With(map[string]any{"grade": "two"})
	assert.Error(t, err)
	empty, err := json.Marshal(intake.Condition{Code: "reflux", Date: trade.Day{}})
	require.NoError(t, err)
	assert.JSONEq(t, `{"code":"reflux"}`, string(empty))
}

// A yes keeps the day it was first given on, however often it is given again.
func TestAYesKeepsItsFirstDay(t *testing.T) {
	rules, _ := load(t)
	k := intake.Condition{Code: "hernia"}
	for i, want := range []string{"2026-11-10", "2026-11-10"} {
		var err error
		k, err = rules.Say(k, "painful", true, trade.On(2026, 11, 10+i))
		require.NoError(t, err)
		assert.Equal(t, want, k.More["painful_on"])
	}
	k, err := rules.Say(k, "painful", false, trade.On(2026, 11, 15))
	require.NoError(t, err)
	assert.NotContains(t, k.More, "painful_on")
}
