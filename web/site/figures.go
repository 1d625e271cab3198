package site

import (
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/trade"
	"restbend/figure"
)

func (s *Site) sequence(c *gin.Context) (*figure.Sequence, string, bool) {
	slug := strings.TrimSuffix(c.Param("file"), ".svg")
	v, ok := s.Catalogue(c).Version(slug)
	side, known := trade.ParseSide(c.Query("side"))
	if !ok || side != "" && !known {
		c.String(http.StatusNotFound, "no such figure")
		return nil, "", false
	}
	if ease := c.Query("ease"); ease != "" {
		if v, ok = v.Eased(ease); !ok {
			c.String(http.StatusNotFound, "no such ease")
			return nil, "", false
		}
	}
	c.Header("Cache-Control", "private, max-age=3600")
	return s.Drawer.Sequence(v.At(trade.Surface(c.Query("surface"))), side), v.Name, true
}

// figure draws one phase: phase=0 is the effort position.
func (s *Site) figure(c *gin.Context) {
	q, name, ok := s.sequence(c)
	if !ok {
		return
	}
	i := q.Effort()
	if n, err := strconv.Atoi(c.Query("phase")); err == nil && n >= 1 && n <= q.Phases() {
		i = n - 1
	}
	opt := figure.Options{
		Build:   c.Query("build"),
		Surface: trade.Surface(c.Query("surface")),
		Title:   name,
		Compact: c.Query("thumb") != "",
		Felt:    c.Query("felt") != "",
	}
	if text, more := c.Query("mark"), c.Query("more"); text != "" && len(text)+len(more) <= 200 {
		opt.Mark = &figure.Mark{At: c.Query("at"), Text: text, More: more}
	}
	svg := ""
	if c.Query("pair") != "" {
		svg = q.Pair(opt)
	} else {
		svg = q.Phase(i, opt)
	}
	c.Data(http.StatusOK, "image/svg+xml", []byte(svg))
}

// film sends the solved frames of one round.
func (s *Site) film(c *gin.Context) {
	q, _, ok := s.sequence(c)
	if !ok {
		return
	}
	c.JSON(
		http.StatusOK,
		q.Film(figure.Options{Build: c.Query("build"), Surface: trade.Surface(c.Query("surface")), Compact: true}),
	)
}

// pose draws a base pose where it is taken, for the steps of a change of position.
func (s *Site) pose(c *gin.Context) {
	name := strings.TrimSuffix(c.Param("file"), ".svg")
	svg, err := s.Drawer.Base(name, figure.Options{Build: c.Query("build"), Surface: trade.Surface(c.Query("surface")),
		Title: strings.ReplaceAll(name, "-", " ")})
	if err != nil {
		c.String(http.StatusNotFound, "no such pose")
		return
	}
	c.Header("Cache-Control", "private, max-age=3600")
	c.Data(http.StatusOK, "image/svg+xml", []byte(svg))
}
