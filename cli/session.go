package cli

import (
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

	"kaiku/client"
	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) sessionCommands() []*cobra.Command {
	var passwordFile string
	login := &cobra.Command{Use: "login NAME", Short: "Log in; the password is asked for", Example: "  kaiku login petri\n  kaiku login petri --url https://kaiku.example.org --password-file /run/secrets/petri",
		Long: "Logs in and keeps the log-in for later commands. The password is asked for, or read from standard input or a file.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.login(cmd, args, passwordFile) }}
	passwordFileFlag(login, &passwordFile, "password-file")
	logout := &cobra.Command{Use: "logout", Short: "Log out and forget the log-in on this machine", Example: "  kaiku logout", RunE: func(cmd *cobra.Command, _ []string) error {
		err := a.client().LogOut(cmd.Context())
		if kept := a.keep(session{URL: a.where()}); kept != nil {
			return kept
		}
		if err == nil {
			a.say("Logged out.")
		}
		return err
	}}
	whoami := &cobra.Command{Use: "whoami", Short: "Show who is logged in, and where", Example: "  kaiku whoami", RunE: func(cmd *cobra.Command, _ []string) error {
		me, err := a.client().WhoAmI(cmd.Context())
		if err != nil {
			return err
		}
		return a.details(me, "Name", me.Person.Name, "Role", me.Person.Role, "Log-in name", me.Person.Login, "Kaiku", a.where())
	}}
	today := &cobra.Command{Use: "today", Short: "Show what there is for you to do", Example: "  kaiku today", RunE: a.today}
	return []*cobra.Command{login, logout, whoami, today}
}

// passwordFileFlag adds a flag that names a file with a credential.
func passwordFileFlag(c *cobra.Command, file *string, name string) {
	c.Flags().StringVar(file, name, "", "file with the "+strings.TrimSuffix(strings.ReplaceAll(name, "-", " "), " file")+" in its first line, or - for standard input")
}

func (a *App) login(cmd *cobra.Command, args []string, passwordFile string) error {
	password, err := a.secret(passwordFile, "Password of "+args[0]+": ", "--password-file")
	if err != nil {
		return err
	}
	host, _ := os.Hostname()
	in := wire.LogIn{Login: args[0], Password: password, Client: "kaiku on " + host}
	s, err := a.client().WithToken("").LogInWith(cmd.Context(), in)
	if client.IsProblem(err, "code-needed") {
		if in.Code, err = a.hidden("Code of your second factor: ", "type it; programs use a token, see kaiku token add"); err != nil {
			return err
		}
		s, err = a.client().WithToken("").LogInWith(cmd.Context(), in)
	}
	if err != nil {
		return err
	}
	if err := a.keep(session{a.where(), s.Token, args[0]}); err != nil {
		return err
	}
	if s.SecondFactor == wire.FactorNeeded {
		a.note("This firm asks people with your role for a second factor. Set it up first: kaiku person second-factor")
	}
	return a.done(s.Person, "Logged in as %s (%s) at %s.", s.Person.Name, s.Person.Role, a.where())
}

func (a *App) today(cmd *cobra.Command, _ []string) error {
	t, err := a.client().Today(cmd.Context())
	if err != nil {
		return err
	}
	if me, err := a.client().WhoAmI(cmd.Context()); err == nil && me.Notice != "" {
		a.ask("%s\n", me.Notice)
	}
	if a.format == "json" {
		return a.show(t, nil, nil)
	}
	rows := [][]string{}
	for _, w := range append(append([]wire.Todo{}, t.Waiting...), t.Others...) {
		rows = append(rows, []string{w.Household, w.Name, w.Sentence})
	}
	if len(rows) == 0 {
		a.say("There is nothing for you to do.")
	} else if err := a.show(t, []string{"Home", "Name", "To do"}, rows); err != nil {
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
		a.say("\nYour homes: %s.", strings.Join(codes, ", "))
	}
	return nil
}

// sayFirm says how many homes of the firm a list can be narrowed to.
func (a *App) sayFirm(firm map[string]int) {
	var parts []string
	for _, what := range slices.Sorted(maps.Keys(firm)) {
		if firm[what] > 0 {
			parts = append(parts, fmt.Sprintf("%s (%d)", what, firm[what]))
		}
	}
	if len(parts) > 0 {
		a.say("\nHomes of the firm with: %s. To list them: kaiku household list --with WORD", strings.Join(parts, ", "))
	}
}

func (a *App) householdList() *cobra.Command {
	var q wire.HomesQuery
	c := &cobra.Command{Use: "list", Short: "List households", Example: "  kaiku household list\n  kaiku household list --with stale --custodian petri", RunE: func(cmd *cobra.Command, _ []string) error {
		return a.showHomes(cmd.Context(), q)
	}}
	a.homesFlags(c, &q)
	c.Flags().StringVar(&q.Words, "words", "", "only homes that contain all of these words")
	return c
}

func (a *App) householdFind() *cobra.Command {
	var q wire.HomesQuery
	c := &cobra.Command{Use: "find TEXT...", Short: "Find households by any text in their records", Example: "  kaiku household find 02:4b:49\n  kaiku household find kitchen stutter",
		Long: "Finds the households whose records contain all of the words: names, addresses, serial numbers, MAC addresses, telephone numbers, issues and notes.", RunE: func(cmd *cobra.Command, args []string) error {
			q.Words = strings.Join(args, " ")
			return a.showHomes(cmd.Context(), q)
		}}
	a.homesFlags(c, &q)
	return c
}

func (a *App) homesFlags(c *cobra.Command, q *wire.HomesQuery) {
	c.Flags().StringVar(&q.Custodian, "custodian", "", "log-in name of the custodian")
	c.Flags().StringSliceVar(&q.With, "with", nil, "only homes with all of these; may be repeated: "+strings.Join(wire.HomesWith, ", "))
	c.Flags().StringVar(&q.Sort, "sort", "", "order by "+strings.Join(wire.HomesBy, ", ")+"; put - in front to reverse it")
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
		if h.Coverage.Waived > 0 {
			tests += fmt.Sprintf(", %d waived", h.Coverage.Waived)
		}
		rows = append(rows, append(row, tests, strings.Join(slices.DeleteFunc(open, func(s string) bool { return s == "" }), ", "), offered))
	}
	if len(rows) == 0 && a.format == "table" {
		a.say("No households found.")
		return nil
	}
	return a.show(homes, header, rows)
}

