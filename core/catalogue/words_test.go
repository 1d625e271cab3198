package catalogue_test

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/say"
	"restbend/core/trade"
)

// delivered is the catalogue as it is delivered, read once: no test may change it.
var delivered = sync.OnceValues(restbend.Catalogue)

func whole(t *testing.T) *catalogue.Catalogue {
	t.Helper()
	cat, err := delivered()
	require.NoError(t, err)
	return cat
}

// spoken is everything an entry says before and during a movement.
func spoken(v *catalogue.Version) string {
	return strings.Join(append(slices.Clone(v.Say.Setup.First), v.Cues().In, v.Cues().Out, v.Changes), " ")
}

// Props by the words for them. A word that means something else in one entry is listed with
// the reason.
var propWords = map[string]*regexp.Regexp{
	"pillow": regexp.MustCompile(`(?i)\bpillows?\b`), "towel": regexp.MustCompile(`(?i)\btowels?\b`), "cushion": regexp.MustCompile(`(?i)\bcushions?\b`),
	"dowel": regexp.MustCompile(`(?i)\bstick\b`), "band": regexp.MustCompile(`(?i)\bband\b`), "ring": regexp.MustCompile(`(?i)\bring\b`), "strap": regexp.MustCompile(`(?i)\bstrap\b`),
	"ball": regexp.MustCompile(`(?i)\b(a|the|soft|small) ball\b`), "large-ball": regexp.MustCompile(`(?i)\blarge ball\b`), "dumbbell": regexp.MustCompile(`(?i)\b(a|light) weight (of|in|to)\b|\bweight in one hand\b`),
	"bolster": regexp.MustCompile(`(?i)\b(bolster|rounded support)\b`), "raised-pad": regexp.MustCompile(`(?i)\brounded pad\b`), "chair": regexp.MustCompile(`(?i)\b(a|the|steady) chair\b`),
	"counter": regexp.MustCompile(`(?i)\b(a|the) counter\b`), "sofa": regexp.MustCompile(`(?i)\b(a|the) sofa\b`), "spring-carriage": regexp.MustCompile(`(?i)\bcarriage\b`),
}

var otherMeaning = map[string]string{
	"thoracic-bench-palms dowel": "says that no stick is used",
	"hip-hinge dowel":            "says that the stick is gone",
	"stretch-forward large-ball": "an image to reach over",
	"plank-ball ball":            "the large one",
	"reset-sweep-standing chair": "a hold within reach",
}

// The props an entry names are the props it lists, needed or helpful, and the other way
// round: what it needs is named where it is set up.
func TestKitNamedIsKitListed(t *testing.T) {
	named := 0
	for _, v := range whole(t).Versions {
		listed := append(append(v.WithHelp(), trade.Words(v.Surfaces)...), v.KitAt("bed")...)
		for kit, words := range propWords {
			if !words.MatchString(spoken(v)) {
				continue
			}
			named++
			if otherMeaning[v.Slug+" "+kit] != "" {
				continue
			}
			assert.Contains(t, listed, kit, "%s says %q", v.Slug, words.FindString(spoken(v)))
		}
		for _, k := range v.Kit {
			assert.False(t, catalogue.Comfort(k) && !slices.Contains([]string{"bridge-propped", "sit-to-stand-high", "sit-to-stand-armrests", "sit-to-stand-counter", "hinge-forward-flat"}, v.Slug),
				"%s: %s only makes it comfortable", v.Slug, k)
		}
	}
	assert.Greater(t, named, 60)
}

