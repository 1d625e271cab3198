package catalogue_test

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/measure"
	"restbend/core/say"
)

// A change to an entry needs a new revision, with the old text kept.
func TestEveryEntryMatchesItsFingerprint(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	lock, err := restbend.RevisionLock()
	require.NoError(t, err)
	have := strings.Split(cat.Lock(), "\n")
	want := map[string]bool{}
	for _, l := range strings.Split(lock, "\n") {
		want[l] = true
	}
	for _, l := range have {
		assert.True(t, want[l], "%s\nThis entry changed. Move its old text to core/catalogue/revisions/, raise its revision and run: make revisions", l)
	}
}

// Words may change without a revision, and never silently.
func TestEveryWordMatchesItsFingerprint(t *testing.T) {
	lock, err := restbend.WordsLock()
	require.NoError(t, err)
	assert.Equal(t, lock, whole(t).WordsLock(), "the words of an entry changed: read them once more, then run: make revisions")
}

// What is said is not what an exercise is: every word may change and the fingerprint stays, a pose, a dose, a side or
// the props of an ease may not.
func TestWordsAreNotTheExercise(t *testing.T) {
	v := whole(t)
	for _, v := range v.Versions {
		w := *v
		w.Say = say.Say{Image: "Something else."}
		w.Faults, w.Aliases, w.Eases = nil, nil, nil
		for _, e := range v.Eases {
			e.Say, e.Short, e.Name, e.Instead = "Other words.", "other", "other", map[string]string{"image": "x"}
			w.Eases = append(w.Eases, e)
		}
		require.Equal(t, v.Fingerprint(), w.Fingerprint(), v.Slug)
		require.NotEqual(t, v.WordsFingerprint(), w.WordsFingerprint(), v.Slug)
		w.SideMeans += " x"
		require.NotEqual(t, v.Fingerprint(), w.Fingerprint(), v.Slug)
		w.SideMeans = v.SideMeans
		w.Phases = append(w.Phases[:0:0], v.Phases...)
		w.Phases[0].Pose += "\nlumbar flexion 1"
		require.NotEqual(t, v.Fingerprint(), w.Fingerprint(), v.Slug)
	}
}

func TestOldRevisionsStayReadable(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, err := delivered()
	require.NoError(t, err)
	found := 0
	for _, v := range cat.Versions {
		now, ok := cat.Revision(v.Slug, v.Revision)
		require.True(t, ok)
		assert.Same(t, v, now)
		assert.Len(t, cat.Revisions(v.Slug), v.Revision-1, v.Slug)
		for n := 1; n < v.Revision; n++ {
			old, ok := cat.Revision(v.Slug, n)
			require.True(t, ok, "%s revision %d", v.Slug, n)
			assert.NotEqual(t, v.Fingerprint()+v.WordsFingerprint(), old.Fingerprint()+old.WordsFingerprint(), v.Slug)
			assert.NotEmpty(t, old.Superseded, v.Slug)
			found++
		}
		_, ok = cat.Revision(v.Slug, v.Revision+1)
		assert.False(t, ok)
	}
	assert.Positive(t, found, "some entries have changed since they were first used")
	_, ok := cat.Revision("nothing", 1)
	assert.False(t, ok)

	src, err := restbend.CatalogueSource()
	require.NoError(t, err)
	src.Old = nil
	_, err = catalogue.Read(src)
	assert.ErrorContains(t, err, "revision 1 is not kept in the revisions folder")
	src, err = restbend.CatalogueSource()
	require.NoError(t, err)
	read, err := catalogue.Read(src)
	require.NoError(t, err)
	assert.NoError(t, read.CheckRevisions())
	src.Old["core/catalogue/revisions/x.yaml"] = []byte("- version: clam\n  revision: 9\n  superseeded: now\n")
	read, err = catalogue.Read(src)
	require.NoError(t, err, "old entries are read when somebody asks for them")
	assert.ErrorContains(t, read.CheckRevisions(), "field superseeded not found")
	src.Old["core/catalogue/revisions/x.yaml"] = []byte("- version: clam\n  revision: 9\n")
	read, err = catalogue.Read(src)
	require.NoError(t, err)
	assert.ErrorContains(t, read.CheckRevisions(), "superseded: is missing")
	_, ok = read.Revision("clam", 9)
	assert.False(t, ok, "an old entry that cannot be read is none")
}

func own(t *testing.T) (*catalogue.Catalogue, *catalogue.Version) {
	t.Helper()
	cat, err := delivered()
	require.NoError(t, err)
	v, _ := cat.Version("clam")
	data, err := v.Copy("own-clam-1", "Clam, mine").YAML()
	require.NoError(t, err)
	mine, err := cat.ReadOwn("mine", data)
	require.NoError(t, err)
	return cat, mine
}

