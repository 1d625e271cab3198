package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/archive"
	"restbend/exchange"
	"restbend/store"
)

// exportClient writes one client with everything about them as a file.
func (s *Server) exportClient(c *gin.Context) {
	row, ok := s.rowHere(c)
	if !ok {
		return
	}
	b, err := archive.Clients(c, s.Store, []store.Client{row})
	if err != nil {
		s.failed(c, err)
		return
	}
	doc, err := json.MarshalIndent(b, "", " ")
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="client-%d.json"`, row.ID))
	c.Data(http.StatusOK, "application/json; charset=utf-8", doc)
}

// importClients reads clients from a file: a bundle or a single client document.
func (s *Server) importClients(c *gin.Context) {
	file, err := c.FormFile("file")
	if err != nil {
		s.fail(c, http.StatusUnprocessableEntity, "Choose a file first", "Nothing was changed.")
		return
	}
	f, err := file.Open()
	if err != nil {
		s.failed(c, err)
		return
	}
	defer f.Close()
	b, err := archive.Read(f, s.cat(c), s.limits(), s.Today())
	if err != nil {
		if p, ok := err.(exchange.Problems); ok {
			s.fail(c, http.StatusUnprocessableEntity, "This file cannot be used", "Nothing was changed. "+strings.Join(strings.Split(p.Error(), "\n"), "; "))
			return
		}
		s.failed(c, err)
		return
	}
	if err := archive.Add(c, s.Store, s.account(c), b); err != nil {
		s.failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/clients")
}
