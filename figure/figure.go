// Package figure draws solved poses as SVG: one articulated person, mat and furniture,
// seen by an orthographic camera a little to one side and above.
package figure

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sort"
	"strconv"
	"strings"

	"restbend/core/body"
)

// Build is how a person looks; it never changes what was measured.
type Build struct {
	Skin, Hair, Top, Trousers string
	Short                     bool // short hair
}

// Builds a studio can choose from.
var Builds = map[string]Build{
	"ash":   {Skin: "#c58c68", Hair: "#4a3a33", Top: "#2f6f73", Trousers: "#3a4152"},
	"rowan": {Skin: "#8a5a3c", Hair: "#221c1a", Top: "#b5694a", Trousers: "#37474a", Short: true},
	"birch": {Skin: "#e2b393", Hair: "#b9b4ac", Top: "#7a5c86", Trousers: "#454a57"},
}

// DefaultBuild is used when none is chosen.
const DefaultBuild = "ash"

// Options of a drawing.
type Options struct {
	Build   string
	Surface string // "bed" draws the floor as a firm bed
	Title   string
	Compact bool // thumbnail: no contact marks
	Flip    bool // mirrored poses are seen from the mirrored place
	Mark    *Mark
	Felt    bool       // marks where the exercise should be felt
	felt    []string   // ... as regions of the skin, of the side drawn
	From    *body.Pose // regions of the spine that have moved since then are coloured
}

// px per metre of the drawing's own units.
const px = 200

const paper = "#fbf8f2"

// Box is a drawing area in drawing units.
type Box struct{ X0, Y0, X1, Y1 float64 }

func (b *Box) add(x, y, r float64) {
	b.X0, b.Y0 = math.Min(b.X0, x-r), math.Min(b.Y0, y-r)
	b.X1, b.Y1 = math.Max(b.X1, x+r), math.Max(b.Y1, y+r)
}

type camera struct {
	st, ct, sr, cr float64
	flip           bool // seen from the mirrored place
}

func newCamera(view string, flip bool) camera {
	v, ok := body.Views[view]
	if !ok {
		v = body.Views["side"]
	}
	st, ct := math.Sincos(v.Turn * math.Pi / 180)
	sr, cr := math.Sincos(v.Raise * math.Pi / 180)
	return camera{st, ct, sr, cr, flip}
}

// see returns screen x, y (down) and depth (larger is farther).
func (c camera) see(v body.Vec) (x, y, depth float64) {
	if c.flip {
		v[1] = -v[1]
	}
	u := v[0]*c.ct + v[1]*c.st
	d := -v[0]*c.st + v[1]*c.ct
	if c.flip {
		u = -u
	}
	return u * px, -(v[2]*c.cr + d*c.sr) * px, d*c.cr - v[2]*c.sr
}

// Drawer draws the poses of one body.
type Drawer struct{ body *body.Body }

// NewDrawer returns a drawer for a body.
func NewDrawer(b *body.Body) *Drawer { return &Drawer{b} }

// piece is one shape with its depth.
type piece struct {
	depth float64
	svg   string
}

type scene struct {
	cam    camera
	b      *body.Body
	f      body.Frames
	p      *body.Pose
	build  Build
	pieces []piece
	box    Box
	opt    Options
	far    bool // the limb being drawn is the far one
}

// Extent is the box that holds all poses of an exercise, so that pictures do not jump.
func (d *Drawer) Extent(poses []*body.Pose, room body.Scene, flip bool) Box {
	box := Box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	for _, p := range poses {
		cam := newCamera(p.View, flip)
		var f body.Frames
		d.body.Place(&p.State, &f)
		for _, v := range d.body.Outline(&f) {
			x, y, _ := cam.see(v)
			box.add(x, y, 0.085*px)
		}
		for i := range p.Props {
			for _, v := range p.Props[i].Ends(d.body, &f) {
				x, y, _ := cam.see(v)
				box.add(x, y, 8)
			}
		}
		for _, q := range corners(room) {
			x, y, _ := cam.see(q)
			box.add(x, y, 4)
		}
	}
	box.Y1 += 10
	return box
}

