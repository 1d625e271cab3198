package propose_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"restbend/core/propose"
	"restbend/plantest"
)

// Whatever a solver prints, a solution names columns of the model or is refused.
func FuzzReadSolution(f *testing.F) {
	r := plantest.For(f, plantest.Able(), nil, 20)
	m := propose.State(r)
	f.Add("Optimal - objective value 12\n      0 x0   1   0\n  3 o1 1 0\n  4 c2 1 0\n")
	f.Add("x99999999999999999999 1")
	f.Add(strings.Repeat("o1 1 ", 40))
	f.Fuzz(func(t *testing.T, text string) {
		sel, err := m.ReadSolution(bytes.NewReader([]byte(text)))
		if err != nil {
			return
		}
		for _, c := range sel.Body {
			require.True(t, c >= 0 && c < len(m.Items))
		}
	})
}
