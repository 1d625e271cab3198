package edit_test

import (
	"crypto/sha256"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

var update = flag.Bool("update", false, "write the golden plans anew")

// drawn is how many clients the golden plans are of.
const drawn = 200

// golden makes one line of a drawn client: fingerprints of the plan, of each of some changes by
// hand with what was refused and what is proposed, of the plan mended, repeated with and without
// progress, and rebuilt around two locked items.
func golden(t *testing.T, tr plantest.Trade, seed uint64) string {
	t.Helper()
	var line []string
	put := func(name string, parts ...any) {
		h := sha256.New()
		for _, part := range parts {
			data, err := json.Marshal(part)
			require.NoError(t, err)
			h.Write(data)
		}
		line = append(line, fmt.Sprintf("%s=%x", name, h.Sum(nil)[:6]))
	}
	said := func(err error) string {
		if err != nil {
			return err.Error()
		}
		return ""
	}
	r, err := tr.Request(seed)
	require.NoError(t, err)
	p, err := propose.Build(r)
	put("plan", p, said(err))
	if err != nil {
		return fmt.Sprintf("%d %s", seed, strings.Join(line, " "))
	}
	rng := rand.New(rand.NewPCG(seed, 3))
	q := copyOf(t, p)
	for range 8 {
		if len(q.Items) == 0 {
			break
		}
		e := edit.Edit{Op: edit.Ops[rng.IntN(len(edit.Ops))], Item: rng.IntN(len(q.Items) + 1), To: rng.IntN(len(q.Items) + 1)}
		any := tr.Cat.Versions[rng.IntN(len(tr.Cat.Versions))].Slug
		suits := any
		if l := edit.Adoptable(r, q); len(l) > 0 {
			suits = l[rng.IntN(len(l))].Slug
		}
		switch e.Op {
		case "side":
			e.With = []string{"left", "right", "each", "alternate"}[rng.IntN(4)]
		case "swap":
			e.With = any
			if l := edit.Swaps(r, q, e.Item); len(l) > 0 {
				e.With = l[rng.IntN(len(l))]
			}
		case "add", "begin", "finish":
			e.With = []string{any, suits, suits}[rng.IntN(3)]
		case "rebuild":
			continue
		case "allow":
			if len(q.Banned) > 0 {
				e.With = q.Banned[rng.IntN(len(q.Banned))]
			}
		}
		err := edit.Apply(r, q, e)
		put(e.Op, q, said(err), edit.Mends(r, q))
	}
	s, err := tr.Next(rng, r, p)
	require.NoError(t, err)
	mended := copyOf(t, p)
	put("mend", edit.Mend(s, mended), mended)
	for _, onward := range []bool{true, false} {
		again, words, err := edit.Repeat(s, copyOf(t, p), onward)
		put("repeat", again, words, said(err))
	}
	locked := copyOf(t, p)
	for i := range locked.Items {
		locked.Items[i].Locked = i%3 == 1 && locked.Items[i].Role != trade.Reset
	}
	again, err := edit.Rebuild(s, locked)
	put("rebuild", again, said(err))
	return fmt.Sprintf("%d %s", seed, strings.Join(line, " "))
}

func copyOf(t *testing.T, p *plan.Plan) *plan.Plan {
	t.Helper()
	data, err := json.Marshal(p)
	require.NoError(t, err)
	out := &plan.Plan{}
	require.NoError(t, json.Unmarshal(data, out))
	return out
}

// Plans, edits, mends and repeats of drawn clients come out as before, byte for byte. The file is
// written anew (-update) when the objective or the catalogue changes on purpose.
func TestGoldenPlans(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	tr, err := plantest.Load()
	require.NoError(t, err)
	lines := make([]string, drawn)
	t.Run("drawn", func(t *testing.T) {
		for i := range drawn {
			t.Run(fmt.Sprint(i), func(t *testing.T) {
				t.Parallel()
				lines[i] = golden(t, tr, uint64(9000+i))
			})
		}
	})
	const file = "testdata/golden.txt"
	if *update {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(file, []byte(strings.Join(lines, "\n")+"\n"), 0o644))
		return
	}
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	want := strings.Split(strings.TrimSpace(string(data)), "\n")
	require.Len(t, want, drawn)
	for i := range want {
		if want[i] != lines[i] {
			was, is := strings.Fields(want[i]), strings.Fields(lines[i])
			k := slices.IndexFunc(is, func(s string) bool { return !slices.Contains(was, s) })
			assert.Fail(t, "a golden plan differs", "client %s: first %s", is[0], is[max(k, 0)])
		}
	}
}