// A copy written as a file and read again is the same exercise with the same poses.
func TestAnOwnVersionTravelsAsAFile(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, mine := own(t)
	s, found, err := measure.NewSolver().Solve(mine, nil, true)
	require.NoError(t, err)
	assert.Empty(t, found)
	mine.Attach(s)
	clam, _ := cat.Version("clam")
	assert.InDelta(t, clam.Quantities["hip.flexion.right"].Value, mine.Quantities["hip.flexion.right"].Value, 0.1)
	doc, err := json.Marshal(s)
	require.NoError(t, err)
	back := &catalogue.Solved{}
	require.NoError(t, json.Unmarshal(doc, back))
	assert.True(t, mine.Fits(back))
	mine.Phases[1].Pose += "\nhip.right abduction 20"
	assert.False(t, mine.Fits(back), "another text needs another solve")
}

// With adds own versions on branches of their own and leaves the shared catalogue alone.
func TestWithAddsToACopy(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	cat, mine := own(t)
	before := len(cat.Versions)
	s, _, err := measure.NewSolver().Solve(mine, nil, false)
	require.NoError(t, err)
	assert.Equal(t, before, len(cat.With([]*catalogue.Version{mine}).Versions), "unsolved versions are not used")
	mine.Attach(s)
	all := cat.With([]*catalogue.Version{mine})
	assert.Len(t, all.Versions, before+1)
	assert.Len(t, cat.Versions, before)
	_, ok := cat.Version("own-clam-1")
	assert.False(t, ok)
	got, ok := all.Version("own-clam-1")
	require.True(t, ok)
	assert.Nil(t, all.Next(got))
	assert.Nil(t, all.Previous(got))
	f, _ := all.Family("side-leg")
	assert.Equal(t, []string{"own-clam-1"}, f.Branches[len(f.Branches)-1])
	shared, _ := cat.Family("side-leg")
	assert.Len(t, f.Branches, len(shared.Branches)+1)
	clam, _ := all.Version("clam")
	assert.Equal(t, "clam-lifted", all.Next(clam).Slug, "the ladder is as it was")
	assert.Same(t, cat, cat.With(nil))
}

// What is wrong with an own version is named; what can be read is kept.
func TestMistakesInOwnVersionsAreNamed(t *testing.T) {
	cat, mine := own(t)
	good, err := mine.YAML()
	require.NoError(t, err)
	for change, want := range map[[2]string]string{
		{"own-clam-1", "clam"}:                           "allowed: own- and up to 60",
		{"own-clam-1", "own-../../clients/1/delete?x"}:   "small letters, digits and hyphens",
		{"own-clam-1", "own-" + strings.Repeat("x", 61)}: "up to 60",
		{"family: side-leg", "family: juggling"}:         `unknown family "juggling"`,
		{"effort: 3", "effort: 30"}:                      "found 30, allowed: 1 to 10",
		{"hip.right flexion 45", "hip.right wave 45"}:    "unknown joint or motion",
		{"from closed", "from nowhere"}:                  "neither a base nor an earlier phase",
		{"position: side", "position: hanging"}:          `found "hanging", allowed: supine`,
		{"reps: side-reps", "reps: endless"}:             `unknown dose ladder "endless"`,
		{"Clam, mine", ""}:                               "name",
	} {
		v, err := cat.ReadOwn("mine", []byte(strings.ReplaceAll(string(good), change[0], change[1])))
		assert.ErrorContains(t, err, want, change[0])
		assert.NotNil(t, v, "nothing typed is lost")
	}
	for text, want := range map[string]string{
		"":                          "holds 0 exercises",
		"- version: a\n- b":         "",
		"{}":                        "",
		"- colour: red":             "field colour not found",
		string(good) + string(good): "",
	} {
		_, err := cat.ReadOwn("mine", []byte(text))
		assert.Error(t, err, text)
		if want != "" {
			assert.ErrorContains(t, err, want)
		}
	}
}

func FuzzReadOwn(f *testing.F) {
	cat, err := delivered()
	require.NoError(f, err)
	v, _ := cat.Version("one-leg")
	data, err := v.Copy("own-one-leg-1", "Mine").YAML()
	require.NoError(f, err)
	f.Add(data)
	f.Add([]byte("- version: own-x\n  phases: [{name: a, pose: \"from standing\"}]"))
	f.Fuzz(func(t *testing.T, data []byte) {
		v, err := cat.ReadOwn("fuzz", data)
		if err == nil && (v == nil || !strings.HasPrefix(v.Slug, catalogue.OwnPrefix)) {
			t.Fatal("an own version without its name was accepted")
		}
	})
}

