package plantest

import (
	"slices"

	"github.com/stretchr/testify/require"

	"restbend"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/intake"
	"restbend/core/plan"
	"restbend/core/progress"
	"restbend/core/propose"
	"restbend/core/trade"
)

// Cat and Rules are the trade as it is delivered; Load says what is wrong when they are nil.
var (
	Cat, _   = restbend.Catalogue()
	Rules, _ = restbend.Rules()
)

// Able is a client of no condition who gets everywhere and owns everything.
func Able() *intake.Client {
	return &intake.Client{
		Positions: map[string]string{
			"floor": "yes", "supine": "yes", "prone": "yes", "side_left": "yes", "side_right": "yes",
			"kneel": "yes", "hands": "yes", "stand_free": "yes",
		},
		Surfaces: trade.Surfaces, Kit: catalogue.Kit, BreathRate: 12,
	}
}

// For is the request for a client today.
func For(t require.TestingT, c *intake.Client, log *progress.Log, minutes int) *facts.Request {
	r, err := facts.New(Cat, Rules, nil, c, log, minutes, Today)
	require.NoError(t, err)
	return r
}

// Built is a session of a client without a log.
func Built(t require.TestingT, c *intake.Client, minutes int) *plan.Plan {
	p, err := propose.Build(For(t, c, nil, minutes))
	require.NoError(t, err)
	return p
}

// Index is where a version stands in a session, -1 where it does not.
func Index(p *plan.Plan, slug string) int {
	return slices.IndexFunc(p.Items, func(it plan.Item) bool { return it.Version == slug })
}

// Broken are the rules a session breaks.
func Broken(p *plan.Plan) (out []string) {
	for _, k := range p.Checks {
		if !k.OK {
			out = append(out, k.Rule)
		}
	}
	return out
}
