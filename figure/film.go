package figure

import (
	"errors"
	"math"
	"strings"

	"restbend/core/pose"
)

// Film is an exercise as parts that move: fixed parts with a fixed number of points each, one
// paint order, and whole-number points for every solved moment. Whoever shows it moves
// between the moments; between phase k and the next lie the moments Phases[k].At to the
// following phase, evenly spaced in time.
type Film struct {
	ViewBox [4]float64  `json:"viewBox"`
	Scale   int         `json:"scale"`  // points are in 1/scale of the view box's units
	Floor   string      `json:"floor"`  // mat, bed or floor, painted first
	Behind  string      `json:"behind"` // furniture, painted after the parts on the ground
	Ground  int         `json:"ground"` // parts painted before the furniture
	Parts   []FilmPart  `json:"parts"`  // in paint order
	Phases  []FilmPhase `json:"phases"`
	Back    int         `json:"back"` // the phase that follows the last: the first of a round
	// the first whole, the others as differences: x, y of every point; a fading part ends with its alpha in percent
	Moments [][]int `json:"moments"`
}

// FilmPart is one outline that moves.
type FilmPart struct {
	ID     string  `json:"id"`
	Fill   string  `json:"fill"`
	Edge   string  `json:"edge,omitempty"`  // colour of a thin line round it
	Width  float64 `json:"width,omitempty"` // of an open line
	Sharp  bool    `json:"sharp,omitempty"`
	Fade   bool    `json:"fade,omitempty"`
	Points []int   `json:"points"` // of each of its outlines
}

// FilmPhase is where a phase lies among the moments, and how an unattended film spends time:
// the seconds of the way into it, and of staying.
type FilmPhase struct {
	Name   string  `json:"name"`
	Breath string  `json:"breath"`
	At     int     `json:"at"`
	To     int     `json:"to"`   // the moment of the phase after it, counted on past the end for the last
	Move   float64 `json:"move"` // at least so long that the eye can follow
	Stay   float64 `json:"stay"`
}

const filmScale = 10

// moment is a solved posture on the way from one phase to the next.
type moment struct {
	pose     *pose.Pose
	from, to *pose.Pose
	t        float64
}

// way is the solved postures from a phase to the next one, both ends left out.
func (q *Sequence) way(i int) (out []moment) {
	paths := q.v.Solved.Frames()
	if i >= len(paths) {
		return nil
	}
	states := paths[i].States()
	next := q.v.Next(i)
	for k, st := range states {
		state := st.State()
		if q.flip {
			state = (&pose.Pose{State: state}).Mirror().State
		}
		out = append(
			out,
			moment{
				pose.OnTheWay(q.poses[i], q.poses[next], state),
				q.poses[i],
				q.poses[next],
				float64(k+1) / float64(len(states)+1),
			},
		)
	}
	return out
}

// Film lays a version out as moving parts.
func (q *Sequence) Film(opt Options) Film {
	opt.Compact, opt.Felt = false, false
	f := Film{Scale: filmScale, Back: q.v.Round()}
	box := q.box // a limb may reach farther on the way than in any phase
	var moments []moment
	for i, p := range q.poses {
		ph := FilmPhase{Name: q.v.Phases[i].Name, Breath: q.v.Phases[i].Breath, At: len(moments), Move: q.v.Phases[i].Seconds}
		if q.v.Phases[i].Held && q.v.Hold != "cycle" {
			ph.Stay = 1.2
		}
		moments = append(moments, moment{p, p, p, 0})
		moments = append(moments, q.way(i)...)
		ph.To = len(moments)
		f.Phases = append(f.Phases, ph)
	}
	for i := range q.poses { // nothing moves faster than the eye follows
		next := &f.Phases[q.v.Next(i)]
		next.Move = math.Max(math.Max(next.Move, briefest), q.calm(i))
	}
	var last []int
	for k := range moments {
		m := &moments[k]
		o := q.options(opt, m.from, m.to, m.t)
		if m.t > 0 {
			o.touches = q.touches(&pose.Pose{State: m.pose.State, Contacts: m.from.Contacts}, m.to, m.t)
		}
		s := q.drawer.scene(m.pose, q.room, o)
		if k == 0 {
			for _, i := range o.order {
				f.Parts = append(f.Parts, filmPart(&s.shapes[i]))
				if s.shapes[i].layer == layerGround {
					f.Ground++
				}
			}
			f.Floor, f.Behind = s.floor(q.room), blocksOf(q.room, s.cam)
		}
		for i := range s.shapes {
			for _, outline := range s.shapes[i].subs {
				for _, p := range outline {
					box.add(p.x, p.y, 2)
				}
			}
		}
		now := s.numbers(o.order)
		diff := now
		if last != nil {
			diff = make([]int, len(now))
			for i := range now {
				diff[i] = now[i] - last[i]
			}
		}
		f.Moments, last = append(f.Moments, diff), now
	}
	f.ViewBox = [4]float64{
		math.Floor(box.X0),
		math.Floor(box.Y0),
		math.Ceil(box.X1 - box.X0 + 1),
		math.Ceil(box.Y1 - box.Y0 + 1),
	}
	return f
}

