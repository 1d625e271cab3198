// Package library is the pages of what sessions are made of: exercises, own versions, limits and kinds.
package library

import (
	"html/template"
	"maps"
	"net/http"
	"net/url"
	"slices"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/trade"
	"restbend/web/site"
)

// libraryFilter is what the list is narrowed to.
type libraryFilter struct {
	Query     string `form:"q"`
	Aim       string `form:"aim"`
	Position  string `form:"position"`
	Surface   string `form:"surface"`
	Kit       string `form:"kit"`
	Direction string `form:"direction"`
	Chain     string `form:"chain"`
	Begin     string `form:"begin"`
}

func (f *libraryFilter) keeps(v *catalogue.Version, names *Finder) bool {
	any := func(want string, have []string) bool { return want == "" || slices.Contains(have, want) }
	kit := f.Kit == "" || f.Kit == "none" && len(v.Kit) == 0 || slices.Contains(v.WithHelp(), f.Kit)
	begin := f.Begin == "" || (f.Begin == "a place to start") == v.Start
	return begin && names.Finds(v) && any(f.Aim, v.Aims) && any(f.Position, []string{string(v.Position)}) &&
		any(f.Surface, trade.Words(v.Surfaces)) && kit &&
		any(f.Direction, v.Directions()) &&
		any(f.Chain, []string{v.Chain})
}

// stair is one step of a family's staircase.
type stair struct {
	*catalogue.Version
	Lit   bool   // kept by the filter
	Opens string // what opens it, when it is not a place to start
}

type staircase struct {
	Family   string
	Set      bool
	Branches [][]stair
}

type libraryPage struct {
	Filter                                                  libraryFilter
	Families                                                []staircase
	Found, Total                                            int
	Finder                                                  *Finder
	Begins                                                  []string
	Aims, Positions, Surfaces, KitList, Directions, ChainsL []string
}

// library shows every family as a staircase; a filter keeps the families that have a
// matching step and dims the other steps, so that the ladder stays readable.
func (s *Library) library(c *gin.Context) {
	pg := libraryPage{
		Total:     len(s.Catalogue(c).Versions),
		Aims:      catalogue.Aims,
		Positions: trade.Words(trade.Positions),
		Surfaces:  trade.Words(trade.Surfaces),
		KitList: append(
			[]string{"none"},
			catalogue.Kit...),
		Directions: catalogue.Directions,
		ChainsL:    []string{"closed", "open", "pseudo-closed"},
		Begins:     []string{"a place to start", "behind a gate"},
	}
	if err := c.ShouldBindQuery(&pg.Filter); err != nil {
		s.Fail(c, http.StatusBadRequest, "That search cannot be read", "Clear the filters and try again.")
		return
	}
	pg.Finder = NewFinder(s.Catalogue(c), pg.Filter.Query)
	for _, f := range s.Catalogue(c).Families {
		st := staircase{Family: f.Name, Set: f.Set}
		found := 0
		for _, br := range f.Branches {
			var steps []stair
			for _, slug := range br {
				v, _ := s.Catalogue(c).Version(slug)
				lit := pg.Filter.keeps(v, pg.Finder)
				if lit {
					found++
				}
				gate := ""
				if v.Gate != nil {
					gate = v.Gate.Words(s.Catalogue(c))
				}
				steps = append(steps, stair{v, lit, gate})
			}
			if steps != nil {
				st.Branches = append(st.Branches, steps)
			}
		}
		if found > 0 {
			pg.Families = append(pg.Families, st)
			pg.Found += found
		}
	}
	fragment := ""
	if c.GetHeader("HX-Request") == "true" {
		fragment = "families"
	}
	s.Render(c, http.StatusOK, "library", fragment, "Library", pg)
}

type argument struct {
	Task   catalogue.Task
	Points []catalogue.Point
	Won    int
}

type entryPage struct {
	V              *catalogue.Version
	Side           string
	Look           template.URL // side, ease and surface shown, as a query
	With           string       // the ease or surface shown, in words
	Eases          []catalogue.Ease
	On             []string // surfaces on which it is done otherwise
	Rose           site.RoseView
	Below, Above   *catalogue.Version
	Family         *catalogue.Family
	Swaps          []swapView
	Arguments      []argument
	Alike          *catalogue.Version
	Older          []*catalogue.Version
	Gate           string // what opens it, when it is not a place to start
	Held           string // for a client who stands with a hold
	CompareChoices []*catalogue.Version
}

type swapView struct {
	V    *catalogue.Version
	Note string
}

func (s *Library) libraryVersion(c *gin.Context) (*catalogue.Version, bool) {
	v, ok := s.Catalogue(c).Version(c.Param("slug"))
	if !ok {
		s.Fail(c, http.StatusNotFound, "There is no such exercise", "Search the library for its name or another name.")
	}
	return v, ok
}

