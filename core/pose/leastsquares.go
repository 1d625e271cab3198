package pose

import (
	"math"

	"restbend/core/body"
)

// settle minimises twice: first with the geometry soft, so that the body finds its way
// along narrow valleys (feet that stay, a hand that reaches), then exactly.
func (pr *problem) settle(st body.State, iterations int) (body.State, float64) {
	st, _ = pr.minimise(st, softIterations, softly)
	return pr.minimise(st, iterations, 1)
}

// softly is the weight of the geometry in the first round of settling.
const (
	softly         = 0.1
	softIterations = 60
)

// minimise is Levenberg-Marquardt with the exact gradient of every residual; weight
// scales all residuals of the geometry against the angles.
func (pr *problem) minimise(st body.State, iterations int, weight float64) (body.State, float64) {
	var f body.Frames
	var tw [nState][body.NSeg]twist
	var plain, full rows
	square := weight * weight
	cost := func(s *body.State) float64 {
		pr.b.Place(s, &f)
		plain.reset()
		pr.residuals(s, &f, &plain)
		c := pr.priors(s, nil, nil)
		for _, v := range plain.r {
			c += v * v * square
		}
		return c
	}
	lambda, current := 1e-3, cost(&st)
	small := 0
	for it := 0; it < iterations; it++ {
		pr.b.Place(&st, &f)
		twists(pr.b, &st, &f, &tw)
		full.reset()
		full.tw = &tw
		pr.residuals(&st, &f, &full)
		var a [nState][nState]float64
		var g [nState]float64
		pr.priors(&st, &a, &g)
		for r := range full.j {
			row, v := &full.j[r], full.r[r]
			for i := range row {
				if row[i] == 0 {
					continue
				}
				g[i] += row[i] * v * square
				for k := 0; k <= i; k++ {
					a[i][k] += row[i] * row[k] * square
				}
			}
		}
		for i := range a {
			for k := 0; k < i; k++ {
				a[k][i] = a[i][k]
			}
		}
		better := false
		for try := 0; try < 8; try++ {
			m := a
			for i := range m {
				m[i][i] *= 1 + lambda
			}
			step, ok := solveSymmetric(&m, &g)
			if ok {
				for i := range step {
					step[i] = body.Clamp(-step[i], -0.35, 0.35)
				}
				next := moved(&st, &step)
				if c := cost(&next); c < current {
					gain := current - c
					st, current, better = next, c, true
					lambda = math.Max(lambda/5, 1e-9)
					if gain < 1e-13*(1+c) {
						small++
					} else {
						small = 0
					}
					break
				}
			}
			lambda = math.Min(lambda*6, 1e8)
		}
		if !better || small > 5 {
			break
		}
	}
	return st, current
}

// solveSymmetric solves a x = g for positive definite a by Cholesky, in place.
func solveSymmetric(a *[nState][nState]float64, g *[nState]float64) ([nState]float64, bool) {
	x := *g
	for i := 0; i < nState; i++ {
		for j := 0; j <= i; j++ {
			s := a[i][j]
			for k := 0; k < j; k++ {
				s -= a[i][k] * a[j][k]
			}
			if i == j {
				if s <= 0 {
					return x, false
				}
				a[i][i] = math.Sqrt(s)
			} else {
				a[i][j] = s / a[j][j]
			}
		}
	}
	for i := 0; i < nState; i++ {
		for k := 0; k < i; k++ {
			x[i] -= a[i][k] * x[k]
		}
		x[i] /= a[i][i]
	}
	for i := nState - 1; i >= 0; i-- {
		for k := i + 1; k < nState; k++ {
			x[i] -= a[k][i] * x[k]
		}
		x[i] /= a[i][i]
	}
	return x, true
}
