package web

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/plan"
	"restbend/core/safety"
)

// roseAxis is one of the six directions of the spine.
type roseAxis struct {
	Name           string
	Allowed, Used  float64 // share of normal range, 0 to 1
	AllowedDeg     int
	UsedDeg        int
	LabelX, LabelY float64
	Anchor         string
	EndX, EndY     float64
}

type roseView struct {
	Axes          []roseAxis
	Allowed, Used string // polygon points
	Caption       string
}

var roseDirections = []struct{ name, dir, side string }{
	{"bend", "flexion", ""}, {"turn right", "rotation", "right"}, {"side right", "side-bend", "right"},
	{"arch", "extension", ""}, {"side left", "side-bend", "left"}, {"turn left", "rotation", "left"},
}

// rose shows the client's allowed range of the whole trunk in six directions as a shape
// (the tighter of loaded and unloaded movement) and, with a session's peaks, the session
// as a line. A movement is drawn as far out as it fills its own limit, so that unloaded
// movement within its wider limit stays inside the shape.
func rose(s *safety.Screener, used catalogue.Quantities) roseView {
	limit := func(dir string, k int, how string) float64 {
		full := body.Ranges["trunk"][k]
		limit := full
		for _, h := range []string{"", how} {
			if m, _, ok := s.Allowed("trunk." + dir + h); ok {
				limit = math.Min(limit, m)
			}
			for _, region := range []string{"lumbar", "thoracic"} {
				if m, _, ok := s.Allowed(region + "." + dir + h); ok {
					limit = math.Min(limit, full-body.Ranges[region][k]+m)
				}
			}
		}
		return limit
	}
	v := drawRose(used, func(dir string, k int, peak float64) (float64, float64) {
		loaded, unloaded := limit(dir, k, ".loaded"), limit(dir, k, ".unloaded")
		shape, own := math.Min(loaded, unloaded), loaded
		if used["trunk."+dir+".loaded"].Value < peak-0.5 { // the peak is reached unloaded
			own = unloaded
		}
		fill := peak / own
		if q := used["trunk."+dir+".loaded"].Value / loaded; peak > 0 {
			fill = math.Max(fill, math.Min(q, peak/loaded))
		}
		return shape, fill * shape
	})
	v.Caption = "Filled: what this client may use, of normal range."
	if used != nil {
		v.Caption = "Filled: what this client may use. Line: this session at its peaks."
	}
	return v
}

// movementRose shows what one version asks of the trunk, against normal range.
func movementRose(v *catalogue.Version, side string) roseView {
	q := v.Quantities
	if v.SideMode != "none" {
		s := body.Right
		if side == "left" {
			s = body.Left
		}
		q = v.Side(s, q)
	}
	rose := drawRose(q, func(_ string, k int, peak float64) (float64, float64) { return body.Ranges["trunk"][k], peak })
	rose.Caption = "Filled: normal range of the trunk. Line: what this exercise uses at its peaks."
	return rose
}

// drawRose draws the six directions; at tells, for a direction and its peak, how far the
// shape goes and where the line is drawn, degrees.
func drawRose(used catalogue.Quantities, at func(direction string, index int, peak float64) (shape, line float64)) roseView {
	const r = 78
	var v roseView
	var shape, line []string
	for i, d := range roseDirections {
		k := map[string]int{"flexion": 0, "extension": 1, "side-bend": 2, "rotation": 3}[d.dir]
		full := body.Ranges["trunk"][k]
		name := "trunk." + d.dir
		if d.side != "" {
			name += "." + d.side
		}
		peak := used[name].Value
		limit, drawn := at(d.dir, k, peak)
		a := -math.Pi/2 + float64(i)*math.Pi/3
		sn, cs := math.Sincos(a)
		corner := func(share float64) string { return fmt.Sprintf("%.1f,%.1f", cs*r*share, sn*r*share) }
		ax := roseAxis{Name: d.name, Allowed: limit / full, Used: math.Min(1, drawn/full), AllowedDeg: int(math.Round(limit)), UsedDeg: int(math.Round(peak)),
			LabelX: cs * (r + 12), LabelY: sn*(r+14) + 4, EndX: cs * r, EndY: sn * r, Anchor: "middle"}
		if cs > 0.3 {
			ax.Anchor = "start"
		} else if cs < -0.3 {
			ax.Anchor = "end"
		}
		v.Axes = append(v.Axes, ax)
		shape = append(shape, corner(math.Max(0.03, ax.Allowed)))
		line = append(line, corner(ax.Used))
	}
	v.Allowed = strings.Join(shape, " ")
	if used != nil {
		v.Used = strings.Join(line, " ")
	}
	return v
}

