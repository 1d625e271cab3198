package exchange_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/trade"
	"restbend/exchange"
)

// Days that cannot be are refused by name, with what to write instead; days that can be are
// taken. Today is 20 November 2026; what must be said stands on the right, nothing when it is
// taken.
func TestDaysOfAClient(t *testing.T) {
	condition := func(k string) string {
		return `{"format": "restbend.client/1", "born": 1957, "conditions": [` + k + `]}`
	}
	rest := func(r string) string { return `{"format": "restbend.client/1", "conditions": [], ` + r + `}` }
	cleared := func(c string) string {
		return rest(`"clearances": [{"date": "2026-11-01", "by": "doctor", "covers": ["stenosis"]` + c + `}]`)
	}
	for _, c := range []struct{ doc, want string }{
		{condition(`{"code": "spinal-fusion", "date": "2026-11-20"}`), ""},
		{condition(`{"code": "spinal-fusion", "date": "2026-11-21"}`), "conditions[0].date: found 2026-11-21, which lies after today (2026-11-20; rule: no days to come): write the day it happened"},
		{condition(`{"code": "hip-replacement", "date": "2027-01-10"}`), "conditions[0].date: found 2027-01-10, which lies after today"},
		{condition(`{"code": "osteoporosis", "fracture_date": "2026-11-20"}`), ""},
		{condition(`{"code": "osteoporosis", "fracture_date": "2026-11-21"}`), "conditions[0].fracture_date: found 2026-11-21, which lies after today"},
		{condition(`{"code": "spinal-fusion", "date": "2026-02-30"}`), "conditions[0].date: found 2026-02-30, allowed: a real date as 2026-11-20, or a year alone"},
		{condition(`{"code": "spinal-fusion", "date": "20.11.2020"}`), "conditions[0].date: found 20.11.2020, allowed: a real date"},
		{condition(`{"code": "spinal-fusion", "date": "2023"}`), ""},
		{condition(`{"code": "spinal-fusion", "date": "2024"}`), "conditions[0].date: found 2024, allowed: a day as 2024-06-30 (rule: a year alone is enough for what is more than two years ago)"},
		{condition(`{"code": "spinal-fusion", "date": "2026"}`), "conditions[0].date: found 2026, allowed: a day as 2026-06-30"},
		{condition(`{"code": "spinal-fusion", "date": "1956-12-31"}`), "conditions[0].date: found 1956-12-31, which lies before the year of birth, 1957"},
		{condition(`{"code": "spinal-fusion", "date": "1957-01-01"}`), ""},
		{condition(`{"code": "stenosis", "due": "2027-01-01"}`), "conditions[0].due: found 2027-01-01, allowed: only with pregnancy"},

		{condition(`{"code": "pregnancy", "date": "2027-03-01"}`), "conditions[0].date: found 2027-03-01, which lies after today (2026-11-20; rule: no days to come): a due date goes into due"},
		{condition(`{"code": "pregnancy", "date": "2023"}`), "conditions[0].date: found 2023, allowed: the day on which weeks were counted"},
		{condition(`{"code": "pregnancy", "due": "2027-03-01"}`), ""},
		{condition(`{"code": "pregnancy", "due": "2027"}`), "conditions[0].due: found 2027, allowed: a real date"},
		{condition(`{"code": "pregnancy", "due": "2027-08-26"}`), ""},
		{condition(`{"code": "pregnancy", "due": "2027-08-27"}`), "conditions[0].due: found 2027-08-27, which is more than 39 weeks ahead"},
		{condition(`{"code": "pregnancy", "due": "2026-10-31"}`), ""},
		{condition(`{"code": "pregnancy", "due": "2026-10-30"}`), "conditions[0].due: found 2026-10-30, which is past week 42 on 2026-11-20 (rule: weeks 1 to 42): after a birth the pregnancy is taken out (it is postnatal)"},
		{condition(`{"code": "pregnancy", "weeks": 42}`), ""},
		{condition(`{"code": "pregnancy", "weeks": 43}`), "conditions[0].weeks: found 43, allowed: 1 to 42"},
		{condition(`{"code": "pregnancy", "weeks": 41, "date": "2026-11-13"}`), ""},
		{condition(`{"code": "pregnancy", "weeks": 42, "date": "2026-11-14"}`), ""},
		{condition(`{"code": "pregnancy", "weeks": 42, "date": "2026-11-13"}`), "conditions[0].weeks: found week 42 on 2026-11-13, which is past week 42 on 2026-11-20"},
		{condition(`{"code": "pregnancy"}`), ""},

		{condition(`{"code": "heart-condition", "since": "2026-11-20"}`), ""},
		{condition(`{"code": "heart-condition", "since": "2026-11-21"}`), "conditions[0].since: found 2026-11-21, which lies after today"},
		{condition(`{"code": "heart-condition", "since": "2026"}`), "conditions[0].since: found 2026, allowed: a day as 2026-06-30"},
		{condition(`{"code": "heart-condition", "since": "1956-12-31"}`), "conditions[0].since: found 1956-12-31, which lies before the year of birth"},
		{condition(`{"code": "heart-condition", "since": "2026-02-30"}`), "conditions[0].since: found 2026-02-30, allowed: a real date"},
		{condition(`{"code": "hernia", "repaired": "2026-11-20"}`), ""},
		{condition(`{"code": "hernia", "repaired": "2026-11-21"}`), "conditions[0].repaired: found 2026-11-21, which lies after today"},
		{condition(`{"code": "hernia", "painful": true, "painful_on": "2026-11-20"}`), ""},
		{condition(`{"code": "hernia", "painful": true, "painful_on": "2026-11-21"}`), "conditions[0].painful_on: found 2026-11-21, which lies after today"},
		{condition(`{"code": "hernia", "painful": true, "painful_on": "2026-11-31"}`), "conditions[0].painful_on: found 2026-11-31, allowed: a real date"},

		{rest(`"operations": [{"what": "knee", "date": "2026-11-21"}]`), "operations[0].date: found 2026-11-21, which lies after today"},
		{rest(`"operations": [{"what": "knee", "date": "2019"}]`), ""},
		{rest(`"operations": [{"what": "knee", "date": "2025"}]`), "operations[0].date: found 2025, allowed: a day as 2025-06-30"},
		{rest(`"red_flags": ["fainting"]`), ""},
		{rest(`"red_flags": [{"code": "fainting"}]`), ""},
		{rest(`"red_flags": [{"code": "fainting", "since": "2026-11-20"}]`), ""},
		{rest(`"red_flags": [{"code": "fainting", "since": "2026-11-21"}]`), "red_flags[0].since: found 2026-11-21, which lies after today"},
		{rest(`"red_flags": [{"code": "fainting", "since": "2023"}]`), "red_flags[0].since: found 2023, allowed: a real date"},
		{rest(`"red_flags": ["faintig"]`), `red_flags[0]: found "faintig", did you mean "fainting"`},
		{rest(`"red_flags": ["face-arm-speech", "sudden-severe-headache", "calf-swelling", "sudden-breathless", "pregnancy-warning"]`), ""},
		{rest(`"pain": {"now": 3, "worst_24h": 4, "on": "2026-11-21"}`), "pain.on: found 2026-11-21, which lies after today"},

		{cleared(``), ""},
		{cleared(`, "until": "2027-06-01"`), ""},
		{cleared(`, "until": "2026-10-31"`), "clearances[0].until: found 2026-10-31, which is before its date 2026-11-01"},
		{rest(`"clearances": [{"date": "2026-11-20", "by": "GP", "covers": ["stenosis"]}]`), ""},
		{rest(`"clearances": [{"date": "2026-11-21", "by": "doctor", "covers": ["stenosis"]}]`), "clearances[0].date: found 2026-11-21, which lies after today"},
		{rest(`"clearances": [{"date": "2020", "by": "doctor", "covers": ["stenosis"]}]`), "clearances[0].date: found 2020, allowed: a real date"},
		{rest(`"clearances": [{"date": "2026-11-01", "by": "friend", "covers": ["stenosis"]}]`), `clearances[0].by: found "friend"`},
		{rest(`"clearances": [{"date": "2026-11-01", "by": "friend", "covers": ["stenosis"]}]`), "allowed: doctor, gp, specialist, surgeon, physiotherapist, midwife, occupational-therapist, osteopath, chiropractor, nurse, dietitian, psychologist, coach (rule: who may clear what)"},
		{rest(`"clearances": [{"date": "2026-11-01", "by": "physioterapist", "covers": ["stenosis"]}]`), `did you mean "physiotherapist"`},
		{rest(`"clearances": [{"date": "2026-11-01", "by": "", "covers": ["stenosis"]}]`), "clearances[0].by:"},
		{rest(`"clearances": [{"date": "2026-11-01", "by": "Osteopath", "covers": ["stenosis"]}]`), ""},
		{rest(`"clearances": [{"date": "2026-11-01", "by": "occupational therapist", "covers": ["travels-down", "pain-rising"]}]`), ""},
		{cleared(`, "forbids": ["bridge", "clam", "balance"]`), ""},
		{cleared(`, "forbids": ["balancing"]`), `clearances[0].forbids[0]: found "balancing", allowed: a version, a family or an aim`},
		{cleared(`, "confirmed": [{"version": "clam", "allowed": true, "by": "ana", "on": "2026-11-19"}]`), ""},
		{cleared(`, "confirmed": [{"version": "clamm", "allowed": true}]`), `clearances[0].confirmed[0].version: unknown version "clamm", did you mean "clam"`},
		{cleared(`, "confirmed": [{"version": "clam", "allowed": true, "on": "2026-11-21"}]`), "clearances[0].confirmed[0].on: found 2026-11-21"},
	} {
		_, err := exchange.ReadClient(strings.NewReader(c.doc), cat, rules, today)
		if c.want == "" {
			assert.NoError(t, err, c.doc)
			continue
		}
		var p exchange.Problems
		require.ErrorAs(t, err, &p, c.doc)
		assert.Contains(t, err.Error(), c.want)
	}
}

