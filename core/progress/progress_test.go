package progress_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/progress"
	"restbend/core/trade"
)

func ptr[T any](v T) *T { return &v }

var today = trade.On(2026, 11, 20)

// did is one session: pain 2 to 2, soreness settled in 10 h, and one clean item.
func did(date, version string, sets, reps, hold int, change func(*progress.Session, *progress.Item)) progress.Session {
	a := progress.Amount{Sets: sets, Reps: reps, HoldS: hold}
	s := progress.Session{Date: trade.MustDay(date), PainStart: ptr(2.0), PainEnd: ptr(2.0), Soreness: &progress.Soreness{Peak: 1, SettledH: 10}}
	it := progress.Item{Version: version, Side: "none", Target: a, Done: a, EndedBy: "target"}
	if change != nil {
		change(&s, &it)
	}
	s.Items = append(s.Items, it)
	return s
}

func decide(t *testing.T, school string, suits func(string) bool, sessions ...progress.Session) progress.Decision {
	t.Helper()
	cat, err := loaded()
	require.NoError(t, err)
	if suits == nil {
		suits = func(string) bool { return true }
	}
	_, ds := progress.Decide(progress.Input{Catalogue: cat, School: school, Breaths: 12, Today: today, Suits: suits, Log: progress.Log{Sessions: sessions}})
	require.NotEmpty(t, ds)
	return ds[0]
}

func TestDecisions(t *testing.T) {
	const b, long = "bridge", "bridge-long-hold"
	top := func(date string, f func(*progress.Session, *progress.Item)) progress.Session {
		return did(date, b, 3, 15, 3, f)
	}
	old := func(h float64) func(*progress.Session, *progress.Item) {
		return func(s *progress.Session, _ *progress.Item) { s.Soreness.SettledH, s.Soreness.Kind = h, "old-pain" }
	}
	low := func(date string, f func(*progress.Session, *progress.Item)) progress.Session {
		return did(date, b, 1, 8, 3, f)
	}
	for name, c := range map[string]struct {
		sessions           []progress.Session
		suits              func(string) bool
		decision, to, rule string
		step               int
	}{
		"target twice: next dose step": {[]progress.Session{low("2026-11-12", nil), low("2026-11-17", nil)}, nil, "up", b, "next dose step", 1},
		"once is not twice":            {[]progress.Session{low("2026-11-17", nil)}, nil, "stay", b, "two sessions running", 0},
		"top twice: one rung, lowest":  {[]progress.Session{top("2026-11-12", nil), top("2026-11-17", nil)}, nil, "up", long, "one rung", 0},
		"more than the top is the top": {[]progress.Session{did("2026-11-12", b, 3, 16, 3, nil), top("2026-11-17", nil)}, nil, "up", long, "one rung", 0},
		"next rung does not suit":      {[]progress.Session{top("2026-11-12", nil), top("2026-11-17", nil)}, func(s string) bool { return s != long }, "stay", b, "does not suit", 3},
		"unknown soreness":             {[]progress.Session{low("2026-11-12", nil), low("2026-11-17", func(s *progress.Session, _ *progress.Item) { s.Soreness = nil })}, nil, "stay", b, "soreness", 0},
		"soreness of 30 h":             {[]progress.Session{low("2026-11-12", nil), low("2026-11-17", func(s *progress.Session, _ *progress.Item) { s.Soreness.SettledH = 30 })}, nil, "stay", b, "soreness", 0},
		"old pain beyond 36 h":         {[]progress.Session{low("2026-11-17", old(40))}, nil, "down", "bridge-low", "down", 0},
		"old pain beyond 36 h twice":   {[]progress.Session{low("2026-11-12", old(40)), low("2026-11-17", old(50))}, nil, "refer", b, "36 h twice", 0},
		"form ended it":                {[]progress.Session{low("2026-11-12", nil), low("2026-11-17", func(_ *progress.Session, i *progress.Item) { i.EndedBy = "form"; i.Done.Reps = 5 })}, nil, "stay", b, "form ended", 0},
		"symptom at 8, warning at 6":   {[]progress.Session{did("2026-11-17", b, 2, 10, 3, func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(8); i.WarningRep = ptr(6) })}, nil, "cap", b, "cap", 2},
		"symptom at 5":                 {[]progress.Session{low("2026-11-17", func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(5) })}, nil, "cap", b, "cap", 0},
		"pain in the back":             {[]progress.Session{low("2026-11-17", func(_ *progress.Session, i *progress.Item) { i.Pain = ptr(4.0); i.Where = "back" })}, nil, "down", "bridge-low", "pain", 0},
		"pain 7 at the start":          {[]progress.Session{low("2026-11-17", func(s *progress.Session, _ *progress.Item) { s.PainStart = ptr(7.0) })}, nil, "rest", b, "rest", 0},
		"rising twice":                 {[]progress.Session{low("2026-11-12", func(s *progress.Session, _ *progress.Item) { s.PainEnd = ptr(3.0) }), low("2026-11-17", func(s *progress.Session, _ *progress.Item) { s.PainEnd = ptr(4.0) })}, nil, "refer", b, "rising", 0},
		"travels down the limb":        {[]progress.Session{low("2026-11-17", func(_ *progress.Session, i *progress.Item) { i.Felt = []string{"travels-down"} })}, nil, "refer", b, "refer", 0},
		"a red flag":                   {[]progress.Session{low("2026-11-17", func(s *progress.Session, _ *progress.Item) { s.RedFlags = []string{"fainting"} })}, nil, "refer", b, "red flag", 0},
		"21 days away: no step":        {[]progress.Session{did("2026-10-30", b, 2, 8, 3, nil)}, nil, "stay", b, "once", 1},
		"22 days away: one step down":  {[]progress.Session{did("2026-10-29", b, 2, 8, 3, nil)}, nil, "down", b, "one dose step", 0},
		"27 days away: one step":       {[]progress.Session{did("2026-10-24", b, 2, 8, 3, nil)}, nil, "down", b, "one dose step", 0},
		"28 days away: one rung":       {[]progress.Session{did("2026-10-23", b, 2, 8, 3, nil)}, nil, "down", "bridge-low", "one rung", 0},
		"55 days away: one rung":       {[]progress.Session{did("2026-09-26", b, 2, 8, 3, nil)}, nil, "down", "bridge-low", "one rung", 0},
		"56 days away: re-test":        {[]progress.Session{did("2026-09-25", b, 2, 8, 3, nil)}, nil, "down", "bridge-low", "re-test", 0},
		"5 weeks away: one rung down":  {[]progress.Session{low("2026-10-16", nil)}, nil, "down", "bridge-low", "one rung", 0},
		"9 weeks away: re-test":        {[]progress.Session{low("2026-09-10", nil)}, nil, "down", "bridge-low", "re-test", 0},
		"half the lowest hold":         {[]progress.Session{did("2026-11-17", long, 1, 1, 20, func(_ *progress.Session, i *progress.Item) { i.FormLostS = ptr(8.0); i.EndedBy = "form" })}, nil, "down", b, "down", 0},
	} {
		d := decide(t, "reps", c.suits, c.sessions...)
		assert.Equal(t, trade.Decision(c.decision), d.Decision, name)
		assert.Equal(t, c.to, d.ToVersion, name)
		assert.Contains(t, d.Rule+" "+d.Because, c.rule, name)
		assert.Equal(t, c.step, d.Step, name)
	}
}

