package web_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/figure"
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

// A film holds every phase of a round, with its breath, its time and where it lies among the
// moments; eases, other surfaces and the other side move too.
func TestFilmsHoldEveryPhase(t *testing.T) {
	p := start(t, true).signIn()
	seen := map[string]bool{}
	for _, path := range []string{"cat-cow/film?side=left", "easy-walk/film?side=left", "anti-rotation-press/film?side=left", "anti-rotation-press/film?side=right", "spring-leg-circle/film", "long-spine-wall/film",
		"bird-dog/film?side=left", "bird-dog/film?side=left&ease=fists", "bird-dog/film?side=left&build=birch"} {
		code, body := p.do("GET", "/figures/"+path, nil)
		require.Equal(t, 200, code, path)
		assert.False(t, seen[body], "%s looks like another", path)
		seen[body] = true
		var film figure.Film
		require.NoError(t, json.Unmarshal([]byte(body), &film), path)
		assert.GreaterOrEqual(t, len(film.Moments), 30, path)
		assert.LessOrEqual(t, len(film.Moments), 50, path)
		assert.Contains(t, film.Floor, "<path", path)
		total := 0.0
		for _, ph := range film.Phases {
			assert.Contains(t, []string{"in", "out"}, ph.Breath, path)
			assert.NotEmpty(t, ph.Name, path)
			total += ph.Move + ph.Stay
		}
		assert.Greater(t, total, 1.5, "%s: too quick to follow", path)
		assert.Less(t, total, 30.0, "%s: too slow to watch", path)
		assert.Positive(t, film.ViewBox[2]*film.ViewBox[3], path)
	}
	code, _ := p.do("GET", "/figures/bird-dog/film?ease=wings", nil)
	assert.Equal(t, 404, code)
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
