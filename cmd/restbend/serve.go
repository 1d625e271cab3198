package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"restbend/demo"
	"restbend/store"
	"restbend/web"
	"restbend/web/site"
)

// DatabaseFile is the one file in a data directory.
const databaseFile = "restbend.db"

// dataDir makes the data directory, for its owner alone.
func dataDir(dir string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	return os.Chmod(dir, 0o700)
}

// prepared opens the database of a directory that this process holds: what the tables are is looked at first, those of
// a newer program are refused, older ones are copied before they are brought up to date.
func prepared(ctx context.Context, dir string, out io.Writer) (*store.Store, error) {
	path := filepath.Join(dir, databaseFile)
	if info, err := os.Stat(path); err == nil && info.Size() > 0 {
		as, err := store.OpenAsIs(path)
		if err != nil {
			return nil, err
		}
		has, want, err := as.Version(ctx)
		if err == nil && has < want {
			kept := fmt.Sprintf("%s.tables-%d-%s", path, has, time.Now().Format("20060102-150405"))
			if err = as.Backup(ctx, kept); err == nil {
				fmt.Fprintf(
					out,
					"The tables are brought from version %d to %d; the database as it was is kept as %s\n",
					has,
					want,
					kept,
				)
			}
		}
		if err == nil && has > want {
			err = usage{
				fmt.Errorf(
					"data: %w: tables version %d, this program works with %d; start the program that wrote it, or a later one",
					store.ErrNewer,
					has,
					want,
				),
			}
		}
		if err = errors.Join(err, as.Close()); err != nil {
			return nil, err
		}
	}
	return store.Open(ctx, path)
}

// reached is how a server is reached.
type reached struct {
	addr, cert, key string
	proxies         []string
}

func (r *reached) flags(cmd *cobra.Command) {
	cmd.Flags().StringVar(&r.addr, "addr", "127.0.0.1:8080", "address to listen on")
	cmd.Flags().StringVar(&r.cert, "tls-cert", "", "certificate file: browsers reach the server by TLS")
	cmd.Flags().StringVar(&r.key, "tls-key", "", "key file of the certificate")
	cmd.Flags().StringSliceVar(&r.proxies, "proxy", nil, "address or CIDR of a proxy that ends TLS and says who calls")
}

// check says what is wrong with how the server is to be reached, and warns when others could listen.
func (r *reached) check(warn io.Writer) error {
	if (r.cert == "") != (r.key == "") {
		return usage{errors.New("tls-cert, tls-key: give both or none")}
	}
	for _, p := range r.proxies {
		if _, _, err := net.ParseCIDR(p); err != nil && net.ParseIP(p) == nil {
			return usage{fmt.Errorf("proxy: found %q, allowed: an address or a CIDR, as 10.0.0.0/8", p)}
		}
	}
	host, _, err := net.SplitHostPort(r.addr)
	if err != nil {
		return usage{fmt.Errorf("addr: %w", err)}
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) && r.cert == "" &&
		len(r.proxies) == 0 {
		fmt.Fprintf(
			warn,
			"Warning: %s is reached from other machines without TLS: passwords and health data can be read on the way. Use --tls-cert and --tls-key, or --proxy.\n",
			r.addr,
		)
	}
	return nil
}

// stopWithin is how long requests under way may take when the program is stopped.
const stopWithin = 20 * time.Second

// serve runs the application until it is interrupted; ready is called once it listens.
func serve(
	cmd *cobra.Command,
	dir string,
	how reached,
	isDemo bool,
	ready func(s *web.Server, url string) error,
) error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := how.check(cmd.ErrOrStderr()); err != nil {
		return err
	}
	t, err := loadContent()
	if err != nil {
		return err
	}
	if err := dataDir(dir); err != nil {
		return err
	}
	lock, err := holdData(dir)
	if err != nil {
		return err
	}
	defer lock.Close()
	st, err := prepared(ctx, dir, cmd.OutOrStdout())
	if err != nil {
		return err
	}
	defer st.Close()
	if isDemo {
		if err := demo.Fill(ctx, st, t.cat, t.rules, clock()); err != nil {
			return err
		}
	}
	s, err := web.New(
		st,
		t.cat,
		t.rules,
		t.norms,
		t.tasks,
		t.kinds,
		site.Options{Proxies: how.proxies, Secure: how.cert != "" || len(how.proxies) > 0},
	)
	if err != nil {
		return err
	}
	defer s.Close()
	s.Demo = isDemo
	l, err := net.Listen("tcp", how.addr)
	if err != nil {
		return err
	}
	scheme := "http://"
	if how.cert != "" {
		scheme = "https://"
	}
	if err := ready(s, scheme+l.Addr().String()); err != nil {
		return err
	}
	debug.FreeOSMemory()
	return answer(ctx, s, l, how)
}

