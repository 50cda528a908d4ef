package cli

import (
	"context"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/wire"
)

// roles are the roles of people in the firm.
var roles = []string{"coordinator", "lead", "technician", "observer"}

func (a *App) personCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List the people of the firm", Example: "  kaiku person list", RunE: func(cmd *cobra.Command, _ []string) error {
		people, err := a.people(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, p := range people {
			state := ""
			if p.Suspended {
				state = "suspended"
			}
			rows = append(rows, []string{p.Name, p.Login, p.Role, state})
		}
		return a.show(people, []string{"Name", "Log-in name", "Role", "State"}, rows)
	}}
	password := &cobra.Command{Use: "password", Short: "Change your own password", Example: "  kaiku person password"}
	var oldFile, newFile string
	passwordFileFlag(password, &oldFile, "password-file")
	passwordFileFlag(password, &newFile, "new-password-file")
	password.RunE = func(cmd *cobra.Command, _ []string) error { return a.changePassword(cmd, oldFile, newFile) }
	return group("person", "People of the firm", list.RunE, list, a.personAdd(), a.personSet(), a.personSuspend(), a.personRestore(), a.personReset(), password, a.personFactor())
}

func (a *App) personAdd() *cobra.Command {
	var role string
	c := &cobra.Command{Use: "add LOGIN NAME", Short: "Add a person to the firm (coordinator)", Example: "  kaiku person add lempi \"Lempi Rannikko\" --role technician",
		Long: "Adds a person. The password is shown once, on this occasion only.", RunE: func(cmd *cobra.Command, args []string) error {
			made, err := a.client().NewPerson(cmd.Context(), wire.NewPerson{Login: args[0], Name: args[1], Role: role})
			if err != nil {
				return err
			}
			return a.told(made)
		}}
	wordFlag(c.Flags(), &role, "role", "", roles, "role in the firm")
	completeWords(c)
	required(c, "role")
	return c
}

func (a *App) personSet() *cobra.Command {
	var name, role, to string
	c := a.personStep("set", "Change a person's name or role (coordinator)", "  kaiku person set lempi --role lead", func(ctx context.Context, p wire.Person) (wire.Person, error) {
		if name == "" && role == "" {
			return p, wrongUse("nothing to change; give --name or --role")
		}
		return a.client().ChangePerson(ctx, p.ID, wire.PersonChange{Name: name, Role: role, HandOnTo: to})
	})
	nameFlag(c, &name)
	wordFlag(c.Flags(), &role, "role", "", roles, "role in the firm")
	a.handOnFlag(c, &to)
	completeWords(c)
	return c
}

// nameFlag adds the flag that gives a name.
func nameFlag(c *cobra.Command, name *string) { c.Flags().StringVar(name, "name", "", "the name") }

// handOnFlag adds the flag that names the next custodian of a person's homes.
func (a *App) handOnFlag(c *cobra.Command, to *string) {
	c.Flags().StringVar(to, "hand-on-to", "", "log-in name of the new custodian of their homes")
	_ = c.RegisterFlagCompletionFunc("hand-on-to", a.completePeople)
}

func (a *App) personSuspend() *cobra.Command {
	var to string
	yes := true
	c := a.personStep("suspend", "Stop a person from logging in (coordinator)", "  kaiku person suspend petri --hand-on-to maarit", func(ctx context.Context, p wire.Person) (wire.Person, error) {
		if err := a.confirm(p.Name+" will be logged out everywhere and cannot log in until restored.", "Suspend "+p.Name+"?"); err != nil {
			return p, err
		}
		return a.client().ChangePerson(ctx, p.ID, wire.PersonChange{Suspended: &yes, HandOnTo: to})
	})
	a.handOnFlag(c, &to)
	a.yesFlag(c)
	return c
}

