package main

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/spf13/cobra"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/figure"
)

// What a film must keep: so that it loads at once, the eye can follow, and nobody seems to
// skate. Product bars.
const (
	filmKB    = 60.0
	filmJump  = 3.0 // cm between two pictures at 30 a second
	filmDrift = 2.0 // cm of a contact that stays
)

// variants are a version, its eases and how it is done on another surface, by label.
func variants(v *catalogue.Version) (labels []string, all []*catalogue.Version) {
	labels, all = []string{v.Slug}, []*catalogue.Version{v}
	for i := range v.Eases {
		if e, ok := v.Eased(v.Eases[i].Slug); ok {
			labels, all = append(labels, v.Slug+"/"+v.Eases[i].Slug), append(all, e)
		}
	}
	for surface := range v.On {
		labels, all = append(labels, v.Slug+"/"+string(surface)), append(all, v.At(surface))
	}
	return labels, all
}

// measureFilms prints a line for every film, with its size, the largest jump of a joint
// between two pictures and the largest move of a contact that stays.
func measureFilms(cmd *cobra.Command, cat *catalogue.Catalogue) error {
	d, out := figure.NewDrawer(body.NewBody(body.Female, 0)), cmd.OutOrStdout()
	var sizes, jumps []float64
	over := 0
	for _, v := range cat.Versions {
		labels, all := variants(v)
		for i, variant := range all {
			q := d.Sequence(variant, "")
			film := q.Film(figure.Options{})
			text, err := json.Marshal(film)
			if err != nil {
				return err
			}
			var small bytes.Buffer
			z := gzip.NewWriter(&small)
			if _, err = z.Write(text); err == nil {
				err = z.Close()
			}
			if err != nil {
				return err
			}
			jump := q.LargestJump(&film, 30)
			drift, where := q.LargestDrift()
			kb := float64(small.Len()) / 1024
			note := ""
			if kb >= filmKB || jump.Metres*100 >= filmJump || drift*100 > filmDrift {
				over++
				note = "  over"
			}
			fmt.Fprintf(
				out,
				"%-40s %5.1f KB  %d pictures  %4.1f cm %s (%s)  stays within %.1f cm %s%s\n",
				labels[i],
				kb,
				len(film.Moments),
				jump.Metres*100,
				jump.Joint,
				jump.Way,
				drift*100,
				where,
				note,
			)
			sizes, jumps = append(sizes, kb), append(jumps, jump.Metres*100)
		}
	}
	slices.Sort(sizes)
	slices.Sort(jumps)
	fmt.Fprintf(
		out,
		"%d films: median %.1f KB, largest %.1f KB; largest jump %.1f cm; %d over the bars\n",
		len(sizes),
		sizes[len(sizes)/2],
		sizes[len(sizes)-1],
		jumps[len(jumps)-1],
		over,
	)
	if over > 0 {
		return fmt.Errorf("%d films break a bar", over)
	}
	return nil
}