// answer serves until the context ends; what is under way then is answered first.
func answer(ctx context.Context, s *web.Server, l net.Listener, how reached) error {
	srv := &http.Server{
		Handler:           s,
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       30 * time.Second,
		WriteTimeout:      60 * time.Second,
	}
	stopped := make(chan error, 1)
	go func() {
		<-ctx.Done()
		wait, cancel := context.WithTimeout(context.Background(), stopWithin)
		defer cancel()
		stopped <- srv.Shutdown(wait)
	}()
	go forget(ctx, s)
	serve := func() error { return srv.Serve(l) }
	if how.cert != "" {
		serve = func() error { return srv.ServeTLS(l, how.cert, how.key) }
	}
	err := serve()
	if !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return <-stopped
}

// forgotten is how often tries to sign in that are over are forgotten (product default).
const forgotten = time.Minute

// forget cleans up after tries to sign in, beside everything else.
func forget(ctx context.Context, s *web.Server) {
	tick := time.NewTicker(forgotten)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if err := s.Store.ForgetTries(ctx, time.Now()); err != nil && ctx.Err() == nil {
				slog.Error("tries", "error", err)
			}
		}
	}
}

func serveCmd() *cobra.Command {
	var dir string
	var how reached
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve real data from one SQLite file",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd, dir, how, false, func(s *web.Server, url string) error {
				fmt.Fprintf(cmd.OutOrStdout(), "Rest Bend serves %s\n", url)
				if code := s.FirstRunCode(); code != "" {
					fmt.Fprintf(cmd.OutOrStdout(), "First start: make your account at %s/first-run with the code %s\n", url, code)
				}
				return nil
			})
		},
	}
	dataFlag(cmd, &dir)
	how.flags(cmd)
	return cmd
}

func dataFlag(cmd *cobra.Command, dir *string) {
	cmd.Flags().StringVar(dir, "data", "", "directory of the database")
	mustHave(cmd, "data")
}

func demoCmd() *cobra.Command {
	var dir string
	var how reached
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve the application with fresh demo data",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if dir == "" {
				tmp, err := os.MkdirTemp("", "restbend-demo-")
				if err != nil {
					return err
				}
				defer os.RemoveAll(tmp)
				dir = tmp
			} else if _, err := os.Stat(filepath.Join(dir, databaseFile)); err == nil {
				return usage{fmt.Errorf("data: %s already holds a database; the demo only starts in an empty directory", dir)}
			}
			return serve(cmd, dir, how, true, func(_ *web.Server, url string) error {
				fmt.Fprintf(
					cmd.OutOrStdout(),
					"Rest Bend demo at %s\nSign in as %q with password %q\n",
					url,
					demo.Name,
					demo.Password,
				)
				return nil
			})
		},
	}
	cmd.Flags().StringVar(&dir, "data", "", "an empty directory; a temporary one when absent")
	how.flags(cmd)
	return cmd
}

// passwordCmd sets a new password; it reads one from standard input or makes one up.
func passwordCmd() *cobra.Command {
	var dir, name string
	var stdin bool
	cmd := &cobra.Command{
		Use:   "password",
		Short: "Set a new password for an account",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			password := rand.Text()[:16]
			if stdin {
				b, err := io.ReadAll(io.LimitReader(cmd.InOrStdin(), site.MostPassword+3))
				if err != nil {
					return err
				}
				password = string(trimNewline(b))
				if why := site.PasswordProblem(password, name); why != "" {
					return usage{errors.New(why)}
				}
			}
			st, err := current(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			hash, err := store.HashPassword(cmd.Context(), password)
			if err != nil {
				return err
			}
			if err := st.SetPassword(cmd.Context(), name, hash); err != nil {
				if errors.Is(err, store.ErrNotFound) {
					return usage{fmt.Errorf("name: no account is called %q", name)}
				}
				return err
			}
			if !stdin {
				fmt.Fprintf(cmd.OutOrStdout(), "The new password of %s is %s\n", name, password)
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&name, "name", "", "the account")
	cmd.Flags().BoolVar(&stdin, "stdin", false, "read the password from standard input")
	mustHave(cmd, "name")
	return cmd
}

func trimNewline(b []byte) []byte {
	for len(b) > 0 && (b[len(b)-1] == '\n' || b[len(b)-1] == '\r') {
		b = b[:len(b)-1]
	}
	return b
}
