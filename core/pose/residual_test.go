package pose

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/body"
)

// The gradient of every residual agrees with a small finite step, at poses away from
// their solution and with every kind of relation, contact and outside force.
func TestGradientsAgreeWithSmallSteps(t *testing.T) {
	s := NewSolver(body.NewBody(body.Female, 0))
	for _, text := range []string{
		"from all-fours\noff hand.right\nshoulder.right flexion 160\naim arm.right 5\nline shoulder hip knee\nbalance",
		"from standing\non wall hand\ntilt forward 20\nstack shoulder ankle\ntouch knee.left knee.right 9\nheight wrist 120",
		"from side-lying-left\ntouch palm.right knee.right\nlumbar side-left 8\nthoracic turn-left 12\nneck extension 9",
		"from standing\nhold band palm.right left 100 30\nhold dumbbell palm.left 4\nshoulder.right flexion 80\nlumbar flexion 10\nblade.left forward 9\nblade.right up 6\nbalance",
		"from supine\nlay hand.left belly\nlay hand.right shin.left\nlay hand ribs\ntrunk level",
		"from standing\ntrunk plumb\nflat foot.left\npelvis level\nlay hand.left palm.right\nlay hand.right back-of-head.right\napart feet 40",
	} {
		spec, err := Parse(text)
		require.NoError(t, err)
		from, err := s.Base(spec.From)
		require.NoError(t, err)
		pr, _ := s.prepare(spec, from, true)
		st := from.State
		for i := range st.Q { // away from the solution, where everything has a slope
			st.Q[i] += 0.03 * float64(i%5-2)
		}
		st.Turn = st.Turn.Small(body.Vec{0.1, -0.2, 0.05})
		st.Root[2] -= 0.02
		var f body.Frames
		var tw [nState][body.NSeg]twist
		s.Body.Place(&st, &f)
		twists(s.Body, &st, &f, &tw)
		full := rows{tw: &tw}
		pr.residuals(&st, &f, &full)
		const h = 1e-5
		for k := 0; k < nState; k++ {
			var d [nState]float64
			value := func(step float64) []float64 {
				d[k] = step
				moved := moved(&st, &d)
				s.Body.Place(&moved, &f)
				var o rows
				pr.residuals(&moved, &f, &o)
				return o.r
			}
			up, down := value(h), value(-h)
			if len(up) != len(full.r) || len(down) != len(full.r) {
				continue // skin just came through or left the floor
			}
			for i := range full.r {
				slope := (up[i] - down[i]) / (2 * h)
				assert.InDelta(t, slope, full.j[i][k], 0.02+0.002*math.Abs(slope), "%s: residual %d, freedom %d", text, i, k)
			}
		}
	}
}
