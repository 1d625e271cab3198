package archive

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"

	"restbend/core/catalogue"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/store"
)

// Examine reads every document of a database. Problems are documents that cannot be
// used; notes are things to look at: ended clearances, unknown versions in old plans.
func Examine(
	ctx context.Context,
	st *store.Store,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	today trade.Day,
) (problems, notes []string, err error) {
	changes, err := st.LimitChanges(ctx)
	if err != nil {
		return nil, nil, err
	}
	if _, aside := rules.With(InForce(changes)); aside != nil {
		for _, a := range aside {
			notes = append(notes, "changed limit "+a.Key+" is set aside, the delivered one holds: "+a.Why)
		}
	}
	own := map[string]bool{}
	members, err := st.Members(ctx, 0)
	if err != nil {
		return nil, nil, err
	}
	for _, m := range members {
		versions, err := st.OwnVersions(ctx, m.ID)
		if err != nil {
			return nil, nil, err
		}
		for _, o := range versions {
			own[o.Slug] = true
			if o.Document == "" {
				continue
			}
			if v, err := cat.ReadOwn(o.Slug, []byte(o.Document)); v == nil {
				problems = append(problems, fmt.Sprintf("own version %s: %v", o.Slug, err))
			} else if err != nil {
				notes = append(notes, fmt.Sprintf("own version %s is to be looked at again: %v", o.Slug, err))
			}
		}
	}
	rows, err := st.EveryClient(ctx)
	if err != nil {
		return nil, nil, err
	}
	for _, row := range rows {
		p, n, err := examineClient(ctx, st, row, cat, rules, own, today)
		if err != nil {
			return nil, nil, err
		}
		problems, notes = append(problems, p...), append(notes, n...)
	}
	return problems, notes, nil
}

func examineClient(
	ctx context.Context,
	st *store.Store,
	row store.Client,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	own map[string]bool,
	today trade.Day,
) (problems, notes []string, err error) {
	label := fmt.Sprintf("client %d", row.ID)
	cl, wrong, gone, err := exchange.ReadKept(row.Document, cat, rules, today)
	if inner, ok := err.(exchange.Problems); ok {
		for _, p := range inner {
			problems = append(problems, label+": "+p.String())
		}
	} else if err != nil {
		return nil, nil, err
	}
	for _, p := range append(wrong, gone...) { // it can be read, and no longer fits: the client's page says so
		notes = append(notes, label+": "+p.String())
	}
	if cl != nil {
		for _, c := range cl.Clearances {
			if !c.Until.IsZero() && c.Until.Before(today) {
				notes = append(notes, fmt.Sprintf("%s: a clearance ended on %s", label, c.Until))
			}
		}
	}
	r, err := st.Record(ctx, row)
	if err != nil {
		return nil, nil, err
	}
	plan := func(what string, doc []byte) {
		var p struct {
			Items []struct{ Version string } `json:"items"`
		}
		if err := json.Unmarshal(doc, &p); err != nil {
			problems = append(problems, fmt.Sprintf("%s: %s: %v", label, what, err))
			return
		}
		if err := checkPlan(doc); err != nil {
			problems = append(problems, fmt.Sprintf("%s: %s: %v", label, what, err))
			return
		}
		for _, it := range p.Items {
			if _, ok := cat.Version(it.Version); !ok && !own[it.Version] {
				notes = append(notes, fmt.Sprintf("%s: %s names %q, which is not in the catalogue", label, what, it.Version))
			}
		}
	}
	for _, p := range r.Plans {
		plan(fmt.Sprintf("plan %d", p.ID), p.Document)
	}
	for _, t := range r.Taught {
		plan("the session of "+t.Day.String(), t.Plan)
		if t.Day.IsZero() || t.Day.After(today) {
			problems = append(problems, fmt.Sprintf("%s: a session has the day %q, which is none up to today", label, t.Day))
		}
	}
	for _, t := range r.Results {
		if _, err := exchange.ReadResults(bytes.NewReader(t.Document), today); err != nil {
			problems = append(problems, fmt.Sprintf("%s: tests of %s: %v", label, t.Day, err))
		}
	}
	return problems, notes, nil
}
