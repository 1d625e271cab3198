package planning

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/dose"
	"restbend/core/edit"
	"restbend/core/plan"
	"restbend/core/safety"
	"restbend/core/trade"
)

// itemPanel is everything about the item that is open on the bench.
type itemPanel struct {
	planItem
	V         *catalogue.Version
	Position  string
	SideMeans string
	SaySides  string
	Sided     []sideChoice
	Lines     []dose.Line
	Seconds   int
	Swaps     []swapChoice
	Easier    *catalogue.Version
	Harder    *catalogue.Version
	HarderWhy string // why the harder rung waits
	Task      string
	Points    []catalogue.Point
	Serves    []aimRow
	Others    []otherChoice
	Last      bool

	LayerNames []string
}

// ItemDose, ItemLocked and ItemNew are of the item, not of what the panel adds.
func (p *itemPanel) ItemDose() string { return p.planItem.Dose }
func (p *itemPanel) ItemLocked() bool { return p.planItem.Locked }
func (p *itemPanel) ItemNew() bool    { return p.planItem.New }

type sideChoice struct {
	Side, Say string
	Now       bool
}

type swapChoice struct {
	V            *catalogue.Version
	Keeps, Loses string
}

// otherChoice is an alternative and what it would do to the session.
type otherChoice struct {
	Name, Say string
}

func (s *Planning) itemPanel(pg *PlanPage, cat *catalogue.Catalogue) *itemPanel {
	r, p := pg.Person.Req, pg.Plan
	it := &p.Items[pg.At]
	v, ok := cat.Version(it.Version)
	if !ok {
		return nil
	}
	rate := pg.Person.Client.BreathRate
	out := &itemPanel{
		V:         v,
		Position:  catalogue.PositionWords(it.Position),
		SideMeans: v.SideMeans,
		SaySides:  v.SaySide(it.Side),
		Lines:     it.Dose.Sum(rate, it.Sides()),
		Last:      pg.At == len(p.Items)-1,
	}
	for _, slug := range it.Layers {
		if w, ok := cat.Version(slug); ok {
			out.LayerNames = append(out.LayerNames, w.Name)
		}
	}
	for _, pi := range pg.Items {
		if pi.N == pg.At {
			out.planItem = pi
		}
	}
	for _, l := range out.Lines {
		out.Seconds += l.Seconds
	}
	for _, c := range edit.SideChoices(r, it) {
		out.Sided = append(
			out.Sided,
			sideChoice{
				string(c),
				map[trade.Side]string{trade.Each: "both sides", trade.Alternate: "in turn", trade.Left: "left only",
					trade.Right: "right only"}[c],
				c == it.Side,
			},
		)
	}
	if it.Role == trade.Reset {
		return out
	}
	for _, slug := range edit.Swaps(r, p, pg.At) {
		if w, ok := cat.Version(slug); ok {
			keeps, loses := safety.Because(v, w)
			out.Swaps = append(out.Swaps, swapChoice{w, keeps, loses})
		}
	}
	out.Easier, out.Harder = cat.Previous(v), cat.Next(v)
	if out.Harder != nil {
		out.HarderWhy = edit.Waits(r, pg.Plan, out.Harder)
	}
	for _, a := range v.Aims {
		out.Serves = append(out.Serves, aimRow{Name: a, Served: it.Aims[a]})
	}
	if t := edit.BestTask(r, v); t != nil {
		out.Task, out.Points = t.Name, v.Argue(t)
	}
	for i, sw := range out.Swaps {
		if i == 3 {
			break
		}
		out.Others = append(out.Others, otherChoice{sw.V.Name, s.compared(pg, sw.V)})
	}
	return out
}

// compared says what an alternative would do to the session: what it is worth, and which
// rules it would break.
func (s *Planning) compared(pg *PlanPage, w *catalogue.Version) string {
	q, err := edit.Tried(pg.Person.Req, pg.Plan, edit.Edit{Op: "swap", Item: pg.At, With: w.Slug})
	if err != nil {
		return plan.Why(err)
	}
	var breaks []string
	for _, k := range q.Checks {
		if !k.OK && !holdsNot(pg.Plan, k.Rule) {
			breaks = append(breaks, strings.ReplaceAll(k.Rule, "-", " "))
		}
	}
	d := q.Score - pg.Plan.Score
	say := "as good"
	switch {
	case d < -0.05:
		say = fmt.Sprintf("%.1f points less for this client's aims, flow and time", -d)
	case d > 0.05:
		say = fmt.Sprintf("%.1f points more", d)
	}
	if change := q.Seconds - pg.Plan.Seconds; math.Abs(float64(change)) >= 20 {
		say += fmt.Sprintf(", %+d s", change)
	}
	if breaks != nil {
		say += "; breaks: " + strings.Join(breaks, ", ")
	}
	return say
}

func holdsNot(p *plan.Plan, rule string) bool {
	for _, k := range p.Checks {
		if k.Rule == rule && !k.OK {
			return true
		}
	}
	return false
}
