package record_test

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/trade"
)

var day = trade.MustDay("2026-11-20")

var noon = time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)

// example is a score as an earlier release wrote it, which is read and replayed for ever: blades lying on the front, six holds of 10 s (87 to 177); standing
// heel to toe, 10 s on the left (264 to 281) and on the right (289 to 306); swaying, ten times in turn.
func example(t testing.TB) *score.Score {
	data, err := os.ReadFile("testdata/score-of-an-earlier-release.json")
	require.NoError(t, err)
	var s score.Score
	require.NoError(t, json.Unmarshal(data, &s))
	return &s
}

// sheet is a list of marks being written: at each a kind, the second of the score, and how long after noon.
type sheet []record.Mark

func (s *sheet) add(kind string, pos, after float64, change ...func(*record.Mark)) {
	m := record.Mark{Key: fmt.Sprintf("m%d", len(*s)), Device: "a", By: "Ana", At: noon.Add(time.Duration(after * float64(time.Second))), Kind: kind, Pos: pos}
	for _, c := range change {
		c(&m)
	}
	*s = append(*s, m)
}

func to(v any) func(*record.Mark) {
	text, _ := json.Marshal(v)
	return func(m *record.Mark) { m.To = text }
}

func on(item int, side trade.Side) func(*record.Mark) {
	return func(m *record.Mark) { m.Item, m.Side = &item, side }
}

// led marks a session with somebody there to its end: go at every wait.
func led(s *score.Score) sheet {
	var out sheet
	out.add(record.Start, 0, 0)
	after := 0.0
	at := 0.0
	for i := range s.Segments {
		if g := &s.Segments[i]; g.Wait {
			after += g.End - at + 5 // stands for five seconds
			at = g.End
			out.add(record.Go, at, after)
		}
	}
	out.add(record.End, s.Seconds, after+s.Seconds-at+10, func(m *record.Mark) { m.Because = "done" })
	return out
}

// said writes a line of the log as a sentence.
func said(it *progress.Item) string {
	out := fmt.Sprintf("%s %s: %d x %d", it.Version, it.Side, it.Done.Sets, it.Done.Reps)
	if it.Done.HoldS > 0 {
		out += fmt.Sprintf(" x %d s", it.Done.HoldS)
	}
	if it.Done.HoldBreaths > 0 {
		out += fmt.Sprintf(" x %d breaths", it.Done.HoldBreaths)
	}
	if it.Reached != nil && !*it.Reached {
		return fmt.Sprintf("%s %s: not reached", it.Version, it.Side)
	}
	for _, s := range it.SetsDone {
		out += fmt.Sprintf(" (%d)", s.Reps)
	}
	if it.EndedBy != "" {
		out += ", " + it.EndedBy
	}
	if it.Confirmed != nil && !*it.Confirmed {
		out += ", not confirmed"
	}
	for _, f := range it.Fault {
		out += fmt.Sprintf(", %s%s at %g s", f.Code, strings.TrimSuffix(" "+string(f.Side), " "), f.S)
	}
	for _, w := range it.Felt {
		out += ", felt " + w
	}
	if it.Pain != nil {
		out += fmt.Sprintf(", pain %g", *it.Pain)
	}
	if it.SymptomRep != nil {
		out += fmt.Sprintf(", symptom at %d", *it.SymptomRep)
	}
	if it.SymptomS != nil {
		out += fmt.Sprintf(", symptom at %g s", *it.SymptomS)
	}
	if it.WarningRep != nil {
		out += fmt.Sprintf(", warning at %d", *it.WarningRep)
	}
	return out
}

