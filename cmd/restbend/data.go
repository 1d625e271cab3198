package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/gofrs/flock"
	"github.com/spf13/cobra"

	"restbend"
	"restbend/archive"
	"restbend/core/trade"
	"restbend/exchange"
	"restbend/store"
	"restbend/web/site"
)

// holdData keeps the data directory for this process: one server at a time, and no
// restore under a running one.
func holdData(dir string) (*flock.Flock, error) {
	lock := flock.New(filepath.Join(dir, "restbend.lock"))
	held, err := lock.TryLock()
	if err != nil {
		return nil, err
	}
	if !held {
		return nil, usage{fmt.Errorf("data: %s is in use by a running server", dir)}
	}
	return lock, nil
}

// existing opens the database of a directory as it is.
func existing(dir string) (*store.Store, error) {
	path := filepath.Join(dir, databaseFile)
	if err := there(path); err != nil {
		return nil, err
	}
	return store.OpenAsIs(path)
}

// there says why a database cannot be opened.
func there(path string) error {
	_, err := os.Stat(path)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return usage{fmt.Errorf("data: no database in %s", filepath.Dir(path))}
	case err != nil:
		return usage{fmt.Errorf("data: %w", err)}
	}
	return nil
}

// current opens the database of a directory and refuses one that another version of the
// program wrote.
func current(ctx context.Context, dir string) (*store.Store, error) {
	st, err := existing(dir)
	if err != nil {
		return nil, err
	}
	has, want, err := st.Version(ctx)
	switch {
	case err == nil && has < want:
		err = fmt.Errorf(
			"data: the tables are version %d, this program works with %d; start the server once to bring them up to date",
			has,
			want,
		)
	case err == nil && has > want:
		err = fmt.Errorf(
			"data: %w: tables version %d, this program works with %d; use the program that wrote it, or a later one",
			store.ErrNewer,
			has,
			want,
		)
	}
	if err != nil {
		return nil, errors.Join(usage{err}, st.Close())
	}
	return st, nil
}

// atomically writes a new file beside the wanted one and moves it there when complete.
func atomically(path string, write func(tmp string) error) error {
	if _, err := os.Stat(path); err == nil {
		return usage{fmt.Errorf("to: %s exists already", path)}
	}
	tmp := path + ".part"
	if err := os.Remove(tmp); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	if err := write(tmp); err != nil {
		if rerr := os.Remove(tmp); rerr != nil && !errors.Is(rerr, os.ErrNotExist) {
			err = errors.Join(err, rerr)
		}
		return err
	}
	return os.Rename(tmp, path)
}

// written writes a file for its owner alone and waits until it is on the disk.
func written(path string, data []byte) error {
	f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return errors.Join(err, f.Sync(), f.Close())
}

func backupCmd() *cobra.Command {
	var dir, to string
	cmd := &cobra.Command{
		Use:   "backup",
		Short: "A consistent copy of the database, also while the server runs",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := existing(dir)
			if err != nil {
				return err
			}
			defer st.Close()
			if err := atomically(to, func(tmp string) error { return st.Backup(cmd.Context(), tmp) }); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Copied to %s\n", to)
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&to, "to", "", "file to write")
	mustHave(cmd, "to")
	return cmd
}

