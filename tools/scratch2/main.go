package main

import (
	"fmt"
	"os"
	"strconv"

	"restbend/core/plan"
	"restbend/plantest"
)

func main() {
	tr, _ := plantest.Load()
	for _, a := range os.Args[1:] {
		n, _ := strconv.Atoi(a)
		r, _ := tr.Request(uint64(n))
		p, err := plan.Build(r)
		if err != nil {
			fmt.Println(err)
			continue
		}
		fmt.Println(n, "place", p.Place, "log", r.Log != nil, r.Client.Positions, r.Client.Surfaces, "seen", r.Seen, "aims", r.Client.Aims, "kind", p.Template)
		for _, c := range r.Client.Conditions {
			fmt.Print(c.Code, c.Phase, " ")
		}
		fmt.Println()
		for _, it := range p.Items {
			fmt.Printf("  %-8s %-9s %-26s %-10s %-7s e%d %3d s %s %s new=%v\n", it.Role, it.Part, it.Version, it.Position, it.Surface, it.Effort, it.End-it.Start, it.Side, it.Length, it.New)
		}
		for _, c := range p.Checks {
			if !c.OK {
				fmt.Println("  broken", c.Rule, c.Detail)
			}
		}
		fmt.Println(p.Seconds, 60*p.Minutes, p.Proven)
	}
}
