package pose

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"restbend/core/body"
)

// Mirror exchanges left and right in what the author asked for.
func (s *Spec) Mirror() *Spec {
	m := *s
	m.Angles = nil
	for _, a := range s.Angles {
		m.Angles = append(m.Angles, mirrorAngle(a))
	}
	m.Loose = nil
	for _, d := range s.Loose {
		m.Loose = append(m.Loose, mirrorAngle(Angle{Dof: d}).Dof)
	}
	m.On = nil
	for _, c := range s.On {
		m.On = append(m.On, c.mirror())
	}
	m.Tilt = nil
	for _, t := range s.Tilt {
		if t.axis != 1 {
			t.angle = -t.angle
		}
		m.Tilt = append(m.Tilt, t)
	}
	m.Off, m.Slide, m.Step = body.MirrorNames(s.Off), body.MirrorNames(s.Slide), body.MirrorNames(s.Step)
	m.Said = nil
	for _, q := range s.Said {
		m.Said = append(m.Said, q.mirror())
	}
	m.Props = mirrorProps(s.Props)
	m.Relations = nil
	for _, r := range s.Relations {
		m.Relations = append(m.Relations, r.mirror())
	}
	m.From = body.MirrorName(s.From)
	return &m
}

func (c Contact) mirror() Contact {
	return Contact{body.MirrorName(c.Sphere), body.MirrorName(c.Surface), body.MirrorName(c.Report)}
}

func (r Relation) mirror() Relation { return Relation{r.Kind, body.MirrorNames(r.Args), r.Value} }

func mirrorAngle(a Angle) Angle {
	switch {
	case a.Dof < body.Limbs && a.Dof%3 != 0:
		return Angle{a.Dof, -a.Value}
	case a.Dof < body.Limbs:
		return a
	case a.Dof < body.Limbs+body.LimbCount:
		return Angle{a.Dof + body.LimbCount, a.Value}
	}
	return Angle{a.Dof - body.LimbCount, a.Value}
}

func mirrorProps(in []body.Prop) []body.Prop {
	var out []body.Prop
	for _, p := range in {
		out = append(out, p.Mirror())
	}
	return out
}

// exchanged is a solved pose with left and right exchanged, as another phase: what was
// asked and said of one side is asked and said of the other.
func (p *Pose) exchanged(spec *Spec) *Pose {
	m := p.Mirror()
	said := p.Spec.Mirror()
	said.Mirrored, said.Slide, said.Step = true, spec.Slide, spec.Step
	if spec.View != "" {
		m.View = spec.View
	}
	m.Spec, m.Asked = said, map[int]float64{}
	for d, v := range p.Asked {
		a := mirrorAngle(Angle{d, v})
		m.Asked[a.Dof] = a.Value
	}
	m.home = body.State{Q: p.home}.Mirror().Q
	if p.from != nil {
		from := p.from.Mirror()
		m.from = &from
	}
	m.said = nil
	for _, q := range p.said {
		m.said = append(m.said, q.mirror())
	}
	m.relations = nil
	for _, r := range p.relations {
		m.relations = append(m.relations, r.mirror())
	}
	m.fists = [2]bool{p.fists[1], p.fists[0]}
	return m
}

// Mirrors tells whether two poses say the same of opposite sides: the same joints in the
// same directions, the same contacts and relations, numbers aside. A pose that is its own
// mirror mirrors nothing.
func Mirrors(a, b *Spec) bool {
	if b.Mirrored != a.Mirrored && (a.Mirrored || b.Mirrored) {
		return false // solved as an exact mirror
	}
	m := a.Mirror().outline()
	return m == b.outline() && m != a.outline()
}

// outline is what a pose speaks about, without its numbers.
func (s *Spec) outline() string {
	var out []string
	for _, a := range s.Angles {
		sign := ""
		switch { // flexion or extension, to the left or to the right
		case a.Value > 0:
			sign = " up"
		case a.Value < 0:
			sign = " down"
		}
		out = append(out, fmt.Sprint("angle ", a.Dof, sign))
	}
	for _, c := range s.On {
		out = append(out, "on "+c.Surface+" "+c.Sphere)
	}
	for _, c := range s.Off {
		out = append(out, "off "+c)
	}
	for _, r := range s.Relations {
		out = append(out, fmt.Sprint("relation ", r.Kind, r.Args))
	}
	for _, t := range s.Tilt {
		out = append(out, fmt.Sprint("tilt ", t.axis, t.angle > 0))
	}
	sort.Strings(out)
	return strings.Join(slices.Compact(out), "\n")
}

// MirrorDifference is by how much two poses fail to be mirror images, degrees.
func MirrorDifference(a, b *Pose) float64 {
	m := a.Mirror()
	d := 0.0
	for i := range m.Q {
		d = math.Max(d, math.Abs(m.Q[i]-b.Q[i])/body.Deg)
	}
	return math.Max(d, rotationTo(m.Turn, b.Turn).Len()/body.Deg)
}

// Mirror exchanges the client's left and right in a solved pose.
func (p *Pose) Mirror() *Pose {
	m := *p
	m.State = p.State.Mirror()
	m.Contacts = nil
	for _, c := range p.Contacts {
		m.Contacts = append(m.Contacts, c.mirror())
	}
	m.Props = mirrorProps(p.Props)
	m.heading = body.Vec{-p.heading[0], p.heading[1], -p.heading[2]}
	return &m
}
