package cli

import (
	"bufio"
	"context"
	"fmt"
	"maps"
	"net/url"
	"os"
	"os/signal"
	"slices"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"kaiku/core/dossier"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) sessionCommands() []*cobra.Command {
	login := &cobra.Command{Use: "login NAME", Short: "Log in; the password is asked for, or read from KAIKU_PASSWORD", Args: cobra.ExactArgs(1), RunE: a.login}
	logout := &cobra.Command{Use: "logout", Short: "Log out and forget the log-in here", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		err := a.client().LogOut(cmd.Context())
		if kept := a.keep(session{Address: a.where()}); kept != nil {
			return kept
		}
		if err == nil {
			a.say("Logged out.")
		}
		return err
	}}
	whoami := &cobra.Command{Use: "whoami", Short: "Who is logged in", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		me, err := a.client().WhoAmI(cmd.Context())
		if err != nil {
			return err
		}
		return a.details(me, "Name", me.Person.Name, "Role", me.Person.Role, "Log-in name", me.Person.Login, "Kaiku", a.where())
	}}
	today := &cobra.Command{Use: "today", Short: "What waits for me", Args: cobra.NoArgs, RunE: a.today}
	return []*cobra.Command{login, logout, whoami, today}
}

func (a *App) login(cmd *cobra.Command, args []string) error {
	password := a.env("KAIKU_PASSWORD", "")
	if password == "" {
		var err error
		if password, err = a.readPassword(args[0]); err != nil {
			return err
		}
	}
	host, _ := os.Hostname()
	s, err := a.client().WithToken("").LogIn(cmd.Context(), args[0], password, "kaiku on "+host)
	if err != nil {
		return err
	}
	if err := a.keep(session{a.where(), s.Token, args[0]}); err != nil {
		return err
	}
	a.say("Logged in as %s (%s) at %s.", s.Person.Name, s.Person.Role, a.where())
	return nil
}

func (a *App) readPassword(login string) (string, error) {
	return a.hidden("Password of "+login+": ", "no password was given; set KAIKU_PASSWORD or type it")
}

// secretText asks for a secret, or reads the first line of standard input.
func (a *App) secretText(prompt string) (string, error) {
	text, err := a.hidden(prompt, "no secret was given; type it, or pipe it in")
	if err == nil && text == "" {
		return "", wrongUse("no secret was given; type it, or pipe it in")
	}
	return text, err
}

// hidden reads a line that is not shown on a terminal.
func (a *App) hidden(prompt, none string) (string, error) {
	fmt.Fprint(a.Err, prompt)
	if f, ok := a.In.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		b, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(a.Err)
		return string(b), err
	}
	line, err := bufio.NewReader(a.In).ReadString('\n')
	if err != nil && line == "" {
		return "", wrongUse("%s", none)
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func (a *App) today(cmd *cobra.Command, _ []string) error {
	t, err := a.client().Today(cmd.Context())
	if err != nil {
		return err
	}
	if me, err := a.client().WhoAmI(cmd.Context()); err == nil && me.Notice != "" {
		fmt.Fprintln(a.Err, me.Notice)
	}
	if a.format == "json" {
		return a.show(t, nil, nil)
	}
	rows := [][]string{}
	for _, w := range append(append([]wire.Todo{}, t.Waiting...), t.Others...) {
		rows = append(rows, []string{w.Household, w.Name, w.Sentence})
	}
	if len(rows) == 0 {
		a.say("Nothing waits for you.")
	} else if err := a.show(t, []string{"Home", "Name", "What waits"}, rows); err != nil {
		return err
	}
	if a.format == "table" {
		a.sayFirm(t.Firm)
	}
	if a.format == "table" && len(t.Held) > 0 {
		codes := make([]string, len(t.Held))
		for i, h := range t.Held {
			codes[i] = h.Code + " " + h.Name
		}
		a.say("\nYou hold: %s.", strings.Join(codes, ", "))
	}
	return nil
}

// sayFirm says how many homes of the firm have what a list can be narrowed by.
func (a *App) sayFirm(firm map[string]int) {
	var parts []string
	for _, what := range slices.Sorted(maps.Keys(firm)) {
		if firm[what] > 0 {
			parts = append(parts, fmt.Sprintf("%s %d", what, firm[what]))
		}
	}
	if len(parts) > 0 {
		a.say("\nHomes of the firm with: %s. See them by: kaiku household list --with WHAT", strings.Join(parts, ", "))
	}
}

func (a *App) householdList() *cobra.Command {
	var q wire.HomesQuery
	c := &cobra.Command{Use: "list", Short: "List households", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		return a.showHomes(cmd.Context(), q)
	}}
	a.homesFlags(c, &q)
	c.Flags().StringVar(&q.Words, "words", "", "only homes in which each of these words is found")
	return c
}

