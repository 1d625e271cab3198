package main

import (
	"fmt"
	"os"
	"strconv"

	"restbend/core/plan"
	"restbend/core/solve"
	"restbend/plantest"
)

func main() {
	tr, _ := plantest.Load()
	n, _ := strconv.Atoi(os.Args[1])
	r, _ := tr.Request(uint64(n))
	m := plan.State(r)
	s, _ := solve.NewSearch(m.Model)
	s.Run()
	best, _, _ := s.Best()
	m.Show(best)
	opt, _ := plantest.Solve(m.Model, os.TempDir(), "120")
	fmt.Println()
	m.Show(opt.Selection)
	fmt.Println(m.MaxSupine, m.MaxRises)
}