func filmPart(h *shape) FilmPart {
	p := FilmPart{ID: h.id, Fill: h.fill, Width: h.width, Sharp: h.sharp, Fade: h.fade}
	if h.edge {
		p.Edge = mix(h.fill, "#1c1a18", 0.35)
	}
	for _, q := range h.subs {
		p.Points = append(p.Points, len(q))
	}
	return p
}

// numbers are the points of all parts as whole numbers, in paint order.
func (s *scene) numbers(order []int) (out []int) {
	for _, i := range order {
		h := &s.shapes[i]
		for _, q := range h.subs {
			for _, p := range q {
				out = append(out, int(math.Round(p.x*filmScale)), int(math.Round(p.y*filmScale)))
			}
		}
		if h.fade {
			out = append(out, int(math.Round(h.alpha*100)))
		}
	}
	return out
}

// ErrNoWay is returned where a version has no solved way between two phases.
var ErrNoWay = errors.New("no solved way between these phases")

// Between draws a moment on the way from one phase to another: share 0 is the first, 1 the
// second. The way goes through the phases between them, back along the round where that is
// nearer.
func (q *Sequence) Between(from, to int, share float64, opt Options) (string, error) {
	f := q.Film(opt)
	at, ok := f.position(from, to, share)
	if !ok {
		return "", ErrNoWay
	}
	var sb strings.Builder
	f.draw(&sb, at, opt.Title)
	return sb.String(), nil
}

// position is where a share of the way between two phases lies among the moments; after the
// last it counts on to the phase that follows.
func (f *Film) position(from, to int, share float64) (float64, bool) {
	n := len(f.Phases)
	if from < 0 || to < 0 || from >= n || to >= n || share < 0 || share > 1 {
		return 0, false
	}
	a, b := float64(f.Phases[from].At), float64(f.Phases[to].At)
	if from == n-1 && to == f.Back && n > 1 {
		b = float64(f.Phases[from].To)
	}
	return a + (b-a)*share, true
}

// at is the points at a position among the moments; past the last moment the film goes on to
// the phase that follows the last.
func (f *Film) at(pos float64) []float64 {
	whole := make([][]int, len(f.Moments)+1)
	sum := make([]int, len(f.Moments[0]))
	for k, m := range f.Moments {
		next := make([]int, len(sum))
		for i := range sum {
			next[i] = sum[i] + m[i]
		}
		whole[k], sum = next, next
	}
	whole[len(f.Moments)] = whole[f.Phases[f.Back].At]
	i := min(int(pos), len(f.Moments)-1)
	t := pos - float64(i)
	out := make([]float64, len(sum))
	for k := range out {
		out[k] = float64(whole[i][k])*(1-t) + float64(whole[i+1][k])*t
	}
	return out
}

// draw writes the picture at a position.
func (f *Film) draw(sb *strings.Builder, pos float64, title string) {
	b := f.ViewBox
	box := num(b[0]) + " " + num(b[1]) + " " + num(b[2]) + " " + num(b[3])
	sb.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="` + box + `" role="img">`)
	if title != "" {
		sb.WriteString("<title>" + escape(title) + "</title>")
	}
	sb.WriteString(f.Floor)
	v, k := f.at(pos), 0
	for i, p := range f.Parts {
		if i == f.Ground {
			sb.WriteString(f.Behind)
		}
		h := shape{fill: p.Fill, width: p.Width, sharp: p.Sharp, edge: p.Edge != "", alpha: 1}
		for _, n := range p.Points {
			q := make([]p2, n)
			for j := range q {
				q[j] = p2{v[k] / filmScale, v[k+1] / filmScale}
				k += 2
			}
			h.subs = append(h.subs, q)
		}
		if p.Fade {
			h.alpha = v[k] / 100
			k++
		}
		h.write(sb)
	}
	sb.WriteString("</svg>\n")
}
