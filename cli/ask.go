package cli

import (
	"bufio"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"
)

// lineReader reads lines of standard input, also where several questions are answered by one pipe.
type lineReader struct{ *bufio.Reader }

func (a *App) readLine() (string, error) {
	if a.lines.Reader == nil {
		a.lines.Reader = bufio.NewReader(a.In)
	}
	line, err := a.lines.ReadString('\n')
	if err == io.EOF && line != "" {
		err = nil
	}
	return strings.TrimRight(line, "\r\n"), err
}

// terminal returns standard input if someone can be asked there.
func (a *App) terminal() (*os.File, bool) {
	f, ok := a.In.(*os.File)
	return f, ok && term.IsTerminal(int(f.Fd()))
}

// hidden asks for a line that is not shown on a terminal.
func (a *App) hidden(prompt, instead string) (string, error) {
	if f, asked := a.terminal(); asked {
		if a.noInput {
			return "", wrongUse("%v; %s", errNoInput, instead)
		}
		a.ask("%s", prompt)
		b, err := term.ReadPassword(int(f.Fd()))
		a.ask("\n")
		return string(b), err
	}
	line, err := a.readLine()
	if err != nil || line == "" {
		return "", wrongUse("nothing was given for %q; %s", strings.TrimRight(prompt, ": "), instead)
	}
	return line, nil
}

// secret reads a credential: the first line of a file, of standard input for "-", or what is typed
// at the prompt. It never comes from a flag, which other users of the machine could see.
func (a *App) secret(file, prompt, flag string) (string, error) {
	switch file {
	case "":
		return a.hidden(prompt, "type it, pipe it in, or use "+flag)
	case "-":
		return a.hidden(prompt, "pipe it in")
	}
	b, err := os.ReadFile(file)
	if err != nil {
		return "", fmt.Errorf("%s: %w", flag, err)
	}
	line, _, _ := strings.Cut(string(b), "\n")
	if line = strings.TrimRight(line, "\r"); line == "" {
		return "", fmt.Errorf("%s: the first line of %s is empty", flag, file)
	}
	return line, nil
}

// yesFlag adds the flag by which a command does not ask.
func (a *App) yesFlag(c *cobra.Command) {
	c.Flags().BoolVarP(&a.yes, "yes", "y", false, "do it without asking")
}

// confirm says what is about to be lost, and asks. Without a terminal nothing is done unless --yes
// was given.
func (a *App) confirm(what, question string) error {
	if a.yes {
		return nil
	}
	a.ask("%s\n", what)
	if _, asked := a.terminal(); !asked || a.noInput {
		return wrongUse("nothing was done; add --yes to go ahead")
	}
	a.ask("%s [y/N] ", question)
	answer, err := a.readLine()
	if err != nil || !strings.EqualFold(answer, "y") && !strings.EqualFold(answer, "yes") {
		return fmt.Errorf("nothing was done")
	}
	return nil
}
