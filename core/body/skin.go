package body

// Sphere is a ball of skin fixed to a segment: contacts touch at its lowest point and
// the same balls find penetration.
type Sphere struct {
	Name string // with .left or .right where paired
	Seg  int
	At   Vec
	R    float64
	Pad  float64 // radius of ground the contact really covers, for the base of support
}

func (b *Body) laySkin() {
	s := b.Scale
	trunk := func(name string, seg int, at Vec, r, pad float64) {
		b.Spheres = append(b.Spheres, Sphere{name, seg, b.trunkPoint(at).Sub(b.segRest(seg)), r * s, pad * s})
	}
	pair := func(name string, seg int, at Vec, r, pad float64) {
		trunk(name+".left", seg, at, r, pad)
		at[1] = -at[1]
		trunk(name+".right", seg, at, r, pad)
	}
	trunk("sacrum", SegPelvis, Vec{-0.055, 0, 0.065}, 0.05, 0.05)
	pair("sit-bone", SegPelvis, Vec{-0.010, 0.065, -0.015}, 0.07, 0.04)
	pair("buttock", SegPelvis, Vec{-0.035, 0.07, 0.005}, 0.07, 0.04)
	pair("hip-bone", SegPelvis, Vec{0.055, 0.095, 0.065}, 0.035, 0.03)
	pair("hip-side", SegPelvis, Vec{0, 0.128, 0.0}, 0.045, 0.06)
	trunk("belly", SegL3, Vec{0.055, 0, 0.205}, 0.045, 0.06)
	pair("waist", SegL3, Vec{0, 0.085, 0.205}, 0.04, 0.03)
	trunk("low-back", SegL2, Vec{-0.0492, 0, 0.185}, 0.035, 0.05)
	trunk("mid-back", SegT1, Vec{-0.06, 0, 0.335}, 0.045, 0.06)
	pair("upper-back", SegT3, Vec{-0.065, 0.07, 0.48}, 0.04, 0.05)
	pair("rib", SegT2, Vec{0.065, 0.065, 0.40}, 0.045, 0.05)
	pair("rib-side", SegT2, Vec{0, 0.105, 0.41}, 0.035, 0.04)
	trunk("occiput", SegHead, Vec{-0.045, 0, 0.765}, 0.06, 0.04)
	trunk("forehead", SegHead, Vec{0.06, 0, 0.785}, 0.04, 0.03)
	pair("temple", SegHead, Vec{0, 0.02, 0.765}, 0.06, 0.03)
	trunk("crown", SegHead, Vec{0, 0, 0.798}, 0.06, 0.03)
	for _, side := range []Side{Left, Right} {
		y := side.Sign()
		limb := func(name string, seg int, at Vec, r, pad float64) {
			b.Spheres = append(
				b.Spheres,
				Sphere{name + [2]string{".left", ".right"}[side], LimbSeg(side, seg), at, r * s, pad * s},
			)
		}
		limb("shoulder-side", SegUpperArm, Vec{0, 0, 0}, 0.052, 0.04)
		limb("elbow", SegForearm, Vec{0, 0, 0}, 0.034, 0.03)
		limb("forearm-end", SegForearm, Vec{0, 0, -b.forearm * 0.93}, 0.027, 0.03)
		// Palm side is -y for the left hand and +y for the right.
		limb("palm", SegHand, Vec{0, -y * 0.004 * s, -b.palm * 0.3}, 0.022, 0.035)
		limb("knuckle", SegHand, Vec{0, -y * 0.008 * s, -b.palm}, 0.018, 0.035)
		limb("fingertip", SegHand, Vec{0, -y * 0.014 * s, -b.hand * 0.95}, 0.012, 0.01)
		limb("thigh-back", SegThigh, Vec{-0.020 * s, 0, -0.38 * b.thigh}, 0.048, 0.05)
		limb("thigh-front", SegThigh, Vec{0.030 * s, 0, -0.60 * b.thigh}, 0.055, 0.05)
		limb("knee", SegShank, Vec{0.0, 0, 0}, 0.052, 0.03)
		limb("calf", SegShank, Vec{-0.012 * s, 0, -b.shank * 0.35}, 0.040, 0.04)
		limb("ankle-side", SegShank, Vec{0, 0, -b.shank}, 0.035, 0.02)
		limb("heel", SegFoot, Vec{-0.045 * s, 0, -0.045 * s}, 0.03, 0.028)
		limb("ball", SegFoot, Vec{0.50 * b.foot, 0, -0.050 * s}, 0.025, 0.042)
		limb("instep", SegFoot, Vec{0.50 * b.foot, 0, -0.040 * s}, 0.030, 0.03)
		limb("toe", SegToe, Vec{0.20 * b.foot, 0, -0.002 * s}, 0.016, 0.025)
	}
}

