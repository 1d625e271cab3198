package site

import (
	"fmt"
	"math"
	"strings"

	"restbend/core/body"
	"restbend/core/catalogue"
	"restbend/core/facts"
	"restbend/core/plan"
	"restbend/core/safety"
	"restbend/core/score"
	"restbend/core/trade"
	"restbend/core/way"
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

// RoseView is a rose of directions: what is allowed, what is used.
type RoseView struct {
	Axes          []roseAxis
	Allowed, Used string // polygon points
	Caption       string
}

var roseDirections = []struct{ name, dir, side string }{
	{"bend", "flexion", ""}, {"turn right", "rotation", "right"}, {"side right", "side-bend", "right"},
	{"arch", "extension", ""}, {"side left", "side-bend", "left"}, {"turn left", "rotation", "left"},
}

// Rose shows the client's allowed range of the whole trunk in six directions as a shape
// (the tighter of loaded and unloaded movement) and, with a session's peaks, the session
// as a line. A movement is drawn as far out as it fills its own limit, so that unloaded
// movement within its wider limit stays inside the shape.
func Rose(s *safety.Screener, used catalogue.Quantities) RoseView {
	v := drawRose("trunk", used, func(dir string, k int, peak float64) (float64, float64) {
		loaded, unloaded := s.TrunkLimit(dir, ".loaded"), s.TrunkLimit(dir, ".unloaded")
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

// RegionRoses show what the client may use of the low back and of the upper back, the
// tighter of loaded and unloaded.
func RegionRoses(words *safety.Vocabulary, s *safety.Screener) []RoseView {
	var out []RoseView
	for _, region := range []string{"lumbar", "thoracic"} {
		v := drawRose(region, nil, func(dir string, k int, _ float64) (float64, float64) {
			limit := body.Ranges[region][k]
			for _, how := range []string{"", ".loaded", ".unloaded"} {
				if m, _, ok := s.Allowed(region + "." + dir + how); ok {
					limit = math.Min(limit, m)
				}
				if m, _, ok := s.Allowed("trunk." + dir + how); ok { // at most all of it here
					limit = math.Min(limit, m)
				}
			}
			return limit, 0
		})
		name := words.RegionWords(region)
		v.Caption = strings.ToUpper(name[:1]) + name[1:] + ": filled is what this client may use of its range."
		out = append(out, v)
	}
	return out
}

// MovementRose shows what one version asks of the trunk, against normal range.
func MovementRose(v *catalogue.Version, side trade.Side) RoseView {
	q := v.Quantities
	if v.SideMode != trade.None {
		s := body.Right
		if side == trade.Left {
			s = body.Left
		}
		q = v.Side(s, q)
	}
	rose := drawRose(
		"trunk",
		q,
		func(_ string, k int, peak float64) (float64, float64) { return body.Ranges["trunk"][k], peak },
	)
	rose.Caption = "Filled: normal range of the trunk. Line: what this exercise uses at its peaks."
	return rose
}

// drawRose draws the six directions of a region; at tells, for a direction and its peak, how far the
// shape goes and where the line is drawn, degrees.
func drawRose(
	region string,
	used catalogue.Quantities,
	at func(direction string, index int, peak float64) (shape, line float64),
) RoseView {
	const r = 78
	var v RoseView
	var shape, line []string
	for i, d := range roseDirections {
		k := map[string]int{"flexion": 0, "extension": 1, "side-bend": 2, "rotation": 3}[d.dir]
		full := body.Ranges[region][k]
		name := "trunk." + d.dir
		if d.side != "" {
			name += "." + d.side
		}
		peak := used[name].Value
		limit, drawn := at(d.dir, k, peak)
		a := -math.Pi/2 + float64(i)*math.Pi/3
		sn, cs := math.Sincos(a)
		corner := func(share float64) string { return fmt.Sprintf("%.1f,%.1f", cs*r*share, sn*r*share) }
		ax := roseAxis{
			Name:       d.name,
			Allowed:    limit / full,
			Used:       math.Min(1, drawn/full),
			AllowedDeg: int(math.Round(limit)),
			UsedDeg:    int(math.Round(peak)),
			LabelX:     cs * (r + 12),
			LabelY:     sn*(r+14) + 4,
			EndX:       cs * r,
			EndY:       sn * r,
			Anchor:     "middle",
		}
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

// SessionPeaks merges the quantities of a session's items as they are done: where, on which side, with which ease.
func SessionPeaks(p *plan.Plan, cat *catalogue.Catalogue) catalogue.Quantities {
	q := catalogue.Quantities{}
	for i := range p.Items {
		v, ok := cat.Version(p.Items[i].Version)
		if !ok {
			continue
		}
		q = q.Merge(v.Peaks(p.Items[i].Doing()))
	}
	return q
}

// FigureSide is the side that an item's picture shows: the only one, or the only one that is eased.
func FigureSide(it *plan.Item) string {
	switch {
	case it.Side.One():
		return string(it.Side)
	case it.EasedSide.One():
		return string(it.EasedSide)
	}
	return ""
}

// LineView is a session as one line over minutes: height is how far up the body is.
type LineView struct {
	Width, Height int
	Path          string
	Stops         []lineStop
	Ticks         []lineTick
	Levels        []lineLevel
	Ribbon        []lineRibbon
	Rises         []lineTick // where the client gets up from the floor
}

type lineStop struct {
	N                    int
	X, Y                 float64
	From, To             float64 // of the exercise on the line
	Half                 float64 // where sides change, 0 when they do not
	Slug, Side, Name     string
	Surface, Ease        string
	Low                  bool // the picture stands below the line
	Here, Broken, Locked bool
	ThumbX, ThumbY       float64
	ThumbW, ThumbH       float64
}

type lineTick struct {
	X, Y  float64
	Label string
}

type lineLevel struct {
	Y    float64
	Name string
}

type lineRibbon struct {
	X, W   float64
	Effort int
}

// The frame of the posture line, in units of its picture.
const (
	lineLeft, lineRight = 96.0, 985.0
	lineBase, lineStep  = 222.0, 17.0
	ribbonY             = 272.0
)

// PostureLine draws a plan; the line climbs a step whenever the body does. One item is
// open; some are where a rule is broken.
func PostureLine(p *plan.Plan, cat *catalogue.Catalogue, open int, broken map[int]bool) LineView {
	v := LineView{Width: 1000, Height: 300}
	total := math.Max(float64(p.Seconds), 60*float64(p.Minutes))
	x := func(sec int) float64 { return lineLeft + float64(sec)/total*(lineRight-lineLeft) }
	y := func(pos trade.Position) float64 { return lineBase - lineStep*float64(way.Height(pos)) }
	used := map[trade.Position]bool{trade.Standing: true}
	var d strings.Builder
	fmt.Fprintf(&d, "M%.1f %.1f", x(0), y(trade.Standing))
	shown := 0
	for i := range p.Items {
		shown += facts.CountIf(p.Items[i].Role != trade.Reset)
	}
	// Pictures stand in two rows, each as wide as its room allows.
	width := math.Max(54, math.Min(92, 2*(lineRight-lineLeft)/float64(max(1, shown))*0.94))
	upper := 0
	was := trade.Standing
	var before *plan.Item
	for i := range p.Items {
		it := &p.Items[i]
		used[it.Position] = true
		if plan.FromFloor(before, it) {
			v.Rises = append(v.Rises, lineTick{X: x(it.Start), Y: (y(was) + y(it.Position)) / 2, Label: "up"})
		}
		was, before = it.Position, it
		fmt.Fprintf(&d, "L%.1f %.1fL%.1f %.1f", x(it.Start), y(it.Position), x(it.End), y(it.Position))
		v.Ribbon = append(v.Ribbon, lineRibbon{x(it.Start), math.Max(2, x(it.End)-x(it.Start)-1), it.Effort})
		if it.Role == trade.Reset {
			continue
		}
		ver, _ := cat.Version(it.Version)
		stop := lineStop{
			N:       i,
			X:       (x(it.Start) + x(it.End)) / 2,
			Y:       y(it.Position),
			From:    x(it.Start),
			To:      x(it.End),
			Slug:    it.Version,
			Surface: string(it.Surface),
			Low:     upper%2 == 1,
			Here:    i == open,
			Broken:  broken[i],
			Locked:  it.Locked,
		}
		stop.Ease = it.Ease()
		upper++
		stop.ThumbW, stop.ThumbH = width, width*0.65
		stop.ThumbX = math.Max(lineLeft+3, stop.X-width/2)
		stop.ThumbY = stop.Y - 8 - stop.ThumbH
		if stop.Low {
			stop.ThumbY = stop.Y + 6
		}
		if it.Side == trade.Each {
			stop.Half = stop.X
		}
		if ver != nil {
			stop.Name = ver.Name
		}
		stop.Side = FigureSide(it)
		v.Stops = append(v.Stops, stop)
	}
	if plan.FromFloor(before, nil) {
		v.Rises = append(v.Rises, lineTick{X: x(p.Seconds), Y: (y(was) + y(trade.Standing)) / 2, Label: "up"})
	}
	fmt.Fprintf(&d, "L%.1f %.1f", x(p.Seconds), y(trade.Standing))
	v.Path = d.String()
	for m := 0; m <= p.Minutes; m += 5 {
		v.Ticks = append(v.Ticks, lineTick{X: x(60 * m), Label: fmt.Sprint(m)})
	}
	for _, pos := range trade.Positions {
		if used[pos] {
			v.Levels = append(v.Levels, lineLevel{y(pos), catalogue.PositionWords(pos)})
		}
	}
	return v
}

// trackView is the posture line of a running session: seconds of the score, and how high the body is as a share.
type trackView struct {
	Points [][2]float64 `json:"points"`
}

// ScoreLine is the posture line of a score: it stands where an item lasts, and climbs on the way to the next.
func ScoreLine(sc *score.Score) trackView {
	most := 1
	for _, pos := range trade.Positions {
		most = max(most, way.Height(pos))
	}
	level := func(item int) float64 { return float64(way.Height(sc.Items[item].Position)) / float64(most) }
	standing := float64(way.Height(trade.Standing)) / float64(most)
	v := trackView{Points: [][2]float64{{0, standing}}}
	for i := range sc.Segments {
		switch g := &sc.Segments[i]; g.Kind {
		case score.Move:
			v.Points = append(v.Points, [2]float64{g.Start, v.Points[len(v.Points)-1][1]}, [2]float64{g.End, level(g.Item)})
		case score.Finish:
			v.Points = append(v.Points, [2]float64{g.Start, v.Points[len(v.Points)-1][1]}, [2]float64{g.End, standing})
		default:
			v.Points = append(v.Points, [2]float64{g.Start, level(g.Item)})
		}
	}
	v.Points = append(v.Points, [2]float64{sc.Seconds, v.Points[len(v.Points)-1][1]})
	same := func(i int) bool {
		return i > 0 && i < len(v.Points)-1 && v.Points[i-1][1] == v.Points[i][1] && v.Points[i+1][1] == v.Points[i][1]
	}
	out := trackView{}
	for i := range v.Points {
		if !same(i) {
			out.Points = append(out.Points, v.Points[i])
		}
	}
	return out
}
