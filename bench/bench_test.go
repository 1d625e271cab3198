// Package bench measures the main work of the product. Every figure is also given as a
// ratio (x-gin) to a bare Gin handler that returns the same bytes, in the same run.
package bench

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/body"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/measure"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/demo"
	"restbend/figure"
	"restbend/plantest"
	"restbend/store"
	"restbend/web"
)

var (
	cat, _   = restbend.Catalogue()
	rules, _ = restbend.Rules()
	tasks, _ = restbend.Tasks()
	norms, _ = restbend.Norms()
	kinds, _ = restbend.Templates(cat)
	today    = trade.On(2026, 11, 20)
)

func client() *intake.Client {
	return &intake.Client{Conditions: []intake.Condition{{Code: "osteoporosis"}, {Code: "disc-sciatica", Preference: "extension"}, {Code: "wrist-pain", Side: "right"}},
		Positions: map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes", "kneel": "yes", "hands": "yes", "stand_free": "yes"},
		Surfaces:  []trade.Surface{"mat", "chair", "counter", "sofa"}, Kit: []string{"pillow", "towel", "dowel"}, BreathRate: 12}
}

// against reports op's time as a multiple of a bare Gin handler returning the same bytes.
func against(b *testing.B, answer []byte) {
	b.StopTimer()
	own := float64(b.Elapsed().Nanoseconds()) / float64(b.N)
	gin.SetMode(gin.ReleaseMode)
	g := gin.New()
	g.GET("/", func(c *gin.Context) { c.Data(http.StatusOK, "application/octet-stream", answer) })
	const n = 20000
	start := time.Now()
	for range n {
		g.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/", nil))
	}
	bare := float64(time.Since(start).Nanoseconds()) / n
	b.ReportMetric(own/bare, "x-gin")
}

func jsonOf(b *testing.B, v any) []byte {
	doc, err := json.Marshal(v)
	require.NoError(b, err)
	return doc
}

func BenchmarkScreenWholeCatalogue(b *testing.B) {
	c := client()
	c.Conditions[0].Fracture = new(bool)
	var out *safety.Screening
	for b.Loop() {
		s, err := safety.NewScreener(rules, cat, c, today)
		require.NoError(b, err)
		out = s.Screen()
	}
	against(b, jsonOf(b, out))
}

// BenchmarkScreenRandomClients is the median of a whole screening over drawn clients.
func BenchmarkScreenRandomClients(b *testing.B) {
	tr, err := plantest.Load()
	require.NoError(b, err)
	var drawn []*intake.Client
	for seed := range uint64(200) {
		r, err := tr.Request(seed)
		require.NoError(b, err)
		drawn = append(drawn, r.Client)
	}
	var took []time.Duration
	for b.Loop() {
		took = took[:0]
		for _, c := range drawn {
			start := time.Now()
			s, err := safety.NewScreener(rules, cat, c, today)
			require.NoError(b, err)
			require.Len(b, s.Screen().Results, len(cat.Versions))
			took = append(took, time.Since(start))
		}
	}
	slices.Sort(took)
	b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "median-ms")
	b.ReportMetric(float64(took[len(took)-1].Microseconds())/1000, "worst-ms")
}

func BenchmarkPlan30Minutes(b *testing.B) {
	c := client()
	c.Conditions[0].Fracture = new(bool)
	var out *plan.Plan
	for b.Loop() {
		r, err := facts.New(cat, rules, tasks, c, nil, 30, today)
		require.NoError(b, err)
		out, err = propose.Build(r)
		require.NoError(b, err)
	}
	against(b, jsonOf(b, out))
}

func BenchmarkFigure(b *testing.B) {
	v, _ := cat.Version("bird-dog")
	q := figure.NewDrawer(body.NewBody(body.Female, 0)).Sequence(v, "left")
	var out string
	for b.Loop() {
		out = q.Phase(1, figure.Options{})
	}
	against(b, []byte(out))
}

func BenchmarkLoadCatalogue(b *testing.B) {
	for b.Loop() {
		_, err := restbend.Catalogue()
		require.NoError(b, err)
	}
}

// Every phase of every version on both bodies, one core, without the generated file.
func BenchmarkSettleWholeCatalogue(b *testing.B) {
	for b.Loop() {
		s := measure.NewSolver()
		for _, v := range cat.Versions {
			require.NoError(b, s.Settle(v))
		}
	}
}

