package web

import (
	"fmt"
	"strings"

	"restbend/core/progress"
	"restbend/core/trade"
)

// wholeView is what holds for the whole client today, said once and first, with what to do.
type wholeView struct {
	progress.Whole
	Title  string
	Urgent bool
	Do     []string
}

// wholeView is nil when nothing holds for the whole client. A referral by flags and conditions
// has a box of its own.
func (s *peoplePages) wholeView(p *person) *wholeView {
	w := p.Req.Whole
	if w == nil {
		return nil
	}
	out := &wholeView{Whole: *w, Title: "Rest today"}
	if w.Decision == trade.Refer {
		out.Title = "Refer first"
		last := p.Log.Sessions[max(0, len(p.Log.Sessions)-2):]
		out.Do = s.limits().Act(progress.Signs(last...)...)
	}
	return out
}

// endings says which clearances end soon.
func endings(p *person) (out []string) {
	for _, e := range p.Req.Screener.EndsSoon() {
		out = append(out, fmt.Sprintf("The clearance of %s ends on %s", strings.ReplaceAll(e.Code, "-", " "), e.On))
	}
	return out
}
