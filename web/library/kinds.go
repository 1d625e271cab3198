package library

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/safety"
	"restbend/core/trade"
	"restbend/store"
	"restbend/web/site"
)

type kindRow struct {
	kinds.Template
	Changed, Own bool
}

type kindsPage struct {
	Keeper bool
	Rows   []kindRow
}

func (s *Library) kindsPage(c *gin.Context) {
	var rows []kindRow
	for _, t := range s.Kinds(c) {
		row := kindRow{Template: t, Own: true}
		for i := range s.Templates {
			if d := &s.Templates[i]; d.Slug == t.Slug {
				a, _ := json.Marshal(d)
				b, _ := json.Marshal(t)
				row.Own, row.Changed = false, string(a) != string(b)
			}
		}
		rows = append(rows, row)
	}
	s.Render(c, http.StatusOK, "kinds", "", "Kinds of session", kindsPage{s.Keeper(c), rows})
}

type kindForm struct {
	Slug     string
	Base     string // the kind the form was made from
	New      bool
	Values   url.Values
	Problems []string
	Aims     []string
	Places   []string
	Surfaces []string
	Schools  []string
	Core     []string

	Versions   []*catalogue.Version // to pick from
	Served     []string             // families and aims
	Conditions []safety.Rule
}

func (s *Library) newKindForm(slug string, v url.Values, problems []string) kindForm {
	var served []string
	for _, f := range s.Cat.Families {
		served = append(served, f.Name)
	}
	return kindForm{
		Versions:   s.Cat.Versions,
		Served:     append(served, catalogue.Aims...),
		Conditions: s.Rules.Conditions,
		Slug:       slug,
		New:        slug == "",
		Values:     v,
		Problems:   problems,
		Aims:       catalogue.Aims,
		Places:     trade.Words(trade.Positions),
		Surfaces:   trade.Words(trade.Surfaces),
		Schools:    catalogue.Schools,
		Core:       []string{"neutral", "brace", "draw-in", "imprint"},
	}
}

// Has tells whether a list field of the form holds a value.
func (f kindForm) Has(field, value string) bool { return slices.Contains(f.Values[field], value) }

func (s *Library) editKind(c *gin.Context) {
	slug := c.Param("slug")
	if slug == "new" {
		s.Render(c, http.StatusOK, "kind", "", "A kind of session", s.newKindForm("", url.Values{"minutes": {"30"}}, nil))
		return
	}
	t, err := s.Kind(c, slug)
	if err != nil || t == nil {
		s.Failed(c, store.ErrNotFound)
		return
	}
	f := s.newKindForm(t.Slug, kindValues(t), nil)
	f.Base = kindText(t)
	s.Render(c, http.StatusOK, "kind", "", t.Name, f)
}

// kindText is a kind as a text, empty for none.
func kindText(t *kinds.Template) string {
	if t == nil {
		return ""
	}
	doc, err := json.Marshal(t)
	if err != nil {
		return ""
	}
	return string(doc)
}

func kindValues(t *kinds.Template) url.Values {
	v := url.Values{
		"name":      {t.Name},
		"reason":    {t.Reason},
		"source":    {t.Source},
		"minutes":   {strconv.Itoa(t.Minutes)},
		"dose":      {t.Dose},
		"core":      {t.Core},
		"order":     {t.Order},
		"positions": trade.Words(t.Positions),
		"surfaces":  trade.Words(t.Surfaces),
		"for":       slices.Clone(t.For),
		"prepare":   slices.Clone(t.Prepare),
		"finish":    slices.Clone(t.Finish),
	}
	if t.EffortCap > 0 {
		v.Set("effort_cap", strconv.Itoa(t.EffortCap))
	}
	if t.MaxStrong > 0 {
		v.Set("most_strong", strconv.Itoa(t.MaxStrong))
	}
	for name, is := range map[string]bool{"resets": t.Resets, "routine": t.Routine, "natural": t.Natural,
		"own_content": t.OwnContent} {
		if is {
			v.Set(name, "yes")
		}
	}
	v.Set("place", t.Place)
	if p := t.Parts; p != nil {
		for name, n := range map[string]int{"mobility_from": p.Mobility[0], "mobility_to": p.Mobility[1],
			"main_from": p.Main[0], "main_to": p.Main[1]} {
			v.Set(name, strconv.Itoa(n))
		}
	}
	for a, w := range t.Aims {
		v.Set("aim "+a, strconv.FormatFloat(w, 'g', -1, 64))
	}
	for i, n := range t.Needs {
		v.Set(fmt.Sprintf("need.%d.least", i), strconv.Itoa(n.Least))
		v[fmt.Sprintf("need.%d.of", i)] = append(slices.Clone(n.Families), n.Aims...)
		v[fmt.Sprintf("need.%d.else", i)] = slices.Clone(n.Else)
	}
	return v
}

