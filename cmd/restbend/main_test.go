package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/demo"
)

var bin string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "restbend-bin-")
	if err != nil {
		panic(err)
	}
	bin = filepath.Join(dir, "restbend")
	if out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

func run(stdin string, args ...string) (code int, stdout, stderr string) {
	cmd := exec.Command(bin, args...)
	cmd.Stdin = strings.NewReader(stdin)
	var o, e bytes.Buffer
	cmd.Stdout, cmd.Stderr = &o, &e
	if err := cmd.Run(); err != nil {
		return cmd.ProcessState.ExitCode(), o.String(), e.String()
	}
	return 0, o.String(), e.String()
}

const examples = "../../docs/formats/examples/"

func TestEveryCommandPrintsOneDocument(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	client, log := examples+"client.json", examples+"log.json"
	for format, args := range map[string][]string{
		"restbend.catalogue/1": {"catalogue", "--json"},
		"restbend.screen/1":    {"screen", "--client", client, "--json"},
		"restbend.plan/1":      {"plan", "--client", client, "--log", log, "--minutes", "30", "--json"},
		"restbend.next/1":      {"next", "--client", client, "--log", log, "--json"},
		"restbend.assess/1":    {"assess", "--client", client, "--results", examples + "results.json", "--json"},
		"restbend.dose/1":      {"dose", "--client", client, "--version", "clam", "--school", "reps", "--json"},
	} {
		code, out, errs := run("", args...)
		require.Zero(t, code, "%v: %s", args, errs)
		assert.Empty(t, errs)
		var doc struct{ Format string }
		d := json.NewDecoder(strings.NewReader(out))
		require.NoError(t, d.Decode(&doc))
		assert.Equal(t, format, doc.Format)
		assert.False(t, d.More(), "one document and nothing else")
	}
}

func TestScreenOfNamedExercises(t *testing.T) {
	code, out, errs := run(`{"format": "restbend.client/1", "conditions": [{"code": "stenosis"}]}`, "screen", "--client", "-", "--exercise", "bridge", "--exercise", "cow-neutral")
	assert.Zero(t, code)
	assert.Equal(t, 2, strings.Count(out, `"verdict"`))
	assert.Contains(t, errs, "today.date is absent", "says which day it used")
}

func TestWrongInputExitsWithTwoAndOneLinePerProblem(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	client := examples + "client.json"
	for name, c := range map[string]struct {
		stdin, want string
		lines       int
		args        []string
	}{
		"two mistakes":        {`{"format": "restbend.client/1", "conditions": [{"code": "sciatica"}], "kitt": []}`, "kitt: unknown field", 2, []string{"screen", "--client", "-"}},
		"a detail of another": {`{"format": "restbend.client/1", "conditions": [{"code": "spondylolisthesis", "grade": 9}]}`, "conditions[0].grade: found 9, allowed: 5 or less", 1, []string{"screen", "--client", "-"}},
		"unknown version":     {"", `unknown version "brige", did you mean "bridge"`, 1, []string{"dose", "--client", client, "--version", "brige"}},
		"unknown school":      {"", "school: found", 1, []string{"dose", "--client", client, "--version", "clam", "--school", "x"}},
		"minutes":             {"", "minutes: found 61, allowed: 2 to 60", 1, []string{"plan", "--client", client, "--minutes", "61"}},
		"kind of session":     {"", `template: found "chair-onli", did you mean "chair-only"`, 1, []string{"plan", "--client", client, "--template", "chair-onli"}},
		"place":               {"", `place: found "roof", allowed: mat, mixed, upright`, 1, []string{"plan", "--client", client, "--place", "roof"}},
		"skill":               {"", `skill: there is no family "dance"`, 1, []string{"plan", "--client", client, "--skill", "dance"}},
		"no file":             {"", "no such file", 1, []string{"screen", "--client", "/nowhere.json"}},
		"no flag":             {"", `required flag(s) "client" not set`, 1, []string{"screen"}},
		"unknown flag":        {"", "unknown flag: --clint", 1, []string{"screen", "--clint", "x"}},
		"a word too many":     {"", `unknown command "now"`, 1, []string{"backup", "now"}},
		"unknown command":     {"", `unknown command "dance"`, 1, []string{"dance"}},
		"phase":               {"", "phase: found 9, allowed: 1 to 2", 1, []string{"figure", "--version", "bridge", "--phase", "9"}},
		"next phase":          {"", "to: found 9, allowed: 1 to 2", 1, []string{"figure", "--version", "bridge", "--to", "9"}},
		"share":               {"", "share: found 1.5, allowed: 0 to 1", 1, []string{"figure", "--version", "bridge", "--share", "1.5"}},
		"ease":                {"", `ease: found "wings", allowed: fists, knees-padded, fists-knees-padded`, 1, []string{"figure", "--version", "bird-dog", "--ease", "wings"}},
		"side":                {"", `side: found "up", allowed: left, right`, 1, []string{"figure", "--version", "clam", "--side", "up"}},
		"a bad log":           {`{"format": "restbend.log/1", "sessions": [{"date": "x", "items": []}]}`, "sessions[0].date", 1, []string{"next", "--client", client, "--log", "-"}},
		"no database":         {"", "no database", 1, []string{"password", "--data", "/nowhere", "--name", "x"}},
	} {
		code, out, errs := run(c.stdin, c.args...)
		assert.Equal(t, 2, code, name)
		assert.Empty(t, out, name)
		assert.Contains(t, errs, c.want, name)
		assert.Equal(t, c.lines, strings.Count(errs, "\n"), "%s: %s", name, errs)
	}
}

