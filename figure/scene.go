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

var fills = map[string]string{"wood": "#c9ad86", "sofa": "#a9b4b0", "counter": "#cfc7ba", "pillow": "#efe6d6", "bed": "#dcd5c8",
	"table": "#c9ad86", "bolster": "#b7a2b0", "pad": "#b7a2b0", "block": "#c7b79a", "box": "#c7b79a", "ball": "#9db8b4", "wall": "#ece5d8", "footplate": "#8d8a84", "cushion": "#b7a2b0", "carriage": "#cdbfa9"}

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
	case "bolster":
		x0, y0, _ := cam.see(body.Vec{x, q.Y0, q.Z0 + h/2})
		x1, y1, _ := cam.see(body.Vec{x, q.Y1, q.Z0 + h/2})
		return capsule(x0, y0, h/2*px, x1, y1, h/2*px), true
	case "ball":
		cx, cy, _ := cam.see(body.Vec{x, (q.Y0 + q.Y1) / 2, q.Z0 + h/2})
		return circle(cx, cy, h/2*px), true
	case "pad":
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
		across := 0.11
		if len(ends) == 2 {
			across = ends[0].Sub(ends[1]).Len() / 2
		}
		switch h.Kind {
		case "dowel":
			a, c := s.b.TrunkPoint(&s.f, body.SegPelvis, body.Vec{-0.125, 0, -0.10}), s.b.TrunkPoint(&s.f, body.SegHead, body.Vec{-0.125, 0, 0.90})
			if len(ends) == 2 {
				out := ends[1].Sub(ends[0]).Unit().Scale(0.22)
				a, c = ends[0].Sub(out), ends[1].Add(out)
			} else {
				mid = a.Lerp(c, 0.5)
				_, _, depth = s.cam.see(mid)
				depth += 0.03
			}
			line(a, c, "#8a6a3f", 5)
		case "ball":
			blob(math.Max(0.06, across-0.015), "#9db8b4", "#5f7f7b", 1.5)
		case "ring":
			blob(math.Max(0.08, across), "none", "#6b5b73", 5)
		case "towel":
			blob(0.035, "#efe6d6", "#b9a98c", 1.5)
		case "cushion":
			blob(0.075, "#d9c9d2", "#9a8794", 1.5)
		case "dumbbell":
			tip := h.At[0]
			along := s.point("fingertip" + tip[strings.IndexByte(tip, '.'):]).Sub(s.point("wrist" + tip[strings.IndexByte(tip, '.'):]))
			side := along.Cross(body.Vec{0, 1, 0}).Unit().Scale(0.085)
			line(mid.Sub(side), mid.Add(side), "#4a4a4a", 5)
			for _, e := range []body.Vec{mid.Sub(side), mid.Add(side)} {
				x, y, _ := s.cam.see(e)
				draw(0.035, `<path d="%s" fill="#4a4a4a"/>`, circle(x, y, 7))
			}
		case "band", "strap":
			color, width := "#b5533c", 3.0
			if h.Kind == "strap" {
				color, width = "#3f3a36", 4
			}
			line(ends[0], ends[1], color, width)
			if h.Anchor != "" {
				x, y, _ := s.cam.see(ends[1])
				draw(0.03, `<path d="%s" fill="#6d655b"/>`, circle(x, y, 5))
			}
		}
	}
}