// Where an entry is done sitting, standing or at a wall instead, that version serves one of
// the same aims, or the entry says why none can.
func TestEveryChairAnswerKeepsAnAim(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat := whole(t)
	none := 0
	for _, v := range cat.Versions {
		if v.Chair.Version == "" {
			none++
			assert.True(t, strings.HasPrefix(v.Chair.Note, "none, because "), "%s: %s", v.Slug, v.Chair.Note)
			continue
		}
		w, ok := cat.Version(v.Chair.Version)
		require.True(t, ok, v.Slug)
		assert.True(t, slices.ContainsFunc(v.MainAims, func(a string) bool { return catalogue.Has(w.Aims, a) }), "%s %v on a chair is %s %v", v.Slug, v.MainAims, w.Slug, w.Aims)
		assert.True(t, slices.ContainsFunc(w.Surfaces, func(s trade.Surface) bool {
			return catalogue.Has([]trade.Surface{trade.Chair, trade.Counter, trade.Wall}, s)
		}), "%s: %s needs %v", v.Slug, w.Slug, w.Surfaces)
	}
	assert.Less(t, none, 12)
}

// The side an entry names is the side it draws: the upper one of somebody lying on the
// other, the one that carries of somebody standing.
func TestSidesNamedAreSidesDrawn(t *testing.T) {
	names := [2]string{"left", "right"}
	upper, lower := regexp.MustCompile(`\b(top|upper|is up|goes up)\b`), regexp.MustCompile(`\b(is down|lower leg|nearest the floor)\b`)
	checked := 0
	for _, v := range whole(t).Versions {
		if v.SideMode == "none" {
			assert.Empty(t, v.SideMeans, v.Slug)
			continue
		}
		assert.NotEmpty(t, v.SideMeans, v.Slug)
		assert.NotEmpty(t, v.Compares, "%s says what is compared", v.Slug)
		if v.SideMode != "each" {
			continue
		}
		side := names[v.Authored]
		on := v.LyingOn(trade.Side(side))
		m := v.Solved.Phases[v.EffortPhase()].Measures
		switch {
		case on == "left" || on == "right":
			checked++
			if upper.MatchString(v.SideMeans) {
				assert.NotEqual(t, trade.Lying(side), on, "%s: %s", v.Slug, v.SideMeans)
			} else if lower.MatchString(v.SideMeans) {
				assert.Equal(t, trade.Lying(side), on, "%s: %s", v.Slug, v.SideMeans)
			}
		case regexp.MustCompile(`\b(leg that (stands|carries)|standing leg)\b`).MatchString(v.SideMeans):
			checked++
			foot := func(s string) float64 { return m.Share["foot."+s] + m.Share["toes."+s] + m.Share["heel."+s] }
			assert.Greater(t, foot(side), foot(names[1-v.Authored]), "%s: %s", v.Slug, v.SideMeans)
		}
	}
	assert.Greater(t, checked, 20)
}

