package spot_test

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/appraise"
	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
	"restbend/plantest"
)

// session is a session made by hand for a freely moving client with a persistent back: a breath lying, bridges in
// three sets, clams on both sides, side planks in falling sets, bird dogs in turn, a single hold, squats, and a close
// at the wall.
func session(t testing.TB) spot.Facts {
	tr, err := plantest.Load()
	require.NoError(t, err)
	c := &intake.Client{Format: "restbend.client/1", Born: 1980, BreathRate: 12, Conditions: []intake.Condition{{Code: "low-back-pain", Phase: "persistent"}},
		Positions: map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes", "kneel": "yes", "hands": "yes", "floor_sit": "yes", "stand_free": "yes"},
		Surfaces:  []trade.Surface{trade.Mat, trade.Chair, trade.Wall, trade.Counter}, Kit: []string{"towel", "pillow"}, Schools: intake.Schools{Dose: "reps"}, EffortCap: 8}
	r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, c, nil, 40, trade.MustDay("2026-11-20"))
	require.NoError(t, err)
	p := &plan.Plan{Format: "restbend.plan/1", Minutes: 40}
	dosed := func(sets, reps, hold int) *plan.Typed {
		rest := 20
		return &plan.Typed{Sets: &sets, Reps: &reps, HoldS: &hold, RestS: &rest}
	}
	for _, one := range []struct {
		slug string
		dose *plan.Typed
	}{{"low-breath-supine", nil}, {"bridge", dosed(3, 8, 0)}, {"clam", dosed(2, 8, 0)}, {"bird-dog-leg", dosed(2, 6, 0)}, {"plank-knees", dosed(2, 1, 20)}, {"squat-half", dosed(2, 10, 0)}, {"long-spine-wall", nil}} {
		require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "add", With: one.slug}), one.slug)
		i := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Version == one.slug })
		if one.dose != nil {
			require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "dose", Item: i, Dose: one.dose}), one.slug)
		}
	}
	i := slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Version == "long-spine-wall" })
	require.NoError(t, edit.Apply(r, p, edit.Edit{Op: "move", Item: i, To: len(p.Items) - 1}))
	ways, err := restbend.Ways()
	require.NoError(t, err)
	laid := score.Facts{Catalogue: tr.Cat, Client: c, Ways: ways}
	s, err := score.Build(p, laid)
	require.NoError(t, err)
	return spot.Facts{Request: r, Plan: p, Score: s, Laid: laid}
}

// at is a second inside a repetition: "bridge 1/5" is in the fifth of the first set, "clam left 2/3" on that side;
// "before squat-half" is on the way to it, "rest bridge" in its first rest.
func at(t testing.TB, s *score.Score, where string) float64 {
	words := strings.Fields(where)
	item := func(slug string) int {
		i := slices.IndexFunc(s.Items, func(it score.Item) bool { return it.Version == slug })
		require.GreaterOrEqual(t, i, 0, slug)
		return i
	}
	for i := range s.Segments {
		g := &s.Segments[i]
		mid := (g.Start + g.End) / 2
		switch words[0] {
		case "before":
			if g.Item == item(words[1]) && g.Kind == score.Move {
				return mid
			}
		case "rest":
			if g.Item == item(words[1]) && g.Kind == score.Rest {
				return mid
			}
		default:
			var set, rep int
			_, err := fmt.Sscanf(words[len(words)-1], "%d/%d", &set, &rep)
			require.NoError(t, err)
			side := trade.Side("")
			if len(words) == 3 {
				side = trade.Side(words[1])
			}
			if g.Item == item(words[0]) && g.Kind == score.Work && g.Set == set && g.Rep == rep && (side == "" || g.Side == side) {
				return mid
			}
		}
	}
	require.Fail(t, "nowhere", where)
	return 0
}

