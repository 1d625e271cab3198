package safety_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/safety"
)

// Who may clear what, when, and for how long; the day is 20 November 2026. True means that the
// client must still be seen first.
func TestClearances(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	day := time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)
	yes, no := true, false
	fusion := func(date string) []safety.Condition {
		return []safety.Condition{{Code: "spinal-fusion", Region: "lumbar", Date: date}}
	}
	hip := func(date string) []safety.Condition {
		return []safety.Condition{{Code: "hip-replacement", Side: "left", Date: date, Approach: "posterior"}}
	}
	pregnant := func(weeks int, date string) []safety.Condition {
		return []safety.Condition{{Code: "pregnancy", Weeks: weeks, Date: date}}
	}
	for _, c := range []struct {
		say             string
		conditions      []safety.Condition
		flags           []string
		date, by, until string
		seen            bool
	}{
		{"urgent flag, doctor", nil, []string{"saddle-numbness"}, "2026-11-19", "doctor", "", no},
		{"urgent flag, GP", nil, []string{"chest-pain"}, "2026-11-19", "GP", "", no},
		{"urgent flag, specialist", nil, []string{"chest-pain"}, "2026-11-19", "specialist", "", no},
		{"urgent flag, physiotherapist", nil, []string{"saddle-numbness"}, "2026-11-19", "physiotherapist", "", yes},
		{"urgent flag, friend", nil, []string{"saddle-numbness"}, "2026-11-19", "friend", "", yes},
		{"urgent flag, nobody", nil, []string{"saddle-numbness"}, "2026-11-19", "", "", yes},
		{"weight loss, physiotherapist", nil, []string{"weight-loss"}, "2026-11-19", "physiotherapist", "", yes},
		{"night pain, physiotherapist", nil, []string{"night-pain-unrelieved"}, "2026-11-19", "physiotherapist", "", yes},
		{"fever, surgeon", nil, []string{"fever-unwell"}, "2026-11-19", "surgeon", "", no},
		{"a fall, physiotherapist", nil, []string{"fall-or-blow"}, "2026-11-19", "Physiotherapist", "", no},
		{"a fall, osteopath", nil, []string{"fall-or-blow"}, "2026-11-19", "osteopath", "", yes},
		{"a fall, midwife", nil, []string{"fall-or-blow"}, "2026-11-19", "midwife", "", yes},
		{"a flag for ever", nil, []string{"fall-or-blow"}, "2026-05-19", "doctor", "2099-01-01", yes},
		{"a flag, the last day of six months", nil, []string{"fall-or-blow"}, "2026-05-20", "doctor", "2099-01-01", no},
		{"a flag, through its last day", nil, []string{"fall-or-blow"}, "2026-11-01", "doctor", "2026-11-20", no},
		{"a flag, the day after", nil, []string{"fall-or-blow"}, "2026-11-01", "doctor", "2026-11-19", yes},
		{"written tomorrow", nil, []string{"fall-or-blow"}, "2026-11-21", "doctor", "", yes},
		{"not a day", nil, []string{"fall-or-blow"}, "2026-13-40", "doctor", "", yes},

		{"fusion, cleared after", fusion("2026-05-01"), nil, "2026-10-01", "physiotherapist", "", no},
		{"fusion, cleared on the day", fusion("2026-07-01"), nil, "2026-07-01", "surgeon", "", no},
		{"fusion, cleared the day before", fusion("2026-07-01"), nil, "2026-06-30", "surgeon", "", yes},
		{"fusion, coach", fusion("2026-05-01"), nil, "2026-10-01", "coach", "", yes},
		{"fusion, six months to the day", fusion("2026-03-01"), nil, "2026-05-20", "surgeon", "", no},
		{"fusion, six months and a day", fusion("2026-03-01"), nil, "2026-05-19", "surgeon", "", yes},
		{"fusion, a year written", fusion("2025-10-01"), nil, "2025-11-20", "surgeon", "2027-11-20", no},
		{"fusion, more than a year written", fusion("2025-10-01"), nil, "2025-11-19", "surgeon", "2027-11-20", yes},
		{"an old fusion holds until something changes", fusion("2020-01-01"), nil, "2023-01-01", "surgeon", "", no},
		{"... or until the day written", fusion("2020-01-01"), nil, "2023-01-01", "surgeon", "2026-11-19", yes},
		{"fusion of twelve months when cleared", fusion("2024-01-01"), nil, "2025-01-01", "surgeon", "", no},
		{"fusion of a day less", fusion("2024-01-02"), nil, "2025-01-01", "surgeon", "", yes},

		{"hip of 12 weeks", hip("2026-08-28"), nil, "2026-11-01", "surgeon", "", no},
		{"hip of 12 weeks less a day is seen whatever was cleared", hip("2026-08-29"), nil, "2026-11-01", "surgeon", "", yes},

		{"pregnancy, midwife", pregnant(20, "2026-11-18"), nil, "2026-10-01", "midwife", "", no},
		{"pregnancy, physiotherapist", pregnant(20, "2026-11-18"), nil, "2026-10-01", "physiotherapist", "", no},
		{"pregnancy, friend", pregnant(20, "2026-11-18"), nil, "2026-10-01", "friend", "", yes},
		{"pregnancy, cleared before it began", pregnant(8, "2026-11-18"), nil, "2026-08-01", "midwife", "", yes},
	} {
		client := &safety.Client{Conditions: c.conditions, Clearances: []safety.Clearance{{Date: c.date, By: c.by, Until: c.until}}}
		client.Clearances[0].Covers = append(client.Clearances[0].Covers, c.flags...)
		for _, code := range c.flags {
			client.RedFlags = append(client.RedFlags, safety.Flag{Code: code, Since: "2026-01-10"})
		}
		for _, k := range c.conditions {
			client.Clearances[0].Covers = append(client.Clearances[0].Covers, k.Code)
		}
		s, err := safety.NewScreener(rules, cat, client, day)
		require.NoError(t, err, c.say)
		assert.Equal(t, c.seen, s.Referral() != nil, "%s: %+v", c.say, s.Referral())
	}
}

