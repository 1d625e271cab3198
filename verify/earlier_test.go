package verify_test

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/verify"
)

// A plan that the release before ways were a client's own wrote (rules 2) is held against its own seconds: only what
// today's verdicts say differently of it is found, an ease that ends too near its limit.
func TestAPlanOfAnEarlierReleaseIsJudgedByItsOwnRules(t *testing.T) {
	tr := house(t)
	data, err := os.ReadFile("testdata/plan-of-rules-2.json")
	require.NoError(t, err)
	var p plan.Plan
	require.NoError(t, json.Unmarshal(data, &p))
	require.Less(t, p.Rules, plan.RulesOfWays)
	who, err := os.ReadFile("../docs/formats/examples/client.json")
	require.NoError(t, err)
	today := trade.MustDay("2026-12-01")
	c, err := exchange.ReadClient(bytes.NewReader(who), tr.Cat, tr.Rules, today)
	require.NoError(t, err)
	r, err := facts.New(tr.Cat, tr.Rules, tr.Tasks, c, nil, p.Minutes, today)
	require.NoError(t, err)
	catalogue := document(t, exchange.NewCatalogue(tr.Cat))
	found := func(p *plan.Plan) (out []string) {
		report, err := verify.Session(documents(t, tr, catalogue, r, p))
		require.NoError(t, err)
		assert.InDelta(t, p.Score, report.Score, 1e-3)
		for _, v := range report.Violations {
			out = append(out, v.Rule)
		}
		return out
	}
	assert.Equal(t, []string{"safe"}, found(&p))
	p.Rules = plan.RulesOfWays // as if made today its seconds would contradict themselves: nobody sat before standing
	assert.Contains(t, found(&p), "document")
}
