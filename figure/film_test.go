package figure_test

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/figure"
)

// asDone are a version as it is, with each ease, and on each surface where it is done otherwise.
func asDone(v *catalogue.Version) map[string]*catalogue.Version {
	out := map[string]*catalogue.Version{v.Slug: v}
	for i := range v.Eases {
		if e, ok := v.Eased(v.Eases[i].Slug); ok {
			out[v.Slug+"/"+v.Eases[i].Slug] = e
		}
	}
	for surface := range v.On {
		out[v.Slug+"/"+string(surface)] = v.At(surface)
	}
	return out
}

// Every film loads at once, the eye can follow it, nobody skates, nothing comes or goes by
// itself, and everything that touches the ground says so in every picture.
func TestEveryFilm(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, err := loaded()
	require.NoError(t, err)
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	var sizes []int
	for _, v := range cat.Versions {
		for label, variant := range asDone(v) {
			q := d.Sequence(variant, "")
			f := q.Film(figure.Options{})
			n, ids := 0, map[string]bool{}
			var shadows []int // where the alphas of what touches the ground lie
			for _, p := range f.Parts {
				assert.False(t, ids[p.ID], "%s: two parts called %s", label, p.ID)
				ids[p.ID] = true
				for _, k := range p.Points {
					n += 2 * k
				}
				if p.Fade {
					if strings.HasPrefix(p.ID, "touch") {
						shadows = append(shadows, n)
					}
					n++
				}
			}
			require.NotEmpty(t, shadows, label)
			var still [4]float64
			_, box, _ := strings.Cut(q.Phase(0, figure.Options{}), `viewBox="`)
			_, err := fmt.Sscanf(box, "%g %g %g %g", &still[0], &still[1], &still[2], &still[3])
			require.NoError(t, err)
			sum, fills := make([]int, n), 0.0
			for k, m := range f.Moments {
				require.Len(t, m, n, "%s: moment %d", label, k)
				for i := range m {
					sum[i] += m[i]
				}
				at, lo, hi := 0, [2]float64{1e9, 1e9}, [2]float64{-1e9, -1e9}
				for _, p := range f.Parts {
					points := 0
					for _, n := range p.Points {
						points += 2 * n
					}
					for i := range points {
						x := float64(sum[at+i]) / float64(f.Scale)
						lo[i%2], hi[i%2] = min(lo[i%2], x), max(hi[i%2], x)
					}
					at += points
					if p.Fade {
						at++
					}
				}
				frame := f.ViewBox
				if slices.ContainsFunc(f.Phases, func(p figure.FilmPhase) bool { return p.At == k }) {
					frame = still
				}
				for i := range 2 {
					assert.GreaterOrEqual(t, lo[i], frame[i], "%s: cut off in moment %d", label, k)
					assert.LessOrEqual(t, hi[i], frame[i]+frame[i+2], "%s: cut off in moment %d", label, k)
				}
				fills = max(fills, (hi[0]-lo[0])/f.ViewBox[2], (hi[1]-lo[1])/f.ViewBox[3])
				seen := 0
				for _, i := range shadows {
					if sum[i] > 0 {
						seen++
					}
				}
				assert.Positive(t, seen, "%s: no shadow in moment %d", label, k)
			}
			assert.Greater(t, fills, 0.7, "%s: small in its frame", label)
			for i, p := range f.Phases {
				assert.Greater(t, p.To, p.At, label)
				assert.Positive(t, p.Move, label)
				assert.Equal(t, variant.Phases[i].Name, p.Name, label)
			}
			assert.GreaterOrEqual(t, len(f.Moments), 30, label)
			assert.Less(t, q.LargestJump(&f, 30).Metres, 0.03, label)
			drift, where := q.LargestDrift()
			assert.LessOrEqual(t, drift, 0.02, "%s: %s", label, where)

			text, err := json.Marshal(f)
			require.NoError(t, err)
			var small bytes.Buffer
			z := gzip.NewWriter(&small)
			_, err = z.Write(text)
			require.NoError(t, err)
			require.NoError(t, z.Close())
			assert.Less(t, small.Len(), 60<<10, label)
			sizes = append(sizes, small.Len())
		}
	}
	slices.Sort(sizes)
	assert.Less(t, sizes[len(sizes)/2], 30<<10, "the median film")
}

