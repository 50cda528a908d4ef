package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/cli"
	"kaiku/demo"
	"kaiku/practice/layout"
	"kaiku/service"
)

func storyCommand(a *cli.App) *cobra.Command {
	return &cobra.Command{Use: "story", Short: "Show the complete job of one new home, command by command", Example: "  kaiku story", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		return playStory(cmd.Context(), a.Out, a.Err)
	}}
}

// playStory runs a service and a practice house of its own and types the story's commands,
// printing each with its answer. A command that does not answer as the story says ends it.
func playStory(ctx context.Context, out, errs io.Writer) error {
	dir, err := os.MkdirTemp("", "kaiku-story-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	house, octet, err := freeHouse(ctx)
	if err != nil {
		return err
	}
	defer func() { _ = house.Stop() }() // nothing is kept there
	if err := fill(ctx, dir, func(ctx context.Context, s *service.Service, _ *demo.Clock) error {
		_, err := demo.AddFirm(ctx, s)
		return err
	}); err != nil {
		return err
	}
	r, err := start(ctx, settings{tried: true, data: dir, listen: "127.0.0.1:0"}, errs)
	if err != nil {
		return err
	}
	t := teller{out: out, dir: dir, address: r.address}
	for _, step := range demo.Story(octet) {
		if err := t.tell(ctx, step); err != nil {
			return errors.Join(err, r.stop())
		}
	}
	fmt.Fprintf(out, "\nThat was the whole job in %d commands, from an empty home to an accepted handover.\n", len(demo.Story(octet)))
	return r.stop()
}

// freeHouse starts a practice house where no other stands yet.
func freeHouse(ctx context.Context) (*layout.Running, byte, error) {
	var err error
	for octet := byte(100); octet < 120; octet += 2 {
		var h *layout.Running
		if h, err = layout.Run(ctx, nil, fmt.Sprintf("%s:%d", layout.KeepersHouse, octet)); err == nil {
			return h, octet, nil
		}
	}
	return nil, 0, err
}

// teller types commands as the people of the story.
type teller struct {
	out          io.Writer
	dir, address string
	as           string
	points       string // of the handover shown last
}

var pointText = regexp.MustCompile(`(?m)^p\d{3}`)

func (t *teller) tell(ctx context.Context, step demo.Step) error {
	if step.As != t.as {
		t.as = step.As
		fmt.Fprintf(t.out, "\n— %s —\n", step.As)
	}
	var args []string
	for _, arg := range step.Args {
		if arg == demo.AllPoints {
			args = append(args, strings.Fields(t.points)...)
			continue
		}
		args = append(args, arg)
	}
	fmt.Fprintf(t.out, "\n$ kaiku %s\n", typed(args))
	var answer bytes.Buffer
	a := newApp()
	a.In, a.Out, a.Err = strings.NewReader(""), &answer, &answer
	if step.Args[0] == "login" {
		a.In = strings.NewReader(demo.Password + "\n")
	}
	a.Getenv = func(name string) string {
		return map[string]string{"KAIKU_URL": t.address, "KAIKU_HOUSEHOLD": "H-0100",
			"KAIKU_SESSION_FILE": filepath.Join(t.dir, step.As+".json")}[name]
	}
	code := a.Run(ctx, args...)
	fmt.Fprint(t.out, answer.String())
	if code != 0 {
		fmt.Fprintf(t.out, "(exit code %d)\n", code)
	}
	if found := pointText.FindAllString(answer.String(), -1); len(found) > 0 {
		t.points = strings.Join(found, " ")
	}
	// A wrapped table must not hide what the story looks for.
	flat := strings.Join(strings.Fields(answer.String()), " ")
	if code != step.Exit || !strings.Contains(answer.String(), step.Wants) && !strings.Contains(flat, step.Wants) {
		return fmt.Errorf("the story expected exit code %d and %q", step.Exit, step.Wants)
	}
	return nil
}

// typed writes a command as a person would type it.
func typed(args []string) string {
	out := make([]string, len(args))
	for i, arg := range args {
		out[i] = arg
		if strings.ContainsAny(arg, " ';,?") {
			out[i] = `"` + arg + `"`
		}
	}
	return strings.Join(out, " ")
}
