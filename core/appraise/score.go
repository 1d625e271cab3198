package appraise

import (
	"math"

	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
)

// sessionDirections is what the session uses of the six directions.
func sessionDirections(r *facts.Request, p *plan.Plan) []plan.Direction {
	allowed := r.AllowedDirections()
	reach := r.Reachable()
	out := make([]plan.Direction, len(catalogue.TrunkDirections))
	for k, name := range catalogue.TrunkDirections {
		out[k] = plan.Direction{
			Name:    name,
			Allowed: math.Round(10*allowed[k]) / 10,
			Reach:   reach>>k&1 == 1,
			Exempt:  r.Disliked()>>k&1 == 1,
		}
	}
	for i := range p.Items {
		it := &p.Items[i]
		v, ok := r.Catalogue.Version(it.Version)
		if !ok || it.Role == trade.Reset {
			continue
		}
		peaks := v.Trunk(it.Doing())
		mask := r.Visits(&facts.Candidate{V: v, Side: it.Side, Surface: it.Surface, Eases: it.Eases, EasedSide: it.EasedSide})
		for k := range peaks {
			out[k].Used = math.Max(out[k].Used, peaks[k])
			out[k].Visited = out[k].Visited || mask>>k&1 == 1
		}
	}
	return out
}

// score is the value of the model for the items as they stand.
func score(r *facts.Request, p *plan.Plan) float64 {
	s := 0.0
	aims, weight, target := r.Wants()
	for k, a := range aims {
		m := 0.0
		for i := range p.Items {
			m += p.Items[i].Aims[a]
		}
		beyond := math.Min(m-target[k], facts.SecondHalf*target[k])
		s += weight[k] * (math.Min(m, target[k]) + facts.SecondHalf*math.Max(0, beyond))
	}
	for _, d := range p.Directions {
		if d.Visited {
			s += facts.DirectionPoints
		}
	}
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		if it.Continues {
			s += facts.ContinuityPoints
		}
		if r.Usual(it.Family) {
			s += facts.UsualPoints
		}
		if v, ok := r.Catalogue.Version(it.Version); ok && it.Role == trade.Close && facts.Relaxes(v) &&
			!r.FixedPart(it.Version) {
			s += facts.RestPoints
		}
		if it.Length != plan.Normal && it.Length != "" {
			s -= facts.LengthPoints
		}
	}
	short := math.Max(0, float64(r.LeastSeconds()-p.Seconds+turning(p)))
	return s - movePrice(r, p) - r.Missing(p) - facts.ShortPoints*short
}

// movePrice is the price of every change of posture in the order of the list.
func movePrice(r *facts.Request, p *plan.Plan) float64 {
	at, s := r.StartPlace(), 0.0
	for i := range p.Items {
		if p.Items[i].Role == trade.Reset {
			continue
		}
		to := p.Items[i].Place()
		s += r.Price(at, to, p.Items[i].Transition-p.Items[i].TurnS)
		at = to
	}
	if len(p.Items) > 0 {
		s += r.Price(at, r.StartPlace(), p.UpS)
	}
	return s
}
