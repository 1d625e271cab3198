package progress_test

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/progress"
	"restbend/core/trade"
)

// logged reads a log written as its sessions, oldest first: "2x8, 2x8x3 [sore muscle 4 60]" is sets x repetitions x
// seconds held, with what happened in it. Sessions are four days apart and the last was three days ago, unless it says
// otherwise.
func logged(t *testing.T, version, text string) progress.Log {
	cat, err := loaded()
	require.NoError(t, err)
	v, ok := cat.Version(version)
	require.True(t, ok, version)
	parts := strings.Split(text, ",")
	day := today.AddDays(-3)
	var log progress.Log
	for k := len(parts) - 1; k >= 0; k-- {
		amount, words, _ := strings.Cut(strings.TrimSpace(parts[k]), " [")
		var a progress.Amount
		for i, n := range strings.Split(amount, "x") {
			x, err := strconv.Atoi(n)
			require.NoError(t, err, parts[k])
			[]func(){func() { a.Sets = x }, func() { a.Reps = x }, func() { a.HoldS = x }}[i]()
		}
		s := progress.Session{PainStart: ptr(2.0), PainEnd: ptr(2.0), Ended: "done", Soreness: &progress.Soreness{Peak: 1, SettledH: 10, Kind: progress.Muscle}}
		it := progress.Item{Version: version, Side: trade.None, Target: a, Done: a, EndedBy: progress.ByTarget}
		if v.SideMode == trade.Alternate {
			it.Side = trade.Alternate
		}
		apart, gap, right := v.SideMode == trade.Each, 4, 0
		for _, w := range strings.Split(strings.TrimSuffix(words, "]"), ";") {
			f := strings.Fields(w)
			if len(f) == 0 {
				continue
			}
			n := func(i int) float64 {
				x, err := strconv.ParseFloat(f[i], 64)
				require.NoError(t, err, w)
				return x
			}
			rep := func() *int { x := int(n(1)); return &x }
			switch f[0] {
			case "pain":
				s.PainStart, s.PainEnd = ptr(n(1)), ptr(n(1))
			case "start":
				s.PainStart = ptr(n(1))
			case "end":
				s.PainEnd = ptr(n(1))
			case "hurts":
				it.Pain = ptr(n(1))
			case "sore":
				s.Soreness = &progress.Soreness{Kind: f[1], Peak: n(2), SettledH: n(3)}
			case "worse":
				s.FollowUp = &progress.FollowUp{Effect: progress.Worse}
			case "travelled":
				s.FollowUp = &progress.FollowUp{Travelled: true}
			case "flag":
				s.RedFlags = []string{"fainting"}
			case "sign":
				s.Ended = progress.WarningSign
			case "felt":
				it.Felt = []string{f[1]}
			case "fault":
				it.Fault = []progress.Fault{{Code: "sag"}}
			case "short":
				it.Short = true
			case "desk":
				s.Doses = "desk"
			case "away":
				it.Confirmed = ptr(false)
			case "same":
				it.Next = progress.SameAgain
			case "done":
				it.Done.Sets, it.EndedBy = int(n(1)), progress.ByForm
			case "symptom":
				it.SymptomRep = rep()
			case "symptom-s":
				it.SymptomS = ptr(n(1))
			case "symptom-set":
				it.SymptomRep, it.SymptomSet = ptr(3), rep()
			case "warning":
				it.WarningRep = rep()
			case "warning-s":
				it.WarningS = ptr(n(1))
			case "apart":
				apart = true
			case "right":
				right = int(n(1))
			case "gap":
				gap = int(n(1))
			case "ago":
				day = today.AddDays(-int(n(1)))
			default:
				require.Fail(t, "nobody knows", w)
			}
		}
		s.Date = day
		day = day.AddDays(-gap)
		s.Items = []progress.Item{it}
		if apart {
			it.Side = trade.Left
			other := it
			other.Side = trade.Right
			if right > 0 {
				other.Done.Sets = right
			}
			s.Items = []progress.Item{it, other}
		}
		log.Sessions = append([]progress.Session{s}, log.Sessions...)
	}
	return log
}

