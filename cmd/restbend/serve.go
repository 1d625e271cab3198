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
)

// DatabaseFile is the one file in a data directory.
const databaseFile = "restbend.db"

func openStore(ctx context.Context, dir string) (*store.Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	return store.Open(ctx, filepath.Join(dir, databaseFile))
}

// serve runs the application until it is interrupted; ready is called once it listens.
func serve(cmd *cobra.Command, dir, addr string, isDemo bool, ready func(st *store.Store, url string) error) error {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	t, err := loadContent()
	if err != nil {
		return err
	}
	st, err := openStore(ctx, dir)
	if err != nil {
		return err
	}
	defer st.Close()
	lock, err := holdData(dir)
	if err != nil {
		return err
	}
	defer lock.Close()
	s, err := web.New(st, t.cat, t.rules, t.norms, t.tasks, t.kinds)
	if err != nil {
		return err
	}
	defer s.Close()
	s.Demo = isDemo
	if isDemo {
		if err := demo.Fill(ctx, st, t.cat, t.rules, s.Today()); err != nil {
			return err
		}
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return err
	}
	if err := ready(st, "http://"+l.Addr().String()); err != nil {
		return err
	}
	debug.FreeOSMemory()
	srv := &http.Server{Handler: s, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: 30 * time.Second, WriteTimeout: 60 * time.Second}
	go func() {
		<-ctx.Done()
		wait, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		defer cancel()
		if err := srv.Shutdown(wait); err != nil {
			slog.Error("shutdown", "error", err)
		}
	}()
	if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

func serveCmd() *cobra.Command {
	var dir, addr string
	cmd := &cobra.Command{Use: "serve", Short: "Serve real data from one SQLite file", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		return serve(cmd, dir, addr, false, func(_ *store.Store, url string) error {
			fmt.Fprintf(cmd.OutOrStdout(), "Rest Bend serves %s\n", url)
			return nil
		})
	}}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&addr, "addr", "127.0.0.1:8080", "address to listen on")
	return cmd
}

func dataFlag(cmd *cobra.Command, dir *string) {
	cmd.Flags().StringVar(dir, "data", "", "directory of the database")
	mustHave(cmd, "data")
}

func demoCmd() *cobra.Command {
	var dir, addr string
	cmd := &cobra.Command{Use: "demo", Short: "Serve the application with fresh demo data", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
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
		return serve(cmd, dir, addr, true, func(_ *store.Store, url string) error {
			fmt.Fprintf(cmd.OutOrStdout(), "Rest Bend demo at %s\nSign in as %q with password %q\n", url, demo.Name, demo.Password)
			return nil
		})
	}}
	cmd.Flags().StringVar(&dir, "data", "", "an empty directory; a temporary one when absent")
	cmd.Flags().StringVar(&addr, "addr", "127.0.0.1:8080", "address to listen on")
	return cmd
}

// passwordCmd sets a new password; it reads one from standard input or makes one up.
func passwordCmd() *cobra.Command {
	var dir, name string
	var stdin bool
	cmd := &cobra.Command{Use: "password", Short: "Set a new password for an account", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		if _, err := os.Stat(filepath.Join(dir, databaseFile)); err != nil {
			return usage{fmt.Errorf("data: no database in %s", dir)}
		}
		password := rand.Text()[:16]
		if stdin {
			b, err := io.ReadAll(io.LimitReader(cmd.InOrStdin(), 600))
			if err != nil {
				return err
			}
			password = string(trimNewline(b))
		}
		if len([]rune(password)) < web.MinPassword {
			return usage{fmt.Errorf("password: at least %d characters", web.MinPassword)}
		}
		st, err := openStore(cmd.Context(), dir)
		if err != nil {
			return err
		}
		defer st.Close()
		hash, err := store.HashPassword(password)
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
	}}
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
