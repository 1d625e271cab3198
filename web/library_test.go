package web_test

import (
	"bytes"
	"fmt"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"restbend/demo"
)

func TestTheLibraryFindsByNameAliasAndFilter(t *testing.T) {
	p := start(t, true).signIn()
	for query, want := range map[string]string{
		"":                                 "224 of 224 exercises in 57 families",
		"?q=sphinx":                        "2 of 224",
		"?q=pelvic+clock":                  "5 of 224",
		"?q=zzz":                           "0 of 224",
		"?surface=spring-carriage":         "5 of 224",
		"?kit=raised-pad":                  "4 of 224",
		"?q=saw&direction=turn":            "of 224",
		"?position=half-kneeling":          "2 of 224",
		"?aim=balance&chain=pseudo-closed": "of 224",
	} {
		code, page := p.do("GET", "/library"+query, nil)
		assert.Equal(t, 200, code, query)
		assert.Contains(t, page, want, query)
	}
	_, page := p.do("GET", "/library?q=zzz", nil)
	assert.Contains(t, page, "Nothing matches")
	// Other names of the trade say where they lead, here and where a client is screened.
	for _, path := range []string{"/library?q=cobra", "/clients/1/verdicts?q=cobra"} {
		_, page = p.do("GET", path, nil)
		assert.Contains(t, page, `<strong>cobra</strong> leads to <a href="/library/prone-press-hands">Press up on the hands</a>`, path)
		assert.Contains(t, page, "5 of 224", path)
	}
	_, page = p.do("GET", "/library?q=donkey+kick", nil)
	assert.Contains(t, page, "the leg goes long and low here, never up")
	// Staircases say where one may begin and what opens the rest.
	_, page = p.do("GET", "/library?q=bridge-march", nil)
	assert.Contains(t, page, "Opens after: Bridge, 3 x 10 easy")
	assert.Contains(t, page, "A place to start")
	_, page = p.do("GET", "/library?begin=behind+a+gate&q=bridge", nil)
	assert.NotContains(t, page, `<li><a href="/library/bridge-low">`)
	_, part := p.do("GET", "/library?direction=arch", nil, "HX-Request", "true")
	assert.NotContains(t, part, "<html", "only the families come back")
	assert.Contains(t, part, "Arch and return, sitting")
	assert.Contains(t, part, `class="dim"`, "steps that do not match stay on the ladder, dimmed")
	// A filter never shows a family without a match.
	_, part = p.do("GET", "/library?direction=bend&position=standing", nil, "HX-Request", "true")
	assert.Contains(t, part, "Standing roll-down")
	assert.NotContains(t, part, "Forearm plank")
}

func TestAnEntryShowsEverythingKnown(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/library/bird-dog", nil)
	for _, want := range []string{"Opposite reach on all fours", "Also called bird dog", "about a third of body weight on", "Gravity asks of the low back", "Six directions of the spine",
		"easier:", "harder:", "Swaps that keep the purpose", "For a real task", "the same kind of chain", "Show left", "Doses, lowest first", "Revision", "On a chair", "stated limits"} {
		assert.Contains(t, strings.ToLower(page), strings.ToLower(want))
	}
	_, left := p.do("GET", "/library/bird-dog?side=left", nil)
	assert.Contains(t, left, "Shown: left")
	assert.Contains(t, left, "/figures/bird-dog/film?side=left")
	_, page = p.do("GET", "/library/plank-breaths", nil)
	assert.Contains(t, page, "Measures like Forearm plank")
	code, page := p.do("GET", "/library/nothing", nil)
	assert.Equal(t, 404, code)
	assert.Contains(t, page, "There is no such exercise")
	_, page = p.do("GET", "/library/roll-down-standing", nil)
	assert.Contains(t, page, "keeps the rounding with the hands on the floor")
}

