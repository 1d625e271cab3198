package spot_test

import (
	"bufio"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/progress"
	"restbend/core/record"
	"restbend/core/score"
	"restbend/core/spot"
	"restbend/core/trade"
)

// signRow is one line of the table of what a sign does.
type signRow struct{ kind, where, today, next string }

func signRows(t *testing.T) (rows []signRow) {
	file, err := os.Open("testdata/signs.txt")
	require.NoError(t, err)
	defer file.Close()
	for lines := bufio.NewScanner(file); lines.Scan(); {
		if strings.HasPrefix(lines.Text(), "#") {
			continue
		}
		cells := strings.Split(lines.Text(), "|")
		require.Len(t, cells, 4, lines.Text())
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
		}
		rows = append(rows, signRow{cells[0], cells[1], cells[2], cells[3]})
	}
	return rows
}

// second is the second of a score that a row names.
func second(t *testing.T, s *score.Score, where string) (pos float64, item int) {
	words := strings.Fields(where)
	for item = range s.Items {
		if s.Items[item].Version == words[0] {
			break
		}
	}
	require.Equal(t, words[0], s.Items[item].Version)
	var set, rep int
	last := words[len(words)-1]
	switch {
	case words[1] == "set-up", words[1] == "way":
		for i := range s.Segments {
			g := &s.Segments[i]
			if words[1] == "set-up" && g.Item == item && g.Kind == score.Setup {
				return (g.Start + g.End) / 2, item
			}
			if words[1] == "way" && i > 0 && s.Segments[i-1].Item == item && g.Kind == score.Move {
				return (g.Start + g.End) / 2, item
			}
		}
	case words[1] == "rest":
		for i := range s.Segments {
			if g := &s.Segments[i]; g.Item == item && g.Kind == score.Rest && fmt.Sprint(g.Set) == last {
				return (g.Start + g.End) / 2, item
			}
		}
	case strings.Contains(last, "@"):
		_, err := fmt.Sscanf(last, "%d@%d", &set, &rep)
		require.NoError(t, err)
		for i := range s.Segments {
			if g := &s.Segments[i]; g.Item == item && g.Phase == score.Hold && g.Set == set {
				return g.Start + float64(rep) + 0.2, item
			}
		}
	default:
		return at(t, s, where), item
	}
	require.Fail(t, "nowhere", where)
	return 0, 0
}

// today says what followed from a mark for the rest of an exercise.
func today(f *spot.Facts, out *spot.Outcome, item int, pos float64) string {
	switch {
	case out.Ends:
		return "ends"
	case out.Score == nil && len(out.Say) > 0:
		return "over"
	case out.Score == nil:
		return "waits"
	case !out.Score.Remains(pos+0.001, item) && out.Score.Items[item].Cap == nil:
		return "left"
	}
	c := out.Score.Items[item].Cap
	for name, n := range map[string]int{"sets": c.Sets, "reps": c.Reps, "hold": c.HoldS} {
		if n > 0 {
			return fmt.Sprintf("%s %d", name, n)
		}
	}
	return ""
}

// next says what is decided of a version.
func next(whole *progress.Whole, ds []progress.Decision, version string) string {
	if whole != nil {
		return string(whole.Decision)
	}
	for _, d := range ds {
		if d.Version != version {
			continue
		}
		if d.Decision == trade.Down {
			return "down " + d.ToVersion
		}
		out := fmt.Sprintf("%s %d x %d", d.Decision, d.Dose.SetCount(), d.Dose.Reps)
		if d.Dose.HoldS > 0 {
			out += fmt.Sprintf(" of %d s", d.Dose.HoldS)
		}
		return out
	}
	return "nothing"
}