// A fault that is seen while somebody gets ready is a fault, and ends nothing: all that follows is done.
func TestAFaultInTheSetUpEndsNothing(t *testing.T) {
	f := session(t)
	pos, item := second(t, f.Score, "bridge set-up")
	began := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	mark := func(key, kind string, pos float64, change func(*record.Mark)) record.Mark {
		m := record.Mark{Key: key, Kind: kind, At: began.Add(time.Duration(pos * float64(time.Second))), Pos: pos, Rev: 1}
		change(&m)
		return m
	}
	log := record.Replay(f.Score, trade.MustDay("2026-11-20"), []record.Mark{
		mark("s", record.Start, 0, func(m *record.Mark) { m.Mode = score.Flowing }),
		mark("f", record.Form, pos, func(m *record.Mark) { m.Item, m.Fault = &item, "sag" }),
		mark("e", record.End, f.Score.Seconds, func(m *record.Mark) { m.Because = "done" })})
	for _, it := range log.Items {
		if it.Version != "bridge" {
			continue
		}
		assert.Equal(t, progress.ByTarget, it.EndedBy)
		assert.Nil(t, it.FormLostS)
		assert.Equal(t, []progress.Fault{{Code: "sag"}}, it.Fault)
		assert.True(t, it.Whole())
	}
}

// told writes what is still to come of a session after a second, item by item: how much of each, and what is new.
func told(s *score.Score, at float64) string {
	var out []string
	for i := range s.Items {
		reps, sets := map[[3]any]bool{}, map[[2]any]bool{}
		for k := range s.Segments {
			if g := &s.Segments[k]; g.Item == i && g.Kind == score.Work && !g.Extra && g.End > at {
				reps[[3]any{g.Set, g.Rep, g.Side}] = true
				sets[[2]any{g.Set, s.Items[i].Side == trade.Each && g.Side == trade.Left}] = true
			}
		}
		if len(reps) > 0 {
			out = append(out, fmt.Sprintf("%s %d/%d", s.Items[i].Version, len(sets), len(reps)))
		}
	}
	return strings.Join(out, ", ")
}

