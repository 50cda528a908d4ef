package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
)

// secretCommands store, show and change credentials. A credential is asked for or comes from a file
// or standard input: on the command line it would stay in the shell's history.
func (a *App) secretCommands() []*cobra.Command {
	return []*cobra.Command{a.secretAdd(), a.secretReveal(), a.secretRotate()}
}

var secretKind = dossier.KindNamed("secret")

func (a *App) secretAdd() *cobra.Command {
	var in wire.NewSecret
	var kind, device, file string
	c := &cobra.Command{Use: "add", Short: "Store a secret; it is asked for", Example: "  kaiku secret add --name \"share password\"\n  kaiku secret add --name \"door code\" --kind door-code --secret-file -"}
	nameFlag(c, &in.Name)
	wordFlag(c.Flags(), &kind, "kind", "password", dossier.SecretKind("").Values(), "what it is")
	a.deviceFlag(c, &device)
	noteFlag(c, &in.Note)
	passwordFileFlag(c, &file, "secret-file")
	completeWords(c)
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		if device != "" {
			r, err := find(d, dossier.KindNamed("device"), []string{device}, writing)
			if err != nil {
				return err
			}
			in.Device = dossier.ID[dossier.Device](r.Key())
		}
		in.Kind = dossier.SecretKind(kind)
		if in.Body, err = a.secret(file, "Secret: ", "--secret-file"); err != nil {
			return err
		}
		made, err := a.client().AddSecret(cmd.Context(), a.household, in)
		if err != nil {
			return err
		}
		return a.done(made, "Stored %s (%s).", made.Name, shortID(string(made.ID)))
	}
	required(c, "name")
	return c
}

func (a *App) secretReveal() *cobra.Command {
	var why string
	c := &cobra.Command{Use: "reveal NAME", Short: "Show a secret; the reason stays in the journal", ValidArgsFunction: a.completeRecords(secretKind), Example: "  kaiku secret reveal \"share password\" --why \"setting up the kitchen screen\"",
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), secretKind, args, writing)
			if err != nil {
				return err
			}
			shown, err := a.client().RevealSecret(cmd.Context(), a.household, dossier.ID[dossier.Secret](r.Key()), why)
			if err != nil {
				return err
			}
			return a.done(shown, "%s", shown.Body)
		}}
	whyFlag(c, &why)
	required(c, "why")
	return c
}

func (a *App) secretRotate() *cobra.Command {
	var body wire.SecretBody
	var file string
	c := &cobra.Command{Use: "rotate NAME", Short: "Replace a secret by a new one", ValidArgsFunction: a.completeRecords(secretKind), Example: "  kaiku secret rotate \"share password\" --why \"yearly change\"",
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), secretKind, args, writing)
			if err != nil {
				return err
			}
			if body.Body, err = a.secret(file, "New secret: ", "--secret-file"); err != nil {
				return err
			}
			if err := a.confirm("The old secret is overwritten and cannot be brought back.", "Replace it?"); err != nil {
				return err
			}
			now, err := a.client().RotateSecret(cmd.Context(), a.household, dossier.ID[dossier.Secret](r.Key()), body)
			if err != nil {
				return err
			}
			return a.done(now, "Replaced %s.", now.Name)
		}}
	whyFlag(c, &body.Why)
	passwordFileFlag(c, &file, "secret-file")
	a.yesFlag(c)
	return c
}

// attachmentCommands add files to records and write them out again.
func (a *App) attachmentCommands() []*cobra.Command {
	k := dossier.KindNamed("attachment")
	var subject, caption, out string
	add := &cobra.Command{Use: "add FILE", Short: "Attach a photograph or a text file to a record", Example: "  kaiku attachment add back.jpg --about device/\"granite server\" --caption \"Back of the server\"", RunE: func(cmd *cobra.Command, args []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		ref, err := findRef(d, subject, writing)
		if err != nil {
			return err
		}
		body, err := os.ReadFile(args[0])
		if err != nil {
			return fmt.Errorf("read the file: %w", err)
		}
		made, err := a.client().AddAttachment(cmd.Context(), a.household, wire.NewAttachment{Subject: ref, Caption: caption, FileName: filepath.Base(args[0])}, body)
		if err != nil {
			return err
		}
		return a.done(made, "Attached %q to %s (%s, %d kB).", made.Caption, d.FullLabel(ref), shortID(string(made.ID)), (made.Bytes+999)/1000)
	}}
	aboutFlag(add, &subject)
	add.Flags().StringVar(&caption, "caption", "", "what it shows")
	required(add, "about", "caption")
	save := &cobra.Command{Use: "save CAPTION", Short: "Write an attachment to a file", ValidArgsFunction: a.completeRecords(k), Example: "  kaiku attachment save \"Back of the server\" --output back.jpg",
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), k, args, reading)
			if err != nil {
				return err
			}
			body, err := a.client().AttachmentBody(cmd.Context(), a.household, dossier.ID[dossier.Attachment](r.Key()), false)
			if err != nil {
				return err
			}
			f, err := os.OpenFile(out, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
			if err != nil {
				return fmt.Errorf("write the file: %w", err)
			}
			_, err = f.Write(body)
			if cerr := f.Close(); err == nil {
				err = cerr
			}
			if err == nil {
				a.note("Saved as %s.", out)
			}
			return err
		}}
	save.Flags().StringVar(&out, "output", "", "file to write; it must not exist yet")
	required(save, "output")
	return []*cobra.Command{add, save}
}

// aboutFlag adds the flag that names the record that something is about.
func aboutFlag(c *cobra.Command, about *string) {
	c.Flags().StringVar(about, "about", "", "the record it is about, as kind/name")
}
