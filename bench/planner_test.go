package bench

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"restbend/core/propose"
	"restbend/core/solve"
	"restbend/exchange"
	"restbend/plantest"
	"restbend/verify"
)

// The instances of the comparison: seeds that were never used while the search was tuned.
const (
	firstSeed = 97001
	instances = 60
	seconds   = "120"
)

func drawn() plantest.Trade {
	return plantest.Trade{Cat: cat, Rules: rules, Tasks: tasks, Templates: kinds}
}

func quantile(d []float64, q float64) float64 {
	d = slices.Clone(d)
	slices.Sort(d)
	return d[min(len(d)-1, int(q*float64(len(d))))]
}

// BenchmarkPlannerAgainstSolver draws instances from the real catalogue and random
// clients, searches each and has a general solver prove the optimum. One line an
// instance, proven or not.
func BenchmarkPlannerAgainstSolver(b *testing.B) {
	tr := drawn()
	var ours, theirs, closed []float64
	proven, equal, within, open, openWithin, above, selfProven, wrong := 0, 0, 0, 0, 0, 0, 0, 0
	worst := 0.0
	done := 0
	for seed := uint64(firstSeed); done < instances; seed++ {
		r, err := tr.Request(seed)
		require.NoError(b, err)
		if r.Screening.Refer != nil {
			continue
		}
		start := time.Now()
		m := propose.State(r)
		s, ok := solve.NewSearch(m.Model)
		if !ok {
			continue
		}
		s.Run()
		_, value, ok := s.Best()
		took := time.Since(start)
		if !ok {
			opt, err := plantest.Solve(m.Model, b.TempDir(), seconds)
			require.NoError(b, err)
			require.True(b, opt.None, "seed %d: the search found nothing, the solver did not say that there is nothing", seed)
			fmt.Printf("seed %d: %d minutes: no session keeps every rule, and the solver proves it\n", seed, r.Minutes)
			continue
		}
		done++
		g, _ := solve.NewSearch(m.Model)
		g.Greedy()
		_, greedy, hasGreedy := g.Best()
		opt, err := plantest.Solve(m.Model, b.TempDir(), seconds)
		require.NoError(b, err)
		solver := opt.Took
		ours, theirs = append(ours, took.Seconds()*1000), append(theirs, solver.Seconds()*1000)
		say := fmt.Sprintf("seed %d: %d minutes, %d columns: search %.4f in %.0f ms, solver in %.0f ms", seed, r.Minutes, len(m.Items), value, took.Seconds()*1000, solver.Seconds()*1000)
		if opt.Refutes(value) {
			above++
		}
		best, fine := opt.Bound, true
		if opt.Found {
			best, fine = m.Value(opt.Selection)
			require.True(b, fine)
		}
		gap := 100 * (best - value) / max(1e-9, abs(best))
		switch {
		case opt.Proven:
			proven++
			if s.Proven() {
				selfProven++
				if value < best-1e-6 {
					wrong++
				}
			}
			if value > best-1e-6 {
				equal++
			}
			if gap <= 0.5 {
				within++
			}
			worst = max(worst, gap)
			if hasGreedy && best > greedy+1e-9 {
				closed = append(closed, 100*(value-greedy)/(best-greedy))
			}
			say += fmt.Sprintf(", proven %.4f, gap %.3f %%", best, gap)
		case opt.Found:
			open++
			if gap <= 0.6 {
				openWithin++
			}
			say += fmt.Sprintf(", not proven: its best %.4f, gap %.3f %%, bound %.4f", best, gap, opt.Bound)
		default:
			open++
			openWithin++
			say += fmt.Sprintf(", not proven, nothing found, bound %.4f", opt.Bound)
		}
		if hasGreedy {
			say += fmt.Sprintf(", greedy %.4f", greedy)
		}
		fmt.Println(say)
	}
	fmt.Printf("planner: %d instances, %d proven: %d equal, %d within 0.5 %%, %d above the optimum, worst %.3f %%; %d not proven, %d within 0.6 %% of the solver's best\n", done, proven, equal, within, above, worst, open, openWithin)
	if len(closed) > 0 {
		fmt.Printf("planner: of the distance from greedy to the optimum closed: mean %.2f %%, least %.2f %% (%d instances)\n", mean(closed), quantile(closed, 0), len(closed))
	}
	fmt.Printf("planner: %d of them proven by the search itself, %d wrongly\n", selfProven, wrong)
	fmt.Printf("planner: search median %.0f ms, p95 %.0f ms; solver median %.0f ms, p95 %.0f ms; ratio of medians %.1f\n", quantile(ours, 0.5), quantile(ours, 0.95), quantile(theirs, 0.5), quantile(theirs, 0.95), quantile(theirs, 0.5)/quantile(ours, 0.5))
	require.Zero(b, wrong, "a proof of the search that the solver refutes")
	require.Zero(b, above, "a value above a proven optimum is a mistake in the model or the search")
	for b.Loop() {
	}
	b.ReportMetric(quantile(theirs, 0.5)/quantile(ours, 0.5), "x-faster")
	b.ReportMetric(float64(equal)/float64(max(1, proven)), "equal-share")
	b.ReportMetric(quantile(ours, 0.5), "median-ms")
	b.ReportMetric(quantile(ours, 0.95), "p95-ms")
}

