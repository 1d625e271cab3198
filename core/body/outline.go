package body

// TrunkPoint is where a point of the standing reference trunk (m, hips at the origin)
// lies when it is fixed to a segment.
func (b *Body) TrunkPoint(f *Frames, seg int, at Vec) Vec {
	return f.P[seg].Add(f.R[seg].Mul(b.trunkPoint(at).Sub(b.segRest(seg))))
}

// Outline is enough of the skin to find the extent of a posed body.
func (b *Body) Outline(f *Frames) []Vec {
	out := make([]Vec, 0, len(b.Spheres)+1)
	for i := range b.Spheres {
		out = append(out, f.P[b.Spheres[i].Seg].Add(f.R[b.Spheres[i].Seg].Mul(b.Spheres[i].At)))
	}
	return append(out, b.Point(f, "crown"))
}
