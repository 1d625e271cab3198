package body

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"
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
	m.Off, m.Slide, m.Step = mirrorNames(s.Off), mirrorNames(s.Slide), mirrorNames(s.Step)
	m.Said = nil
	for _, q := range s.Said {
		m.Said = append(m.Said, q.mirror())
	}
	m.Props = mirrorProps(s.Props)
	m.Relations = nil
	for _, r := range s.Relations {
		m.Relations = append(m.Relations, r.mirror())
	}
	m.From = MirrorName(s.From)
	return &m
}

func (c Contact) mirror() Contact {
	return Contact{MirrorName(c.Sphere), MirrorName(c.Surface), MirrorName(c.Report)}
}

func (r Relation) mirror() Relation { return Relation{r.Kind, mirrorNames(r.Args), r.Value} }

func mirrorAngle(a Angle) Angle {
	switch {
	case a.Dof < limbs && a.Dof%3 != 0:
		return Angle{a.Dof, -a.Value}
	case a.Dof < limbs:
		return a
	case a.Dof < limbs+limbCount:
		return Angle{a.Dof + limbCount, a.Value}
	}
	return Angle{a.Dof - limbCount, a.Value}
}

func mirrorNames(in []string) []string {
	var out []string
	for _, n := range in {
		out = append(out, MirrorName(n))
	}
	return out
}

// MirrorName exchanges left and right at the end of a name.
func MirrorName(n string) string {
	for _, sep := range []string{".", "-"} {
		if s, ok := strings.CutSuffix(n, sep+"left"); ok {
			return s + sep + "right"
		}
		if s, ok := strings.CutSuffix(n, sep+"right"); ok {
			return s + sep + "left"
		}
	}
	return n
}

func mirrorProps(in []Prop) []Prop {
	var out []Prop
	for _, p := range in {
		out = append(out, p.mirror())
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
	m.home = State{Q: p.home}.Mirror().Q
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
		d = math.Max(d, math.Abs(m.Q[i]-b.Q[i])/deg)
	}
	return math.Max(d, rotationTo(m.Turn, b.Turn).Len()/deg)
}
