// Package teach turns what the player sent while a session ran into the log session that
// progress reads.
package teach

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/trade"
)

// Entry is one line of a running session as the player sends it.
type Entry struct {
	Key   string           `json:"key"`
	Kind  string           `json:"kind"` // one of Kinds
	Item  int              `json:"item"`
	Side  trade.Side       `json:"side"`
	Rep   int              `json:"rep"`
	S     float64          `json:"s"`
	Pain  *float64         `json:"pain"`
	Where string           `json:"where"`
	Done  *progress.Amount `json:"done"`
	Ended string           `json:"ended_by"`
	Felt  string           `json:"felt"` // of progress.Felt
}

// Kinds of entries.
const (
	done    = "done"
	form    = "form"
	symptom = "symptom"
	pain    = "pain"
	ease    = "ease"
	skip    = "skip"
	feel    = "felt"
)

// Kinds lists them.
var Kinds = []string{done, form, symptom, pain, ease, skip, feel}

// sides are how the player names them.
var sides = []trade.Side{"", trade.None, trade.Left, trade.Right, trade.Each, trade.Alternate}

// Check says what is wrong with an entry of a plan, empty when nothing is.
func (e *Entry) Check(p *plan.Plan) string {
	switch {
	case e.Key == "" || len(e.Key) > 100:
		return "key: give one of up to 100 characters"
	case !slices.Contains(Kinds, e.Kind):
		return fmt.Sprintf("kind: found %q, allowed: %s", e.Kind, strings.Join(Kinds, ", "))
	case e.Item < 0 || e.Item >= len(p.Items):
		return fmt.Sprintf("item: found %d, allowed: 0 to %d", e.Item, len(p.Items)-1)
	case !slices.Contains(sides, e.Side):
		return fmt.Sprintf("side: found %q, allowed: %s", e.Side, strings.Join(trade.Words(sides[1:]), ", "))
	case e.Kind == feel && !slices.Contains(progress.Felt, e.Felt):
		return fmt.Sprintf("felt: found %q, allowed: %s", e.Felt, strings.Join(progress.Felt, ", "))
	case e.Pain != nil && (*e.Pain < 0 || *e.Pain > 10):
		return fmt.Sprintf("pain: found %v, allowed: 0 to 10", *e.Pain)
	}
	return ""
}

// Fold is a session's entries as items of the log, one per exercise and side; what was eased or
// skipped is said in notes.
func Fold(p *plan.Plan, entries []Entry) (items []progress.Item, notes []string) {
	at := map[string]int{}
	for i := range entries {
		e := &entries[i]
		if e.Item < 0 || e.Item >= len(p.Items) {
			continue
		}
		it := &p.Items[e.Item]
		key := fmt.Sprintf("%d %s", e.Item, e.Side)
		if _, ok := at[key]; !ok {
			at[key] = len(items)
			d := it.Dose
			if a := d.Apart; a != nil && e.Side.One() {
				d = a[map[trade.Side]int{trade.Left: 0, trade.Right: 1}[e.Side]]
			}
			target := progress.Amount{
				Sets:        d.SetCount(),
				Reps:        d.Reps,
				HoldS:       d.HoldS + d.HoldCounts,
				HoldBreaths: d.HoldBreaths,
			}
			if len(d.Pattern) > 0 {
				target.Sets, target.Reps = 1, d.TotalReps()
			}
			items = append(items, progress.Item{Version: it.Version, Revision: it.Revision, Side: e.Side, Target: target})
		}
		if note := fold(&items[at[key]], e); note != "" {
			note += strings.ReplaceAll(it.Version, "-", " ")
			if !slices.Contains(notes, note) {
				notes = append(notes, note)
			}
		}
	}
	return items, notes
}

func fold(it *progress.Item, e *Entry) (note string) {
	switch e.Kind {
	case done:
		if e.Done != nil {
			it.Done = *e.Done
		}
		if it.EndedBy == "" {
			it.EndedBy = e.Ended
		}
	case form:
		if it.EndedBy != progress.BySymptom {
			it.EndedBy = progress.ByForm
		}
		it.FormLostS = earlier(it.FormLostS, e.S)
		it.Fault = append(it.Fault, progress.Fault{Code: "other", S: e.S})
	case symptom:
		it.EndedBy = progress.BySymptom
		switch {
		case e.Rep == 0:
			it.SymptomS = earlier(it.SymptomS, e.S)
		case it.SymptomRep == nil || e.Rep < *it.SymptomRep:
			it.SymptomRep = &e.Rep
		}
	case pain:
		if !slices.Contains(it.Felt, "pain") {
			it.Felt = append(it.Felt, "pain")
		}
		if e.Pain != nil && (it.Pain == nil || *e.Pain >= *it.Pain) { // the worst counts
			it.Pain, it.Where = e.Pain, e.Where
		}
	case feel:
		if !slices.Contains(it.Felt, e.Felt) {
			it.Felt = append(it.Felt, e.Felt)
		}
	case ease:
		return "eased: "
	case skip:
		if it.EndedBy != progress.BySymptom && it.EndedBy != progress.ByForm {
			it.EndedBy = progress.ByChoice
		}
		return "skipped: "
	}
	return ""
}

// earlier is the first time something happened, seconds: what came before it was clean.
func earlier(before *float64, s float64) *float64 {
	if before != nil && *before <= s {
		return before
	}
	return &s
}
