package score_test

import (
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/plan"
	"restbend/core/pose"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/core/way"
)

var readWays = sync.OnceValues(func() (*score.Ways, error) {
	data, err := os.ReadFile("transitions.yaml")
	if err != nil {
		return nil, err
	}
	return score.ReadWays(data)
})

func ways(t testing.TB) *score.Ways {
	w, err := readWays()
	require.NoError(t, err)
	return w
}

// movers are clients who lack every combination of what one may lack, with help and without.
func movers() (out []*way.Mover) {
	for set := range 1 << len(way.Words) {
		var without []string
		for i, w := range way.Words {
			if set>>i&1 == 1 {
				without = append(without, w)
			}
		}
		out = append(out, &way.Mover{Without: without, SitS: 30}, &way.Mover{Without: without, Help: true, SitS: 60, Hip: true, Weak: "left"})
	}
	return out
}

// What words and pictures of a step ask for, by what a client lacks: written before the ways.
var asks = []struct {
	lacks      []string // all of these
	words      string
	poses      string
	helpExcuse bool // with help it is another's hands
}{
	{[]string{way.Kneel}, `(?i)\bkneel(ing)?\b|hands and knees|forearms and knees|back knee|over the knees`, `^(all-fours|tall-kneeling|half-kneeling)`, false},
	{[]string{way.Hands}, `(?i)push with (the hands|that hand)|hands (down|forward|under|on the)|hand (flat )?on the (ground|floor)|hand flat|hands and knees`, ``, false},
	{[]string{way.HandLeft}, `(?i)left (hand|forearm)|both hands|forearms|hands and knees|push with the hands|left arm long`, ``, false},
	{[]string{way.HandRight}, `(?i)right (hand|forearm)|both hands|forearms|hands and knees|push with the hands|right arm long`, ``, false},
	{[]string{way.HandLeft, way.HandRight}, `(?i)(hand|forearm)s? (on|down|forward|under|towards)|push (with|back)|one hand`, `^all-fours`, true},
	{[]string{way.SideLeft}, `(?i)(to|onto) the left`, `side-lying-left`, false},
	{[]string{way.SideRight}, `(?i)(to|onto) the right`, `side-lying-right`, false},
	{[]string{way.SideLeft, way.SideRight}, `(?i)onto the (side|left|right)`, `side-lying`, false},
	{[]string{way.Standing}, `(?i)\bstand( up)?\b`, `^standing`, false},
}

// The steps of every way add up to the table of core/way, end where they are meant to, are drawn by poses that
// exist, and ask for nothing that the client lacks, for every client and every two places that can be reached.
func TestWaysAddUpAndSpareWhatIsLacking(t *testing.T) {
	w := ways(t)
	solver := pose.NewSolver(body.NewBody(body.Female, 0))
	var places []plan.Place
	for _, p := range trade.Positions {
		surfaces := []trade.Surface{trade.Mat, trade.Bed, trade.Carriage}
		if p.Upright() {
			surfaces = []trade.Surface{trade.Chair}
		}
		for _, s := range surfaces {
			places = append(places, plan.Place{Position: p, Surface: s})
		}
	}
	type ask struct{ words, poses *regexp.Regexp }
	never, odd := regexp.MustCompile("a^"), regexp.MustCompile(`[{}]|  | ,|^[a-z]`)
	compiled := make([]ask, len(asks))
	for i, a := range asks {
		compiled[i] = ask{regexp.MustCompile(a.words), never}
		if a.poses != "" {
			compiled[i].poses = regexp.MustCompile(a.poses)
		}
	}
	poses := map[string]bool{}
	n, none := 0, 0
	type seen struct {
		ask  int
		text string
	}
	matched := map[seen]bool{}
	match := func(re *regexp.Regexp, ask int, text string) bool {
		key := seen{ask, text}
		m, known := matched[key]
		if !known {
			m = re.MatchString(text)
			matched[key] = m
		}
		return m
	}
	for k, m := range movers() {
		if testing.Short() && k%8 != 0 {
			continue
		}
		for _, from := range places {
			for _, to := range places {
				steps, seconds, ok := w.Way(from, to, m)
				want, _, joined := way.Move(from, to, m)
				require.Equal(t, joined, ok, "%v to %v without %v, help %v", from, to, m.Without, m.Help)
				if !ok {
					none++
					continue
				}
				n++
				require.Equal(t, want, seconds, "%v to %v without %v, help %v", from, to, m.Without, m.Help)
				at := -1.0
				for _, s := range steps {
					require.Greater(t, s.At, at)
					at, poses[s.Pose] = s.At, true
					if match(odd, -1, s.Say) {
						t.Fatal(s.Say)
					}
					if strings.Contains(s.Say, "nstructor") && m.Help { // another's hands
						continue
					}
					for i, a := range asks {
						if a.helpExcuse && m.Help || slices.ContainsFunc(a.lacks, func(l string) bool { return !m.Lacks(l) }) {
							continue
						}
						if match(compiled[i].words, i, s.Say) || match(compiled[i].poses, 100+i, s.Pose) {
							t.Fatalf("%v to %v without %v, help %v: %s (%s)", from, to, m.Without, m.Help, s.Say, s.Pose)
						}
					}
				}
				lies, up := from.Position.Lies(), from.Ground() != to.Ground()
				asked := slices.ContainsFunc(steps, func(s score.Step) bool { return strings.Contains(s.Say, "Light-headed?") })
				require.Equal(t, lies && (up || !way.Straight(from, to, m)), asked, "%v to %v: sits and is asked", from, to)
			}
		}
	}
	t.Logf("%d ways, %d pairs without one", n, none)
	if !testing.Short() {
		assert.Greater(t, n, 50000)
	}
	assert.Greater(t, none, 10000)
	for name := range poses {
		if strings.HasSuffix(name, "-before-chair") || strings.HasSuffix(name, "-bed") { // pictures of their own, of base poses
			name, _, _ = strings.Cut(name, "-b")
		}
		_, err := solver.Base(name)
		assert.NoError(t, err, name)
	}
	assert.True(t, slices.Contains(pose.BaseNames(), "hook-lying"))
}

