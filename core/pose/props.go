package pose

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"restbend/core/body"
)

// props and what each statement needs: points, then anchor, height and force.
var props = map[string]struct {
	points []int // allowed numbers of points
	force  string
}{
	"dowel":    {[]int{0, 2}, ""},
	"ball":     {[]int{1, 2}, ""},
	"ring":     {[]int{2}, ""},
	"towel":    {[]int{1}, ""},
	"cushion":  {[]int{1, 2}, ""},
	"dumbbell": {[]int{1}, "kg"},
	"band":     {[]int{1, 2}, "newtons"},
	"spring":   {[]int{1}, "newtons"}, // of a carriage: it pulls but is not drawn
	"strap":    {[]int{1}, "anchor"},
}

// parseProp reads: hold KIND points... [anchor heightCm] [force].
func parseProp(args []string) (body.Prop, error) {
	k, ok := props[args[0]]
	if !ok {
		return body.Prop{}, fmt.Errorf(
			"unknown thing to hold %q; known: %s",
			args[0],
			strings.Join(slices.Sorted(maps.Keys(props)), ", "),
		)
	}
	p := body.Prop{Kind: args[0]}
	rest := args[1:]
	for len(rest) > 0 && body.IsPoint(rest[0]) {
		p.At, rest = append(p.At, rest[0]), rest[1:]
	}
	if len(rest) > 1 && body.Anchors[rest[0]] != (body.Vec{}) {
		h, err := number(rest[1])
		if err != nil {
			return p, err
		}
		p.Anchor, p.Height, rest = rest[0], h/100, rest[2:]
	}
	force := 0.0
	if len(rest) == 1 {
		v, err := number(rest[0])
		if err != nil {
			return p, err
		}
		force, rest = v, nil
	}
	wrong := len(rest) > 0
	switch k.force {
	case "kg":
		p.Kg, wrong = force, wrong || force <= 0 || p.Anchor != ""
	case "newtons":
		p.Newtons, wrong = force, wrong || force <= 0 || (p.Anchor == "") != (len(p.At) == 2)
	case "anchor":
		wrong = wrong || p.Anchor == "" || force != 0
	default:
		wrong = wrong || p.Anchor != "" || force != 0
	}
	count := false
	for _, n := range k.points {
		count = count || n == len(p.At)
	}
	if wrong || !count {
		return p, fmt.Errorf(
			"hold %s cannot be read; a band reads: hold band palm.right front 100 20, a weight: hold dumbbell palm.right 2",
			p.Kind,
		)
	}
	return p, nil
}
