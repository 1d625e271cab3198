package progress_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"restbend/core/progress"
	"restbend/core/trade"
)

// At every number of the table: one below, at it, one above. What is decided about the bridge
// after clean sessions on the 12th and the last day, but for the number.
func TestEveryNumberOfTheTable(t *testing.T) {
	type made = func(x float64) ([]progress.Session, func(*progress.Input))
	clean := func(day string) progress.Session { return did(day, "bridge", 1, 8, 3, nil) }
	last := func(day string, change func(x float64, s *progress.Session, i *progress.Item)) made {
		return func(x float64) ([]progress.Session, func(*progress.Input)) {
			return []progress.Session{clean("2026-11-12"), did(day, "bridge", 1, 8, 3, func(s *progress.Session, i *progress.Item) { change(x, s, i) })}, nil
		}
	}
	starts := func(before ...float64) made {
		return func(x float64) (out []progress.Session, _ func(*progress.Input)) {
			for k, p := range append(before, x) {
				out = append(out, did([]string{"2026-11-10", "2026-11-13", "2026-11-17"}[k], "bridge", 1, 8, 3, func(s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = ptr(p), ptr(p) }))
			}
			return out, nil
		}
	}
	during := func(start float64) made {
		return last("2026-11-17", func(x float64, s *progress.Session, i *progress.Item) {
			s.PainStart, s.PainEnd, i.Pain = ptr(start), ptr(start), ptr(x)
		})
	}
	sore := func(day string, peak, hours float64, kind string) made {
		return last(day, func(x float64, s *progress.Session, _ *progress.Item) {
			s.Soreness = &progress.Soreness{Peak: max(peak, 0), SettledH: max(hours, 0), Kind: kind}
			if peak < 0 {
				s.Soreness.Peak = x
			} else {
				s.Soreness.SettledH = x
			}
		})
	}
	away := func(x float64) ([]progress.Session, func(*progress.Input)) {
		return []progress.Session{did(today.AddDays(-int(x)).String(), "bridge", 2, 8, 3, nil)}, nil
	}
	for _, c := range []struct {
		number           string
		at               float64
		made             made
		below, is, above string // the decision, and what its rule says
	}{
		{"pain at the start", 7, last("2026-11-17", func(x float64, s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = ptr(x), ptr(x) }), "stay", "rest", "rest"},
		{"pain that holds a step up", 5, last("2026-11-17", func(x float64, s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = ptr(x), ptr(x) }), "up", "stay", "stay"},
		{"pain now", 7, func(x float64) ([]progress.Session, func(*progress.Input)) {
			return []progress.Session{clean("2026-11-12"), clean("2026-11-17")}, func(in *progress.Input) { in.PainNow = &x }
		}, "up", "rest", "rest"},
		{"pain that ends an exercise", 5, during(4), "up", "down", "down"},
		{"points above a low start", 3, during(1), "up", "down", "down"},
		{"points above a start of 5", 6, during(5), "stay", "down", "down"},
		{"points above a start of 6", 7, during(6), "stay", "down", "down"},
		{"the client's own limit is passed", 4, func(x float64) ([]progress.Session, func(*progress.Input)) {
			s, _ := during(3)(x)
			return s, func(in *progress.Input) { in.StopAbove = 3.5 }
		}, "up", "down", "down"},
		{"points at the end above the start", 3, last("2026-11-17", func(x float64, s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = ptr(1.0), ptr(x) }), "up", "stay", "stay"},
		{"points the start rises over three", 5, starts(3, 4), "up", "refer", "refer"},
		{"the start rises to 4", 4, starts(1, 2), "up", "refer", "refer"},
		{"hours an old pain takes", 24, sore("2026-11-17", 3, -1, progress.OldPain), "up", "up", "stay"},
		{"hours an old pain takes, long", 36, sore("2026-11-17", 3, -1, progress.OldPain), "stay", "stay", "down"},
		{"hours muscles take, three days ago", 72, sore("2026-11-17", 3, -1, progress.Muscle), "up", "up", "stay"},
		{"how sore muscles are", 5, sore("2026-11-17", -1, 20, progress.Muscle), "up", "up", "stay"},
		{"how sore, nobody says what", 5, sore("2026-11-17", -1, 20, ""), "up", "up", "stay"},
		{"hours, nobody says of what", 24, sore("2026-11-17", 3, -1, ""), "up", "up", "stay"},
		{"days between the two", 21, func(x float64) ([]progress.Session, func(*progress.Input)) {
			return []progress.Session{clean(trade.On(2026, 11, 17).AddDays(-int(x)).String()), clean("2026-11-17")}, nil
		}, "up", "up", "stay"},
		{"days between the two, at least", 1, func(x float64) ([]progress.Session, func(*progress.Input)) {
			return []progress.Session{clean(trade.On(2026, 11, 17).AddDays(-int(x)).String()), clean("2026-11-17")}, nil
		}, "stay", "up", "up"},
		{"days away, a step", 22, away, "stay: the target", "down: one dose step", "down: one dose step"},
		{"days away, a rung", 28, away, "down: one dose step", "down: one rung", "down: one rung"},
		{"days away, a test", 56, away, "down: one rung", "down: re-test", "down: re-test"},
		{"a day to come", 3, func(x float64) ([]progress.Session, func(*progress.Input)) { // the 20th is today
			return []progress.Session{clean("2026-11-12"), clean(trade.On(2026, 11, 17).AddDays(int(x)).String())}, nil
		}, "up", "up", "stay: a day"},
		{"days since something changed", 0, func(x float64) ([]progress.Session, func(*progress.Input)) {
			return []progress.Session{clean("2026-11-12"), clean("2026-11-17")}, func(in *progress.Input) {
				in.Changed = []progress.Change{{Day: trade.On(2026, 11, 17).AddDays(int(x)), What: "a fall"}}
			}
		}, "up", "stay", "stay"},
		{"repetition of a symptom, the cap one below", 5, last("2026-11-17", func(x float64, _ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(int(x)) }), "cap", "cap", "cap"},
	} {
		for k, want := range []string{c.below, c.is, c.above} {
			x := c.at + float64(k-1)
			sessions, input := c.made(x)
			d := decideAll(t, input, sessions...)["bridge"]
			assert.Contains(t, string(d.Decision)+": "+d.Rule+" "+string(d.Decision), want, "%s %g: %s", c.number, x, d.Because)
			assert.Contains(t, want, string(d.Decision), "%s %g: %s", c.number, x, d.Because)
		}
	}
	for rep := 1; rep <= 8; rep++ {
		d := decide(t, "reps", nil, clean("2026-11-12"), did("2026-11-17", "bridge", 1, 8, 3, func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(rep) }))
		if rep == 1 { // nothing of it was clean
			assert.Equal(t, "bridge-low", d.ToVersion, "a symptom at 1")
			assert.Equal(t, trade.Down, d.Decision)
		} else {
			assert.Equal(t, rep-1, d.Dose.Reps, "a symptom at %d", rep)
		}
		d = decide(t, "reps", nil, clean("2026-11-12"), did("2026-11-17", "bridge", 1, 8, 3, func(_ *progress.Session, i *progress.Item) { i.WarningRep = ptr(rep) }))
		assert.Equal(t, rep, d.Dose.Reps, "a warning at %d", rep)
	}
}

// The stop rule, as a table of start, the client's own limit and the least pain that stops
// (shared ruling 39).
func TestStopRule(t *testing.T) {
	for _, c := range []struct {
		start, limit float64
		from         int
	}{
		{0, 0, 2}, {1, 0, 3}, {2, 0, 4}, {3, 0, 5}, {4, 0, 5}, {5, 0, 6}, {6, 0, 7}, {7, 0, 8}, {8, 0, 9}, {9, 0, 10}, {10, 0, 10},
		{3, 3, 4}, {3, 4, 5}, {2, 2, 3}, {2, 8, 4}, {4, 8, 5}, {5, 2, 6}, {0, 1, 2},
	} {
		assert.Equal(t, c.from, progress.StopFrom(&c.start, c.limit), "start %g, limit %g", c.start, c.limit)
	}
	assert.Equal(t, 2, progress.StopFrom(nil, 0), "an unknown start is none")
	for pain, most := range map[float64]int{0: 0, 4: 0, 4.9: 0, 5: 2, 6: 2, 6.9: 2, 7: 1, 10: 1} {
		assert.Equal(t, most, progress.StartCap(pain), "pain %g at the start", pain)
	}
}
