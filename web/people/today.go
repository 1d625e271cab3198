package people

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"restbend/core/intake"
	"restbend/core/trade"
)

// saveToday records the checks at the start of a session; a red flag stops everything.
func (s *People) saveToday(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	cl, err := DocumentOf(&row)
	if err != nil {
		s.Failed(c, err)
		return
	}
	cl.Today = intake.Today{Date: s.Today()}
	wrong := ""
	one := func(field string, allowed ...trade.Side) trade.Side {
		v := trade.Side(c.PostForm(field))
		if v != "" && !slices.Contains(allowed, v) {
			wrong = fmt.Sprintf("%s: found %q, allowed: %v", field, v, allowed)
		}
		return v
	}
	cl.Today.SIJSide = one("sij_side", trade.Left, trade.Right, trade.Even)
	cl.Today.TightTurn = one("tight_turn", trade.BothSides[:]...)
	for _, h := range c.PostFormArray("clock_weak") {
		n, err := strconv.Atoi(h)
		if err != nil || n < 1 || n > 12 {
			wrong = fmt.Sprintf("clock_weak: found %q, allowed: 1 to 12", h)
			continue
		}
		cl.Today.ClockWeak = append(cl.Today.ClockWeak, n)
	}
	if wrong != "" {
		s.Fail(c, http.StatusUnprocessableEntity, wrong, "Nothing was changed. Go back and choose again.")
		return
	}
	if _, err := s.RecordSigns(c, cl); err != nil {
		s.Failed(c, err)
		return
	}
	if err := s.Keep(c, row, cl, "today's check"); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d", row.ID))
}

// hour is one hour of the clock face.
type hour struct {
	N    int
	X, Y float64
	Weak bool
}

// clockFace is the pelvic clock lying on the client's belly, seen from above with the
// head at the top: 12 towards the head, 3 at the client's left. It is never mirrored.
func clockFace(weak []int) []hour {
	var out []hour
	for n := 1; n <= 12; n++ {
		sn, cs := math.Sincos(float64(n) * math.Pi / 6)
		out = append(out, hour{n, 62 * sn, -62 * cs, slices.Contains(weak, n)})
	}
	return out
}
