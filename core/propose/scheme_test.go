package propose_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

// What opens of a kind that is learned: by the days of the sessions, what was said of memory (+ yes, - not yet), and
// what of the main part was done in them (domain/04 and 07).
func TestAKindThatIsLearned(t *testing.T) {
	type session struct {
		day    string
		memory string
		main   string
	}
	for _, c := range []struct {
		name string
		log  []session
		want string // the section, empty while learning
	}{
		{"never done", nil, ""},
		{"once", []session{{"2026-11-19", "", ""}}, ""},
		{"from memory at once, but in the first week", []session{{"2026-11-15", "", ""}, {"2026-11-18", "+", ""}}, ""},
		{"a week, never asked, twice", []session{{"2026-11-10", "", ""}, {"2026-11-13", "", ""}}, "pelvis and low belly"},
		{"a week, once, never asked", []session{{"2026-11-10", "", ""}}, ""},
		{"a week, once, from memory", []session{{"2026-11-10", "+", ""}}, "pelvis and low belly"},
		{"three times, not yet from memory", []session{{"2026-11-01", "", ""}, {"2026-11-05", "", ""}, {"2026-11-12", "-", ""}}, ""},
		{"the last word counts", []session{{"2026-11-01", "-", ""}, {"2026-11-12", "+", ""}}, "pelvis and low belly"},
		{"forgotten again", []session{{"2026-11-01", "+", ""}, {"2026-11-12", "-", ""}}, ""},
		{"the next section", []session{{"2026-11-01", "+", ""}, {"2026-11-12", "+", "bridge"}}, "legs from a still trunk"},
		{"all were done: the oldest", []session{{"2026-11-01", "+", "clam"}, {"2026-11-05", "", "bridge"}, {"2026-11-08", "", "dead-bug-arm"}, {"2026-11-12", "", "bird-dog-leg"}}, "hip on the side"},
	} {
		log := &progress.Log{Format: "restbend.log/1"}
		for _, s := range c.log {
			x := progress.Session{Date: trade.MustDay(s.day), Items: []progress.Item{{Version: "side-check", Done: progress.Amount{Sets: 1, Reps: 1}}, {Version: "side-let-down", Side: trade.Left, Done: progress.Amount{Sets: 1, Reps: 5}}}}
			if s.main != "" {
				v, ok := plantest.Cat.Version(s.main)
				require.True(t, ok, s.main)
				x.Items = append(x.Items, progress.Item{Version: v.Slug, Target: progress.Amount{Sets: 2, Reps: 8}, Done: progress.Amount{Sets: 2, Reps: 8}})
			}
			if s.memory != "" {
				known := s.memory == "+"
				x.Checks = &progress.Checks{FromMemory: &known}
			}
			log.Sessions = append(log.Sessions, x)
		}
		who := plantest.Able()
		who.Conditions = []intake.Condition{{Code: "sij-pain", Side: trade.Left}}
		who.Today = intake.Today{Date: plantest.Today, SIJSide: trade.Left}
		r := plantest.For(t, who, log, 15).For(kindOf(t, "sacroiliac"))
		p, err := propose.Build(r)
		require.NoError(t, err, c.name)
		assert.Equal(t, c.want, p.Section, c.name)
		families := map[string]bool{}
		for _, f := range r.Template.Sections {
			for _, name := range f.Families {
				families[name] = f.Name == c.want
			}
		}
		main := 0
		for _, it := range p.Items {
			if it.Part == kinds.Main {
				main++
				assert.True(t, families[it.Family], "%s: %s belongs to another section", c.name, it.Version)
			}
		}
		assert.Equal(t, c.want != "", main > 0, c.name)
		last := c.log == nil || c.log[len(c.log)-1].memory == "-"
		assert.Equal(t, last, p.AsksMemory && last, c.name)
		if c.want != "" && len(c.log) > 1 && c.log[0].memory == "+" {
			assert.False(t, p.AsksMemory, c.name)
		}
	}
	assert.Nil(t, plantest.For(t, plantest.Able(), nil, 15).Scheme(), "a free session is not learned")
}

// What was done often enough in a kind worked by feel ends with the felt change, half of its count at the least.
func TestWorkByFeel(t *testing.T) {
	log := &progress.Log{Format: "restbend.log/1"}
	known := true
	for _, day := range []string{"2026-10-01", "2026-10-05", "2026-10-09"} {
		log.Sessions = append(log.Sessions, progress.Session{Date: trade.MustDay(day), Checks: &progress.Checks{FromMemory: &known}, Items: []progress.Item{
			{Version: "side-check", Done: progress.Amount{Sets: 1, Reps: 1}}, {Version: "clam", Side: trade.Left, Target: progress.Amount{Sets: 1, Reps: 8}, Done: progress.Amount{Sets: 1, Reps: 8}},
			{Version: "bridge", Target: progress.Amount{Sets: 1, Reps: 8}, Done: progress.Amount{Sets: 1, Reps: 8}}, {Version: "bird-dog-leg", Target: progress.Amount{Sets: 1, Reps: 8}, Done: progress.Amount{Sets: 1, Reps: 8}}}})
	}
	who := plantest.Able()
	who.Conditions = []intake.Condition{{Code: "sij-pain", Side: trade.Left}}
	who.Schools.Dose = "reps"
	who.Today = intake.Today{Date: plantest.Today, SIJSide: trade.Left}
	r := plantest.For(t, who, log, 15)
	felt, counted := 0, 0
	for _, kind := range []string{"sacroiliac", ""} {
		of := r.For(nil)
		if kind != "" {
			k := *kindOf(t, kind)
			k.Sections = nil
			of = r.For(&k)
		}
		p, err := propose.Build(of)
		require.NoError(t, err)
		for _, it := range p.Items {
			if it.Part != kinds.Main || it.Dose.HoldS > 0 || it.Dose.HoldBreaths > 0 || it.Dose.Reps < 2 {
				continue
			}
			if it.Dose.ByFeel && kind != "" {
				felt++
				assert.InDelta(t, float64(it.Dose.Reps)/2, it.Dose.RepsFrom, float64(it.Dose.Reps)/2)
				assert.Contains(t, it.DoseWords(), "feel")
			} else if !it.Dose.ByFeel && kind == "" {
				counted++
			}
		}
	}
	assert.Positive(t, felt)
	assert.Positive(t, counted)
}

func kindOf(t *testing.T, slug string) *kinds.Template {
	t.Helper()
	templates, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	for i := range templates {
		if templates[i].Slug == slug {
			return &templates[i]
		}
	}
	require.Fail(t, "no kind", slug)
	return nil
}
