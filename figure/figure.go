// Package figure draws solved poses as SVG: one articulated person, mat and furniture,
// seen by an orthographic camera a little to one side and above.
package figure

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"restbend/core/body"
	"restbend/core/furniture"
	"restbend/core/pose"
	"restbend/core/trade"
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
	Build    string
	Surface  trade.Surface // "bed" draws the floor as a firm bed
	Title    string
	Compact  bool // thumbnail: no contact marks
	Flip     bool // mirrored poses are seen from the mirrored place
	Mark     *Mark
	Felt     bool            // marks where the exercise should be felt
	felt     []string        // ... as regions of the skin, of the side drawn
	camera   string          // of the exercise; the pose's own when empty
	pale     map[string]bool // joints whose limbs are drawn paler; worked out from the pose when nil
	order    []int           // the paint order of the exercise; by depth when nil
	floor    bool            // nobody lies or kneels: no mat
	held     []holding       // all that is held at some time of the exercise; what the pose holds when nil
	carriage *carriage       // rides with the pelvis
	touches  []touch         // what carries at this moment of a film; the pose's contacts when nil
	From     *pose.Pose      // regions of the spine that have moved since then are coloured
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

type scene struct {
	cam    camera
	b      *body.Body
	f      body.Frames
	p      *pose.Pose
	build  Build
	shapes []shape
	opt    Options
	far    bool // the limb being drawn is paler
}

// Extent is the box that holds all poses of an exercise, so that pictures do not jump: the
// body, what is held, and the furniture within reach of it.
func (d *Drawer) Extent(poses []*pose.Pose, room furniture.Scene, flip bool, view string) Box {
	box := Box{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	opt := Options{Flip: flip, camera: view}
	var cam camera
	for _, p := range poses {
		cam = opt.cam(p)
		var f body.Frames
		d.body.Place(&p.State, &f)
		for _, v := range d.body.Outline(&f) {
			x, y, _ := cam.see(v)
			box.add(x, y, 0.085*px)
		}
		x, y, _ := cam.see(d.body.TrunkPoint(&f, body.SegHead, bunAt))
		box.add(x, y, (bunRadius+0.005)*px)
		for _, v := range p.ContactPoints(d.body, &f) { // with its shadow
			x, y, _ := cam.see(v)
			box.add(x-shadowX+3, y, 5)
			box.add(x+shadowX-3, y, 5)
		}
		for i := range p.Props {
			ends := p.Props[i].Ends(d.body, &f)
			if p.Props[i].Anchor != "" {
				ends = append(ends, doorTop(ends[1]), body.Vec{ends[1][0], ends[1][1], 0})
			}
			if p.Props[i].Kind == "dowel" {
				from, to := dowel(d.body, &f, ends)
				ends = append(ends, from, to)
			}
			for _, v := range ends {
				x, y, _ := cam.see(v)
				box.add(x, y, 8)
			}
		}
	}
	reach := Box{box.X0 - 70, box.Y0 - 30, box.X1 + 70, box.Y1 + 60}
	for _, v := range corners(room) {
		x, y, _ := cam.see(v)
		box.add(math.Min(math.Max(x, reach.X0), reach.X1), math.Min(math.Max(y, reach.Y0), reach.Y1), 4)
	}
	box.Y1 += 10
	return box
}

// SVG draws one pose inside a box.
func (d *Drawer) SVG(p *pose.Pose, room furniture.Scene, box Box, opt Options) string {
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
		s := &scene{cam: opt.cam(p), b: d.body, p: p, opt: opt}
		d.body.Place(&p.State, &s.f)
		for _, region := range opt.felt {
			s.glow(&sb, region)
		}
	}
	if opt.Mark != nil {
		s := &scene{cam: opt.cam(p), b: d.body, p: p, opt: opt}
		d.body.Place(&p.State, &s.f)
		s.mark(&sb, opt.Mark, box)
	}
	sb.WriteString("</svg>\n")
	return sb.String()
}

// Inner draws the content of the svg element.
func (d *Drawer) Inner(p *pose.Pose, room furniture.Scene, opt Options) string {
	s := d.scene(p, room, opt)
	var sb strings.Builder
	sb.WriteString(s.floor(room))
	order := opt.order
	if order == nil {
		order = paintOrder(s.shapes)
	}
	furnished := false
	for _, i := range order {
		if s.shapes[i].layer > layerGround && !furnished {
			sb.WriteString(blocksOf(room, s.cam))
			furnished = true
		}
		s.shapes[i].write(&sb)
	}
	return sb.String()
}

// scene works out every part of a picture.
func (d *Drawer) scene(p *pose.Pose, room furniture.Scene, opt Options) *scene {
	build, ok := Builds[opt.Build]
	if !ok {
		build = Builds[DefaultBuild]
	}
	s := &scene{cam: opt.cam(p), b: d.body, p: p, build: build, opt: opt, shapes: make([]shape, 0, 64)}
	d.body.Place(&p.State, &s.f)
	touches := opt.touches
	if touches == nil {
		for _, v := range p.ContactPoints(d.body, &s.f) {
			touches = append(touches, touch{v, 1})
		}
	}
	if s.opt.held == nil {
		s.opt.held = holdings([]*pose.Pose{p})
	}
	s.carriage()
	s.ground(touches, !opt.Compact)
	s.person()
	s.props()
	s.near(room)
	s.spine()
	return s
}

// cam is the camera of a picture.
func (opt *Options) cam(p *pose.Pose) camera {
	view := p.View
	if opt.camera != "" {
		view = opt.camera
	}
	return newCamera(view, opt.Flip)
}

// paintOrder is the order in which parts are painted: the ground, the person and what is held
// from far to near, the line of the back.
func paintOrder(shapes []shape) []int {
	order := make([]int, len(shapes))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(i, j int) int {
		a, b := &shapes[i], &shapes[j]
		return cmp.Or(cmp.Compare(a.layer, b.layer), cmp.Compare(b.depth, a.depth))
	})
	return order
}

// write draws a part; one that is not there draws nothing.
func (h *shape) write(sb *strings.Builder) {
	if h.alpha < 0.005 {
		return
	}
	sb.WriteString(`<path d="` + h.path() + `"`)
	if h.width > 0 {
		sb.WriteString(` fill="none" stroke="` + h.fill + `" stroke-width="` + num(h.width))
		sb.WriteString(`" stroke-linecap="round" stroke-linejoin="round"`)
	} else {
		sb.WriteString(` fill="` + h.fill + `"`)
		if h.edge {
			sb.WriteString(` stroke="` + mix(h.fill, "#1c1a18", 0.35) + `" stroke-width="1" stroke-opacity=".55"`)
		}
	}
	if h.alpha < 0.995 {
		sb.WriteString(` opacity="` + strconv.FormatFloat(math.Round(h.alpha*100)/100, 'f', -1, 64) + `"`)
	}
	sb.WriteString("/>")
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

func itoa(i int) string { return strconv.Itoa(i) }
func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
