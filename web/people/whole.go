package people

import (
	"fmt"
	"strings"

	"restbend/core/progress"
	"restbend/core/trade"
)

// WholeView is what holds for the whole client today, said once and first, with what to do.
type WholeView struct {
	progress.Whole
	Title  string
	Urgent bool
	Do     []string
}

// WholeView is nil when nothing holds for the whole client. A referral by flags and conditions
// has a box of its own.
func (s *People) WholeView(p *Person) *WholeView {
	w := p.Req.Whole
	if w == nil {
		return nil
	}
	out := &WholeView{Whole: *w, Title: "Rest today"}
	if w.Decision == trade.Refer {
		out.Title = "Refer first"
		last := p.Log.Sessions[max(0, len(p.Log.Sessions)-2):]
		out.Do = s.Limits().Act(progress.Signs(last...)...)
	}
	return out
}

// endings says which clearances end soon.
func endings(p *Person) (out []string) {
	for _, e := range p.Req.Screener.EndsSoon() {
		out = append(out, fmt.Sprintf("The clearance of %s ends on %s", strings.ReplaceAll(e.Code, "-", " "), e.On))
	}
	return out
}
