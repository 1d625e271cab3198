package main

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"fmt"
	"io"
	"math/big"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"restbend/demo"
	"restbend/store"
)

// filledDir is a data directory with the demo's practice, its server stopped.
func filledDir(t *testing.T) string {
	dir := t.TempDir()
	cmd, _ := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, cmd.Wait())
	return dir
}

// A server that is told to stop answers what is under way, and leaves a database with nothing beside it.
func TestStopsWhenAllIsAnswered(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir := t.TempDir()
	cmd, u := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	r, err := c.PostForm(u+"/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	require.NoError(t, err)
	r.Body.Close()
	// Four forms on their way, each half sent.
	var wg sync.WaitGroup
	codes := make([]int, 4)
	for i := range codes {
		body, send := io.Pipe()
		wg.Go(func() {
			req, err := http.NewRequest("POST", u+"/clients/2/plans", body)
			if err != nil {
				return
			}
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			if r, err := c.Do(req); err == nil {
				codes[i] = r.StatusCode
				r.Body.Close()
			}
		})
		wg.Go(func() {
			fmt.Fprint(send, "minutes=3")
			time.Sleep(700 * time.Millisecond)
			fmt.Fprint(send, "0")
			send.Close()
		})
	}
	time.Sleep(300 * time.Millisecond)
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	wg.Wait()
	require.NoError(t, cmd.Wait())
	st, err := store.OpenAsIs(filepath.Join(dir, "restbend.db"))
	require.NoError(t, err)
	defer st.Close()
	plans, err := st.Plans(context.Background(), 2)
	require.NoError(t, err)
	made := 0
	for _, code := range codes { // the page of the plan is asked for after the server has stopped listening: any answer is one to the form
		if code == 200 || code == 303 || code == 0 {
			made++
		}
	}
	assert.Equal(t, len(codes), made)
	assert.Len(t, plans, len(codes), "every form was taken in")
}

// Older tables are copied and brought up to date by whoever holds the directory; a second server touches nothing; newer
// ones are refused with what to do.
func TestTablesAreLookedAtFirst(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir := filledDir(t)
	path := filepath.Join(dir, "restbend.db")
	version := func() (v int) {
		st, err := store.OpenAsIs(path)
		require.NoError(t, err)
		defer st.Close()
		require.NoError(t, st.DB.QueryRow(`SELECT max(version_id) FROM goose_db_version`).Scan(&v))
		return v
	}
	now := version()
	st, err := store.OpenAsIs(path)
	require.NoError(t, err)
	require.NoError(t, st.Down(context.Background()))
	require.NoError(t, st.Close())
	require.Equal(t, now-1, version())
	holder, _ := server(t, "demo", "--data", t.TempDir(), "--addr", "127.0.0.1:0")
	_ = holder
	// A server holds another directory: this one is free. Hold it by hand.
	lock, err := os.OpenFile(filepath.Join(dir, "restbend.lock"), os.O_CREATE|os.O_RDWR, 0o600)
	require.NoError(t, err)
	require.NoError(t, syscall.Flock(int(lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB))
	code, _, errs := run("", "serve", "--data", dir, "--addr", "127.0.0.1:0")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "in use by a running server")
	assert.Equal(t, now-1, version(), "a server that has to wait migrates nothing")
	require.NoError(t, lock.Close())
	code, _, errs = run("a sensible sentence\n", "password", "--data", dir, "--name", demo.Name, "--stdin")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "start the server once")
	cmd, _ := server(t, "serve", "--data", dir, "--addr", "127.0.0.1:0")
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	_ = cmd.Wait()
	assert.Equal(t, now, version())
	kept, err := filepath.Glob(path + ".tables-*")
	require.NoError(t, err)
	require.Len(t, kept, 1, "as it was is kept")
	for _, name := range append(kept, path, filepath.Join(dir)) {
		info, err := os.Stat(name)
		require.NoError(t, err)
		assert.Zero(t, info.Mode().Perm()&0o077, name)
	}
	st, err = store.OpenAsIs(path)
	require.NoError(t, err)
	_, err = st.DB.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)`)
	require.NoError(t, err)
	require.NoError(t, st.Close())
	for _, args := range [][]string{{"serve", "--data", dir, "--addr", "127.0.0.1:0"}, {"password", "--data", dir, "--name", demo.Name}, {"export", "--data", dir}} {
		code, _, errs := run("", args...)
		assert.Equal(t, 2, code, args)
		assert.Contains(t, errs, "newer program", args)
		assert.NotContains(t, errs, "start the server once", args)
	}
}

// Restoring signs everybody out, and says which day's passwords hold; a backup is for its owner's eyes.
func TestARestoreEndsSessions(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir, copied := t.TempDir(), filepath.Join(t.TempDir(), "copy.db")
	cmd, u := server(t, "demo", "--data", dir, "--addr", "127.0.0.1:0")
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	r, err := c.PostForm(u+"/sign-in", url.Values{"name": {demo.Name}, "password": {demo.Password}})
	require.NoError(t, err)
	r.Body.Close()
	code, out, errs := run("", "backup", "--data", dir, "--to", copied)
	require.Zero(t, code, out+errs)
	info, err := os.Stat(copied)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	require.NoError(t, cmd.Process.Signal(syscall.SIGTERM))
	_ = cmd.Wait()
	code, out, errs = run("", "restore", "--data", dir, "--from", copied)
	require.Zero(t, code, out+errs)
	assert.Contains(t, out, "passwords are those of the day of the copy")
	_, u = server(t, "serve", "--data", dir, "--addr", "127.0.0.1:0")
	at, err := url.Parse(u)
	require.NoError(t, err)
	jar.SetCookies(at, jar.Cookies(at))
	r, err = c.Get(u + "/clients")
	require.NoError(t, err)
	defer r.Body.Close()
	assert.Equal(t, "/sign-in", r.Request.URL.Path)
	for _, args := range [][]string{{"export", "--data", dir, "--client", "-1"}, {"export", "--data", dir, "--client", "0"}} {
		code, out, _ := run("", args...)
		assert.Equal(t, 2, code, args)
		assert.Empty(t, out, "nothing that was not asked for")
	}
	for _, weak := range []string{"password12", "1234567890", strings.Repeat("a long sentence ", 80)} {
		code, _, errs := run(weak+"\n", "password", "--data", dir, "--name", demo.Name, "--stdin")
		assert.Equal(t, 2, code)
		assert.Contains(t, errs, "Password:")
	}
	code, _, errs = run("", "restore", "--data", filepath.Join(dir, "new"), "--from", filepath.Join(dir, "none"))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "none")
	_, err = os.Stat(filepath.Join(dir, "new"))
	assert.ErrorIs(t, err, os.ErrNotExist, "nothing is made when there is nothing to restore")
}

// With a certificate of its own the server is reached by TLS alone, its cookie is for that alone, and the first start
// prints the code the first account is made with. Without one a warning is printed when others can listen.
func TestReachedByTLS(t *testing.T) {
	if testing.Short() {
		t.Skip("long")
	}
	dir := t.TempDir()
	cert, key := certificate(t, dir)
	code, _, errs := run("", "serve", "--data", filepath.Join(dir, "data"), "--addr", "127.0.0.1:0", "--tls-cert", cert)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "give both or none")
	code, _, errs = run("", "serve", "--data", filepath.Join(dir, "data"), "--addr", "127.0.0.1:0", "--proxy", "everywhere")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "CIDR")
	code, _, errs = run("", "serve", "--data", filepath.Join(dir, "data"), "--addr", "0.0.0.0:99999")
	assert.NotZero(t, code, "there is no such port")
	assert.Contains(t, errs, "reached from other machines without TLS")
	cmd, line := started(t, "serve", "--data", filepath.Join(dir, "data"), "--addr", "127.0.0.1:0", "--tls-cert", cert, "--tls-key", key)
	_ = cmd
	u := strings.Fields(line)[len(strings.Fields(line))-1]
	require.True(t, strings.HasPrefix(u, "https://"), line)
	c := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	r, err := c.Get(u + "/sign-in")
	require.NoError(t, err)
	defer r.Body.Close()
	assert.Equal(t, "max-age=31536000", r.Header.Get("Strict-Transport-Security"))
	assert.Equal(t, "/first-run", r.Request.URL.Path)
	_, err = net.DialTimeout("tcp", strings.TrimPrefix(u, "https://"), time.Second)
	require.NoError(t, err)
}

// certificate makes one for this machine.
func certificate(t *testing.T, dir string) (cert, key string) {
	k, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	tpl := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "localhost"}, NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), DNSNames: []string{"localhost"}}
	der, err := x509.CreateCertificate(rand.Reader, tpl, tpl, &k.PublicKey, k)
	require.NoError(t, err)
	secret, err := x509.MarshalECPrivateKey(k)
	require.NoError(t, err)
	cert, key = filepath.Join(dir, "cert.pem"), filepath.Join(dir, "key.pem")
	require.NoError(t, os.WriteFile(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600))
	require.NoError(t, os.WriteFile(key, pem.EncodeToMemory(&pem.Block{Type: "EC PRIVATE KEY", Bytes: secret}), 0o600))
	return cert, key
}
