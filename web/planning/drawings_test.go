package planning

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/propose"
	"restbend/core/trade"
	"restbend/core/way"
	"restbend/web/site"
)

var day = trade.On(2026, 11, 20)

func request(t *testing.T, c *intake.Client) *facts.Request {
	t.Helper()
	cat, err := restbend.Catalogue()
	require.NoError(t, err)
	rules, err := restbend.Rules()
	require.NoError(t, err)
	r, err := facts.New(cat, rules, nil, c, nil, 30, day)
	require.NoError(t, err)
	return r
}

func able() *intake.Client {
	return &intake.Client{Positions: map[string]string{"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes", "kneel": "yes", "hands": "yes", "stand_free": "yes"}}
}

// The rose shows the tightest limit that holds in each direction.
func TestRose(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	no := false
	c := able()
	c.Conditions = []intake.Condition{{Code: "osteoporosis", Fracture: &no}}
	v := site.Rose(request(t, c).Screener, nil)
	allowed := map[string]int{}
	for _, a := range v.Axes {
		allowed[a.Name] = a.AllowedDeg
	}
	assert.Equal(t, map[string]int{"bend": 10, "turn right": 5, "side right": 10, "arch": 25, "side left": 10, "turn left": 5}, allowed)
	assert.Empty(t, v.Used)
	free := site.Rose(request(t, able()).Screener, nil)
	for _, a := range free.Axes {
		assert.InDelta(t, 1, a.Allowed, 1e-9, a.Name)
	}
}

// A session drawn in the rose stays inside the client's shape.
func TestASessionStaysInsideTheRose(t *testing.T) {
	c := able()
	c.Conditions = []intake.Condition{{Code: "stenosis"}}
	r := request(t, c)
	p, err := propose.Build(r)
	require.NoError(t, err)
	v := site.Rose(r.Screener, site.SessionPeaks(p, r.Catalogue))
	assert.NotEmpty(t, v.Used)
	for _, a := range v.Axes {
		assert.LessOrEqual(t, a.Used, a.Allowed+0.05, a.Name) // a joint may pass its end by half a degree
	}
}

func TestPostureLineFollowsThePlan(t *testing.T) {
	r := request(t, able())
	p, err := propose.Build(r)
	require.NoError(t, err)
	v := site.PostureLine(p, r.Catalogue, 2, map[int]bool{1: true})
	assert.Len(t, v.Stops, len(p.Items))
	assert.Len(t, v.Ribbon, len(p.Items))
	for i := 1; i < len(v.Stops); i++ {
		assert.Greater(t, v.Stops[i].X, v.Stops[i-1].X)
		assert.Equal(t, way.Height(p.Items[i].Position) > way.Height(p.Items[i-1].Position), v.Stops[i].Y < v.Stops[i-1].Y)
	}
	assert.True(t, strings.HasPrefix(v.Path, "M96.0 "), "begins standing at minute 0")
	assert.Equal(t, "standing", v.Levels[len(v.Levels)-1].Name)

	// An arrow stands where the client gets up from the floor, as often as the rule counts; a
	// bed is no floor.
	counted := func(p *plan.Plan) string {
		k := p.Checks[slices.IndexFunc(p.Checks, func(k plan.Check) bool { return k.Rule == "floor-transfers" })]
		return k.Detail
	}
	c := able()
	c.Aims, c.Surfaces = map[string]float64{"deep-core": 3, "hip-strength": 2}, []trade.Surface{"mat"}
	p, err = propose.Build(request(t, c))
	require.NoError(t, err)
	require.Len(t, site.PostureLine(p, r.Catalogue, 0, nil).Rises, 1)
	assert.Contains(t, counted(p), "1 rise from the floor")
	c.Positions["floor"], c.Surfaces = "no", []trade.Surface{"bed", "chair", "wall"}
	p, err = propose.Build(request(t, c))
	require.NoError(t, err)
	require.True(t, slices.ContainsFunc(p.Items, func(it plan.Item) bool { return it.Surface == "bed" }))
	assert.Empty(t, site.PostureLine(p, r.Catalogue, 0, nil).Rises)
	assert.Contains(t, counted(p), "no rise from the floor")
}
