package figure

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"restbend/core/body"
)

func corners(s body.Scene) []body.Vec {
	out := []body.Vec{{s.Mat[0], s.Mat[1], 0}, {s.Mat[2], s.Mat[1], 0}, {s.Mat[0], s.Mat[3], 0}, {s.Mat[2], s.Mat[3], 0}}
	for _, q := range s.Blocks {
		for _, z := range []float64{q.Z0, q.Z1} {
			out = append(out, body.Vec{q.X0, q.Y0, z}, body.Vec{q.X1, q.Y0, z}, body.Vec{q.X0, q.Y1, z}, body.Vec{q.X1, q.Y1, z})
		}
	}
	return out
}

var fills = map[string]string{"wood": "#c9ad86", "sofa": "#a9b4b0", "counter": "#cfc7ba", "pillow": "#efe6d6", "towel": "#e6dcc8", "bed": "#dcd5c8",
	"table": "#c9ad86", "bolster": "#b7a2b0", "pad": "#b7a2b0", "block": "#c7b79a", "box": "#c7b79a", "ball": "#9db8b4", "wall": "#ece5d8", "footplate": "#8d8a84", "cushion": "#b7a2b0", "cushions": "#b7a2b0", "wedge": "#c5b3be", "carriage": "#cdbfa9"}

// ground draws the mat, or the top of a bed, in perspective.
func ground(s body.Scene, cam camera, surface string) string {
	m := s.Mat
	quad := func(z float64) string {
		var d strings.Builder
		for i, v := range []body.Vec{{m[0], m[1], z}, {m[2], m[1], z}, {m[2], m[3], z}, {m[0], m[3], z}} {
			x, y, _ := cam.see(v)
			d.WriteString([2]string{"L", "M"}[b2i(i == 0)] + pt(x, y))
		}
		return d.String() + "Z"
	}
	switch surface {
	case "bed":
		return drawBox(cam, body.Block{Kind: "bed", X0: m[0], Y0: m[1], X1: m[2], Y1: m[3], Z0: -0.14})
	case "spring-carriage":
		return drawBox(cam, body.Block{Kind: "footplate", X0: m[0] - 0.1, Y0: m[1] + 0.05, X1: m[2] + 0.1, Y1: m[3] - 0.05, Z0: -0.30, Z1: -0.22}) +
			drawBox(cam, body.Block{Kind: "carriage", X0: m[0], Y0: m[1], X1: m[2], Y1: m[3], Z0: -0.20, Z1: -0.02})
	}
	return fmt.Sprintf(`<path d="%s" fill="#d9d2c4"/><path d="%s" fill="#e6e0d3"/>`, quad(-0.012), quad(0))
}

// furniture draws the blocks, far ones first.
func furniture(s body.Scene, cam camera) string {
	order := append([]body.Block{}, s.Blocks...)
	depth := func(q body.Block) float64 {
		_, _, d := cam.see(body.Vec{(q.X0 + q.X1) / 2, (q.Y0 + q.Y1) / 2, (q.Z0 + q.Z1) / 2})
		return d
	}
	sort.SliceStable(order, func(i, j int) bool { return depth(order[i]) > depth(order[j]) })
	var sb strings.Builder
	for _, q := range order {
		sb.WriteString(drawBox(cam, q))
	}
	return sb.String()
}

// drawBox draws the three faces a camera above and to one side can see.
func drawBox(cam camera, q body.Block) string {
	face := func(fill string, v ...body.Vec) string {
		var d strings.Builder
		for i, p := range v {
			x, y, _ := cam.see(p)
			d.WriteString([2]string{"L", "M"}[b2i(i == 0)] + pt(x, y))
		}
		return fmt.Sprintf(`<path d="%sZ" fill="%s"/>`, d.String(), fill)
	}
	fill := fills[q.Kind]
	if shape, ok := round(cam, q); ok {
		return fmt.Sprintf(`<path d="%s" fill="%s" stroke="%s"/>`, shape, fill, mix(fill, "#40362c", 0.25))
	}
	dark, mid := mix(fill, "#40362c", 0.22), mix(fill, "#40362c", 0.10)
	ySide, xSide := q.Y0, q.X0
	if cam.ct < 0 {
		ySide = q.Y1
	}
	if cam.st > 0 {
		xSide = q.X1
	}
	if cam.flip {
		ySide = q.Y0 + q.Y1 - ySide
	}
	return face(mid, body.Vec{q.X0, ySide, q.Z0}, body.Vec{q.X1, ySide, q.Z0}, body.Vec{q.X1, ySide, q.Z1}, body.Vec{q.X0, ySide, q.Z1}) +
		face(dark, body.Vec{xSide, q.Y0, q.Z0}, body.Vec{xSide, q.Y1, q.Z0}, body.Vec{xSide, q.Y1, q.Z1}, body.Vec{xSide, q.Y0, q.Z1}) +
		face(fill, body.Vec{q.X0, q.Y0, q.Z1}, body.Vec{q.X1, q.Y0, q.Z1}, body.Vec{q.X1, q.Y1, q.Z1}, body.Vec{q.X0, q.Y1, q.Z1})
}

