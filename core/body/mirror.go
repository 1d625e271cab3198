package body

import "strings"

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
	m.Off, m.Slide = mirrorNames(s.Off), mirrorNames(s.Slide)
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
