package figure

import (
	"fmt"
	"regexp"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/trade"
)

// feltAt are the regions of the skin that show where an exercise is felt, by the entry's
// word for the place.
var feltAt = map[string][]string{
	"belly": {"belly"}, "low-belly": {"low-belly"}, "waist": {"waist"}, "side-ribs": {"ribs"},
	"back-ribs": {"back-ribs"}, "chest": {"breastbone"},
	"between-blades": {"between-blades"}, "shoulders": {"shoulder-cap"}, "arms": {"upper-arm"}, "hands": {"palm"},
	"neck": {"side-of-neck"}, "back": {"mid-back"},
	"low-back": {"small-of-back"}, "pelvis": {"pubis"}, "buttocks": {"buttock"}, "outer-hips": {"outer-hip"},
	"front-of-hips": {"hip-crease"},
	"inner-thighs":  {"inner-thigh"}, "front-of-thighs": {"thigh"}, "back-of-thighs": {"hamstring"}, "calves": {"calf"},
	"feet": {"sole"},
}

var (
	feltOther   = regexp.MustCompile(`\b(standing|supporting|kneeling|planted|carrying|lower|opposite|other)\b`)
	feltWorking = regexp.MustCompile(`\b(top|upper|lifting|reaching|opening|moving|hovering|raised|pressing|drawing|floating|same|up)\b`)
	feltDown    = regexp.MustCompile(`\b(floor|counter|sofa|wall)\b`)
)

// felt lists where a version is felt, as regions with their side. A sentence that names a
// side by what it does ("the standing hip") is shown on that side, else on both.
func felt(v *catalogue.Version) (out []string) {
	names := [2]string{"left", "right"}
	for _, s := range v.Say.Feel {
		for _, region := range feltAt[s.Code] {
			sides := []string{".left", ".right"}
			if v.SideMode == trade.Each {
				work, rest := "."+names[v.Authored], "."+names[1-v.Authored]
				word := feltOther.FindString(s.Say)
				switch {
				case word != "" && strings.Contains(v.SideMeans, word), word == "" && feltWorking.MatchString(s.Say):
					sides = []string{work}
				case word != "":
					sides = []string{rest}
				case feltDown.MatchString(s.Say):
					sides = []string{work}
				}
			}
			if sided, _ := body.RegionSided(region); !sided && region != "sole" {
				sides = []string{""}
			}
			for _, side := range sides {
				out = append(out, region+side)
			}
		}
	}
	return out
}

// glow marks a place on the skin where the exercise is felt: whole where the camera sees
// it, dashed where it lies on the far side of the body.
func (s *scene) glow(sb *strings.Builder, region string) {
	at, outward, ok := s.b.SkinAt(&s.f, region)
	if foot, side, _ := strings.Cut(region, "."); foot == "sole" {
		at, outward, ok = s.point("ball."+side), body.Vec{0, 0, 1}, true
	}
	if !ok {
		return
	}
	x, y, depth := s.cam.see(at)
	_, _, out := s.cam.see(at.Add(outward.Scale(0.05)))
	behind := ""
	if out > depth {
		behind = ` stroke-dasharray="3 3" fill-opacity=".12"`
	} else {
		behind = ` fill-opacity=".4"`
	}
	fmt.Fprintf(sb, `<circle class="felt" cx="%s" cy="%s" r="13" fill="#b0486b" stroke="#8c2f52" stroke-width="1.5"%s/>`,
		num(x), num(y), behind)
}
