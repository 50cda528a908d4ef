package cli

import (
	"context"
	"strings"

	"github.com/spf13/cobra"

	"kaiku/wire"
	"kaiku/wording"
)

func (a *App) personCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List the people of the firm", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
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
	var role, name, to string
	add := &cobra.Command{Use: "add LOGIN NAME", Short: "Add somebody to the firm (coordinator)", Args: cobra.ExactArgs(2), RunE: func(cmd *cobra.Command, args []string) error {
		made, err := a.client().NewPerson(cmd.Context(), wire.NewPerson{Login: args[0], Name: args[1], Role: role})
		if err != nil {
			return err
		}
		return a.told(made)
	}}
	add.Flags().StringVar(&role, "role", "technician", "coordinator, lead, technician or observer")
	set := a.personStep("set", "Change name or role (coordinator)", func(ctx context.Context, p wire.Person) (wire.Person, error) {
		if name == "" && role == "" && to == "" {
			return p, wrongUse("nothing to change: say --name or --role")
		}
		return a.client().ChangePerson(ctx, p.ID, wire.PersonChange{Name: name, Role: role, HandOnTo: to})
	})
	set.Flags().StringVar(&name, "name", "", "new name")
	set.Flags().StringVar(&role, "role", "", "new role")
	suspended, back := true, false
	suspend := a.personStep("suspend", "Let somebody log in no more, and hand on the homes held (coordinator)", func(ctx context.Context, p wire.Person) (wire.Person, error) {
		return a.client().ChangePerson(ctx, p.ID, wire.PersonChange{Suspended: &suspended, HandOnTo: to})
	})
	for _, c := range []*cobra.Command{set, suspend} {
		c.Flags().StringVar(&to, "hand-on-to", "", "log-in name of who takes over the homes held")
	}
	restore := a.personStep("restore", "Take a suspension back (coordinator)", func(ctx context.Context, p wire.Person) (wire.Person, error) {
		return a.client().ChangePerson(ctx, p.ID, wire.PersonChange{Suspended: &back})
	})
	reset := &cobra.Command{Use: "reset LOGIN", Short: "Give somebody a new password (coordinator)", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		p, err := a.personNamed(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		made, err := a.client().ResetPerson(cmd.Context(), p.ID)
		if err != nil {
			return err
		}
		return a.told(made)
	}}
	password := &cobra.Command{Use: "password", Short: "Change your own password; the new one is asked for, or read from KAIKU_NEW_PASSWORD", Args: cobra.NoArgs, RunE: a.changePassword}
	return group("person", "The people of the firm", list.RunE, list, add, set, suspend, restore, reset, password)
}

func (a *App) told(made wire.PersonMade) error {
	if a.format != "table" {
		return a.show(made, []string{"Log-in name", "Password"}, [][]string{{made.Person.Login, made.Password}})
	}
	a.say("%s logs in as %s with the password %s, which is shown only now.", made.Person.Name, made.Person.Login, made.Password)
	return nil
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
	return wire.Person{}, wrongUse("there is no person %q; kaiku person list shows them", who)
}

func (a *App) personStep(name, short string, do func(context.Context, wire.Person) (wire.Person, error)) *cobra.Command {
	return &cobra.Command{Use: name + " LOGIN", Short: short, Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
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
		a.say("%s (%s) %s.", now.Name, now.Role, state)
		return nil
	}}
}

func (a *App) changePassword(cmd *cobra.Command, _ []string) error {
	me, err := a.client().WhoAmI(cmd.Context())
	if err != nil {
		return err
	}
	in := wire.NewPassword{Old: a.env("KAIKU_PASSWORD", ""), New: a.env("KAIKU_NEW_PASSWORD", "")}
	if in.Old == "" {
		if in.Old, err = a.readPassword(me.Person.Login + " now"); err != nil {
			return err
		}
	}
	if in.New == "" {
		if in.New, err = a.readPassword(me.Person.Login + " from now on"); err != nil {
			return err
		}
	}
	if err := a.client().ChangePassword(cmd.Context(), in); err != nil {
		return err
	}
	a.say("Changed. All log-ins have ended: kaiku login %s", me.Person.Login)
	return nil
}

func (a *App) tokenCommand() *cobra.Command {
	list := &cobra.Command{Use: "list", Short: "List your log-ins and tokens", Args: cobra.NoArgs, RunE: func(cmd *cobra.Command, _ []string) error {
		all, err := a.client().LogIns(cmd.Context())
		if err != nil {
			return err
		}
		rows := [][]string{}
		for _, l := range all {
			kind := map[string]string{"session": "log-in", "token": "token"}[l.Kind]
			if l.Current {
				kind += " (this one)"
			}
			rows = append(rows, []string{l.Name, kind, when(l.Began), when(l.Ends), l.ID[max(0, len(l.ID)-6):]})
		}
		return a.show(all, []string{"Name", "Kind", "Since", "Ends", "Id"}, rows)
	}}
	days := 90
	add := &cobra.Command{Use: "add NAME", Short: "Make a token that ends by itself", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		made, err := a.client().NewToken(cmd.Context(), wire.NewToken{Name: args[0], Days: days})
		if err != nil {
			return err
		}
		if a.format != "table" {
			return a.show(made, []string{"Token", "Ends"}, [][]string{{made.Token, when(made.Ends)}})
		}
		a.say("%s\nIt is shown only now, and ends on %s. Programs give it as KAIKU_TOKEN.", made.Token, when(made.Ends))
		return nil
	}}
	add.Flags().IntVar(&days, "days", days, "after how many days it ends, at most 365")
	revoke := &cobra.Command{Use: "revoke NAME", Short: "End a token or log-in, by its name or the six characters", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
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
		if len(found) != 1 {
			return wrongUse("%s fit %q; kaiku token list shows them with six characters each", wording.Count(len(found), "token"), args[0])
		}
		if err := a.client().EndLogIn(cmd.Context(), found[0].ID); err != nil {
			return err
		}
		a.say("Ended: %s.", found[0].Name)
		return nil
	}}
	return group("token", "Your log-ins and tokens for programs", list.RunE, list, add, revoke)
}
