package figure_test

import (
	"bytes"
	"compress/gzip"
	"encoding/xml"
	"flag"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/trade"
	"restbend/figure"
)

var update = flag.Bool("update", false, "write the golden figures again")

// loaded is the catalogue, read once.
var loaded = sync.OnceValues(restbend.Catalogue)

func sequence(t testing.TB, slug, side string) *figure.Sequence {
	t.Helper()
	cat, err := loaded()
	require.NoError(t, err)
	v, ok := cat.Version(slug)
	require.True(t, ok, slug)
	return figure.NewDrawer(body.NewBody(body.Female, 0)).Sequence(v, trade.Side(side))
}

// Golden figures: a picture that changes is looked at before it is accepted (-update).
func TestGoldenFigures(t *testing.T) {
	for _, c := range []struct{ slug, side, build string }{
		{"bridge", "", "ash"}, {"bird-dog", "left", "rowan"}, {"clam", "right", "birch"}, {"seated-turn", "left", "ash"}, {"plank-counter", "", "ash"}, {"hip-hinge-dowel", "", "birch"},
	} {
		q := sequence(t, c.slug, c.side)
		got := q.Phase(q.Effort(), figure.Options{Build: c.build, Title: c.slug})
		file := filepath.Join("testdata", c.slug+".svg")
		if *update {
			require.NoError(t, os.WriteFile(file, []byte(got), 0o644))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.Equal(t, string(want), got, "%s changed: look at it, then run go test ./figure -update", c.slug)
	}
}

// The words of a mark stay inside a narrow picture of somebody standing.
func TestMarksHaveRoomForTheirWords(t *testing.T) {
	q := sequence(t, "palms-turn", "left")
	width := func(m *figure.Mark) (w float64) {
		var x, y, h float64
		svg := q.Phase(1, figure.Options{Mark: m})
		_, box, _ := strings.Cut(svg, `viewBox="`)
		_, err := fmt.Sscanf(box, "%g %g %g %g", &x, &y, &w, &h)
		require.NoError(t, err)
		return w
	}
	text := "whole trunk turns under load"
	assert.Equal(t, width(nil), width(&figure.Mark{At: "trunk", Text: "28°"}), "short words change nothing")
	assert.GreaterOrEqual(t, width(&figure.Mark{At: "trunk", Text: text}), 7.0*float64(len(text)))
}

func TestEveryFigureIsSmallAndWellFormed(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, err := loaded()
	require.NoError(t, err)
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	for _, v := range cat.Versions {
		for _, side := range []string{"", "left", "right"} {
			q := d.Sequence(v, trade.Side(side))
			for i := range q.Phases() {
				svg := q.Phase(i, figure.Options{Title: v.Name, Surface: "bed"})
				var buf bytes.Buffer
				z := gzip.NewWriter(&buf)
				_, err := io.WriteString(z, svg)
				require.NoError(t, err)
				require.NoError(t, z.Close())
				assert.Less(t, buf.Len(), 12<<10, v.Slug)
				wellFormed(t, v.Slug, svg)
				assert.NotContains(t, svg, "NaN", v.Slug)
			}
		}
	}
}

// The left and the right of a sided version are mirror images, not the same picture.
func TestSidesDiffer(t *testing.T) {
	l, r := sequence(t, "clam", "left"), sequence(t, "clam", "right")
	assert.NotEqual(t, l.Phase(1, figure.Options{}), r.Phase(1, figure.Options{}))
	l, r = sequence(t, "bridge", "left"), sequence(t, "bridge", "right")
	assert.Equal(t, l.Phase(1, figure.Options{}), r.Phase(1, figure.Options{}))
}

func TestTitlesAreEscaped(t *testing.T) {
	q := sequence(t, "bridge", "")
	assert.Contains(t, q.Phase(0, figure.Options{Title: "<b>&"}), "&lt;b&gt;&amp;")
}

// Every thing that is held and every kind of furniture leaves a mark on the picture.
func TestThingsAndFurnitureAreDrawn(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	seen := map[string]bool{}
	for _, v := range cat.Versions {
		q := d.Sequence(v, "")
		for i := range v.Solved.Phases {
			p := &v.Solved.Phases[i]
			with := q.Phase(i, figure.Options{})
			for _, h := range p.Props {
				if h.Kind == "spring" {
					continue
				}
				held := p.Props
				p.Props = nil
				without := d.Sequence(v, "").Phase(i, figure.Options{})
				p.Props = held
				if h.Kind == "cushion" && len(h.At) == 1 {
					assert.Contains(t, with, "#d9c9d2", "%s: the cushion is not drawn", v.Slug)
				} else {
					assert.Greater(t, strings.Count(with, "<path"), strings.Count(without, "<path"), "%s: the %s is not drawn", v.Slug, h.Kind)
				}
				seen[h.Kind] = true
			}
		}
	}
	for _, kind := range []string{"dowel", "ball", "ring", "dumbbell", "band", "strap"} {
		assert.True(t, seen[kind], kind)
	}
	for slug, colour := range map[string]string{"plank-wall": "#ece5d8", "curve-breathe-arc": "#b7a2b0", "plank-ball": "#9db8b4", "sit-to-stand-high": "#b7a2b0", "raised-back-2": "#b7a2b0"} {
		q := sequence(t, slug, "")
		assert.Contains(t, q.Phase(0, figure.Options{}), colour, slug)
	}
	q := sequence(t, "hundred-spring", "")
	assert.NotEqual(t, q.Phase(0, figure.Options{Surface: "spring-carriage"}), q.Phase(0, figure.Options{Surface: "mat"}))
}

// The line of the back is coloured where it has moved since the start of the round, not
// where it is merely bent.
func TestRegionsAreColouredByChange(t *testing.T) {
	const moved = `stroke="#e9b44c"`
	for slug, want := range map[string][2]int{ // coloured regions at the start and in the effort
		"cat-cow-chair":       {0, 3},
		"plank-limb-lift":     {0, 0}, // the neck is held, it does not move
		"leg-stretch-head-up": {0, 0}, // the curl stays
		"roll-down-half":      {0, 3},
		"seated-turn":         {0, 0}, // from the front nobody sees the back
	} {
		q := sequence(t, slug, "")
		assert.Equal(t, want[0], strings.Count(q.Phase(0, figure.Options{}), moved), "%s at the start", slug)
		assert.Equal(t, want[1], strings.Count(q.Phase(q.Effort(), figure.Options{}), moved), "%s in the effort", slug)
	}
}

// A soft ball keeps its size and lies on both thighs.
func TestTheBallTouchesTheThighs(t *testing.T) {
	cat, err := loaded()
	require.NoError(t, err)
	v, _ := cat.Version("ball-squeeze")
	const ball, thigh = 0.10, 0.07 // radii, m
	var widths []float64
	for i := range v.Solved.Phases {
		p := v.Solved.Phases[i].Pose()
		b := body.NewBody(body.Female, 0)
		var f body.Frames
		b.Place(&p.State, &f)
		mid := b.Point(&f, "palm.left").Lerp(b.Point(&f, "palm.right"), 0.5)
		for _, side := range []string{".left", ".right"} {
			hip, knee := b.Point(&f, "hip"+side), b.Point(&f, "knee"+side)
			along := knee.Sub(hip).Unit()
			d := mid.Sub(hip)
			assert.InDelta(t, ball+thigh, d.Sub(along.Scale(d.Dot(along))).Len(), 0.02, "%s%s", v.Phases[i].Name, side)
		}
		svg := sequence(t, "ball-squeeze", "").Phase(i, figure.Options{})
		drawn := regexp.MustCompile(`d="M([-\d. C]+)Z" fill="#9db8b4"`).FindStringSubmatch(svg)
		require.NotNil(t, drawn)
		lo, hi := math.Inf(1), math.Inf(-1)
		for k, n := range strings.Fields(strings.ReplaceAll(drawn[1], "C", " ")) {
			if x, err := strconv.ParseFloat(n, 64); assert.NoError(t, err) && k%2 == 0 {
				lo, hi = math.Min(lo, x), math.Max(hi, x)
			}
		}
		widths = append(widths, hi-lo)
	}
	assert.InDelta(t, widths[0], widths[1], 0.2, "it does not shrink")
}

// A pair shows two different postures, each once, in one well-formed picture.
func TestPairsShowStartAndEffort(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, err := loaded()
	require.NoError(t, err)
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	for _, v := range cat.Versions {
		svg := d.Sequence(v, "left").Pair(figure.Options{Title: v.Name})
		parts := strings.Split(svg, "<svg ")
		require.Len(t, parts, 4, v.Slug) // nothing, the whole, and two pictures
		assert.Greater(t, len(parts[2]), 2000, v.Slug)
		assert.Greater(t, len(parts[3]), 2000, v.Slug)
		assert.NotEqual(t, parts[2][strings.Index(parts[2], ">"):], parts[3][strings.Index(parts[3], ">"):], v.Slug)
		wellFormed(t, v.Slug, svg)
	}
}

func wellFormed(t *testing.T, name, svg string) {
	t.Helper()
	dec := xml.NewDecoder(strings.NewReader(svg))
	for {
		if _, err := dec.Token(); err == io.EOF {
			return
		} else {
			require.NoError(t, err, name)
		}
	}
}
