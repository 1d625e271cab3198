package figure

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
)

// Mark points at one thing in a picture: a region of the spine with its angle, or a place
// on the body, with a few words.
type Mark struct {
	At         string // lumbar, thoracic, neck, trunk, or a landmark such as palm.left; empty for words alone
	Text, More string // two short lines above the picture
}

// markBand is the height of the two lines.
const markBand = 42

// roomFor makes a box high and wide enough for the words of a mark.
func (b Box) roomFor(m *Mark) Box {
	const letter = 7.2 // about the widest mean letter at this size
	b.Y0 -= markBand
	if need := 12 + letter*float64(max(len(m.Text), len(m.More))) - (b.X1 - b.X0); need > 0 {
		b.X0, b.X1 = b.X0-need/2, b.X1+need/2
	}
	return b
}

const markInk = "#9a4a28"

// spineEnds are the first and last segment of each region.
var spineEnds = map[string][2]int{
	"lumbar": {body.SegPelvis + 1, body.SegL1 + 3}, "thoracic": {body.SegL1 + 3, body.SegT1 + 3},
	"neck": {body.SegT1 + 3, body.SegN1 + 1}, "trunk": {body.SegPelvis + 1, body.SegT1 + 3},
}

// mark draws the words at the top of the box and a line to what they are about.
func (s *scene) mark(sb *strings.Builder, m *Mark, box Box) {
	var x, y float64
	if ends, ok := spineEnds[m.At]; ok {
		at := func(seg int) [2]float64 {
			x, y, _ := s.cam.see(s.f.P[seg])
			return [2]float64{x, y}
		}
		low, next, before, top := at(ends[0]), at(ends[0]+1), at(ends[1]-1), at(ends[1])
		x, y = top[0], top[1]
		angle := func(a, b [2]float64) float64 { return math.Atan2(b[1]-a[1], b[0]-a[0]) }
		a0, a1 := angle(low, next), angle(before, top)
		const long, arc = 54, 34
		ray := func(a float64, dash string) {
			sn, c := math.Sincos(a)
			fmt.Fprintf(sb, `<path d="M%sL%s" fill="none" stroke="%s" stroke-width="2"%s/>`, pt(x, y), pt(x+long*c, y+long*sn),
				markInk, dash)
		}
		ray(a0, ` stroke-dasharray="4 4"`)
		ray(a1, "")
		turn := math.Remainder(a1-a0, 2*math.Pi)
		s0, c0 := math.Sincos(a0)
		s1, c1 := math.Sincos(a1)
		fmt.Fprintf(sb, `<path d="M%sA%d %d 0 0 %d %s" fill="none" stroke="%s" stroke-width="2"/>`, pt(x+arc*c0, y+arc*s0),
			arc, arc, b2i(turn > 0), pt(x+arc*c1, y+arc*s1), markInk)
	} else if m.At != "" {
		var known bool
		if x, y, known = s.landmark(m.At); !known {
			x, y, _ = s.cam.see(s.f.P[body.SegPelvis])
		}
		fmt.Fprintf(sb, `<circle cx="%s" cy="%s" r="13" fill="none" stroke="%s" stroke-width="2.5"/>`, num(x), num(y),
			markInk)
	}
	tx, ty := box.X0+6, box.Y0+14
	if m.At != "" {
		fmt.Fprintf(sb, `<path d="M%sL%s" stroke="%s" stroke-width="1" stroke-dasharray="2 3"/>`, pt(tx+24, ty+21), pt(x, y),
			markInk)
	}
	for i, line := range []string{m.Text, m.More} {
		fmt.Fprintf(sb, `<text x="%s" y="%s" font-family="sans-serif" font-size="12.5" font-weight="600" fill="%s">%s</text>`, num(tx), num(ty+16*float64(i)), markInk, escape(line))
	}
}

func (s *scene) landmark(name string) (x, y float64, ok bool) {
	v, ok := s.b.Landmark(&s.f, name)
	if !ok {
		return 0, 0, false
	}
	x, y, _ = s.cam.see(v)
	return x, y, true
}