// Player, record and progress do the same with a sign: every row of the table today, and next time from the record of
// the session that went on as the player had it.
func TestWhatASignDoesTodayAndNextTime(t *testing.T) {
	rows := signRows(t)
	require.GreaterOrEqual(t, len(rows), 80)
	day := trade.MustDay("2026-11-20")
	one := session(t)
	began := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	for _, row := range rows {
		t.Run(row.kind+" "+row.where, func(t *testing.T) {
			f := one
			pos, item := second(t, f.Score, row.where)
			m := record.Mark{Key: "sign", Kind: record.Symptom, At: began.Add(time.Duration(pos * float64(time.Second))), Pos: pos, Rev: 1}
			var pain float64
			switch {
			case row.kind == "warning":
				m.Kind = record.Warning
			case row.kind == "travels":
				m.Travels = true
			case row.kind == "numb":
				m.Numb = true
			case row.kind == "chest":
				m.Chest = true
			case strings.HasPrefix(row.kind, "pain"):
				_, err := fmt.Sscanf(row.kind, "pain %g", &pain)
				require.NoError(t, err)
				m.Kind, m.Felt, m.Pain = record.Felt, record.Words{"pain"}, &pain
			}
			out := f.Happens(&m)
			want := row.today
			if want == "-" {
				want = "waits" // nothing follows
			}
			assert.Equal(t, want, today(&f, out, item, pos), "today: %v", out.Say)
			s := f.Score
			if out.Score != nil {
				s, m.Score = out.Score, out.Score.Rev
			}
			end := record.Mark{Key: "end", Kind: record.End, Because: "done", At: began.Add(time.Duration(s.Seconds) * time.Second), Pos: s.Seconds, Rev: s.Rev}
			if out.Ends {
				end.Because, end.Pos, end.At = progress.WarningSign, pos, m.At.Add(time.Second)
			}
			kept := record.Replay(s, day, []record.Mark{{Key: "start", Kind: record.Start, Mode: score.Flowing, At: began, Rev: 1}, m, end})
			kept.Soreness = &progress.Soreness{Peak: 1, SettledH: 8, Kind: progress.Muscle}
			whole, ds := progress.Decide(progress.Input{Catalogue: f.Laid.Catalogue, School: "reps", Breaths: 12, Today: day.AddDays(3),
				Suits: func(string) bool { return true }, Log: progress.Log{Sessions: []progress.Session{kept}}})
			assert.Equal(t, row.next, next(whole, ds, f.Score.Items[item].Version), "next time")
			f.InClass = true // in a class the same, and they rest
			class := f.Happens(&m)
			if out.Score != nil && out.Score.Because == "cap" {
				require.NotNil(t, class.Score)
				a, b := out.Score.Items[item].Cap, class.Score.Items[item].Cap
				assert.Equal(t, *a, *b, "in a class")
				assert.Equal(t, f.Score.Seconds, class.Score.Seconds, "nobody else's seconds move")
			}
		})
	}
}

// What is asked of one exercise is answered of it, whatever is under way by then.
func TestAnAnswerThatComesLate(t *testing.T) {
	f := session(t)
	_, bridge := second(t, f.Score, "bridge 1/1")
	pos, clam := second(t, f.Score, "clam left 1/3")
	pain := 6.0
	out := f.Happens(&record.Mark{Kind: record.Felt, Felt: record.Words{"pain"}, Pain: &pain, Item: &bridge, Pos: pos})
	assert.Nil(t, out.Score, "what is under way goes on")
	assert.Equal(t, []string{"Bridge is over: it is kept for next time"}, out.Say)
	out = f.Happens(&record.Mark{Kind: record.Felt, Felt: record.Words{"pain"}, Pain: &pain, Item: &clam, Pos: pos})
	require.NotNil(t, out.Score)
	assert.False(t, out.Score.Remains(pos+0.01, clam))
}

// A mark that comes in late, after the line was down, changes nothing that ran meanwhile.
func TestWhatRanBeforeAMarkCameInStays(t *testing.T) {
	f := session(t)
	pos, clam := second(t, f.Score, "clam left 1/3")
	pain := 6.0
	m := record.Mark{Kind: record.Felt, Felt: record.Words{"pain"}, Pain: &pain, Item: &clam, Pos: pos}
	f.Now = pos + 4
	out := f.Happens(&m)
	require.NotNil(t, out.Score)
	assert.Equal(t, f.Now, out.Score.ChangedS)
	assert.False(t, out.Score.Remains(f.Now+0.01, clam))
	f.Now = f.Score.EndOf(clam, pos)
	for f.Score.Remains(f.Now, clam) {
		f.Now++
	}
	out = f.Happens(&m)
	assert.Nil(t, out.Score, "it was left, or done, before anybody knew")
	assert.NotEmpty(t, out.Say)
}
