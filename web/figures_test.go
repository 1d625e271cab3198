package web_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Pictures follow side, surface, build and phase; a wrong request is refused plainly.
func TestFiguresFollowWhatIsAsked(t *testing.T) {
	p := start(t, true).signIn()
	get := func(path string) string {
		code, svg := p.do("GET", path, nil)
		require.Equal(t, 200, code, path)
		require.True(t, strings.HasPrefix(svg, "<svg"), path)
		return svg
	}
	plain := get("/figures/side-plank.svg")
	for _, query := range []string{"?side=right", "?build=birch", "?surface=bed", "?phase=1", "?pair=1", "?thumb=1"} {
		assert.NotEqual(t, plain, get("/figures/side-plank.svg"+query), query)
	}
	assert.Equal(t, get("/figures/bridge.svg?side=left"), get("/figures/bridge.svg?side=right"), "no sides, one picture")
	assert.Equal(t, plain, get("/figures/side-plank.svg?phase=99"), "an unknown phase shows the effort")
	assert.Equal(t, plain, get("/figures/side-plank.svg?build=nobody"), "an unknown build is the usual one")
	for _, path := range []string{"/figures/nothing.svg", "/figures/side-plank.svg?side=up", "/figures/nothing/film"} {
		code, body := p.do("GET", path, nil)
		assert.Equal(t, 404, code, path)
		assert.Contains(t, body, "no such figure")
	}
}

// A film is one round: about thirty frames, each with its time, back to the beginning.
func TestFilmsPlayOneRound(t *testing.T) {
	p := start(t, true).signIn()
	for _, slug := range []string{"cat-cow", "easy-walk", "anti-rotation-press", "spring-leg-circle", "long-spine-wall"} {
		code, body := p.do("GET", "/figures/"+slug+"/film?side=left", nil)
		require.Equal(t, 200, code, slug)
		var film struct {
			ViewBox [4]float64
			Frames  []struct {
				SVG, Phase, Breath string
				MS                 int
			}
		}
		require.NoError(t, json.Unmarshal([]byte(body), &film), slug)
		assert.GreaterOrEqual(t, len(film.Frames), 20, slug)
		assert.LessOrEqual(t, len(film.Frames), 50, slug)
		total := 0
		for _, f := range film.Frames {
			assert.Contains(t, []string{"in", "out"}, f.Breath, slug)
			assert.NotEmpty(t, f.Phase, slug)
			assert.NotContains(t, f.SVG, "NaN", slug)
			assert.Positive(t, f.MS, slug)
			total += f.MS
		}
		assert.Greater(t, total, 1500, "%s: too quick to follow", slug)
		assert.Less(t, total, 30000, "%s: too slow to watch", slug)
		assert.Positive(t, film.ViewBox[2]*film.ViewBox[3], slug)
	}
}

// A verdict shows the client's own look, and of two sides one that suits.
func TestVerdictPicturesAreTheClients(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/clients/1/verdicts/side-plank", nil)
	assert.Regexp(t, `/figures/side-plank/film\?build=[a-z]+&amp;side=(left|right)&amp;surface=mat`, page)
	assert.Contains(t, page, "Shown: ")
	// A sore right shoulder: the side plank is shown with the left side down.
	id := p.record(url.Values{"name": {"Nell Harrowby"}, "conditions": {"shoulder-pain"}, "condition.shoulder-pain.side": {"right"}, "surfaces": {"mat", "chair", "counter", "wall"}})
	_, page = p.do("GET", "/clients/"+id+"/verdicts/side-plank-hand", nil)
	assert.Contains(t, page, "Shown: left")
	assert.Contains(t, page, "the sore arm carries no more than a tenth of body weight")
}