// What a practitioner expects the log to say (domain/08).
func TestWhatTheLogHolds(t *testing.T) {
	pain := func(p float64) func(*record.Mark) { return func(m *record.Mark) { m.Pain = &p } }
	because := func(why string) func(*record.Mark) { return func(m *record.Mark) { m.Because = why } }
	all := []string{"blade-set-prone none: 1 x 6 x 10 s, target", "tandem-held left: 1 x 1 x 10 s, target", "tandem-held right: 1 x 1 x 10 s, target", "side-sway alternate: 1 x 10, target"}
	changed := func(lines ...string) []string {
		out := slices.Clone(all)
		for _, l := range lines {
			name, _, _ := strings.Cut(l, ":")
			for i := range out {
				if strings.HasPrefix(out[i], name+":") {
					out[i] = l
				}
			}
		}
		return out
	}
	const blades, left, right, sway = "blade-set-prone none: ", "tandem-held left: ", "tandem-held right: ", "side-sway alternate: "
	for _, c := range []struct {
		name  string
		mode  string
		marks func(s *score.Score) sheet
		lines []string
		ended string
	}{
		{"somebody was there to the end", "", led, all, "done"},
		{"nobody came back after the first go", "", func(*score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			m.add(record.End, 264, 4000, because("time"))
			return m
		}, changed(blades+"1 x 6 x 10 s, not confirmed", left+"not reached", right+"not reached", sway+"not reached"), "time"},
		{"a flow nobody watched", score.Flowing, func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.End, s.Seconds, 3*3600, because("done"))
			return m
		}, changed(blades+"1 x 6 x 10 s, not confirmed", left+"1 x 1 x 10 s, not confirmed", right+"1 x 1 x 10 s, not confirmed", sway+"1 x 10, not confirmed"), "done"},
		{"a flow closed by one touch at its end", score.Flowing, func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.End, s.Seconds, s.Seconds+20, because("done"))
			return m
		}, all, "done"},
		{"a flow whose tab slept", score.Flowing, func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Unseen, 290, 290, func(k *record.Mark) { k.From = json.RawMessage("100") }, to(290))
			m.add(record.End, s.Seconds, s.Seconds+20, because("done"))
			return m
		}, changed(blades+"1 x 6 x 10 s, not confirmed", left+"1 x 1 x 10 s, not confirmed"), "done"},
		{"ended in the fourth hold, of time", "", func(*score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			m.add(record.End, 139, 145, because("time"))
			return m
		}, changed(blades+"1 x 3 x 10 s, choice", left+"not reached", right+"not reached", sway+"not reached"), "time"},
		{"ended in a hold because of pain", "", func(*score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			m.add(record.Go, 264, 300)
			m.add(record.End, 273, 320, because("pain"), pain(6))
			return m
		}, changed(left+"1 x 1 x 5 s, symptom", right+"not reached", sway+"not reached"), "pain"},
		{"form lost in the second hold: the set ends there", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Form, 109, m[1].At.Sub(noon).Seconds()+25, on(0, trade.None), func(k *record.Mark) { k.S, k.Fault = 4, "sag" }, to(177))
			return m
		}, changed(blades + "1 x 1 x 10 s, form, sag at 4 s"), "done"},
		{"a symptom at the third repetition, and what was answered", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Symptom, 125, m[1].At.Sub(noon).Seconds()+41, on(0, trade.None), pain(4), func(k *record.Mark) { k.Rep, k.Travels, k.Where = 3, true, "left leg" })
			return m
		}, changed(blades + "1 x 6 x 10 s, symptom, felt pain, felt travels-down, pain 4, symptom at 3"), "done"},
		{"a symptom taken back", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Symptom, 125, m[1].At.Sub(noon).Seconds()+41, on(0, trade.None), pain(4))
			m.add(record.Undo, 127, m[1].At.Sub(noon).Seconds()+43, func(k *record.Mark) { k.Of = m[len(m)-1].Key })
			return m
		}, all, "done"},
		{"form lost by mistake: the hold goes on as if nothing had been pressed", "", func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			m.add(record.Form, 109, 115, on(0, trade.None), func(k *record.Mark) { k.S = 4 }, to(177))
			m.add(record.Undo, 179, 117, func(k *record.Mark) { k.Of = "m2" })
			m.add(record.Here, 170, 176)
			m.add(record.End, 190, 200, because("time"))
			return m
		}, changed(left+"not reached", right+"not reached", sway+"not reached"), "time"},
		{"a side skipped", "", func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			m.add(record.Change, 264, 300, on(1, trade.Left), func(k *record.Mark) { k.What = "skip" }, to(289))
			m.add(record.Go, 351, 400)
			m.add(record.End, 411, 470, because("done"))
			return m
		}, changed(left + "0 x 0, choice"), "done"},
		{"taps count what the client counts", "", func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			for i, pos := range []float64{95, 104, 119} {
				m.add(record.Tap, pos, 100+10*float64(i))
			}
			m.add(record.End, 133, 140, because("wish"))
			return m
		}, changed(blades+"1 x 3 x 10 s, choice", left+"not reached", right+"not reached", sway+"not reached"), "wish"},
		{"ended before the second side's hold began", "", func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.Go, 87, 90)
			m.add(record.Go, 264, 300)
			m.add(record.Go, 289, 340)
			m.add(record.End, 291, 345, because("time"))
			return m
		}, changed(right+"1 x 0, choice", sway+"not reached"), "time"},
		{"form lost without a word of where it leads: that repetition is not done", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Form, 109, m[1].At.Sub(noon).Seconds()+25, func(k *record.Mark) { k.Fault = "arch" })
			return m
		}, changed(blades + "1 x 5 x 10 s, form, arch at 4 s"), "done"},
		{"a symptom that says only when", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Symptom, 125, m[1].At.Sub(noon).Seconds()+41)
			return m
		}, changed(blades + "1 x 6 x 10 s, symptom, symptom at 3"), "done"},
		{"a set said otherwise, where it stands", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Set, 176, m[1].At.Sub(noon).Seconds()+92, func(k *record.Mark) { k.Done = &progress.Amount{Reps: 5, HoldS: 10} })
			return m
		}, changed(blades + "1 x 5 x 10 s, choice"), "done"},
		{"a symptom in one hold is a matter of seconds", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Symptom, 272, m[2].At.Sub(noon).Seconds()+11)
			return m
		}, changed(left + "1 x 1 x 10 s, symptom, symptom at 4 s"), "done"},
		{"a set said otherwise", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Set, 177, 300, on(0, trade.None), func(k *record.Mark) { k.Set, k.Done = 1, &progress.Amount{Reps: 4, HoldS: 10} })
			return m
		}, changed(blades + "1 x 4 x 10 s, choice"), "done"},
		{"a warning, felt words and help", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Warning, 140, m[1].At.Sub(noon).Seconds()+56, on(0, trade.None), func(k *record.Mark) { k.Rep = 4 })
			m.add(record.Felt, 170, m[1].At.Sub(noon).Seconds()+86, on(0, trade.None), func(k *record.Mark) { k.Felt = record.Words{"tiring"} })
			return m
		}, changed(blades + "1 x 6 x 10 s, target, felt tiring, warning at 4"), "done"},
		{"corrected afterwards", "", func(s *score.Score) (m sheet) {
			m = led(s)
			m.add(record.Correct, 411, 600, on(0, trade.None), func(k *record.Mark) { k.Field, k.From = "done.reps", json.RawMessage("6") }, to(4))
			return m
		}, changed(blades + "1 x 4 x 10 s, choice"), "done"},
		{"a flow confirmed afterwards, in one line", score.Flowing, func(s *score.Score) (m sheet) {
			m.add(record.Start, 0, 0)
			m.add(record.End, s.Seconds, 3*3600, because("done"))
			for i, side := range []trade.Side{trade.None, trade.Left, trade.Right, trade.Alternate} {
				m.add(record.Correct, 411, 3*3600+60, on([]int{0, 1, 1, 2}[i], side), func(k *record.Mark) { k.Field = "confirmed" }, to(true))
			}
			return m
		}, all, "done"},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := example(t)
			if c.mode != "" {
				s.Mode = c.mode
			}
			marks := c.marks(s)
			for i := range marks {
				assert.Empty(t, marks[i].Problem(record.Bounds{Items: len(s.Items), Seconds: s.Seconds}), "mark %d", i)
			}
			got := record.Replay(s, day, marks)
			var lines []string
			for i := range got.Items {
				lines = append(lines, said(&got.Items[i]))
			}
			assert.Equal(t, c.lines, lines)
			assert.Equal(t, c.ended, got.Ended)
			// The order in which marks arrive, and their arriving twice, change nothing.
			slices.Reverse(marks)
			assert.Equal(t, got, record.Replay(s, day, append(marks, marks...)))
		})
	}
}

