package web

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

// putAway remembers what was removed, so that the next page offers it back.
func (s *Server) putAway(c *gin.Context, kind string, id int64, name string) {
	s.sessions.Put(c.Request.Context(), removedKey, fmt.Sprintf("%s %d %s", kind, id, name))
	s.event(c, "removed a "+kind, name)
}

// justRemoved is what was removed on the page before, once.
func (s *Server) justRemoved(c *gin.Context) *removed {
	text := s.sessions.PopString(c.Request.Context(), removedKey)
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
func (s *Server) binPage(c *gin.Context) {
	list, err := s.Store.Bin(c, s.account(c))
	if err != nil {
		s.failed(c, err)
		return
	}
	s.render(c, http.StatusOK, "bin", "", "Bin", struct {
		Rows []store.Removed
		Days int
	}{list, store.BinDays})
}

// bin puts something back, or deletes it for good.
func (s *Server) bin(c *gin.Context) {
	id, ok := s.id(c)
	if !ok {
		return
	}
	kind, way := c.Param("kind"), c.Param("way")
	var err error
	switch {
	case kind != "client" && kind != "plan", way != "return" && way != "delete":
		err = store.ErrNotFound
	case way == "return":
		err = s.Store.PutBack(c, s.account(c), kind, id)
	default:
		err = s.Store.Delete(c, s.account(c), kind, id)
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	s.event(c, map[string]string{"return": "put back a ", "delete": "deleted a "}[way]+kind, fmt.Sprint(id))
	if way == "return" {
		c.Redirect(http.StatusSeeOther, fmt.Sprintf("/%ss/%d", kind, id))
		return
	}
	c.Redirect(http.StatusSeeOther, "/bin")
}