// What comes next after sixty logs, written down from domain/04 and domain/10 (never less than was done; a cap binds
// its own measure; a sign, pain of 5 and soreness that is still there hold) before the program was asked. Ladders:
// bridge 1x8, 2x8, 2x10, 3x15, each held 3 s; plank-hand 20 s, 30 s, 3 x 30 s, 3 x 45 s, 3 x 60 s; heel-raise and
// squat-half 1x5, 1x8, 2x8, 2x10; clam 8, 10, 15 a side; dead-bug-arm 8, 10, 2x10 in turn.
func TestNeverLessThanWasDone(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	ups, rows := 0, 0
	for _, row := range []struct{ version, log, want string }{
		{"bridge", "1x8x3, 1x8x3", "up 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3", "up 2 x 10 of 3"},
		{"bridge", "2x10x3, 2x10x3", "up 3 x 15 of 3"},
		{"bridge", "3x15x3, 3x15x3", "up bridge-long-hold"},
		{"plank-hand", "1x1x20, 1x1x20", "up 1 x 1 of 30"},
		{"plank-hand", "1x1x30, 1x1x30", "up 3 x 1 of 30"},
		{"plank-hand", "3x1x30, 3x1x30", "up 3 x 1 of 45"},
		{"plank-hand", "3x1x45, 3x1x45", "up 3 x 1 of 60"},
		{"plank-hand", "3x1x60, 3x1x60", "up plank"},
		{"plank-hand", "1x1x60, 1x1x60", "up 2 x 1 of 60"}, // never 3 x 30
		{"plank-hand", "2x1x60, 2x1x60", "up 3 x 1 of 60"},
		{"plank-hand", "1x1x40, 1x1x40", "up 2 x 1 of 40"},
		{"plank-sofa-knees", "3x1x60, 3x1x60", "up plank-sofa-one-leg"}, // 2 x 120 is a set less: passed over
		{"heel-raise", "1x5, 1x5", "up 1 x 8"},
		{"heel-raise", "1x8, 1x8", "up 2 x 8"},
		{"heel-raise", "2x8, 2x8", "up 2 x 10"},
		{"heel-raise", "2x10, 2x10", "up heel-raise-alternate"},
		{"heel-raise", "3x10, 3x10", "up heel-raise-alternate"},
		{"heel-raise", "1x12, 1x12", "up 2 x 12"},
		{"squat-half", "2x9, 2x9", "up 2 x 10"},
		{"bird-dog", "2x10, 2x10", "up 2 x 10 of 4"},              // never 2 x 6
		{"prone-press-elbows", "1x5x6, 1x5x6", "up 1 x 8 of 6"},   // never 5 s
		{"clam", "1x8, 1x8", "up 1 x 10"},                         // both sides
		{"clam", "1x20, 1x20", "up clam-lifted"},                  //
		{"dead-bug-arm", "1x8, 1x8", "up 1 x 10"},                 // in turn
		{"dead-bug-arm", "1x4 [apart], 1x4 [apart]", "up 1 x 10"}, // four a side are eight
		{"dead-bug-arm", "2x10, 2x10", "up dead-bug-leg"},         //
		{"bridge", "2x8x3, 2x8x3 [sore muscle 4 30]", "up 2 x 10 of 3"},
		{"bridge", "2x8x3 [gap 5; sore muscle 4 90], 2x8x3 [gap 5]", "up 2 x 10 of 3"},
		{"bridge", "2x8x3 [pain 4], 2x8x3 [pain 4]", "up 2 x 10 of 3"},
		{"bridge", "2x8x3 [hurts 3], 2x8x3 [hurts 3]", "up 2 x 10 of 3"},
		{"bridge", "2x8x3, 1x8x3 [short], 2x8x3", "up 2 x 10 of 3"}, // short by choice is no base
		{"bridge", "2x8x3, 1x2 [desk], 2x8x3", "up 2 x 10 of 3"},    // nor is the desk
		{"bridge", "2x8x3, 2x8x3, 1x8x3 [short]", "up 2 x 10 of 3"},

		{"bridge", "2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [fault]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [done 1]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [away]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [same]", "stay 2 x 8 of 3"},
		{"plank-hand", "1x1x60", "stay 1 x 1 of 60"},
		{"plank", "1x1x60, 1x1x60", "stay 1 x 1 of 60"}, // never six of them
		{"dead-bug-arm", "1x4 [apart]", "stay 1 x 8"},
		{"plank-hand", "1x1x30, 1x1x60", "stay 1 x 1 of 60"},
		{"seated-arch-round", "1x5, 1x5", "stay 1 x 5"}, // never 4
		{"heel-raise", "3x10, 3x10 [done 2]", "stay 3 x 10"},
		{"heel-raise", "2x8, 2x20 [done 1]", "stay 2 x 8"}, // more than was ever done is not asked again
		{"heel-raise", "3x10, 2x9 [done 1]", "stay 2 x 9"},
		{"dead-bug-arm", "1x4 [apart], 1x4 [apart; symptom 3]", "cap 1 x 4"}, // two a side are four
		{"clam", "2x8, 2x8 [symptom 6; right 1]", "cap 1 x 5"},               // the side that did less
		{"heel-raise", "3x10, 3x10 [worse]", "stay 2 x 10"},                  // clean, and worse after it: no floor
		{"bridge", "2x8x3, 2x8x3 [sore old-pain 2 30]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [flag]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [flag], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [sign], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [travelled]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [felt numbness], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [pain 6], 2x8x3 [pain 6]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [pain 5], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [start 5], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [pain 4; end 5]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [pain 5; hurts 5], 2x8x3 [pain 4]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [sore muscle 4 100], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3 [sore muscle 4 96], 2x8x3", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [sore muscle 6 20]", "stay 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [symptom 6]", "cap 2 x 5 of 3"},
		{"bridge", "3x8x3, 3x8x3 [symptom 8; warning 6]", "cap 3 x 6 of 3"},
		{"bridge", "2x8x3, 2x8x3 [warning 6]", "cap 2 x 6 of 3"},
		{"bridge", "3x8x3, 3x8x3 [symptom-set 3]", "cap 2 x 8 of 3"},
		{"bridge", "2x8x3, 2x8x3 [symptom 1]", "down bridge-low"},
		{"plank-hand", "3x1x30, 3x1x30 [symptom-s 12]", "cap 3 x 1 of 11"},
		{"plank-hand", "3x1x30, 3x1x30 [warning-s 6]", "cap 3 x 1 of 6"},
		{"plank-hand", "1x1x30, 1x1x30 [symptom-s 2]", "down plank-knees"},
		{"heel-raise", "3x10, 3x10 [ago 23]", "down 2 x 8"}, // an absence
		{"bridge", "2x8x3, 2x8x3 [hurts 6]", "down bridge-low"},
	} {
		t.Run(row.version+" "+row.log, func(t *testing.T) {
			_, ds := progress.Decide(progress.Input{Catalogue: cat, School: "reps", Breaths: 12, Today: today, Suits: func(string) bool { return true },
				Cleared: func(string, trade.Day) bool { return true }, Log: logged(t, row.version, row.log)})
			require.Len(t, ds, 1)
			d := ds[0]
			got := fmt.Sprintf("%s %d x %d", d.Decision, d.Dose.SetCount(), d.Dose.Reps)
			if d.Dose.HoldS > 0 {
				got += fmt.Sprintf(" of %d", d.Dose.HoldS)
			}
			if d.ToVersion != d.Version {
				got = fmt.Sprintf("%s %s", d.Decision, d.ToVersion)
			}
			assert.Equal(t, row.want, got, "%s: %s", d.Rule, d.Because)
		})
		rows++
		if strings.HasPrefix(row.want, "up") {
			ups++
		}
	}
	assert.GreaterOrEqual(t, rows, 60)
	assert.GreaterOrEqual(t, ups, 30)
}

// Of two signs of a kind in one exercise the earlier set, repetition and second of both stand: never more than either
// would leave alone. Symptoms and warnings stand beside each other.
func TestTwoSignsInOneExercise(t *testing.T) {
	at := func(set, rep int, hold float64) progress.Sign { return progress.Sign{Set: set, Rep: rep, HoldS: hold} }
	for _, row := range []struct {
		name        string
		first, then progress.Sign
		want        progress.Sign
	}{
		{"a later set", at(1, 8, 0), at(2, 3, 0), at(0, 3, 0)},
		{"two later sets", at(3, 6, 0), at(2, 7, 0), at(2, 6, 0)},
		{"an earlier repetition", at(1, 8, 0), at(1, 5, 0), at(0, 5, 0)},
		{"a later repetition", at(1, 5, 0), at(1, 8, 0), at(0, 5, 0)},
		{"an earlier second", at(1, 1, 12), at(1, 1, 5), at(0, 0, 5)},
		{"a later second", at(1, 1, 5), at(1, 1, 12), at(0, 0, 5)},
		{"the first hold after a later repetition", at(1, 8, 0), at(1, 1, 5), at(0, 0, 5)},
		{"a later repetition after the first hold", at(1, 1, 5), at(1, 8, 0), at(0, 0, 5)},
		{"before it began, then in it", at(0, 0, 0), at(1, 5, 0), at(0, 5, 0)},
		{"in it, then before another set", at(1, 5, 0), at(0, 0, 0), at(0, 5, 0)},
		{"in the rest before the third set", at(3, 0, 0), at(3, 0, 0), at(3, 0, 0)},
	} {
		var it progress.Item
		it.Mark(row.first)
		it.Mark(row.then)
		assert.Equal(t, []progress.Sign{row.want}, it.Signs(), row.name)
	}
	var it progress.Item
	it.Mark(at(1, 8, 0))
	it.Mark(progress.Sign{Warning: true, Set: 1, Rep: 6})
	assert.Equal(t, []progress.Sign{{Rep: 8}, {Warning: true, Rep: 6}}, it.Signs())
}

// Whatever stops suiting gives something else, never down: of the same main aim, no harder, and suiting itself.
func TestInsteadKeepsTheMainAim(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	found, none := 0, 0
	for _, v := range cat.Versions {
		a := progress.Amount{Sets: 1, Reps: 5}
		log := progress.Log{Sessions: []progress.Session{{Date: today.AddDays(-3), Ended: "done", Items: []progress.Item{{Version: v.Slug, Side: trade.None, Target: a, Done: a}}}}}
		suits := func(slug string) bool { return slug != v.Slug }
		_, ds := progress.Decide(progress.Input{Catalogue: cat, School: "reps", Breaths: 12, Today: today, Suits: suits, Log: log,
			Instead: func(string) []string { return []string{"clam", "bridge", "low-breath-supine", "squat-half"} }})
		require.Len(t, ds, 1, v.Slug)
		require.Equal(t, trade.Instead, ds[0].Decision, v.Slug)
		if ds[0].Instead == "" {
			none++
			continue
		}
		found++
		w, ok := cat.Version(ds[0].ToVersion)
		require.True(t, ok)
		assert.Contains(t, w.MainAims, v.MainAims[0], "%s, %s", v.Slug, w.Slug)
		assert.LessOrEqual(t, w.Effort, v.Effort, "%s, %s", v.Slug, w.Slug)
		assert.True(t, suits(w.Slug))
	}
	assert.Greater(t, found, 100, "%d without", none)
}

// A session with a warning sign opens no gate, whoever cleared it since.
func TestASignOpensNoGate(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	tried := 0
	for _, v := range cat.Versions {
		w := cat.Next(v)
		if w == nil || w.Gate == nil || w.Gate.Upright || w.Gate.Any || w.Gate.Effort > 0 || w.Gate.School != "" || len(w.Gate.Steps) != 1 ||
			w.Gate.Steps[0].Version == v.Slug || len(w.Gate.Steps[0].Pattern) > 0 || v.SideMode != trade.None {
			continue
		}
		g := &w.Gate.Steps[0]
		opens, ok := cat.Version(g.Version)
		require.True(t, ok)
		steps, _ := v.Steps("reps")
		top := steps[len(steps)-1]
		a := progress.Amount{Sets: top.SetCount(), Reps: top.Reps, HoldS: top.HoldS + top.HoldCounts, HoldBreaths: top.HoldBreaths}
		gate := progress.Amount{Sets: max(1, g.Sets), Reps: max(1, g.Reps), HoldS: g.HoldS}
		session := func(ago int, version string, sides []trade.Side, a progress.Amount) progress.Session {
			s := progress.Session{Date: today.AddDays(-ago), PainStart: ptr(1.0), PainEnd: ptr(1.0), Ended: "done", Soreness: &progress.Soreness{Kind: progress.Muscle}}
			for _, side := range sides {
				s.Items = append(s.Items, progress.Item{Version: version, Side: side, Target: a, Done: a, EndedBy: progress.ByTarget})
			}
			return s
		}
		sides := []trade.Side{trade.None}
		if opens.SideMode == trade.Each {
			sides = trade.BothSides[:]
		}
		decided := func(flags ...string) progress.Decision {
			first := session(12, g.Version, sides, gate)
			first.RedFlags = flags
			log := progress.Log{Sessions: []progress.Session{first, session(7, v.Slug, []trade.Side{trade.None}, a), session(3, v.Slug, []trade.Side{trade.None}, a)}}
			_, ds := progress.Decide(progress.Input{Catalogue: cat, School: "reps", Breaths: 12, Today: today, Suits: func(string) bool { return true },
				Cleared: func(string, trade.Day) bool { return true }, Log: log})
			for _, d := range ds {
				if d.Version == v.Slug {
					return d
				}
			}
			return progress.Decision{}
		}
		if decided().ToVersion != w.Slug { // it waits for something else as well
			continue
		}
		tried++
		assert.Equal(t, v.Slug, decided("fainting").ToVersion, "%s after %s", w.Slug, g.Version)
	}
	assert.Positive(t, tried)
}