// A session taught to its end did what was asked, whatever the dose, school, step and side.
func TestAFullRunReachesEveryTarget(t *testing.T) {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	data, err := restbend.Ways()
	require.NoError(t, err)
	facts := score.Facts{Catalogue: cat, Client: &intake.Client{Format: "restbend.client/1", BreathRate: 11}, Ways: data}
	n := 0
	for _, v := range cat.Versions {
		for _, school := range catalogue.Schools {
			for step := range mustSteps(v, school) {
				d := v.Dose(school, step)
				it := plan.Item{Version: v.Slug, Revision: v.Revision, Family: v.Family, Role: trade.Main, Position: v.Position, Surface: v.Surfaces[0], Side: v.SideMode, Dose: d, Effort: v.Effort}
				it.End = d.Seconds(11, it.Sides())
				s, err := score.Build(&plan.Plan{Format: "restbend.plan/1", Minutes: 30, Items: []plan.Item{it}}, facts)
				require.NoError(t, err)
				for _, mode := range []string{score.Led, score.Flowing} {
					s.Mode = mode
					got := record.Replay(s, day, led(s))
					require.Len(t, got.Items, map[trade.Side]int{trade.Each: 2}[v.SideMode]+map[bool]int{true: 1}[v.SideMode != trade.Each])
					for i := range got.Items {
						require.Equal(t, progress.ByTarget, got.Items[i].EndedBy, "%s %s %d %s: %s", v.Slug, school, step, mode, said(&got.Items[i]))
						require.True(t, got.Items[i].Whole())
						require.True(t, *got.Items[i].Confirmed)
						if len(d.Pattern) == 0 {
							require.Equal(t, got.Items[i].Target, got.Items[i].Done, v.Slug)
						} else {
							require.Equal(t, len(d.Pattern), len(got.Items[i].SetsDone), "falling sets are kept set by set")
						}
						n++
					}
				}
			}
		}
		if testing.Short() && n > 300 {
			break
		}
	}
	assert.Greater(t, n, 300)
}

