package cli

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/survey"
	"kaiku/wire"
)

// applyCommand enters records of several kinds at once.
func (a *App) applyCommand() *cobra.Command {
	var dry, fresh bool
	c := &cobra.Command{Use: "apply FILE", Short: "Enter records of several kinds from one file",
		Long: `Writes the records in a YAML or JSON file, or in standard input for "-", as one revision or not at all. The file has
the kinds as in the API (rooms, segments, devices, interfaces, sources, folders, paths ...), each with a list of
records; references are written as names. A record whose name is already there is changed; values that the file
does not mention stay. With --new-household, the file is a new household and has its name under household; it is given
the next free code.`,
		Example: "  kaiku apply home.yaml --dry-run\n  kaiku apply home.yaml --new-household\n  cat rooms.json | kaiku apply - -H H-0042"}
	c.RunE = func(cmd *cobra.Command, args []string) error {
		body, err := a.document(args[0])
		if err != nil {
			return fmt.Errorf("read the file: %w", err)
		}
		if fresh {
			done, err := a.client().ApplyNew(cmd.Context(), body, dry)
			if err != nil {
				return err
			}
			if err := a.applied(done, done.Import); err != nil {
				return err
			}
			if done.Written {
				a.note("The new household is %s.", done.Code)
			}
			return nil
		}
		code, err := a.code()
		if err != nil {
			return err
		}
		done, err := a.client().Apply(cmd.Context(), code, body, dry)
		if err != nil {
			return err
		}
		return a.applied(done, done)
	}
	dryFlag(c, &dry)
	c.Flags().BoolVar(&fresh, "new-household", false, "add a new household with what is in the file")
	return c
}

func (a *App) applied(value any, done wire.Import) error {
	if err := a.importLines(value, done); err != nil {
		return err
	}
	switch counts := countsOf(done); {
	case done.Dry && done.Counts[wire.LineRefused] > 0:
		return errors.New(counts + " Nothing would be written; correct the refused records")
	case done.Dry:
		a.note("%s Nothing has been written; leave out --dry-run to write it.", counts)
	case !done.Written:
		return errors.New(counts + " Nothing has been written; correct the refused records")
	case done.Counts[wire.LineAdded]+done.Counts[wire.LineChanged] == 0:
		a.note("%s There was nothing to write.", counts)
	default:
		a.note("%s Written.", counts)
	}
	return nil
}

// importLines lists what each line of a document comes to; value is what programs get.
func (a *App) importLines(value any, done wire.Import) error {
	rows := [][]string{}
	for _, l := range done.Lines {
		rows = append(rows, []string{fmt.Sprint(l.Line), l.Act, l.Label, l.Detail})
	}
	return a.show(value, []string{"Line", "Result", "Record", "Details"}, rows)
}

// countsOf says how many lines came to what.
func countsOf(done wire.Import) string {
	var said []string
	for _, act := range []string{wire.LineAdded, wire.LineChanged, wire.LineSame, wire.LineUnknown, wire.LineRefused} {
		if n := done.Counts[act]; n > 0 {
			said = append(said, fmt.Sprintf("%d %s", n, act))
		}
	}
	if len(said) == 0 {
		return "There is nothing in it."
	}
	return strings.Join(said, ", ") + "."
}

// surveyAnswer says that nothing is to be recorded for a gap.
func (a *App) surveyAnswer() *cobra.Command {
	var subject, note string
	var undo bool
	c := &cobra.Command{Use: "answer GAP [none-here|not-needed]", Short: "Say that nothing is to be recorded for a gap in the survey",
		Long:    "Answers a gap that kaiku survey missing lists, when there is nothing to record: there is none here, or it is not needed. The gap then counts as answered, with your name.",
		Example: "  kaiku survey answer no-outlets none-here --about room/cellar\n  kaiku survey answer no-serial not-needed --about device/\"old router\"\n  kaiku survey answer no-outlets --undo --about room/cellar"}
	c.ValidArgsFunction = func(_ *cobra.Command, args []string, typed string) ([]cobra.Completion, cobra.ShellCompDirective) {
		all := dossier.GapReply("").Values()
		if len(args) == 0 {
			all = nil
			for _, k := range survey.GapKinds {
				all = append(all, k.Name)
			}
		}
		var out []cobra.Completion
		for _, word := range all {
			if len(args) < 2 && strings.HasPrefix(word, typed) {
				out = append(out, word)
			}
		}
		return out, cobra.ShellCompDirectiveNoFileComp
	}
	c.RunE = func(cmd *cobra.Command, args []string) error {
		if undo == (len(args) == 2) {
			return wrongUse("say none-here or not-needed, or --undo to withdraw the answer")
		}
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		in := wire.AnswerGap{Code: args[0], Note: note}
		if subject != "" {
			if in.About, err = findRef(d, subject, writing); err != nil {
				return err
			}
		}
		done := "Answer withdrawn: "
		if !undo {
			in.Answer, done = dossier.GapReply(args[1]), "Answered: "
			if args[1] != string(dossier.NoneHere) && args[1] != string(dossier.NotNeeded) {
				return wrongUse("%q: answer none-here or not-needed", args[1])
			}
		}
		if err := a.client().AnswerGap(cmd.Context(), a.household, in); err != nil {
			return err
		}
		return a.done(in, "%s%s.", done, args[0])
	}
	aboutFlag(c, &subject)
	noteFlag(c, &note)
	undoFlag(c, &undo)
	return c
}
