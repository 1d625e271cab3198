package bench

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"restbend/core/trade"
	"restbend/store"
)

// Fifty sessions run at once for twenty seconds: each asks for news every one and a half seconds and marks something
// about every two. How long until a mark is acknowledged, which is when it is on the disk.
func BenchmarkMarksOfFiftySessions(b *testing.B) {
	ctx := context.Background()
	doc, err := os.ReadFile("../docs/formats/examples/score.json")
	require.NoError(b, err)
	var ids []int64
	base, c := practice(b, func(st *store.Store) {
		for i := range 50 {
			client, err := st.CreateClient(ctx, 1, store.Client{Name: fmt.Sprintf("Client %d", i), Document: []byte(`{"format": "restbend.client/1"}`), Build: "ash"})
			require.NoError(b, err)
			id, _, err := st.StartTeaching(ctx, store.Taught{ClientID: client, Day: trade.MustDay("2026-11-20"), Plan: []byte(`{}`), Scores: []store.Score{{Rev: 1, Document: doc}}})
			require.NoError(b, err)
			ids = append(ids, id)
		}
	})
	var mu sync.Mutex
	var took []time.Duration
	for b.Loop() {
		var all sync.WaitGroup
		end := time.Now().Add(20 * time.Second)
		for _, id := range ids {
			all.Add(1)
			go func() {
				defer all.Done()
				time.Sleep(rand.N(1500 * time.Millisecond))
				for n := 0; time.Now().Before(end); n++ {
					if r, err := c.Get(fmt.Sprintf("%s/teach/%d/marks?after=999999", base, id)); err == nil {
						_, _ = io.Copy(io.Discard, r.Body)
						r.Body.Close()
					}
					time.Sleep(750 * time.Millisecond)
					if n%4 != 3 {
						body := fmt.Sprintf(`{"after": 999999, "marks": [{"key": "%d-%d-%d", "kind": "felt", "felt": "tiring", "item": 0, "side": "none", "pos": 0, "at": %q}]}`, id, n, end.Unix(), time.Now().UTC().Format(time.RFC3339Nano))
						start := time.Now()
						r, err := c.Post(fmt.Sprintf("%s/teach/%d/marks", base, id), "application/json", strings.NewReader(body))
						if err == nil {
							var answer struct{ Stored []string }
							err = json.NewDecoder(r.Body).Decode(&answer)
							r.Body.Close()
							if err == nil && r.StatusCode == http.StatusOK && len(answer.Stored) == 1 {
								mu.Lock()
								took = append(took, time.Since(start))
								mu.Unlock()
							}
						}
					}
					time.Sleep(750 * time.Millisecond)
				}
			}()
		}
		all.Wait()
	}
	if os.Getenv("SHOW") != "" {
		for i, d := range took {
			if d > 15*time.Millisecond {
				b.Logf("mark %d of %d: %v", i, len(took), d)
			}
		}
	}
	slices.Sort(took)
	require.Greater(b, len(took), 400)
	b.ReportMetric(float64(took[len(took)/2].Microseconds())/1000, "median-ms")
	b.ReportMetric(float64(took[len(took)*99/100].Microseconds())/1000, "p99-ms")
	b.ReportMetric(float64(len(took)), "marks")
	b.ReportMetric(resident(b), "MB")
}

var resides = regexp.MustCompile(`VmRSS:\s+(\d+) kB`)

// resident is the memory of this process, the catalogue, the browser's side of the test and all, MB.
func resident(b *testing.B) float64 {
	text, err := os.ReadFile("/proc/self/status")
	require.NoError(b, err)
	kb, err := strconv.ParseFloat(resides.FindStringSubmatch(string(text))[1], 64)
	require.NoError(b, err)
	return kb / 1024
}