// entry shows one version with everything known about it.
func (s *Library) entry(c *gin.Context) {
	v, ok := s.libraryVersion(c)
	if !ok {
		return
	}
	side, _ := trade.ParseSide(c.Query("side"))
	if v.SideMode == trade.None {
		side = ""
	} else if side != trade.Left {
		side = trade.Right
	}
	family, _ := s.Catalogue(c).Family(v.Family)
	shown, look, with := v, url.Values{}, ""
	if side != "" {
		look.Set("side", string(side))
	}
	if e := v.Ease(c.Query("ease")); e != nil && e.Solved != nil {
		shown, _ = v.Eased(e.Slug)
		with = "with this ease: " + e.Name
		look.Set("ease", e.Slug)
	} else if on := trade.Surface(c.Query("surface")); v.On[on] != nil {
		shown = v.At(on)
		with = "on a " + string(on) + ": " + v.On[on].Note
		look.Set("surface", string(on))
	}
	pg := entryPage{
		V:      shown,
		Side:   string(side),
		Look:   template.URL(look.Encode()),
		With:   with,
		Eases:  v.Eases,
		On:     trade.Words(slices.Sorted(maps.Keys(v.On))),
		Rose:   site.MovementRose(shown, side),
		Below:  s.Catalogue(c).Previous(v),
		Above:  s.Catalogue(c).Next(v),
		Family: family,
		Older:  s.Catalogue(c).Revisions(v.Slug),
	}
	if v.Gate != nil {
		pg.Gate = v.Gate.Words(s.Catalogue(c))
	}
	if w, ease := s.Catalogue(c).HeldSibling(v); w != v || ease != "" {
		pg.Held = w.Name
		if e := w.Ease(ease); e != nil {
			pg.Held += ", " + e.Name
		}
	}
	pg.neighbours(s.Catalogue(c), v, family)
	for _, t := range s.Tasks {
		points := v.Argue(&t)
		pg.Arguments = append(pg.Arguments, argument{t, points, catalogue.Matches(points)})
	}
	slices.SortStableFunc(pg.Arguments, func(a, b argument) int { return b.Won*10/len(b.Points) - a.Won*10/len(a.Points) })
	pg.Arguments = pg.Arguments[:min(3, len(pg.Arguments))]
	s.Render(c, http.StatusOK, "entry", "", v.Name, pg)
}

// neighbours are what stands in for a version, and what it may be compared with.
func (pg *entryPage) neighbours(cat *catalogue.Catalogue, v *catalogue.Version, family *catalogue.Family) {
	add := func(slug, note string) {
		if w, ok := cat.Version(slug); ok && w != v &&
			!slices.ContainsFunc(pg.Swaps, func(x swapView) bool { return x.V == w }) {
			pg.Swaps = append(pg.Swaps, swapView{w, note})
		}
	}
	for _, sw := range v.Swaps {
		add(sw.Version, sw.Note)
	}
	add(v.Chair.Version, v.Chair.Note)
	for _, w := range cat.Alternatives(v, 3) {
		add(w.Slug, "serves "+w.Aims[0]+" as well")
	}
	if v.Same.Version != "" {
		pg.Alike, _ = cat.Version(v.Same.Version)
	}
	for _, br := range family.Branches {
		for _, slug := range br {
			if w, _ := cat.Version(slug); w != v {
				pg.CompareChoices = append(pg.CompareChoices, w)
			}
		}
	}
	for _, sw := range pg.Swaps {
		if !slices.Contains(pg.CompareChoices, sw.V) {
			pg.CompareChoices = append(pg.CompareChoices, sw.V)
		}
	}
}

type comparePage struct {
	A, B *catalogue.Version
	Rows []site.MeasureRow
}

// compare puts two versions side by side.
func (s *Library) compare(c *gin.Context) {
	a, okA := s.Catalogue(c).Version(c.Query("a"))
	b, okB := s.Catalogue(c).Version(c.Query("b"))
	if !okA || !okB {
		s.Fail(c, http.StatusNotFound, "Two exercises are compared", "Open an exercise and choose the one to set beside it.")
		return
	}
	s.Render(c, http.StatusOK, "compare", "", a.Name+" and "+b.Name, comparePage{a, b, site.Compared(a, b)})
}

// model is the page that says how things are measured and what the numbers cannot tell.
func (s *Library) model(c *gin.Context) {
	s.Render(c, http.StatusOK, "model", "", "How it is measured", nil)
}

// Routes registers the pages of the library.
func (s *Library) Routes(in *gin.RouterGroup) {
	in.GET("/kinds", s.kindsPage)
	in.GET("/kinds/:slug", s.KeeperOnly, s.editKind)
	in.POST("/kinds/:slug", s.KeeperOnly, s.saveKind)
	in.GET("/library", s.library)
	in.GET("/library/compare", s.compare)
	in.GET("/library/model", s.model)
	in.GET("/library/:slug", s.entry)
	in.GET("/library/:slug/revisions/:n", s.revision)
	in.POST("/library/:slug/copy", s.copyVersion)
	in.GET("/limits", s.limitsPage)
	in.GET("/limits/export", s.exportLimits)
	in.GET("/limits/edit", s.KeeperOnly, s.editLimit)
	in.POST("/limits/preview", s.KeeperOnly, s.previewLimit)
	in.GET("/limits/preview/:id", s.KeeperOnly, s.showPreview)
	in.POST("/limits/preview/:id/save", s.KeeperOnly, s.saveLimit)
	in.GET("/own", s.ownList)
	in.POST("/own/import", s.ownImport)
	in.GET("/own/:id", s.ownEdit)
	in.POST("/own/:id", s.ownSave)
	in.POST("/own/:id/check", s.ownCheck)
	in.POST("/own/:id/withdraw", s.ownWithdraw)
	in.GET("/own/:id/export", s.ownExport)
}