// sessionPeaks merges the quantities of a session's items.
func sessionPeaks(p *plan.Plan, cat *catalogue.Catalogue) catalogue.Quantities {
	q := catalogue.Quantities{}
	for i := range p.Items {
		v, ok := cat.Version(p.Items[i].Version)
		if !ok {
			continue
		}
		if v.SideMode == "each" && (p.Items[i].Side == "left" || p.Items[i].Side == "right") {
			side := body.Left
			if p.Items[i].Side == "right" {
				side = body.Right
			}
			q = q.Merge(v.Side(side, v.Quantities))
			continue
		}
		q = q.Merge(v.Quantities)
		if v.SideMode != "none" {
			q = q.Merge(v.Quantities.Mirror())
		}
	}
	return q
}

// lineView is a session as one line over minutes: height is how far up the body is.
type lineView struct {
	Width, Height int
	Path          string
	Stops         []lineStop
	Ticks         []lineTick
	Levels        []lineLevel
	Ribbon        []lineRibbon
}

type lineStop struct {
	N          int
	X, Y       float64
	Slug, Side string
	Name       string
	Low        bool
}

type lineTick struct {
	X     float64
	Label string
}

type lineLevel struct {
	Y    float64
	Name string
}

type lineRibbon struct {
	X, W   float64
	Effort int
	H      float64
}

// postureLine draws a plan; the line climbs a step whenever the body does.
func postureLine(p *plan.Plan, cat *catalogue.Catalogue) lineView {
	const left, width, base, step = 92.0, 900.0, 250.0, 22.0
	v := lineView{Width: 1000, Height: 330}
	total := math.Max(float64(p.Seconds), 60*float64(p.Minutes))
	x := func(sec int) float64 { return left + float64(sec)/total*(width-left) }
	y := func(pos string) float64 { return base - step*float64(plan.Height(pos)) }
	used := map[string]bool{"standing": true}
	var d strings.Builder
	fmt.Fprintf(&d, "M%.1f %.1f", x(0), y("standing"))
	for i := range p.Items {
		it := &p.Items[i]
		used[it.Position] = true
		fmt.Fprintf(&d, "L%.1f %.1fL%.1f %.1f", x(it.Start), y(it.Position), x(it.End), y(it.Position))
		ver, _ := cat.Version(it.Version)
		stop := lineStop{N: i, X: (x(it.Start) + x(it.End)) / 2, Y: y(it.Position), Slug: it.Version, Low: i%2 == 1}
		if ver != nil {
			stop.Name = ver.Name
		}
		if it.Side == "left" || it.Side == "right" {
			stop.Side = it.Side
		}
		v.Stops = append(v.Stops, stop)
		v.Ribbon = append(v.Ribbon, lineRibbon{x(it.Start), math.Max(2, x(it.End)-x(it.Start)-1), it.Effort, float64(it.Effort) * 3.2})
	}
	fmt.Fprintf(&d, "L%.1f %.1f", x(p.Seconds), y("standing"))
	v.Path = d.String()
	for m := 0; m <= p.Minutes; m += 5 {
		v.Ticks = append(v.Ticks, lineTick{x(60 * m), fmt.Sprint(m)})
	}
	for _, pos := range catalogue.Positions {
		if used[pos] {
			v.Levels = append(v.Levels, lineLevel{y(pos), levelName(pos)})
		}
	}
	return v
}

func levelName(position string) string {
	if n, ok := map[string]string{"supine": "on the back", "prone": "on the front", "side": "on the side"}[position]; ok {
		return n
	}
	return strings.ReplaceAll(position, "-", " ")
}

func sortedAims(m map[string]float64) []string {
	var out []string
	for a := range m {
		out = append(out, a)
	}
	sort.Slice(out, func(i, j int) bool { return m[out[i]] > m[out[j]] || m[out[i]] == m[out[j]] && out[i] < out[j] })
	return out
}