// A dose is this client's: more for the tight side, their rests, their breath.
func TestDoseOfAClient(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	base := `{"format": "restbend.client/1", "conditions": [], "breaths_per_minute": 20, "rest_s": 45, "today": {"date": "2026-11-20"%s}}`
	seconds := func(version, today string) (first int, text string) {
		code, out, errs := run(fmt.Sprintf(base, today), "dose", "--client", "-", "--version", version, "--school", "breaths", "--json")
		require.Zero(t, code, errs)
		var doc struct{ Steps []struct{ Seconds int } }
		require.NoError(t, json.Unmarshal([]byte(out), &doc))
		return doc.Steps[0].Seconds, out
	}
	even, _ := seconds("open-book", "")
	tight, text := seconds("open-book", `, "tight_turn": "left"`)
	assert.Greater(t, tight, even)
	assert.Contains(t, text, "extra on the")
	_, text = seconds("prone-leg-lift", "")
	assert.Contains(t, text, `"rest_s": 45`)
}

// A session as a mixed integer program, for any solver that reads the LP format.
func TestModel(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	code, out, errs := run("", "model", "--client", examples+"client.json", "--minutes", "20", "--template", "bone-safe")
	require.Zero(t, code, errs)
	for _, section := range []string{"Maximize\n obj:", "Subject To\n", "Bounds\n", "Binary\n", "End\n"} {
		assert.Contains(t, out, section)
	}
	again, second, _ := run("", "model", "--client", examples+"client.json", "--minutes", "20", "--template", "bone-safe")
	assert.Zero(t, again)
	assert.Equal(t, out, second, "the same input gives the same model")
}

func TestFigure(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	code, out, _ := run("", "figure", "--version", "clam", "--side", "left", "--phase", "2")
	assert.Zero(t, code)
	assert.True(t, strings.HasPrefix(out, "<svg "))

	// On the way from a phase to another, and as far as one says.
	shown := map[string]bool{}
	for _, share := range []string{"0", "0.4", "0.8", "1"} {
		code, svg, _ := run("", "figure", "--version", "clam", "--phase", "1", "--to", "2", "--share", share)
		assert.Zero(t, code)
		assert.True(t, strings.HasPrefix(svg, "<svg "), share)
		shown[svg] = true
	}
	assert.Len(t, shown, 4)
	_, on, _ := run("", "figure", "--version", "clam", "--phase", "1", "--share", "0.4")
	assert.True(t, shown[on], "the phase that follows is meant where none is named")
}