// What a teacher does when something happens, written down from the practice of it (domain/08, domain/03): the event,
// where it happens, and what is said of it or why it cannot be. Sets and repetitions still to come stand as sets/reps.
func TestWhatATeacherDoes(t *testing.T) {
	pain := func(p float64) *float64 { return &p }
	mark := func(kind string, change func(m *record.Mark)) func(f *spot.Facts, at float64) (*spot.Outcome, error) {
		return func(f *spot.Facts, at float64) (*spot.Outcome, error) {
			m := record.Mark{Kind: kind, Pos: at}
			change(&m)
			return f.Happens(&m), nil
		}
	}
	do := func(c spot.Change, item string) func(f *spot.Facts, at float64) (*spot.Outcome, error) {
		return func(f *spot.Facts, at float64) (*spot.Outcome, error) {
			c.At, c.Item = at, -1
			if item != "" {
				c.Item = slices.IndexFunc(f.Score.Items, func(it score.Item) bool { return it.Version == item })
			}
			return f.Apply(c)
		}
	}
	symptom := func(rep int, s float64) func(*spot.Facts, float64) (*spot.Outcome, error) {
		return mark(record.Symptom, func(m *record.Mark) { m.Rep, m.S = rep, s })
	}
	one := session(t)
	const rest = ", bird-dog-leg 2/12, plank-knees 2/2, squat-half 2/20, long-spine-wall 1/1"
	for _, row := range []struct {
		event, where string
		happens      func(f *spot.Facts, at float64) (*spot.Outcome, error)
		say          string // part of what is said, or of why not
		coming       string // sets and repetitions still to come, empty: not looked at
	}{
		// Symptoms and warnings.
		{"a symptom at the fifth bridge", "bridge 1/5", symptom(5, 0), "at most 4 in the sets still to come", "bridge 2/8, clam 4/32" + rest},
		{"a symptom at the first bridge: nothing of it was clean", "bridge 1/1", symptom(1, 0), "is left: a symptom at repetition 1 today", "clam 4/32" + rest},
		{"a symptom in the last set", "bridge 3/4", symptom(4, 0), "at most 2 sets today", "clam 4/32" + rest},
		{"a symptom on the left: the right is capped too", "clam left 1/6", symptom(6, 0), "at most 5", "clam 3/15" + rest},
		{"a symptom at 12 s of a hold", "plank-knees 1/1", symptom(1, 12), "at most 11 s", "plank-knees 1/1, squat-half 2/20, long-spine-wall 1/1"},
		{"a symptom at 2 s of a hold: there is no shorter one", "plank-knees 1/1", symptom(1, 2), "is left", "squat-half 2/20, long-spine-wall 1/1"},
		{"a symptom on the way to the squats is about the plank, which is over", "before squat-half", symptom(1, 12), "Forearm plank on knees is over: it is kept for next time", ""},
		{"a symptom in turn", "bird-dog-leg 1/4", symptom(4, 0), "at most 2", "bird-dog-leg 1/2, plank-knees 2/2, squat-half 2/20, long-spine-wall 1/1"},
		{"a warning at the sixth", "bridge 1/6", mark(record.Warning, func(m *record.Mark) { m.Rep = 6 }), "at most 6", "bridge 2/12, clam 4/32" + rest},
		{"a warning at 15 s", "plank-knees 1/1", mark(record.Warning, func(m *record.Mark) { m.Rep, m.S = 1, 15 }), "at most 15 s", "plank-knees 1/1, squat-half 2/20, long-spine-wall 1/1"},
		{"pain of 3 with a symptom at the fifth", "bridge 1/5", mark(record.Symptom, func(m *record.Mark) { m.Rep, m.Pain = 5, pain(3) }), "is left: pain 3", "clam 4/32" + rest},
		{"pain of 1 is noted", "bridge 1/5", mark(record.Felt, func(m *record.Mark) { m.Felt, m.Pain = record.Words{"pain"}, pain(1) }), "", ""},
		{"pain of 6", "bridge 2/2", mark(record.Felt, func(m *record.Mark) { m.Felt, m.Pain = record.Words{"pain"}, pain(6) }), "is left: pain 6", "clam 4/32" + rest},
		{"it travels down the leg", "bridge 1/5", mark(record.Symptom, func(m *record.Mark) { m.Rep, m.Travels = 5, true }), "seen first", ""},
		{"numb or weak", "clam left 1/2", mark(record.Symptom, func(m *record.Mark) { m.Rep, m.Numb = 2, true }), "seen first", ""},
		{"the chest", "squat-half 1/3", mark(record.Symptom, func(m *record.Mark) { m.Rep, m.Chest = 3, true }), "seen first", ""},
		{"dizzy: the sets still to come stop before it", "squat-half 1/4", mark(record.Symptom, func(m *record.Mark) { m.Rep, m.Dizzy = 4, true }), "at most 3", "squat-half 1/3, long-spine-wall 1/1"},
		{"breathless", "squat-half 1/4", mark(record.Felt, func(m *record.Mark) { m.Felt = record.Words{"breathless"} }), "seen first", ""},
		{"tired is part of the work", "squat-half 1/4", mark(record.Felt, func(m *record.Mark) { m.Felt = record.Words{"tiring"} }), "", ""},
		{"form lost ends the set, which the player does", "bridge 1/4", mark(record.Form, func(m *record.Mark) { m.S = 4 }), "", ""},
		// Too hard.
		{"too hard: a rung down for the rest of the sets", "bridge 2/3", do(spot.Change{What: "down"}, ""), "instead of Bridge", ""},
		{"too hard: another exercise for the purpose", "plank-knees 1/1", do(spot.Change{What: "swap", Version: "dead-bug-arm"}, ""), "Tabletop arm reach instead of Forearm plank on knees", ""},
		{"a swap that is in the session already", "plank-knees 1/1", do(spot.Change{What: "swap", Version: "bridge"}, ""), "", ""},
		{"a swap nobody knows", "bridge 1/2", do(spot.Change{What: "swap", Version: "moon-walk"}, ""), "moon-walk", ""},
		{"an ease it does not have", "bridge 1/2", do(spot.Change{What: "ease", Ease: "wings"}, ""), "no such ease", ""},
		{"a place it is not done at", "bridge 1/2", do(spot.Change{What: "place", Surface: trade.Counter}, ""), "is not done there", ""},
		{"a rung down from the lowest", "low-breath-supine 1/1", do(spot.Change{What: "down"}, ""), "no easier rung", ""},
		{"too hard on the right: only the right is done another way", "clam right 2/3", do(spot.Change{What: "swap", Version: "side-leg-lift"}, ""), "instead of Clam", ""},
		// Sides.
		{"the other side first", "before clam", do(spot.Change{What: "other-side"}, "clam"), "right first", "clam 4/32" + rest},
		{"the other side first, of what has none", "bridge 1/1", do(spot.Change{What: "other-side"}, ""), "no other side", ""},
		{"one more set", "bridge 3/2", do(spot.Change{What: "repeat"}, ""), "one more set", "bridge 2/15, clam 4/32" + rest},
		{"a bit more on this side", "clam left 2/8", do(spot.Change{What: "more"}, ""), "one more set", ""},
		{"one more set before anything", "before low-breath-supine", do(spot.Change{What: "repeat"}, ""), "no set was begun", ""},
		// Order.
		{"the squats next", "bridge 1/2", do(spot.Change{What: "next"}, "squat-half"), "comes next", ""},
		{"what is over cannot come next", "clam left 1/1", do(spot.Change{What: "next"}, "bridge"), "was begun already", ""},
		{"the bridges later: what is left of them", "bridge 2/4", do(spot.Change{What: "later"}, ""), "comes later", "bridge 0/0"},
		{"an exercise that is to come, later", "bridge 1/2", do(spot.Change{What: "later"}, "clam"), "comes later", ""},
		{"the squats left out", "bridge 1/2", do(spot.Change{What: "drop"}, "squat-half"), "is left out", "bridge 3/23, clam 4/32, bird-dog-leg 2/12, plank-knees 2/2, long-spine-wall 1/1"},
		{"what was begun is left, not left out", "bridge 1/2", do(spot.Change{What: "drop"}, "bridge"), "was begun", ""},
		{"leave this one", "bridge 1/2", do(spot.Change{What: "leave"}, ""), "is left", "clam 4/32" + rest},
		// More, less, other.
		{"something from the search", "bridge 3/7", do(spot.Change{What: "add", Version: "heel-raise"}, ""), "is put in", ""},
		{"something that is in it already", "bridge 1/2", do(spot.Change{What: "add", Version: "clam"}, ""), "in this session already", ""},
		{"something nobody knows", "bridge 1/2", do(spot.Change{What: "add", Version: "moon-walk"}, ""), "moon-walk", ""},
		{"too easy: a trial waits for its gate", "plank-knees 1/1", do(spot.Change{What: "trial"}, ""), "", ""},
		{"late: a set less of each", "bridge 1/2", do(spot.Change{What: "dose"}, ""), "a set less of", ""},
		{"late: nothing has more than one set", "squat-half 2/9", do(spot.Change{What: "dose"}, ""), "nothing still to come", ""},
		{"a minute more of a rest", "rest bridge", do(spot.Change{What: "minute"}, ""), "60 s more", ""},
		{"a minute more of the bridges", "bridge 1/2", do(spot.Change{What: "minute"}, ""), "more", ""},
		{"a word nobody knows", "bridge 1/2", do(spot.Change{What: "dance"}, ""), "allowed: ease", ""},
	} {
		t.Run(row.event, func(t *testing.T) {
			f := one
			second := at(t, f.Score, row.where)
			out, err := row.happens(&f, second)
			text := ""
			if err != nil {
				var why *spot.Refusal
				require.ErrorAs(t, err, &why)
				text = why.Why
			} else {
				text = strings.Join(out.Say, "; ")
			}
			assert.Contains(t, text, row.say)
			if err != nil || out.Score == nil {
				return
			}
			holds(t, &f, out, second, row.event)
			switch {
			case row.coming == "bridge 0/0":
				assert.Regexp(t, `squat-half.*bridge`, order(out.Score), "after the squats, before the close")
			case row.coming != "":
				assert.Equal(t, row.coming, told(out.Score, second))
			}
		})
	}
}

