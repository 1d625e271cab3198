package body

// Segments a drawing needs by name.
const (
	SegPelvis = segPelvis
	SegL1     = segL1
	SegT1     = segT1
	SegChest  = segT3
	SegN1     = segN1
	SegHead   = segHead
)

// TrunkPoint is where a point of the standing reference trunk (m, hips at the origin)
// lies when it is fixed to a segment.
func (b *Body) TrunkPoint(f *Frames, seg int, at Vec) Vec {
	return f.P[seg].Add(f.R[seg].Mul(b.trunkPoint(at).Sub(b.segRest(seg))))
}

// Outline is enough of the skin to find the extent of a posed body.
func (b *Body) Outline(f *Frames) []Vec {
	out := make([]Vec, 0, len(b.spheres)+1)
	for i := range b.spheres {
		out = append(out, f.P[b.spheres[i].seg].Add(f.R[b.spheres[i].seg].Mul(b.spheres[i].at)))
	}
	return append(out, b.Point(f, "crown"))
}

// ContactPoints are the places where a pose's contacts touch, in their order.
func (b *Body) ContactPoints(p *Pose, f *Frames) []Vec {
	out := make([]Vec, len(p.Contacts))
	for i, c := range p.Contacts {
		for k := range b.spheres {
			if b.spheres[k].name == c.Sphere {
				out[i] = b.touchPoint(f, k, Surfaces[c.Surface])
			}
		}
	}
	return out
}