// round is the outline of furniture that is not a box: a rolled bolster, a domed pad, a
// ball.
func round(cam camera, q body.Block) (string, bool) {
	x, h := (q.X0+q.X1)/2, q.Z1-q.Z0
	switch q.Kind {
	case "pillow", "towel":
		// The ends are round, like those of a filled or folded cloth.
		var pts [][2]float64
		for k := 0; k < 16; k++ {
			s, c := math.Sincos(float64(k) * math.Pi / 8)
			for _, y := range []float64{q.Y0, q.Y1} {
				end := math.Copysign((q.X1-q.X0)/2-h/2, c)
				px0, py0, _ := cam.see(body.Vec{x + end + c*h/2, y - math.Copysign(h/2, y-(q.Y0+q.Y1)/2)*(1-math.Abs(s)), q.Z0 + h/2 + s*h/2})
				pts = append(pts, [2]float64{px0, py0})
			}
		}
		return hull2(pts), true
	case "ball":
		// A soft ball gives way under what lies on it: flat at the top.
		const give = 0.05
		r := (h + give) / 2
		cx, cy, _ := cam.see(body.Vec{x, (q.Y0 + q.Y1) / 2, q.Z0 + r})
		_, top, _ := cam.see(body.Vec{x, (q.Y0 + q.Y1) / 2, q.Z1})
		top -= math.Sqrt(r*r-(h-r)*(h-r)) * math.Abs(cam.sr) * px // the far edge of the flat top
		var pts [][2]float64
		for k := range 40 {
			sn, cs := math.Sincos(float64(k) * math.Pi / 20)
			pts = append(pts, [2]float64{cx + r*px*cs, math.Max(cy-r*px*sn, top)})
		}
		return hull2(pts), true
	case "pad", "bolster":
		var pts [][2]float64
		for k := 0; k <= 12; k++ {
			s, c := math.Sincos(float64(k) * math.Pi / 12)
			for _, y := range []float64{q.Y0, q.Y1} {
				px0, py0, _ := cam.see(body.Vec{x + c*(q.X1-q.X0)/2, y, q.Z0 + s*h})
				pts = append(pts, [2]float64{px0, py0})
			}
		}
		return hull2(pts), true
	}
	return "", false
}

// near draws the end of a bolster that lies before the person; the whole of it is drawn
// before anyone lies on it.
func (s *scene) near(room body.Scene) {
	for _, q := range room.Blocks {
		if q.Kind != "bolster" {
			continue
		}
		_, _, d0 := s.cam.see(body.Vec{(q.X0 + q.X1) / 2, q.Y0, q.Z1})
		_, _, d1 := s.cam.see(body.Vec{(q.X0 + q.X1) / 2, q.Y1, q.Z1})
		if d0 < d1 {
			q.Y1 = q.Y0 + (q.Y1-q.Y0)*0.27
		} else {
			q.Y0 = q.Y1 - (q.Y1-q.Y0)*0.27
		}
		d, _ := round(s.cam, q)
		s.pieces = append(s.pieces, piece{math.Min(d0, d1), fmt.Sprintf(`<path d="%s" fill="%s" stroke="%s"/>`, d, fills[q.Kind], mix(fills[q.Kind], "#000000", 0.18))})
	}
}