// A document that stands alone is read on its own day; one that is kept on the day it is read.
func TestTheDayADocumentIsReadOn(t *testing.T) {
	doc := `{"format": "restbend.client/1", "conditions": [], "today": {"date": "2026-11-01"}, "clearances": [{"date": "2026-11-10", "by": "doctor", "covers": ["stenosis"]}]}`
	_, err := exchange.ReadClient(strings.NewReader(doc), cat, rules, today)
	assert.ErrorContains(t, err, "which lies after today (2026-11-01")
	_, err = exchange.ReadRecord(strings.NewReader(doc), cat, rules, today)
	assert.NoError(t, err)
	_, err = exchange.ReadRecord(strings.NewReader(strings.Replace(doc, "2026-11-01", "2026-11-21", 1)), cat, rules, today)
	assert.ErrorContains(t, err, "today.date: found 2026-11-21, which lies after today")
}

// Logs and tests of days to come are refused, and words outside the lists with the list.
func TestDaysAndWordsOfALog(t *testing.T) {
	log := func(date, item string) string {
		return `{"format": "restbend.log/1", "sessions": [{"date": "` + date + `", "items": [{"version": "bridge", "done": {"sets": 1, "reps": 1}` + item + `}]}]}`
	}
	for _, c := range []struct{ doc, want string }{
		{log("2026-11-20", ``), ""},
		{log("2026-11-21", ``), "sessions[0].date: found 2026-11-21, which lies after today (2026-11-20; rule: no days to come): write the day it was taught"},
		{log("2025", ``), "sessions[0].date: found 2025, allowed: a real date"},
		{log("2026-11-10", `, "felt": ["tingling", "doming"]`), ""},
		{log("2026-11-10", `, "felt": ["symptom"]`), `sessions[0].items[0].felt[0]: found "symptom"`},
		{log("2026-11-10", `, "felt": ["funny"]`), "allowed: pulling, tiring, pain, tingling, numbness, travels-down, new-weakness, dizziness, chest, breathless, palpitations, heaviness, leaking, doming"},
		{log("2026-11-10", `, "seen": ["hip-drop-left", "sag"]`), ""},
		{log("2026-11-10", `, "seen": ["hipdrop"]`), `sessions[0].items[0].seen[0]: found "hipdrop", did you mean "hip-drop", allowed: sag, arch,`},
		{log("2026-11-10", `, "seen": ["eased"]`), "seen[0]: found \"eased\""},
		{log("2026-11-10", `, "fault": [{"code": "knee-in", "side": "left", "s": 7.5}]`), ""},
		{log("2026-11-10", `, "fault": [{"code": "form lost"}]`), `fault[0].code: found "form lost"`},
		{log("2026-11-10", `, "sets_done": [{"sets": 1, "reps": 6}, {"sets": 1, "reps": 4}], "confirmed": true, "reached": true, "helped": "guided", "compare": "left", "corrections": [{"field": "done.reps", "from": 6, "to": 4, "why": "miscounted"}]`), ""},
		{log("2026-11-10", `, "tried": [{"version": "bridge-long-hold", "clean": true}]`), ""},
		{log("2026-11-10", `, "tried": ["bridge-long-hold", {"load": {"band": "light"}, "symptom_at_s": 4}]`), ""},
		{log("2026-11-10", `, "tried": ["bridge-longhold"]`), `tried[0].version: unknown version "bridge-longhold"`},
		{log("2026-11-10", `, "tried": [{"version": "bridge-longhold"}]`), `tried[0].version: unknown version "bridge-longhold", did you mean "bridge-long-hold"`},
		{log("2026-11-10", `, "helped": "lifted"`), `helped: found "lifted"`},
		{`{"format": "restbend.log/1", "sessions": [{"date": "2026-11-10", "items": [], "follow_up": {"on": "2026-11-11", "soreness": 2, "settled_h": 24, "effect": "same", "travelled": false, "home": 3}, "home": 2, "checks": {"sij_side": "left", "clock_hours": [4]}, "score_rev": 2, "ended_because": "wish"}]}`, ""},
		{`{"format": "restbend.log/1", "sessions": [{"date": "2026-11-10", "items": [], "follow_up": {"effect": "meh"}}]}`, `follow_up.effect: found "meh"`},
		{`{"format": "restbend.log/1", "sessions": [{"date": "2026-11-10", "items": [], "red_flags": ["calf-swelling"]}]}`, ""},
	} {
		_, err := exchange.ReadLog(strings.NewReader(c.doc), cat, today)
		if c.want == "" {
			assert.NoError(t, err, c.doc)
			continue
		}
		assert.ErrorContains(t, err, c.want)
	}
	results := `{"format": "restbend.results/1", "date": "2026-11-21", "results": {"tandem_s": 8}}`
	_, err := exchange.ReadResults(strings.NewReader(results), today)
	assert.ErrorContains(t, err, "date: found 2026-11-21, which lies after today")
	_, err = exchange.ReadResults(strings.NewReader(results), today.AddDays(1))
	assert.NoError(t, err)
}

// Days of a document come back as they were written, a year alone too.
func TestDaysComeBack(t *testing.T) {
	for _, text := range []string{"2026-11-20", "2024-02-29", "1957-01-01", "2019"} {
		d, err := trade.ParseDay(text)
		require.NoError(t, err)
		assert.Equal(t, text, d.String())
	}
}