var numbers = map[string]int{"two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "eight": 8, "ten": 10}

// Directions and numbers that are spoken are in the dose: "one way as the other" has as many
// both ways, "ten steps" can be ten steps.
func TestDirectionsCountedAreInTheDose(t *testing.T) {
	ways := regexp.MustCompile(`(?i)\b(one way as|each way|both ways|both directions|one way,)`)
	counted := regexp.MustCompile(`(?i)\b(two|three|four|five|six|eight|ten) (steps|laps|times|breaths|small beats)\b`)
	turned, numbered := 0, 0
	for _, v := range whole(t).Versions {
		each := func(ok func(d *dose.Dose) bool) (all, any bool) {
			all = true
			for _, steps := range v.Doses {
				for i := range steps {
					all, any = all && ok(&steps[i]), any || ok(&steps[i])
				}
			}
			return all, any
		}
		if ways.MatchString(spoken(v)) && v.SideMode == "none" || v.Unit == "laps" {
			turned++
			all, _ := each(func(d *dose.Dose) bool { return d.Turn == "half" && d.Reps%2 == 0 })
			assert.True(t, all, "%s: both ways in every dose", v.Slug)
		}
		for _, m := range counted.FindAllStringSubmatch(strings.Join(v.Say.Setup.First, " "), -1) {
			numbered++
			n := numbers[strings.ToLower(m[1])]
			_, any := each(func(d *dose.Dose) bool {
				return d.Reps == n || d.HoldBreaths == n || d.Beats == 2*n || m[2] == "small beats"
			})
			assert.True(t, any, "%s says %q and no dose has it", v.Slug, m[0])
		}
	}
	assert.Greater(t, turned, 8)
	assert.Positive(t, numbered)
}

// Phases and doses agree in every version and every school (shared rulings 36 to 38): moving
// takes at least the phases, sides and directions get the same, the hold has a phase to be
// spent in, and the lines add up.
func TestPhasesAndDosesAgree(t *testing.T) {
	cat := whole(t)
	n := 0
	for _, v := range cat.Versions {
		round := 0.0
		for _, p := range v.Phases[v.Round():] {
			round += p.Seconds
		}
		held := 0
		for i, p := range v.Phases {
			if p.Held && held == 0 {
				assert.Equal(t, i, v.EffortPhase(), "%s: the hold is spent in the first held phase", v.Slug)
			}
			if p.Held {
				held++
			}
		}
		for _, school := range catalogue.Schools {
			steps, used := v.Steps(school)
			require.NotEmpty(t, steps, "%s %s", v.Slug, school)
			for i := range steps {
				n++
				d := v.Dose(school, i)
				say := v.Slug + " " + used + " " + strconv.Itoa(i)
				if v.Hold != "cycle" && d.WindowS == 0 {
					assert.GreaterOrEqual(t, float64(d.MoveS)+1e-9, round, say)
				}
				if v.SideMode == "alternate" && d.WindowS == 0 {
					assert.NotEmpty(t, d.Turn, say)
					for _, reps := range append([]int{d.Reps}, d.Pattern...) {
						assert.Zero(t, reps%2, "%s: one repetition is one side", say)
					}
				}
				if d.HoldSeconds(12) > 0 && v.Hold != "cycle" && d.TotalReps() == 1 && d.WindowS == 0 {
					assert.Positive(t, held, "%s: a hold without a held phase", say)
				}
				assert.Less(t, d.RepsFrom, d.Reps+1, say)
				for _, rate := range []float64{6, 12, 20} {
					sum := 0
					for _, l := range d.Sum(rate, v.Sides()) {
						sum += l.Seconds
					}
					assert.Equal(t, d.Seconds(rate, v.Sides()), sum, say)
				}
			}
		}
	}
	assert.Greater(t, n, 2000)
}

// What practitioners prescribe, lowest first (domain/02 and 04, and what a second look at
// the entries corrected).
func TestDosesAreWhatPractitionersPrescribe(t *testing.T) {
	cat := whole(t)
	for _, c := range []struct{ slug, school, want string }{
		{"curl-up-hand-under", "short-holds", "6 times, hold 10 s | 6-4-2 times, hold 10 s | 8-6-4-2 times, hold 10 s"},
		{"curl-up-hand-under", "reps", "6 times, hold 1 counts | 6 times, hold 2 counts | 8 times, hold 3 counts"},
		{"bird-dog", "short-holds", "6 times each way, hold 10 s | 6-4-2 times each way, hold 10 s | 8-6-4-2 times each way, hold 10 s"},
		{"bird-dog-sweep", "short-holds", "6 times, hold 10 s | 6-4-2 times, hold 10 s | 8-6-4-2 times, hold 10 s"},
		{"side-plank-knees", "reps", "8 times, hold 3 s | 8 to 10 times, hold 3 s | 8 to 10 times, hold 5 s | 2 x 8 to 10, hold 5 s"},
		{"plank", "long-hold", "once, hold 20 s at most, to the first loss of form | once, hold 30 s at most, to the first loss of form | 3 x 1, hold 30 s at most, to the first loss of form | 3 x 1, hold 30 to 45 s at most, to the first loss of form | 3 x 1, hold 45 to 60 s at most, to the first loss of form"},
		{"clock-circle", "reps", "3 times each way | 5 times each way | 2 x 5 times each way"},
		{"leg-circle", "reps", "3 times each way | 5 times each way"},
		{"one-leg-eyes-closed", "reps", "once, hold 3 s at most, to the first loss of form | 2 times, hold 3 s at most, to the first loss of form | 2 times, hold 5 s at most, to the first loss of form | 2 times, hold 5 to 10 s at most, to the first loss of form"},
		{"swim", "breaths", "once, hold 3 breaths | once, hold 5 breaths | 2 x 1, hold 5 breaths"},
		{"plank-breaths", "breaths", "once, hold 5 breaths at 6 a minute | once, hold 10 breaths at 6 a minute | once, hold 15 breaths at 6 a minute"},
		{"hundred-head-down", "breaths", "5 breaths of 10 beats | 8 breaths of 10 beats | 10 breaths of 10 beats"},
		{"bridge", "reps", "8 times, hold 3 s | 2 x 8, hold 3 s | 2 x 8 to 10, hold 3 s | 3 x 10 to 15, hold 3 s"},
		{"knee-hug-one", "reps", "once, hold 20 s | once, hold 20 to 30 s"},
		{"spine-wave", "reps", "once, hold 60 s, by feel | once, hold 60 to 120 s, by feel"},
	} {
		v, ok := cat.Version(c.slug)
		require.True(t, ok, c.slug)
		steps, used := v.Steps(c.school)
		assert.Equal(t, c.school, used, c.slug)
		var got []string
		for _, d := range steps {
			got = append(got, d.Words())
		}
		assert.Equal(t, c.want, strings.Join(got, " | "), "%s %s", c.slug, c.school)
	}
	curl, _ := cat.Version("curl-up-hand-under")
	side, _ := cat.Version("side-plank-knees")
	reach, _ := cat.Version("bird-dog")
	for i, seconds := range []int{60, 120, 200} { // of holding: the curl, and each side of plank and reach (domain/07)
		c, s, r := curl.Dose("short-holds", i), side.Dose("short-holds", i), reach.Dose("short-holds", i)
		assert.Equal(t, seconds, c.TotalReps()*c.HoldSeconds(12))
		assert.Equal(t, seconds, s.TotalReps()*s.HoldSeconds(12))
		assert.Equal(t, 2*seconds, r.TotalReps()*r.HoldSeconds(12))
		assert.Equal(t, "set", s.By, "the other side is the rest")
	}
}

// Where one may begin and what opens the rest (domain/07, the ladders).
func TestStartsAndGates(t *testing.T) {
	cat := whole(t)
	starts := 0
	for _, v := range cat.Versions {
		if v.Start {
			starts++
		}
		assert.Equal(t, v.Start, v.Gate == nil, v.Slug)
		if v.Gate != nil {
			assert.NotEmpty(t, v.Gate.Words(cat), v.Slug)
			for _, s := range v.Gate.Steps {
				_, ok := cat.Version(s.Version)
				assert.True(t, ok, "%s opens after %s", v.Slug, s.Version)
				assert.Equal(t, s.HoldS > 0, s.Pattern != nil, "%s: a gate in seconds opens by 6-4-2 too", v.Slug)
			}
		}
	}
	assert.Greater(t, starts, 80)
	assert.Less(t, starts, 140)
	for _, slug := range strings.Fields(`bird-dog-arm bird-dog-chair bridge-low curl-up-neck-held side-plank-wall sit-to-stand-armrests tandem-held plank-wall plank-sofa-knees clock-12-6 clock-3-9 dead-bug-chair heel-press-chair low-breath-chair side-rib-breath-chair`) {
		v, _ := cat.Version(slug)
		assert.True(t, v.Start, "%s is a place to begin", slug)
	}
	for slug, want := range map[string]string{
		"plank-hand":                "Forearm plank on knees for 45 s, or 6-4-2 of 10 s, or Sofa plank for 45 s, or 6-4-2 of 10 s",
		"bird-dog":                  "All-fours arm reach, clean, and All-fours leg reach, clean",
		"bridge-march":              "Bridge, 3 x 10 easy",
		"clock-circle":              "Clock, twelve to six, clean, and Clock, three to nine, clean",
		"one-leg-eyes-closed":       "One-leg stand for 30 s, or 6-4-2 of 10 s",
		"squat":                     "Half squat, clean, and effort 5 and an easier exercise of the same aim, clean",
		"bear-hover":                "effort 5 and an easier exercise of the same aim, clean",
		"cat-cow":                   "Round and arch, sitting, clean (for clients who stay upright)",
		"side-plank-knees-straight": "Side plank on knees for 45 s, or 6-4-2 of 10 s; a start where side planks are done on the hand",
		"swim":                      "Opposite arm and leg float, 6 times clean, and effort 5 and an easier exercise of the same aim, clean",
	} {
		v, ok := cat.Version(slug)
		require.True(t, ok, slug)
		require.NotNil(t, v.Gate, slug)
		assert.Equal(t, want, v.Gate.Words(cat), slug)
	}
	for _, slug := range strings.Fields("raised-back-1 crunch-breaths roll-down-half swim prone-press-hands squat heel-raise-one lunge-turn bear-hover") {
		v, _ := cat.Version(slug)
		assert.False(t, v.Start, "nobody begins with %s", slug)
		assert.Equal(t, 5, v.Gate.Effort, slug)
	}
}

// What is wrong in the files beside the entries is named.
func TestMistakesBesideTheEntriesAreNamed(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	for change, want := range map[[3]string]string{
		{"gates", "opens: [bird-dog]", "opens: [bird-dig]"}:                                                                     `gates.yaml:23: found "bird-dig", allowed: a version of the ladders`,
		{"gates", "opens: [bridge-one-leg], all: [{version: bridge-march}]", "opens: [bridge-one-leg]"}:                         "needs any or all, a list of rungs",
		{"gates", "opens: [bridge-one-leg], all: [{version: bridge-march}]", "opens: [bridge-march], all: [{version: bridge}]"}: "has two gates",
		{"names", "{name: camel, leads: [cat-cow, cow-neutral]}", "{name: camel, leads: [cat-cows]}"}:                           `camel: leads: found "cat-cows", allowed`,
		{"names", "- {name: cobra,", "- {name: camel,"}:                                                                         `"camel" stands twice`,
		{"doses", "hundred-beats:\n", "hundred-beats:\n  - {sets: 1, reps: 4, by: turns}\n"}:                                    `found by "turns"`,
		{"doses", "reach-holds:\n", "reach-holds:\n  - {sets: 1, reps: 5, hold_s: 10}\n"}:                                       "5 repetitions cannot be shared",
	} {
		src, err := restbend.CatalogueSource()
		require.NoError(t, err)
		at := map[string]*[]byte{"gates": &src.Gates, "names": &src.Names, "doses": &src.Doses}[change[0]]
		require.Contains(t, string(*at), change[1])
		*at = []byte(strings.Replace(string(*at), change[1], change[2], 1))
		_, err = catalogue.Read(src)
		assert.ErrorContains(t, err, want)
	}
}

// The other names of the trade lead to entries.
func TestTradeNamesLeadSomewhere(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat := whole(t)
	for query, want := range map[string][]string{
		"camel": {"cat-cow"}, "Cobra": {"prone-press-hands", "low-swan"}, "side kick": {"side-leg-swing"}, "locust": {"opposite-float"}, "bound angle": {"lying-diamond"},
		"superman": {"opposite-float"}, "prayer": {"palms-turn"}, "hip hikers": {"side-leg-standing"}, "sun salutation": {"reset-sweep-standing"}, "tree pose": {"heel-on-ankle-reach"},
		"windshield": {"knee-rock-small"}, "horizontal press": {"anti-rotation-press"}, "calf raises": {"heel-raise"}, "wood-chop": {"chop-up"},
	} {
		var leads []string
		for _, n := range cat.Names(query) {
			leads = append(leads, n.Leads...)
		}
		assert.Subset(t, leads, want, query)
	}
	assert.Empty(t, cat.Names("zzz"))
	assert.Empty(t, cat.Names(" "))
	assert.Empty(t, cat.Names("bridge knee zzz"))
}

// What can be seen going wrong has a code, what is felt a place, and shaking a meaning;
// entries older than the codes are read without.
func TestSentencesHaveCodes(t *testing.T) {
	used := map[string]int{}
	for _, v := range whole(t).Versions {
		assert.NotEmpty(t, say.Shaking[v.Shaking], v.Slug)
		for _, s := range v.Faults {
			used[s.Code]++
			assert.Contains(t, say.FaultCodes, s.Code, "%s: %s", v.Slug, s.Say)
		}
		for _, s := range v.Say.Feel {
			assert.Contains(t, say.FeltAt, s.Code, "%s: %s", v.Slug, s.Say)
		}
	}
	for _, code := range say.FaultCodes {
		assert.True(t, used[code] > 0, "%s is used", code)
	}
	for line, want := range map[string]say.Said{
		"sag: low back sags":   {Code: "sag", Say: "low back sags"},
		"hips pike":            {Code: "other", Say: "hips pike"},
		"watch: the left side": {Code: "other", Say: "watch: the left side"},
	} {
		got := say.ReadSaid(line, say.FaultCodes, "other")
		assert.Equal(t, want, got)
		assert.Equal(t, line, got.Line())
	}
}

// Who stands with a hold has something to do instead of every free stand.
func TestEveryFreeStandHasAHeldSibling(t *testing.T) {
	cat := whole(t)
	free := 0
	for _, v := range cat.Versions {
		if v.Quantities["standing.free"].Value == 0 || v.Quantities["needs.floor"].Value > 0 {
			continue
		}
		free++
		w, ease := cat.HeldSibling(v)
		require.NotEqual(t, "?", ease, v.Slug)
		q := w.Quantities
		if e := w.Ease(ease); e != nil {
			q = e.Quantities
		}
		assert.True(t, w != v || ease != "", "%s has none", v.Slug)
		assert.Zero(t, q["standing.free"].Value, "%s: %s %s stands free", v.Slug, w.Slug, ease)
	}
	assert.Greater(t, free, 30)
}

// A rise from a chair for a frail client stays near upright: every posture and every moment
// between (domain/09).
func TestTheFirstRisesStayUpright(t *testing.T) {
	cat := whole(t)
	for _, slug := range []string{"sit-to-stand-armrests", "sit-to-stand-counter"} {
		v, _ := cat.Version(slug)
		for _, side := range []string{"left", "right"} {
			assert.LessOrEqual(t, v.Quantities["hip.flexion."+side].Value, 90.0, slug)
		}
		assert.Less(t, v.Quantities["lumbar.flexion"].Value, 4.0, slug)
		assert.Less(t, v.Quantities["lumbar.extension"].Value, 4.0, slug)
		assert.Zero(t, v.Quantities["rise.free"].Value, "%s: the hands help", slug)
		assert.Contains(t, v.Surfaces, trade.Chair)
	}
}

// A version on another surface has its own postures, props and measures.
func TestBedVariants(t *testing.T) {
	cat := whole(t)
	seen := 0
	for _, v := range cat.Versions {
		on := v.On["bed"]
		if on == nil {
			assert.Same(t, v, v.At("bed"), v.Slug)
			assert.Equal(t, v.Kit, v.KitAt("bed"), v.Slug)
			continue
		}
		seen++
		w := v.At("bed")
		assert.Contains(t, v.Surfaces, trade.Bed)
		assert.Equal(t, []string{"cushion"}, w.Kit, v.Slug)
		assert.Equal(t, []string{"chair"}, v.KitAt("mat"), v.Slug)
		assert.NotEqual(t, measured(v), measured(w), v.Slug)
		for _, p := range w.Solved.Phases {
			for _, c := range p.Contacts {
				assert.NotEqual(t, "chair", body.Surfaces[c.Surface].Kind, "%s: a chair on a bed", v.Slug)
			}
		}
		assert.NotSame(t, cat.Table().At(v, "bed"), cat.Table().At(v, "mat"), v.Slug)
	}
	assert.Equal(t, 4, seen, "the family with the calves on a chair")
}
