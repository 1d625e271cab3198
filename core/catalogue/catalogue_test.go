package catalogue_test

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/pose"
	"restbend/core/statics"
)

// Every slug of the ladders file is written: 224 versions in 57 families.
func TestTheCatalogueIsWhole(t *testing.T) {
	src, err := restbend.CatalogueSource()
	require.NoError(t, err)
	cat, err := delivered()
	require.NoError(t, err)
	var ladder []string
	families := 0
	for _, line := range strings.Split(string(src.Ladders), "\n") {
		if name, rungs, ok := strings.Cut(line, ":"); ok && !strings.HasPrefix(name, "#") {
			families++
			ladder = append(ladder, strings.Fields(strings.ReplaceAll(rungs, "|", " "))...)
		}
	}
	assert.ElementsMatch(t, ladder, cat.Slugs())
	assert.Len(t, cat.Versions, 224)
	assert.Len(t, cat.Families, families)
	cues := map[string]string{}
	for _, v := range cat.Versions {
		for school := range v.Doses {
			assert.Contains(t, catalogue.Schools, school)
		}
		key := v.Cues().In + v.Cues().Out + v.Cues().Image
		assert.Empty(t, cues[key], "%s has the cues of %s", v.Slug, cues[key])
		cues[key] = v.Slug
		if v.Chair.Version == "" {
			assert.Contains(t, v.Chair.Note, "none, because", v.Slug)
		}
	}
}

// Versions whose point is movement must show it (product convention): an author must not
// shave an angle to pass a limit.
func TestMovementIsShown(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	for _, c := range []struct {
		slug, quantity string
		least          float64
	}{
		{"pelvic-curl", "lumbar.flexion", 15}, {"cat-cow", "lumbar.flexion", 20}, {"cat-cow", "thoracic.flexion", 20}, {"cat-cow", "neck.flexion", 20},
		{"knee-hug-both", "lumbar.flexion", 30}, {"open-book", "thoracic.rotation", 20}, {"stretch-forward", "lumbar.flexion", 25},
		{"crunch-breaths", "thoracic.flexion", 30}, {"crunch-breaths", "lumbar.flexion", 8}, {"prone-on-elbows", "lumbar.extension", 11}, {"seated-turn", "thoracic.rotation", 20},
	} {
		v, _ := cat.Version(c.slug)
		assert.GreaterOrEqual(t, v.Quantities[c.quantity].Value+1e-9, c.least, c.slug+" "+c.quantity)
	}
}

func TestMeasuredFacts(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	q := func(slug, name string) float64 { v, _ := cat.Version(slug); return v.Quantities[name].Value }
	assert.Positive(t, q("curl-up-hand-under", "head-lift"))
	assert.Zero(t, q("nod-only", "head-lift"))
	assert.Greater(t, q("bridge", "bridge-rise"), 10.0)
	assert.Less(t, q("bridge-low", "bridge-rise"), 10.0)
	assert.Greater(t, q("plank-hand", "wrist-load.left"), 0.1)
	assert.Zero(t, q("plank-knees", "wrist-load.left"))
	assert.Positive(t, q("hip-hinge-dowel", "standing.free"))
	assert.Zero(t, q("heel-raise-held", "standing.free"))
	assert.Positive(t, q("cat-cow", "needs.kneel"))
	assert.Positive(t, q("clam", "needs.side.left"), "the right clam lies on the left side")
	for _, v := range cat.Versions {
		for _, p := range v.Solved.Phases {
			sum := 0.0
			for _, s := range p.Measures.Share {
				sum += s
			}
			if v.Phases[0].Name == p.Name && levelGround(p) { // walls push sideways, weights and bands add to the body's own
				assert.InDelta(t, 1, sum, 0.01, v.Slug)
			}
			for r, reg := range map[string]statics.Region{"lumbar": p.Measures.Lumbar, "thoracic": p.Measures.Thoracic, "neck": p.Measures.Neck} {
				assert.LessOrEqual(t, reg.Flexion, body.Ranges[r][0]+0.5, v.Slug)
				assert.LessOrEqual(t, math.Abs(reg.Rotation), body.Ranges[r][3]+0.5, v.Slug)
			}
		}
	}
}

func levelGround(p catalogue.SolvedPhase) bool {
	for _, c := range p.Contacts {
		if strings.HasPrefix(c.Surface, "wall") || c.Surface == "footplate" {
			return false
		}
	}
	for _, h := range p.Props {
		if h.Kg+h.Newtons > 0 || h.Kind == "strap" {
			return false
		}
	}
	return true
}

// A mistake in a data file names file, line, version and field.
func TestMistakesNameFileAndLine(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	src, err := restbend.CatalogueSource()
	require.NoError(t, err)
	name := "core/catalogue/versions/lying.yaml"
	good := string(src.Files[name])
	for change, want := range map[[2]string]string{
		{"effort: 2\n", "effort: 12\n"}:                             "lying.yaml:14: knee-rock-small: effort: found 12, allowed: 1 to 10",
		{"aims: [spinal-mobility, relaxation]", "aims: [dancing]"}:  `found "dancing", allowed: breathing`,
		{"chain: closed\n", "chain: closed\n  colour: red\n"}:       "field colour not found",
		{"pose: \"from hook-lying", "pose: \"from hook-laying"}:     `from "hook-laying" is neither a base nor an earlier phase`,
		{"reps: alternate-reps", "reps: endless"}:                   `unknown dose ladder "endless"`,
		{"bed: {answer: works", "bed: {answer: change"}:             "bed is among the surfaces exactly when the answer is works",
		{"- version: knee-rock-small", "- version: knee-rock-tiny"}: "is not on the ladder of knee-rock",
		{"  side_means: the side the knees drift to\n", ""}:         "a sided version says what left means",
		{"held: true, pose", "held: true, once: true, pose"}:        "only the first phase is taken once, and it is not held",
		{"lumbar turn-left 5", "lumbar turn-left 50"}:               "outside the joint's range",
	} {
		src.Files[name] = []byte(strings.Replace(good, change[0], change[1], 1))
		_, err := catalogue.Read(src)
		assert.ErrorContains(t, err, want)
		assert.ErrorContains(t, err, "lying.yaml")
	}
}

func TestStaleSolvedPosesAreRefused(t *testing.T) {
	src, err := restbend.CatalogueSource()
	require.NoError(t, err)
	src.Solved = &catalogue.Cache{Solver: pose.SolverVersion, Entries: map[string]*catalogue.Solved{}}
	cat, err := catalogue.Read(src)
	require.NoError(t, err)
	assert.ErrorContains(t, cat.Join(src.Solved), "run: make solve")
}

func TestLadderSteps(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	v, _ := cat.Version("bridge")
	assert.Equal(t, "bridge-long-hold", cat.Next(v).Slug)
	assert.Equal(t, "bridge-low", cat.Previous(v).Slug)
	top, _ := cat.Version("bridge-one-leg")
	assert.Nil(t, cat.Next(top))
	assert.Equal(t, "bridge-march", cat.Previous(top).Slug)
	set, _ := cat.Version("seated-turn")
	assert.True(t, set.Set)
	assert.Nil(t, cat.Next(set))
}
