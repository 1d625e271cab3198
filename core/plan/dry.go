package plan

import (
	"fmt"
	"slices"

	"restbend/core/trade"
)

// dry says which aims and which limits left the session poorer than asked.
func (r *Request) dry(p *Plan) []string {
	out := []string{}
	for _, s := range p.Served {
		if s.Served < 0.5*s.Target {
			out = append(
				out,
				fmt.Sprintf("%s: %.1f of %.1f minutes, %s", s.Aim, s.Served, s.Target, r.whyDry(p, s.Aim)),
			)
		}
	}
	if p.Seconds < r.leastSeconds() {
		out = append(out,
			fmt.Sprintf("time: %d:%02d of %d minutes, %s", p.Seconds/60, p.Seconds%60, p.Minutes, r.whyShort(p)))
	}
	return out
}

func (r *Request) whyDry(p *Plan, aim string) string {
	some, left, fresh := 0, 0, 0
	for _, c := range r.candidates() {
		if !bodyItem(c.v) || !slices.Contains(c.v.Aims, aim) {
			continue
		}
		some++
		if !p.has(c.v.Slug) {
			left++
			fresh += b2i(!c.seen)
		}
	}
	switch {
	case some == 0:
		return "nothing that suits serves it at this rung and place"
	case left == 0:
		return "everything that suits and serves it is already in"
	case left == fresh && r.fullOfNew(p):
		return fmt.Sprintf("what serves it would be new, and at most %d new items come into a session", r.maxNew())
	}
	return "other aims, directions and time weigh more"
}

// fullOfNew tells whether the session holds as many new items as it may.
func (r *Request) fullOfNew(p *Plan) bool {
	fresh := 0
	for i := range p.Items {
		fresh += b2i(p.Items[i].New && p.Items[i].Role != trade.Reset && !r.fixedPart(p.Items[i].Version))
	}
	return len(r.Seen) > 0 && fresh >= r.maxNew()
}

func (r *Request) whyShort(p *Plan) string {
	switch {
	case r.fullOfNew(p):
		return fmt.Sprintf("at most %d new items a session", r.maxNew())
	case r.Template != nil && r.Template.Natural:
		return "this kind of session has a length of its own"
	}
	return "nothing more that suits at this rung and place"
}