// The ways of ten clients, read line by line.
func TestWaysInWords(t *testing.T) {
	w := ways(t)
	stand := plan.Place{Position: trade.Standing}
	var text strings.Builder
	for _, c := range []struct {
		who  string
		m    way.Mover
		on   trade.Surface
		lies trade.Position
	}{
		{"has everything", way.Mover{SitS: 30}, trade.Mat, trade.Supine},
		{"stroke, weak left arm, does not kneel, stands with a hold", way.Mover{Without: []string{way.Kneel, way.HandLeft, way.FreeStand}, SitS: 30, Weak: trade.Left}, trade.Bed, trade.Supine},
		{"parkinson, 79, does not kneel", way.Mover{Without: []string{way.Kneel, way.FreeStand}, SitS: 60}, trade.Bed, trade.Supine},
		{"hip fracture, not on the left side", way.Mover{Without: []string{way.Kneel, way.SideLeft, way.FreeStand}, SitS: 60}, trade.Bed, trade.Supine},
		{"no weight on hands, sore right shoulder", way.Mover{Without: []string{way.Hands, way.HandRight, way.SideRight}, SitS: 30}, trade.Mat, trade.Supine},
		{"replaced hip, on the floor with help", way.Mover{Help: true, SitS: 60, Hip: true}, trade.Mat, trade.Supine},
		{"neither arm carries", way.Mover{Without: []string{way.Hands, way.HandLeft, way.HandRight}, SitS: 30}, trade.Bed, trade.Supine},
		{"does not kneel, floor by a seat", way.Mover{Without: []string{way.Kneel}, SitS: 30}, trade.Mat, trade.Prone},
		{"does not stand", way.Mover{Without: []string{way.Standing, way.FreeStand}, SitS: 30}, trade.Bed, trade.Supine},
		{"sore right wrist", way.Mover{Without: []string{way.Hands}, SitS: 30}, trade.Mat, trade.Prone},
	} {
		for _, leg := range [][2]plan.Place{{stand, {Position: c.lies, Surface: c.on}}, {{Position: c.lies, Surface: c.on}, stand}} {
			if c.m.Lacks(way.Standing) {
				for i := range leg {
					if leg[i] == stand {
						leg[i] = plan.Place{Position: trade.Sitting, Surface: trade.Chair}
					}
				}
			}
			fmt.Fprintf(&text, "== %s: %s to %s\n", c.who, leg[0].Position, leg[1].Position)
			steps, seconds, ok := w.Way(leg[0], leg[1], &c.m)
			require.True(t, ok, c.who)
			for _, s := range steps {
				fmt.Fprintf(&text, "%5.0f  %-20s %-5s %s\n", s.At, s.Pose, s.Surface, s.Say)
			}
			fmt.Fprintf(&text, "%5d\n", seconds)
		}
	}
	const file = "testdata/ways.txt"
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(text.String()), 0o644))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(want), text.String())
}

func TestMistakesInTheWaysAreNamed(t *testing.T) {
	step := "{say: Up., seconds: 4, pose: standing}"
	for text, want := range map[string]string{
		"- {from: roof, to: standing, surface: up, steps: [" + step + ", " + step + "]}":                              "allowed: positions",
		"- {from: sitting, to: standing, surface: up, steps: []}":                                                     "allowed: 1 to 4",
		"- {from: sitting, to: standing, surface: up, needs: [wings], steps: [" + step + "]}":                         "needs: found",
		"- {from: sitting, to: standing, surface: up, steps: [" + step + ", {say: Up., seconds: 0, pose: standing}]}": "needs words, seconds and a pose",
		"- {from: sitting, by: hand}": "field by not found",
	} {
		_, err := score.ReadWays([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}