// Paths are packed and unpacked without loss.
func TestPathsSurvivePacking(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.SampledFrom(cat.Versions).Draw(t, "version")
		require.Len(t, v.Solved.Frames(), len(v.Phases))
		for i, path := range v.Solved.Frames() {
			states := path.States()
			if len(states) < 6 {
				t.Fatalf("%s: %d frames after phase %d", v.Slug, len(states), i)
			}
			from, to := v.Solved.Phases[i].State, v.Solved.Phases[v.Next(i)].State
			first, last := states[0], states[len(states)-1]
			for k := range from {
				lo, hi := min(from[k], to[k])-700, max(from[k], to[k])+700 // 7 degrees, 7 cm of settling
				if k > 6 && (first[k] < lo || first[k] > hi || last[k] < lo || last[k] > hi) {
					t.Fatalf("%s: angle %d leaves the way between its phases", v.Slug, k-7)
				}
			}
		}
	})
	assert.Empty(t, catalogue.Path{0x80}.States(), "a broken path ends, it does not panic")
}

// An own version is no way round a limit: easier, lighter or without what it declares only
// with a written reason; and never as walking.
func TestAnOwnVersionCannotSayLess(t *testing.T) {
	cat, err := delivered()
	require.NoError(t, err)
	copyOf := func(slug string) string {
		v, ok := cat.Version(slug)
		require.True(t, ok)
		data, err := v.Copy("own-mine", "Mine").YAML()
		require.NoError(t, err)
		return string(data)
	}
	effort := func(n int) func(string) string {
		return func(s string) string {
			return regexp.MustCompile(`effort: \d+`).ReplaceAllString(s, fmt.Sprintf("effort: %d", n))
		}
	}
	without := func(line string) func(string) string {
		return func(s string) string {
			return regexp.MustCompile(`(?m)^ *`+line+`.*\n( +- .*\n)*`).ReplaceAllString(s, "")
		}
	}
	with := func(line string) func(string) string {
		return func(s string) string { return strings.Replace(s, "  effort:", "  "+line+"\n  effort:", 1) }
	}
	for _, row := range []struct {
		name, slug string
		change     []func(string) string
		want       string // empty: sound
	}{
		{"as it is", "swim", nil, ""},
		{"harder", "swim", []func(string) string{effort(7)}, ""},
		{"easier", "swim", []func(string) string{effort(1)}, "effort: found 1, allowed: 6 or more as swim has it"},
		{"a copy of nothing", "swim", []func(string) string{effort(1), without("copies:")}, "as swim has it"},
		{"a copy of something else", "swim", []func(string) string{effort(1), without("copies:"), with("copies: prone-rest")}, "as swim has it"},
		{"a posture a little changed, a copy of something easy", "swim", []func(string) string{effort(1), without("copies:"), with("copies: prone-rest"), func(s string) string {
			return regexp.MustCompile(`thoracic extension \d+`).ReplaceAllString(s, "thoracic extension 3")
		}}, "as swim has it"},
		{"not quick", "swim", []func(string) string{without("declared:"), with("declared: []")}, `declared: found no "quick"`},
		{"with a reason", "swim", []func(string) string{effort(1), with("lighter: the arms rest and only the breath moves")}, ""},
		{"with an empty reason", "swim", []func(string) string{effort(1), with(`lighter: "  "`)}, "effort: found 1"},
		{"a lighter bag", "carry-one-side", []func(string) string{func(s string) string {
			return strings.ReplaceAll(s, "hold dumbbell palm.left 4", "hold dumbbell palm.left 1")
		}}, "found 1 kg, allowed: 4 kg or more"},
		{"a heavier bag", "carry-one-side", []func(string) string{func(s string) string {
			return strings.ReplaceAll(s, "hold dumbbell palm.left 4", "hold dumbbell palm.left 5")
		}}, ""},
		{"a stand called walking", "one-leg", []func(string) string{with("walking: true")}, "walking: found true"},
		{"a stand called walking, with a reason", "one-leg", []func(string) string{with("walking: true"), with("lighter: we walk round the room")}, "walking: found true"},
		{"a copy of one with the same postures", "bridge", nil, ""},
	} {
		text := copyOf(row.slug)
		for _, change := range row.change {
			changed := change(text)
			require.NotEqual(t, text, changed, row.name)
			text = changed
		}
		_, err := cat.ReadOwn("mine", []byte(text))
		if row.want == "" {
			assert.NoError(t, err, row.name)
			continue
		}
		assert.ErrorContains(t, err, row.want, row.name)
	}
}
