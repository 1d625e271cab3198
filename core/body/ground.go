package body

import (
	"math"
	"sort"
)

// Margin is how far inside the convex base of support a point lies, in metres; negative
// outside.
func Margin(c Vec, pts []Vec) float64 {
	h := hull(pts)
	if len(h) < 3 {
		return -1
	}
	m := math.Inf(1)
	for i := range h {
		a, b := h[i], h[(i+1)%len(h)]
		e := b.Sub(a)
		l := math.Hypot(e[0], e[1])
		if l < 1e-9 {
			continue
		}
		m = math.Min(m, (e[0]*(c[1]-a[1])-e[1]*(c[0]-a[0]))/l)
	}
	return m
}

// hull is the counter-clockwise convex hull of points seen from above.
func hull(pts []Vec) []Vec {
	if len(pts) < 3 {
		return nil
	}
	p := append([]Vec{}, pts...)
	sort.Slice(p, func(i, j int) bool {
		if p[i][0] != p[j][0] {
			return p[i][0] < p[j][0]
		}
		return p[i][1] < p[j][1]
	})
	cross := func(o, a, b Vec) float64 { return (a[0]-o[0])*(b[1]-o[1]) - (a[1]-o[1])*(b[0]-o[0]) }
	var h []Vec
	for pass := 0; pass < 2; pass++ {
		start := len(h)
		for _, q := range p {
			for len(h) >= start+2 && cross(h[len(h)-2], h[len(h)-1], q) <= 0 {
				h = h[:len(h)-1]
			}
			h = append(h, q)
		}
		h = h[:len(h)-1]
		for i, j := 0, len(p)-1; i < j; i, j = i+1, j-1 {
			p[i], p[j] = p[j], p[i]
		}
	}
	return h
}

// Ring adds eight points around a contact.
func Ring(pts []Vec, c Vec, r float64) []Vec {
	for k := 0; k < 8; k++ {
		s, co := math.Sincos(float64(k) * math.Pi / 4)
		pts = append(pts, c.Add(Vec{r * co, r * s, 0}))
	}
	return pts
}
