package propose_test

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

// expected is a row of the recognition tables: a client and what an experienced instructor
// expects of the session.
type expected struct {
	Who        string             `yaml:"who"`
	Conditions []any              `yaml:"conditions"`
	Cleared    []string           `yaml:"cleared"`
	Born       int                `yaml:"born"`
	Activity   string             `yaml:"activity"`
	Afraid     bool               `yaml:"afraid"`
	Place      string             `yaml:"place"`
	Floor      string             `yaml:"floor"`
	No         []string           `yaml:"no"`
	Surfaces   []trade.Surface    `yaml:"surfaces"`
	Kit        []string           `yaml:"kit"`
	Aims       map[string]float64 `yaml:"aims"`
	Tasks      []string           `yaml:"tasks"`
	Pain       float64            `yaml:"pain"`
	SIJ        trade.Side         `yaml:"sij_side"`
	Levels     map[string]string  `yaml:"levels"`
	Log        []string           `yaml:"log"`
	Minutes    int                `yaml:"minutes"`
	Kind       string             `yaml:"kind"`
	Skill      string             `yaml:"skill"`

	Has           []string  `yaml:"has"`
	Hasnt         []string  `yaml:"hasnt"`
	Only          []string  `yaml:"only"`
	Down          []float64 `yaml:"down"`
	Lying         []float64 `yaml:"lying"`
	Bed           []float64 `yaml:"bed"`
	Breaths       float64   `yaml:"breaths"`
	FSB           bool      `yaml:"fsb"`
	StandingFirst bool      `yaml:"standing_first"`
	Resets        bool      `yaml:"resets"`
	Rising        bool      `yaml:"rising"`
	Items         []int     `yaml:"items"`
	Main          []int     `yaml:"main"`
	Mobility      []int     `yaml:"mobility"`
	Hardest       []int     `yaml:"hardest"`
	Rises         *int      `yaml:"rises"`
	Effort        int       `yaml:"effort"`
	New           int       `yaml:"new"`
	Pattern       []int     `yaml:"pattern"`
	Lasts         []float64 `yaml:"lasts"`
}

// client is the client of a row.
func (e *expected) client(t require.TestingT) *intake.Client {
	positions := map[string]string{"stand_free": "yes", "floor_sit": "yes"}
	for _, p := range []string{"floor", "supine", "prone", "side_left", "side_right", "kneel", "hands"} {
		positions[p] = "yes"
	}
	for _, p := range e.No {
		positions[p] = "no"
	}
	if e.Floor != "" {
		positions["floor"] = e.Floor
	}
	doc := map[string]any{"format": "restbend.client/1", "name": e.Who, "positions": positions, "breaths_per_minute": 12,
		"aims": e.Aims, "tasks": e.Tasks, "activity": e.Activity, "place": e.Place, "afraid": e.Afraid, "levels": e.Levels,
		"surfaces": trade.Surfaces, "kit": catalogue.Kit, "today": map[string]any{"date": "2026-11-20", "sij_side": e.SIJ}}
	if e.Surfaces != nil {
		doc["surfaces"] = e.Surfaces
		doc["kit"] = slices.DeleteFunc(slices.Clone(catalogue.Kit), func(k string) bool {
			return slices.Contains(trade.Surfaces, trade.Surface(k)) && !slices.Contains(e.Surfaces, trade.Surface(k))
		})
	}
	if e.Kit != nil {
		doc["kit"] = e.Kit
	}
	if e.Born > 0 {
		doc["born"] = e.Born
	}
	if e.Pain > 0 {
		doc["pain"] = map[string]any{"now": e.Pain, "worst": e.Pain, "on": "2026-11-20"}
	}
	var conditions []any
	for _, c := range e.Conditions {
		if code, ok := c.(string); ok {
			c = map[string]any{"code": code}
		}
		conditions = append(conditions, c)
	}
	doc["conditions"] = conditions
	if e.Cleared != nil {
		doc["clearances"] = []any{map[string]any{"date": "2026-11-10", "by": "doctor", "covers": e.Cleared}}
	}
	data, err := json.Marshal(doc)
	require.NoError(t, err)
	c := &intake.Client{}
	require.NoError(t, json.Unmarshal(data, c))
	return c
}

// log is a fortnight of sessions of the versions that a row says were done.
func (e *expected) log() *progress.Log {
	if e.Log == nil {
		return nil
	}
	l := &progress.Log{}
	for _, day := range []trade.Day{plantest.Today.AddDays(-9), plantest.Today.AddDays(-2)} {
		s := progress.Session{Date: day}
		for _, slug := range e.Log {
			v, ok := plantest.Cat.Version(slug)
			if !ok {
				continue
			}
			d := v.Dose("reps", 0)
			amount := progress.Amount{Reps: d.Reps, Sets: d.Sets, HoldS: d.HoldS, HoldBreaths: d.HoldBreaths}
			s.Items = append(s.Items, progress.Item{Version: slug, Target: amount, Done: amount})
		}
		l.Sessions = append(l.Sessions, s)
	}
	return l
}

