package safety_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// Who may clear what, when, and for how long; the day is 20 November 2026. True means that the
// client must still be seen first.
func TestClearances(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	day := trade.On(2026, 11, 20)
	yes, no := true, false
	fusion := func(date string) []intake.Condition {
		return []intake.Condition{{Code: "spinal-fusion", Region: "lumbar", Date: trade.MustDay(date)}}
	}
	hip := func(date string) []intake.Condition {
		return []intake.Condition{{Code: "hip-replacement", Side: "left", Date: trade.MustDay(date), Approach: "posterior"}}
	}
	pregnant := func(weeks int, date string) []intake.Condition {
		return []intake.Condition{{Code: "pregnancy", Weeks: weeks, Date: trade.MustDay(date)}}
	}
	due := func(day string) []intake.Condition {
		return []intake.Condition{{Code: "pregnancy", Due: trade.MustDay(day)}}
	}
	for _, c := range []struct {
		say             string
		conditions      []intake.Condition
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
		{"no day", nil, []string{"fall-or-blow"}, "", "doctor", "", yes},
		{"a drooping face, physiotherapist", nil, []string{"face-arm-speech"}, "2026-11-19", "physiotherapist", "", yes},
		{"a drooping face, doctor", nil, []string{"face-arm-speech"}, "2026-11-19", "doctor", "", no},
		{"a headache, physiotherapist", nil, []string{"sudden-severe-headache"}, "2026-11-19", "physiotherapist", "", yes},
		{"a headache, specialist", nil, []string{"sudden-severe-headache"}, "2026-11-19", "specialist", "", no},
		{"a swollen calf, midwife", nil, []string{"calf-swelling"}, "2026-11-19", "midwife", "", yes},
		{"a swollen calf, GP", nil, []string{"calf-swelling"}, "2026-11-19", "gp", "", no},
		{"breathless, nurse", nil, []string{"sudden-breathless"}, "2026-11-19", "nurse", "", yes},
		{"breathless, doctor", nil, []string{"sudden-breathless"}, "2026-11-19", "doctor", "", no},
		{"a sign in pregnancy, midwife", nil, []string{"pregnancy-warning"}, "2026-11-19", "midwife", "", yes},
		{"a sign in pregnancy, doctor", nil, []string{"pregnancy-warning"}, "2026-11-19", "doctor", "", no},
		{"two flags, one covered by one who may", nil, []string{"fall-or-blow", "chest-pain"}, "2026-11-19", "physiotherapist", "", yes},
		{"a month that is shorter: 31 May and six months is 30 November", nil, []string{"fall-or-blow"}, "2026-05-31", "doctor", "2099-01-01", no},

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
		{"pregnancy, cleared the day it began", pregnant(8, "2026-11-18"), nil, "2026-09-23", "midwife", "", no},
		{"pregnancy, cleared the day before", pregnant(8, "2026-11-18"), nil, "2026-09-22", "midwife", "", yes},
		{"pregnancy by the due date", due("2027-03-01"), nil, "2026-10-01", "midwife", "", no},
		{"due date, cleared before it began", due("2027-03-01"), nil, "2026-05-24", "midwife", "", yes},
		{"due date, cleared the day it began", due("2027-03-01"), nil, "2026-05-25", "midwife", "", no},
		{"due date, cleared more than six months ago holds to the due date", due("2026-12-20"), nil, "2026-04-01", "midwife", "", no},
		{"a week after the due date", due("2026-11-13"), nil, "2026-10-01", "midwife", "", no},
		{"eight days after the due date", due("2026-11-12"), nil, "2026-10-01", "midwife", "", yes},
		{"a week after the due date, whatever was written", due("2026-11-12"), nil, "2026-10-01", "midwife", "2027-06-01", yes},
		{"a due date and an earlier written end", due("2027-03-01"), nil, "2026-10-01", "midwife", "2026-11-19", yes},
		{"week 42 is past", due("2026-10-30"), nil, "2026-11-19", "doctor", "", yes},
		{"weeks counted: a week after term", pregnant(40, "2026-11-13"), nil, "2026-11-01", "doctor", "", no},
		{"weeks counted: eight days after term", pregnant(40, "2026-11-12"), nil, "2026-11-01", "doctor", "", yes},
		{"two fusions, cleared before the later one", append(fusion("2020-01-01"), fusion("2026-06-01")...), nil, "2026-05-01", "surgeon", "", yes},
		{"two fusions, cleared after both", append(fusion("2020-01-01"), fusion("2026-06-01")...), nil, "2026-10-01", "surgeon", "", no},
		{"an operation to come is read as today", fusion("2026-12-24"), nil, "2026-11-19", "surgeon", "", yes},
		{"a year alone is its last day", fusion("2021"), nil, "2021-06-01", "surgeon", "", yes},
		{"a year alone, cleared a year after", fusion("2021"), nil, "2022-12-31", "surgeon", "", no},
		{"a year alone, cleared less than a year after", fusion("2021"), nil, "2022-12-30", "surgeon", "", yes},
		{"a joint of six months when cleared", hip("2025-01-20"), nil, "2025-07-20", "surgeon", "2026-11-20", no},
	} {
		client := &intake.Client{Conditions: c.conditions, Clearances: []intake.Clearance{{Date: trade.MustDay(c.date), By: c.by, Until: trade.MustDay(c.until)}}}
		client.Clearances[0].Covers = append(client.Clearances[0].Covers, c.flags...)
		for _, code := range c.flags {
			client.RedFlags = append(client.RedFlags, intake.Flag{Code: code, Since: trade.MustDay("2026-01-10")})
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
	cat, err := delivered()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	verdict := func(slug string, k intake.Condition) string {
		c := &intake.Client{Conditions: []intake.Condition{k}, Positions: map[string]string{"supine": "yes", "prone": "yes", "kneel": "yes", "hands": "yes", "side": "yes", "floor": "yes", "sit": "yes", "stand_free": "yes"},
			Clearances: []intake.Clearance{{Date: trade.MustDay("2026-11-19"), By: "doctor", Covers: []string{k.Code}}}, Kit: []string{"pillow"}, Surfaces: []trade.Surface{"mat", "chair", "wall", "counter"}}
		s, err := safety.NewScreener(rules, cat, c, trade.On(2026, 11, 20))
		require.NoError(t, err)
		r, ok := s.Screen(slug).Result(slug)
		require.True(t, ok)
		return fmt.Sprint(r.Verdict)
	}
	pregnant := func(weeks int, date string) intake.Condition {
		return intake.Condition{Code: "pregnancy", Weeks: weeks, Date: trade.MustDay(date)}
	}
	assert.Equal(t, "suits", verdict("prone-rest", pregnant(10, "2026-11-18")), "week 10")
	for say, k := range map[string]intake.Condition{
		"15 weeks and 7 days":    pregnant(15, "2026-11-13"),
		"a due date by mistake":  pregnant(10, "2027-02-20"),
		"weeks of an unsaid day": pregnant(10, ""),
		"weeks not said":         pregnant(0, ""),
	} {
		assert.Equal(t, "leave-out", verdict("prone-rest", k), say)
	}
	no := false
	broken := intake.Condition{Code: "osteoporosis", Fracture: &no, FractureDate: trade.MustDay("2026-11-01"), School: "graded"}
	s, err := safety.NewScreener(rules, cat, &intake.Client{Conditions: []intake.Condition{broken}}, trade.On(2026, 11, 20))
	require.NoError(t, err)
	assert.NotNil(t, s.Referral(), "the date of a fracture means a fracture")
}

// The client page says through which day, or why not.
func TestClearancesSayThroughWhichDay(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	hip := intake.Condition{Code: "hip-replacement", Side: "left", Date: trade.MustDay("2025-01-01"), Approach: "posterior"}
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
		hip.Date = trade.MustDay(c.operated)
		s, err := safety.NewScreener(rules, cat, &intake.Client{Conditions: []intake.Condition{hip}}, trade.On(2026, 11, 20))
		require.NoError(t, err)
		through, why := s.Clears(&intake.Clearance{Date: trade.MustDay(c.date), By: c.by, Until: trade.MustDay(c.until), Covers: []string{"hip-replacement"}}, "hip-replacement")
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
	cat, err := delivered()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	seen := func(flag intake.Flag, cleared string) bool {
		s, err := safety.NewScreener(rules, cat, &intake.Client{RedFlags: []intake.Flag{flag}, Clearances: []intake.Clearance{{Date: trade.MustDay(cleared), By: "doctor", Covers: []string{flag.Code}}}}, trade.On(2026, 11, 20))
		require.NoError(t, err)
		return s.Referral() != nil
	}
	const code = "saddle-numbness"
	assert.True(t, seen(intake.Flag{Code: code, Since: trade.MustDay("2026-11-10")}, "2026-11-09"), "an old note clears nothing new")
	assert.False(t, seen(intake.Flag{Code: code, Since: trade.MustDay("2026-11-10")}, "2026-11-10"))
	assert.True(t, seen(intake.Flag{Code: code}, "2026-11-19"), "without a day it was raised today")
	assert.False(t, seen(intake.Flag{Code: code}, "2026-11-20"))
	assert.True(t, seen(intake.Flag{Code: code, Since: trade.MustDay("2027-01-01")}, "2026-11-19"), "a day ahead is today")

	c := &intake.Client{RedFlags: []intake.Flag{{Code: code, Since: trade.MustDay("2026-10-01")}, {Code: "fainting"}}}
	c.Raise(code, trade.MustDay("2026-11-20"))
	assert.Equal(t, []intake.Flag{{Code: "fainting"}, {Code: code, Since: trade.MustDay("2026-11-20")}}, c.RedFlags, "raised anew it must be cleared anew")
	text, err := json.Marshal(c.RedFlags)
	require.NoError(t, err)
	assert.JSONEq(t, `["fainting", {"code": "saddle-numbness", "since": "2026-11-20"}]`, string(text))
	var again []intake.Flag
	require.NoError(t, json.Unmarshal(text, &again))
	assert.Equal(t, c.RedFlags, again)
}