// foundIn says a record and, where its name does not say it already, the text that fits.
func foundIn(f wire.FoundRecord) string {
	said := wording.Noun(f.Kind) + " " + f.Label
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
	c := &cobra.Command{Use: "add NAME", Short: "Add a household", Example: "  kaiku household add \"Net Loft\" --postal-address \"Harbour Row 9, Vesikarinne\"",
		Long: "Adds a household. It is given the next free code, unless --code gives another.",
		RunE: func(cmd *cobra.Command, args []string) error {
			in.Name = args[0]
			h, err := a.client().Begin(cmd.Context(), in)
			if err != nil {
				return err
			}
			people, err := a.people(cmd.Context())
			if err != nil {
				return err
			}
			return a.done(h, "Added household %s %s; the custodian is %s.", h.Code, h.Name, people.name(string(h.Custodian)))
		}}
	c.Flags().StringVar(&in.Code, "code", "", "code of the household, such as H-0042; the next free one by default")
	c.Flags().StringVar(&in.Address, "postal-address", "", "postal address of the home")
	c.Flags().StringVar(&in.AccessNotes, "access-notes", "", "how to get in; no door codes")
	c.Flags().StringVar(&in.Custodian, "custodian", "", "log-in name of the custodian")
	_ = c.RegisterFlagCompletionFunc("custodian", a.completePeople)
	return c
}

func (a *App) assignCommand() *cobra.Command {
	var why string
	c := aboutHome(&cobra.Command{Use: "assign CODE PERSON", Short: "Make a person the custodian without a handover (lead, coordinator)", Example: "  kaiku household assign H-0042 maarit --why \"Petri is ill\"",
		ValidArgsFunction: a.completeHouseholds,
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := a.client().Assign(cmd.Context(), a.household, wire.Assign{To: args[1], Why: why}); err != nil {
				return err
			}
			a.say("%s is now the custodian of %s.", args[1], a.household)
			return nil
		}})
	whyFlag(c, &why)
	required(c, "why")
	return c
}

// eraseCommand erases a home's personal data for good.
func (a *App) eraseCommand() *cobra.Command {
	var in wire.Erase
	c := aboutHome(&cobra.Command{Use: "erase CODE", Short: "Erase a household's personal data for good (coordinator)", Example: "  kaiku household erase H-0042 --why \"Asked for by letter of 20 November\"",
		ValidArgsFunction: a.completeHouseholds,
		Long:              "Overwrites contacts, address, access notes, the names of those who reported issues, log-in names and the names in restrictions, in the records, the journal and the search. It cannot be undone. Notes in free text, photographs and earlier backups are not changed. The reason stays in the journal, so it must not contain personal data.",
		RunE: func(cmd *cobra.Command, args []string) error {
			home, err := a.client().Overview(cmd.Context(), a.household)
			if err != nil {
				return err
			}
			what := fmt.Sprintf("This erases the personal data of %s %s for good: contacts, address, access notes and all personal names and log-in names in its records and journal. It cannot be undone.", a.household, home.Household.Name)
			if err := a.confirm(what, "Erase it?"); err != nil {
				return err
			}
			in.Code = a.household
			done, err := a.client().ErasePersonal(cmd.Context(), a.household, in)
			if err != nil {
				return err
			}
			return a.done(done, "Erased the personal data of %s in %s. Earlier backups still contain it.", a.household, wording.Count(done.Records, "record"))
		}})
	whyFlag(c, &in.Why)
	required(c, "why")
	a.yesFlag(c)
	return c
}

// watchCommand prints journal entries as they are written, until Ctrl-C.
func (a *App) watchCommand() *cobra.Command {
	return aboutHome(&cobra.Command{Use: "watch [CODE]", Short: "Show changes to a household as they happen, until Ctrl-C", Example: "  kaiku household watch H-0042", ValidArgsFunction: a.completeHouseholds, RunE: func(cmd *cobra.Command, _ []string) error {
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
		err = a.client().Follow(ctx, 0, func() { a.say("Watching %s %s. Press Ctrl-C to stop.", code, o.Household.Name) }, func(e wire.Event) error {
			if e.Household != code && e.Household != "" {
				return nil
			}
			if e.Job != nil {
				a.say("%s  %s  %s: %s, %d of %d  %s", when(time.Now()), e.Job.By, wording.Jobs[e.Job.Kind], e.Job.State, e.Job.Done, e.Job.Of, e.Job.Doing)
				return nil
			}
			seen, err = a.tellSince(ctx, code, seen)
			return err
		})
		if ctx.Err() != nil {
			return nil
		}
		if err == nil {
			return fmt.Errorf("the connection was closed by Kaiku at %s", a.where())
		}
		return err
	}})
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
			a.say("%s  %s  %s %s %s  %s", when(e.At), e.ByName, wording.Noun(e.Subject.Kind), e.Label, e.Act, clip(strings.Join(e.Members, "; "), 100))
			newest = max(newest, e.Revision)
		}
	}
	return newest, nil
}