// order is the order of the exercises as their work begins.
func order(s *score.Score) string {
	var out []string
	for i := range s.Segments {
		if g := &s.Segments[i]; g.Kind == score.Work && (len(out) == 0 || out[len(out)-1] != s.Items[g.Item].Version) {
			out = append(out, s.Items[g.Item].Version)
		}
	}
	return strings.Join(out, " ")
}

// holds is true of every outcome: what ran is kept, nothing in the rest breaks a limit or a cap, the plan is that of
// the score, and the end is kept but for what was asked to be longer.
func holds(t *testing.T, f *spot.Facts, out *spot.Outcome, at float64, where string) {
	for i := range out.Score.Items {
		it := &out.Score.Items[i]
		v, _ := f.Request.Catalogue.Version(it.Version)
		for _, ease := range it.Eases {
			assert.NotNil(t, v.Ease(ease), "%s: %s has an ease of another exercise: %s", where, it.Version, ease)
		}
	}
	t.Helper()
	s := out.Score
	require.Equal(t, f.Score.Rev+1, s.Rev, where)
	running := f.Score.Running(at)
	require.Equal(t, f.Score.Segments[:running], s.Segments[:running], where)
	now := 0.0
	for i := range s.Segments {
		g := &s.Segments[i]
		require.InDelta(t, now, g.Start, 1e-6, where)
		require.Less(t, g.Item, len(s.Items), where)
		now = g.End
		if c := s.Items[g.Item].Cap; c != nil && c.Reps > 0 && g.Kind == score.Work && g.Start >= at {
			require.LessOrEqual(t, g.Rep, c.Reps, where)
		}
	}
	require.InDelta(t, now, s.Seconds, 1e-6, where)
	require.Len(t, out.Plan.Items, len(s.Items), where)
	for i := range s.Items {
		require.Equal(t, s.Items[i].Version, out.Plan.Items[i].Version, where)
		if i > f.Score.LastRunning(at) && s.Items[i].Role != trade.Reset {
			require.True(t, appraise.Safe(f.Request, &out.Plan.Items[i]), "%s: %s", where, s.Items[i].Version)
		}
	}
	if longer := slices.Contains([]string{"repeat", "minute"}, s.Because); !longer && !strings.Contains(strings.Join(out.Say, " "), "later") {
		require.LessOrEqual(t, s.Seconds, f.Score.Seconds+30, where)
	}
}

