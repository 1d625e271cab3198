package safety

import (
	"fmt"
	"slices"
	"strings"

	"restbend/core/catalogue"
	"restbend/core/intake"
	"restbend/core/trade"
)

// Inversion is a rung that suits although an easier rung of its branch is out, and by what the
// easier one is out (shared ruling 34).
type Inversion struct {
	Conditions []string
	Easier     string
	Harder     string
	Why        []Crossed
}

// Crossed is a quantity that the easier rung crosses, with what the harder one measures.
type Crossed struct {
	Quantity              string
	Easier, Harder, Limit float64
}

// Wrong tells whether an inversion must not be: the harder rung measures as much, or it is a
// matter of effort.
func (i Inversion) Wrong() bool {
	for _, c := range i.Why {
		if c.Quantity == "effort" || c.Harder >= c.Easier {
			return true
		}
	}
	return false
}

// Key names an inversion whatever the condition and the side: the rungs and what they differ in.
func (i Inversion) Key() string {
	var by []string
	for _, c := range i.Why {
		q := strings.TrimSuffix(strings.TrimSuffix(c.Quantity, ".left"), ".right")
		if !slices.Contains(by, q) {
			by = append(by, q)
		}
	}
	slices.Sort(by)
	return i.Easier + " < " + i.Harder + ": " + strings.Join(by, ", ")
}

func (i Inversion) String() string {
	var by []string
	for _, c := range i.Why {
		by = append(by, fmt.Sprintf("%s %.4g over %.4g, the harder %.4g", c.Quantity, c.Easier, c.Limit, c.Harder))
	}
	return fmt.Sprintf(
		"%s: %s is out, %s suits (%s)",
		strings.Join(i.Conditions, " + "),
		i.Easier,
		i.Harder,
		strings.Join(by, "; "),
	)
}

// Inversions lists every inversion of a client, for each rung the nearest harder one that suits.
// What the client's positions keep out is none.
func (s *Screener) Inversions() (out []Inversion) {
	var codes []string
	for _, k := range s.client.Conditions {
		codes = append(codes, k.Code)
	}
	for _, v := range s.cat.Versions {
		if v.Set {
			continue
		}
		row := s.row(v)
		for _, side := range sidesOf(v) {
			if s.clean(v, row, side) {
				continue
			}
			for w := s.cat.Next(v); w != nil; w = s.cat.Next(w) {
				if w.SideMode != v.SideMode || !s.clean(w, s.row(w), side) {
					continue
				}
				i := Inversion{Conditions: codes, Easier: v.Slug, Harder: w.Slug}
				for _, f := range s.findings(v, row, side, "", nil) {
					if f.Condition != "positions" {
						i.Why = append(
							i.Why,
							Crossed{f.Quantity, f.Value, round(s.row(w).Value(side, s.table.ID(f.Quantity))), f.Allowed},
						)
					}
				}
				if len(i.Why) > 0 && !slices.ContainsFunc(out, func(o Inversion) bool { return o.Key() == i.Key() }) {
					out = append(out, i)
				}
				break
			}
		}
	}
	return out
}

// Inversions are those of every single condition, read as strictly as it can be.
func (r *Rules) Inversions(cat *catalogue.Catalogue, today trade.Day) (out []Inversion, err error) {
	for i := range r.Conditions {
		s, err := NewScreener(r, cat, r.Strictest(today, r.Conditions[i].Code), today)
		if err != nil {
			return nil, err
		}
		out = append(out, s.Inversions()...)
	}
	return out, nil
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