// Every entry, on both sides, and a comparison with its neighbour can be opened.
func TestEveryEntryOpens(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	_, list := p.do("GET", "/library", nil)
	slugs := regexp.MustCompile(`href="/library/([a-z0-9-]+)"`).FindAllStringSubmatch(list, -1)
	seen := map[string]bool{}
	last := "clam"
	for _, m := range slugs {
		slug := m[1]
		if seen[slug] || slug == "model" {
			continue
		}
		seen[slug] = true
		code, page := p.do("GET", "/library/"+slug+"?side=left", nil)
		assert.Equal(t, 200, code, slug)
		assert.NotContains(t, page, "ZgotmplZ", slug)
		assert.NotContains(t, page, "(withdrawn)", slug)
		code, _ = p.do("GET", fmt.Sprintf("/library/compare?a=%s&b=%s", slug, last), nil)
		assert.Equal(t, 200, code, slug)
		last = slug
	}
	assert.Len(t, seen, 224)
}

func TestTwoVersionsAreCompared(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/library/compare?a=plank-knees&b=plank", nil)
	assert.Contains(t, page, "6 of 10")
	assert.Contains(t, page, "8 of 10")
	assert.Contains(t, page, "differs")
	assert.Contains(t, page, "asks of the low back")
	code, _ := p.do("GET", "/library/compare?a=plank&b=nothing", nil)
	assert.Equal(t, 404, code)
	_, page = p.do("GET", "/library/model", nil)
	assert.Contains(t, page, "What the numbers cannot tell")
	assert.Contains(t, page, "not compression")
}

func TestOldRevisionsAreShown(t *testing.T) {
	p := start(t, true).signIn()
	_, page := p.do("GET", "/library/clock-cross", nil)
	assert.Contains(t, page, "/library/clock-cross/revisions/1")
	_, page = p.do("GET", "/library/clock-cross/revisions/1", nil)
	assert.Contains(t, page, "the chair answer became a version of the same family")
	for _, path := range []string{"/library/clock-cross/revisions/9", "/library/clock-cross/revisions/x", "/library/nothing/revisions/1"} {
		code, page := p.do("GET", path, nil)
		assert.Equal(t, 404, code, path)
		assert.Contains(t, page, "There is no such revision")
	}
}

// form reads the bench of an own version as it would be sent back.
func (p *practice) form(path string) url.Values {
	_, page := p.do("GET", path, nil)
	v := url.Values{}
	for _, m := range regexp.MustCompile(`<input class="form-control[^"]*" id="[^"]*" name="([^"]+)"[^>]*value="([^"]*)"`).FindAllStringSubmatch(page, -1) {
		v.Add(m[1], htmlText(m[2]))
	}
	for _, m := range regexp.MustCompile(`(?s)<textarea[^>]*name="([^"]+)"[^>]*>(.*?)</textarea>`).FindAllStringSubmatch(page, -1) {
		v.Set(m[1], htmlText(m[2]))
	}
	for _, m := range regexp.MustCompile(`(?s)<select[^>]*name="([^"]+)">(.*?)</select>`).FindAllStringSubmatch(page, -1) {
		if s := regexp.MustCompile(`value="([^"]*)" selected`).FindStringSubmatch(m[2]); s != nil {
			v.Set(m[1], s[1])
		}
	}
	for _, m := range regexp.MustCompile(`<input type="checkbox" name="([^"]+)" value="yes" checked>`).FindAllStringSubmatch(page, -1) {
		v.Set(m[1], "yes")
	}
	return v
}

func htmlText(s string) string {
	return strings.NewReplacer("&#34;", `"`, "&#39;", "'", "&amp;", "&", "&lt;", "<", "&gt;", ">").Replace(s)
}

