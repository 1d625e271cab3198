package body

// base is a starting posture: statements plus the orientation the solver begins from.
type base struct {
	text     string
	turn     Quat
	height   float64 // of the hips, m at reference scale
	position string
}

var (
	upright  = Quat{1, 0, 0, 0}
	faceUp   = axisTurn(1, -90*deg)
	faceDown = axisTurn(1, 90*deg)
	onLeft   = axisTurn(2, -90*deg).mul(axisTurn(0, -90*deg))
)

// bases are the postures poses start from. Their angles are inherited: a pose that says
// nothing about a joint keeps it near its base.
var bases = map[string]base{
	"standing": {`
		on floor foot
		shoulder abduction 7
		elbow flexion 10
		forearm pronation 20
		hip abduction 3
		knee flexion 2
		hip flexion 1
	`, upright, 0.875, "standing"},
	"seated": {`
		on chair seat
		on floor foot
		hip flexion 85
		hip abduction 8
		knee flexion 88
		shoulder flexion 22
		shoulder abduction 6
		elbow flexion 55
		forearm pronation 80
		touch palm thigh
	`, upright, 0.56, "sitting"},
	"supine": {`
		on floor pelvis mid-back upper-back head heel
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 4
		hip flexion 2
		knee flexion 4
		ankle down 15
	`, faceUp, 0.105, "supine"},
	"hook-lying": {`
		on floor pelvis mid-back upper-back head foot
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 5
		hip flexion 55
		knee flexion 97
	`, faceUp, 0.105, "supine"},
	"tabletop": {`
		on floor pelvis mid-back upper-back head
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 4
		hip flexion 90
		knee flexion 90
	`, faceUp, 0.105, "supine"},
	"prone": {`
		on floor pelvis-front ribs thigh-front shank
		on pillow forehead
		shoulder abduction 14
		shoulder extension 2
		elbow flexion 6
		forearm pronation 75
		hip abduction 4
		ankle down 48
		toes down 20
	`, faceDown, 0.10, "prone"},
	"all-fours": {`
		on floor hand knee shank
		hip flexion 82
		hip abduction 2
		knee flexion 84
		ankle down 46
		toes down 20
		shoulder flexion 82
		shoulder abduction 2
		forearm pronation 90
		wrist extension 85
		neck extension 6
	`, faceDown, 0.42, "all-fours"},
	"side-lying-left": {`
		on floor hip-side.left shoulder-side.left knee-side.left ankle-side.left
		on pillow temple.left
		hip flexion 45
		knee flexion 80
		shoulder.left flexion 80
		elbow.left flexion 70
		shoulder.right flexion 40
		elbow.right flexion 75
		touch knee.left knee.right 10
		touch ankle.left ankle.right 8
		forearm.right pronation 60
	`, onLeft, 0.17, "side"},
	"tall-kneeling": {`
		on floor knee shank
		hip abduction 3
		knee flexion 86
		ankle down 46
		toes down 20
		shoulder abduction 7
		elbow flexion 10
	`, upright, 0.42, "kneeling"},
	"high-plank": {`
		on floor hand toes
		shoulder flexion 78
		shoulder abduction 2
		forearm pronation 90
		wrist extension 85
		ankle up 10
		toes up 55
		neck extension 4
		line shoulder hip ankle
	`, axisTurn(1, 72*deg), 0.4, "all-fours"},
}

// BaseNames lists the base poses.
func BaseNames() []string { return sortedKeys(bases) }