// props draws what the person holds or is attached to.
func (s *scene) props() {
	for i := range s.p.Props {
		h := &s.p.Props[i]
		ends := h.Ends(s.b, &s.f)
		var mid body.Vec
		for _, e := range ends {
			mid = mid.Add(e.Scale(1 / float64(len(ends))))
		}
		_, _, depth := s.cam.see(mid)
		draw := func(lift float64, format string, a ...any) {
			s.pieces = append(s.pieces, piece{depth - lift, fmt.Sprintf(format, a...)})
		}
		line := func(from, to body.Vec, color string, width float64) {
			x0, y0, _ := s.cam.see(from)
			x1, y1, _ := s.cam.see(to)
			draw(0.03, `<path d="M%sL%s" stroke="%s" stroke-width="%s" stroke-linecap="round"/>`, pt(x0, y0), pt(x1, y1), color, num(width))
		}
		blob := func(r float64, fill, stroke string, width float64) {
			x, y, _ := s.cam.see(mid)
			draw(0.06, `<path d="%s" fill="%s" stroke="%s" stroke-width="%s"/>`, circle(x, y, r*px), fill, stroke, num(width))
		}
		switch h.Kind {
		case "dowel":
			a, c := s.b.TrunkPoint(&s.f, body.SegPelvis, body.Vec{-0.125, 0, -0.10}), s.b.TrunkPoint(&s.f, body.SegHead, body.Vec{-0.125, 0, 0.90})
			if len(ends) == 2 {
				out := ends[1].Sub(ends[0]).Unit().Scale(0.22)
				a, c = ends[0].Sub(out), ends[1].Add(out)
			}
			const n = 10
			for i := range n {
				from, to := a.Lerp(c, float64(i)/n), a.Lerp(c, float64(i+1)/n)
				_, _, depth = s.cam.see(from.Lerp(to, 0.5))
				line(from, to, "#8a6a3f", 5)
			}
		case "ball":
			blob(ballRadius, "#9db8b4", "#5f7f7b", 1.5)
		case "ring":
			s.ring(h.At, ends[0], ends[1])
		case "towel":
			blob(0.035, "#efe6d6", "#b9a98c", 1.5)
		case "cushion":
			if len(ends) == 1 { // it lies on the floor and reaches up to what rests on it
				const half = 0.12
				q := body.Block{Kind: "pillow", X0: mid[0] - half, X1: mid[0] + half, Y0: mid[1] - half, Y1: mid[1] + half, Z1: math.Max(0.06, mid[2]-0.05)}
				d, _ := round(s.cam, q)
				draw(-0.05, `<path d="%s" fill="#d9c9d2" stroke="#9a8794" stroke-width="1.5"/>`, d)
				break
			}
			blob(0.075, "#d9c9d2", "#9a8794", 1.5)
		case "dumbbell":
			across := s.across(h.At[0][strings.IndexByte(h.At[0], '.'):]).Scale(0.11)
			ends := []body.Vec{mid.Sub(across), mid.Add(across)}
			line(ends[0], ends[1], "#4a4a4a", 5)
			for _, e := range ends {
				x, y, _ := s.cam.see(e)
				draw(0.035, `<path d="%s" fill="#4a4a4a"/>`, circle(x, y, 0.045*px))
			}
		case "band", "strap":
			color, width := "#b5533c", 3.0
			if h.Kind == "strap" {
				color, width = "#3f3a36", 4
			}
			line(ends[0], ends[1], color, width)
			if h.Anchor != "" { // a hook on the edge of a door
				foot, head := ends[1], ends[1].Add(body.Vec{0, 0, 0.12})
				foot[2] = 0
				_, _, depth = s.cam.see(ends[1])
				line(foot, head, "#cdbfa9", 9)
				x, y, _ := s.cam.see(ends[1])
				draw(0.04, `<path d="%s" fill="#6d655b"/>`, circle(x, y, 5))
			}
		}
	}
}

// Sizes of what is held (product default, m).
const (
	ballRadius = 0.10
	ringRadius = 0.18
)

// across is the way a handle lies in a hand: square to the palm and to the fingers.
func (s *scene) across(side string) body.Vec {
	wrist := s.point("wrist" + side)
	along := s.point("fingertip" + side).Sub(wrist).Unit()
	palm := s.point("palm" + side).Sub(wrist)
	return along.Cross(palm.Sub(along.Scale(palm.Dot(along)))).Unit()
}

// ring draws a springy ring between two places: a circle in space that flattens between
// them, square to the fingers that press it.
func (s *scene) ring(at []string, a, c body.Vec) {
	u := c.Sub(a)
	half := u.Len() / 2
	u = u.Unit()
	v := body.Vec{1, 0, 0} // between the ankles it lies level
	if base, side, _ := strings.Cut(at[0], "."); base == "palm" {
		v = s.across("." + side)
	}
	v = v.Sub(u.Scale(u.Dot(v))).Unit()
	// What is pressed in goes out to the sides.
	wide := math.Sqrt(math.Max(2*ringRadius*ringRadius-half*half, half*half/4))
	mid := a.Lerp(c, 0.5)
	const n = 24
	for i := range n {
		at := func(k int) body.Vec {
			sn, cs := math.Sincos(2 * math.Pi * float64(k) / n)
			return mid.Add(u.Scale(half * cs)).Add(v.Scale(wide * sn))
		}
		p, q := at(i), at(i+1)
		x0, y0, d0 := s.cam.see(p)
		x1, y1, d1 := s.cam.see(q)
		s.pieces = append(s.pieces, piece{(d0+d1)/2 - 0.03, fmt.Sprintf(`<path d="M%sL%s" stroke="#6b5b73" stroke-width="5" stroke-linecap="round"/>`, pt(x0, y0), pt(x1, y1))})
	}
}
