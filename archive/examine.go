package archive

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"restbend/core/catalogue"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/store"
	"restbend/teaching"
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
	p, n := examineRecord(&r, label, cat, rules, own, today)
	return append(problems, p...), append(notes, n...), nil
}

// examineRecord reads what is kept of a client with the reader of what comes in: what it refuses could not be brought
// in again.
func examineRecord(
	r *store.Record,
	label string,
	cat *catalogue.Catalogue,
	rules *safety.Rules,
	own map[string]bool,
	today trade.Day,
) (problems, notes []string) {
	in := &reader{cat: cat, rules: rules, today: today, now: time.Now()}
	out := client(r, rules.FlagCodes())
	var wrong exchange.Problems
	in.rest(&out, label, &wrong)
	var shape exchange.Problems
	nested(&shape, label, exchange.CheckShape(out))
	for _, p := range shape {
		p.Path = strings.Replace(p.Path, "clients[0].", "", 1)
		if !slices.ContainsFunc(wrong, func(w exchange.Problem) bool { return w.Path == p.Path }) {
			wrong = append(wrong, p)
		}
	}
	for i := range r.Taught { // as it is kept: what goes out is fitted
		t := &r.Taught[i]
		b, err := teaching.Bounds(t, rules.FlagCodes(), in.now)
		for k := range t.Marks {
			if err != nil {
				break // said already
			}
			if _, err := exchange.ReadMark(t.Marks[k].Document, b); err != nil {
				nested(&wrong, fmt.Sprintf("%s.the session of %s, marks[%d]", label, t.Day, k), err)
			}
		}
	}
	for _, p := range wrong {
		problems = append(problems, strings.Replace(p.String(), label+".", label+": ", 1))
	}
	for _, n := range in.notes {
		if !ownNamed(n.Text, own) {
			notes = append(notes, strings.Replace(n.String(), label+".", label+": ", 1))
		}
	}
	versions := func(what string, doc []byte) {
		var p struct {
			Items []struct{ Version string } `json:"items"`
		}
		if json.Unmarshal(doc, &p) != nil {
			return // said already
		}
		for _, it := range p.Items {
			if _, ok := cat.Version(it.Version); !ok && !own[it.Version] {
				notes = append(notes, fmt.Sprintf("%s: %s names %q, which is not in the catalogue", label, what, it.Version))
			}
		}
	}
	for _, p := range r.Plans {
		versions(fmt.Sprintf("plan %d", p.ID), p.Document)
	}
	for _, t := range r.Taught {
		versions("the session of "+t.Day.String(), t.Plan)
	}
	return problems, notes
}

// ownNamed tells that a note names an exercise that is somebody's own here.
func ownNamed(note string, own map[string]bool) bool {
	for slug := range own {
		if strings.Contains(note, `"`+slug+`"`) {
			return true
		}
	}
	return false
}
