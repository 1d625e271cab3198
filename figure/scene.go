package figure

import (
	"fmt"
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

var fills = map[string]string{"wood": "#c9ad86", "sofa": "#a9b4b0", "counter": "#cfc7ba", "pillow": "#efe6d6", "bed": "#dcd5c8"}

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
	if surface == "bed" {
		return drawBox(cam, body.Block{Kind: "bed", X0: m[0], Y0: m[1], X1: m[2], Y1: m[3], Z0: -0.14})
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

// props draws what the person holds.
func (s *scene) props() {
	for _, h := range s.p.Hold {
		if h == "dowel" {
			a := s.b.TrunkPoint(&s.f, body.SegPelvis, body.Vec{-0.125, 0, -0.10})
			c := s.b.TrunkPoint(&s.f, body.SegHead, body.Vec{-0.125, 0, 0.90})
			x0, y0, d0 := s.cam.see(a)
			x1, y1, d1 := s.cam.see(c)
			s.box.add(x1, y1, 4)
			s.pieces = append(s.pieces, piece{(d0 + d1) / 2,
				fmt.Sprintf(`<path d="M%sL%s" stroke="#8a6a3f" stroke-width="5" stroke-linecap="round"/>`, pt(x0, y0), pt(x1, y1))})
		}
	}
}