// practice serves the demo practice to a signed-in browser.
func practice(b *testing.B, more func(st *store.Store)) (base string, c *http.Client) {
	st, err := store.Open(context.Background(), filepath.Join(b.TempDir(), "x.db"))
	require.NoError(b, err)
	s, err := web.New(st, cat, rules, norms, tasks, kinds)
	require.NoError(b, err)
	require.NoError(b, demo.Fill(context.Background(), st, cat, rules, trade.DayOf(time.Now(), time.Local)))
	if more != nil {
		more(st)
	}
	srv := httptest.NewServer(s)
	b.Cleanup(func() { srv.Close(); s.Close(); st.Close() })
	jar, _ := cookiejar.New(nil)
	c = &http.Client{Jar: jar}
	post(b, c, srv.URL+"/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	return srv.URL, c
}

// post sends a form and returns where it led and what was there.
func post(b *testing.B, c *http.Client, to string, form url.Values) (*url.URL, string) {
	r, err := c.PostForm(to, form)
	require.NoError(b, err)
	defer r.Body.Close()
	page, err := io.ReadAll(r.Body)
	require.NoError(b, err)
	return r.Request.URL, string(page)
}

// 500 clients screened again, twice each, because one limit changes: from sending the
// form to the list of who is affected.
func BenchmarkRescreen500Clients(b *testing.B) {
	base, c := practice(b, func(st *store.Store) {
		doc := client()
		doc.Format, doc.Name = "restbend.client/1", "Invented"
		doc.Conditions = append(doc.Conditions, intake.Condition{Code: "stenosis"})
		doc.Conditions[0].Fracture = new(bool)
		data := jsonOf(b, doc)
		for range 500 {
			_, err := st.CreateClient(context.Background(), 1, store.Client{Name: "Invented", Document: data, Build: "ash"})
			require.NoError(b, err)
		}
	})
	var page string
	for b.Loop() {
		var at *url.URL
		at, page = post(b, c, base+"/limits/preview", url.Values{"key": {"stenosis/lumbar.extension.loaded"}, "value": {"4"}, "reason": {"measured"}})
		for !strings.Contains(page, "Put it into force") {
			time.Sleep(5 * time.Millisecond)
			r, err := c.Get(at.String())
			require.NoError(b, err)
			data, err := io.ReadAll(r.Body)
			require.NoError(b, err)
			r.Body.Close()
			page = string(data)
		}
	}
	require.Contains(b, page, "504 clients screened")
	against(b, []byte(page))
}

func BenchmarkPlanPageEndToEnd(b *testing.B) {
	base, c := practice(b, nil)
	post(b, c, base+"/clients/1/plans", url.Values{"minutes": {"30"}})
	var page bytes.Buffer
	for b.Loop() {
		r, err := c.Get(base + "/plans/1")
		require.NoError(b, err)
		page.Reset()
		_, err = page.ReadFrom(r.Body)
		require.NoError(b, err)
		r.Body.Close()
		require.Equal(b, 200, r.StatusCode)
	}
	against(b, page.Bytes())
}

// BenchmarkDemoStart starts the built program: time to the first page served, and the
// resident memory after the first sign-in and page.
func BenchmarkDemoStart(b *testing.B) {
	bin := filepath.Join(b.TempDir(), "restbend")
	out, err := exec.Command("go", "build", "-o", bin, "../cmd/restbend").CombinedOutput()
	require.NoError(b, err, string(out))
	var ready time.Duration // the slowest of five starts
	rss := 0
	b.ResetTimer()
	for b.Loop() {
		start := time.Now()
		cmd := exec.Command(bin, "demo", "--addr", "127.0.0.1:0")
		pipe, err := cmd.StdoutPipe()
		require.NoError(b, err)
		require.NoError(b, cmd.Start())
		buf := make([]byte, 4096)
		k, err := pipe.Read(buf)
		require.NoError(b, err)
		u := regexp.MustCompile(`http://\S+`).FindString(string(buf[:k]))
		jar, _ := cookiejar.New(nil)
		c := &http.Client{Jar: jar}
		r, err := c.Get(u + "/sign-in")
		require.NoError(b, err)
		r.Body.Close()
		ready = max(ready, time.Since(start))
		r, err = c.PostForm(u+"/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
		require.NoError(b, err)
		r.Body.Close()
		status, err := os.ReadFile("/proc/" + strconv.Itoa(cmd.Process.Pid) + "/status")
		require.NoError(b, err)
		for _, line := range strings.Split(string(status), "\n") {
			if f := strings.Fields(line); len(f) == 3 && f[0] == "VmRSS:" {
				kb, _ := strconv.Atoi(f[1])
				rss = max(rss, kb)
			}
		}
		require.NoError(b, cmd.Process.Signal(os.Interrupt))
		_ = cmd.Wait()
	}
	b.ReportMetric(float64(ready.Milliseconds()), "ms-to-first-page")
	b.ReportMetric(float64(rss)/1024, "MB-resident")
}