// Part is a contact an author can name: the spheres that touch and the name under
// which its share of body weight is reported.
type Part struct {
	Spheres []string // without side
	Report  string
	Paired  bool // authors may write .left / .right
	Both    bool // spheres come in pairs that always act together
}

// Parts are the contacts of the pose grammar.
var Parts = map[string]Part{
	"hand":           {[]string{"palm", "knuckle"}, "hand", true, false},
	"fingertips":     {[]string{"fingertip"}, "hand", true, false},
	"heel-of-hand":   {[]string{"palm"}, "hand", true, false},
	"fingers":        {[]string{"knuckle"}, "hand", true, false},
	"fist":           {[]string{"knuckle"}, "hand", true, false},
	"forearm":        {[]string{"elbow", "forearm-end"}, "forearm", true, false},
	"elbow":          {[]string{"elbow"}, "elbow", true, false},
	"knee":           {[]string{"knee"}, "knee", true, false},
	"shank":          {[]string{"instep"}, "shank", true, false},
	"calf":           {[]string{"calf"}, "shank", true, false},
	"ankle-side":     {[]string{"ankle-side"}, "shank", true, false},
	"foot":           {[]string{"heel", "ball"}, "foot", true, false},
	"ball-of-foot":   {[]string{"ball"}, "toes", true, false},
	"toes":           {[]string{"ball", "toe"}, "toes", true, false},
	"heel":           {[]string{"heel"}, "heel", true, false},
	"thigh":          {[]string{"thigh-back"}, "thigh", true, false},
	"thigh-front":    {[]string{"thigh-front"}, "thigh", true, false},
	"sit-bone":       {[]string{"sit-bone"}, "pelvis", true, false},
	"seat":           {[]string{"sit-bone"}, "pelvis", false, true},
	"buttock":        {[]string{"buttock"}, "pelvis", true, false},
	"pelvis":         {[]string{"sacrum"}, "pelvis", false, false},
	"pelvis-front":   {[]string{"hip-bone"}, "pelvis", false, true},
	"mid-back":       {[]string{"mid-back"}, "mid-back", false, false},
	"low-back":       {[]string{"low-back"}, "mid-back", false, false},
	"shoulder-blade": {[]string{"upper-back"}, "upper-back", true, false},
	"upper-back":     {[]string{"upper-back"}, "upper-back", false, true},
	"head":           {[]string{"occiput"}, "head", false, false},
	"forehead":       {[]string{"forehead"}, "head", false, false},
	"ribs":           {[]string{"rib"}, "ribs", false, true},
	"belly":          {[]string{"belly"}, "belly", false, false},
	"hip-side":       {[]string{"hip-side"}, "hip-side", true, false},
	"shoulder-side":  {[]string{"shoulder-side"}, "shoulder-side", true, false},
	"rib-side":       {[]string{"rib-side"}, "ribs", true, false},
	"temple":         {[]string{"temple"}, "head", true, false},
	"knee-side":      {[]string{"knee"}, "knee", true, false},
}

// SphereCenter is where a ball of skin is.
func (b *Body) SphereCenter(f *Frames, i int) Vec {
	sp := &b.Spheres[i]
	return f.P[sp.Seg].Add(f.R[sp.Seg].Mul(sp.At))
}

// SpherePoint is the lowest point of a sphere.
func (b *Body) SpherePoint(f *Frames, i int) Vec {
	v := b.SphereCenter(f, i)
	v[2] -= b.Spheres[i].R
	return v
}

// TouchPoint is the point of a sphere nearest a surface.
func (b *Body) TouchPoint(f *Frames, i int, s Surface) Vec {
	return b.SphereCenter(f, i).Sub(s.N.Scale(b.Spheres[i].R))
}
