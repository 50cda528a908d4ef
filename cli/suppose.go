package cli

import (
	"cmp"
	"errors"
	"fmt"

	"github.com/mattn/go-shellwords"
	"github.com/spf13/cobra"

	"kaiku/wire"
	"kaiku/wording"
)

// changesRecord marks the commands that add, change or remove a record, which can be supposed.
const changesRecord = "changes a record"

func changing(c *cobra.Command) {
	if c.Annotations == nil {
		c.Annotations = map[string]string{}
	}
	c.Annotations[changesRecord] = "yes"
}

// supposes reads the changes given with --if. Each is a command that adds, changes or removes a record, written as one text, and is read
// against the home as those before it leave it.
func (a *App) supposes(cmd *cobra.Command) error {
	if len(a.ifs) == 0 {
		return nil
	}
	if _, err := a.code(); err != nil {
		return err
	}
	for _, text := range a.ifs {
		words, err := shellwords.Parse(text)
		if err != nil || len(words) == 0 {
			return wrongUse("--if %q: quotes must be closed; write a change such as \"device set parlour-screen --room attic\"", text)
		}
		if words[0] == "kaiku" {
			words = words[1:]
		}
		one := &App{In: a.In, Out: a.Out, Err: a.Err, Getenv: a.Getenv, Version: a.Version}
		root := one.Root()
		one.url, one.household, one.sessionFile, one.supposed, one.collects = a.url, a.household, a.sessionFile, a.supposed, true
		found, _, err := root.Find(words)
		if err != nil || found.Annotations[changesRecord] == "" {
			return wrongUse("--if %q: this is not a change of a record; it takes add, set and remove of any kind, such as \"device set parlour-screen --room attic\"", text)
		}
		root.SetArgs(words)
		if err := root.ExecuteContext(cmd.Context()); err != nil {
			var use errUse
			if errors.As(err, &use) {
				return wrongUse("--if %q: %s", text, inOwnWords(use.error))
			}
			return fmt.Errorf("--if %q: %w", text, err)
		}
		a.supposed = one.supposed
	}
	a.known = nil
	if cmd.Name() != "suppose" {
		a.note("Supposed: %s. Nothing has been written.", wording.Count(len(a.supposed), "change"))
	}
	return nil
}

// supposeCommand shows what changes would do, and makes them.
func (a *App) supposeCommand() *cobra.Command {
	var makes bool
	c := &cobra.Command{Use: "suppose", Short: "What changes would do, side by side with now; and make them in one write", Args: cobra.NoArgs,
		Long:    "Shows what the changes given with --if would do to findings, load, forecast and proof. Each is a command that adds, changes or removes a record. With --make they are made, all in one write or none, and can be undone as one.\n\n--if works with every command that reads a home: kaiku load --if \"link set ...\" shows the load as it would be.",
		Example: "  kaiku suppose --if \"device set lamp-room-screen --room cellar\"\n  kaiku suppose --if \"device set lamp-room-screen --room cellar\" --make"}
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		steps := a.supposed
		if len(steps) == 0 {
			return wrongUse("say what to suppose: --if \"device set parlour-screen --room attic\"")
		}
		a.supposed = nil // what follows is about the home as it is
		p, err := a.client().Preview(cmd.Context(), a.household, steps...)
		if err != nil {
			return err
		}
		if !makes {
			if a.format == "table" && !differs(p) {
				a.say("Nothing of what is found, carried, played or proven would be different.")
				return nil
			}
			if err := a.showPreview(p); err != nil || a.format != "table" {
				return err
			}
			a.note("%s Nothing has been written; add --make to make the changes.", cmp.Or(p.Sentence, "Nothing that is proven would change."))
			return nil
		}
		made, err := a.client().MakeSupposed(cmd.Context(), a.household, p.Revision, steps...)
		if err != nil {
			return err
		}
		return a.done(made, "Made %s in revision %d. %s", wording.Count(len(steps), "change"), made.Revision, cmp.Or(p.Sentence, "Nothing that is proven has changed."))
	}
	c.Flags().BoolVar(&makes, "make", false, "make the changes")
	return c
}

// differs reports whether changes would make anything different.
func differs(p wire.Preview) bool {
	return len(p.Stale)+len(p.InDoubt)+len(p.Proven)+len(p.Asked)+len(p.Dropped)+len(p.Found)+len(p.Gone)+len(p.Load)+len(p.Plays) > 0
}