func mustSteps(v *catalogue.Version, school string) int {
	steps, _ := v.Steps(school)
	return len(steps)
}

// falling is the score of one exercise in falling sets: six, four and two holds of 10 s.
func falling(t testing.TB) *score.Score {
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	data, err := restbend.Ways()
	require.NoError(t, err)
	v, ok := cat.Version("blade-set-prone")
	require.True(t, ok)
	d := dose.Dose{Sets: 3, Reps: 6, Pattern: []int{6, 4, 2}, HoldS: 10, MoveS: 3, SetupS: 10, RestS: 15}
	it := plan.Item{Version: v.Slug, Family: v.Family, Role: trade.Main, Position: v.Position, Surface: v.Surfaces[0], Side: trade.None, Dose: d}
	it.End = d.Seconds(12, it.Sides())
	s, err := score.Build(&plan.Plan{Format: "restbend.plan/1", Minutes: 30, Items: []plan.Item{it}}, score.Facts{Catalogue: cat, Client: &intake.Client{BreathRate: 12}, Ways: data})
	require.NoError(t, err)
	return s
}

// Falling sets left in the second: what was done stands set by set.
func TestFallingSets(t *testing.T) {
	s := falling(t)
	marks := led(s)
	var third float64
	for i := range s.Segments {
		if g := &s.Segments[i]; g.Set == 2 && g.Rep == 3 && g.Phase == score.Hold {
			third = g.End
		}
	}
	for i := range marks {
		if marks[i].Pos > third {
			marks = append(marks[:i], record.Mark{Key: "end", At: marks[i].At, Pos: third, Kind: record.End, Because: "time"})
			break
		}
	}
	got := record.Replay(s, day, marks)
	require.Len(t, got.Items, 1)
	assert.Equal(t, []progress.Amount{{Sets: 1, Reps: 6, HoldS: 10}, {Sets: 1, Reps: 2, HoldS: 10}}, got.Items[0].SetsDone)
	assert.Equal(t, progress.Amount{Sets: 1, Reps: 12, HoldS: 10}, got.Items[0].Target)
	assert.Equal(t, progress.ByChoice, got.Items[0].EndedBy)
}

