package web

import (
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"

	"restbend/store"
)

// MinPassword is the shortest password accepted, characters.
const MinPassword = 10

// attempts throttles sign-in: five at once, then one in ten seconds, per name and place. The
// places least lately seen are forgotten first.
type attempts struct {
	mu sync.Mutex
	by *lru.Cache[string, *rate.Limiter]
}

// mostAttempts bounds how many names and places are remembered.
const mostAttempts = 10000

func (a *attempts) allow(key string) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.by == nil {
		a.by = bounded[string, *rate.Limiter](mostAttempts)
	}
	l, ok := a.by.Get(key)
	if !ok {
		l = rate.NewLimiter(rate.Every(10*time.Second), 5)
		a.by.Add(key, l)
	}
	return l.Allow()
}

// bounded is a memory of so many things, the least lately used forgotten first.
func bounded[K comparable, V any](most int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](most)
	if err != nil {
		panic(err) // the size is a constant of ours
	}
	return c
}

func (s *Server) account(c *gin.Context) int64 {
	return s.sessions.GetInt64(c.Request.Context(), "account")
}

func (s *Server) signedIn(c *gin.Context) {
	if s.account(c) != 0 {
		return
	}
	c.Abort()
	if n, err := s.Store.Accounts(c); err == nil && n == 0 {
		c.Redirect(http.StatusSeeOther, "/first-run")
		return
	}
	if strings.Contains(c.GetHeader("Accept"), "application/json") {
		c.JSON(http.StatusUnauthorized, gin.H{"error": "signed out", "kept": "entries wait on this device and are sent after signing in"})
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

type signInForm struct{ Name, Error string }

func (s *Server) signInPage(c *gin.Context) {
	if n, err := s.Store.Accounts(c); err == nil && n == 0 {
		c.Redirect(http.StatusSeeOther, "/first-run")
		return
	}
	s.render(c, http.StatusOK, "sign-in", "", "Sign in", signInForm{})
}

func (s *Server) signIn(c *gin.Context) {
	name := strings.TrimSpace(c.PostForm("name"))
	again := func(status int, why string) {
		s.render(c, status, "sign-in", "", "Sign in", signInForm{name, why})
	}
	if !s.attempts.allow(strings.ToLower(name) + " " + c.ClientIP()) {
		again(http.StatusTooManyRequests, "Too many attempts. Wait ten seconds and try again.")
		return
	}
	id, hash, err := s.Store.Account(c, name)
	if err != nil {
		// Spend the same time whether the name exists or not.
		hash, id = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA", 0
	}
	ok, cerr := argon2id.ComparePasswordAndHash(c.PostForm("password"), hash)
	if err != nil || cerr != nil || !ok {
		again(http.StatusUnauthorized, "Name or password is not right.")
		return
	}
	s.enter(c, id)
}

// enter begins a session with a fresh token.
func (s *Server) enter(c *gin.Context, id int64) {
	if err := s.sessions.RenewToken(c.Request.Context()); err != nil {
		s.failed(c, err)
		return
	}
	s.sessions.Put(c.Request.Context(), "account", id)
	c.Redirect(http.StatusSeeOther, "/today")
}

func (s *Server) signOut(c *gin.Context) {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		slog.Error("sign out", "error", err)
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

func (s *Server) firstRunPage(c *gin.Context) {
	if n, err := s.Store.Accounts(c); err != nil || n > 0 {
		c.Redirect(http.StatusSeeOther, "/sign-in")
		return
	}
	s.render(c, http.StatusOK, "first-run", "", "Make your account", signInForm{})
}

func (s *Server) firstRun(c *gin.Context) {
	if n, err := s.Store.Accounts(c); err != nil || n > 0 {
		s.fail(c, http.StatusForbidden, "There is an account already", "Nothing was changed.")
		return
	}
	name, password := strings.TrimSpace(c.PostForm("name")), c.PostForm("password")
	why := accountProblem(name, password)
	if why != "" {
		s.render(c, http.StatusUnprocessableEntity, "first-run", "", "Make your account", signInForm{name, why})
		return
	}
	hash, err := store.HashPassword(password)
	if err != nil {
		s.failed(c, err)
		return
	}
	id, err := s.Store.CreateAccount(c, name, hash)
	if err != nil {
		s.failed(c, err)
		return
	}
	s.enter(c, id)
}