func (a *App) householdFind() *cobra.Command {
	var q wire.HomesQuery
	c := &cobra.Command{Use: "find TEXT...", Short: "Find homes by code, name, address, serial, hardware address, telephone, issue", Args: cobra.MinimumNArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		q.Words = strings.Join(args, " ")
		return a.showHomes(cmd.Context(), q)
	}}
	a.homesFlags(c, &q)
	return c
}

func (a *App) homesFlags(c *cobra.Command, q *wire.HomesQuery) {
	c.Flags().StringVar(&q.Custodian, "custodian", "", "only homes of this person, by log-in name")
	c.Flags().StringSliceVar(&q.With, "with", nil, "only homes with: "+strings.Join(wire.HomesWith, ", "))
	c.Flags().StringVar(&q.Sort, "sort", "", strings.Join(wire.HomesBy, ", ")+"; - before it for the greatest first")
	_ = c.RegisterFlagCompletionFunc("custodian", a.completePeople)
	_ = c.RegisterFlagCompletionFunc("with", cobra.FixedCompletions(wire.HomesWith, cobra.ShellCompDirectiveNoFileComp))
	_ = c.RegisterFlagCompletionFunc("sort", cobra.FixedCompletions(wire.HomesBy, cobra.ShellCompDirectiveNoFileComp))
}

// showHomes lists the homes of a query; where words were looked for, each with where they are.
func (a *App) showHomes(ctx context.Context, q wire.HomesQuery) error {
	homes, err := a.client().Households(ctx, q)
	if err != nil {
		return err
	}
	rows := [][]string{}
	header := []string{"Code", "Name", "Custodian", "Tests", "Open", "Handover"}
	if q.Words != "" {
		header = []string{"Code", "Name", "Custodian", "Found in"}
	}
	for _, h := range homes {
		row := []string{h.Code, h.Name, h.Custodian}
		if q.Words != "" {
			var found []string
			for _, f := range h.Found {
				found = append(found, foundIn(f))
			}
			rows = append(rows, append(row, strings.Join(found, "; ")))
			continue
		}
		open := []string{countWord(h.Blockers, "blocker"), countWord(h.OpenIssues, "issue")}
		offered := ""
		if h.OfferedTo != "" {
			offered = "offered to " + h.OfferedTo
		}
		tests := fmt.Sprintf("%d of %d proven", h.Coverage.Proven, h.Coverage.Required)
		if h.Coverage.Excepted > 0 {
			tests += fmt.Sprintf(", %d excepted", h.Coverage.Excepted)
		}
		rows = append(rows, append(row, tests, strings.Join(slices.DeleteFunc(open, func(s string) bool { return s == "" }), ", "), offered))
	}
	if len(rows) == 0 && a.format == "table" {
		a.say("No household fits that.")
		return nil
	}
	return a.show(homes, header, rows)
}

// foundIn says a record and, where its name does not say it already, the text that fits.
func foundIn(f wire.FoundRecord) string {
	said := dossier.KindNamed(f.Kind).Noun() + " " + f.Label
	if !strings.Contains(f.Label, f.Text) {
		said += ": " + clip(f.Text, 60)
	}
	return said
}

func countWord(n int, word string) string {
	if n == 0 {
		return ""
	}
	return wording.Count(n, word)
}

