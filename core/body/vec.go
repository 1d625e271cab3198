package body

import "math"

// Vec is a point or direction in metres: x the way a standing person faces, y to the
// person's left, z up.
type Vec [3]float64

func (a Vec) Add(b Vec) Vec             { return Vec{a[0] + b[0], a[1] + b[1], a[2] + b[2]} }
func (a Vec) Sub(b Vec) Vec             { return Vec{a[0] - b[0], a[1] - b[1], a[2] - b[2]} }
func (a Vec) Scale(s float64) Vec       { return Vec{a[0] * s, a[1] * s, a[2] * s} }
func (a Vec) Dot(b Vec) float64         { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }
func (a Vec) Len() float64              { return math.Sqrt(a.Dot(a)) }
func (a Vec) Lerp(b Vec, t float64) Vec { return a.Add(b.Sub(a).Scale(t)) }

// Cross is the right-handed vector product.
func (a Vec) Cross(b Vec) Vec {
	return Vec{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// Unit returns a scaled to length 1, or a itself when it has no length.
func (a Vec) Unit() Vec {
	if l := a.Len(); l > 1e-12 {
		return a.Scale(1 / l)
	}
	return a
}

// Mat is a rotation, row by row.
type Mat [9]float64

// Mul applies the rotation to a vector.
// Mul turns a vector from the segment into the world.
func (m *Mat) Mul(v Vec) Vec {
	return Vec{m[0]*v[0] + m[1]*v[1] + m[2]*v[2], m[3]*v[0] + m[4]*v[1] + m[5]*v[2], m[6]*v[0] + m[7]*v[1] + m[8]*v[2]}
}

// Inv applies the inverse rotation to a vector.
func (m *Mat) Inv(v Vec) Vec {
	return Vec{m[0]*v[0] + m[3]*v[1] + m[6]*v[2], m[1]*v[0] + m[4]*v[1] + m[7]*v[2], m[2]*v[0] + m[5]*v[1] + m[8]*v[2]}
}

// Col returns the world direction of local axis i.
func (m *Mat) Col(i int) Vec { return Vec{m[i], m[3+i], m[6+i]} }

// Turn post-multiplies by a rotation of a radians about local axis 0, 1 or 2.
func (m Mat) Turn(axis int, a float64) Mat {
	if a == 0 {
		return m
	}
	s, c := math.Sincos(a)
	i, j := (axis+1)%3, (axis+2)%3
	for r := 0; r < 9; r += 3 {
		u, v := m[r+i], m[r+j]
		m[r+i], m[r+j] = u*c+v*s, v*c-u*s
	}
	return m
}

// Quat is a unit quaternion w, x, y, z: the orientation of the pelvis.
type Quat [4]float64

// Mul is the turn p followed by q.
func (q Quat) Mul(p Quat) Quat {
	return Quat{
		q[0]*p[0] - q[1]*p[1] - q[2]*p[2] - q[3]*p[3],
		q[0]*p[1] + q[1]*p[0] + q[2]*p[3] - q[3]*p[2],
		q[0]*p[2] - q[1]*p[3] + q[2]*p[0] + q[3]*p[1],
		q[0]*p[3] + q[1]*p[2] - q[2]*p[1] + q[3]*p[0],
	}.unit()
}

func (q Quat) unit() Quat {
	l := math.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
	return Quat{q[0] / l, q[1] / l, q[2] / l, q[3] / l}
}

// AxisTurn is the rotation of a radians about world axis 0, 1 or 2.
func AxisTurn(axis int, a float64) Quat {
	q := Quat{math.Cos(a / 2)}
	q[axis+1] = math.Sin(a / 2)
	return q
}

// Small turns q by a small rotation vector in the pelvis frame.
func (q Quat) Small(r Vec) Quat {
	a := r.Len()
	if a < 1e-14 {
		return q
	}
	s := math.Sin(a/2) / a
	return q.Mul(Quat{math.Cos(a / 2), r[0] * s, r[1] * s, r[2] * s})
}

// Mat is the same turn as a matrix.
func (q Quat) Mat() Mat {
	w, x, y, z := q[0], q[1], q[2], q[3]
	return Mat{
		1 - 2*(y*y+z*z), 2 * (x*y - w*z), 2 * (x*z + w*y),
		2 * (x*y + w*z), 1 - 2*(x*x+z*z), 2 * (y*z - w*x),
		2 * (x*z - w*y), 2 * (y*z + w*x), 1 - 2*(x*x+y*y),
	}
}

// Slerp goes a share t of the way to another orientation.
func (q Quat) Slerp(p Quat, t float64) Quat {
	d := q[0]*p[0] + q[1]*p[1] + q[2]*p[2] + q[3]*p[3]
	if d < 0 {
		p, d = Quat{-p[0], -p[1], -p[2], -p[3]}, -d
	}
	a, b := 1-t, t
	if d < 0.9995 {
		th := math.Acos(d)
		a, b = math.Sin((1-t)*th)/math.Sin(th), math.Sin(t*th)/math.Sin(th)
	}
	return Quat{a*q[0] + b*p[0], a*q[1] + b*p[1], a*q[2] + b*p[2], a*q[3] + b*p[3]}.unit()
}

// Deg is a degree in radians.
const Deg = math.Pi / 180

// Clamp keeps a value within bounds.
func Clamp(v, lo, hi float64) float64 { return math.Max(lo, math.Min(hi, v)) }
