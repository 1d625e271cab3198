package site

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"restbend/core/facts"
	"restbend/store"
)

type practicePage struct {
	Me      store.Member
	Members []store.Member
	Name    string // typed
	Wrong   string
	Added   string

	Zone, ZoneWrong string // typed, and what is wrong with it
	Today           string // in that zone

	Slot bool // minutes mean the whole slot

	Idle, IdleWrong string // minutes without use until somebody is signed out
	SignIns         []signInRow
	PasswordWrong   string
	PasswordSet     bool
	Closed          string // whose account was closed
	Events          []string
	Numbers         bool // events name clients by number
}

// practice shows who works here; the account that keeps the practice adds others.
func (s *Site) practice(c *gin.Context) { s.showPractice(c, http.StatusOK, practicePage{}) }

func (s *Site) showPractice(c *gin.Context, status int, pg practicePage) {
	var err error
	if pg.Members, err = s.Store.Members(c, 0); err != nil {
		s.Failed(c, err)
		return
	}
	if pg.ZoneWrong == "" {
		if pg.Zone, err = s.Store.Setting(c, ZoneSetting); err != nil {
			s.Failed(c, err)
			return
		}
	}
	pg.Today = s.Today().String()
	if pg.IdleWrong == "" {
		pg.Idle = strconv.Itoa(int(s.idle(c).Minutes()))
	}
	if pg.SignIns, err = s.signInRows(c); err != nil {
		s.Failed(c, err)
		return
	}
	if s.Keeper(c) {
		if pg.Events, pg.Numbers, err = s.events(c); err != nil {
			s.Failed(c, err)
			return
		}
	}
	pg.Slot = s.slots(c)
	for _, m := range pg.Members {
		if m.ID == s.Account(c) {
			pg.Me = m
		}
	}
	s.Render(c, status, "practice", "", "Practice", pg)
}

func (s *Site) addAccount(c *gin.Context) {
	name, password := strings.TrimSpace(c.PostForm("name")), c.PostForm("password")
	why := AccountProblem(name, password)
	if taken, err := s.Store.NameTaken(c, name); (err != nil || taken) && why == "" {
		why = "Name: there is an account of that name already, or was."
	}
	if why != "" {
		s.showPractice(c, http.StatusUnprocessableEntity, practicePage{Name: name, Wrong: why})
		return
	}
	hash, err := store.HashPassword(c.Request.Context(), password)
	if err != nil {
		s.Failed(c, err)
		return
	}
	_, err = s.Store.CreateAccount(c, name, hash)
	if errors.Is(err, store.ErrChanged) { // somebody else was quicker
		s.showPractice(c, http.StatusUnprocessableEntity,
			practicePage{Name: name, Wrong: "Name: there is an account of that name already, or was."})
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Event(c, "added an account", name)
	s.showPractice(c, http.StatusOK, practicePage{Added: name})
}

// shareClient lets another account see and teach a client, or no longer.
func (s *Site) shareClient(c *gin.Context) {
	row, ok := s.RowHere(c)
	if !ok {
		return
	}
	with, err := strconv.ParseInt(c.PostForm("with"), 10, 64)
	m, merr := s.Store.Member(c, with)
	if err != nil || merr != nil || with == row.Owner {
		s.Fail(c, http.StatusUnprocessableEntity, "There is no such account to share with", "Nothing was changed.")
		return
	}
	if row.Owner != s.Account(c) {
		s.Fail(c, http.StatusForbidden, "Only the instructor who keeps this client can share", "Nothing was changed.")
		return
	}
	if err := s.Store.Share(c, s.Account(c), row.ID, m.ID, c.PostForm("op") != "end"); err != nil {
		s.Failed(c, err)
		return
	}
	s.EventOf(
		c,
		map[bool]string{true: "shared with " + m.Name, false: "ended sharing with " + m.Name}[c.PostForm("op") != "end"],
		row.ID,
	)
	c.Redirect(http.StatusSeeOther, fmt.Sprintf("/clients/%d#sharing", row.ID))
}

// minutesSetting names what the minutes of a session mean: work (empty), or the whole slot.
const minutesSetting = "minutes_mean"

const meansSlot = "slot"

// slots tells whether minutes mean the whole slot in this practice.
func (s *Site) slots(c *gin.Context) bool {
	mean, err := s.Store.Setting(c, minutesSetting)
	return err == nil && mean == meansSlot
}

// Lasting is the request for so many minutes, as the practice means them.
func (s *Site) Lasting(c *gin.Context, r *facts.Request, minutes int) *facts.Request {
	if s.slots(c) {
		return r.InSlot(minutes)
	}
	return r.Lasting(minutes)
}

// saveMinutes sets what minutes mean.
func (s *Site) saveMinutes(c *gin.Context) {
	mean := ""
	if c.PostForm(minutesSetting) == meansSlot {
		mean = meansSlot
	}
	if err := s.Store.Set(c, minutesSetting, mean); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/practice")
}
