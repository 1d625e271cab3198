package figure

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
)

// part adds a limb piece: a chain of circles given in metres, in one colour.
func (s *scene) part(fill string, halo bool, lift float64, at []body.Vec, r []float64) {
	var path strings.Builder
	depth := 0.0
	for i, v := range at {
		x, y, d := s.cam.see(v)
		depth += d / float64(len(at))
		if i > 0 {
			px0, py0, _ := s.cam.see(at[i-1])
			path.WriteString(capsule(px0, py0, r[i-1]*px*s.scale(), x, y, r[i]*px*s.scale()))
		}
		s.box.add(x, y, r[i]*px)
	}
	if s.far {
		fill = mix(fill, paper, 0.5)
	}
	stroke := ""
	if halo {
		stroke = fmt.Sprintf(`<path d="%s" fill="none" stroke="%s" stroke-width="3" stroke-linejoin="round"/>`, path.String(), paper)
	}
	s.pieces = append(s.pieces, piece{depth - lift, stroke + fmt.Sprintf(`<path d="%s" fill="%s"/>`, path.String(), fill)})
}

// joint adds a piece at the depth of another point, just in front of it.
func (s *scene) joint(fill string, lift float64, at body.Vec, chain []body.Vec, r []float64) {
	s.part(fill, false, 0, chain, r)
	_, _, d := s.cam.see(at)
	s.pieces[len(s.pieces)-1].depth = d - lift
}

func (s *scene) scale() float64 { return s.b.Stature / 1.735 }

func (s *scene) point(name string) body.Vec { return s.b.Point(&s.f, name) }

// section is an ellipse across the trunk: height above the hips and half breadths (m at
// reference scale), fixed to a segment.
type section struct {
	seg        int
	z, w, d, x float64
}

var hips = []section{
	{body.SegPelvis, -0.055, 0.120, 0.075, -0.012}, {body.SegPelvis, -0.01, 0.163, 0.100, -0.010}, {body.SegPelvis, 0.055, 0.160, 0.100, -0.010},
	{body.SegPelvis, 0.11, 0.140, 0.090, -0.005},
}

var trunk = []section{
	{body.SegPelvis, 0.085, 0.150, 0.096, -0.006}, {body.SegL1 + 1, 0.145, 0.128, 0.090, 0.0}, {body.SegL1 + 3, 0.215, 0.118, 0.086, 0.0},
	{body.SegT1, 0.30, 0.126, 0.094, 0.0}, {body.SegT1 + 1, 0.38, 0.138, 0.104, -0.002}, {body.SegT1 + 2, 0.46, 0.146, 0.106, -0.004},
	{body.SegT1 + 3, 0.52, 0.145, 0.090, -0.010}, {body.SegT1 + 3, 0.565, 0.092, 0.064, -0.020}, {body.SegT1 + 3, 0.59, 0.055, 0.052, -0.024},
}

// tube draws sections as hulls of neighbouring ellipses.
func (s *scene) tube(fill string, secs []section, lift float64) {
	var path strings.Builder
	var last [][2]float64
	depth := 0.0
	for _, sec := range secs {
		var ring [][2]float64
		for k := 0; k < 20; k++ {
			sn, cs := math.Sincos(float64(k) * math.Pi / 10)
			x, y, d := s.cam.see(s.b.TrunkPoint(&s.f, sec.seg, body.Vec{sec.x + sec.d*cs, sec.w * sn, sec.z}))
			depth += d / float64(20*len(secs))
			s.box.add(x, y, 0)
			ring = append(ring, [2]float64{x, y})
		}
		if last != nil {
			path.WriteString(hull2(append(append([][2]float64{}, last...), ring...)))
		}
		last = ring
	}
	s.pieces = append(s.pieces, piece{depth - lift, fmt.Sprintf(`<path d="%s" fill="%s"/>`, path.String(), fill)})
}

