package plan

import (
	"math"

	"restbend/core/catalogue"
	"restbend/core/trade"
)

// sessionDirections is what the session uses of the six directions.
func (r *Request) sessionDirections(p *Plan) []Direction {
	allowed := r.allowedDirections()
	reach := r.reachable()
	out := make([]Direction, len(catalogue.TrunkDirections))
	for k, name := range catalogue.TrunkDirections {
		out[k] = Direction{
			Name:    name,
			Allowed: math.Round(10*allowed[k]) / 10,
			Reach:   reach>>k&1 == 1,
			Exempt:  r.disliked()>>k&1 == 1,
		}
	}
	for i := range p.Items {
		it := &p.Items[i]
		v, ok := r.Catalogue.Version(it.Version)
		if !ok || it.Role == trade.Reset {
			continue
		}
		peaks := v.TrunkPeaks(it.Side)
		mask := r.visits(&candidate{v: v, side: it.Side})
		for k := range peaks {
			out[k].Used = math.Max(out[k].Used, peaks[k])
			out[k].Visited = out[k].Visited || mask>>k&1 == 1
		}
	}
	return out
}

// score is the value of the model for the items as they stand.
func (r *Request) score(p *Plan) float64 {
	s := 0.0
	aims, weight, target := r.wants()
	for k, a := range aims {
		m := 0.0
		for i := range p.Items {
			m += p.Items[i].Aims[a]
		}
		s += weight[k] * (math.Min(m, target[k]) + secondHalf*math.Max(0, math.Min(m-target[k], secondHalf*target[k])))
	}
	for _, d := range p.Directions {
		if d.Visited {
			s += directionPoints
		}
	}
	for i := range p.Items {
		it := &p.Items[i]
		if it.Role == trade.Reset {
			continue
		}
		if it.Continues {
			s += continuityPoints
		}
		if r.usual(it.Family) {
			s += usualPoints
		}
		if v, ok := r.Catalogue.Version(it.Version); ok && it.Role == trade.Close && relaxes(v) &&
			!r.fixedPart(it.Version) {
			s += restPoints
		}
		if it.Length != Normal && it.Length != "" {
			s -= lengthPoints
		}
	}
	return s - r.movePrice(p) - r.missing(p) - shortPoints*math.Max(0, float64(r.leastSeconds()-p.Seconds+p.turning()))
}

// movePrice is the price of every change of posture in the order of the list.
func (r *Request) movePrice(p *Plan) float64 {
	at, s := r.startPlace(), 0.0
	for i := range p.Items {
		if p.Items[i].Role == trade.Reset {
			continue
		}
		to := p.Items[i].place()
		s += r.price(at, to, p.Items[i].Transition-p.Items[i].TurnS)
		at = to
	}
	if len(p.Items) > 0 {
		s += r.price(at, r.startPlace(), p.UpS)
	}
	return s
}
