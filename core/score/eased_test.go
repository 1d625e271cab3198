package score_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/intake"
	"restbend/core/propose"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/plantest"
)

// heard is what is said in a session in full: ways, set-ups, changes, the first repetition of each set and side; and of
// eased exercises what is left of it at key words and numbers.
func heard(s *score.Score) string {
	var out strings.Builder
	last := ""
	for i := range s.Segments {
		g := &s.Segments[i]
		it := &s.Items[g.Item]
		if g.Kind == score.Work && (g.Rep > 1 || g.Set > 1) || g.Kind == score.Rest || g.Kind == score.Reset && last == it.Version {
			continue
		}
		say := s.Words(i, score.Full, true).Say
		if say == "" || g.Kind == score.Work && say == last {
			continue
		}
		last = say
		side := ""
		if g.Side.One() {
			side = " " + string(g.Side)
		}
		fmt.Fprintf(&out, "%5.0f %s%s: %s\n", g.Start, g.Kind, side, say)
		if len(it.Says.Ease) > 0 && (g.Kind == score.Setup || g.Kind == score.Change) {
			for _, level := range []string{score.Key, score.Numbers} {
				fmt.Fprintf(&out, "      %s: %s\n", level, s.Words(i, level, true).Say)
			}
		}
	}
	return out.String()
}

// Ten sessions with eases, as the client hears them; read line by line.
func TestEasedSessionsAsTheyAreHeard(t *testing.T) {
	all := func(code string, side trade.Side) intake.Condition {
		return intake.Condition{Code: code, Side: side, Date: trade.MustDay("2025-05-01")}
	}
	eased := 0
	for name, who := range map[string]struct {
		conditions []intake.Condition
		change     func(*intake.Client)
	}{
		"sore-left-shoulder":   {[]intake.Condition{all("shoulder-pain", trade.Left)}, nil},
		"weak-left-arm":        {[]intake.Condition{all("stroke", trade.Left)}, nil},
		"sore-wrists":          {[]intake.Condition{all("wrist-pain", "")}, nil},
		"sore-right-knee":      {[]intake.Condition{all("knee-pain", trade.Right)}, nil},
		"fragile-bones-at-76":  {[]intake.Condition{{Code: "osteoporosis", Fracture: new(bool), School: "strict"}}, func(c *intake.Client) { c.Born = 1950 }},
		"sore-neck":            {[]intake.Condition{all("neck-pain", "")}, nil},
		"replaced-left-hip":    {[]intake.Condition{{Code: "hip-replacement", Side: trade.Left, Date: trade.MustDay("2025-05-01"), Approach: "posterior"}}, nil},
		"stiff-right-shoulder": {[]intake.Condition{all("frozen-shoulder", trade.Right)}, nil},
		"bed-not-floor":        {[]intake.Condition{all("shoulder-pain", trade.Right), all("knee-pain", trade.Left)}, func(c *intake.Client) { c.Positions["floor"] = "no" }},
		"narrow-canal":         {[]intake.Condition{all("stenosis", ""), all("wrist-pain", trade.Left)}, nil},
	} {
		c := plantest.Able()
		c.Conditions = who.conditions
		cover := intake.Clearance{Date: trade.MustDay("2026-11-01"), By: "specialist"}
		for _, k := range who.conditions {
			cover.Covers = append(cover.Covers, k.Code)
		}
		c.Clearances = []intake.Clearance{cover}
		if who.change != nil {
			who.change(c)
		}
		r := plantest.For(t, c, nil, 40)
		p, err := propose.Quick(r)
		require.NoError(t, err, name)
		s, err := score.Build(p, score.Facts{Catalogue: cat, Client: c, Ways: ways(t), Mover: r.Mover()})
		require.NoError(t, err, name)
		for i := range p.Items {
			eased += len(p.Items[i].Eases)
		}
		text := strings.Join(r.Screener.Notes(), "\n") + "\n" + heard(s)
		file := filepath.Join("testdata", "eased", name+".txt")
		if *update {
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err, name)
		assert.Equal(t, string(want), text, name)
	}
	assert.Greater(t, eased, 10)
}
