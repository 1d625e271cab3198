package main

import (
	"encoding/json"
	"fmt"
	"os"
	"runtime/pprof"
	"slices"
	"time"

	"restbend/core/plan"
	"restbend/core/solve"
	"restbend/plantest"
)

func main() {
	tr, _ := plantest.Load()
	pf, _ := os.Create("/tmp/cpu2.prof")
	pprof.StartCPUProfile(pf)
	defer pprof.StopCPUProfile()
	cache := map[string]float64{}
	if data, err := os.ReadFile("/tmp/opt.json"); err == nil {
		json.Unmarshal(data, &cache)
	}
	var times []time.Duration
	n, equal, proven, wrong := 0, 0, 0, 0
	worst := 0.0
	for seed := 97001; n < 60; seed++ {
		r, _ := tr.Request(uint64(seed))
		if r.Screening.Refer != nil {
			continue
		}
		start := time.Now()
		m := plan.State(r)
		s, ok := solve.NewSearch(m.Model)
		if !ok {
			continue
		}
		s.Run()
		_, value, ok := s.Best()
		took := time.Since(start)
		if !ok {
			continue
		}
		key := fmt.Sprint(seed)
		best, ok := cache[key]
		if !ok {
			opt, err := plantest.Solve(m.Model, os.TempDir(), "120")
			if err != nil || !opt.Proven {
				continue
			}
			best, _ = m.Value(opt.Selection)
			cache[key] = best
		}
		n++
		times = append(times, took)
		gap := best - value
		if gap < 1e-6 {
			equal++
		} else {
			fmt.Printf("%d %d min gap %.3f of %.3f %v\n", seed, r.Minutes, gap, best, took)
		}
		if s.Proven() {
			proven++
			if gap > 1e-6 {
				wrong++
			}
		}
		worst = max(worst, gap)
	}
	data, _ := json.Marshal(cache)
	os.WriteFile("/tmp/opt.json", data, 0o644)
	slices.Sort(times)
	fmt.Println(n, "equal", equal, "proven", proven, "wrong", wrong, "worst", worst, "median", times[n/2], "p95", times[n*95/100])
}