// SVG draws one pose inside a box.
func (d *Drawer) SVG(p *body.Pose, room body.Scene, box Box, opt Options) string {
	if opt.Mark != nil {
		box = box.roomFor(opt.Mark)
	}
	var sb strings.Builder
	fmt.Fprintf(&sb, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="%.0f %.0f %.0f %.0f" role="img">`,
		box.X0, box.Y0, box.X1-box.X0, box.Y1-box.Y0)
	if opt.Title != "" {
		sb.WriteString("<title>" + escape(opt.Title) + "</title>")
	}
	sb.WriteString(d.Inner(p, room, opt))
	if len(opt.felt) > 0 {
		s := &scene{cam: newCamera(p.View, opt.Flip), b: d.body, p: p, opt: opt}
		d.body.Place(&p.State, &s.f)
		for _, region := range opt.felt {
			s.glow(&sb, region)
		}
	}
	if opt.Mark != nil {
		s := &scene{cam: newCamera(p.View, opt.Flip), b: d.body, p: p, opt: opt}
		d.body.Place(&p.State, &s.f)
		s.mark(&sb, opt.Mark, box)
	}
	sb.WriteString("</svg>\n")
	return sb.String()
}

// Inner draws the content of the svg element, for animation frames.
func (d *Drawer) Inner(p *body.Pose, room body.Scene, opt Options) string {
	build, ok := Builds[opt.Build]
	if !ok {
		build = Builds[DefaultBuild]
	}
	s := &scene{cam: newCamera(p.View, opt.Flip), b: d.body, p: p, build: build, opt: opt}
	d.body.Place(&p.State, &s.f)
	var sb strings.Builder
	sb.WriteString(ground(room, s.cam, opt.Surface))
	s.shadows(&sb)
	sb.WriteString(furniture(room, s.cam))
	s.person()
	s.props()
	s.near(room)
	sort.SliceStable(s.pieces, func(i, j int) bool { return s.pieces[i].depth > s.pieces[j].depth })
	for _, q := range s.pieces {
		sb.WriteString(q.svg)
	}
	s.spine(&sb)
	if !opt.Compact {
		s.contacts(&sb)
	}
	return sb.String()
}

func escape(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;", `"`, "&quot;").Replace(s)
}

// mix blends two #rrggbb colours.
func mix(a, b string, t float64) string {
	const hex = "0123456789abcdef"
	out := [7]byte{'#'}
	for i := 0; i < 3; i++ {
		v := int(math.Round(channel(a, i)*(1-t) + channel(b, i)*t))
		out[1+2*i], out[2+2*i] = hex[v>>4], hex[v&15]
	}
	return string(out[:])
}

// channel is one of the three channels of a #rrggbb colour, 0 to 255.
func channel(c string, i int) float64 {
	v, err := strconv.ParseUint(c[1+2*i:3+2*i], 16, 8)
	if err != nil {
		return 0
	}
	return float64(v)
}

// num prints a coordinate with one decimal and no trailing zero.
func num(v float64) string {
	var buf [16]byte
	return string(appendNum(buf[:0], v))
}

func appendNum(b []byte, v float64) []byte {
	tenths := int64(math.Round(v * 10))
	if tenths < 0 {
		b, tenths = append(b, '-'), -tenths
	}
	b = strconv.AppendInt(b, tenths/10, 10)
	if d := tenths % 10; d != 0 {
		b = append(b, '.', byte('0'+d))
	}
	return b
}

func pt(x, y float64) string {
	var buf [32]byte
	return string(appendNum(append(appendNum(buf[:0], x), ' '), y))
}

// capsule is the outline of two circles and their common tangents.
func capsule(x1, y1, r1, x2, y2, r2 float64) string {
	dx, dy := x2-x1, y2-y1
	d := math.Hypot(dx, dy)
	if d <= math.Abs(r1-r2)+0.05 {
		if r2 > r1 {
			x1, y1, r1 = x2, y2, r2
		}
		return circle(x1, y1, r1)
	}
	base := math.Atan2(dy, dx)
	t := math.Acos((r1 - r2) / d)
	at := func(x, y, r, a float64) string { s, c := math.Sincos(a); return pt(x+r*c, y+r*s) }
	large1, large2 := 0, 0
	if r1 > r2 {
		large1 = 1
	} else {
		large2 = 1
	}
	return fmt.Sprintf("M%sL%sA%s %s 0 %d 0 %sL%sA%s %s 0 %d 0 %sZ",
		at(x1, y1, r1, base+t), at(x2, y2, r2, base+t), num(r2), num(r2), large2, at(x2, y2, r2, base-t),
		at(x1, y1, r1, base-t), num(r1), num(r1), large1, at(x1, y1, r1, base+t))
}

func circle(x, y, r float64) string {
	return fmt.Sprintf("M%sa%s %s 0 1 0 %s 0a%s %s 0 1 0 %s 0Z", pt(x-r, y), num(r), num(r), num(2*r), num(r), num(r), num(-2*r))
}

// hull2 is the convex hull of screen points as path data.
func hull2(p [][2]float64) string {
	slices.SortFunc(p, func(a, b [2]float64) int { return cmp.Or(cmp.Compare(a[0], b[0]), cmp.Compare(a[1], b[1])) })
	cross := func(o, a, b [2]float64) float64 { return (a[0]-o[0])*(b[1]-o[1]) - (a[1]-o[1])*(b[0]-o[0]) }
	var h [][2]float64
	for pass := 0; pass < 2; pass++ {
		n := len(h)
		for k := range p {
			q := p[k]
			if pass == 1 {
				q = p[len(p)-1-k]
			}
			for len(h) >= n+2 && cross(h[len(h)-2], h[len(h)-1], q) <= 0.02 {
				h = h[:len(h)-1]
			}
			h = append(h, q)
		}
		h = h[:len(h)-1]
	}
	var sb strings.Builder
	for i, q := range h {
		sb.WriteString([2]string{"L", "M"}[b2i(i == 0)] + pt(q[0], q[1]))
	}
	return sb.String() + "Z"
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
