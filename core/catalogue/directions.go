package catalogue

// Directions are the ways a trunk goes, in words.
var Directions = []string{"bend", "arch", "side", "turn"}

// Directions are those a version takes the trunk in, beyond posture noise.
func (v *Version) Directions() []string {
	var out []string
	for i, q := range []string{"flexion", "extension", "side-bend", "rotation"} {
		if v.Quantities["trunk."+q].Value > LoadNoise {
			out = append(out, Directions[i])
		}
	}
	return out
}
