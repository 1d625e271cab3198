package restbend_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/core/way"
	"restbend/plantest"
)

// forbidden is a row of testdata/forbidden.yaml: what must not be said to somebody with a limit.
type forbidden struct {
	Limit    string     `yaml:"limit"`
	Position string     `yaml:"position"`
	Always   bool       `yaml:"always"`
	Side     trade.Side `yaml:"side"`
	Under    float64    `yaml:"under"`
	Never    []string   `yaml:"never"`
	But      []string   `yaml:"but"`
	Fault    string     `yaml:"fault"`
	Fine     string     `yaml:"fine"`
}

// ban is a row that holds for a client, with one side or none.
type ban struct {
	of    string
	side  trade.Side
	never *regexp.Regexp
	but   *regexp.Regexp
}

func (b *ban) catches(say string) bool {
	return b.never.MatchString(say) && (b.but == nil || !b.but.MatchString(say))
}

func (f *forbidden) ban(side trade.Side) ban {
	of := func(patterns []string) *regexp.Regexp {
		if len(patterns) == 0 {
			return nil
		}
		return regexp.MustCompile("(?i)" + strings.ReplaceAll("("+strings.Join(patterns, "|")+")", "{side}", string(side)))
	}
	return ban{f.Limit + f.Position, side, of(f.Never), of(f.But)}
}

func readForbidden(t *testing.T) (out []forbidden) {
	data, err := os.ReadFile("testdata/forbidden.yaml")
	require.NoError(t, err)
	dec := yaml.NewDecoder(strings.NewReader(string(data)))
	dec.KnownFields(true)
	require.NoError(t, dec.Decode(&out))
	return out
}

// holding are the rows that hold for a client.
func holding(rows []forbidden, s *safety.Screener, c *intake.Client) (out []ban) {
	for i := range rows {
		f := &rows[i]
		if f.Always || f.Position != "" && c.Positions[f.Position] == "no" {
			out = append(out, f.ban(""))
		}
		if f.Limit == "" {
			continue
		}
		sides := []trade.Side{""}
		if f.Side == trade.Each {
			sides = trade.BothSides[:]
		}
		for _, side := range sides {
			name := strings.TrimSuffix(f.Limit+"."+string(side), ".")
			if most, _, limited := s.Allowed(name); limited && most < f.Under {
				out = append(out, f.ban(side))
			}
		}
	}
	return out
}

// Every row catches its fault and lets pass what is fine, and is about something there is.
func TestForbiddenWordsAreCaught(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	rows := readForbidden(t)
	assert.GreaterOrEqual(t, len(rows), 25)
	table := tr.Cat.Table()
	answers := append([]string{"floor", "stand_free"}, func() (out []string) {
		for _, p := range tr.Rules.Positions {
			out = append(out, p.Answer)
		}
		return out
	}()...)
	for _, f := range rows {
		side, name := trade.Side(""), f.Limit
		if f.Side == trade.Each {
			side, name = trade.Left, f.Limit+".left"
		}
		b := f.ban(side)
		assert.True(t, b.catches(strings.ReplaceAll(f.Fault, "{side}", string(side))), "%s%s does not catch: %s", f.Limit, f.Position, f.Fault)
		assert.False(t, b.catches(f.Fine), "%s%s catches: %s", f.Limit, f.Position, f.Fine)
		if f.Limit != "" {
			assert.GreaterOrEqual(t, table.ID(name), 0, "no such quantity: %s", name)
		}
		if f.Position != "" {
			assert.Contains(t, answers, f.Position)
		}
	}
}

// drawn is a client of the nth condition, with whatever else is drawn.
func drawn(tr *plantest.Trade, n int) (*facts.Request, error) {
	r, err := tr.Request(uint64(77000 + n))
	if err != nil {
		return nil, err
	}
	c := *r.Client
	code := tr.Rules.Conditions[n%len(tr.Rules.Conditions)].Code
	if !slices.ContainsFunc(c.Conditions, func(k intake.Condition) bool { return k.Code == code }) && code != intake.Pregnancy {
		rng := rand.New(rand.NewPCG(uint64(n), 1))
		k := intake.Condition{Code: code, Date: trade.MustDay("2025-05-01")}
		if rng.IntN(3) > 0 {
			k.Side = trade.BothSides[rng.IntN(2)]
		}
		c.Conditions = append(slices.Clone(c.Conditions), k)
		if c.Clearances = slices.Clone(c.Clearances); n >= 5*len(tr.Rules.Conditions) { // of the last of each nobody says what is cleared
			return facts.New(tr.Cat, tr.Rules, tr.Tasks, &c, r.Log, r.Minutes, plantest.Today)
		}
		c.Clearances = append(c.Clearances, intake.Clearance{Date: trade.MustDay("2026-11-01"), By: "specialist", Covers: []string{code}})
	}
	return facts.New(tr.Cat, tr.Rules, tr.Tasks, &c, r.Log, r.Minutes, plantest.Today)
}