// Who says what was done in one set says nothing about the others, which nobody saw.
func TestOneSetSaidConfirmsOnlyItself(t *testing.T) {
	s := falling(t)
	s.Mode = score.Flowing
	for _, c := range []struct {
		said      []int
		confirmed bool
		ended     string
	}{
		{nil, false, ""},
		{[]int{1}, false, ""},
		{[]int{3}, false, ""},
		{[]int{1, 2, 3}, true, progress.ByTarget},
	} {
		var marks sheet
		marks.add(record.Start, 0, 0)
		marks.add(record.End, s.Seconds, 3*3600, func(m *record.Mark) { m.Because = "done" })
		for _, n := range c.said {
			marks.add(record.Set, s.Seconds, 3*3600+60, on(0, trade.None), func(m *record.Mark) {
				m.Set, m.Done = n, &progress.Amount{Sets: 1, Reps: 8 - 2*n, HoldS: 10}
			})
		}
		got := record.Replay(s, day, marks).Items[0]
		require.NotNil(t, got.Confirmed, "%v", c.said)
		assert.Equal(t, c.confirmed, *got.Confirmed, "%v", c.said)
		assert.Equal(t, c.ended, got.EndedBy, "%v", c.said)
	}
}

// Of a search for the setting the last clean one is kept, with all that was tried; a layer that was gone up to is
// tried.
func TestTheCleanSettingIsKept(t *testing.T) {
	s := example(t)
	marks := led(s)
	try := func(cm float64, clean bool) {
		marks.add(record.Setting, 140, marks[1].At.Sub(noon).Seconds()+56+float64(len(marks)), on(0, trade.None), func(m *record.Mark) { m.Load, m.Clean = &progress.Load{SurfaceCM: cm}, clean })
	}
	try(50, true)
	try(45, true)
	marks.add(record.Load, 140, marks[1].At.Sub(noon).Seconds()+58+float64(len(marks)), on(0, trade.None), func(m *record.Mark) { m.Load = &progress.Load{SurfaceCM: 40} }) // moved to, then shaky
	try(40, false)
	marks.add(record.Layer, 150, marks[1].At.Sub(noon).Seconds()+70, on(0, trade.None), to("bird-dog"))
	got := record.Replay(s, day, marks).Items[0]
	require.NotNil(t, got.Load)
	assert.Equal(t, 45.0, got.Load.SurfaceCM)
	require.Len(t, got.Tried, 4)
	assert.False(t, got.Tried[2].Clean)
	assert.Equal(t, "bird-dog", got.Tried[3].Version)
	assert.Equal(t, "target", got.EndedBy, "nothing of it ends the exercise")
}

// An entry corrected and corrected back is as it was, but for what is kept about the corrections.
func TestCorrectedAndBack(t *testing.T) {
	s := example(t)
	first := record.Replay(s, day, led(s))
	for _, c := range []struct {
		field    string
		from, to any
	}{
		{"done.reps", 6, 2}, {"done.hold_s", 10, 5}, {"ended_by", "target", "form"}, {"confirmed", true, false}, {"reached", true, false}, {"felt", nil, []string{"pulling"}}, {"pain", nil, 3},
		{"load", nil, map[string]any{"surface_cm": 43}}, {"helped", nil, "held"}, {"symptom_at_rep", nil, 2}, {"side", "none", "left"}, {"pain_end", nil, 4}, {"notes", nil, "stiff today"}, {"ended_because", "done", "time"},
	} {
		t.Run(c.field, func(t *testing.T) {
			marks := led(s)
			one := func(from, v any) {
				marks.add(record.Correct, s.Seconds, 900+float64(len(marks)), on(0, trade.None), func(m *record.Mark) {
					m.Field = c.field
					if from != nil {
						m.From, _ = json.Marshal(from)
					}
					if v != nil {
						m.To, _ = json.Marshal(v)
					}
				})
			}
			one(c.from, c.to)
			changed := record.Replay(s, day, marks)
			assert.NotEqual(t, bare(first), bare(changed))
			one(c.to, c.from)
			back := record.Replay(s, day, marks)
			assert.Equal(t, bare(first), bare(back))
			if !slices.Contains(record.SessionFields, c.field) {
				require.Len(t, back.Items[0].Corrections, 2, "both are kept")
				assert.Equal(t, "Ana", back.Items[0].Corrections[0].By)
				assert.NotEmpty(t, back.Items[0].Corrections[0].At)
			}
			// The same on a session that was kept without a score.
			kept := marks[len(marks)-2:]
			assert.Equal(t, bare(changed), bare(record.Apply(first, kept[:1])))
			assert.Equal(t, bare(back), bare(record.Apply(first, kept)))
		})
	}
}

