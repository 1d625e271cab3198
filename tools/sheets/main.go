// Command sheets pictures every version from three cameras that together hide nothing:
// from the side, from the front or back, and from above. Pages of PNG for a critical eye.
//
//	go run ./tools/sheets [-o DIR] [-only SLUG,FAMILY] [-phases effort|all] [-eases] [-fresh]
package main

import (
	"cmp"
	"context"
	"flag"
	"fmt"
	"log"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/chromedp/chromedp"

	"restbend"
	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/furniture"
	"restbend/core/measure"
	"restbend/core/pose"
	"restbend/core/trade"
	"restbend/figure"
	"restbend/tools/chrome"
)

// Pixels of a page, of the longer edge of a picture, and of a label.
const (
	pageW, pageH = 1400, 855
	edge         = 260
	label        = 14
)

// picture is one phase from one camera.
type picture struct {
	svg  string
	w, h float64
}

// group is one phase of a version from all cameras.
type group struct {
	title    string
	pictures []picture
}

// places are where the pictures stand in a group; a lying body is seen from the side over
// the view from above.
func (g *group) places() (at [][2]float64, w, h float64) {
	stacked := len(g.pictures) == 3 && g.pictures[0].w > g.pictures[0].h && g.pictures[2].w > g.pictures[2].h
	x, y := 0.0, float64(label)
	for i, p := range g.pictures {
		px, py := x, y
		if stacked && i == 2 {
			px, py = 0, y+g.pictures[0].h+3
		} else {
			x += p.w + 4
		}
		at = append(at, [2]float64{px, py})
		w, h = math.Max(w, px+p.w), math.Max(h, py+p.h)
	}
	return at, w + 6, h + 6
}

func main() {
	log.SetFlags(0)
	dir := flag.String("o", "sheets", "folder to write pages to")
	only := flag.String("only", "", "only these versions or families, separated by commas")
	phases := flag.String("phases", "effort", "effort: the working phase; all: every phase")
	eases := flag.Bool("eases", false, "the eases instead of the versions")
	fresh := flag.Bool("fresh", false, "solve again instead of reading the generated file")
	flag.Parse()
	if err := run(*dir, *only, *phases == "all", *eases, *fresh); err != nil {
		log.Fatal(err)
	}
}

func run(dir, only string, every, eases, fresh bool) error {
	src, err := restbend.CatalogueSource()
	if err != nil {
		return err
	}
	cat, err := catalogue.Read(src)
	if err != nil {
		return err
	}
	var wanted []*catalogue.Version
	for _, v := range cat.Versions {
		if names := strings.Split(only, ","); only == "" || catalogue.Has(names, v.Slug) || catalogue.Has(names, v.Family) {
			wanted = append(wanted, v)
		}
	}
	variants := []measure.Variant{}
	if fresh {
		if variants, err = measure.SolveAll(wanted, false); err != nil {
			return err
		}
	} else {
		whole, err := restbend.Catalogue()
		if err != nil {
			return err
		}
		for _, w := range wanted {
			v, _ := whole.Version(w.Slug)
			variants = append(variants, measure.Variant{Version: v, Solved: v.Solved})
			for place, on := range v.On {
				variants = append(variants, measure.Variant{Version: v, Ease: &catalogue.Ease{Slug: string(place)},
					Solved: on.Solved})
			}
			for i := range v.Eases {
				variants = append(variants, measure.Variant{Version: v, Ease: &v.Eases[i], Solved: v.Eases[i].Solved})
			}
		}
	}
	var groups []group
	for i := range variants {
		if v := &variants[i]; (v.Ease != nil) == eases {
			groups = append(groups, pictures(v, every)...)
		}
	}
	slices.SortStableFunc(groups, func(a, b group) int { // rows of like height waste no paper
		_, _, ha := a.places()
		_, _, hb := b.places()
		return cmp.Compare(hb, ha)
	})
	return print(dir, groups)
}

// pictures draws the wanted phases of a variant.
func pictures(v *measure.Variant, every bool) []group {
	b := body.NewBody(body.Female, 0)
	d := figure.NewDrawer(b)
	var poses []*pose.Pose
	for i := range v.Solved.Phases {
		poses = append(poses, v.Solved.Phases[i].Pose())
	}
	room := furniture.Place(b, poses)
	var out []group
	for i, p := range poses {
		if !every && i != v.Version.EffortPhase() {
			continue
		}
		ahead := "ahead"
		if v.Version.Position == trade.Prone || v.Version.Position == trade.AllFours {
			ahead = "behind"
		}
		g := group{title: v.Name() + " · " + v.Solved.Phases[i].Name}
		for _, view := range []string{"plain", ahead, "top"} {
			q := *p
			q.View = view
			box := d.Extent([]*pose.Pose{&q}, furniture.Scene{}, false, "")
			w, h := box.X1-box.X0, box.Y1-box.Y0
			s := edge / math.Max(w, h)
			g.pictures = append(g.pictures, picture{d.SVG(&q, room, box, figure.Options{}), w * s, h * s})
		}
		out = append(out, g)
	}
	return out
}

// print lays groups on pages, row by row, and pictures each page.
func print(dir string, groups []group) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	ctx, stop := chrome.Open(context.Background(), pageW, pageH)
	defer stop()
	var html strings.Builder
	x, y, row, page := 0.0, 0.0, 0.0, 0
	flush := func() error {
		if html.Len() == 0 {
			return nil
		}
		page++
		file, err := filepath.Abs(filepath.Join(dir, fmt.Sprintf("sheet-%02d.html", page)))
		if err != nil {
			return err
		}
		text := `<body style="margin:0;background:#fbf8f2"><style>div{position:absolute;border:1px solid #d8d0c0;font:11px sans-serif}svg{position:absolute;background:#fff}</style>` + html.String()
		html.Reset()
		if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
			return err
		}
		defer os.Remove(file)
		var png []byte
		if err := chromedp.Do(ctx, chromedp.EmulateViewport(pageW, pageH), chromedp.Navigate("file://"+file),
			chrome.Into(chromedp.CaptureScreenshot(), &png)); err != nil {
			return err
		}
		return os.WriteFile(strings.TrimSuffix(file, ".html")+".png", png, 0o644)
	}
	for i := range groups {
		g := &groups[i]
		at, w, h := g.places()
		if x+w > pageW {
			x, y, row = 0, y+row, 0
		}
		if y+h > pageH {
			if err := flush(); err != nil {
				return err
			}
			x, y, row = 0, 0, 0
		}
		fmt.Fprintf(&html, `<div style="left:%.0fpx;top:%.0fpx;width:%.0fpx;height:%.0fpx">%s`, x, y, w-4, h-4, g.title)
		for k, p := range g.pictures {
			html.WriteString(
				strings.Replace(
					p.svg,
					"<svg ",
					fmt.Sprintf(`<svg style="left:%.0fpx;top:%.0fpx" width="%.0f" height="%.0f" `, at[k][0], at[k][1], p.w, p.h),
					1,
				),
			)
		}
		html.WriteString("</div>")
		x, row = x+w, math.Max(row, h)
	}
	return flush()
}
