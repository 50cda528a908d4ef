package cli

import (
	"strings"

	"github.com/spf13/cobra"

	"kaiku/core/network"
	"kaiku/wording"
)

// pathWaking lists which machines have to be awake for the paths to work, and what has to wake them.
func (a *App) pathWaking() *cobra.Command {
	c := &cobra.Command{Use: "waking", Short: "Show which machines have to be awake for the paths to work, and whether they can be woken", Args: cobra.NoArgs,
		Long:    "A server that sleeps has to be woken by the device that plays from it, and a machine that has its files by the server. What cannot be woken comes first.",
		Example: "  kaiku path waking\n  kaiku path waking --check",
		RunE: func(cmd *cobra.Command, _ []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			list, err := a.client().Wakings(cmd.Context(), code)
			if err != nil {
				return err
			}
			rows := [][]string{}
			for _, w := range list {
				a.found(w.State == network.WakeCannot)
				by := ""
				if w.By != nil {
					by = w.By.Label
				}
				var paths []string
				for _, p := range w.Paths {
					paths = append(paths, p.Label)
				}
				rows = append(rows, []string{w.Sleeper.Label, by, wording.WakeStates[w.State], w.Said, strings.Join(paths, ", ")})
			}
			return a.show(list, []string{"Has to be awake", "Woken by", "Works", "Why", "For"}, rows)
		}}
	a.checkFlag(c, "a machine that sleeps cannot be woken by who needs it")
	return c
}
