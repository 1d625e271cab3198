package safety_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/safety"
	"restbend/core/trade"
)

// At every number of the rules on days: a day before, on it, a day after. Generated from the
// rules themselves, so that a number that changes is tested where it stands.
func TestEveryNumberOfTheDays(t *testing.T) {
	rules, cat := load(t)
	seen := func(c *intake.Client) bool {
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		return s.Referral() != nil
	}
	cleared := func(k intake.Condition, on, until trade.Day) *intake.Client {
		return &intake.Client{Conditions: []intake.Condition{k}, Clearances: []intake.Clearance{{Date: on, By: "surgeon", Covers: []string{k.Code}, Until: until}}}
	}
	months := rules.Clearing.Months
	numbers := 0
	around := func(what string, day func(off int) *intake.Client, before, on, after bool) {
		numbers++
		for i, want := range []bool{before, on, after} {
			assert.Equal(t, want, seen(day(i-1)), "%s, %+d days", what, i-1)
		}
	}
	no := false
	for _, r := range rules.Conditions {
		for _, rf := range r.Refer {
			if rf.Weeks == 0 {
				continue
			}
			around(fmt.Sprintf("%s: %d weeks since %s", r.Code, rf.Weeks, rf.Date), func(off int) *intake.Client {
				at := today.AddDays(-7*rf.Weeks - off)
				k := intake.Condition{Code: r.Code, Date: at, Side: trade.Left, Approach: "posterior", Region: "lumbar", Fracture: &no}
				if rf.Date == "fracture_date" {
					k.FractureDate = at
				}
				if rf.Clearance { // a clearance lifts it: without one
					return &intake.Client{Conditions: []intake.Condition{k}}
				}
				return cleared(k, today, trade.Day{})
			}, true, false, false)
		}
	}
	fusion := func(at trade.Day) intake.Condition {
		return intake.Condition{Code: "spinal-fusion", Region: "lumbar", Date: at}
	}
	// A clearance of so many months ago, to the day: in the month before it holds, on its last day
	// too, the day after not.
	ago := func(n, off int) trade.Day { return today.AddMonths(-n).AddDays(-off) }
	around("a clearance without an end", func(off int) *intake.Client {
		return cleared(fusion(ago(months.Default, 20)), ago(months.Default, off), trade.Day{})
	}, false, false, true)
	around("a clearance with a far end", func(off int) *intake.Client {
		return cleared(fusion(ago(months.Most, 20)), ago(months.Most, off), today.AddMonths(60))
	}, false, false, true)
	around("a clearance's own last day", func(off int) *intake.Client {
		return cleared(fusion(ago(2, 120)), ago(2, 0), today.AddDays(-off))
	}, false, false, true)
	around("a flag's clearance", func(off int) *intake.Client {
		return &intake.Client{RedFlags: []intake.Flag{{Code: "fall-or-blow", Since: ago(months.Flag, 30)}}, Clearances: []intake.Clearance{{Date: ago(months.Flag, off), By: "doctor", Covers: []string{"fall-or-blow"}, Until: today.AddMonths(60)}}}
	}, false, false, true)
	around("a flag cleared on its day", func(off int) *intake.Client {
		return &intake.Client{RedFlags: []intake.Flag{{Code: "fall-or-blow", Since: ago(1, 0)}}, Clearances: []intake.Clearance{{Date: ago(1, off), By: "doctor", Covers: []string{"fall-or-blow"}}}}
	}, false, false, true)
	around("a clearance of the day of the operation", func(off int) *intake.Client {
		return cleared(fusion(ago(5, 0)), ago(5, off), trade.Day{})
	}, false, false, true)
	around("a fusion healed when it was cleared", func(off int) *intake.Client {
		return cleared(fusion(ago(36, off)), ago(36-rules.Clearing.Healed["spinal-fusion"], 0), trade.Day{})
	}, true, false, false)
	due := func(at trade.Day) intake.Condition { return intake.Condition{Code: intake.Pregnancy, Due: at} }
	around("after the due date", func(off int) *intake.Client {
		return cleared(due(today.AddDays(-rules.Clearing.Pregnancy.GraceD-off)), today.AddDays(-60), trade.Day{})
	}, false, false, true)
	around("the start of a pregnancy", func(off int) *intake.Client {
		return cleared(due(today.AddDays(7*(rules.Clearing.Pregnancy.Term-10))), today.AddDays(-70-off), trade.Day{})
	}, false, false, true)
	assert.GreaterOrEqual(t, numbers, 13)

	// Weeks of pregnancy: from the 16th other limits hold, counted to the day.
	verdict := func(k intake.Condition) trade.Verdict {
		c := able()
		c.Conditions, c.Clearances = []intake.Condition{k}, []intake.Clearance{{Date: today, By: "midwife", Covers: []string{k.Code}}}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		r, ok := s.Screen("prone-rest").Result("prone-rest")
		require.True(t, ok)
		return r.Verdict
	}
	term, from := rules.Clearing.Pregnancy.Term, rules.Clearing.Pregnancy.Undated
	for off, want := range map[int]trade.Verdict{-1: trade.Suits, 0: trade.LeaveOut, 1: trade.LeaveOut} {
		assert.Equal(t, want, verdict(due(today.AddDays(7*(term-from)-off))), "due date, %+d days", off)
		assert.Equal(t, want, verdict(intake.Condition{Code: intake.Pregnancy, Weeks: from - 2, Date: today.AddDays(-14 - off)}), "weeks counted, %+d days", off)
	}
	assert.Equal(t, trade.LeaveOut, verdict(intake.Condition{Code: intake.Pregnancy, Weeks: 10, Date: today, Due: today.AddDays(7 * 20)}), "of a due date and counted weeks that differ the later counts")
}

