package main

import (
	"fmt"
	"os"
	"sort"
	"strconv"
	"strings"

	"restbend"
)

func main() {
	cat, err := restbend.Catalogue()
	if err != nil {
		panic(err)
	}
	for _, a := range os.Args[1:] {
		q, l, _ := strings.Cut(a, ">")
		lim, _ := strconv.ParseFloat(l, 64)
		var out []string
		for _, v := range cat.Versions {
			if p := v.Quantities[q]; p.Value > lim {
				out = append(out, fmt.Sprintf("%8.2f %s(%s)", p.Value, v.Slug, p.Phase))
			}
		}
		sort.Sort(sort.Reverse(sort.StringSlice(out)))
		fmt.Println(q, strings.Join(out, " "))
	}
}
