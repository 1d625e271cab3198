package library

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/say"
	"restbend/figure"
	"restbend/store"
	"restbend/web/site"
)

// ownPage is the list, and the bench of one own version.
type ownPage struct {
	Rows     []store.Own
	Row      store.Own
	V        *catalogue.Version
	Base     string
	Problems []string
	Findings []string
	Stills   []string
	Presets  []string
	Schools  []string
	Saved    string
}

func (s *Library) ownList(c *gin.Context) {
	rows, err := s.Store.OwnVersions(c, s.Account(c))
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "own-list", "", "Own exercises", ownPage{Rows: rows})
}

// copyVersion begins an own version from any version.
func (s *Library) copyVersion(c *gin.Context) {
	v, ok := s.libraryVersion(c)
	if !ok {
		return
	}
	name := v.Name + ", own"
	stem := catalogue.OwnPrefix + strings.TrimPrefix(v.Slug, catalogue.OwnPrefix)
	o, err := s.Store.CreateOwn(c, s.Account(c), stem, name, func(slug string) (string, error) {
		doc, err := v.Copy(slug, name).YAML()
		return string(doc), err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/own/%d", o.ID))
}

func (s *Library) ownHere(c *gin.Context) (store.Own, bool) {
	id, ok := s.ID(c)
	if !ok {
		return store.Own{}, false
	}
	o, err := s.Store.OwnVersion(c, s.Account(c), id)
	if err != nil {
		s.Failed(c, err)
		return o, false
	}
	return o, true
}

// text is what is being worked on: the draft, else the document in use.
func text(o *store.Own) string {
	if o.Draft != "" {
		return o.Draft
	}
	return o.Document
}

func (s *Library) ownEdit(c *gin.Context) {
	o, ok := s.ownHere(c)
	if !ok {
		return
	}
	v, err := s.Cat.ReadOwn(o.Slug, []byte(text(&o)))
	if v == nil {
		s.Failed(c, err)
		return
	}
	s.showOwn(c, http.StatusOK, o, v, "")
}

// showOwn checks, solves and draws what is being worked on.
func (s *Library) showOwn(c *gin.Context, status int, o store.Own, v *catalogue.Version, saved string) {
	pg := ownPage{Row: o, V: v, Presets: s.Cat.Presets(), Schools: catalogue.Schools, Saved: saved}
	pg.Problems, pg.Findings, _ = s.examine(v)
	if v.Solved != nil {
		q := s.Drawer.Sequence(v, "")
		for i := range q.Phases() {
			pg.Stills = append(
				pg.Stills,
				"data:image/svg+xml;utf8,"+url.PathEscape(q.Phase(i, figure.Options{Title: v.Phases[i].Name})),
			)
		}
	}
	fragment := ""
	if c.GetHeader("HX-Request") == "true" {
		fragment = "checked"
	}
	s.Render(c, status, "own", fragment, v.Name, pg)
}

// examine tells what is wrong with the words (problems), and with the poses (findings);
// sound is true when neither has anything.
func (s *Library) examine(v *catalogue.Version) (problems, findings []string, sound bool) {
	if err := s.Cat.CheckOwn(v); err != nil {
		var list *catalogue.Error
		if errors.As(err, &list) {
			for _, p := range list.Problems {
				_, p, _ = strings.Cut(p, ": ")
				_, p, _ = strings.Cut(p, ": ")
				problems = append(problems, p)
			}
		}
	}
	for _, p := range problems {
		if strings.HasPrefix(p, "phases") {
			return problems, nil, false // nothing to solve
		}
	}
	solved, found, err := s.Solve(v)
	if err != nil {
		return append(problems, "phases: "+err.Error()), nil, false
	}
	v.Attach(solved)
	seen := map[string]bool{}
	for _, f := range found {
		line := f.Phase + ": " + f.Text
		line = strings.ReplaceAll(strings.ReplaceAll(line, " (female body)", ""), " (male body)", "")
		if !seen[line] {
			seen[line] = true
			findings = append(findings, line)
		}
	}
	return problems, findings, problems == nil && findings == nil
}

// formVersion reads the bench's form over the stored entry; what the form does not show
// stays as it is.
func (s *Library) formVersion(c *gin.Context, o *store.Own) (*catalogue.Version, error) {
	v, err := s.Cat.ReadOwn(o.Slug, []byte(text(o)))
	if v == nil {
		return nil, err
	}
	if err := c.Request.ParseForm(); err != nil {
		return nil, err
	}
	f := c.Request.PostForm
	lines := func(name string) []string {
		var out []string
		for _, l := range strings.Split(f.Get(name), "\n") {
			if l = strings.TrimSpace(l); l != "" {
				out = append(out, l)
			}
		}
		return out
	}
	v.Name = strings.TrimSpace(f.Get("name"))
	v.Aliases, v.Say.Setup.First, v.Say.Stop = lines("aliases"), lines("setup"), lines("stop")
	v.Say.Feel, v.Faults = nil, nil
	for _, l := range lines("feel") {
		v.Say.Feel = append(v.Say.Feel, say.ReadSaid(l, say.FeltAt, ""))
	}
	for _, l := range lines("faults") {
		s := say.ReadSaid(l, say.FaultCodes, "other")
		v.Faults = append(v.Faults, say.Fault{Code: s.Code, Say: s.Say})
	}
	v.Changes = strings.TrimSpace(f.Get("changes"))
	v.Lighter = strings.TrimSpace(f.Get("lighter"))
	v.Effort, _ = strconv.Atoi(f.Get("effort")) // 0 is named by the check
	v.DoseNames = map[string]string{}
	for _, school := range catalogue.Schools {
		if p := f.Get("dose." + school); p != "" {
			v.DoseNames[school] = p
		}
	}
	for i := range v.Phases {
		p := &v.Phases[i]
		key := func(name string) string { return fmt.Sprintf("phase.%d.%s", i, name) }
		p.Pose = strings.ReplaceAll(strings.TrimSpace(f.Get(key("pose"))), "\r\n", "\n")
		p.Breath = f.Get(key("breath"))
		p.Held = f.Get(key("held")) != ""
		p.Seconds, _ = site.TypedNumber(f.Get(key("seconds")))
	}
	typed := say.Cues{
		In:    strings.TrimSpace(f.Get("cue_in")),
		Out:   strings.TrimSpace(f.Get("cue_out")),
		Image: strings.TrimSpace(f.Get("cue_image")),
	}
	if v.Say.Image = typed.Image; v.Cues() != typed { // lines of single phases stay unless the cues were changed
		v.SetCues(typed)
	}
	return v, nil
}

// typed is the own version at this address as the form now has it.
func (s *Library) typed(c *gin.Context) (o store.Own, v *catalogue.Version, ok bool) {
	if o, ok = s.ownHere(c); !ok {
		return o, nil, false
	}
	v, err := s.formVersion(c, &o)
	if err != nil {
		s.Failed(c, err)
		return o, nil, false
	}
	return o, v, true
}

// ownCheck looks at what is typed without saving it.
func (s *Library) ownCheck(c *gin.Context) {
	o, v, ok := s.typed(c)
	if !ok {
		return
	}
	s.showOwn(c, http.StatusOK, o, v, "")
}

// ownSave puts a sound version in use and keeps any other as a draft.
func (s *Library) ownSave(c *gin.Context) {
	o, v, ok := s.typed(c)
	if !ok {
		return
	}
	if was := c.PostForm("updated"); was != "" && was != o.UpdatedAt {
		s.showOwn(
			c,
			http.StatusConflict,
			o,
			v,
			"It was saved elsewhere meanwhile. Yours stands below and is not saved: save again to put it in its place, or load the page again to see the other.",
		)
		return
	}
	name := v.Name
	if name == "" {
		name = o.Name
	}
	_, _, sound := s.examine(v)
	draft := !sound || c.PostForm("as") == "draft"
	v.Revision = o.Revision + 1
	doc, err := v.YAML()
	if err != nil {
		s.Failed(c, err)
		return
	}
	saved := "Saved as a draft; it is not used for clients."
	if draft {
		err = s.Store.SaveOwnDraft(c, s.Account(c), o.ID, name, string(doc))
		if !sound {
			saved = "Saved as a draft only: it has faults, listed below. Nothing typed was lost."
		}
	} else {
		var solved []byte
		if solved, err = json.Marshal(v.Solved); err == nil {
			err = s.Store.UseOwn(c, s.Account(c), o.ID, name, string(doc), string(solved), v.Revision)
		}
		saved = fmt.Sprintf("In use as revision %d.", v.Revision)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.ForgetCatalogue(c)
	if o, err = s.Store.OwnVersion(c, s.Account(c), o.ID); err != nil {
		s.Failed(c, err)
		return
	}
	s.showOwn(c, http.StatusOK, o, v, saved)
}

// ownWithdraw takes a version out of use.
func (s *Library) ownWithdraw(c *gin.Context) {
	o, ok := s.ownHere(c)
	if !ok {
		return
	}
	if err := s.Store.WithdrawOwn(c, s.Account(c), o.ID); err != nil {
		s.Failed(c, err)
		return
	}
	s.ForgetCatalogue(c)
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/own/%d", o.ID))
}

// ownExport sends the file of an own version.
func (s *Library) ownExport(c *gin.Context) {
	o, ok := s.ownHere(c)
	if !ok {
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf(`attachment; filename="%s.yaml"`, o.Slug))
	c.Data(http.StatusOK, "application/yaml; charset=utf-8", []byte(text(&o)))
}

// maxImport bounds an imported file, bytes (product default).
const maxImport = 256 << 10

// ownImport reads a file as a new draft; it comes into use only after a look at it.
func (s *Library) ownImport(c *gin.Context) {
	refuse := func(lines ...string) {
		rows, _ := s.Store.OwnVersions(c, s.Account(c))
		s.Render(c, http.StatusUnprocessableEntity, "own-list", "", "Own exercises", ownPage{Rows: rows, Problems: lines})
	}
	up, err := c.FormFile("file")
	if err != nil {
		refuse("file: none was chosen, allowed: one exercise file")
		return
	}
	f, err := up.Open()
	if err != nil {
		s.Failed(c, err)
		return
	}
	defer f.Close()
	data, err := io.ReadAll(io.LimitReader(f, maxImport+1))
	if err != nil || len(data) > maxImport {
		refuse(fmt.Sprintf("file: larger than %d kB", maxImport>>10))
		return
	}
	v, err := s.Cat.ReadOwn("file", data)
	if v == nil {
		refuse(err.Error())
		return
	}
	stem := v.Slug
	if !strings.HasPrefix(stem, catalogue.OwnPrefix) {
		stem = catalogue.OwnPrefix + stem
	}
	stem = strings.TrimRight(stem, "-0123456789")
	if !catalogue.IsOwnSlug(stem) {
		refuse(fmt.Sprintf("version: found %.80q, allowed: small letters, digits and hyphens", v.Slug))
		return
	}
	o, err := s.Store.CreateOwn(c, s.Account(c), stem, v.Name, func(slug string) (string, error) {
		v.Slug, v.Revision = slug, 1
		doc, err := v.YAML()
		return string(doc), err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/own/%d", o.ID))
}

// revision shows the text an exercise had when an old log was written.
func (s *Library) revision(c *gin.Context) {
	n, err := strconv.Atoi(c.Param("n"))
	slug := c.Param("slug")
	v, ok := s.Catalogue(c).Revision(slug, n)
	if !ok && err == nil && strings.HasPrefix(slug, catalogue.OwnPrefix) {
		if doc, err := s.Store.OwnRevision(c, s.Account(c), slug, n); err == nil {
			v, _ = s.Cat.ReadOwn(slug, []byte(doc))
			ok = v != nil
		}
	}
	if !ok {
		s.Fail(c, http.StatusNotFound, "There is no such revision", "Open the exercise to see which it has.")
		return
	}
	s.Render(c, http.StatusOK, "revision", "", v.Name+", revision "+c.Param("n"), v)
}

// JoinLines writes a list a line each.
func JoinLines(list []string) string { return strings.Join(slices.Clone(list), "\n") }