// Details that contradict each other or cannot be are read strictly.
func TestContradictionsAreReadStrictly(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	verdict := func(slug string, k safety.Condition) string {
		c := &safety.Client{Conditions: []safety.Condition{k}, Positions: map[string]string{"supine": "yes", "prone": "yes", "kneel": "yes", "hands": "yes", "side": "yes", "floor": "yes", "sit": "yes", "stand_free": "yes"},
			Clearances: []safety.Clearance{{Date: "2026-11-19", By: "doctor", Covers: []string{k.Code}}}, Kit: []string{"pillow"}, Surfaces: []string{"mat", "chair", "wall", "counter"}}
		s, err := safety.NewScreener(rules, cat, c, time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		r, ok := s.Screen(slug).Result(slug)
		require.True(t, ok)
		return fmt.Sprint(r.Verdict)
	}
	pregnant := func(weeks int, date string) safety.Condition {
		return safety.Condition{Code: "pregnancy", Weeks: weeks, Date: date}
	}
	assert.Equal(t, "suits", verdict("prone-rest", pregnant(10, "2026-11-18")), "week 10")
	for say, k := range map[string]safety.Condition{
		"15 weeks and 7 days":    pregnant(15, "2026-11-13"),
		"a due date by mistake":  pregnant(10, "2027-02-20"),
		"weeks of an unsaid day": pregnant(10, ""),
		"weeks not said":         pregnant(0, ""),
	} {
		assert.Equal(t, "leave-out", verdict("prone-rest", k), say)
	}
	no := false
	broken := safety.Condition{Code: "osteoporosis", Fracture: &no, FractureDate: "2026-11-01", School: "graded"}
	s, err := safety.NewScreener(rules, cat, &safety.Client{Conditions: []safety.Condition{broken}}, time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	assert.NotNil(t, s.Referral(), "the date of a fracture means a fracture")
}

// The client page says through which day, or why not.
func TestClearancesSayThroughWhichDay(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	hip := safety.Condition{Code: "hip-replacement", Side: "left", Date: "2025-01-01", Approach: "posterior"}
	for _, c := range []struct{ date, by, until, operated, through, why string }{
		{"2025-07-01", "surgeon", "", "2025-01-01", "", ""},
		{"2025-07-01", "surgeon", "", "2025-01-02", "2026-01-01", "ended on 2026-01-01"},
		{"2026-10-01", "surgeon", "", "2026-06-01", "2027-04-01", ""},
		{"2026-10-01", "surgeon", "2028-01-01", "2026-06-01", "2027-10-01", ""},
		{"2026-10-01", "surgeon", "2026-12-24", "2026-06-01", "2026-12-24", ""},
		{"2026-05-01", "surgeon", "", "2026-06-01", "", "before what it should clear"},
		{"2026-10-01", "coach", "", "2026-06-01", "", "it takes doctor, gp, specialist, surgeon, physiotherapist"},
		{"", "surgeon", "", "2026-06-01", "", "day is missing"},
		{"2026-11-21", "surgeon", "", "2026-06-01", "", "lies ahead"},
	} {
		hip.Date = c.operated
		s, err := safety.NewScreener(rules, cat, &safety.Client{Conditions: []safety.Condition{hip}}, time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		through, why := s.Clears(&safety.Clearance{Date: c.date, By: c.by, Until: c.until, Covers: []string{"hip-replacement"}}, "hip-replacement")
		got := ""
		if !through.IsZero() {
			got = through.Format(time.DateOnly)
		}
		assert.Equal(t, c.through, got, "%+v", c)
		assert.Contains(t, why, c.why)
		assert.Equal(t, c.why == "", why == "", "%+v: %s", c, why)
	}
}

// A red flag is cleared by what was written on the day it was raised or later.
func TestAFlagIsClearedAfterItWasRaised(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	seen := func(flag safety.Flag, cleared string) bool {
		s, err := safety.NewScreener(rules, cat, &safety.Client{RedFlags: []safety.Flag{flag}, Clearances: []safety.Clearance{{Date: cleared, By: "doctor", Covers: []string{flag.Code}}}}, time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC))
		require.NoError(t, err)
		return s.Referral() != nil
	}
	const code = "saddle-numbness"
	assert.True(t, seen(safety.Flag{Code: code, Since: "2026-11-10"}, "2026-11-09"), "an old note clears nothing new")
	assert.False(t, seen(safety.Flag{Code: code, Since: "2026-11-10"}, "2026-11-10"))
	assert.True(t, seen(safety.Flag{Code: code}, "2026-11-19"), "without a day it was raised today")
	assert.False(t, seen(safety.Flag{Code: code}, "2026-11-20"))
	assert.True(t, seen(safety.Flag{Code: code, Since: "2027-01-01"}, "2026-11-19"), "a day ahead is today")
	assert.True(t, seen(safety.Flag{Code: code, Since: "last week"}, "2026-11-19"), "no day is today")

	c := &safety.Client{RedFlags: []safety.Flag{{Code: code, Since: "2026-10-01"}, {Code: "fainting"}}}
	c.Raise(code, "2026-11-20")
	assert.Equal(t, []safety.Flag{{Code: "fainting"}, {Code: code, Since: "2026-11-20"}}, c.RedFlags, "raised anew it must be cleared anew")
	text, err := json.Marshal(c.RedFlags)
	require.NoError(t, err)
	assert.JSONEq(t, `["fainting", {"code": "saddle-numbness", "since": "2026-11-20"}]`, string(text))
	var again []safety.Flag
	require.NoError(t, json.Unmarshal(text, &again))
	assert.Equal(t, c.RedFlags, again)
}
