package people

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

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
	s.EventOf(c, "exported", row.ID)
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="client-%d.json"`, row.ID))
	c.Data(http.StatusOK, "application/json; charset=utf-8", doc)
}

// arriving is a file that was read and waits for somebody to choose: clients that are here already and differ. Looked
// is what was here when they were shown, by their number in the file.
type arriving struct {
	mu      sync.Mutex // one choice at a time: a button pressed twice brings nothing in twice
	over    bool       // it was brought in
	account int64
	bundle  *archive.Bundle
	notes   []string
	looked  map[int]store.Client
}

// What can be done with a client who is here already.
const (
	keepOurs = "ours"   // nothing
	takeIt   = "file"   // what the file says, and the sessions that are not here
	another  = "beside" // a second client
)

// arrival is one client of a file beside the one who is here.
type arrival struct {
	N         int
	Name      string
	ID        int64
	Revision  int64          // that was looked at
	Changes   []store.Change // what the file says otherwise
	Meanwhile []store.Change // what somebody changed here since it was looked at
	More      []more
	Choice    string
}

// more is what a file has of a client beside their own document, and what becomes of it.
type more struct{ What, Here, File string }

type importPage struct {
	Key       string
	New, Same int
	Differ    []arrival
	Meanwhile bool
	Done      bool
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
	in := &arriving{account: s.Account(c), bundle: b, looked: map[int]store.Client{}}
	if len(notes) > 0 {
		in.notes = strings.Split(notes.Error(), "\n")
	}
	if n := len(b.Own); n > 0 {
		in.notes = append(in.notes, fmt.Sprintf("Own exercises come in as drafts: %d; look at them before they are used", n))
	}
	if n := len(b.Limits); n > 0 {
		in.notes = append(in.notes, fmt.Sprintf("Not taken over: %d changed limits; set them on the page of limits", n))
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
		a := arrival{N: i, Name: row.Name, ID: row.ID, Revision: row.Revision}
		if a.Changes, err = differences(&ours.Clients[0], they); err != nil {
			return pg, err
		}
		_, a.More = missing(&ours.Clients[0], they)
		if len(a.Changes)+len(a.More) == 0 {
			pg.Same++
			continue
		}
		in.looked[i] = row
		pg.Differ = append(pg.Differ, a)
	}
	return pg, nil
}

// differences are all the fields in which two documents of a client differ: those that verdicts depend on first.
func differences(ours, they *archive.Client) (out []store.Change, err error) {
	a, err := fieldsOf(ours)
	if err != nil {
		return nil, err
	}
	b, err := fieldsOf(they)
	if err != nil {
		return nil, err
	}
	names := slices.Clone(site.Limiting)
	for _, doc := range []map[string]json.RawMessage{a, b} {
		for _, k := range slices.Sorted(maps.Keys(doc)) {
			if !slices.Contains(names, k) && k != "format" {
				names = append(names, k)
			}
		}
	}
	for _, field := range names {
		if x, y := a[field], b[field]; !sameJSON(x, y) && (says(x) || says(y)) {
			out = append(out, store.Change{Field: field, Before: site.Said(x), After: site.Said(y)})
		}
	}
	return out, nil
}

// fieldsOf are the fields of a client's document, and what is kept beside it.
func fieldsOf(c *archive.Client) (doc map[string]json.RawMessage, err error) {
	if err := json.Unmarshal(c.Client, &doc); err != nil {
		return nil, err
	}
	for name, v := range map[string]string{"drawn as": c.Build, "intake waits at": c.Intake} {
		if v != "" {
			doc[name], _ = json.Marshal(v) // a text: it cannot fail
		}
	}
	return doc, nil
}

// says tells whether a value says anything.
func says(raw json.RawMessage) bool {
	return !slices.Contains([]string{"", "null", "[]", "{}", `""`}, string(bytes.TrimSpace(raw)))
}

// missing is what of a client in a file is not here, sessions, plans and tests, and how to say it; a session that is
// here with other marks stays as it is here, and that is said too.
func missing(ours, they *archive.Client) (out archive.Client, list []more) {
	out = archive.Client{Client: they.Client, Build: they.Build}
	other := 0
	for _, t := range they.Taught {
		i := slices.IndexFunc(ours.Taught, func(x archive.Taught) bool { return x.Day == t.Day && x.EndedAt == t.EndedAt })
		switch {
		case i < 0:
			out.Taught = append(out.Taught, t)
		case !sameSession(&ours.Taught[i], &t):
			other++
		}
	}
	for _, p := range they.Plans {
		if !slices.ContainsFunc(ours.Plans, func(x archive.Plan) bool { return sameJSON(x.Plan, p.Plan) }) {
			out.Plans = append(out.Plans, p)
		}
	}
	for _, r := range they.Results {
		if !slices.ContainsFunc(ours.Results, func(x json.RawMessage) bool { return sameJSON(x, r) }) {
			out.Results = append(out.Results, r)
		}
	}
	for _, k := range []struct {
		what string
		n    int
	}{{"sessions", len(out.Taught)}, {"plans", len(out.Plans)}, {"tests", len(out.Results)}} {
		if k.n > 0 {
			list = append(list, more{k.what, "", fmt.Sprintf("%d that are not here", k.n)})
		}
	}
	if other > 0 {
		list = append(list, more{"sessions of both", fmt.Sprintf("%d stay as they are here", other), "marked otherwise"})
	}
	return out, list
}

// sameSession tells whether two sessions say the same: their marks and entries, or the log where there are none.
func sameSession(a, b *archive.Taught) bool {
	keys := func(t *archive.Taught) (out []string) {
		for _, m := range t.Marks {
			var k struct{ Key string }
			_ = json.Unmarshal(m.Mark, &k) // it was read before
			out = append(out, k.Key)
		}
		for _, e := range t.Entries {
			out = append(out, e.Key)
		}
		slices.Sort(out)
		return out
	}
	return slices.Equal(keys(a), keys(b)) && sameJSON(a.Log, b.Log)
}

// chooseImport does with a file that waits what was chosen for everybody who differs.
func (s *People) chooseImport(c *gin.Context) {
	in, ok := s.arrivals.Get(c.Param("key"))
	if !ok || in.account != s.Account(c) {
		s.Fail(c, http.StatusNotFound, "This file waits no longer", "Nothing was changed. Choose it again.")
		return
	}
	in.mu.Lock()
	defer in.mu.Unlock()
	if in.over {
		c.Redirect(http.StatusSeeOther, "/clients")
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
	pg, err := s.changedMeanwhile(c, in, choices)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if pg.Meanwhile {
		pg.Key = c.Param("key")
		s.Render(c, http.StatusConflict, "import", "", "Bring clients in", pg)
		return
	}
	in.over = true
	s.arrivals.Remove(c.Param("key"))
	s.bringIn(c, in, choices)
}

// changedMeanwhile holds what is to be put in place of what is here against what was looked at: where somebody changed
// it since, everybody who differs is shown again, with what was changed.
func (s *People) changedMeanwhile(c *gin.Context, in *arriving, choices map[int]string) (pg importPage, err error) {
	looked := in.looked
	in.looked = map[int]store.Client{}
	if pg, err = s.besideOurs(c, in); err != nil {
		return pg, err
	}
	for k := range pg.Differ {
		a := &pg.Differ[k]
		was, seen := looked[a.N]
		a.Choice = choices[a.N]
		if !seen || a.Choice != takeIt {
			continue
		}
		typed, err := strconv.ParseInt(c.PostForm(fmt.Sprintf("seen.%d", a.N)), 10, 64)
		if was.Revision == a.Revision && (err != nil || typed == a.Revision) {
			continue
		}
		now := in.looked[a.N]
		if a.Meanwhile, err = differences(
			&archive.Client{Client: was.Document, Build: was.Build, Intake: was.Intake},
			&archive.Client{Client: now.Document, Build: now.Build, Intake: now.Intake},
		); err != nil {
			return pg, err
		}
		a.Choice, pg.Meanwhile = keepOurs, true
	}
	return pg, nil
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
			looked, seen := in.looked[i]
			if !seen {
				continue // the same here and there
			}
			row.Revision = looked.Revision // a change since is not undone
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
	if len(in.notes) > 0 { // what is to be looked at is not lost on the way
		s.Render(c, http.StatusOK, "import", "", "Bring clients in", importPage{Done: true, New: len(fresh.Clients), Notes: in.notes})
		return
	}
	c.Redirect(http.StatusSeeOther, "/clients")
}

// takeOver takes what a file says of a client who is here.
func (s *People) takeOver(c *gin.Context, row store.Client, they *archive.Client) error {
	ours, err := archive.Clients(c, s.Store, s.Rules, []store.Client{row})
	if err != nil {
		return err
	}
	changes, err := differences(&ours.Clients[0], they)
	if err != nil {
		return err
	}
	for i := range changes {
		changes[i].Who, changes[i].Why = s.Who(c), "taken from a file"
	}
	var name struct {
		Name string `json:"name"`
	}
	if err := json.Unmarshal(they.Client, &name); err != nil {
		return err
	}
	row.Name, row.Document, row.Intake = name.Name, they.Client, they.Intake
	if they.Build != "" {
		row.Build = they.Build
	}
	if err := s.Store.UpdateClient(c, s.Account(c), row, changes...); err != nil {
		return err
	}
	more, _ := missing(&ours.Clients[0], they)
	return archive.AddTo(context.WithoutCancel(c), s.Store, row.ID, &more)
}