// Every film is measured: one line each, and a sum.
func TestFilmsAreMeasured(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	code, out, _ := run("", "catalogue", "--films")
	assert.Zero(t, code)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	assert.Greater(t, len(lines), 400)
	assert.Regexp(t, `^\d+ films: median \d+\.\d KB, largest \d+\.\d KB; largest jump [0-2]\.\d cm; 0 over the bars$`, lines[len(lines)-1])
	assert.Regexp(t, `(?m)^bridge +\d+\.\d KB  \d+ pictures +\d\.\d cm \S+ \(.+ to .+\)  stays within \d\.\d cm`, out)
}

// server starts the binary and waits for its address.
func server(t *testing.T, args ...string) (*exec.Cmd, string) {
	t.Helper()
	cmd, line := started(t, args...)
	u := regexp.MustCompile(`http://\S+`).FindString(line)
	require.NotEmpty(t, u, line)
	return cmd, u
}

// started is a server and the line that says where it is.
func started(t *testing.T, args ...string) (*exec.Cmd, string) {
	t.Helper()
	cmd := exec.Command(bin, args...)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	cmd.Stderr = os.Stderr
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	in := bufio.NewReader(out)
	for {
		line, err := in.ReadString('\n')
		require.NoError(t, err)
		if strings.Contains(line, "://") {
			go io.Copy(io.Discard, in) // the rest is for people
			return cmd, strings.TrimSpace(line)
		}
	}
}

// A process killed while teaching loses no acknowledged log entry.
func TestKilledWhileTeachingLosesNothing(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir := t.TempDir()
	cmd, u := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	post := func(path string, form url.Values) *http.Response {
		r, err := c.PostForm(u+path, form)
		require.NoError(t, err)
		r.Body.Close()
		return r
	}
	post("/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	post("/clients/2/plans", url.Values{"minutes": {"30"}})
	taught := post("/plans/1/start", url.Values{"clear": {"yes"}, "pain": {"2"}}).Request.URL.Path
	require.Contains(t, taught, "/teach/")
	const n = 25
	for i := range n {
		r, err := c.Post(u+taught+"/marks", "application/json", strings.NewReader(fmt.Sprintf(`{"marks": [{"key":"k%d","kind":"felt","felt":"tiring","item":%d,"side":"none","at":"2026-11-20T09:31:04.250Z"}]}`, i, i%5)))
		require.NoError(t, err)
		r.Body.Close()
		require.Equal(t, 200, r.StatusCode)
	}
	require.NoError(t, cmd.Process.Kill())
	_ = cmd.Wait()

	_, u = server(t, "serve", "--data", dir, "--addr", "127.0.0.1:0")
	r, err := c.Get(u + taught + "/data")
	require.NoError(t, err)
	defer r.Body.Close()
	var data struct{ Marks []any }
	require.NoError(t, json.NewDecoder(r.Body).Decode(&data))
	assert.Len(t, data.Marks, n, "and the session on the client's side is still open")

	code, out, errs := run("a-new-password\n", "password", "--data", dir, "--name", demo.Name, "--stdin")
	assert.Zero(t, code, out+errs)
	r2, err := c.Get(u + taught)
	require.NoError(t, err)
	defer r2.Body.Close()
	assert.Equal(t, "/sign-in", r2.Request.URL.Path, "a new password ends every session")
}

// Four clients' players mark at once while the process is killed again and again: every acknowledged mark is there
// afterwards, once, whatever was sent again. Four kills, or as many as KILLS says (make soak).
func TestKilledWhileMarking(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	kills := 4
	if n, err := strconv.Atoi(os.Getenv("KILLS")); err == nil {
		kills = n
	}
	dir := t.TempDir()
	cmd, u := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar, Timeout: 5 * time.Second}
	post := func(path string, form url.Values) string {
		r, err := c.PostForm(u+path, form)
		require.NoError(t, err)
		r.Body.Close()
		return r.Request.URL.Path
	}
	post("/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	var sessions []string
	for client := 1; client <= 4; client++ {
		at := post(fmt.Sprintf("/clients/%d/plans", client), url.Values{"minutes": {"20"}})
		post(at+"/best", url.Values{})
		taught := post(at+"/start", url.Values{"clear": {"yes"}, "pain": {"1"}})
		require.Contains(t, taught, "/teach/")
		sessions = append(sessions, taught)
	}
	addr := strings.TrimPrefix(u, "http://")
	var mu sync.Mutex
	acknowledged, sent := map[string][]string{}, 0
	for range kills {
		var all sync.WaitGroup
		over := make(chan struct{})
		for _, taught := range append(sessions, sessions[0]) { // five markers: two devices in the first session
			all.Add(1)
			go func() {
				defer all.Done()
				for ; ; time.Sleep(20 * time.Millisecond) { // a session holds 5,000 marks
					select {
					case <-over:
						return
					default:
					}
					mu.Lock()
					sent++
					key := fmt.Sprintf("k%d", sent)
					mu.Unlock()
					body := fmt.Sprintf(`{"marks": [{"key": %q, "kind": "felt", "felt": "tiring", "item": 0, "side": "none", "pos": 0, "at": "2026-11-20T09:31:04.250Z"}]}`, key)
					for range 2 { // sent again when no answer came
						r, err := c.Post(u+taught+"/marks", "application/json", strings.NewReader(body))
						if err != nil {
							continue
						}
						var answer struct{ Stored []string }
						err = json.NewDecoder(r.Body).Decode(&answer)
						r.Body.Close()
						if err == nil && slices.Contains(answer.Stored, key) {
							mu.Lock()
							acknowledged[taught] = append(acknowledged[taught], key)
							mu.Unlock()
						}
						break
					}
				}
			}()
		}
		time.Sleep(150 * time.Millisecond)
		require.NoError(t, cmd.Process.Kill())
		_ = cmd.Wait()
		close(over)
		all.Wait()
		cmd, _ = server(t, "serve", "--data", dir, "--addr", addr)
	}
	total := 0
	for _, taught := range sessions {
		r, err := c.Get(u + taught + "/data")
		require.NoError(t, err)
		var data struct{ Marks []struct{ Key string } }
		require.NoError(t, json.NewDecoder(r.Body).Decode(&data))
		r.Body.Close()
		times := map[string]int{}
		for _, m := range data.Marks {
			times[m.Key]++
		}
		for _, key := range acknowledged[taught] {
			assert.Equal(t, 1, times[key], "%s in %s", key, taught)
		}
		for key, n := range times {
			assert.Equal(t, 1, n, "%s twice", key)
		}
		total += len(acknowledged[taught])
	}
	t.Logf("%d kills, %d marks acknowledged, none lost, none doubled", kills, total)
	assert.Greater(t, total, 4*kills)
}

func TestTheDemoOnlyStartsInAnEmptyDirectory(t *testing.T) {
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, databaseFile), nil, 0o600))
	code, _, errs := run("", "demo", "--data", dir)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "already holds a database")
}