var slugUnsafe = regexp.MustCompile(`[^a-z0-9]+`)

// parted reads how many of each part a kind holds; all empty is by the minutes.
func parted(get func(string) string, number func(string) int, extra int) *kinds.Parts {
	fields := []string{"mobility_from", "mobility_to", "main_from", "main_to"}
	if !slices.ContainsFunc(fields, func(f string) bool { return get(f) != "" }) {
		return nil
	}
	return &kinds.Parts{
		Mobility: [2]int{number(fields[0]), number(fields[1])},
		Main:     [2]int{number(fields[2]), number(fields[3])},
		Extra:    extra,
	}
}

// kept is what the form of a kind does not ask for and a changed kind keeps of what it was.
func kept(t, was *kinds.Template) {
	if was == nil {
		return
	}
	t.MostItems, t.Only, t.Day, t.Whole, t.Families = was.MostItems, was.Only, was.Day, was.Whole, was.Families
	t.Skill, t.Breaths, t.FirstWeek, t.Rising, t.Desk = was.Skill, was.Breaths, was.FirstWeek, was.Rising, was.Desk
	t.ByFeel, t.Sections = was.ByFeel, was.Sections
}

// mostNeeds bounds how many things a kind asks for.
const mostNeeds = 20

// picked reads what was picked from lists: an exercise may be given by its name.
func (s *Library) picked(values []string) (out []string) {
	for _, v := range values {
		if v = strings.TrimSpace(v); v == "" {
			continue
		}
		i := slices.IndexFunc(s.Cat.Versions, func(w *catalogue.Version) bool { return strings.EqualFold(w.Name, v) })
		if _, known := s.Cat.Version(v); !known && i >= 0 {
			v = s.Cat.Versions[i].Slug
		}
		out = append(out, v)
	}
	return out
}

// Rows are the filled fields of a list and some empty ones.
func (f kindForm) Rows(field string, more int) []string {
	return append(
		slices.DeleteFunc(slices.Clone(f.Values[field]), func(s string) bool { return strings.TrimSpace(s) == "" }),
		make([]string, more)...)
}

// Needs number the rows of what the kind asks for: those that are filled and two empty ones.
func (f kindForm) Needs() (out []int) {
	n := 0
	for i := range mostNeeds {
		if len(f.Values[fmt.Sprintf("need.%d.of", i)]) > 0 {
			n = i + 1
		}
	}
	for i := range min(mostNeeds, n+2) {
		out = append(out, i)
	}
	return out
}