func (a *App) householdAdd() *cobra.Command {
	var in wire.NewHousehold
	c := &cobra.Command{Use: "add CODE NAME", Short: "Begin a household", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		in.Code, in.Name = args[0], args[1]
		h, err := a.client().Begin(cmd.Context(), in)
		if err != nil {
			return err
		}
		people, err := a.people(cmd.Context())
		if err != nil {
			return err
		}
		a.say("Began household %s %s; custodian is %s.", h.Code, h.Name, people.name(string(h.Custodian)))
		return nil
	}}
	c.Flags().StringVar(&in.Address, "at", "", "postal address of the home")
	c.Flags().StringVar(&in.AccessNotes, "access-notes", "", "how to get in; no door codes")
	c.Flags().StringVar(&in.Custodian, "custodian", "", "log-in name of who is answerable; by default you")
	return c
}

func (a *App) assignCommand() *cobra.Command {
	var why string
	c := &cobra.Command{Use: "assign PERSON", Short: "Assign custody, with a reason (lead, coordinator)", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		if why == "" {
			return wrongUse("say why: --why \"...\"")
		}
		if err := a.client().Assign(cmd.Context(), code, wire.Assign{To: args[0], Why: why}); err != nil {
			return err
		}
		a.say("%s is now in the custody of %s.", code, args[0])
		return nil
	}}
	c.Flags().StringVar(&why, "why", "", "the reason")
	return c
}

// eraseCommand erases a home's personal data; its code is typed once more against a slip.
func (a *App) eraseCommand() *cobra.Command {
	var in wire.Erase
	c := &cobra.Command{Use: "erase CODE", Short: "Erase a home's personal data for good (coordinator)", Args: cobra.ExactArgs(1),
		Long: "Overwrites contacts, address, access notes, who reported an issue, log-in names and whom a restriction is for, in the records, the journal and the search. It cannot be undone. Notes in free text, photographs, and backups taken before are left to you.",
		RunE: func(cmd *cobra.Command, args []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			if in.Why == "" {
				return wrongUse("say who asked for it: --why \"...\"; it stays in the journal")
			}
			in.Code = args[0]
			done, err := a.client().ErasePersonal(cmd.Context(), code, in)
			if err == nil {
				a.say("Erased the personal data of %s in %s. Backups taken before still hold it.", code, wording.Count(done.Records, "record"))
			}
			return err
		}}
	c.Flags().StringVar(&in.Why, "why", "", "who asked for it, and when; no personal data")
	return c
}

// watchCommand prints journal entries as they are written, until Ctrl-C.
func (a *App) watchCommand() *cobra.Command {
	return &cobra.Command{Use: "watch", Short: "Follow what happens in a home until Ctrl-C", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		code, err := a.code()
		if err != nil {
			return err
		}
		ctx, stop := signal.NotifyContext(cmd.Context(), syscall.SIGINT, syscall.SIGTERM)
		defer stop()
		o, err := a.client().Overview(ctx, code)
		if err != nil {
			return err
		}
		seen := o.Revision
		err = a.client().Follow(ctx, 0, func() { a.say("Following %s %s. Ctrl-C ends it.", code, o.Household.Name) }, func(e wire.Event) error {
			if e.Household != code && e.Household != "" {
				return nil
			}
			if e.Job != nil {
				a.say("%s  %s  machine's tests %s, %d of %d  %s", when(time.Now()), e.Job.By, e.Job.State, e.Job.Done, e.Job.Of, e.Job.Doing)
				return nil
			}
			seen, err = a.tellSince(ctx, code, seen)
			return err
		})
		if ctx.Err() != nil {
			return nil
		}
		if err == nil {
			return fmt.Errorf("kaiku at %s ended the stream", a.where())
		}
		return err
	}}
}

// tellSince prints the entries after a revision, oldest first, and returns the newest revision.
func (a *App) tellSince(ctx context.Context, code string, seen uint64) (uint64, error) {
	entries, err := a.client().Journal(ctx, code, url.Values{"limit": {"200"}})
	if err != nil {
		return seen, err
	}
	newest := seen
	for _, e := range slices.Backward(entries) {
		if e.Revision > seen {
			a.say("%s  %s  %s %s %s  %s", when(e.At), e.ByName, e.Subject.Kind, e.Label, e.Act, clip(strings.Join(e.Members, "; "), 100))
			newest = max(newest, e.Revision)
		}
	}
	return newest, nil
}