func abs(x float64) float64 { return max(x, -x) }

func mean(x []float64) float64 {
	s := 0.0
	for _, v := range x {
		s += v
	}
	return s / float64(len(x))
}

// BenchmarkThousandPlansVerified judges a thousand random sessions from documents alone.
func BenchmarkThousandPlansVerified(b *testing.B) {
	tr := drawn()
	catalogue, err := json.Marshal(exchange.NewCatalogue(cat))
	require.NoError(b, err)
	taskFile, err := os.ReadFile("../core/catalogue/tasks.yaml")
	require.NoError(b, err)
	preferences, err := os.ReadFile("../core/catalogue/preferences.yaml")
	require.NoError(b, err)
	doc := func(v any) []byte {
		data, err := json.Marshal(v)
		require.NoError(b, err)
		return data
	}
	made, refused, violations, wishes, differ := 0, 0, 0, 0, 0
	var took []float64
	for seed := uint64(200001); made < 1000; seed++ {
		r, err := tr.Request(seed)
		require.NoError(b, err)
		start := time.Now()
		p, err := propose.Build(r)
		if err != nil {
			refused++
			continue
		}
		took = append(took, time.Since(start).Seconds()*1000)
		made++
		d := verify.Documents{Client: doc(r.Client), Catalogue: catalogue, Screen: doc(exchange.NewScreen(r.Screener, r.Screening, cat)), Next: doc(exchange.NewNext(r.Whole, r.Decisions)), Plan: doc(p), Tasks: taskFile, Preferences: preferences}
		if r.Log != nil {
			d.Log = doc(r.Log)
		}
		if r.Template != nil {
			d.Template = doc(r.Template)
		}
		report, err := verify.Session(d)
		require.NoError(b, err)
		violations += len(report.Violations)
		wishes += len(report.Wishes)
		if abs(report.Score-p.Score) > 1e-3 {
			differ++
		}
		for _, v := range report.Violations {
			fmt.Printf("seed %d: %s\n", seed, v)
		}
	}
	fmt.Printf("verified: %d sessions, %d refused with a reason, %d violations, %d wishes not fulfilled, %d scored differently; planning median %.0f ms, p95 %.0f ms\n", made, refused, violations, wishes, differ, quantile(took, 0.5), quantile(took, 0.95))
	require.Zero(b, violations)
	require.Zero(b, differ)
	for b.Loop() {
	}
	b.ReportMetric(quantile(took, 0.95), "p95-ms")
}

// BenchmarkBenchEdit is one change by hand through the server, all checks and parts
// included.
func BenchmarkBenchEdit(b *testing.B) {
	base, c := practice(b, nil)
	post(b, c, base+"/clients/2/plans", url.Values{"minutes": {"45"}})
	post(b, c, base+"/plans/1/best", url.Values{})
	var took []float64
	edits := []string{"lock:2", "down:3", "up:4", "longer:5", "shorter:5", "unlock:2"}
	i := 0
	var answer []byte
	for b.Loop() {
		form := url.Values{"do": {edits[i%len(edits)]}, "view": {"bench"}, "at": {"3"}}
		req, err := http.NewRequest("POST", base+"/plans/1/edit", strings.NewReader(form.Encode()))
		require.NoError(b, err)
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		req.Header.Set("HX-Request", "true")
		start := time.Now()
		r, err := c.Do(req)
		require.NoError(b, err)
		answer = make([]byte, 0, 1<<16)
		buf := make([]byte, 1<<14)
		for {
			n, err := r.Body.Read(buf)
			answer = append(answer, buf[:n]...)
			if err != nil {
				break
			}
		}
		r.Body.Close()
		took = append(took, time.Since(start).Seconds()*1000)
		require.Less(b, r.StatusCode, 500)
		i++
	}
	b.ReportMetric(quantile(took, 0.5), "median-ms")
	b.ReportMetric(quantile(took, 0.95), "p95-ms")
	against(b, answer)
}