// names tells whether an item is of a family, a version, or serves "aim:" as a main aim.
func names(it *plan.Item, what string) bool {
	v, _ := plantest.Cat.Version(it.Version)
	if aim, ok := strings.CutPrefix(what, "aim:"); ok {
		return slices.Contains(v.MainAims, aim)
	}
	return it.Family == what || it.Version == what
}

func anyOf(p *plan.Plan, what string) bool {
	for _, w := range strings.Split(what, "|") {
		for i := range p.Items {
			if p.Items[i].Role != trade.Reset && names(&p.Items[i], strings.TrimSpace(w)) {
				return true
			}
		}
	}
	return false
}

// share is the part of the working seconds that some items take.
func share(p *plan.Plan, takes func(it *plan.Item) bool) float64 {
	all, some := 0, 0
	for i := range p.Items {
		it := &p.Items[i]
		all += it.End - it.Start
		if takes(it) {
			some += it.End - it.Start
		}
	}
	return float64(some) / float64(max(1, all))
}

func isDown(it *plan.Item) bool {
	return it.Position.Lies() || it.Position == trade.AllFours || it.Position == trade.Kneeling || it.Position == trade.HalfKneel
}

// faults holds a plan against a row and says what an instructor would object to.
func (e *expected) faults(p *plan.Plan) (out []string) {
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	for _, h := range e.Has {
		if !anyOf(p, h) {
			say("no %s", h)
		}
	}
	for _, h := range e.Hasnt {
		if anyOf(p, h) {
			say("%s is in it", h)
		}
	}
	for name, within := range map[string][]float64{"down": e.Down, "lying": e.Lying, "bed": e.Bed, "lasts": e.Lasts} {
		if within == nil {
			continue
		}
		got := map[string]float64{
			"down":  share(p, isDown),
			"lying": share(p, func(it *plan.Item) bool { return it.Position.Lies() }),
			"bed":   share(p, func(it *plan.Item) bool { return it.Surface == trade.Bed && isDown(it) }),
			"lasts": float64(p.Seconds) / 60,
		}[name]
		if got < within[0]-0.005 || got > within[1]+0.005 {
			say("%s %.2f, expected %v", name, got, within)
		}
	}
	if e.FSB {
		for what, one := range map[string]string{"front": "aim:anti-extension", "side": "aim:anti-side-bend | clam | clam-lifted | side-leg-lift", "back": "aim:back-strength | aim:anti-rotation"} {
			if !anyOf(p, one) {
				say("no %s work", what)
			}
		}
	}
	parts, hardest, fresh := map[string]int{}, 0, 0
	families := map[string]int{}
	n := 0
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		n++
		parts[it.Part]++
		hardest = max(hardest, it.Effort)
		families[it.Family]++
		if it.New {
			fresh++
		}
		if e.Only != nil && it.Role == trade.Main && !slices.ContainsFunc(e.Only, func(o string) bool { return names(it, o) }) {
			say("%s is none of %v", it.Version, e.Only)
		}
	}
	for name, within := range map[string][]int{"items": e.Items, "main": e.Main, "mobility": e.Mobility, "hardest": e.Hardest} {
		got, ok := map[string]int{"items": n, "hardest": hardest}[name]
		if !ok {
			got = parts[name]
		}
		if within != nil && (got < within[0] || got > within[1]) {
			say("%s %d, expected %v", name, got, within)
		}
	}
	if e.Effort > 0 && hardest > e.Effort {
		say("effort %d, at most %d", hardest, e.Effort)
	}
	if e.New > 0 && fresh > e.New {
		say("%d new, at most %d", fresh, e.New)
	}
	if e.Rises != nil && rises(p) > *e.Rises {
		say("%d rises, at most %d", rises(p), *e.Rises)
	}
	if !slices.Contains([]string{"desk-round", "one-skill", "sacroiliac"}, e.Kind) { // a set done whole, and what is fixed
		for f, k := range families {
			if k > 2 {
				say("%s comes %d times", f, k)
			}
		}
	}
	if e.Pattern != nil && !slices.ContainsFunc(p.Items, func(it plan.Item) bool {
		return slices.Equal(it.Dose.Pattern, e.Pattern) || len(e.Pattern) == 1 && len(it.Dose.Pattern) == 0 && it.Dose.Sets == 1 && it.Dose.Reps == e.Pattern[0] && it.Dose.HoldS == 10
	}) {
		say("no %v of ten seconds", e.Pattern)
	}
	for _, c := range p.Checks {
		if c.Rule == "gentle-steps" && !c.OK && e.Kind == "" {
			say("%s", c.Detail)
		}
	}
	return append(out, e.shape(p)...)
}

