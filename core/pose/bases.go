package pose

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"slices"

	"restbend/core/body"
)

// base is a starting posture: statements plus the orientation the solver begins from.
type base struct {
	text     string
	turn     body.Quat
	height   float64 // of the hips, m at reference scale
	position string
}

var (
	upright  = body.Quat{1, 0, 0, 0}
	faceUp   = body.AxisTurn(1, -90*body.Deg)
	faceDown = body.AxisTurn(1, 90*body.Deg)
	onLeft   = body.AxisTurn(2, -90*body.Deg).Mul(body.AxisTurn(0, -90*body.Deg))
)

// bases are the postures poses start from. Their angles are inherited: a pose that says
// nothing about a joint keeps it near its base.
var bases = map[string]base{
	"standing": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor foot
		shoulder abduction 7
		elbow flexion 10
		forearm pronation 20
		hip abduction 3
		knee flexion 2
		hip flexion 1
	`, upright, 0.875, "standing"},
	"seated": {`
		lumbar flexion 0
		thoracic flexion 0
		on chair seat
		on floor foot
		hip flexion 86
		hip abduction 5
		knee flexion 88
		shoulder flexion 18
		shoulder adduction 4
		elbow flexion 50
		forearm pronation 80
		loose hip
		loose knee
		trunk plumb
		loose shoulder
		loose elbow
		loose forearm
		loose wrist
		lay hand thigh
	`, upright, 0.56, "sitting"},
	"supine": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor pelvis mid-back upper-back head heel
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 3
		hip flexion 2
		knee flexion 4
		ankle down 15
	`, faceUp, 0.105, "supine"},
	"hook-lying": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor pelvis mid-back upper-back head foot
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 3
		hip flexion 55
		knee flexion 97
	`, faceUp, 0.105, "supine"},
	"tabletop": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor pelvis mid-back upper-back head
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 3
		hip flexion 90
		knee flexion 90
	`, faceUp, 0.105, "supine"},
	"prone": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor pelvis-front ribs thigh-front shank
		on towel forehead
		shoulder abduction 14
		shoulder extension 2
		elbow flexion 6
		forearm pronation 75
		hip abduction 3
		ankle down 48
		toes down 20
	`, faceDown, 0.10, "prone"},
	"all-fours": {`
		lumbar flexion 0
		thoracic flexion 0
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
		lumbar flexion 0
		thoracic flexion 0
		on floor hip-side.left shoulder-side.left knee-side.left ankle-side.left
		on pillow temple.left
		lumbar turn-left 0
		thoracic turn-left 0
		lumbar side-left 0
		thoracic side-left 0
		hip flexion 45
		knee flexion 80
		shoulder.left flexion 80
		elbow.left flexion 70
		shoulder.right extension 13
		shoulder.right abduction 24
		shoulder.right rotation-in 43
		elbow.right flexion 66
		loose shoulder.right
		loose elbow.right
		loose forearm.right
		loose wrist.right
		lay hand.right hip-bone.right
		touch knee.left knee.right 10
		touch ankle.left ankle.right 8
		forearm.right pronation 60
	`, onLeft, 0.17, "side"},
	"tall-kneeling": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor knee shank
		hip abduction 3
		knee flexion 86
		ankle down 46
		toes down 20
		shoulder abduction 7
		elbow flexion 10
		balance
	`, upright, 0.42, "kneeling"},
	"half-kneeling-left": {` # left knee down, right foot in front
		lumbar flexion 0
		thoracic flexion 0
		lumbar side-left 0
		lumbar turn-left 0
		thoracic side-left 0
		thoracic turn-left 0
		on floor knee.left shank.left foot.right
		hip abduction 3
		hip.left flexion 0
		knee.left flexion 86
		ankle.left down 46
		toes.left down 20
		hip.right flexion 88
		knee.right flexion 88
		shoulder abduction 7
		elbow flexion 10
		flat foot.right
		balance
	`, upright, 0.42, "half-kneeling"},
	"long-sitting": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor seat heel
		hip flexion 94
		hip abduction 2
		knee flexion 3
		ankle up 2
		shoulder flexion 34
		shoulder adduction 8
		elbow flexion 14
		forearm pronation 80
		loose hip
		trunk plumb
		loose shoulder
		loose elbow
		loose forearm
		loose wrist
		lay hand thigh
	`, upright, 0.085, "long-sitting"},
	"calves-up": {` # lying with the calves on a chair
		lumbar flexion 0
		thoracic flexion 0
		on floor pelvis mid-back upper-back head
		on chair calf
		shoulder abduction 14
		shoulder extension 6
		elbow flexion 6
		forearm pronation 75
		height wrist 3.5
		hip abduction 3
		hip flexion 93
		knee flexion 80
		loose hip
		loose knee
		aim shank 16
	`, faceUp, 0.105, "supine"},
	"at-counter": {` # standing, the fingers of both hands resting on a counter
		lumbar flexion 0
		thoracic flexion 0
		on floor foot
		on counter fingertips
		hip abduction 3
		knee flexion 2
		shoulder flexion 20
		shoulder rotation-out 0
		shoulder abduction 3
		elbow flexion 40
		forearm pronation 80
		wrist extension 15
		loose shoulder
		loose elbow
		loose wrist
		loose forearm
		trunk plumb
		balance
	`, upright, 0.875, "standing"},
	"beside-counter-left": {` # standing, a counter at the left, the fingers of that hand resting on it
		lumbar flexion 0
		thoracic flexion 0
		lumbar side-left 0
		thoracic side-left 0
		lumbar turn-left 0
		thoracic turn-left 0
		on floor foot
		on counter fingertips.left
		hip abduction 3
		knee flexion 2
		hip flexion 1
		shoulder.left abduction 25
		shoulder.left extension 6
		shoulder.left rotation-out 0
		elbow.left flexion 66
		forearm.left pronation 60
		wrist.left extension 15
		shoulder.right abduction 7
		elbow.right flexion 10
		forearm.right pronation 20
		loose shoulder.left
		loose elbow.left
		loose wrist.left
		loose forearm.left
		trunk plumb
		balance
		out hand.left 15
	`, upright, 0.875, "standing"},
	"high-plank": {`
		lumbar flexion 0
		thoracic flexion 0
		on floor hand toes
		shoulder flexion 78
		shoulder abduction 2
		forearm pronation 90
		wrist extension 85
		ankle up 10
		toes up 55
		neck extension 4
		line shoulder hip ankle
	`, body.AxisTurn(1, 72*body.Deg), 0.4, "all-fours"},
}

// Fingerprint identifies everything beside a pose's own text that decides how it solves:
// the solver's version, the validator's and the base poses.
var Fingerprint = func() string {
	h := sha256.New()
	fmt.Fprintln(h, SolverVersion, RulesVersion)
	for _, name := range BaseNames() {
		fmt.Fprintln(h, name, bases[name].text, bases[name].height)
	}
	return hex.EncodeToString(h.Sum(nil))[:12]
}()

// BaseNames lists the base poses.
func BaseNames() []string { return slices.Sorted(maps.Keys(bases)) }
