package edit_test

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/edit"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/plantest"
)

// asked makes changes of every kind at every third item of a plan, so far as there is something to ask for.
func asked(r *facts.Request, p *plan.Plan, rng *rand.Rand) (out []edit.Edit) {
	n := len(p.Items)
	for i := rng.IntN(3); i < n; i += 3 {
		for _, op := range []string{"up", "down", "remove", "ban", "longer", "shorter", "harder", "easier", "layer", "unlayer", "lock", "unlock"} {
			out = append(out, edit.Edit{Op: op, Item: i})
		}
		out = append(out, edit.Edit{Op: "move", Item: i, To: rng.IntN(n)})
		for _, side := range edit.SideChoices(r, &p.Items[i]) {
			out = append(out, edit.Edit{Op: "side", Item: i, With: string(side)})
		}
		swaps := edit.Swaps(r, p, i)
		for _, slug := range swaps[:min(2, len(swaps))] {
			out = append(out, edit.Edit{Op: "swap", Item: i, With: slug})
		}
		sets, reps := 1+rng.IntN(3), 2*(1+rng.IntN(6))
		out = append(out, edit.Edit{Op: "dose", Item: i, Dose: &plan.Typed{Sets: &sets, Reps: &reps}})
	}
	if l := edit.Adoptable(r, p); len(l) > 0 {
		for _, op := range []string{"add", "begin", "finish"} {
			out = append(out, edit.Edit{Op: op, With: l[rng.IntN(len(l))].Slug})
		}
	}
	return append(out, edit.Edit{Op: "arrange"})
}

// clock reads "1:05 longer" or "0:40 shorter" out of what was said, seconds.
var clock = regexp.MustCompile(`(\d+):(\d\d) (longer|shorter)`)

func saidSeconds(t *testing.T, said string) (seconds int, ok bool) {
	m := clock.FindStringSubmatch(said)
	if m == nil {
		return 0, false
	}
	a, err := strconv.Atoi(m[1])
	require.NoError(t, err)
	b, err := strconv.Atoi(m[2])
	require.NoError(t, err)
	return map[string]int{"longer": 1, "shorter": -1}[m[3]] * (60*a + b), true
}

func seconds(r *facts.Request, it *plan.Item) int {
	return it.Dose.Seconds(r.Client.BreathRate, it.Sides())
}

// order is what is done, resets aside.
func order(p *plan.Plan) (out []string) {
	for i := range p.Items {
		if p.Items[i].Role != trade.Reset {
			out = append(out, p.Items[i].Version)
		}
	}
	return out
}

// said holds what a change said against what is there afterwards, worked out here again.
func said(t *testing.T, r *facts.Request, was, now *plan.Plan, e edit.Edit, text string) {
	t.Helper()
	diff, timed := saidSeconds(t, text)
	var old, it *plan.Item
	if e.Item < len(was.Items) && e.Op != "add" && e.Op != "begin" && e.Op != "finish" && e.Op != "arrange" {
		old = &was.Items[e.Item]
	}
	if old != nil && e.Item < len(now.Items) {
		it = &now.Items[e.Item]
	}
	a, b := order(was), order(now)
	switch e.Op {
	case "up":
		assert.Less(t, slices.Index(b, old.Version), slices.Index(a, old.Version))
		assert.Contains(t, text, fmt.Sprintf("number %d of %d", slices.Index(b, old.Version)+1, len(b)))
	case "down":
		assert.Greater(t, slices.Index(b, old.Version), slices.Index(a, old.Version))
	case "move":
		assert.NotEqual(t, slices.Index(b, old.Version), slices.Index(a, old.Version))
		assert.Equal(t, strings.Contains(text, "earlier"), slices.Index(b, old.Version) < slices.Index(a, old.Version))
	case "remove", "ban":
		if old.Role != trade.Reset {
			assert.NotContains(t, b, old.Version)
			assert.Equal(t, e.Op == "remove", slices.Contains(now.Removed, old.Version))
		}
		assert.Equal(t, now.Seconds-was.Seconds, diff)
	case "longer":
		assert.Greater(t, seconds(r, it), seconds(r, old))
		assert.Equal(t, seconds(r, it)-seconds(r, old), diff)
	case "shorter":
		assert.Less(t, seconds(r, it), seconds(r, old))
		assert.Equal(t, seconds(r, it)-seconds(r, old), diff)
	case "harder":
		assert.GreaterOrEqual(t, it.Effort, old.Effort)
		assert.NotEqual(t, old.Version, it.Version)
	case "easier":
		assert.LessOrEqual(t, it.Effort, old.Effort)
		assert.NotEqual(t, old.Version, it.Version)
	case "swap":
		assert.Equal(t, e.With, it.Version)
		assert.NotContains(t, b, old.Version)
		assert.Equal(t, now.Seconds-was.Seconds, diff)
	case "side":
		assert.Equal(t, trade.Side(e.With), it.Side)
		if timed {
			assert.Equal(t, seconds(r, it)-seconds(r, old), diff)
		}
	case "dose":
		assert.Equal(t, seconds(r, it)-seconds(r, old), diff)
		assert.Contains(t, text, "→ "+it.DoseWords())
		as := it.Dose.SetCount() == *e.Dose.Sets && it.Dose.Reps == *e.Dose.Reps
		assert.Equal(t, !as, strings.Contains(text, "as far as the log and the limits allow"), "%s", text)
	case "layer":
		assert.Greater(t, len(it.Layers), len(old.Layers))
	case "unlayer":
		assert.Less(t, len(it.Layers), len(old.Layers))
	case "lock", "unlock":
		assert.Equal(t, e.Op == "lock", it.Locked)
	case "add", "begin", "finish":
		assert.Contains(t, b, e.With)
		assert.NotContains(t, a, e.With)
		assert.Equal(t, now.Seconds-was.Seconds, diff)
		if e.Op == "begin" {
			assert.Equal(t, e.With, now.Items[0].Version)
		}
		if e.Op == "finish" {
			assert.Equal(t, e.With, now.Items[len(now.Items)-1].Version)
		}
	case "arrange":
		assert.NotEqual(t, a, b)
		slices.Sort(a)
		slices.Sort(b)
		assert.Equal(t, a, b, "nothing comes or goes")
	default:
		assert.Fail(t, "nobody holds this change against anything", e.Op)
	}
}