// does holds what a change on the spot says against the score it made, worked out here again: where things stand, what
// is left of them, when it ends; and nothing that was explained is explained again.
func does(t *testing.T, f *spot.Facts, o *spot.Offer, out *spot.Outcome, at float64, where string) {
	t.Helper()
	s, said := out.Score, strings.Join(out.Say, "; ")
	var coming []string
	for i := range s.Segments {
		if g := &s.Segments[i]; g.Kind == score.Work && g.End > at && !slices.Contains(coming, s.Items[g.Item].Version) {
			coming = append(coming, s.Items[g.Item].Version)
		}
	}
	named := ""
	if o.Item >= 0 {
		named = f.Score.Items[o.Item].Version
	}
	switch o.What {
	case "swap", "down":
		require.Contains(t, coming, o.Version, where)
		require.NotContains(t, coming, named, where)
		if o.What == "down" {
			v, _ := f.Request.Catalogue.Version(named)
			w, _ := f.Request.Catalogue.Version(o.Version)
			require.LessOrEqual(t, w.Effort, v.Effort, where)
		}
	case "ease", "place":
		require.Contains(t, coming, named, where)
		for i := f.Score.LastRunning(at) + 1; i < len(s.Items); i++ {
			if it := &s.Items[i]; it.Version == named {
				require.True(t, o.What == "ease" && slices.Contains(it.Eases, o.Ease) || o.What == "place" && it.Surface == o.Surface, where)
			}
		}
	case "next":
		require.Contains(t, said, "comes next", where)
		require.LessOrEqual(t, slices.Index(coming, named), 1+len(underWay(f, at)), where)
	case "drop":
		require.NotContains(t, coming, named, where)
	case "dose":
		require.Less(t, s.Seconds, f.Score.Seconds, where)
	case "trial":
		require.Contains(t, coming, o.Version, where)
	}
	if m := endsLater.FindStringSubmatch(said); m != nil {
		require.Equal(t, m[1], fmt.Sprint(int(s.Seconds-f.Score.Seconds)), where)
	} else {
		require.LessOrEqual(t, s.Seconds, f.Score.Seconds+31, where)
	}
	heard := map[string]bool{}
	for i := range f.Score.Segments {
		if g := &f.Score.Segments[i]; g.Kind == score.Setup && g.End <= at {
			heard[f.Score.Items[g.Item].Version] = true
		}
	}
	for i := range s.Segments {
		if g := &s.Segments[i]; g.Kind == score.Setup && g.Start >= at && heard[s.Items[g.Item].Version] {
			require.LessOrEqual(t, g.End-g.Start, 10.0, "%s: %s was explained already", where, s.Items[g.Item].Version)
		}
	}
}