// Of drawn clients of all conditions no way needs what they lack and no sentence names it; of their plans every ease is
// spoken at every level, its contradicted line is not, and no sentence holds what a limit forbids.
func TestWhatIsSaidIsAllowed(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	const clients, plans = 336, 80 // six of each condition; one plan and a few
	tr, err := plantest.Load()
	require.NoError(t, err)
	ways, err := restbend.Ways()
	require.NoError(t, err)
	rows := readForbidden(t)
	var mu sync.Mutex
	caught, said, eased, planned, walked := map[string]int{}, 0, 0, 0, 0
	var wg sync.WaitGroup
	slots := make(chan bool, runtime.NumCPU())
	for n := range clients {
		wg.Add(1)
		slots <- true
		go func() {
			defer wg.Done()
			defer func() { <-slots }()
			r, err := drawn(&tr, n)
			if !assert.NoError(t, err, n) {
				return
			}
			who := fmt.Sprintf("client %d, %s", n, tr.Rules.Conditions[n%len(tr.Rules.Conditions)].Code)
			bans := holding(rows, r.Screener, r.Client)
			check := func(side trade.Side, where, say string) {
				for _, b := range bans {
					if (b.side == "" || !side.One() || b.side == side || strings.Contains(b.never.String(), string(b.side))) && b.catches(say) {
						t.Errorf("%s: %s (%s %s): %s", who, where, b.of, b.side, say)
					}
				}
			}
			check("", "getting up", r.Screener.GettingUp())
			for _, note := range r.Screener.Notes() {
				if note != r.Screener.GettingUp() {
					continue
				}
				check("", "note", note)
			}
			steps := 0
			m := r.Screener.Mover()
			home := plan.Place{Position: trade.Standing, Surface: trade.Mat}
			for _, p := range trade.Positions {
				for _, surface := range []trade.Surface{trade.Mat, trade.Bed} {
					at := plan.Place{Position: p, Surface: surface}
					if !m.Reaches(at) || surface == trade.Mat && r.Client.Positions["floor"] == "no" || r.Client.Positions[map[trade.Position]string{
						trade.Supine: "supine", trade.Prone: "prone", trade.LongSitting: "floor_sit"}[p]] == "no" {
						continue
					}
					for _, leg := range [][2]plan.Place{{home, at}, {at, home}} {
						list, _, ok := ways.Way(leg[0], leg[1], m)
						if !ok {
							continue
						}
						for _, st := range list {
							if steps++; (m.Lacks(way.SideLeft) || m.Lacks(way.SideRight)) && strings.HasPrefix(st.Say, "Roll to") {
								lacking(t, who, m, st) // one side alone may be lain on: it is rolled over, a sore shoulder or not
								continue
							}
							check("", fmt.Sprintf("way %v", leg), st.Say)
							lacking(t, who, m, st)
						}
					}
				}
			}
			mu.Lock()
			walked += steps
			for _, b := range bans {
				caught[b.of]++
			}
			mu.Unlock()
			if n >= plans {
				return
			}
			p, err := propose.Build(r)
			if err != nil {
				return
			}
			s, err := score.Build(p, score.Facts{Catalogue: tr.Cat, Client: r.Client, Log: r.Log, Ways: ways, Mover: m})
			if !assert.NoError(t, err, who) {
				return
			}
			lines, e := spoken(&tr, p, s, check, func(say string) { t.Error(who + ": " + say) })
			mu.Lock()
			said, eased, planned = said+lines, eased+e, planned+1
			mu.Unlock()
		}()
	}
	wg.Wait()
	t.Logf("seed 77000: %d clients, %d steps of ways, %d plans, %d eases, %d sentences; rows that held: %v", clients, walked, planned, eased, said, caught)
	assert.GreaterOrEqual(t, planned, 60)
	assert.Greater(t, eased, 20)
	assert.Greater(t, walked, 3000)
	for i := range rows {
		if of := rows[i].Limit + rows[i].Position; !rows[i].Always {
			assert.Positive(t, caught[of], "no drawn client has this limit: %s", of)
		}
	}
}