// With a log a dose knows what is new, which takes longer to set up, and keeps what a
// symptom capped at its last clean repetition.
func TestDoseWithALog(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir := t.TempDir()
	client, log := filepath.Join(dir, "client.json"), filepath.Join(dir, "log.json")
	require.NoError(t, os.WriteFile(client, []byte(`{"format": "restbend.client/1", "conditions": [], "positions": {"floor": "yes", "supine": "yes", "kneel": "yes"}, "today": {"date": "2026-11-20"}}`), 0o600))
	require.NoError(t, os.WriteFile(log, []byte(`{"format": "restbend.log/1", "sessions": [{"date": "2026-11-18", "items": [{"version": "bridge", "target": {"sets": 2, "reps": 8}, "done": {"sets": 1, "reps": 5}, "symptom_at_rep": 5, "ended_by": "symptom"}]}]}`), 0o600))
	type step struct {
		Dose struct {
			Reps   int
			SetupS int `json:"setup_s"`
		}
		Capped string
	}
	steps := func(version string, more ...string) []step {
		code, text, errs := run("", append([]string{"dose", "--client", client, "--version", version, "--school", "reps", "--json"}, more...)...)
		require.Zero(t, code, errs)
		var doc struct{ Steps []step }
		require.NoError(t, json.Unmarshal([]byte(text), &doc))
		return doc.Steps
	}
	top := func(version string, more ...string) (reps int, capped string) {
		l := steps(version, more...)
		return l[len(l)-1].Dose.Reps, l[len(l)-1].Capped
	}
	free, _ := top("bridge")
	capped, why := top("bridge", "--log", log)
	assert.Greater(t, free, 4)
	assert.LessOrEqual(t, capped, 4, "below the fifth")
	assert.Contains(t, why, "a symptom came at repetition 5")
	assert.Greater(t, steps("clam", "--log", log)[0].Dose.SetupS, steps("clam")[0].Dose.SetupS, "new to this client")
}

