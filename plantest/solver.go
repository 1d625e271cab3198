package plantest

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"

	"restbend/core/solve"
)

// Solved is what Debian's cbc makes of a model.
type Solved struct {
	Selection solve.Selection
	Found     bool          // false when the time ran out before any session was found
	Proven    bool          // no session is worth more than the selection
	None      bool          // proven: no session keeps every rule
	Bound     float64       // ... or than this, where it is not proven
	Took      time.Duration // of the solver's whole process
}

// bounds finds what cbc says no session exceeds when its time runs out.
var bounds = regexp.MustCompile(`Upper bound:\s+([-+0-9.e]+)`)

// infeasible is how cbc says that there is no solution.
var infeasible = regexp.MustCompile(
	`(?m)^(Result - Problem proven infeasible|Result - Linear relaxation infeasible|Problem is infeasible)`,
)

// Refutes tells whether a value is more than the solver says is possible: then the model or
// the search is wrong.
func (s *Solved) Refutes(value float64) bool {
	if s.Proven {
		return value > s.Bound+1e-6
	}
	return value > s.Bound+1e-3 // as the bound is printed
}

// Solve writes a model as an LP file in a folder and has cbc solve it for so many seconds
// at most.
func Solve(m *solve.Model, dir, seconds string) (s Solved, err error) {
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
	if s.None = infeasible.Match(out); s.None {
		return s, nil
	}
	if b := bounds.FindSubmatch(out); !s.Proven && b != nil {
		if s.Bound, err = strconv.ParseFloat(string(b[1]), 64); err != nil {
			return s, fmt.Errorf("cbc's bound %q: %w", b[1], err)
		}
	} else if !s.Proven {
		return s, fmt.Errorf("cbc neither proved anything nor named a bound: %s", out)
	}
	data, err := os.ReadFile(sol)
	if err != nil {
		return s, fmt.Errorf("cbc found nothing: %w: %s", err, out)
	}
	if s.Found = !strings.Contains(string(data), "no integer solution"); !s.Found {
		return s, nil
	}
	s.Selection, err = m.ReadSolution(bytes.NewReader(data))
	if v, ok := m.Value(s.Selection); s.Proven && ok {
		s.Bound = v
	}
	return s, err
}
