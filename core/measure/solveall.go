package measure

import (
	"fmt"
	"maps"
	"runtime"
	"slices"
	"sync"

	"restbend/core/catalogue"
)

// Variant is a version, or one of its eases, solved and checked.
type Variant struct {
	Version  *catalogue.Version
	Ease     *catalogue.Ease // nil for the version itself
	Solved   *catalogue.Solved
	Findings []Finding
}

// Name is the key of the variant among solved poses: version or version/ease.
func (v *Variant) Name() string {
	if v.Ease == nil {
		return v.Version.Slug
	}
	return v.Version.Slug + "/" + v.Ease.Slug
}

// SolveAll solves and checks versions and all their eases on every processor, deep with
// mirrored and disturbed solves too. The order is that of the versions.
func SolveAll(versions []*catalogue.Version, deep bool) ([]Variant, error) {
	var all []Variant
	for _, v := range versions {
		all = append(all, Variant{Version: v})
		for _, place := range slices.Sorted(maps.Keys(v.On)) {
			all = append(all, Variant{Version: v, Ease: v.On[place].Variant(place)})
		}
		for i := range v.Eases {
			all = append(all, Variant{Version: v, Ease: &v.Eases[i]})
		}
	}
	errs := make([]error, len(all))
	next := make(chan int)
	var wg sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			solver := NewSolver()
			for i := range next {
				v := &all[i]
				v.Solved, v.Findings, errs[i] = solver.Solve(v.Version, v.Ease, deep)
			}
		})
	}
	for i := range all {
		next <- i
	}
	close(next)
	wg.Wait()
	for i, err := range errs {
		if err != nil {
			return nil, fmt.Errorf("%s: %w", all[i].Name(), err)
		}
	}
	return all, nil
}