// What holds for one day holds for one day, decided here and not by a page.
func TestWhatHoldsForOneDay(t *testing.T) {
	for _, c := range []struct {
		say      string
		checked  trade.Day
		side     trade.Side
		asked    trade.Day
		pain     float64
		wantSide trade.Side
		wantPain float64
	}{
		{"checked today", today, trade.Left, today, 8, trade.Left, 8},
		{"checked yesterday", today.AddDays(-1), trade.Left, today.AddDays(-1), 8, "", 8},
		{"checked on an unknown day", trade.Day{}, trade.Right, trade.Day{}, 8, trade.Right, 8},
		{"asked six days ago", trade.Day{}, "", today.AddDays(-6), 8, "", 8},
		{"asked a week ago", trade.Day{}, "", today.AddDays(-7), 8, "", 8},
		{"asked eight days ago", trade.Day{}, "", today.AddDays(-8), 8, "", 0},
		{"checked tomorrow, which cannot be", today.AddDays(1), trade.Left, today, 2, "", 2},
	} {
		client := &intake.Client{Today: intake.Today{Date: c.checked, SIJSide: c.side, TightTurn: trade.Right, ClockWeak: []int{4}}, Pain: &intake.Pain{Now: c.pain, On: c.asked}}
		on := client.On(today)
		assert.Equal(t, c.wantSide, on.Today.SIJSide, c.say)
		assert.Equal(t, c.wantPain, on.Pain.Now, c.say)
		assert.Equal(t, trade.Right, on.Today.TightTurn, "%s: the last known", c.say)
		assert.Equal(t, []int{4}, on.Today.ClockWeak, c.say)
		assert.Equal(t, c.pain, client.Pain.Now, "%s: the record stays as it is", c.say)
		assert.Equal(t, c.side, client.Today.SIJSide, c.say)
	}
	c := &intake.Client{RedFlags: []intake.Flag{{Code: "fainting"}, {Code: "chest-pain", Since: today.AddDays(-3)}}, Pain: &intake.Pain{Now: 3}, Today: intake.Today{SIJSide: trade.Left}}
	c.Stamp(today)
	c.Stamp(today.AddDays(5))
	assert.Equal(t, []intake.Flag{{Code: "fainting", Since: today}, {Code: "chest-pain", Since: today.AddDays(-3)}}, c.RedFlags, "a day is written once and does not roll")
	assert.Equal(t, today, c.Pain.On)
	assert.Equal(t, today, c.Today.Date)
}

