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
	a.Extra = []*cobra.Command{serveCommand(a), demoCommand(a), storyCommand(a)}
	return a.Run(ctx, args...)
}

func newApp() *cli.App { return &cli.App{Version: version} }