// A plan document is judged by whoever has it: kept rules say nothing, changed ones are named, and
// the command fails then.
func TestVerifyJudgesAPlanDocument(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	client, log := examples+"client.json", examples+"log.json"
	_, made, _ := run("", "plan", "--client", client, "--log", log, "--minutes", "30", "--template", "short-holds-trio")
	type report struct {
		Format     string
		Violations []struct{ Rule, Say string }
		Score      float64
		Said       float64
		OK         bool
	}
	judged := func(doc string) (code int, r report) {
		code, out, _ := run(doc, "verify", "--client", client, "--log", log, "--plan", "-")
		require.NoError(t, json.Unmarshal([]byte(out), &r), out)
		return code, r
	}
	var plan map[string]any
	require.NoError(t, json.Unmarshal([]byte(made), &plan), made)
	code, r := judged(made)
	assert.Zero(t, code, r)
	assert.Equal(t, "restbend.verify/1", r.Format)
	assert.Empty(t, r.Violations)
	assert.InDelta(t, plan["score"], r.Score, 1e-3)
	assert.Equal(t, plan["score"], r.Said)
	assert.True(t, r.OK)

	plan["items"].([]any)[1].(map[string]any)["version"] = "plank-ball"
	doc, err := json.Marshal(plan)
	require.NoError(t, err)
	code, r = judged(string(doc))
	assert.Equal(t, 1, code)
	rules := map[string]bool{}
	for _, v := range r.Violations {
		rules[v.Rule] = true
		assert.NotEmpty(t, v.Say)
	}
	assert.True(t, rules["safe"] || rules["no-skipped-rung"], r.Violations)
	code, _, errs := run(`{"format":"restbend.log/1"}`, "verify", "--client", client, "--plan", "-")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "allowed: restbend.plan/1")
}

// The score of a plan: a document whose segments follow each other, or its words; what cannot be run is
// refused with the field.
func TestScoreOfAPlan(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	client := examples + "client.json"
	_, made, _ := run("", "plan", "--client", client, "--minutes", "15")
	var p struct{ Seconds float64 }
	require.NoError(t, json.Unmarshal([]byte(made), &p))
	code, out, errs := run(made, "score", "--plan", "-", "--client", client, "--json")
	require.Zero(t, code, errs)
	var s struct {
		Format, Mode string
		Seconds      float64
		Segments     []struct{ Start, End float64 }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &s))
	assert.Equal(t, "restbend.score/1", s.Format)
	assert.Equal(t, "led", s.Mode)
	assert.Equal(t, p.Seconds, s.Seconds)
	at := 0.0
	for _, g := range s.Segments {
		assert.Equal(t, at, g.Start)
		at = g.End
	}
	assert.Equal(t, s.Seconds, at)
	code, out, _ = run(made, "score", "--plan", "-", "--client", client, "--words", "key", "--mode", "flowing")
	assert.Zero(t, code)
	assert.Contains(t, out, "move")
	for want, args := range map[string][]string{
		"mode: found":  {"--mode", "loud"},
		"words: found": {"--words", "none"},
	} {
		code, _, errs := run(made, append([]string{"score", "--plan", "-", "--client", client}, args...)...)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, want)
	}
	for want, doc := range map[string]string{
		"allowed: restbend.plan/1":        `{"format":"restbend.log/1"}`,
		`items[0].version: there is no`:   `{"format":"restbend.plan/1","items":[{"version":"wings"}]}`,
		"items[0].dose: reps: found 9999": `{"format":"restbend.plan/1","items":[{"version":"clam","dose":{"sets":1,"reps":99999}}]}`,
	} {
		code, _, errs := run(doc, "score", "--plan", "-", "--client", client)
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, want)
	}
}
