package body

// sphere is a ball of skin fixed to a segment: contacts touch at its lowest point and
// the same balls find penetration.
type sphere struct {
	name string // with .left or .right where paired
	seg  int
	at   Vec
	r    float64
	pad  float64 // radius of ground the contact really covers, for the base of support
}

func (b *Body) laySkin() {
	s := b.scale
	trunk := func(name string, seg int, at Vec, r, pad float64) {
		b.spheres = append(b.spheres, sphere{name, seg, b.trunkPoint(at).Sub(b.segRest(seg)), r * s, pad * s})
	}
	pair := func(name string, seg int, at Vec, r, pad float64) {
		trunk(name+".left", seg, at, r, pad)
		at[1] = -at[1]
		trunk(name+".right", seg, at, r, pad)
	}
	trunk("sacrum", segPelvis, Vec{-0.055, 0, 0.065}, 0.05, 0.05)
	pair("sit-bone", segPelvis, Vec{-0.010, 0.065, -0.015}, 0.07, 0.04)
	pair("buttock", segPelvis, Vec{-0.035, 0.07, 0.005}, 0.07, 0.04)
	pair("hip-bone", segPelvis, Vec{0.055, 0.095, 0.065}, 0.035, 0.03)
	pair("hip-side", segPelvis, Vec{0, 0.128, 0.0}, 0.045, 0.06)
	trunk("belly", segL3, Vec{0.055, 0, 0.205}, 0.045, 0.06)
	pair("waist", segL3, Vec{0, 0.085, 0.205}, 0.04, 0.03)
	trunk("low-back", segL2, Vec{-0.0492, 0, 0.185}, 0.035, 0.05)
	trunk("mid-back", segT1, Vec{-0.06, 0, 0.335}, 0.045, 0.06)
	pair("upper-back", segT3, Vec{-0.065, 0.07, 0.48}, 0.04, 0.05)
	pair("rib", segT2, Vec{0.065, 0.065, 0.40}, 0.045, 0.05)
	pair("rib-side", segT2, Vec{0, 0.105, 0.41}, 0.035, 0.04)
	trunk("occiput", segHead, Vec{-0.045, 0, 0.765}, 0.06, 0.04)
	trunk("forehead", segHead, Vec{0.06, 0, 0.785}, 0.04, 0.03)
	pair("temple", segHead, Vec{0, 0.02, 0.765}, 0.06, 0.03)
	trunk("crown", segHead, Vec{0, 0, 0.798}, 0.06, 0.03)
	for _, side := range []Side{Left, Right} {
		y := side.sign()
		limb := func(name string, seg int, at Vec, r, pad float64) {
			b.spheres = append(b.spheres, sphere{name + [2]string{".left", ".right"}[side], limbSeg(side, seg), at, r * s, pad * s})
		}
		limb("shoulder-side", segUpperArm, Vec{0, 0, 0}, 0.052, 0.04)
		limb("elbow", segForearm, Vec{0, 0, 0}, 0.034, 0.03)
		limb("forearm-end", segForearm, Vec{0, 0, -b.forearm * 0.93}, 0.027, 0.03)
		// Palm side is -y for the left hand and +y for the right.
		limb("palm", segHand, Vec{0, -y * 0.004 * s, -b.palm * 0.3}, 0.022, 0.035)
		limb("knuckle", segHand, Vec{0, -y * 0.008 * s, -b.palm}, 0.018, 0.035)
		limb("fingertip", segHand, Vec{0, -y * 0.014 * s, -b.hand * 0.95}, 0.012, 0.01)
		limb("thigh-back", segThigh, Vec{-0.020 * s, 0, -0.38 * b.thigh}, 0.048, 0.05)
		limb("thigh-front", segThigh, Vec{0.030 * s, 0, -0.60 * b.thigh}, 0.055, 0.05)
		limb("knee", segShank, Vec{0.0, 0, 0}, 0.052, 0.03)
		limb("calf", segShank, Vec{-0.012 * s, 0, -b.shank * 0.35}, 0.040, 0.04)
		limb("ankle-side", segShank, Vec{0, 0, -b.shank}, 0.035, 0.02)
		limb("heel", segFoot, Vec{-0.045 * s, 0, -0.045 * s}, 0.03, 0.028)
		limb("ball", segFoot, Vec{0.50 * b.foot, 0, -0.050 * s}, 0.025, 0.042)
		limb("instep", segFoot, Vec{0.50 * b.foot, 0, -0.040 * s}, 0.030, 0.03)
		limb("toe", segToe, Vec{0.20 * b.foot, 0, -0.002 * s}, 0.016, 0.025)
	}
}

// part is a contact an author can name: the spheres that touch and the name under
// which its share of body weight is reported.
type part struct {
	spheres []string // without side
	report  string
	paired  bool // authors may write .left / .right
	both    bool // spheres come in pairs that always act together
}

// parts are the contacts of the pose grammar.
var parts = map[string]part{
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
