package progress_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/catalogue"
	"restbend/core/progress"
	"restbend/core/trade"
)

// course is a client who does what was decided, session after session.
type course struct {
	name, school, start string
	gaps                []int // days between sessions, used round and round
	sessions            int
	every               func(n int, s *progress.Session, i *progress.Item)       // what happens in session n, from 0
	rest                func(n int, s *progress.Session, items *[]progress.Item) // ... to the whole session
	want                string                                                   // a letter a session: Up, Stay, Cap, Down
}

// letters of the decisions; Refer is X, so that it is not mistaken for Rest.
var letters = map[trade.Decision]string{trade.Up: "U", trade.Stay: "S", trade.Cap: "C", trade.Down: "D", trade.Rest: "R", trade.Refer: "X"}

// run teaches a course and writes down what was decided after each session.
func (c *course) run(t *testing.T) string {
	t.Helper()
	cat, err := loaded()
	require.NoError(t, err)
	v, ok := cat.Version(c.start)
	require.True(t, ok, c.start)
	var sessions []progress.Session
	var out strings.Builder
	day := trade.On(2026, 1, 5)
	d := v.Dose(c.school, 0)
	for n := range c.sessions {
		reps := d.Reps
		if len(d.Pattern) > 0 {
			reps = d.TotalReps()
		}
		a := progress.Amount{Sets: d.SetCount(), Reps: reps, HoldS: d.HoldS + d.HoldCounts, HoldBreaths: d.HoldBreaths}
		if len(d.Pattern) > 0 {
			a.Sets = 1
		}
		s := progress.Session{Date: day, PainStart: ptr(2.0), PainEnd: ptr(2.0), Ended: "done", Soreness: &progress.Soreness{Peak: 1, SettledH: 10, Kind: progress.Muscle}}
		sides := []trade.Side{trade.None}
		if v.SideMode == trade.Each {
			sides = trade.BothSides[:]
			if strings.HasPrefix(v.Binds, "curve-") {
				sides = sides[:1]
			}
		}
		for _, side := range sides {
			it := progress.Item{Version: v.Slug, Side: side, Target: a, Done: a, EndedBy: progress.ByTarget}
			if c.every != nil {
				c.every(n, &s, &it)
			}
			s.Items = append(s.Items, it)
		}
		if c.rest != nil {
			c.rest(n, &s, &s.Items)
		}
		sessions = append(sessions, s)
		day = day.AddDays(c.gaps[n%len(c.gaps)])
		_, ds := progress.Decide(progress.Input{Catalogue: cat, School: c.school, Breaths: 12, Today: day, Suits: func(string) bool { return true }, Log: progress.Log{Sessions: sessions}})
		got := find(ds, v)
		require.NotNil(t, got, "%s, session %d", c.name, n)
		out.WriteString(letters[got.Decision])
		v, _ = cat.Version(got.ToVersion)
		d = got.Dose
	}
	return out.String()
}

func find(ds []progress.Decision, v *catalogue.Version) *progress.Decision {
	for i := range ds {
		if ds[i].Family == v.Family && ds[i].Version == v.Slug {
			return &ds[i]
		}
	}
	return nil
}