// bare is a session without what is kept about its corrections.
func bare(s progress.Session) string {
	s.Items = slices.Clone(s.Items)
	for i := range s.Items {
		s.Items[i].Corrections = nil
	}
	out, _ := json.Marshal(s)
	return string(out)
}

// Nothing out of range is accepted.
func TestMarksAreChecked(t *testing.T) {
	b := record.Bounds{Items: 3, Seconds: 400, Flags: []string{"chest-pain"}}
	good := func() record.Mark { return record.Mark{Key: "k", At: noon, Kind: record.Go, Pos: 12} }
	ok := good()
	require.Empty(t, ok.Problem(b))
	eleven, four := 11.0, 4
	for want, change := range map[string]func(m *record.Mark){
		"key":             func(m *record.Mark) { m.Key = "" },
		"kind":            func(m *record.Mark) { m.Kind = "dance" },
		"at":              func(m *record.Mark) { m.At = time.Time{} },
		"pos":             func(m *record.Mark) { m.Pos = 401 },
		"item":            func(m *record.Mark) { m.Item = &four },
		"side":            func(m *record.Mark) { m.Side = "front" },
		"set":             func(m *record.Mark) { m.Set = 99 },
		"rep":             func(m *record.Mark) { m.Rep = -1 },
		"s":               func(m *record.Mark) { m.S = 1e308 },
		"pain":            func(m *record.Mark) { m.Pain = &eleven },
		"where":           func(m *record.Mark) { m.Where = strings.Repeat("x", 900_000) },
		"text":            func(m *record.Mark) { m.Text = strings.Repeat("x", 5000) },
		"fault":           func(m *record.Mark) { m.Kind, m.Fault = record.Form, "wobbly" },
		"felt":            func(m *record.Mark) { m.Kind, m.Felt = record.Felt, record.Words{"odd"} },
		"done":            func(m *record.Mark) { m.Kind = record.Set },
		"done.reps":       func(m *record.Mark) { m.Kind, m.Done = record.Set, &progress.Amount{Reps: 1 << 40} },
		"done.sets":       func(m *record.Mark) { m.Kind, m.Done = record.Set, &progress.Amount{Sets: -5} },
		"load.surface_cm": func(m *record.Mark) { m.Kind, m.Load = record.Load, &progress.Load{SurfaceCM: 1e9} },
		"because":         func(m *record.Mark) { m.Kind, m.Because = record.End, "bored" },
		"what":            func(m *record.Mark) { m.Kind = record.Change },
		"to":              func(m *record.Mark) { m.Kind = record.Seek },
		"from, to":        func(m *record.Mark) { m.Kind = record.Unseen },
		"value":           func(m *record.Mark) { m.Kind = record.Compare },
		"of":              func(m *record.Mark) { m.Kind = record.Undo },
		"field":           func(m *record.Mark) { m.Kind, m.Field = record.Correct, "version" },
		"codes":           func(m *record.Mark) { m.Kind, m.Codes = record.Flag, []string{"hiccup"} },
		"follow_up":       func(m *record.Mark) { m.Kind = record.FollowUp },
		"follow_up.home":  func(m *record.Mark) { m.Kind, m.FollowUp = record.FollowUp, &progress.FollowUp{Home: 99} },
		"mode":            func(m *record.Mark) { m.Mode = "fast" },
		"how":             func(m *record.Mark) { m.How = "pushed" },
		"check":           func(m *record.Mark) { m.Check = "pulse" },
	} {
		m := good()
		change(&m)
		found, _, _ := strings.Cut(m.Problem(b), ": ")
		assert.Equal(t, want, found)
	}
	s := record.Replay(example(t), day, led(example(t)))
	for _, c := range []struct{ field, to string }{{"done.reps", "-3"}, {"done.reps", "1000000000"}, {"done.reps", `"six"`}, {"pain", "12"}, {"felt", `["odd"]`}, {"ended_by", `"target reached"`}, {"pain_end", "-1"}, {"ended_because", `"bored"`}, {"fault", `[{"code": "x"}]`}} {
		m := good()
		m.Kind, m.Field, m.To = record.Correct, c.field, json.RawMessage(c.to)
		assert.NotEmpty(t, record.CorrectionProblem(s, &s.Items[0], &m), "%s to %s", c.field, c.to)
	}
}

