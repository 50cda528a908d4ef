package cli

import (
	"time"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/core/proving"
	"kaiku/wire"
	"kaiku/wording"
)

// attemptTimeCode records a test by what was read off a sample clip: Kaiku computes the result.
func (a *App) attemptTimeCode() *cobra.Command {
	var from, seen string
	var after time.Duration
	var rate, frames float64
	in := wire.NewAttempt{How: dossier.ByEye}
	c := &cobra.Command{Use: "time-code KIND ABOUT", Short: "Record a test by the time codes seen on a sample clip", Args: cobra.ExactArgs(2), ValidArgsFunction: a.completeTests,
		Example: "  kaiku attempt time-code seeks \"kitchen films\" --asked 0:00:30:00 --seen 0:00:33:05 --after 3s\n  kaiku attempt time-code plays \"kitchen films\" --asked 0:00:02:00 --seen 0:00:58:12 --after 57s\n  kaiku attempt time-code lip-sync \"kitchen films\" --frames 9 --rate 240",
		Long:    "Computes the result from what was read off the screen, and records it with the value.\n\n  seeks      --asked is where you jumped to, --seen what the screen showed, --after how long after the jump\n  resumes    --asked is where it was stopped, --seen where it went on\n  plays      --asked and --seen are two readings, --after is the time between them by a clock; what is missing it stood still\n  lip-sync   --frames is how many frames after the flash the beep came in a film taken by a phone, --rate how many it takes in a second; negative if the beep came first",
		RunE: func(cmd *cobra.Command, args []string) error {
			t, err := a.testNamed(cmd.Context(), args[0], args[1], writing)
			if err != nil {
				return err
			}
			if t.Reading == proving.ReadsNothing {
				return wrongUse("time codes show nothing of %q; use kaiku attempt add", t.Kind)
			}
			in.Test, in.Reading = t.ID, &wire.ClipReading{Asked: from, Seen: seen, AfterS: after.Seconds(), Rate: rate}
			if cmd.Flags().Changed("frames") {
				in.Reading.Frames = &frames
			}
			made, err := a.client().RecordAttempt(cmd.Context(), a.household, in)
			if err != nil {
				return err
			}
			a.attention = made.Attempt.Outcome == dossier.Fail
			measured := ""
			for name, value := range made.Attempt.Values {
				measured = wording.Measured(name, value) + ". "
			}
			return a.done(made, "%sRecorded as %s; the status of %s of %s is now %s.", measured, made.Attempt.Outcome, t.Kind, t.About.Label, wording.Plain(string(made.Test.Status)))
		}}
	c.Flags().StringVar(&from, "asked", "", "the time code that it is compared with: where you jumped to, stopped or began")
	c.Flags().StringVar(&seen, "seen", "", "the time code that was seen")
	c.Flags().DurationVar(&after, "after", 0, "how much time passed in between, such as 57s")
	c.Flags().Float64Var(&rate, "rate", 0, "frames in a second: of the clip (default: that of --sample, or 25), or of the film that a phone took")
	c.Flags().Float64Var(&frames, "frames", 0, "frames between the flash and the beep")
	sampleFlag(c, &in.Sample)
	return c
}