// lacking tells of a step that names what the client lacks.
func lacking(t *testing.T, who string, m *way.Mover, st score.Step) {
	pose := map[string]string{"all-fours": way.Kneel, "tall-kneeling": way.Kneel, "half-kneeling-left": way.Kneel, "half-kneeling-right": way.Kneel,
		"side-lying-left": way.SideLeft, "side-lying-right": way.SideRight}[st.Pose]
	assert.False(t, pose != "" && m.Lacks(pose) && !m.Unsided, "%s: a step is drawn %s: %s", who, st.Pose, st.Say)
}

// spoken looks at every sentence of a plan: as it is spoken at every level, and as it is shown and printed.
func spoken(tr *plantest.Trade, p *plan.Plan, s *score.Score, check func(trade.Side, string, string), fault func(string)) (lines, eased int) {
	texts := make([]map[string]string, len(p.Items)) // of the eased side
	for n := range texts {
		texts[n] = map[string]string{}
	}
	for i := range s.Segments {
		g := &s.Segments[i]
		for _, level := range score.Levels {
			w := s.Words(i, level, true)
			for _, say := range []string{w.Say, w.Cue} {
				if say != "" {
					lines++
					check(g.Side, s.Items[g.Item].Version+", "+g.Kind+", "+level, say)
				}
			}
			if it := &p.Items[g.Item]; !it.EasedSide.One() || !g.Side.One() || g.Side == it.EasedSide {
				texts[g.Item][level] += " " + w.Say + " " + w.Cue
			}
		}
	}
	for n := range p.Items {
		it := &p.Items[n]
		v, _ := tr.Cat.Version(it.Version)
		for _, side := range trade.BothSides {
			if it.Side.One() && side != it.Side {
				continue
			}
			words := v.Words(it.Doing(), side)
			for _, say := range []string{words.Cues.In, words.Cues.Out, words.Cues.Image} {
				check(side, it.Version+", printed", say)
			}
		}
		ease := v.Ease(it.Ease())
		if ease == nil || it.Role == trade.Reset {
			continue
		}
		eased++
		for _, level := range score.Levels {
			want := ease.Short
			if level == score.Full {
				want = ease.Sentences()[0]
			}
			if !strings.Contains(strings.ToLower(texts[n][level]), strings.ToLower(strings.TrimSuffix(want, "."))) {
				fault(fmt.Sprintf("%s with %s is not spoken as eased, %s", it.Version, it.Ease(), level))
			}
			for slot, instead := range ease.Instead {
				if full := lineOf(v, slot); full != "" && !strings.Contains(instead, full) && strings.Contains(texts[n][level], full) {
					fault(fmt.Sprintf("%s with %s says what its ease contradicts, %s: %s", it.Version, it.Ease(), level, full))
				}
			}
		}
	}
	return lines, eased
}

// A score that says the full exercise although it is planned with an ease is caught, in words and in slots.
func TestAnEaseLeftUnsaidIsCaught(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	ways, err := restbend.Ways()
	require.NoError(t, err)
	found := 0
	for n := 0; n < 40 && found < 5; n++ {
		r, err := drawn(&tr, n)
		require.NoError(t, err)
		p, err := propose.Build(r)
		if err != nil || !slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Ease() != "" && it.Role != trade.Reset }) {
			continue
		}
		found++
		facts := score.Facts{Catalogue: tr.Cat, Client: r.Client, Log: r.Log, Ways: ways, Mover: r.Screener.Mover()}
		right, err := score.Build(p, facts)
		require.NoError(t, err)
		full := *p
		full.Items = slices.Clone(p.Items)
		for i := range full.Items {
			full.Items[i].Eases = nil
		}
		wrong, err := score.Build(&full, facts)
		require.NoError(t, err)
		faults := 0
		count := func(string) { faults++ }
		none := func(trade.Side, string, string) {}
		spoken(&tr, p, right, none, count)
		assert.Zero(t, faults)
		spoken(&tr, p, wrong, none, count)
		assert.GreaterOrEqual(t, faults, 3, "each level")
	}
	assert.Positive(t, found)
}

// lineOf is what an exercise says in full where an ease says something else.
func lineOf(v *catalogue.Version, slot string) string {
	name, part, _ := strings.Cut(slot, ".")
	switch {
	case name == "setup":
		if n, _ := strconv.Atoi(part); n >= 1 && n <= len(v.Say.Setup.First) {
			return v.Say.Setup.First[n-1]
		}
	case slot == "image":
		return v.Say.Image
	case part == "full":
		return v.Say.Phases[name].Full
	}
	return ""
}