// Ordinary courses of 6 to 12 sessions go up at their pace: a step after every two clean
// sessions, whatever is ordinary about them. (Common practice; the pace is the table's.)
func TestOrdinaryCoursesGoUpAtTheirPace(t *testing.T) {
	weekly, twice := []int{7}, []int{3, 4}
	sore := func(peak, hours float64, kind string) func(int, *progress.Session, *progress.Item) {
		return func(_ int, s *progress.Session, _ *progress.Item) {
			s.Soreness = &progress.Soreness{Peak: peak, SettledH: hours, Kind: kind}
		}
	}
	at := func(which int, do func(*progress.Session, *progress.Item)) func(int, *progress.Session, *progress.Item) {
		return func(n int, s *progress.Session, i *progress.Item) {
			if n == which {
				do(s, i)
			}
		}
	}
	pain := func(starts ...float64) func(int, *progress.Session, *progress.Item) {
		return func(n int, s *progress.Session, _ *progress.Item) {
			p := starts[n%len(starts)]
			s.PainStart, s.PainEnd = ptr(p), ptr(p)
		}
	}
	for _, c := range []course{
		{"bridge, weekly", "reps", "bridge-low", weekly, 12, nil, nil, "SUSUSUSUSUSU"},
		{"bridge, twice a week", "reps", "bridge-low", twice, 12, nil, nil, "SUSUSUSUSUSU"},
		{"bridge, every other day", "reps", "bridge-low", []int{2}, 12, nil, nil, "SUSUSUSUSUSU"},
		{"bridge, daily", "reps", "bridge-low", []int{1}, 8, nil, nil, "SUSUSUSU"},
		{"bridge, every second week", "reps", "bridge-low", []int{14}, 8, nil, nil, "SUSUSUSU"},
		{"bridge, every third week", "reps", "bridge-low", []int{21}, 6, nil, nil, "SUSUSU"},
		{"bridge, short holds", "short-holds", "bridge-low", weekly, 10, nil, nil, "SUSUSUSUSU"},
		{"bridge, breaths", "breaths", "bridge-low", weekly, 8, nil, nil, "SUSUSUSU"},
		{"bridge, long hold", "long-hold", "bridge-low", weekly, 8, nil, nil, "SUSUSUSU"},
		{"clam, both sides", "reps", "clam", weekly, 10, nil, nil, "SUSUSUSUSU"},
		{"bird dog", "short-holds", "bird-dog-arm", weekly, 10, nil, nil, "SUSUSUSUSU"},
		{"dead bug", "reps", "dead-bug-arm", twice, 8, nil, nil, "SUSUSUSU"},
		{"front plank from the wall", "short-holds", "plank-wall", weekly, 10, nil, nil, "SUSUSUSUSU"},
		{"side plank from the wall", "short-holds", "side-plank-wall", weekly, 10, nil, nil, "SUSUSUSUSU"},
		{"rising from armrests", "reps", "sit-to-stand-armrests", weekly, 10, nil, nil, "SUSUSUSUSU"},
		{"one-leg stand with a hold", "long-hold", "one-leg-held", weekly, 8, nil, nil, "SUSUSUSU"},
		{"heel raises with a hold", "reps", "heel-raise-held", twice, 8, nil, nil, "SUSUSUSU"},
		{"curve work, one side on purpose, to the last rung", "breaths", "curve-breathe-arc", weekly, 8, nil, nil, "SUSUSSSS"},

		{"muscles sore for two days", "reps", "bridge-low", weekly, 8, sore(4, 48, progress.Muscle), nil, "SUSUSUSU"},
		{"muscles sore for three days", "reps", "bridge-low", weekly, 8, sore(5, 72, progress.Muscle), nil, "SUSUSUSU"},
		{"muscles sore for four days, gone by the next", "reps", "bridge-low", weekly, 8, sore(3, 96, progress.Muscle), nil, "SUSUSUSU"},
		{"old pain that settles overnight", "reps", "bridge-low", weekly, 8, sore(3, 14, progress.OldPain), nil, "SUSUSUSU"},
		{"old pain that settles in a day", "reps", "bridge-low", weekly, 8, sore(3, 24, progress.OldPain), nil, "SUSUSUSU"},
		{"a little sore, nobody says what", "reps", "bridge-low", weekly, 8, sore(3, 20, ""), nil, "SUSUSUSU"},
		{"not sore at all", "reps", "bridge-low", weekly, 8, sore(0, 0, ""), nil, "SUSUSUSU"},
		{"answered the day after", "reps", "bridge-low", weekly, 8, func(_ int, s *progress.Session, _ *progress.Item) {
			s.Soreness, s.FollowUp = nil, &progress.FollowUp{On: s.Date.AddDays(1), Soreness: ptr(2.0), SettledH: ptr(24.0), Kind: progress.Muscle, Effect: "same"}
		}, nil, "SUSUSUSU"},
		{"better after each", "reps", "bridge-low", weekly, 8, func(_ int, s *progress.Session, _ *progress.Item) {
			s.FollowUp = &progress.FollowUp{Effect: "better"}
		}, nil, "SUSUSUSU"},
		{"tiring and pulling", "reps", "bridge-low", weekly, 8, func(n int, _ *progress.Session, i *progress.Item) {
			i.Felt = []string{[]string{"tiring", "pulling"}[n%2]}
		}, nil, "SUSUSUSU"},
		{"pain of 3 that stays", "reps", "bridge-low", weekly, 8, pain(3), nil, "SUSUSUSU"},
		{"pain up and down a point", "reps", "bridge-low", weekly, 8, pain(2, 3, 2, 3), nil, "SUSUSUSU"},
		{"pain that falls", "reps", "bridge-low", weekly, 8, pain(5, 4, 4, 3, 3, 2, 2, 1), nil, "SSUSUSUS"},
		{"a point more at the end now and then", "reps", "bridge-low", weekly, 8, func(n int, s *progress.Session, _ *progress.Item) {
			s.PainEnd = ptr(2.0 + float64(n%2))
		}, nil, "SUSUSUSU"},
		{"a point more at the end each time", "reps", "bridge-low", weekly, 8, func(_ int, s *progress.Session, _ *progress.Item) { s.PainEnd = ptr(3.0) }, nil, "SUSUSUSU"},
		{"pain of a point during, from 2", "reps", "bridge-low", weekly, 8, func(_ int, _ *progress.Session, i *progress.Item) { i.Pain = ptr(3.0) }, nil, "SUSUSUSU"},
		{"no pain during, logged as 0", "reps", "bridge-low", weekly, 8, func(_ int, _ *progress.Session, i *progress.Item) { i.Pain = ptr(0.0) }, nil, "SUSUSUSU"},
		{"pain not asked", "reps", "bridge-low", weekly, 8, func(_ int, s *progress.Session, _ *progress.Item) { s.PainStart, s.PainEnd = nil, nil }, nil, "SUSUSUSU"},
		{"more than the target", "reps", "bridge-low", weekly, 8, func(_ int, _ *progress.Session, i *progress.Item) { i.Done.Reps++ }, nil, "SUSUSUSU"},
		{"a fault that one cue mends", "reps", "bridge-low", weekly, 8, func(_ int, _ *progress.Session, i *progress.Item) {
			i.Fault = []progress.Fault{{Code: "arch", Corrected: true}}
		}, nil, "SUSUSUSU"},
		{"the same help each time", "reps", "bridge-low", weekly, 6, func(_ int, _ *progress.Session, i *progress.Item) { i.Helped = "held" }, nil, "SUSUSU"},
		{"the same band each time", "reps", "clam", weekly, 6, func(_ int, _ *progress.Session, i *progress.Item) { i.Load = &progress.Load{Band: "light"} }, nil, "SUSUSU"},
		{"another exercise of the family beside it", "reps", "bridge-low", weekly, 8, nil, func(_ int, s *progress.Session, items *[]progress.Item) {
			*items = append(*items, did(s.Date.String(), "nod-only", 1, 8, 0, nil).Items...)
		}, "SUSUSUSU"},
		{"left by choice once", "reps", "bridge-low", weekly, 9, at(3, func(_ *progress.Session, i *progress.Item) { i.Done.Reps, i.EndedBy = 2, progress.ByChoice }), nil, "SUSSUSUSU"},
		{"the time was up once", "reps", "bridge-low", weekly, 9, at(3, func(s *progress.Session, i *progress.Item) { s.Ended, i.Done.Reps, i.EndedBy = "time", 2, "" }), nil, "SUSSUSUSU"},
		{"not reached once", "reps", "bridge-low", weekly, 9, at(3, func(_ *progress.Session, i *progress.Item) {
			i.Reached, i.Done, i.EndedBy = ptr(false), progress.Amount{}, ""
		}), nil, "SUSSUSUSU"},
		{"the client wished to stop once, after this one", "reps", "bridge-low", weekly, 8, at(3, func(s *progress.Session, _ *progress.Item) { s.Ended = "wish" }), nil, "SUSUSUSU"},
		{"form lost once", "reps", "bridge-low", weekly, 9, at(3, func(_ *progress.Session, i *progress.Item) { i.Done.Reps, i.EndedBy = 4, progress.ByForm }), nil, "SUSSSUSUS"},
		{"sore to 6 once", "reps", "bridge-low", weekly, 9, at(3, func(s *progress.Session, _ *progress.Item) {
			s.Soreness = &progress.Soreness{Peak: 6, SettledH: 30, Kind: progress.Muscle}
		}), nil, "SUSSSUSUS"},
		{"dizzy once", "reps", "bridge-low", weekly, 9, at(3, func(_ *progress.Session, i *progress.Item) { i.Felt = []string{"dizziness"} }), nil, "SUSSSUSUS"},
		{"a warning repetition once", "reps", "bridge-low", weekly, 9, at(3, func(_ *progress.Session, i *progress.Item) { i.WarningRep = ptr(5) }), nil, "SUSCSUSUS"},
		{"two weeks of holiday", "reps", "bridge-low", []int{7, 7, 21, 7}, 8, nil, nil, "SUSUSUSU"},
		{"a month of holiday, practised at home", "reps", "bridge-low", []int{7, 7, 30, 7, 7, 7, 7, 7}, 8, func(n int, s *progress.Session, _ *progress.Item) {
			if n == 2 {
				s.FollowUp = &progress.FollowUp{On: s.Date.AddDays(28), Home: 9}
			}
		}, nil, "SUSSUSUS"},
	} {
		got := c.run(t)
		assert.Equal(t, c.want, got, c.name)
	}
}
