package safety

import (
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/trade"
)

// An ease that rests on words alone ends where somebody stops in time, so it measures at most
// three quarters of the limit it answers; only where a thing stops the movement (a cushion, a
// wall, the seat) may it come nearer (product default). For example a knee rock of 45 degrees,
// eased to 15, answers a limit of 20 and not one of 18. What keeps less than a third of the
// movement is not offered at all (catalogue.Version.Kept).
const EaseMargin = 0.75

// Near tells whether a value that keeps a limit comes nearer than an ease by words may. What occurs or does
// not, and what is out altogether, has no margin; an angle under the noise of postures needs none (shared
// ruling 3).
func (v *Vocabulary) Near(quantity string, value, limit float64) bool {
	unit := v.Unit(quantity)
	return unit != "" && limit > 0 && value > EaseMargin*limit+Rounding && !(unit == "degrees" && value <= catalogue.PostureNoise+Rounding)
}

// holds tells whether an ease keeps its distance from every limit that the exercise as it stands
// crosses on a side.
func (s *Screener) holds(v *catalogue.Version, row *catalogue.Row, side body.Side) bool {
	full := s.row(v)
	for i := range s.bounds {
		b := &s.bounds[i]
		if b.watch || b.id < 0 {
			continue
		}
		if _, over := s.crosses(b, v, full, side); over && !row.Ease.Stopped(b.quantity) && s.rules.Words.Near(b.quantity, row.Value(side, b.id), b.max) {
			return false
		}
	}
	return true
}

// answer notes beside each finding what is left of it with the ease that is used on its side, and which
// turn needs it of what is done in turn.
func (s *Screener) answer(v *catalogue.Version, r *Result) {
	if len(r.Eases) == 0 {
		return
	}
	for i := range r.Findings {
		f := &r.Findings[i]
		side := f.Side
		if side == "" {
			side = v.SideMode
		}
		row, id := s.easeRow(v, r.EaseFor(side)), s.table.ID(f.Quantity)
		if row == nil || id < 0 {
			continue
		}
		at := body.Left
		if f.Side == trade.Right {
			at = body.Right
		}
		value := round(row.Value(at, id))
		f.Eased, f.Ease = &value, row.Ease.Slug
	}
	if v.SideMode != trade.Alternate {
		return
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		r.turns[side] = !s.cleanTurn(v, s.row(v), side)
	}
}

// easeRow is a version with one of its eases, nil when it has none of that name.
func (s *Screener) easeRow(v *catalogue.Version, ease string) *catalogue.Row {
	rows := s.table.Rows(v)
	for i := 1; i < len(rows); i++ {
		if rows[i].Ease.Slug == ease {
			return &rows[i]
		}
	}
	return nil
}

// cleanTurn tells whether what is done in turn crosses nothing while one side works.
func (s *Screener) cleanTurn(v *catalogue.Version, row *catalogue.Row, side body.Side) bool {
	for i := range s.bounds {
		if b := &s.bounds[i]; !b.watch && b.id >= 0 && b.over(v, row.Turn(side, b.id)) {
			return false
		}
	}
	for _, n := range s.needs {
		if n.id >= 0 && row.Turn(side, n.id) > 0 {
			return false
		}
	}
	return true
}

// Measure is one quantity of an exercise as it stands and as it is done with its ease, beside what is
// allowed: "full 45, eased 15, allowed 20". Just tells that it ends just within what is allowed.
type Measure struct {
	Quantity string  `json:"quantity"`
	Full     float64 `json:"full"`
	Eased    float64 `json:"eased"`
	Allowed  float64 `json:"allowed"`
	Just     bool    `json:"just,omitempty"`
}

// Measures are the quantities for which a version needs its ease as it is done, each with the tightest limit.
func (s *Screener) Measures(v *catalogue.Version, d catalogue.Doing) (out []Measure) {
	row := s.easeRow(v, d.Ease)
	if row == nil {
		return nil
	}
	full := s.row(v)
	at := map[string]int{}
	for _, side := range []body.Side{body.Left, body.Right} {
		if name := trade.BothSides[side]; v.SideMode != trade.None && (!d.Eases(name) || d.Side.One() && name != d.Side) {
			continue
		}
		for i := range s.bounds {
			b := &s.bounds[i]
			if b.watch || b.id < 0 || !b.over(v, full.Turn(side, b.id)) {
				continue
			}
			m := Measure{b.quantity, round(full.Turn(side, b.id)), round(row.Turn(side, b.id)), round(b.max), false}
			m.Just = m.Allowed > 0 && m.Eased > EaseMargin*m.Allowed
			k, known := at[b.quantity]
			switch {
			case !known:
				at[b.quantity] = len(out)
				out = append(out, m)
			case m.Allowed < out[k].Allowed:
				out[k] = m
			}
		}
		for _, n := range s.needs {
			if n.id >= 0 && full.Turn(side, n.id) > 0 {
				if _, known := at[n.quantity]; !known {
					at[n.quantity] = len(out)
					out = append(out, Measure{n.quantity, 1, round(row.Turn(side, n.id)), 0, false})
				}
			}
		}
	}
	return out
}

// Fits tells whether a version crosses nothing as it is done, with its ease where it has one.
func (s *Screener) Fits(v *catalogue.Version, d catalogue.Doing) bool {
	if e := v.Ease(d.Ease); d.Ease != "" && (e == nil || !e.Offered) {
		return false
	}
	for _, side := range []body.Side{body.Left, body.Right} {
		name := trade.BothSides[side]
		if v.SideMode == trade.Each && d.Side.One() && name != d.Side {
			continue
		}
		row := s.row(v)
		if d.Eases(name) {
			row = s.easeRow(v, d.Ease)
		}
		switch {
		case row == nil,
			v.SideMode == trade.Alternate && !s.cleanTurn(v, row, side),
			v.SideMode != trade.Alternate && !s.clean(v, row, side):
			return false
		}
	}
	return true
}
