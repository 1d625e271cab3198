package site

import (
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"restbend/store"
)

// Event keeps what somebody did with accounts or data; what is done is done, also when that cannot be kept.
func (s *Site) Event(c *gin.Context, what, about string) {
	s.event(c, store.Event{What: what, About: about})
}

// EventOf is Event about a client, by number.
func (s *Site) EventOf(c *gin.Context, what string, client int64) {
	s.event(c, store.Event{What: what, Client: client})
}

func (s *Site) event(c *gin.Context, e store.Event) {
	e.Who = s.Who(c)
	if err := s.Store.AddEvent(c, e); err != nil {
		slog.Error("event", "what", e.What, "error", err)
	}
}

// eventNames names whether events are shown with the names of clients, as long as those are here (empty), or with their
// numbers alone.
const eventNames = "event_names"

const byNumber = "numbers"

// saveEventNames sets how events name clients.
func (s *Site) saveEventNames(c *gin.Context) {
	how := ""
	if c.PostForm(eventNames) == byNumber {
		how = byNumber
	}
	if err := s.Store.Set(c, eventNames, how); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/practice#events")
}

// events are the last of them as they are shown.
func (s *Site) events(c *gin.Context) (out []string, numbers bool, err error) {
	how, err := s.Store.Setting(c, eventNames)
	if err != nil {
		return nil, false, err
	}
	list, err := s.Store.Events(c, s.Account(c), shownEvents)
	for _, e := range list {
		text := strings.Replace(e.At[:16], "T", " ", 1) + " " + e.Who + " " + e.What
		switch {
		case e.Client > 0 && e.Name != "" && how != byNumber:
			text += ": " + e.Name
		case e.Client > 0:
			text += fmt.Sprintf(": client %d", e.Client)
		case e.About != "":
			text += ": " + e.About
		}
		out = append(out, text)
	}
	return out, how == byNumber, err
}

// shownEvents is how many of the last events the keeper sees.
const shownEvents = 50

type signInRow struct {
	store.SignIn
	Here bool
}

// signInRows are the places where the account of a request is signed in.
func (s *Site) signInRows(c *gin.Context) (out []signInRow, err error) {
	list, err := s.Store.SignIns(c, s.Account(c))
	if err != nil {
		return nil, err
	}
	key := s.Sessions.GetString(c.Request.Context(), signInKey)
	for _, in := range list {
		out = append(out, signInRow{in, in.Key == key})
	}
	return out, nil
}

// changePassword sets the own password anew, after the one of now was given; everywhere else is signed out.
func (s *Site) changePassword(c *gin.Context) {
	me, err := s.Store.Member(c, s.Account(c))
	if err != nil {
		s.Failed(c, err)
		return
	}
	_, hash, err := s.Store.Account(c, me.Name)
	if err != nil {
		s.Failed(c, err)
		return
	}
	again := func(why string) {
		s.showPractice(c, http.StatusUnprocessableEntity, practicePage{PasswordWrong: why})
	}
	if longer(c.PostForm("now")) != "" {
		again("The password of now is not right.")
		return
	}
	guesses := store.Measure{Key: fmt.Sprintf("password %d", me.ID), Most: 5, Every: 30 * time.Second}
	switch room, err := s.Store.Try(c, time.Now(), guesses); {
	case err != nil:
		s.Failed(c, err)
		return
	case !room:
		slog.Warn("own password held back", "account", me.ID)
		c.Header("Retry-After", "30")
		s.showPractice(c, http.StatusTooManyRequests, practicePage{PasswordWrong: "Too many attempts. Wait half a minute and try again."})
		return
	}
	ok, err := store.PasswordIs(c.Request.Context(), c.PostForm("now"), hash)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if !ok {
		s.Event(c, "gave a wrong password of now", me.Name)
		again("The password of now is not right.")
		return
	}
	if err := s.Store.Forgive(c, guesses.Key); err != nil {
		slog.Error("password", "error", err)
	}
	if why := PasswordProblem(c.PostForm("password"), me.Name); why != "" {
		again(why)
		return
	}
	next, err := store.HashPassword(c.Request.Context(), c.PostForm("password"))
	if err != nil {
		s.Failed(c, err)
		return
	}
	key := s.Sessions.GetString(c.Request.Context(), signInKey)
	if err := s.Store.ChangePassword(c, me.ID, next, key); err != nil {
		s.Failed(c, err)
		return
	}
	s.Event(c, "changed the own password", me.Name)
	s.showPractice(c, http.StatusOK, practicePage{PasswordSet: true})
}

// endSignIn ends one of the own sign-ins, or all but this one.
func (s *Site) endSignIn(c *gin.Context) {
	if c.Param("id") == "others" {
		if err := s.Store.EndSignIns(c, s.Account(c), s.Sessions.GetString(c.Request.Context(), signInKey)); err != nil {
			s.Failed(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/practice#sign-ins")
		return
	}
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err == nil {
		err = s.Store.EndSignIn(c, s.Account(c), id)
	} else {
		err = store.ErrNotFound
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/practice#sign-ins")
}

// closeAccount ends another's account; their clients go to somebody else.
func (s *Site) closeAccount(c *gin.Context) {
	id, ok := s.ID(c)
	if !ok {
		return
	}
	heir, err := strconv.ParseInt(c.PostForm("heir"), 10, 64)
	who, merr := s.Store.Member(c, id)
	if err != nil || merr != nil || id == heir {
		s.Fail(c, http.StatusUnprocessableEntity, "Say who takes over the clients", "Nothing was changed.")
		return
	}
	if err := s.Store.CloseAccount(c, id, heir); errors.Is(err, store.ErrNotFound) {
		s.Fail(
			c,
			http.StatusUnprocessableEntity,
			"This account cannot be closed",
			"The one that keeps the practice is handed over first. Nothing was changed.",
		)
		return
	} else if err != nil {
		s.Failed(c, err)
		return
	}
	s.Event(c, "closed an account", who.Name)
	s.showPractice(c, http.StatusOK, practicePage{Closed: who.Name})
}

// moveKeeper hands the practice over to another account.
func (s *Site) moveKeeper(c *gin.Context) {
	to, err := strconv.ParseInt(c.PostForm("to"), 10, 64)
	if err == nil {
		err = s.Store.MoveKeeper(c, s.Account(c), to)
	} else {
		err = store.ErrNotFound
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Event(c, "handed the practice over", c.PostForm("to"))
	c.Redirect(http.StatusSeeOther, "/practice")
}

// saveIdle sets after how many minutes without use somebody is signed out.
func (s *Site) saveIdle(c *gin.Context) {
	n, err := strconv.Atoi(c.PostForm(IdleSetting))
	if err != nil || n < leastIdle || n > mostIdle {
		s.showPractice(
			c,
			http.StatusUnprocessableEntity,
			practicePage{
				Idle: c.PostForm(IdleSetting),
				IdleWrong: fmt.Sprintf(
					"Minutes: found %q, allowed: %d to %d.",
					AtMost(c.PostForm(IdleSetting), 20),
					leastIdle,
					mostIdle,
				),
			},
		)
		return
	}
	if err := s.Store.Set(c, IdleSetting, strconv.Itoa(n)); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/practice")
}