// The words of a clinician: shown, forbidding what was picked from them, asked once an exercise.
func TestTheCliniciansWords(t *testing.T) {
	rules, cat := load(t)
	c := able()
	c.Conditions = []intake.Condition{{Code: "knee-pain", Side: trade.Left}}
	c.Clearances = []intake.Clearance{{Date: today.AddDays(-10), By: "physiotherapist", Covers: []string{"knee-pain"}, Limits: "no weight overhead, nothing on the knees", Forbids: []string{"bird-dog", "balance", "bridge"}}}
	screen := func() (*safety.Screener, *safety.Screening) {
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		return s, s.Screen()
	}
	verdict := func(slug string) trade.Verdict {
		_, sc := screen()
		r, ok := sc.Result(slug)
		require.True(t, ok, slug)
		return r.Verdict
	}
	s, sc := screen()
	assert.Contains(t, sc.Notes, "The physiotherapist wrote on "+today.AddDays(-10).String()+": no weight overhead, nothing on the knees")
	for _, v := range cat.Versions {
		r, _ := sc.Result(v.Slug)
		if v.Family == "bird-dog" || v.Family == "bridge" || v.Slug == "bridge" || slices.Contains(v.Aims, "balance") {
			assert.NotEqual(t, trade.Suits, r.Verdict, "%s is forbidden", v.Slug)
			assert.NotEqual(t, v.Slug, r.Use, "%s is not eased back in", v.Slug)
		}
		if r.Use != "" {
			u, _ := cat.Version(r.Use)
			assert.False(t, u.Family == "bird-dog" || slices.Contains(u.Aims, "balance"), "%s leads to %s", v.Slug, r.Use)
		}
		for _, w := range r.Swaps {
			u, _ := cat.Version(w)
			assert.False(t, u.Family == "bird-dog" || slices.Contains(u.Aims, "balance"), "%s is swapped for %s", v.Slug, w)
		}
	}
	assert.True(t, s.Unconfirmed("clam"))
	before := verdict("clam")
	s.Confirm(c, "clam", true, "fennick")
	s, _ = screen()
	assert.False(t, s.Unconfirmed("clam"), "asked once")
	assert.Equal(t, before, verdict("clam"))
	assert.True(t, s.Unconfirmed("low-breath-supine"))
	s.Confirm(c, "low-breath-supine", false, "fennick")
	assert.Equal(t, []intake.Confirmed{{Version: "clam", Allowed: true, By: "fennick", On: today}, {Version: "low-breath-supine", Allowed: false, By: "fennick", On: today}}, c.Clearances[0].Confirmed)
	assert.Equal(t, trade.LeaveOut, verdict("low-breath-supine"))
	s.Confirm(c, "low-breath-supine", true, "fennick")
	assert.NotEqual(t, trade.LeaveOut, verdict("low-breath-supine"), "read again")

	c.Overrides = []intake.Override{{Version: "bird-dog-arm", Reason: "agreed on the phone", Until: today.AddDays(5)}}
	_, sc = screen()
	r, _ := sc.Result("bird-dog-arm")
	assert.False(t, r.Overridden, "an override does not lift a clinician's word")

	c.Clearances[0].By = "coach"
	s, sc = screen()
	assert.NotEmpty(t, s.Limits(), "a restriction counts whoever wrote it")
	r, _ = sc.Result("bird-dog-arm")
	assert.Equal(t, trade.LeaveOut, r.Verdict)
	for off, want := range map[int]int{-1: 1, 0: 1, 1: 0} {
		c.Clearances[0].Date = today.AddMonths(-rules.Clearing.Months.Most).AddDays(-off)
		s, _ = screen()
		assert.Len(t, s.Limits(), want, "a coach's words of a year ago, %+d days", off)
	}
	c.Clearances[0].By, c.Clearances[0].Date = "physiotherapist", today.AddMonths(-7)
	s, _ = screen()
	assert.Empty(t, s.Limits(), "a record that has ended is no word any more")
	c.Clearances[0].Date = today.AddDays(1)
	s, _ = screen()
	assert.Empty(t, s.Limits(), "nor one of tomorrow")
}

// Clearances that end soon are announced, the nearest first.
func TestClearancesThatEndSoon(t *testing.T) {
	rules, cat := load(t)
	soon := rules.Clearing.EndsSoon
	for off, want := range map[int]int{-1: 1, 0: 1, 1: 0} {
		c := able()
		c.Conditions = []intake.Condition{{Code: "spinal-fusion", Region: "lumbar", Date: today.AddMonths(-10)}}
		c.Clearances = []intake.Clearance{{Date: today.AddMonths(-4), By: "surgeon", Covers: []string{"spinal-fusion"}, Until: today.AddDays(soon + off)}, {Date: today.AddMonths(-5), By: "surgeon", Covers: []string{"spinal-fusion"}, Until: today.AddDays(-1)}}
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(t, err)
		assert.Len(t, s.EndsSoon(), want, "%+d days", off)
	}
	c := able()
	c.RedFlags = []intake.Flag{{Code: "fainting", Since: today.AddDays(-30)}}
	c.Conditions = []intake.Condition{{Code: "spinal-fusion", Region: "lumbar", Date: today.AddMonths(-10)}}
	c.Clearances = []intake.Clearance{{Date: today.AddDays(-3), By: "doctor", Covers: []string{"spinal-fusion", "fainting"}, Until: today.AddDays(9)}, {Date: today.AddDays(-3), By: "doctor", Covers: []string{"spinal-fusion"}, Until: today.AddDays(4)}}
	s, err := safety.NewScreener(rules, cat, c, today)
	require.NoError(t, err)
	assert.Equal(t, []safety.Ending{{Code: "fainting", On: today.AddDays(9)}, {Code: "spinal-fusion", On: today.AddDays(9)}}, s.EndsSoon(), "of two the later counts")
}
