package plantest

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"restbend/core/plan"
)

// Solved is what Debian's cbc makes of a model.
type Solved struct {
	Selection plan.Selection
	Proven    bool
	Took      time.Duration // of the solver's whole process
}

// Solve writes a model as an LP file in a folder and has cbc solve it for so many seconds
// at most.
func Solve(m *plan.Model, dir, seconds string) (s Solved, err error) {
	bin, err := exec.LookPath("cbc")
	if err != nil {
		return s, fmt.Errorf("the planner is checked against cbc; run: make solver: %w", err)
	}
	lp, sol := filepath.Join(dir, "session.lp"), filepath.Join(dir, "session.sol")
	f, err := os.Create(lp)
	if err != nil {
		return s, err
	}
	if err := m.WriteLP(f); err != nil {
		return s, err
	}
	if err := f.Close(); err != nil {
		return s, err
	}
	start := time.Now()
	out, err := exec.Command(bin, lp, "sec", seconds, "ratio", "0", "solve", "solution", sol).CombinedOutput()
	if err != nil {
		return s, fmt.Errorf("cbc: %w: %s", err, out)
	}
	s.Took, s.Proven = time.Since(start), strings.Contains(string(out), "Optimal solution found")
	if f, err = os.Open(sol); err != nil {
		return s, fmt.Errorf("cbc found nothing: %w: %s", err, out)
	}
	defer f.Close()
	s.Selection, err = m.ReadSolution(f)
	return s, err
}