var endsLater = regexp.MustCompile(`it ends (\d+) s later`)

// underWay are the exercises that are done together with the one under way.
func underWay(f *spot.Facts, at float64) (out []int) {
	k := f.Score.UnderWay(at)
	for i := range f.Score.Items {
		if k >= 0 && f.Score.Together(i, k) {
			out = append(out, i)
		}
	}
	return out
}

// In drawn sessions, whatever happens wherever: every outcome holds, every offer can be taken, and the same event gives
// the same rest.
func TestEventsInDrawnSessions(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	ways, err := restbend.Ways()
	require.NoError(t, err)
	n, made := 0, 0
	sessions := 10
	if testing.Short() {
		sessions = 2
	}
	for seed := uint64(41000); made < sessions; seed++ {
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Quick(r)
		if err != nil {
			continue
		}
		made++
		laid := score.Facts{Catalogue: tr.Cat, Client: r.Client, Log: r.Log, Ways: ways}
		s, err := score.Build(p, laid)
		require.NoError(t, err)
		f := spot.Facts{Request: r, Plan: p, Score: s, Laid: laid}
		for share := 0.05; share < 1; share += 0.13 {
			second := share * s.Seconds
			where := fmt.Sprintf("seed %d at %.0f s", seed, second)
			offers := append(append(f.TooHard(second), f.Late(second)...), f.Coming(second)...)
			easy, _ := f.TooEasy(second)
			for _, o := range append(offers, easy...) {
				c := spot.Change{What: o.What, At: second, Item: o.Item, Version: o.Version, Ease: o.Ease, Surface: o.Surface}
				if o.What == "trial" {
					c.Version = ""
				}
				out, err := f.Apply(c)
				require.NoError(t, err, "%s: an offer that cannot be taken: %+v", where, o)
				holds(t, &f, out, second, where+" "+o.What+" "+o.Say)
				does(t, &f, &o, out, second, where+" "+o.What+" "+o.Say)
				again, err := f.Apply(c)
				require.NoError(t, err)
				require.Equal(t, out.Score, again.Score, where)
				n++
			}
			for _, kind := range []string{record.Symptom, record.Warning} {
				for _, rep := range []int{1, 3} {
					out := f.Happens(&record.Mark{Kind: kind, Pos: second, Rep: rep, S: 7})
					if out.Score != nil {
						holds(t, &f, out, second, where+" "+kind)
						n++
					}
				}
			}
		}
	}
	t.Logf("%d outcomes in %d sessions", n, made)
	assert.Greater(t, n, 20*sessions)
}

