package figure_test

import (
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/figure"
)

// Where an exercise is felt is marked on the picture: every place an entry names has a place
// on the body, on the side that works, and both sides are mirrored.
func TestWhatIsFeltIsMarked(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	for _, v := range cat.Versions {
		q := d.Sequence(v, "left")
		plain, felt := q.Phase(q.Effort(), figure.Options{}), q.Phase(q.Effort(), figure.Options{Felt: true})
		assert.GreaterOrEqual(t, strings.Count(felt, `class="felt"`), len(v.Say.Feel), v.Slug)
		assert.NotContains(t, plain, `class="felt"`, v.Slug)
		wellFormed(t, v.Slug, felt)
	}
	for slug, want := range map[string]int{
		"clam":              1, // the top hip
		"side-leg-standing": 2, // both outer hips are named
		"bridge":            4, // buttocks and hamstrings of both sides
		"nod-only":          4, // neck and waist, both sides
	} {
		q := sequence(t, slug, "right")
		assert.Equal(t, want, strings.Count(q.Phase(q.Effort(), figure.Options{Felt: true}), `class="felt"`), slug)
	}
	at := func(side string) (x, y float64) {
		q := sequence(t, "clam", side)
		m := regexp.MustCompile(`class="felt" cx="([\d.-]+)" cy="([\d.-]+)"`).FindStringSubmatch(q.Phase(q.Effort(), figure.Options{Felt: true}))
		require.NotNil(t, m)
		x, _ = strconv.ParseFloat(m[1], 64)
		y, _ = strconv.ParseFloat(m[2], 64)
		return x, y
	}
	xl, yl := at("left")
	xr, yr := at("right")
	assert.InDelta(t, yl, yr, 0.5)
	assert.InDelta(t, xl, -xr, 0.5, "the other side is the mirror")
}

// What is held is where the hands are: a ring passes both, a weight has a handle across the
// fist and a head at each end, a band ends on the edge of a door that stands.
func TestHeldThingsAreWhereTheHandsAre(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	b := body.NewBody(body.Female, 0)
	palms := func(slug string, phase int) (left, right body.Vec) {
		v, _ := cat.Version(slug)
		p := v.Solved.Phases[phase].Pose()
		var f body.Frames
		b.Place(&p.State, &f)
		return b.Point(&f, "palm.left"), b.Point(&f, "palm.right")
	}
	for _, slug := range []string{"ring-press-front", "ring-lift"} {
		for phase := range 2 {
			l, r := palms(slug, phase)
			assert.InDelta(t, 0.35, l.Sub(r).Len(), 0.08, "%s: the hands hold a ring of about 36 cm", slug)
		}
	}
	d := figure.NewDrawer(b)
	for slug, least := range map[string]int{"ring-press-front": 1, "carry-one-side": 3, "anti-rotation-press": 2} {
		v, _ := cat.Version(slug)
		with := d.Sequence(v, "").Phase(0, figure.Options{})
		held := v.Solved.Phases[0].Props
		v.Solved.Phases[0].Props = nil
		without := d.Sequence(v, "").Phase(0, figure.Options{})
		v.Solved.Phases[0].Props = held
		element := regexp.MustCompile(`<(path|circle|line|ellipse)[^>]*>`)
		drawn := map[string]bool{}
		for _, e := range element.FindAllString(without, -1) {
			drawn[e] = true
		}
		more := 0
		for _, e := range element.FindAllString(with, -1) {
			if !drawn[e] {
				more++
			}
		}
		assert.GreaterOrEqual(t, more, least, slug)
	}
}

// What lies on this side of a person is drawn after the person: the near end of the bolster
// is not hidden by the ribs on it.
func TestTheNearEndOfTheBolsterIsDrawnLast(t *testing.T) {
	q := sequence(t, "curve-breathe-arc", "")
	svg := q.Phase(0, figure.Options{Compact: true})
	top := strings.Index(svg, figure.Builds[figure.DefaultBuild].Top)
	last := strings.LastIndex(svg, "#b7a2b0")
	assert.Positive(t, top)
	assert.Greater(t, last, top)
}