// kindOf reads the form of a kind that was another before, nil for a new one; problems begin with the
// field.
func (s *Library) kindOf(was *kinds.Template, slug string, f url.Values) (t kinds.Template, problems []string) {
	get := func(name string) string { return strings.TrimSpace(f.Get(name)) }
	number := func(name string) int {
		text := get(name)
		if text == "" {
			return 0
		}
		n, err := strconv.Atoi(text)
		if err != nil {
			problems = append(problems, fmt.Sprintf("%s: found %q, allowed: a whole number", name, text))
		}
		return n
	}
	list := func(name string) []string { return s.picked(f[name]) }
	t = kinds.Template{
		Slug:      slug,
		Name:      get("name"),
		Reason:    get("reason"),
		Source:    get("source"),
		Minutes:   number("minutes"),
		Dose:      get("dose"),
		Core:      get("core"),
		Order:     get("order"),
		Positions: trade.List[trade.Position](f["positions"]),
		Surfaces:  trade.List[trade.Surface](f["surfaces"]),
		EffortCap: number("effort_cap"),
		MaxStrong: number("most_strong"),
		Resets:    get("resets") == "yes",
		For:       list("for"),
		Prepare:   list("prepare"),
		Finish:    list("finish"),
	}
	extra := 0
	if was != nil && was.Parts != nil {
		extra = was.Parts.Extra
	}
	t.Routine = get("routine") == "yes"
	t.Natural, t.OwnContent = get("natural") == "yes", get("own_content") == "yes"
	t.Place, t.Parts = get("place"), parted(get, number, extra)
	if slug == "" {
		t.Slug = strings.Trim(slugUnsafe.ReplaceAllString(strings.ToLower(t.Name), "-"), "-")
	}
	for _, code := range t.For {
		if _, ok := s.Rules.Rule(code); !ok {
			problems = append(problems, fmt.Sprintf("for: there is no condition %q", code))
		}
	}
	var wrong []string
	t.Aims, wrong = weights(get)
	problems = append(problems, wrong...)
	for i := range mostNeeds {
		of := list(fmt.Sprintf("need.%d.of", i))
		if len(of) == 0 {
			continue
		}
		need := kinds.Need{Least: max(1, number(fmt.Sprintf("need.%d.least", i))), Else: list(fmt.Sprintf("need.%d.else", i))}
		for _, x := range of {
			if slices.Contains(catalogue.Aims, x) {
				need.Aims = append(need.Aims, x)
			} else {
				need.Families = append(need.Families, x)
			}
		}
		t.Needs = append(t.Needs, need)
	}
	kept(&t, was)
	return t, append(problems, t.Check(s.Cat)...)
}

// weights are the aims of a kind as they were typed, nil for none.
func weights(get func(name string) string) (aims map[string]float64, problems []string) {
	for _, a := range catalogue.Aims {
		text := get("aim " + a)
		if text == "" {
			continue
		}
		w, err := site.TypedNumber(text)
		if err != nil {
			problems = append(problems, fmt.Sprintf("aims: %s: found %q, allowed: a number above 0 to 10", a, text))
			continue
		}
		if aims == nil {
			aims = map[string]float64{}
		}
		aims[a] = w
	}
	return aims, problems
}

func (s *Library) saveKind(c *gin.Context) {
	slug := c.Param("slug")
	if slug == "new" {
		slug = ""
	}
	if err := c.Request.ParseForm(); err != nil {
		s.Fail(c, http.StatusBadRequest, "The form could not be read", "Nothing was changed.")
		return
	}
	if c.PostForm("op") == "default" {
		if err := s.Store.DropTemplate(c, slug); err != nil {
			s.Failed(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/kinds")
		return
	}
	var was *kinds.Template
	if slug != "" {
		var err error
		if was, err = s.Kind(c, slug); err != nil {
			s.Failed(c, err)
			return
		}
	}
	t, problems := s.kindOf(was, slug, c.Request.PostForm)
	if slug == "" && slices.ContainsFunc(s.Kinds(c), func(x kinds.Template) bool { return x.Slug == t.Slug }) {
		problems = append(problems, "name: there is already a kind of that name")
	}
	status := http.StatusUnprocessableEntity
	if base := c.PostForm("base"); base != "" && base != kindText(was) && problems == nil {
		status = http.StatusConflict
		problems = append(
			problems,
			"somebody changed this kind meanwhile. Yours stands below: save again to put it in place of theirs, or load the page again to see it",
		)
	}
	if problems != nil {
		f := s.newKindForm(slug, c.Request.PostForm, problems)
		f.Base = kindText(was)
		s.Render(c, status, "kind", "", "A kind of session", f)
		return
	}
	doc, err := json.Marshal(t)
	if err == nil {
		var m store.Member
		if m, err = s.Store.Member(c, s.Account(c)); err == nil {
			err = s.Store.SaveTemplate(c, store.Template{Slug: t.Slug, Document: doc, Who: m.Name})
		}
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/kinds")
}
