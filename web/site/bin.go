package site

import (
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"restbend/store"
)

// removedKey is where a session keeps what was removed last, until it was said once.
const removedKey = "removed"

// removed is what was just removed, with its way back.
type removed struct {
	Kind, Name string
	ID         int64
}

// PutAway remembers what was removed of a client, so that the next page offers it back.
func (s *Site) PutAway(c *gin.Context, kind string, id int64, of store.Client) {
	s.Sessions.Put(c.Request.Context(), removedKey, fmt.Sprintf("%s %d %s", kind, id, of.Name))
	s.EventOf(c, "removed a "+kind, of.ID)
}

// justRemoved is what was removed on the page before, once.
func (s *Site) justRemoved(c *gin.Context) *removed {
	text := s.Sessions.PopString(c.Request.Context(), removedKey)
	if text == "" {
		return nil
	}
	out := &removed{}
	if _, err := fmt.Sscanf(text, "%s %d", &out.Kind, &out.ID); err != nil {
		return nil
	}
	out.Name = text[len(fmt.Sprintf("%s %d ", out.Kind, out.ID)):]
	return out
}

// binPage lists what was removed and not yet deleted.
func (s *Site) binPage(c *gin.Context) {
	list, err := s.Store.Bin(c, s.Account(c))
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "bin", "", "Bin", struct {
		Rows []store.Removed
		Days int
	}{list, store.BinDays})
}

// bin puts something back, or deletes it for good.
func (s *Site) bin(c *gin.Context) {
	id, ok := s.ID(c)
	if !ok {
		return
	}
	kind, way := c.Param("kind"), c.Param("way")
	var err error
	switch {
	case kind != "client" && kind != "plan", way != "return" && way != "delete":
		err = store.ErrNotFound
	case way == "return":
		err = s.Store.PutBack(c, s.Account(c), kind, id)
	default:
		err = s.Store.Delete(c, s.Account(c), kind, id)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	what := map[string]string{"return": "put back a ", "delete": "deleted a "}[way] + kind
	if kind == "client" {
		s.EventOf(c, what, id)
	} else {
		s.Event(c, what, fmt.Sprint(id))
	}
	if way == "return" {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/%ss/%d", kind, id))
		return
	}
	c.Redirect(http.StatusSeeOther, "/bin")
}
