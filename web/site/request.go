package site

import (
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/store"
)

// ID reads a number from the path.
func (s *Site) ID(c *gin.Context) (int64, bool) {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil || id < 1 {
		s.Fail(c, http.StatusNotFound, "There is no such page", "The address may be mistyped.")
		return 0, false
	}
	return id, true
}

// RowHere loads the stored client named in the path; when it cannot, it has answered.
func (s *Site) RowHere(c *gin.Context) (store.Client, bool) {
	id, ok := s.ID(c)
	if !ok {
		return store.Client{}, false
	}
	row, err := s.Store.Client(c, s.Account(c), id)
	if err != nil {
		s.Failed(c, err)
		return row, false
	}
	return row, true
}

// TypedNumber reads a number as people type it, with a point or a comma. What is not a
// number of a size that can be measured (NaN, Inf) is refused: it would pass every
// comparison unseen.
func TypedNumber(text string) (float64, error) {
	v, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(text), ",", "."), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%q is not a number", text)
	}
	return v, nil
}
