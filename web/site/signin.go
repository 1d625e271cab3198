package site

import (
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"log/slog"
	"net/http"
	"net/netip"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"restbend/store"
)

// Tries to sign in that have room at once, and how long one takes to be forgotten: of a name from one place, of a
// name, of a place, of everybody; of a device that signed in by that name before these alone, so that strangers cannot
// shut its owner out (product defaults). They are kept in the database: a restart forgets none.
func measures(name, place, device string) []store.Measure {
	if device != "" {
		return []store.Measure{{Key: store.DeviceTries(device), Most: 10, Every: 30 * time.Second}}
	}
	return []store.Measure{
		{Key: "all", Most: 200, Every: time.Second},
		{Key: store.PlaceTries(place), Most: 30, Every: 6 * time.Second},
		{Key: store.PairTries(name, place), Most: 5, Every: 10 * time.Second},
		{Key: store.NameTries(name), Most: 20, Every: 30 * time.Second},
	}
}

// placeOf is where a request comes from: of the newer addresses the network, of which one household or office has all.
func placeOf(c *gin.Context) string {
	a, err := netip.ParseAddr(c.ClientIP())
	if err != nil {
		return c.ClientIP()
	}
	if a = a.Unmap().WithZone(""); a.Is6() {
		if net, err := a.Prefix(64); err == nil {
			return net.String()
		}
	}
	return a.String()
}

// deviceCookie holds what a device is known by, a year long (product default).
const (
	deviceCookie = "device"
	deviceFor    = 365 * 24 * time.Hour
)

// deviceOf is what the device of a request is known by under a name, empty when nobody signed in with it by that name.
func (s *Site) deviceOf(c *gin.Context, name string) (string, error) {
	token, err := c.Cookie(s.deviceCookie())
	if err != nil || len(token) > 100 {
		return "", nil //nolint:nilerr // no cookie: not known
	}
	known, err := s.Store.KnownDevice(c, name, token)
	if err != nil || !known {
		return "", err
	}
	return token, nil
}

// deviceCookie is the name of the cookie: by TLS it is for this host and way alone.
func (s *Site) deviceCookie() string {
	if s.Sessions.Cookie.Secure {
		return "__Host-" + deviceCookie
	}
	return deviceCookie
}

// knowDevice gives the device of a request what it is known by the next time.
func (s *Site) knowDevice(c *gin.Context, account int64) {
	token, err := c.Cookie(s.deviceCookie())
	if err != nil || len(token) < 20 || len(token) > 100 {
		token = rand.Text()
	}
	if err := s.Store.KnowDevice(c, account, token); err != nil {
		slog.Error("device", "error", err) // the next time it is a stranger
		return
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: s.deviceCookie(), Value: token, Path: "/", MaxAge: int(deviceFor.Seconds()),
		HttpOnly: true, Secure: s.Sessions.Cookie.Secure, SameSite: http.SameSiteStrictMode})
}

// Bounded is a memory of so many things, the least lately used forgotten first.
func Bounded[K comparable, V any](most int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](most)
	if err != nil {
		panic(err) // the size is a constant of ours
	}
	return c
}

// The keys of a session of the library.
const (
	accountKey = "account"
	signInKey  = "sign-in"
)

// Account is who is signed in, 0 for nobody.
func (s *Site) Account(c *gin.Context) int64 {
	return s.Sessions.GetInt64(c.Request.Context(), accountKey)
}

// usedAgain is how often it is kept that a sign-in is used.
const usedAgain = time.Minute