func (s *scene) person() {
	b := s.build
	s.tube(b.Top, trunk, 0.0)
	s.tube(b.Trousers, hips, 0.012)
	neckLow, ear := s.b.TrunkPoint(&s.f, body.SegT1+3, body.Vec{-0.03, 0, 0.565}), s.point("ear")
	s.part(b.Skin, false, 0, []body.Vec{neckLow, neckLow.Lerp(ear, 0.75)}, []float64{0.052, 0.046})
	s.head()
	for _, side := range []string{".left", ".right"} {
		p := func(n string) body.Vec { return s.point(n + side) }
		s.far = s.farther("hip", side)
		hip, knee, ankle := p("hip"), p("knee"), p("ankle")
		s.part(b.Trousers, false, 0, []body.Vec{hip, hip.Lerp(knee, 0.45), knee}, []float64{0.088, 0.074, 0.054})
		// The calf sits behind the shin line.
		shin, mid := p("shin"), knee.Lerp(ankle, 0.3)
		calf := mid.Add(mid.Sub(shin).Unit().Scale(0.012 * s.scale()))
		s.part(b.Trousers, true, 0.004, []body.Vec{knee, calf, knee.Lerp(ankle, 0.62), ankle.Lerp(knee, 0.06)}, []float64{0.052, 0.054, 0.042, 0.034})
		s.part(b.Skin, false, 0.002, []body.Vec{ankle, p("heel")}, []float64{0.030, 0.031})
		s.part(b.Skin, false, 0.003, []body.Vec{p("heel"), p("ball"), p("toe")}, []float64{0.031, 0.024, 0.015})
		s.part(b.Skin, false, 0.003, []body.Vec{ankle, p("ball")}, []float64{0.030, 0.022})
		// The knee is drawn again over the halo, so that the leg stays in one piece.
		s.joint(b.Trousers, 0.0045, mid, []body.Vec{knee.Lerp(hip, 0.4), knee, knee.Lerp(ankle, 0.08)}, []float64{0.072, 0.0545, 0.0525})
		s.far = s.farther("shoulder", side)
		sh, el, wr := p("shoulder"), p("elbow"), p("wrist")
		y := map[string]float64{".left": 1, ".right": -1}[side]
		s.part(b.Top, false, 0.004, []body.Vec{s.b.TrunkPoint(&s.f, body.SegT1+3, body.Vec{-0.015, y * 0.08, 0.525}), sh}, []float64{0.058, 0.054})
		s.part(b.Skin, false, 0.008, []body.Vec{sh.Lerp(el, 0.3), el}, []float64{0.043, 0.035})
		s.part(mix(b.Top, "#000000", 0.12), false, 0.012, []body.Vec{sh, sh.Lerp(el, 0.5)}, []float64{0.056, 0.047})
		s.part(b.Skin, true, 0.014, []body.Vec{el, el.Lerp(wr, 0.3), wr}, []float64{0.034, 0.035, 0.023})
		s.joint(b.Skin, 0.0145, el.Lerp(wr, 0.5), []body.Vec{el.Lerp(sh, 0.35), el, el.Lerp(wr, 0.08)}, []float64{0.0385, 0.0355, 0.035})
		tip, hand := p("fingertip"), []float64{0.023, 0.029, 0.010}
		if s.closed(side) {
			tip, hand = wr.Lerp(tip, 0.5), []float64{0.023, 0.032, 0.028}
		}
		s.part(b.Skin, false, 0.015, []body.Vec{wr, wr.Lerp(tip, 0.45), tip}, hand)
	}
	s.far = false
}

// closed tells whether a hand is drawn closed: a fist, or the hand over the one that holds.
func (s *scene) closed(side string) bool {
	other := strings.TrimPrefix(body.MirrorName("x"+side), "x")
	return s.p.Fist(side) || s.p.Fist(other) && s.point("palm"+side).Sub(s.point("palm"+other)).Len() < 0.10
}

// farther tells whether a side lies clearly behind the other, seen by the camera.
func (s *scene) farther(joint, side string) bool {
	_, _, own := s.cam.see(s.point(joint + side))
	_, _, other := s.cam.see(s.point(joint + strings.TrimPrefix(body.MirrorName("x"+side), "x")))
	return own-other > 0.06
}