func (a *App) personRestore() *cobra.Command {
	no := false
	return a.personStep("restore", "Let a suspended person log in again (coordinator)", "  kaiku person restore petri", func(ctx context.Context, p wire.Person) (wire.Person, error) {
		return a.client().ChangePerson(ctx, p.ID, wire.PersonChange{Suspended: &no})
	})
}

func (a *App) personReset() *cobra.Command {
	c := &cobra.Command{Use: "reset LOGIN", Short: "Give a person a new password (coordinator)", Example: "  kaiku person reset petri", ValidArgsFunction: a.completePeople, RunE: func(cmd *cobra.Command, args []string) error {
		p, err := a.personNamed(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		if err := a.confirm("The present password of "+p.Name+" will stop working, and "+p.Name+" will be logged out everywhere.", "Give a new one?"); err != nil {
			return err
		}
		made, err := a.client().ResetPerson(cmd.Context(), p.ID)
		if err != nil {
			return err
		}
		return a.told(made)
	}}
	a.yesFlag(c)
	return c
}

func (a *App) told(made wire.PersonMade) error {
	if a.format == "csv" {
		return a.show(made, []string{"Log-in name", "Password"}, [][]string{{made.Person.Login, made.Password}})
	}
	return a.done(made, "%s can log in as %s with the password %s, which is shown only this once.", made.Person.Name, made.Person.Login, made.Password)
}

func (a *App) personNamed(ctx context.Context, who string) (wire.Person, error) {
	people, err := a.people(ctx)
	if err != nil {
		return wire.Person{}, err
	}
	for _, p := range people {
		if strings.EqualFold(p.Login, who) || strings.EqualFold(p.Name, who) {
			return p, nil
		}
	}
	return wire.Person{}, fmt.Errorf("there is no %q in the firm; kaiku person list shows everyone", who)
}

func (a *App) personStep(name, short, example string, do func(context.Context, wire.Person) (wire.Person, error)) *cobra.Command {
	return &cobra.Command{Use: name + " LOGIN", Short: short, Example: example, ValidArgsFunction: a.completePeople, RunE: func(cmd *cobra.Command, args []string) error {
		p, err := a.personNamed(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		now, err := do(cmd.Context(), p)
		if err != nil {
			return err
		}
		state := "can log in"
		if now.Suspended {
			state = "is suspended"
		}
		return a.done(now, "%s (%s) %s.", now.Name, now.Role, state)
	}}
}

func (a *App) changePassword(cmd *cobra.Command, oldFile, newFile string) error {
	me, err := a.client().WhoAmI(cmd.Context())
	if err != nil {
		return err
	}
	var in wire.NewPassword
	if in.Old, err = a.secret(oldFile, "Present password of "+me.Person.Login+": ", "--password-file"); err != nil {
		return err
	}
	if in.New, err = a.secret(newFile, "New password: ", "--new-password-file"); err != nil {
		return err
	}
	if err := a.client().ChangePassword(cmd.Context(), in); err != nil {
		return err
	}
	a.say("Password changed. You have been logged out everywhere; log in again with: kaiku login %s", me.Person.Login)
	return nil
}

// personFactor sets up one's own second factor, or takes it away.
func (a *App) personFactor() *cobra.Command {
	var remove bool
	var passwordFile string
	c := &cobra.Command{Use: "second-factor", Short: "Set up a second factor for your log-in, or remove it", Example: "  kaiku person second-factor\n  kaiku person second-factor --remove",
		Long: "Shows a secret for a program that makes codes which change every half minute (RFC 6238), as text and as a code to scan, and asks for the first code. From then on a code is asked for at every log-in, besides the password. Your other log-ins end; tokens stay. If you lose the program, a coordinator can reset you.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if remove {
				return a.removeFactor(cmd.Context(), passwordFile)
			}
			return a.setFactor(cmd.Context(), passwordFile)
		}}
	c.Flags().BoolVar(&remove, "remove", false, "remove it")
	passwordFileFlag(c, &passwordFile, "password-file")
	return c
}

