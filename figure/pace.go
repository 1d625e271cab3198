package figure

import (
	"math"

	"restbend/core/body"
	"restbend/core/pose"
)

// An unattended film shows this many pictures a second, and between two of them no joint moves
// farther than this, so that the eye can follow. Product defaults.
const (
	pictures = 30
	farthest = 0.028 // m
	briefest = 0.3   // s, a way however short
)

// joints are the points of the body whose movement is judged.
var joints = []string{
	"pelvis",
	"waist",
	"neck",
	"crown",
	"hip.left",
	"hip.right",
	"knee.left",
	"knee.right",
	"ankle.left",
	"ankle.right",
	"ball.left",
	"ball.right",
	"shoulder.left",
	"shoulder.right",
	"elbow.left",
	"elbow.right",
	"wrist.left",
	"wrist.right",
}

// places are where the joints are in a posture.
func (q *Sequence) places(p *pose.Pose) []body.Vec {
	var f body.Frames
	q.drawer.body.Place(&p.State, &f)
	out := make([]body.Vec, len(joints))
	for i, j := range joints {
		out[i] = q.drawer.body.Point(&f, j)
	}
	return out
}

// row is the moments from phase i to the next, both ends with them.
func (q *Sequence) row(i int) []*pose.Pose {
	out := []*pose.Pose{q.poses[i]}
	for _, m := range q.way(i) {
		out = append(out, m.pose)
	}
	return append(out, q.poses[q.v.Next(i)])
}

// calm is the least seconds an unattended film may spend on the way from phase i to the next.
func (q *Sequence) calm(i int) float64 {
	row := q.row(i)
	most, last := 0.0, q.places(row[0])
	for _, p := range row[1:] {
		now := q.places(p)
		for k := range now {
			most = math.Max(most, now[k].Sub(last[k]).Len())
		}
		last = now
	}
	return most * float64(len(row)-1) / (farthest * pictures)
}

// Jump is the largest move of a joint between two pictures of an unattended film.
type Jump struct {
	Metres     float64
	Joint, Way string
}

// LargestJump plays the film at so many pictures a second, as the browser does, and measures.
func (q *Sequence) LargestJump(f *Film, rate float64) (worst Jump) {
	for i := q.v.Round(); i < len(q.poses); i++ {
		row, next := q.row(i), q.v.Next(i)
		places := make([][]body.Vec, len(row))
		for k, p := range row {
			places[k] = q.places(p)
		}
		n := int(math.Ceil(f.Phases[next].Move * rate))
		for shown := 0; shown < n; shown++ {
			a, b := between(places, float64(shown)/float64(n)), between(
				places,
				math.Min(1, float64(shown)/float64(n)+1/(f.Phases[next].Move*rate)),
			)
			for k := range a {
				if d := b[k].Sub(a[k]).Len(); d > worst.Metres {
					worst = Jump{d, joints[k], f.Phases[i].Name + " to " + f.Phases[next].Name}
				}
			}
		}
	}
	return worst
}

// between is where the points of a row are at a share of it.
func between(row [][]body.Vec, share float64) []body.Vec {
	at := share * float64(len(row)-1)
	i := min(int(at), len(row)-2)
	out := make([]body.Vec, len(row[i]))
	for k := range out {
		out[k] = row[i][k].Lerp(row[i+1][k], at-float64(i))
	}
	return out
}

// still is how far the ends of a contact may lie apart for it to count as one that stays.
const still = 0.02 // m

// LargestDrift is how far a contact that stays, from a phase to the next one, moves on the way
// between them. What slides by its words ends elsewhere; a limb that steps comes off the ground.
func (q *Sequence) LargestDrift() (metres float64, where string) {
	for i, from := range q.poses {
		to := q.poses[q.v.Next(i)]
		var kept []pose.Contact
		for _, c := range from.Contacts {
			if touching(to.Contacts, c) {
				kept = append(kept, c)
			}
		}
		var first []body.Vec
		row := q.row(i)
		places := func(p *pose.Pose) []body.Vec {
			var f body.Frames
			at := &pose.Pose{State: p.State, Contacts: kept}
			q.drawer.body.Place(&at.State, &f)
			return at.ContactPoints(q.drawer.body, &f)
		}
		first, last := places(row[0]), places(row[len(row)-1])
		for _, p := range row {
			for k, v := range places(p) {
				if last[k].Sub(first[k]).Len() > still {
					continue
				}
				if d := v.Sub(first[k]).Len(); d > metres {
					metres, where = d, kept[k].Sphere+" from "+q.v.Phases[i].Name
				}
			}
		}
	}
	return metres, where
}