// A film halted at a phase is the still picture of the phase.
func TestAFilmPassesThroughItsPhases(t *testing.T) {
	numbers := func(svg string) (out []float64) {
		for _, d := range regexp.MustCompile(` d="([^"]+)"`).FindAllStringSubmatch(svg, -1) {
			for _, n := range regexp.MustCompile(`-?[\d.]+`).FindAllString(d[1], -1) {
				x, err := strconv.ParseFloat(n, 64)
				require.NoError(t, err)
				out = append(out, x)
			}
		}
		return out
	}
	apart := func(a, b string) (most float64) {
		x, y := numbers(a), numbers(b)
		require.Len(t, y, len(x), "as many points")
		for i := range x {
			most = max(most, math.Abs(x[i]-y[i]))
		}
		return most
	}
	for _, slug := range []string{"clam", "cat-cow", "bird-dog-sweep", "carry-one-side", "roll-down-half", "bridge"} {
		for _, side := range []string{"left", "right"} {
			q := sequence(t, slug, side)
			for i := 0; i+1 < q.Phases(); i++ {
				opt := figure.Options{}
				first, err := q.Between(i, i+1, 0, opt)
				require.NoError(t, err)
				last, err := q.Between(i, i+1, 1, opt)
				require.NoError(t, err)
				half, err := q.Between(i, i+1, 0.5, opt)
				require.NoError(t, err)
				assert.Less(t, apart(q.Phase(i, opt), first), 0.25, "%s %d", slug, i)
				assert.Less(t, apart(q.Phase(i+1, opt), last), 0.25, "%s %d", slug, i+1)
				assert.NotEqual(t, first, half, slug)
				wellFormed(t, slug, half)
			}
			for _, wrong := range [][2]int{{-1, 0}, {0, 9}, {9, 0}} {
				_, err := q.Between(wrong[0], wrong[1], 0, figure.Options{})
				assert.ErrorIs(t, err, figure.ErrNoWay, slug)
			}
			_, err := q.Between(0, 1, 1.1, figure.Options{})
			assert.ErrorIs(t, err, figure.ErrNoWay, slug)
		}
	}
}

// A carriage rides with who lies on it; the plate stays.
func TestTheCarriageRides(t *testing.T) {
	for slug, rides := range map[string]bool{"spring-footwork": true, "spring-footwork-seated": true, "spring-frog": false} {
		f := sequence(t, slug, "").Film(figure.Options{})
		first, last := map[string]int{}, map[string]int{} // x of the first point of a part
		sum := make([]int, len(f.Moments[0]))
		for k := range f.Phases[1].At + 1 {
			at := 0
			for i := range sum {
				sum[i] += f.Moments[k][i]
			}
			for _, p := range f.Parts {
				if k == 0 {
					first[p.ID] = sum[at]
				}
				last[p.ID] = sum[at]
				for _, n := range p.Points {
					at += 2 * n
				}
				if p.Fade {
					at++
				}
			}
		}
		moved := last["carriage0a"] - first["carriage0a"]
		assert.Equal(t, rides, moved < -50, "%s moves %d", slug, moved)
		assert.InDelta(t, last["neck"]-first["neck"], moved, 60, "%s: with the person", slug)
		assert.Contains(t, f.Behind+f.Floor, "<path", slug)
		mat := sequence(t, slug, "").Film(figure.Options{Surface: "mat"})
		assert.NotEqual(t, f.Floor, mat.Floor, slug)
	}
}

// The way in is shown when asked for and left out of the round that repeats.
func TestTheWayInIsNotRepeated(t *testing.T) {
	f := sequence(t, "bird-dog-sweep", "").Film(figure.Options{})
	require.Len(t, f.Phases, 3)
	assert.Equal(t, 1, f.Back, "after the last phase comes the second")
	assert.Greater(t, f.Phases[1].At-f.Phases[0].At, 5)
	assert.Greater(t, f.Phases[2].To-f.Phases[2].At, 5, "and from the sweep back to the reach")
}

// The film faces the way the client does: the other side is the mirrored film.
func TestFilmsOfBothSidesAreMirrored(t *testing.T) {
	for _, slug := range []string{"side-leg-hold", "one-leg", "open-book"} {
		l, r := sequence(t, slug, "left").Film(figure.Options{}), sequence(t, slug, "right").Film(figure.Options{})
		require.Equal(t, len(l.Moments), len(r.Moments), slug)
		assert.NotEqual(t, l.Moments, r.Moments, slug)
		assert.Equal(t, l.Phases, r.Phases, slug)
		assert.InDelta(t, l.ViewBox[2], r.ViewBox[2], 2, "the same size of picture")
	}
}

// Eases and other surfaces move too, and differ from the exercise as it is.
func TestEasesMove(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, err := loaded()
	require.NoError(t, err)
	d := figure.NewDrawer(body.NewBody(body.Female, 0))
	eased, moving := 0, 0
	for _, v := range cat.Versions {
		plain := d.Sequence(v, "").Film(figure.Options{})
		for label, variant := range asDone(v) {
			if label == v.Slug {
				continue
			}
			f := d.Sequence(variant, "").Film(figure.Options{})
			eased++
			if len(f.Moments) == len(plain.Moments) && slices.EqualFunc(f.Moments, plain.Moments, slices.Equal[[]int]) && f.Behind == plain.Behind {
				t.Errorf("%s looks like %s", label, v.Slug)
			}
			if slices.ContainsFunc(f.Moments[1], func(n int) bool { return n != 0 }) {
				moving++
			}
		}
	}
	assert.Greater(t, eased, 150)
	assert.Greater(t, moving, eased*9/10)
}

// The module in the browser is tested on a film that this program makes.
func TestTheBrowsersFilmIsCurrent(t *testing.T) {
	const file = "../web/static_test/film.json"
	want, err := json.Marshal(sequence(t, "cat-cow", "").Film(figure.Options{}))
	require.NoError(t, err)
	if *update {
		require.NoError(t, os.WriteFile(file, want, 0o644))
	}
	got, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(want), string(got), "run go test ./figure -update")
}