func (a *App) setFactor(ctx context.Context, passwordFile string) error {
	offer, err := a.client().OfferSecondFactor(ctx)
	if err != nil {
		return err
	}
	for _, line := range qrLines(offer.QR) {
		a.ask("%s\n", line)
	}
	a.ask("Scan this with the program, or type the secret: %s\n", offer.Secret)
	in := wire.SetSecondFactor{Secret: offer.Secret}
	if in.Password, err = a.secret(passwordFile, "Your password: ", "--password-file"); err != nil {
		return err
	}
	if in.Code, err = a.hidden("The code that the program shows now: ", "type it"); err != nil {
		return err
	}
	if err := a.client().SetSecondFactor(ctx, in); err != nil {
		return err
	}
	a.say("Your second factor is set up. Your other log-ins have ended.")
	return nil
}

func (a *App) removeFactor(ctx context.Context, passwordFile string) error {
	var in wire.RemoveSecondFactor
	var err error
	if in.Password, err = a.secret(passwordFile, "Your password: ", "--password-file"); err != nil {
		return err
	}
	if in.Code, err = a.hidden("The code that the program shows now: ", "type it"); err != nil {
		return err
	}
	if err := a.client().RemoveSecondFactor(ctx, in); err != nil {
		return err
	}
	a.say("Your second factor is removed.")
	return nil
}

func (a *App) tokenCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List your log-ins, tokens and calendar addresses", Example: "  kaiku token list", RunE: func(cmd *cobra.Command, _ []string) error {
		all, err := a.client().LogIns(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, l := range all {
			kind := map[string]string{"session": "log-in", "token": "token", "calendar": "calendar"}[l.Kind]
			if l.Current {
				kind += " (this one)"
			}
			rows = append(rows, []string{l.Name, kind, when(l.Began), when(l.Ends), shortID(l.ID)})
		}
		return a.show(all, []string{"Name", "Kind", "Since", "Expires", "Id"}, rows)
	}}
	var days int
	add := &cobra.Command{Use: "add NAME", Short: "Create a token for a program", Example: "  kaiku token add \"nightly report\" --days 30", RunE: func(cmd *cobra.Command, args []string) error {
		made, err := a.client().NewToken(cmd.Context(), wire.NewToken{Name: args[0], Days: days})
		if err != nil {
			return err
		}
		if a.format != "table" {
			return a.show(made, []string{"Token", "Expires"}, [][]string{{made.Token, when(made.Ends)}})
		}
		a.say("%s", made.Token)
		a.note("The token is shown only this once. It expires on %s. Programs pass it in KAIKU_TOKEN.", when(made.Ends))
		return nil
	}}
	add.Flags().IntVar(&days, "days", 90, "days until it expires, at most 365")
	revoke := &cobra.Command{Use: "revoke NAME", Short: "End a token, log-in or calendar address", Example: "  kaiku token revoke \"nightly report\"", RunE: func(cmd *cobra.Command, args []string) error {
		all, err := a.client().LogIns(cmd.Context())
		if err != nil {
			return err
		}
		var found []wire.LogInRow
		for _, l := range all {
			if l.Name == args[0] || strings.HasSuffix(l.ID, args[0]) && len(args[0]) == 6 {
				found = append(found, l)
			}
		}
		switch len(found) {
		case 0:
			return fmt.Errorf("you have no token or log-in %q; kaiku token list shows them", args[0])
		case 1:
		default:
			return wrongUse("%q names %d tokens or log-ins; give the six characters that kaiku token list shows", args[0], len(found))
		}
		if err := a.confirm("Whatever uses \""+found[0].Name+"\" will be logged out at once.", "End it?"); err != nil {
			return err
		}
		if err := a.client().EndLogIn(cmd.Context(), found[0].ID); err != nil {
			return err
		}
		a.say("Ended %q.", found[0].Name)
		return nil
	}}
	a.yesFlag(revoke)
	return group("token", "Your log-ins and the tokens of your programs", list.RunE, list, add, revoke)
}
