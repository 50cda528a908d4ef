package cli

import (
	"fmt"

	"github.com/spf13/cobra"
)

// statusHistory shows how the proof came about, a line for each day and a column for each room.
func (a *App) statusHistory() *cobra.Command {
	return &cobra.Command{Use: "history", Short: "How the proof came about, room by room and day by day", Args: cobra.NoArgs, Example: "  kaiku status history",
		Long: "Shows for each day on which something was written how many of the required tests of each room were proven that evening, and how many were required. No more than 60 days are shown, thinned out evenly.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			code, err := a.code()
			if err != nil {
				return err
			}
			h, err := a.client().Coverage(cmd.Context(), code)
			if err != nil {
				return err
			}
			heads := []string{"Day"}
			for _, r := range h.Rooms {
				heads = append(heads, r.Label)
			}
			rows := [][]string{}
			for _, d := range h.Days {
				row := make([]string, len(heads))
				row[0] = d.At.Local().Format("2 Jan 2006")
				for _, r := range d.Rooms {
					row[r.Room+1] = fmt.Sprintf("%d of %d", r.Coverage.Proven, r.Coverage.Required)
				}
				rows = append(rows, row)
			}
			return a.show(h, heads, rows)
		}}
}
