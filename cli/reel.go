package cli

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/reel"
	"kaiku/wire"
	"kaiku/wording"
)

// reelCommand lists, copies, serves and collects the sample clips.
func (a *App) reelCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List the sample clips", Example: "  kaiku reel list", Args: cobra.NoArgs, RunE: func(*cobra.Command, []string) error {
		rows := [][]string{}
		for _, c := range reel.Clips {
			length := ""
			if c.Seconds > 0 {
				length = strconv.FormatFloat(c.Seconds, 'f', -1, 64)
			}
			rows = append(rows, []string{c.Name, length, fmt.Sprint((c.Bytes() + 999) / 1000), wording.Format(c.Format())})
		}
		return a.show(reel.Clips, []string{"Clip", "Seconds", "kB", "What it is"}, rows)
	}}
	return group("reel", "The sample clips that tests are done with", list.RunE, list, a.reelCopy(), a.reelCollect(), a.reelServe())
}

// completeClips completes names of clips after the first argument.
func completeClips(after int) func(*cobra.Command, []string, string) ([]cobra.Completion, cobra.ShellCompDirective) {
	return func(_ *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
		if len(args) < after {
			return nil, cobra.ShellCompDirectiveDefault
		}
		var out []cobra.Completion
		for _, c := range reel.Clips {
			if strings.HasPrefix(c.Name, typed) {
				out = append(out, c.Name)
			}
		}
		return out, cobra.ShellCompDirectiveNoFileComp
	}
}

// copiedInto is what a copy is called in the list of what is still to be done: what is to be collected again is known by it.
func copiedInto(dir string) string { return proving.SamplesIn + dir }

func (a *App) reelCopy() *cobra.Command {
	var folder string
	c := &cobra.Command{Use: "copy DIRECTORY [CLIP...]", Short: "Copy sample clips into a directory", Args: cobra.MinimumNArgs(1), ValidArgsFunction: completeClips(1),
		Example: "  kaiku reel copy /mnt/films\n  kaiku reel copy /mnt/films h264-1080p25-aac --folder Films",
		Long:    "Copies all sample clips, or those named, into a directory that this machine can write to, such as a mounted share. A file that is already there is left; another file of that name is never overwritten. With a household (-H), the copy is noted there, so that kaiku depart asks for it back.",
		RunE: func(cmd *cobra.Command, args []string) error {
			clips := reel.Clips
			if len(args) > 1 {
				clips = nil
			}
			for _, name := range args[1:] {
				one, err := reel.Named(name)
				if err != nil {
					return wrongUse("%v", err)
				}
				clips = append(clips, one)
			}
			dir, err := filepath.Abs(args[0])
			if err != nil {
				return err
			}
			written, err := reel.Copy(dir, clips)
			if err != nil {
				return fmt.Errorf("copy the sample clips: %w", err)
			}
			if a.household != "" && len(written) > 0 {
				if err := a.noteCopies(cmd.Context(), dir, folder); err != nil {
					return fmt.Errorf("the clips are copied, but that is not noted: %w", err)
				}
			}
			return a.done(map[string]any{"directory": dir, "written": written}, "Copied %s into %s.", wording.Count(len(written), "file"), dir)
		}}
	c.Flags().StringVar(&folder, "folder", "", "the media folder that the directory is")
	f, _ := dossier.KindNamed("converted-copy").Field("folder") // which refers to a folder too
	a.completeMember(c, "folder", f)
	return c
}

// noteCopies notes that clips lie in a directory, for who leaves the home.
func (a *App) noteCopies(ctx context.Context, dir, folder string) error {
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	for _, t := range d.LongTasks {
		if t.What == copiedInto(dir) && t.EndedAt.IsZero() {
			return nil
		}
	}
	me, err := a.client().WhoAmI(ctx)
	if err != nil {
		return err
	}
	now := time.Now().UTC()
	members := wire.Record{"what": copiedInto(dir), "startedAt": now, "expectedAt": now.Add(4 * time.Hour), "checkedBy": me.Person.Login}
	if folder != "" {
		r, err := find(d, dossier.KindNamed("folder"), []string{folder}, writing)
		if err != nil {
			return err
		}
		members["subject"] = dossier.Ref{Kind: "folder", ID: r.Key()}
	}
	_, err = a.client().Add(ctx, a.household, dossier.KindNamed("long-task"), members)
	return err
}

func (a *App) reelCollect() *cobra.Command {
	return &cobra.Command{Use: "collect DIRECTORY", Short: "Take the sample clips out of a directory again", Args: cobra.ExactArgs(1), Example: "  kaiku reel collect /mnt/films",
		Long: "Removes the sample clips from a directory. Only files that bear the name of a clip and are that clip, byte for byte, are removed.",
		RunE: func(cmd *cobra.Command, args []string) error {
			dir, err := filepath.Abs(args[0])
			if err != nil {
				return err
			}
			taken, left, err := reel.Collect(dir)
			if err != nil {
				return fmt.Errorf("collect the sample clips: %w", err)
			}
			if a.household != "" && len(left) == 0 {
				if err := a.noteCollected(cmd.Context(), dir); err != nil {
					return fmt.Errorf("the clips are removed, but that is not noted: %w", err)
				}
			}
			for _, name := range left {
				a.note("Left %s: it is not the sample clip of that name.", name)
			}
			a.attention = len(left) > 0
			return a.done(map[string]any{"directory": dir, "removed": taken, "left": left}, "Removed %s from %s.", wording.Count(len(taken), "file"), dir)
		}}
}

func (a *App) noteCollected(ctx context.Context, dir string) error {
	d, err := a.home(ctx)
	if err != nil {
		return err
	}
	for _, t := range d.LongTasks {
		if t.What != copiedInto(dir) || !t.EndedAt.IsZero() {
			continue
		}
		if _, err := a.client().Set(ctx, a.household, dossier.KindNamed("long-task"), string(t.ID), fmt.Sprintf(`"%d"`, t.Revision), wire.Record{"endedAt": time.Now().UTC(), "showed": "collected"}); err != nil {
			return err
		}
	}
	return nil
}

func (a *App) reelServe() *cobra.Command {
	var listen string
	c := &cobra.Command{Use: "serve", Short: "Serve the sample clips from this machine over HTTP", Args: cobra.NoArgs, Example: "  kaiku reel serve --listen 10.20.4.50:8410",
		Long: "Serves the sample clips over HTTP, with a list of them (M3U) that screens and players can open by its address, until Ctrl-C. Whoever reaches this machine at that address can fetch them; nothing else is served.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
			defer stop()
			l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", listen)
			if err != nil {
				return fmt.Errorf("serve the sample clips: %w; choose an address of this machine and a free port with --listen", err)
			}
			a.say("http://%s/samples.m3u", l.Addr())
			for _, one := range reel.Clips {
				a.say("http://%s/%s", l.Addr(), one.File)
			}
			server := &http.Server{Handler: reel.Handler(), ReadHeaderTimeout: 10 * time.Second}
			end := context.AfterFunc(ctx, func() { _ = server.Close() })
			defer end()
			a.note("Serving until Ctrl-C ...")
			if err := server.Serve(l); !errors.Is(err, http.ErrServerClosed) {
				return err
			}
			return nil
		}}
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:7450", "address and port to listen on")
	return c
}

// sampleFlag adds the flag for the clip with which a test was done.
func sampleFlag(c *cobra.Command, sample *string) {
	c.Flags().StringVar(sample, "sample", "", "the sample clip that was played; what it shows of the device's decoding is recorded")
	_ = c.RegisterFlagCompletionFunc("sample", completeClips(0))
}