// In a class, what nobody held against a member's clinician's words is not done by them; what was held is.
func TestAMembersClinicianHasTheSay(t *testing.T) {
	f := session(t)
	member := *f.Request.Client
	member.Clearances = []intake.Clearance{{Date: trade.MustDay("2026-11-10"), By: "doctor", Covers: []string{"low-back-pain"}, Limits: "no strain"}}
	tr, err := plantest.Load()
	require.NoError(t, err)
	request := func() *facts.Request {
		r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, &member, nil, 40, trade.MustDay("2026-11-20"))
		require.NoError(t, err)
		return r
	}
	does := func() (slugs []string, err error) {
		m, _, _, err := spot.Join("2", "Member", f.Plan, f.Score, request(), f.Laid)
		for _, it := range m.Items {
			if it.Version != "" {
				slugs = append(slugs, it.Version)
			}
		}
		return slugs, err
	}
	_, err = does()
	assert.ErrorContains(t, err, "Member could do 0 of the 7 exercises", "nothing was held against the words yet")
	held := []string{"low-breath-supine", "bridge", "bird-dog-leg", "squat-half", "long-spine-wall"}
	for _, slug := range held {
		request().Screener.Confirm(&member, slug, true, "Ana")
	}
	slugs, err := does()
	require.NoError(t, err)
	assert.ElementsMatch(t, held, slugs, "what was held, and nothing else")
	member.Clearances = nil
	slugs, err = does()
	require.NoError(t, err)
	assert.Len(t, slugs, 7, "without such words they do what suits")
}

// Who joins a class goes the host's ways in the host's time: getting up with help takes longer, lying on the back has
// its end, and who could do little of it is better off alone.
func TestAMemberKeepsUp(t *testing.T) {
	f := session(t)
	tr, err := plantest.Load()
	require.NoError(t, err)
	for _, c := range []struct {
		name   string
		member func(c *intake.Client)
		want   string // of the refusal, empty for none
	}{
		{"as able as the host", func(*intake.Client) {}, ""},
		{"helped down and up", func(c *intake.Client) { c.Positions["floor"] = "help" }, "from the session of who needs longest"},
		{"not on the floor", func(c *intake.Client) { c.Positions["floor"] = "no" }, "could do"},
		{"not on the floor, a bed", func(c *intake.Client) {
			c.Positions["floor"] = "no"
			c.Surfaces = append(c.Surfaces, trade.Bed)
		}, "any"},
		{"pregnant", func(c *intake.Client) {
			c.Conditions = append(c.Conditions, intake.Condition{Code: "pregnancy", More: map[string]any{"weeks": 30.0}})
		}, "any"},
		{"nothing but standing", func(c *intake.Client) {
			for _, k := range []string{"supine", "prone", "side_left", "side_right", "kneel"} {
				c.Positions[k] = "no"
			}
		}, "could do"},
	} {
		who := *f.Request.Client
		who.Positions = maps.Clone(who.Positions)
		who.Surfaces = slices.Clone(who.Surfaces)
		c.member(&who)
		r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, &who, nil, 40, trade.MustDay("2026-11-20"))
		require.NoError(t, err, c.name)
		m, own, _, err := spot.Join("2", "Member", f.Plan, f.Score, r, f.Laid)
		switch {
		case c.want == "":
			require.NoError(t, err, c.name)
		case err != nil:
			if c.want != "any" {
				assert.ErrorContains(t, err, c.want, c.name)
			}
			continue
		default:
			assert.Equal(t, "any", c.want, "%s: joined", c.name)
		}
		for i, it := range own.Items {
			if m.Items[strconv.Itoa(i)].Version != "" {
				assert.True(t, appraise.Safe(r, &it), "%s: %s", c.name, it.Version)
			}
		}
	}
}
