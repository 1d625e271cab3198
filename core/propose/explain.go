package propose

import (
	"fmt"
	"strings"

	"restbend/core/appraise"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/kinds"
	"restbend/core/plan"
	"restbend/core/solve"
	"restbend/core/trade"
)

// explain tells which limits would have to be relaxed for a session to be possible: each
// is tried alone, quickly.
func explain(r *facts.Request, reason string) error {
	out := &facts.Refused{Reason: reason, Relax: []string{}}
	for _, t := range relaxations(r) {
		s, ok := solve.NewSearch(State(t.request).Model)
		if !ok {
			continue
		}
		s.Greedy()
		if best, _, ok := s.Best(); ok && len(best.Body) > 0 {
			out.Relax = append(out.Relax, t.say)
		}
	}
	if len(out.Relax) > 0 {
		out.Reason += "; it becomes possible with: " + strings.Join(out.Relax, ", or ")
	} else {
		out.Reason += "; confirm positions, or add a place or kit"
	}
	return out
}

type relaxation struct {
	say     string
	request *facts.Request
}

// relaxations are the limits that are the instructor's to move. No safety limit of a
// condition is among them.
func relaxations(r *facts.Request) (out []relaxation) {
	try := func(say string, change func(*intake.Client, *kinds.Template, *facts.Ask)) {
		out = append(out, relaxation{say, r.Relaxed(change)})
	}
	if r.Transfers() < 3 {
		try(
			fmt.Sprintf("%d floor transfers instead of %d", r.Transfers()+1, r.Transfers()),
			func(c *intake.Client, _ *kinds.Template, _ *facts.Ask) {
				n := r.Transfers() + 1
				c.FloorMax = &n
			},
		)
	}
	if r.EffortCap() > 0 {
		try("a higher effort cap", func(c *intake.Client, kind *kinds.Template, _ *facts.Ask) {
			c.EffortCap = 0
			if kind != nil {
				kind.EffortCap = 0
			}
		})
	}
	if len(r.Seen) > 0 {
		try("more new items", func(_ *intake.Client, _ *kinds.Template, a *facts.Ask) { a.AnyNew = true })
	}
	if r.Template != nil {
		out = append(out, relaxation{"another kind of session", r.For(nil)})
	}
	if len(r.Ask.Banned) > 0 {
		try("fewer exercises taken out", func(_ *intake.Client, _ *kinds.Template, a *facts.Ask) { a.Banned = nil })
	}
	if len(r.Ask.Locked) > 0 {
		try("fewer exercises locked", func(_ *intake.Client, _ *kinds.Template, a *facts.Ask) { a.Locked = nil })
	}
	return out
}

// emptyFrom is the share of the time that may stay empty before more new exercises are proposed
// (domain/07).
const emptyFrom = 0.1

// MayAllow is how many new exercises would fill a session that the limit on new ones leaves more than a
// tenth empty, 0 when that is not what is missing.
func MayAllow(r *facts.Request, p *plan.Plan) int {
	t := r.About(p)
	if !appraise.FullOfNew(t, p) || float64(p.Seconds) > (1-emptyFrom)*float64(60*p.Minutes) {
		return 0
	}
	q, err := Quick(t.Relaxed(func(_ *intake.Client, _ *kinds.Template, a *facts.Ask) { a.AnyNew = true }))
	if err != nil || q.Seconds <= p.Seconds {
		return 0
	}
	n := 0
	for i := range q.Items {
		n += facts.CountIf(q.Items[i].New && q.Items[i].Role != trade.Reset)
	}
	return n
}
