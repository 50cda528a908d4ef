package main

import (
	"context"
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"kaiku/cli"
	"kaiku/service"
	"kaiku/store"
	"kaiku/wire"
)

func rescueCommand(a *cli.App) *cobra.Command {
	var data string
	c := &cobra.Command{Use: "rescue LOGIN", Short: "Make a coordinator who can log in, on the machine itself", Example: "  kaiku rescue ilona --data /var/lib/kaiku", Args: cobra.ExactArgs(1),
		Long: "For when no coordinator can log in any more. The person with that log-in name becomes a coordinator, or a new one is added. The new password is shown once; a suspension, a second factor and all log-ins of that person end. Kaiku must not be running on the data folder.",
		RunE: func(cmd *cobra.Command, args []string) error {
			made, err := rescue(cmd.Context(), data, args[0])
			if err != nil {
				return err
			}
			fmt.Fprintf(a.Out, "%s is a coordinator. Log in as %s with the password %s; it is shown only once.\n", made.Person.Name, made.Person.Login, made.Password)
			return nil
		}}
	dataFlag(a, c, &data)
	return c
}

func rescue(ctx context.Context, data, login string) (made wire.PersonMade, err error) {
	if err := store.There(data); err != nil {
		return made, troubleSaid(err, map[string]string{"dir": data})
	}
	st, err := store.Open(ctx, data, store.Options{})
	if err != nil {
		return made, troubleSaid(err, map[string]string{"dir": data})
	}
	defer func() { err = errors.Join(err, st.Close()) }()
	return service.New(st, service.Options{}).Rescue(ctx, login)
}