// head draws skull, hair, ear and nose; they show where the face points.
func (s *scene) head() {
	b := s.build
	at := func(x, y, z float64) body.Vec {
		return s.b.TrunkPoint(&s.f, body.SegHead, body.Vec{x, y, z})
	}
	blob := func(keep func(u body.Vec) bool, grow float64) string {
		var pts [][2]float64
		for i := 0; i <= 12; i++ {
			se, ce := math.Sincos(float64(i)*math.Pi/12 - math.Pi/2)
			for k := 0; k < 20; k++ {
				sa, ca := math.Sincos(float64(k) * math.Pi / 10)
				u := body.Vec{ce * ca, ce * sa, se}
				if !keep(u) {
					continue
				}
				x, y, _ := s.cam.see(at(-0.002+(0.095+grow)*u[0], (0.076+grow)*u[1], 0.750+(0.110+grow)*u[2]))
				pts = append(pts, [2]float64{x, y})
				s.box.add(x, y, 4)
			}
		}
		return hull2(pts)
	}
	_, _, depth := s.cam.see(at(0, 0, 0.755))
	_, _, front := s.cam.see(at(0.1, 0, 0.755))
	facing := depth - front // positive when the face turns to the camera
	out := fmt.Sprintf(`<path d="%s" fill="%s"/>`, blob(func(body.Vec) bool { return true }, 0), b.Skin)
	jaw := blob(func(u body.Vec) bool { return u[2] < 0.1 && u[0] > -0.2 }, -0.004)
	out += fmt.Sprintf(`<path d="%s" fill="%s"/>`, jaw, b.Skin)
	nx, ny, _ := s.cam.see(at(0.106, 0, 0.735))
	n1x, n1y, _ := s.cam.see(at(0.080, 0.012, 0.757))
	n2x, n2y, _ := s.cam.see(at(0.080, -0.012, 0.724))
	nose := fmt.Sprintf(`<path d="M%sL%sL%sZ" fill="%s" stroke="%s" stroke-width="2" stroke-linejoin="round"/>`,
		pt(n1x, n1y), pt(nx, ny), pt(n2x, n2y), mix(b.Skin, "#5b2d1a", 0.14), mix(b.Skin, "#5b2d1a", 0.14))
	hair := blob(func(u body.Vec) bool { return u[0] < 0.10+0.30*u[2] && u[2] > -0.35+0.5*u[0] }, 0.008)
	hairSVG := fmt.Sprintf(`<path d="%s" fill="%s"/>`, hair, b.Hair)
	bunSVG := ""
	if !b.Short {
		bx, by, bd := s.cam.see(at(-0.105, 0, 0.80))
		bunSVG = fmt.Sprintf(`<path d="%s" fill="%s"/>`, circle(bx, by, 0.036*px*s.scale()), b.Hair)
		s.box.add(bx, by, 8)
		if bd > depth { // the bun lies behind the head
			out, bunSVG = bunSVG+out, ""
		}
	}
	ears := ""
	for _, y := range []float64{1, -1} {
		ex, ey, ed := s.cam.see(at(-0.006, 0.074*y, 0.742))
		if ed < depth-0.02 {
			ears += fmt.Sprintf(`<path d="%s" fill="%s"/>`, circle(ex, ey, 0.015*px), mix(b.Skin, "#5b2d1a", 0.22))
		}
	}
	switch {
	case facing > 0.035: // face towards us: hair behind, a fringe on top
		fringe := blob(func(u body.Vec) bool { return u[2] > 0.52 && u[0] > -0.3 }, 0.006)
		out = hairSVG + out + fmt.Sprintf(`<path d="%s" fill="%s"/>`, fringe, b.Hair) + nose
	case facing > -0.03:
		out += hairSVG + nose
	default:
		out = nose + out + hairSVG
	}
	out += ears + bunSVG
	s.pieces = append(s.pieces, piece{depth - 0.01, out})
}

// spine draws the line of the back on the trunk; regions that have moved since the start
// are coloured.
func (s *scene) spine(sb *strings.Builder) {
	dofs := []int{body.LumbarFlex, body.ThoracicFlex, body.NeckFlex}
	from := []int{body.SegPelvis, body.SegL1 + 3, body.SegT1 + 3}
	to := []int{body.SegL1 + 3, body.SegT1 + 3, body.SegN1 + 1}
	for k := range dofs {
		moved := 0.0
		for j := 0; j < 3; j++ {
			if s.opt.From != nil {
				moved = math.Max(moved, math.Abs(s.p.Q[dofs[k]+j]-s.opt.From.Q[dofs[k]+j])*180/math.Pi)
			}
		}
		col, width := mix(s.build.Top, "#ffffff", 0.45), 3.0
		if k == 2 {
			col = mix(s.build.Skin, "#ffffff", 0.25)
		}
		if moved > 8 {
			col, width = "#e9b44c", 4.2
		}
		var d strings.Builder
		for seg := from[k]; seg <= to[k]; seg++ {
			x, y, _ := s.cam.see(s.f.P[seg])
			if seg == body.SegPelvis {
				x, y, _ = s.cam.see(s.b.TrunkPoint(&s.f, seg, body.Vec{-0.045, 0, 0.06}))
			}
			d.WriteString([2]string{"L", "M"}[b2i(seg == from[k])] + pt(x, y))
		}
		fmt.Fprintf(sb, `<path d="%s" fill="none" stroke="%s" stroke-width="%s" stroke-linecap="round" stroke-linejoin="round"/>`, d.String(), col, num(width))
	}
}

// shadows are soft patches where the body meets what carries it.
func (s *scene) shadows(sb *strings.Builder) {
	for _, v := range s.b.ContactPoints(s.p, &s.f) {
		x, y, _ := s.cam.see(v)
		fmt.Fprintf(sb, `<ellipse cx="%s" cy="%s" rx="15" ry="4.5" fill="#2b2620" fill-opacity=".13"/>`, num(x), num(y))
	}
}

// contacts marks what carries weight.
func (s *scene) contacts(sb *strings.Builder) {
	for _, v := range s.b.ContactPoints(s.p, &s.f) {
		x, y, _ := s.cam.see(v)
		fmt.Fprintf(sb, `<ellipse cx="%s" cy="%s" rx="5" ry="1.8" fill="#a4532f"/>`, num(x), num(y+1))
	}
}