// From copy to client: an own version is made, looked at, kept as a draft while it is
// unsound, used once it is sound, and screened like any other.
func TestAnInstructorMakesTheirOwnVersion(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	_, page := p.do("POST", "/library/side-leg-hold/copy", url.Values{})
	require.Contains(t, page, "Draft, not used for clients")
	assert.Contains(t, page, "every check passes")
	path := "/own/1"
	f := p.form(path)
	require.Contains(t, f.Get("phase.1.pose"), "hip.right abduction 24")
	require.NotEmpty(t, f.Get("dose.breaths"))

	// Looking changes nothing.
	f.Set("phase.1.pose", strings.Replace(f.Get("phase.1.pose"), "abduction 24", "abduction 16", 1))
	_, part := p.do("POST", path+"/check", f, "HX-Request", "true")
	assert.NotContains(t, part, "<html")
	assert.Contains(t, part, "data:image/svg")
	_, page = p.do("GET", path, nil)
	assert.Contains(t, page, "abduction 24")

	// A mistake is named and kept as a draft only; nothing typed is lost.
	bad := url.Values{}
	for k, v := range f {
		bad[k] = v
	}
	bad.Set("phase.1.pose", "from low\nhip.right wave 20")
	bad.Set("as", "use")
	_, page = p.do("POST", path, bad)
	assert.Contains(t, page, "draft only")
	assert.Contains(t, page, "hip.right wave 20")
	assert.Contains(t, page, "unknown joint or motion")
	// A body that objects is a draft only, too.
	bad.Set("phase.1.pose", "from low\nhip.right abduction 24\nheight pelvis 60")
	_, page = p.do("POST", path, bad)
	assert.Contains(t, page, "The body objects")
	assert.Contains(t, page, "draft only")
	_, page = p.do("GET", "/library?q=own", nil)
	assert.NotContains(t, page, "own-side-leg-hold")

	// Sound: in use, and screened for every client of this account.
	f.Set("name", "Low side leg for Oda")
	f.Set("cue_out", "Float it a little.")
	f.Set("as", "use")
	_, page = p.do("POST", path, f)
	require.Contains(t, page, "In use as revision 1")
	_, page = p.do("GET", "/clients/1/verdicts?q=low+side+leg+for+oda", nil)
	assert.Contains(t, page, "1 of 225 exercises")
	_, page = p.do("GET", "/clients/1/verdicts/own-side-leg-hold-1", nil)
	assert.Contains(t, page, "Float it a little.")
	code, svg := p.do("GET", "/figures/own-side-leg-hold-1.svg", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, svg, "<svg")

	// The next change is a new revision; the first stays readable.
	f.Set("cue_out", "Float it lower still.")
	_, page = p.do("POST", path, f)
	assert.Contains(t, page, "In use as revision 2")
	_, page = p.do("GET", "/library/own-side-leg-hold-1/revisions/1", nil)
	assert.Contains(t, page, "Float it a little.")

	// Out as a file, in again as a draft, and withdrawn.
	_, file := p.do("GET", path+"/export", nil)
	var entries []map[string]any
	require.NoError(t, yaml.Unmarshal([]byte(file), &entries))
	assert.Equal(t, "Low side leg for Oda", entries[0]["name"])
	page = p.upload(t, "/own/import", file)
	assert.Contains(t, page, "Draft, not used for clients")
	assert.Contains(t, page, "Float it lower still.")
	_, page = p.do("POST", path+"/withdraw", url.Values{})
	assert.Contains(t, page, "Draft, not used for clients")
	_, page = p.do("GET", "/clients/1/verdicts", nil)
	assert.Contains(t, page, "of 224 exercises")
	_, page = p.do("GET", "/own", nil)
	assert.Equal(t, 2, strings.Count(page, "draft, not used for clients"))
}

func (p *practice) upload(t *testing.T, path, content string) string {
	t.Helper()
	var buf bytes.Buffer
	w := multipart.NewWriter(&buf)
	part, err := w.CreateFormFile("file", "mine.yaml")
	require.NoError(t, err)
	_, err = part.Write([]byte(content))
	require.NoError(t, err)
	require.NoError(t, w.Close())
	r, err := http.NewRequest("POST", p.url+path, &buf)
	require.NoError(t, err)
	r.Header.Set("Content-Type", w.FormDataContentType())
	_, page := p.send(r)
	return page
}

func TestBadFilesAreRefusedByName(t *testing.T) {
	p := start(t, true).signIn()
	for content, want := range map[string]string{
		"colour: red":                         "cannot be read",
		"- colour: red":                       "field colour not found",
		"":                                    "holds 0 exercises",
		strings.Repeat("# long\n", 300<<10/7): "larger than",
	} {
		page := p.upload(t, "/own/import", content)
		assert.Contains(t, page, "That file cannot be read")
		assert.Contains(t, page, want)
	}
	code, page := p.do("POST", "/own/import", url.Values{})
	assert.Equal(t, 422, code)
	assert.Contains(t, page, "none was chosen")
	for _, path := range []string{"/own/77", "/own/x", "/own/77/export"} {
		code, _ := p.do("GET", path, nil)
		assert.Equal(t, 404, code, path)
	}
	for _, path := range []string{"/own/77", "/own/77/check", "/own/77/withdraw", "/library/nothing/copy"} {
		code, _ := p.do("POST", path, url.Values{})
		assert.Equal(t, 404, code, path)
	}
}

