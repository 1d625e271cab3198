package safety

import (
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
)

// Crossed lists what a side of a version, done in full, crosses beside the client's positions.
func (s *Screener) Crossed(v *catalogue.Version, side body.Side) (out []Finding) {
	for _, f := range s.findings(v, s.row(v), side, "", nil) {
		if f.Condition != "positions" {
			out = append(out, f)
		}
	}
	return out
}

// Clean tells that a side of a version, done in full, crosses nothing; the place is judged apart.
func (s *Screener) Clean(v *catalogue.Version, side body.Side) bool {
	return s.clean(v, s.row(v), side)
}

// Measure is what a side of a version, done in full, measures of a quantity.
func (s *Screener) Measure(v *catalogue.Version, side body.Side, quantity string) float64 {
	return round(s.row(v).Value(side, s.table.ID(quantity)))
}

// Strictest is a client with these conditions, each with nothing recorded but a day long past and
// a clearance of today: the strictest reading that refers to nobody. Every position, surface and
// prop is there.
func (r *Rules) Strictest(today trade.Day, codes ...string) *intake.Client {
	c := &intake.Client{
		Positions: map[string]string{"floor": "yes", "stand_free": "yes"},
		Surfaces:  trade.Surfaces,
		Kit:       catalogue.Kit,
	}
	for _, p := range r.Positions {
		c.Positions[p.Answer] = "yes"
	}
	long := today.AddDays(-400)
	for _, code := range codes {
		k := intake.Condition{Code: code, Date: long, FractureDate: long}
		if code == intake.Pregnancy {
			k.Date, k.Due = trade.Day{}, today.AddDays(7*12)
		}
		c.Conditions = append(c.Conditions, k)
		c.Clearances = append(
			c.Clearances,
			intake.Clearance{Date: today, By: "specialist", Covers: []string{code}, Limits: "as the limits of the condition"},
		)
	}
	return c
}
