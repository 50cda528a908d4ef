// Command kaiku is the service, its command line and its practice house in one program.
package main

import (
	"context"
	"os"

	"github.com/spf13/cobra"

	"kaiku/cli"
)

// version is set by the build.
var version = "development"

func main() { os.Exit(run(context.Background(), os.Args[1:])) }

func run(ctx context.Context, args []string) int {
	a := newApp()
	a.In, a.Out, a.Err, a.Getenv = os.Stdin, os.Stdout, os.Stderr, os.Getenv
	a.Extra = ownCommands(a)
	return a.Run(ctx, args...)
}

// ownCommands are those that need more than client, probes and practice house.
func ownCommands(a *cli.App) []*cobra.Command {
	return []*cobra.Command{serveCommand(a), demoCommand(a), storyCommand(a), backupCommand(a), restoreCommand(a), checkCommand(a), rescueCommand(a)}
}

func newApp() *cli.App { return &cli.App{Version: version} }