func rises(p *plan.Plan) (n int) {
	for i := 0; i <= len(p.Items) && len(p.Items) > 0; i++ {
		var from, to *plan.Item
		if i > 0 {
			from = &p.Items[i-1]
		}
		if i < len(p.Items) {
			to = &p.Items[i]
		}
		if plan.FromFloor(from, to) {
			n++
		}
	}
	return n
}

// shape holds the order of a plan against the school, resets and breaths.
func (e *expected) shape(p *plan.Plan) (out []string) {
	order := []trade.Position{trade.Supine, trade.SideLying, trade.Prone, trade.AllFours, trade.Kneeling, trade.HalfKneel, trade.LongSitting, trade.Sitting, trade.Standing}
	if e.StandingFirst {
		order = []trade.Position{trade.Standing, trade.AllFours, trade.Kneeling, trade.HalfKneel, trade.Prone, trade.SideLying, trade.Supine, trade.LongSitting, trade.Sitting}
	}
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	known := e.StandingFirst || e.Kind != "bone-safe" && !slices.ContainsFunc(e.Conditions, func(c any) bool {
		return strings.Contains(fmt.Sprint(c), "osteopo") || strings.Contains(fmt.Sprint(c), "falls")
	})
	at, breaths, mains, sweeps, effort := 0, 0, 0, 0, 0
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role == trade.Reset {
			sweeps++
			continue
		}
		if it.Role != trade.Main {
			continue
		}
		mains++
		if it.Dose.HoldBreaths > 0 {
			breaths++
		}
		if k := slices.Index(order, it.Position); known && k < at {
			say("%s (%s) comes after %s", it.Version, it.Position, order[at])
		} else {
			at = max(k, 0)
		}
		if e.Rising && it.Effort < effort {
			say("effort falls at %s", it.Version)
		}
		effort = it.Effort
	}
	if e.StandingFirst && (mains == 0 || p.Items[slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Role == trade.Main })].Position != trade.Standing && p.Items[0].Position != trade.Standing) {
		say("does not stand first")
	}
	if last := len(p.Items) - 1; e.StandingFirst && p.Items[last].Position == trade.Standing {
		say("ends standing")
	}
	if e.Resets && sweeps < mains { // from the front, all fours and the side as well
		say("%d sweeps between %d postures", sweeps, mains)
	}
	if e.Breaths > 0 && float64(breaths) < e.Breaths*float64(mains) {
		say("%d of %d items by the breath", breaths, mains)
	}
	return out
}

// recognised is how many rows of the tables hold today.
func recognised(t *testing.T) (held int, all []expected) {
	data, err := os.ReadFile("testdata/recognition.yaml")
	require.NoError(t, err)
	require.NoError(t, yaml.Unmarshal(data, &all))
	everyKind, err := restbend.Templates(plantest.Cat)
	require.NoError(t, err)
	tasks, err := restbend.Tasks()
	require.NoError(t, err)
	for i := range all {
		e := &all[i]
		if faults := e.against(t, everyKind, tasks); len(faults) == 0 {
			held++
		} else {
			t.Logf("%s, %d minutes %s: %s", e.Who, e.Minutes, e.Kind, strings.Join(faults, "; "))
		}
	}
	return held, all
}

func (e *expected) against(t *testing.T, everyKind []kinds.Template, tasks []catalogue.Task) []string {
	r, err := facts.New(plantest.Cat, plantest.Rules, tasks, e.client(t), e.log(), e.Minutes, plantest.Today)
	require.NoError(t, err, e.Who)
	if e.Kind != "" {
		k := slices.IndexFunc(everyKind, func(k kinds.Template) bool { return k.Slug == e.Kind })
		if k < 0 {
			return []string{"there is no such kind"}
		}
		r = r.For(&everyKind[k]).Learning(e.Skill)
	}
	p, err := propose.Build(r)
	if err != nil {
		return []string{err.Error()}
	}
	if os.Getenv("SHOW") != "" && strings.Contains(e.Who+" "+e.Kind, os.Getenv("SHOW")) {
		for _, it := range p.Items {
			t.Logf("    %-8s %-9s %-26s %-10s e%d %3d s %s %s", it.Role, it.Part, it.Version, it.Position, it.Effort, it.End-it.Start, it.Side, it.Length)
		}
		for _, c := range p.Checks {
			if !c.OK {
				t.Logf("    broken %s: %s", c.Rule, c.Detail)
			}
		}
		t.Logf("    %d s of %d, %v %v", p.Seconds, 60*p.Minutes, p.Proven, p.Dry)
	}
	return e.faults(p)
}

// Sessions are what an experienced instructor expects for every client of the tables.
func TestRecognition(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	held, all := recognised(t)
	assert.GreaterOrEqual(t, len(all), 60)
	t.Logf("%d of %d rows hold", held, len(all))
	assert.Equal(t, len(all), held)
}
