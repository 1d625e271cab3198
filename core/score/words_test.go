package score_test

import (
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/dose"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/score"
	"restbend/core/trade"
)

var update = flag.Bool("update", false, "write the golden files anew")

// The words of every way of counting, in full, key words and numbers.
func TestWords(t *testing.T) {
	of := func(slug string, side trade.Side, d dose.Dose) plan.Item {
		v, ok := cat.Version(slug)
		require.True(t, ok, slug)
		d.SetupS = 10
		if side == trade.Each {
			d.ChangeS = 8
		}
		return item(v, side, d)
	}
	layers := of("dead-bug-arm", trade.Alternate, dose.Dose{Sets: 1, Reps: 6, MoveS: 4, Turn: "rep"})
	layers.Layers = []string{"dead-bug-arm", "dead-bug-leg"}
	first, second := of("clam", trade.Each, dose.Dose{Sets: 1, Reps: 3, MoveS: 4}), of("inner-thigh-lift", trade.Each, dose.Dose{Sets: 1, Reps: 2, MoveS: 5})
	first.Block, second.Block, second.TurnS = 1, 1, 7
	second.First = trade.Right // both lying on the right first
	seen := &progress.Log{}
	for _, s := range []int{48, 41} {
		seen.Sessions = append(seen.Sessions, progress.Session{Items: []progress.Item{{Version: "plank-knees", Done: progress.Amount{Sets: 1, Reps: 1, HoldS: s}}}})
	}
	hours := of("clock-circle", trade.None, dose.Dose{Sets: 1, Reps: 2, MoveS: 12, Turn: "half", Hours: []int{4}})
	bed := of("bridge", trade.None, dose.Dose{Sets: 1, Reps: 1, MoveS: 4})
	bed.Surface = trade.Bed
	apart := of("clam", trade.Each, dose.Dose{Sets: 1, Reps: 2, MoveS: 4})
	four := apart.Dose
	four.Reps = 4
	apart.Dose.Apart = &[2]dose.Dose{four, apart.Dose}
	unequal := of("lunge-turn", trade.Each, dose.Dose{Sets: 1, Reps: 1, HoldS: 20, MoveS: 4, Extra: &dose.Extra{Side: trade.Right, Share: 0.5}})
	for name, row := range map[string]struct {
		items []plan.Item
		log   *progress.Log
		who   func(*intake.Client)
	}{
		"short-hold":     {[]plan.Item{of("curl-up-hand-under", trade.None, dose.Dose{Sets: 1, Reps: 2, HoldS: 10, MoveS: 3})}, nil, nil},
		"breath-hold":    {[]plan.Item{of("prone-rest", trade.None, dose.Dose{Sets: 1, Reps: 1, HoldBreaths: 3, MoveS: 4})}, nil, func(c *intake.Client) { c.BreathRate = 7 }},
		"beats":          {[]plan.Item{of("hundred-head-down", trade.None, dose.Dose{Sets: 1, Reps: 2, MoveS: 6, Beats: 10, Rate: 10})}, nil, nil},
		"laps":           {[]plan.Item{of("leg-circle-bent", trade.Each, dose.Dose{Sets: 1, Reps: 4, MoveS: 6, Turn: "half"})}, nil, nil},
		"falling-set":    {[]plan.Item{of("side-plank-knees", trade.Each, dose.Dose{Sets: 2, Pattern: []int{2, 1}, HoldS: 10, MoveS: 3, By: "set"})}, nil, nil},
		"sides-in-turn":  {[]plan.Item{of("dead-bug-arm", trade.Alternate, dose.Dose{Sets: 1, Reps: 6, MoveS: 4, Turn: "rep"})}, nil, nil},
		"unequal-side":   {[]plan.Item{unequal}, nil, nil},
		"sides-apart":    {[]plan.Item{apart}, nil, nil},
		"open-hold":      {[]plan.Item{of("plank-knees", trade.None, dose.Dose{Sets: 1, Reps: 1, HoldS: 60, MoveS: 4, Open: true})}, seen, nil},
		"window":         {[]plan.Item{of("bridge", trade.None, dose.Dose{Sets: 1, Reps: 1, WindowS: 30, MoveS: 4})}, nil, nil},
		"layers":         {[]plan.Item{layers}, nil, nil},
		"forearm-rise":   {[]plan.Item{of("bridge", trade.None, dose.Dose{Sets: 1, Reps: 1, MoveS: 4})}, nil, func(c *intake.Client) { c.Positions["hands"] = "no" }},
		"bed-rise":       {[]plan.Item{bed}, nil, func(c *intake.Client) { c.Positions["floor"] = "no" }},
		"pelvic-clock":   {[]plan.Item{hours}, nil, nil},
		"side-block":     {[]plan.Item{first, second}, nil, nil},
		"curve":          {[]plan.Item{of("curve-breathe-arc", trade.Left, dose.Dose{Sets: 1, Reps: 1, HoldBreaths: 2, MoveS: 6})}, nil, nil},
		"by-feel":        {[]plan.Item{of("side-let-down", trade.Left, dose.Dose{Sets: 1, Reps: 1, HoldBreaths: 2, MoveS: 4, ByFeel: true})}, nil, nil},
		"known-by-heart": {[]plan.Item{of("bridge", trade.None, dose.Dose{Sets: 1, Reps: 4, MoveS: 4})}, thrice("bridge"), nil},
	} {
		f := facts(t, row.who)
		f.Log = row.log
		s, err := score.Build(only(f.Client.BreathRate, row.items...), f)
		require.NoError(t, err, name)
		var text strings.Builder
		for _, level := range score.Levels {
			text.WriteString("== " + level + "\n" + s.Text(level, level != score.Numbers))
		}
		file := filepath.Join("testdata", "words", name+".txt")
		if *update {
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			require.NoError(t, os.WriteFile(file, []byte(text.String()), 0o644))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err, name)
		assert.Equal(t, string(want), text.String(), name)
	}
}

func thrice(slug string) *progress.Log {
	l := &progress.Log{}
	for range 3 {
		l.Sessions = append(l.Sessions, progress.Session{Items: []progress.Item{{Version: slug, Done: progress.Amount{Sets: 1, Reps: 8}}}})
	}
	return l
}