// Own versions belong to one account.
func TestOwnVersionsArePrivate(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	p.do("POST", "/library/clam/copy", url.Values{})
	f := p.form("/own/1")
	f.Set("as", "use")
	_, page := p.do("POST", "/own/1", f)
	require.Contains(t, page, "In use as revision 1")
	p.do("POST", "/sign-out", url.Values{})
	_, page = p.do("GET", "/own/1", nil)
	assert.Contains(t, page, "Password")
	assert.NotContains(t, page, "Clam, own")
	_, page = p.do("POST", "/sign-in", url.Values{"name": {demo.Name}, "password": {"wrong"}})
	assert.NotContains(t, page, "Clam, own")
}

// An own version solved by an older program is solved again by itself; one that no longer
// passes is left out, its words kept.
func TestOwnVersionsSurviveANewSolver(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	p := start(t, true).signIn()
	p.do("POST", "/library/clam/copy", url.Values{})
	f := p.form("/own/1")
	f.Set("as", "use")
	_, page := p.do("POST", "/own/1", f)
	require.Contains(t, page, "In use as revision 1")
	_, err := p.store.DB.Exec(`UPDATE own_versions SET solved = '{"key":"older"}'`)
	require.NoError(t, err)
	p.do("POST", "/library/bridge/copy", url.Values{}) // a second one: the catalogue is made anew after it is used
	g := p.form("/own/2")
	g.Set("as", "use")
	p.do("POST", "/own/2", g)
	_, page = p.do("GET", "/library", nil)
	assert.Contains(t, page, "226 of 226 exercises")
	var solved string
	require.NoError(t, p.store.DB.QueryRow(`SELECT solved FROM own_versions WHERE id = 1`).Scan(&solved))
	assert.NotContains(t, solved, "older")

	_, err = p.store.DB.Exec(`UPDATE own_versions SET solved = '{"key":"older"}', document = replace(document, 'hip.right abduction 18', 'height pelvis 70') WHERE id = 1`)
	require.NoError(t, err)
	g.Set("cue_image", "A drawbridge of feathers.")
	p.do("POST", "/own/2", g)
	_, page = p.do("GET", "/library", nil)
	assert.Contains(t, page, "225 of 225 exercises")
	_, page = p.do("GET", "/own/1", nil)
	assert.Contains(t, page, "height pelvis 70", "nothing typed is lost")
}

// An entry says what opens it, what is done with a hold, what shaking means, what helps and
// what does instead; its picture marks where it is felt.
func TestAnEntrySaysHowItIsUsed(t *testing.T) {
	p := start(t, true).signIn()
	for slug, want := range map[string][]string{
		"squat-half":              {"Standing with a hold: Half squat, fingertips of both hands on a counter", "Opens after: "},
		"clam":                    {"A place to start", "<dt>Helps</dt><dd>pillow (or a folded blanket or jacket)</dd>", "If it shakes", `src="/figures/clam.svg?felt=1&amp;side=right"`},
		"dead-bug-band":           {"Check the band for cracks"},
		"imprint-calves-on-chair": {"change: calves on firm cushions instead of a chair"},
		"bird-dog":                {"6-4-2 times each way, hold 10 s", "back strength, anti"},
	} {
		_, page := p.do("GET", "/library/"+slug, nil)
		for _, w := range want {
			assert.Contains(t, page, w, slug)
		}
	}
	_, chair := p.do("GET", "/figures/levels-waist.svg?surface=mat", nil)
	_, bed := p.do("GET", "/figures/levels-waist.svg?surface=bed", nil)
	assert.NotEqual(t, chair, bed, "on a bed it is drawn with cushions")
}
