// Command solve solves, validates and measures every pose of the catalogue and writes
// the generated file of solved poses. It exits 1 when the validator finds anything.
//
//	go run ./tools/solve [-deep] [-sheet FILE.html] [-only SLUG,FAMILY] [-angles] [-o FILE] [-lock FILE]
package main

import (
	"compress/gzip"
	"encoding/json"
	"flag"
	"fmt"
	"log"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"restbend"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/furniture"
	"restbend/core/measure"
	"restbend/core/pose"
	"restbend/figure"
)

var female = body.NewBody(body.Female, 0)

func main() {
	log.SetFlags(0)
	out := flag.String("o", "core/catalogue/solved.json.gz", "file to write; empty writes nothing")
	deep := flag.Bool("deep", false, "also solve mirrored and from disturbed starts")
	sheet := flag.String("sheet", "", "write a contact sheet of all phases")
	lock := flag.String("lock", "", "only write the fingerprints of all entries, and words.lock beside them, to this file")
	angles := flag.Bool("angles", false, "print the solved joint angles and shares of every phase")
	only := flag.String("only", "", "only these versions or families, separated by commas")
	flag.Parse()
	src, err := restbend.CatalogueSource()
	if err != nil {
		log.Fatal(err)
	}
	cat, err := catalogue.Read(src)
	if err != nil {
		log.Fatal(err)
	}
	if *lock != "" {
		if err := os.WriteFile(*lock, []byte(cat.Lock()), 0o644); err != nil {
			log.Fatal(err)
		}
		words := filepath.Join(filepath.Dir(*lock), "words.lock")
		if err := os.WriteFile(words, []byte(cat.WordsLock()), 0o644); err != nil {
			log.Fatal(err)
		}
		return
	}
	start := time.Now()
	var wanted []*catalogue.Version
	for _, v := range cat.Versions {
		if names := strings.Split(*only, ","); *only == "" || catalogue.Has(names, v.Slug) || catalogue.Has(names, v.Family) {
			wanted = append(wanted, v)
		}
	}
	all, err := measure.SolveAll(wanted, *deep)
	if err != nil {
		log.Fatal(err)
	}
	cache := catalogue.Cache{Solver: pose.SolverVersion, Entries: map[string]*catalogue.Solved{}}
	findings := 0
	d := figure.NewDrawer(female)
	var html strings.Builder
	for i := range all {
		v := &all[i]
		cache.Entries[v.Name()] = v.Solved
		for _, f := range v.Findings {
			fmt.Printf("%s: %s: %s\n", f.Version, f.Phase, f.Text)
		}
		findings += len(v.Findings)
		if *angles {
			printAngles(v)
		}
		if v.Ease == nil {
			contactSheet(&html, d, v.Name(), v.Solved)
		}
	}
	fmt.Printf("%d variants solved in %.1f s, %d findings\n", len(cache.Entries), time.Since(start).Seconds(), findings)
	if *sheet != "" {
		page := `<body style="margin:6px;background:#fbf8f2;font:11px sans-serif;display:flex;flex-wrap:wrap;gap:4px"><style>svg{width:100%;height:112px}div{width:153px;height:134px;overflow:hidden}</style>` + html.String()
		if err := os.WriteFile(*sheet, []byte(page), 0o644); err != nil {
			log.Fatal(err)
		}
	}
	if *out != "" && *only == "" {
		ways := map[string]catalogue.Way{}
		for name, s := range cache.Entries {
			ways[name] = catalogue.Way{Key: s.Key, Paths: s.Paths}
			s.Paths = nil
		}
		write(*out, cache)
		write(filepath.Join(filepath.Dir(*out), "ways.json.gz"), ways)
	}
	if findings > 0 {
		os.Exit(1)
	}
}

// printAngles shows an author what the solver made of the statements.
func printAngles(v *measure.Variant) {
	for i := range v.Solved.Phases {
		p := &v.Solved.Phases[i]
		st := p.State.State()
		fmt.Printf("%s %s:", v.Name(), p.Name)
		for d, q := range st.Q {
			if deg := q * 180 / math.Pi; math.Abs(deg) >= 0.5 {
				fmt.Printf(" %s %.0f;", pose.DofName(d), deg)
			}
		}
		fmt.Printf("\n   moment %.2f, margin %.1f cm, shares", p.Measures.Moment, p.Measures.Margin)
		for _, name := range slices.Sorted(maps.Keys(p.Measures.Share)) {
			fmt.Printf(" %s %.2f", name, p.Measures.Share[name])
		}
		fmt.Println()
	}
}

func contactSheet(html *strings.Builder, d *figure.Drawer, name string, s *catalogue.Solved) {
	var poses []*pose.Pose
	for i := range s.Phases {
		poses = append(poses, s.Phases[i].Pose())
	}
	scene := furniture.Place(female, poses)
	box := d.Extent(poses, scene, false, "")
	for i, p := range poses {
		fmt.Fprintf(html, "<div>%s %s<br>%s</div>", name, s.Phases[i].Name, d.SVG(p, scene, box, figure.Options{}))
	}
}

func write(path string, doc any) {
	f, err := os.Create(path)
	if err != nil {
		log.Fatal(err)
	}
	z, _ := gzip.NewWriterLevel(f, gzip.BestCompression)
	if err := json.NewEncoder(z).Encode(doc); err != nil {
		log.Fatal(err)
	}
	if err := z.Close(); err != nil {
		log.Fatal(err)
	}
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}
