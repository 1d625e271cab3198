package people

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/archive"
	"restbend/exchange"
	"restbend/store"
	"restbend/web/site"
)

// exportClient writes one client with everything about them as a file.
func (s *People) exportClient(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	b, err := archive.Clients(c, s.Store, s.Rules, []store.Client{row})
	if err != nil {
		s.Failed(c, err)
		return
	}
	doc, err := json.MarshalIndent(b, "", " ")
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Event(c, "exported", row.Name)
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="client-%d.json"`, row.ID))
	c.Data(http.StatusOK, "application/json; charset=utf-8", doc)
}

// arriving is a file that was read and waits for somebody to choose: clients that are here already and differ.
type arriving struct {
	account int64
	bundle  *archive.Bundle
	notes   []string
}

// What can be done with a client who is here already.
const (
	keepOurs = "ours"   // nothing
	takeIt   = "file"   // what the file says, and the sessions that are not here
	another  = "beside" // a second client
)

// arrival is one client of a file beside the one who is here.
type arrival struct {
	N       int
	Name    string
	ID      int64
	Changes []store.Change // what the file says otherwise
	Taught  int            // sessions that are not here
}

type importPage struct {
	Key       string
	New, Same int
	Differ    []arrival
	Notes     []string
}

// importClients reads clients from a file: a bundle or a single client document. Who is not here yet comes in; who is
// here and the same stays; who is here and differs is shown side by side first.
func (s *People) importClients(c *gin.Context) {
	file, err := c.FormFile("file")
	if err != nil {
		s.Fail(c, http.StatusUnprocessableEntity, "Choose a file first", "Nothing was changed.")
		return
	}
	f, err := file.Open()
	if err != nil {
		s.Failed(c, err)
		return
	}
	defer f.Close()
	b, notes, err := archive.Read(f, s.Catalogue(c), s.Limits(), s.Today())
	if err != nil {
		var p exchange.Problems
		if errors.As(err, &p) {
			s.Fail(
				c,
				http.StatusUnprocessableEntity,
				"This file cannot be used",
				"Nothing was changed. "+strings.Join(strings.Split(p.Error(), "\n"), "; "),
			)
			return
		}
		s.Failed(c, err)
		return
	}
	in := &arriving{account: s.Account(c), bundle: b}
	if len(notes) > 0 {
		in.notes = strings.Split(notes.Error(), "\n")
	}
	pg, err := s.besideOurs(c, in)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if len(pg.Differ) > 0 {
		pg.Key = rand.Text()
		s.arrivals.Add(pg.Key, in)
		s.Render(c, http.StatusOK, "import", "", "Bring clients in", pg)
		return
	}
	s.bringIn(c, in, nil)
}

// here is the client of a file who is in this practice already, of those an account may read.
func (s *People) here(c *gin.Context, uid string) (store.Client, bool, error) {
	row, err := s.Store.ClientOf(c, s.Account(c), uid)
	if errors.Is(err, store.ErrNotFound) {
		return row, false, nil
	}
	return row, err == nil, err
}

// besideOurs holds the clients of a file against those who are here.
func (s *People) besideOurs(c *gin.Context, in *arriving) (pg importPage, err error) {
	pg.Notes = in.notes
	for i := range in.bundle.Clients {
		they := &in.bundle.Clients[i]
		row, is, err := s.here(c, they.UID)
		if err != nil {
			return pg, err
		}
		if !is {
			pg.New++
			continue
		}
		ours, err := archive.Clients(c, s.Store, s.Rules, []store.Client{row})
		if err != nil {
			return pg, err
		}
		changes, err := site.ChangesOf(row.Document, they.Client, "", "")
		if err != nil {
			return pg, err
		}
		more := len(missing(&ours.Clients[0], they).Taught)
		if len(changes) == 0 && more == 0 {
			pg.Same++
			continue
		}
		pg.Differ = append(pg.Differ, arrival{i, row.Name, row.ID, changes, more})
	}
	return pg, nil
}

// missing is what of a client in a file is not here: sessions and tests.
func missing(ours, they *archive.Client) (out archive.Client) {
	out = archive.Client{Client: they.Client, Build: they.Build}
	for _, t := range they.Taught {
		if !slices.ContainsFunc(ours.Taught, func(x archive.Taught) bool {
			return x.Day == t.Day && x.EndedAt == t.EndedAt && len(x.Marks) == len(t.Marks)
		}) {
			out.Taught = append(out.Taught, t)
		}
	}
	for _, r := range they.Results {
		if !slices.ContainsFunc(ours.Results, func(x json.RawMessage) bool { return bytes.Equal(x, r) }) {
			out.Results = append(out.Results, r)
		}
	}
	return out
}

// chooseImport does with a file that waits what was chosen for everybody who differs.
func (s *People) chooseImport(c *gin.Context) {
	in, ok := s.arrivals.Get(c.Param("key"))
	if !ok || in.account != s.Account(c) {
		s.Fail(c, http.StatusNotFound, "This file waits no longer", "Nothing was changed. Choose it again.")
		return
	}
	choices := map[int]string{}
	for i := range in.bundle.Clients {
		switch v := c.PostForm(fmt.Sprintf("choice.%d", i)); v {
		case "":
		case keepOurs, takeIt, another:
			choices[i] = v
		default:
			s.Fail(c, http.StatusUnprocessableEntity, "Choose what to do with everybody", "Nothing was changed.")
			return
		}
	}
	s.arrivals.Remove(c.Param("key"))
	s.bringIn(c, in, choices)
}

// bringIn adds who is new, and does with the others what was chosen; without a choice what is here stays.
func (s *People) bringIn(c *gin.Context, in *arriving, choices map[int]string) {
	fresh := &archive.Bundle{Format: in.bundle.Format, Own: in.bundle.Own}
	for i := range in.bundle.Clients {
		they := in.bundle.Clients[i]
		row, is, err := s.here(c, they.UID)
		if err != nil {
			s.Failed(c, err)
			return
		}
		switch {
		case !is:
			fresh.Clients = append(fresh.Clients, they)
		case choices[i] == another:
			they.UID = ""
			fresh.Clients = append(fresh.Clients, they)
		case choices[i] == takeIt:
			if err := s.takeOver(c, row, &they); err != nil {
				s.Failed(c, err)
				return
			}
		}
	}
	if err := archive.Add(c, s.Store, s.Account(c), fresh); err != nil {
		s.Failed(c, err)
		return
	}
	s.ForgetCatalogue(c)
	s.Event(c, "brought in a file", fmt.Sprintf("%d clients", len(fresh.Clients)))
	c.Redirect(http.StatusSeeOther, "/clients")
}

// takeOver takes what a file says of a client who is here.
func (s *People) takeOver(c *gin.Context, row store.Client, they *archive.Client) error {
	ours, err := archive.Clients(c, s.Store, s.Rules, []store.Client{row})
	if err != nil {
		return err
	}
	changes, err := site.ChangesOf(row.Document, they.Client, s.Who(c), "taken from a file")
	if err != nil {
		return err
	}
	var name struct {
		Name string `json:"name"`
	}
	if err := json.Unmarshal(they.Client, &name); err != nil {
		return err
	}
	row.Name, row.Document = name.Name, they.Client
	if err := s.Store.UpdateClient(c, s.Account(c), row, changes...); err != nil {
		return err
	}
	more := missing(&ours.Clients[0], they)
	return archive.AddTo(context.WithoutCancel(c), s.Store, row.ID, &more)
}