// Where a session is by now: at the next wait when it is led, as far as time goes when it flows.
func TestPosition(t *testing.T) {
	s := example(t)
	at := func(mode string, after float64, marks sheet) float64 {
		s.Mode = mode
		return record.Position(s, marks, noon.Add(time.Duration(after*float64(time.Second))))
	}
	var begun, gone, paused sheet
	begun.add(record.Start, 0, 0)
	gone = append(gone, begun...)
	gone.add(record.Go, 87, 100)
	paused = append(paused, begun...)
	paused.add(record.Pause, 30, 30)
	assert.Equal(t, 50.0, at(score.Led, 50, begun))
	assert.Equal(t, 87.0, at(score.Led, 5000, begun), "stands at the wait")
	assert.Equal(t, 300.0, at(score.Flowing, 300, begun))
	assert.Equal(t, s.Seconds, at(score.Flowing, 5000, begun))
	assert.Equal(t, 87.0, at(score.Led, 102, gone), "counted in")
	assert.Equal(t, 94.0, at(score.Led, 110, gone))
	assert.Equal(t, 30.0, at(score.Led, 500, paused))
	assert.Equal(t, 0.0, at(score.Led, 500, nil), "not begun")
}

// Whatever the marks say, a session comes out that the log document allows, and the same each time.
func FuzzReplay(f *testing.F) {
	s := example(f)
	for _, c := range []string{`[]`, `[{"key":"a","at":"2026-11-20T12:00:00Z","pos":0,"kind":"start"},{"key":"b","at":"2026-11-20T12:05:00Z","pos":177,"kind":"end","because":"time"}]`,
		`[{"key":"a","at":"2026-11-20T12:00:00Z","pos":0,"kind":"start"},{"key":"f","at":"2026-11-20T12:01:00Z","pos":109,"kind":"form","s":4,"to":177},{"key":"u","at":"2026-11-20T12:01:02Z","pos":179,"kind":"undo","of":"f"}]`,
		`[{"key":"c","at":"2026-11-20T12:05:00Z","pos":0,"kind":"correct","item":0,"field":"done.reps","to":3}]`, `[{"key":"x","at":"2026-11-20T12:05:00Z","kind":"felt","felt":"pulling","item":1}]`} {
		f.Add([]byte(c))
	}
	b := record.Bounds{Items: len(s.Items), Seconds: s.Seconds}
	f.Fuzz(func(t *testing.T, data []byte) {
		var marks, kept []record.Mark
		if json.Unmarshal(data, &marks) != nil || len(marks) > 300 {
			return
		}
		for i := range marks {
			if marks[i].Problem(b) == "" {
				kept = append(kept, marks[i])
			}
		}
		got := record.Replay(s, day, kept)
		_, err := json.Marshal(got)
		require.NoError(t, err)
		require.Equal(t, got, record.Replay(s, day, kept))
		for i := range got.Items {
			it := &got.Items[i]
			require.LessOrEqual(t, it.Done.Reps, 200)
			if it.EndedBy == progress.ByTarget {
				require.True(t, it.Confirmed == nil || *it.Confirmed || hasCorrection(it), "never reached with nobody there")
			}
		}
		record.ReplayUntil(s, day, kept, noon.Add(time.Hour))
	})
}

func hasCorrection(it *progress.Item) bool { return len(it.Corrections) > 0 }