// Of 60 drawn plans every change does what it says, or is refused with the reason and changes nothing.
func TestAChangeDoesWhatItSays(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	plans, done, refused := 60, map[string]int{}, map[string]int{}
	if testing.Short() {
		plans = 6
	}
	for k := range plans {
		seed := uint64(21000 + k)
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Quick(r)
		if err != nil {
			continue
		}
		rng := rand.New(rand.NewPCG(seed, 35))
		for _, e := range asked(r, p, rng) {
			q := copyOf(t, p)
			was := copyOf(t, q)
			text, err := edit.Do(r, q, e)
			if err != nil {
				refused[e.Op]++
				assert.Equal(t, was, copyOf(t, q), "%d %s %d: refused, and changed all the same", seed, e.Op, e.Item)
				assert.NotEmpty(t, plan.Why(err))
				continue
			}
			done[e.Op]++
			t.Run(fmt.Sprintf("%d %s %d %s", seed, e.Op, e.Item, e.With), func(t *testing.T) { said(t, r, was, q, e, text) })
		}
	}
	t.Log(plans, "plans; done", done, "refused", refused)
	for _, op := range []string{"up", "down", "move", "remove", "ban", "longer", "shorter", "harder", "easier", "side", "swap", "dose", "lock", "add"} {
		assert.Positive(t, done[op], op)
	}
}

// What was removed or swapped away stays away, however often the rest is rebuilt, until somebody puts it in again.
func TestWhatIsRemovedStaysRemoved(t *testing.T) {
	tr, err := plantest.Load()
	require.NoError(t, err)
	plans, held := 60, 0
	if testing.Short() {
		plans = 4
	}
	for k := range plans {
		seed := uint64(22000 + k)
		r, err := tr.Request(seed)
		require.NoError(t, err)
		p, err := propose.Quick(r)
		if err != nil || len(p.Items) < 4 {
			continue
		}
		rng := rand.New(rand.NewPCG(seed, 36))
		var out []string
		for range 2 {
			i := 1 + rng.IntN(len(p.Items)-2)
			version := p.Items[i].Version
			e := edit.Edit{Op: "remove", Item: i}
			if l := edit.Swaps(r, p, i); len(l) > 0 && rng.IntN(2) == 0 {
				e = edit.Edit{Op: "swap", Item: i, With: l[0]}
			}
			if edit.Apply(r, p, e) == nil && !p.Has(version) {
				out = append(out, version)
			}
		}
		out = slices.DeleteFunc(out, p.Has) // swapped in again by hand
		p.Minutes += 5
		q := p
		for range 1 + k%4/3 { // every fourth twice
			if q, err = edit.Rebuild(r, q); err != nil {
				break
			}
			for _, version := range out {
				held++
				assert.False(t, q.Has(version), "%d: %s came back", seed, version)
				assert.Contains(t, q.Removed, version)
			}
		}
		if err != nil || len(out) == 0 {
			continue
		}
		if edit.Apply(r, q, edit.Edit{Op: "add", With: out[0]}) == nil {
			assert.NotContains(t, q.Removed, out[0], "put in again by hand")
			again, err := edit.Rebuild(r, q)
			if err != nil { // there is none around it
				continue
			}
			assert.True(t, again.Has(out[0]), "%d: what was put in by hand stays", seed)
		}
	}
	assert.Greater(t, held, 2*plans/3)
}