func TestCapIsTheLastCleanRepetition(t *testing.T) {
	d := decide(t, "reps", nil, did("2026-11-17", "bridge", 2, 10, 3, func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(8); i.WarningRep = ptr(6) }))
	assert.Equal(t, 6, d.Dose.Reps)
	d = decide(t, "reps", nil, did("2026-11-17", "bridge", 2, 10, 3, func(_ *progress.Session, i *progress.Item) { i.SymptomRep = ptr(5) }))
	assert.Equal(t, 4, d.Dose.Reps)
	d = decide(t, "long-hold", nil, did("2026-11-17", "bridge-long-hold", 1, 1, 45, func(_ *progress.Session, i *progress.Item) { i.SymptomS = ptr(30.0) }))
	assert.Equal(t, 29, d.Dose.HoldS)
}

func TestTheLaggingSideSetsTheLevel(t *testing.T) {
	s := did("2026-11-17", "clam", 1, 8, 0, func(_ *progress.Session, i *progress.Item) { i.Side = "left" })
	right := s.Items[0]
	right.Side, right.Done.Reps, right.EndedBy = "right", 5, "form"
	s.Items = append(s.Items, right)
	d := decide(t, "reps", nil, s)
	assert.Equal(t, trade.Stay, d.Decision)
	assert.Equal(t, trade.Right, d.Extra)
}

func TestATrialNeverCounts(t *testing.T) {
	trial := did("2026-11-18", "bridge-long-hold", 1, 1, 60, func(_ *progress.Session, i *progress.Item) { i.Trial = true })
	d := decide(t, "reps", nil, did("2026-11-12", "bridge", 1, 8, 3, nil), did("2026-11-17", "bridge", 1, 8, 3, nil), trial)
	assert.Equal(t, "bridge", d.Version)
	assert.Equal(t, trade.Up, d.Decision)
}

func TestTheOrderOfTheLogDoesNotMatter(t *testing.T) {
	a, b := did("2026-11-12", "bridge", 1, 8, 3, nil), did("2026-11-17", "bridge", 1, 8, 3, nil)
	assert.Equal(t, decide(t, "reps", nil, a, b), decide(t, "reps", nil, b, a))
}
