package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"kaiku/cli"
	"kaiku/store"
	"kaiku/wording"
)

func backupCommand(a *cli.App) *cobra.Command {
	var data string
	c := &cobra.Command{Use: "backup FILE", Short: "Back up the database and the files into one file, even while Kaiku runs", Example: "  kaiku backup kaiku-2026-11-27.backup --data /var/lib/kaiku", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		ctx, stop := untilSignal(cmd.Context())
		defer stop()
		m, err := store.Backup(ctx, data, args[0], version, time.Now(), progress(a.Err, "Copying"))
		if err := stoppedOr(ctx, err, "no backup has been written", map[string]string{"dir": data, "file": args[0]}); err != nil {
			return err
		}
		fmt.Fprintf(a.Out, "Backed up %s and %s (%s uncompressed) to %s.\n", wording.Count(m.Homes, "home"), wording.Count(m.Bodies, "file"), size(m.Bytes), args[0])
		fmt.Fprintf(a.Out, "The backup does not contain the key: keep a copy of %s elsewhere. Without it the secrets cannot be read.\n", filepath.Join(data, store.KeyName))
		return remark(a, m)
	}}
	dataFlag(a, c, &data)
	return c
}

func restoreCommand(a *cli.App) *cobra.Command {
	var data string
	var replace bool
	c := &cobra.Command{Use: "restore FILE", Short: "Restore a backup, after checking all of it", Example: "  kaiku restore kaiku-2026-11-27.backup --data /var/lib/kaiku", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		ctx, stop := untilSignal(cmd.Context())
		defer stop()
		m, kept, err := store.Restore(ctx, args[0], data, replace, time.Now(), progress(a.Err, "Unpacking"))
		about := map[string]string{"dir": data, "file": args[0]}
		if errors.Is(err, store.ErrNewer) {
			about["dir"] = args[0]
		}
		if err := stoppedOr(ctx, err, "nothing has been changed", about); err != nil {
			return err
		}
		fmt.Fprintf(a.Out, "Restored %s and %s from %s into %s. Everyone has to log in again and create new tokens.\n",
			wording.Count(m.Homes, "home"), wording.Count(m.Bodies, "file"), m.MadeAt.Local().Format("2 Jan 2006 15:04"), data)
		if kept != "" {
			fmt.Fprintf(a.Out, "What was there before is kept in %s.\n", kept)
		}
		if _, err := os.Stat(filepath.Join(data, store.KeyName)); err != nil {
			fmt.Fprintf(a.Out, "There is no %s in %s yet. Put the key of the old data folder there before you start Kaiku; without it the secrets cannot be read.\n", store.KeyName, data)
		}
		return remark(a, m)
	}}
	dataFlag(a, c, &data)
	c.Flags().BoolVar(&replace, "replace", false, "replace the homes that are there; they are kept in a folder beside it")
	return c
}

func dataFlag(a *cli.App, c *cobra.Command, data *string) {
	otherwise := a.Getenv(variable("data"))
	if otherwise == "" {
		otherwise = "kaiku-data"
	}
	c.Flags().StringVar(data, "data", otherwise, "the data `folder` (KAIKU_DATA)")
}

// remark names files that are lost although records name them; the exit code asks for attention.
func remark(a *cli.App, m store.Manifest) error {
	for _, lost := range []struct {
		sums      []string
		one, many string
	}{
		{m.Missing, "file that a record names was not in the data folder. An older backup may still have it", "files that records name were not in the data folder. An older backup may still have them"},
		{m.Damaged, "file was damaged in the data folder and is not in the backup. An older backup may still have it", "files were damaged in the data folder and are not in the backup. An older backup may still have them"},
	} {
		if len(lost.sums) == 0 {
			continue
		}
		fmt.Fprintf(a.Out, "%s:\n", wording.Agree(len(lost.sums), lost.one, lost.many))
		for _, sum := range lost.sums {
			fmt.Fprintf(a.Out, "  %s\n", sum)
		}
		a.NeedsAttention()
	}
	return nil
}

func stoppedOr(ctx context.Context, err error, otherwise string, values map[string]string) error {
	if err == nil {
		return nil
	}
	if ctx.Err() != nil {
		return fmt.Errorf("stopped; %s", otherwise)
	}
	return troubleSaid(err, values)
}

// progress writes how far the work is over one line of a terminal, and nothing elsewhere.
func progress(to io.Writer, doing string) store.Tell {
	f, ok := to.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		return func(int64, int64) {}
	}
	return func(done, of int64) {
		fmt.Fprintf(f, "\r%s %s of %s", doing, size(done), size(of))
		if done == of {
			fmt.Fprint(f, "\r\033[K")
		}
	}
}

// counting writes how many of so many are done over one line of a terminal, and nothing elsewhere.
func counting(to io.Writer, doing string) store.Tell {
	f, ok := to.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		return func(int64, int64) {}
	}
	return func(done, of int64) {
		fmt.Fprintf(f, "\r%s %d of %d", doing, done, of)
		if done == of {
			fmt.Fprint(f, "\r\033[K")
		}
	}
}

func size(bytes int64) string {
	if bytes < 1_000_000 {
		return fmt.Sprintf("%.1f kB", float64(bytes)/1e3)
	}
	return fmt.Sprintf("%.1f MB", float64(bytes)/1e6)
}