// restoreCmd checks a copy from top to bottom before it takes the place of the database;
// what was there before is kept beside it.
func restoreCmd() *cobra.Command {
	var dir, from string
	cmd := &cobra.Command{
		Use:   "restore",
		Short: "Put a backup in place after checking it; the old database is kept",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			info, err := os.Stat(from)
			if err != nil {
				return usage{err}
			}
			if info.IsDir() {
				return usage{fmt.Errorf("from: %s is a directory", from)}
			}
			if err := dataDir(dir); err != nil {
				return err
			}
			lock, err := holdData(dir)
			if err != nil {
				return err
			}
			defer lock.Close()
			path := filepath.Join(dir, databaseFile)
			next := path + ".restoring"
			for _, end := range []string{"", "-wal", "-shm"} {
				if err := os.Remove(next + end); err != nil && !errors.Is(err, os.ErrNotExist) {
					return err
				}
			}
			data, err := os.ReadFile(from)
			if err != nil {
				return err
			}
			if err := written(next, data); err != nil {
				return err
			}
			report, err := examine(cmd.Context(), next)
			if err == nil && len(report.Problems) > 0 {
				err = usage{fmt.Errorf("from: %s cannot be used: %s", from, report.Problems[0])}
			}
			if err != nil {
				return errors.Join(err, os.Remove(next))
			}
			if err := store.EndSessions(cmd.Context(), next); err != nil {
				return errors.Join(err, os.Remove(next))
			}
			kept := ""
			if _, err := os.Stat(path); err == nil {
				kept = path + ".before-" + time.Now().Format("20060102-150405")
			}
			for _, end := range []string{"", "-wal", "-shm"} { // also a damaged one is kept, with what belongs to it
				if err := os.Rename(path+end, kept+end); kept != "" && err != nil && !errors.Is(err, os.ErrNotExist) {
					return err
				}
			}
			if err := os.Rename(next, path); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Restored %d clients from %s\n", report.Rows["clients"], from)
			fmt.Fprintf(
				cmd.OutOrStdout(),
				"Everybody is signed out. The passwords are those of the day of the copy (%s).\n",
				info.ModTime().Format("2006-01-02"),
			)
			for _, n := range report.Notes {
				fmt.Fprintln(cmd.OutOrStdout(), "Note: "+n)
			}
			if kept != "" {
				fmt.Fprintf(cmd.OutOrStdout(), "The database that was here is kept as %s\n", kept)
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&from, "from", "", "a file that backup wrote")
	mustHave(cmd, "from")
	return cmd
}

// report is what doctor found.
type report struct {
	Format   string         `json:"format"`
	Version  int64          `json:"tables_version"`
	Wanted   int64          `json:"program_version"`
	Rows     map[string]int `json:"rows"`
	Problems []string       `json:"problems"`
	Notes    []string       `json:"notes"`
}

// examine checks a database file: pages, references, and every document in it.
func examine(ctx context.Context, path string) (report, error) {
	r := report{Format: "restbend.doctor/1", Problems: []string{}, Notes: []string{}, Rows: map[string]int{}}
	st, err := store.OpenAsIs(path)
	if err != nil {
		return r, err
	}
	defer st.Close()
	if r.Version, r.Wanted, err = st.Version(ctx); err != nil {
		r.Problems = append(r.Problems, err.Error())
		return r, nil
	}
	switch {
	case r.Version > r.Wanted:
		r.Problems = append(
			r.Problems,
			fmt.Sprintf("the tables are version %d, newer than this program's %d", r.Version, r.Wanted),
		)
		return r, nil
	case r.Version < r.Wanted:
		r.Notes = append(
			r.Notes,
			"the tables are older and are brought up to date when the server starts; documents are examined then",
		)
	}
	found, err := st.Integrity(ctx)
	if err != nil {
		r.Problems = append(r.Problems, err.Error())
		return r, nil
	}
	r.Problems = append(r.Problems, found...)
	if r.Version < r.Wanted {
		return r, nil
	}
	if r.Rows, err = st.Counts(ctx); err != nil {
		return r, err
	}
	t, err := loadContent()
	if err != nil {
		return r, err
	}
	today, err := practiceDay(ctx, st)
	if err != nil {
		return r, err
	}
	problems, notes, err := archive.Examine(ctx, st, t.cat, t.rules, today)
	r.Problems, r.Notes = append(r.Problems, problems...), append(r.Notes, notes...)
	return r, err
}

// practiceDay is today in the practice's time zone.
func practiceDay(ctx context.Context, st *store.Store) (trade.Day, error) {
	name, err := st.Setting(ctx, site.ZoneSetting)
	if err != nil || name == "" {
		return clock(), err
	}
	zone, err := time.LoadLocation(name)
	if err != nil {
		return trade.Day{}, err
	}
	return trade.DayOf(time.Now(), zone), nil
}

func doctorCmd() *cobra.Command {
	var dir string
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "doctor",
		Short: "An integrity report: pages, references, every document",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			path := filepath.Join(dir, databaseFile)
			if err := there(path); err != nil {
				return err
			}
			r, err := examine(cmd.Context(), path)
			if err != nil {
				return err
			}
			out := cmd.OutOrStdout()
			if asJSON {
				if err := exchange.Write(out, r); err != nil {
					return err
				}
			} else {
				fmt.Fprintf(out, "Tables: version %d of %d\n", r.Version, r.Wanted)
				for _, t := range []string{"accounts", "clients", "plans", "taught", "entries", "test_results"} {
					fmt.Fprintf(out, "  %-14s %d\n", t, r.Rows[t])
				}
				for _, n := range r.Notes {
					fmt.Fprintln(out, "Note: "+n)
				}
				for _, p := range r.Problems {
					fmt.Fprintln(out, "Problem: "+p)
				}
				if len(r.Problems) == 0 {
					fmt.Fprintln(out, "No problem found.")
				}
			}
			if len(r.Problems) > 0 {
				return fmt.Errorf("%d problems found", len(r.Problems))
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	return cmd
}

func exportCmd() *cobra.Command {
	var dir, to string
	var id int64
	cmd := &cobra.Command{
		Use:   "export",
		Short: "One client or everything as one open document",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := current(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			rules, err := restbend.Rules()
			if err != nil {
				return err
			}
			b, err := archive.Everything(cmd.Context(), st, rules)
			if cmd.Flags().Changed("client") {
				var rows, one []store.Client
				if rows, err = st.EveryClient(cmd.Context()); err != nil {
					return err
				}
				for _, r := range rows {
					if r.ID == id {
						one = append(one, r)
					}
				}
				if one == nil {
					return usage{fmt.Errorf("client: there is no client %d", id)}
				}
				b, err = archive.Clients(cmd.Context(), st, rules, one)
			}
			if err != nil {
				return err
			}
			if to == "-" {
				return exchange.Write(cmd.OutOrStdout(), b)
			}
			doc, err := json.MarshalIndent(b, "", " ")
			if err != nil {
				return err
			}
			return atomically(to, func(tmp string) error { return os.WriteFile(tmp, append(doc, '\n'), 0o600) })
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&to, "to", "-", "file to write, - for standard output")
	cmd.Flags().Int64Var(&id, "client", 0, "the number of one client, from its address; everything when absent")
	return cmd
}

func importCmd() *cobra.Command {
	var dir, from, name string
	cmd := &cobra.Command{
		Use:   "import",
		Short: "Add the clients of a document to an account",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := current(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			account, _, err := st.Account(cmd.Context(), name)
			if err != nil {
				return usage{fmt.Errorf("account: no account is called %q", name)}
			}
			t, err := loadContent()
			if err != nil {
				return err
			}
			f, err := open(cmd, from)
			if err != nil {
				return err
			}
			defer f.Close()
			today, err := practiceDay(cmd.Context(), st)
			if err != nil {
				return err
			}
			b, notes, err := archive.Read(f, t.cat, t.rules, today)
			if err != nil {
				return err
			}
			here := 0 // who is here stays: the application shows both side by side
			for i := 0; i < len(b.Clients); i++ {
				switch _, err := st.ClientOf(cmd.Context(), account, b.Clients[i].UID); {
				case err == nil:
					b.Clients = slices.Delete(b.Clients, i, i+1)
					here++
					i--
				case !errors.Is(err, store.ErrNotFound):
					return err
				}
			}
			if err := archive.Add(cmd.Context(), st, account, b); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "Added %d clients to %s\n", len(b.Clients), name)
			if here > 0 {
				fmt.Fprintf(
					cmd.OutOrStdout(),
					"Already here and left as they are: %d clients; bring the file in in the application to see what differs\n",
					here,
				)
			}
			for _, n := range notes {
				fmt.Fprintln(cmd.OutOrStdout(), "Note: "+n.String())
			}
			if len(b.Own) > 0 {
				fmt.Fprintf(
					cmd.OutOrStdout(),
					"Own exercises came in as drafts: %d; look at them in the application before they are used\n",
					len(b.Own),
				)
			}
			if len(b.Limits) > 0 {
				fmt.Fprintf(cmd.OutOrStdout(), "Not taken over: %d changed limits; set them in the application\n", len(b.Limits))
			}
			return nil
		},
	}
	dataFlag(cmd, &dir)
	cmd.Flags().StringVar(&from, "from", "-", "document, - for standard input")
	cmd.Flags().StringVar(&name, "account", "", "the account that gets the clients")
	mustHave(cmd, "account")
	return cmd
}