// SignedIn lets those in whose sign-in was neither ended nor left alone for too long. While a session is taught
// nobody is put out.
func (s *Site) SignedIn(c *gin.Context) {
	account := s.Account(c)
	if account != 0 {
		key := s.Sessions.GetString(c.Request.Context(), signInKey)
		seen, err := s.Store.Seen(c, account, key)
		switch {
		case errors.Is(err, store.ErrNotFound):
			account = 0
		case err != nil:
			s.Failed(c, err)
			c.Abort()
			return
		case time.Since(seen) > s.idle(c) && !s.teaches(c, account):
			account = 0
		case time.Since(seen) > usedAgain:
			if err := s.Store.See(c, key); err != nil {
				slog.Error("sign-in", "error", err) // a full disk puts nobody out
			}
		}
	}
	if account != 0 {
		return
	}
	c.Abort()
	if s.Account(c) != 0 { // somebody was signed in: nothing of it stays
		if err := s.Sessions.Destroy(c.Request.Context()); err != nil {
			slog.Error("sign out", "error", err)
		}
	}
	n, err := s.Store.Accounts(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if n == 0 {
		c.Redirect(http.StatusSeeOther, "/first-run")
		return
	}
	if strings.Contains(c.GetHeader("Accept"), "application/json") {
		c.JSON(
			http.StatusUnauthorized,
			gin.H{"error": "signed out", "kept": "entries wait on this device and are sent after signing in"},
		)
		return
	}
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// IdleSetting names after how many minutes without use somebody is signed out.
const IdleSetting = "idle_minutes"

// Minutes without use: as delivered, and what may be set (product defaults).
const (
	idleMinutes = 120
	leastIdle   = 5
	mostIdle    = 720
)

// idle is how long a sign-in may be left alone.
func (s *Site) idle(c *gin.Context) time.Duration {
	text, err := s.Store.Setting(c, IdleSetting)
	n, nerr := strconv.Atoi(text)
	if err != nil || nerr != nil || n < leastIdle || n > mostIdle {
		n = idleMinutes
	}
	return time.Duration(n) * time.Minute
}

// teaches tells whether a session of an account's clients is being taught.
func (s *Site) teaches(c *gin.Context, account int64) bool {
	is, err := s.Store.Teaches(c, account, s.Today().AddDays(-1))
	return err != nil || is
}

type signInForm struct{ Name, Error string }

// SignInPage asks for a name and a password.
func (s *Site) SignInPage(c *gin.Context) {
	n, err := s.Store.Accounts(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if n == 0 {
		c.Redirect(http.StatusSeeOther, "/first-run")
		return
	}
	s.Render(c, http.StatusOK, "sign-in", "", "Sign in", signInForm{})
}

// SignIn lets in who knows a password, and slows down who guesses.
func (s *Site) SignIn(c *gin.Context) {
	name := strings.TrimSpace(c.PostForm("name"))
	again := func(status int, why string) {
		s.Render(c, status, "sign-in", "", "Sign in", signInForm{name, why})
	}
	if why := longer(c.PostForm("password")); why != "" || len(name) > 400 {
		again(http.StatusUnprocessableEntity, "Name or password is too long.")
		return
	}
	device, err := s.deviceOf(c, name)
	if err != nil {
		s.Failed(c, err)
		return
	}
	place := placeOf(c)
	tries := measures(name, place, device)
	room, err := s.Store.Try(c, time.Now(), tries...)
	switch {
	case err != nil:
		s.Failed(c, err)
		return
	case !room:
		slog.Warn("sign-in held back", "name", name, "place", c.ClientIP())
		c.Header("Retry-After", "30") // the longest of the measures
		again(http.StatusTooManyRequests, "Too many attempts. Wait half a minute and try again.")
		return
	}
	id, hash, err := s.Store.Account(c, name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		s.Failed(c, err)
		return
	}
	ok, err := store.PasswordIs(c.Request.Context(), c.PostForm("password"), hash)
	if err != nil || !ok {
		slog.Warn("sign-in refused", "name", name, "place", c.ClientIP())
		again(http.StatusUnauthorized, "Name or password is not right.")
		return
	}
	forgiven := []string{store.PairTries(name, place), store.NameTries(name)} // whoever knows the password is no stranger
	if device != "" {
		forgiven = []string{store.DeviceTries(device)}
	}
	for _, key := range forgiven {
		if err := s.Store.Forgive(c, key); err != nil {
			slog.Error("sign-in", "error", err)
		}
	}
	s.enter(c, id)
}

// enter begins a session with a fresh token.
func (s *Site) enter(c *gin.Context, id int64) {
	ctx := c.Request.Context()
	if err := s.Sessions.RenewToken(ctx); err != nil {
		s.Failed(c, err)
		return
	}
	in := store.SignIn{Account: id, Key: rand.Text(), Place: c.ClientIP(), Device: AtMost(c.Request.UserAgent(), 200)}
	if err := s.Store.ForgetSignIns(ctx, time.Now().Add(-s.Sessions.Lifetime)); err != nil {
		s.Failed(c, err)
		return
	}
	if err := s.Store.AddSignIn(ctx, in); err != nil {
		s.Failed(c, err)
		return
	}
	s.Sessions.Put(ctx, accountKey, id)
	s.Sessions.Put(ctx, signInKey, in.Key)
	s.knowDevice(c, id)
	s.Event(c, "signed in", in.Place)
	c.Redirect(http.StatusSeeOther, "/today")
}

// AtMost cuts a text to a length.
func AtMost(text string, most int) string {
	if r := []rune(text); len(r) > most {
		return string(r[:most])
	}
	return text
}

// signOut ends this sign-in; what pages kept in the browser goes with it.
func (s *Site) signOut(c *gin.Context) {
	if err := s.Store.EndSignInOf(c, s.Account(c), s.Sessions.GetString(c.Request.Context(), signInKey)); err != nil {
		slog.Error("sign out", "error", err)
	}
	if err := s.Sessions.Destroy(c.Request.Context()); err != nil {
		slog.Error("sign out", "error", err)
	}
	c.Header("Clear-Site-Data", `"storage"`)
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// FirstRunCode is what the first account is made with: it is printed where the program was started, and nowhere
// else. Empty when there is an account.
func (s *Site) FirstRunCode() string { return s.firstCode }

// FirstRunPage asks for the first account.
func (s *Site) FirstRunPage(c *gin.Context) {
	n, err := s.Store.Accounts(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if n > 0 {
		c.Redirect(http.StatusSeeOther, "/sign-in")
		return
	}
	s.Render(c, http.StatusOK, "first-run", "", "Make your account", signInForm{})
}

// FirstRun makes the first account, for who knows the code.
func (s *Site) FirstRun(c *gin.Context) {
	taken := func() { s.Fail(c, http.StatusForbidden, "There is an account already", "Nothing was changed.") }
	if n, err := s.Store.Accounts(c); err != nil || n > 0 {
		taken()
		return
	}
	name, password := strings.TrimSpace(c.PostForm("name")), c.PostForm("password")
	again := func(status int, why string) {
		s.Render(c, status, "first-run", "", "Make your account", signInForm{name, why})
	}
	room, err := s.Store.Try(c, time.Now(), store.Measure{Key: "first run", Most: 20, Every: 10 * time.Second})
	switch {
	case err != nil:
		s.Failed(c, err)
		return
	case !room:
		again(http.StatusTooManyRequests, "Too many attempts. Wait ten seconds and try again.")
		return
	case subtle.ConstantTimeCompare([]byte(strings.ToUpper(strings.TrimSpace(c.PostForm("code")))),
		[]byte(s.firstCode)) != 1:
		again(
			http.StatusUnprocessableEntity,
			"Code: it stands where the program was started, and is made anew at each start.",
		)
		return
	}
	if why := AccountProblem(name, password); why != "" {
		again(http.StatusUnprocessableEntity, why)
		return
	}
	hash, err := store.HashPassword(c.Request.Context(), password)
	if err != nil {
		s.Failed(c, err)
		return
	}
	id, err := s.Store.FirstAccount(c, name, hash)
	if errors.Is(err, store.ErrChanged) {
		taken()
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.enter(c, id)
}
