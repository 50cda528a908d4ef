package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"kaiku/core/dossier"
	"kaiku/wire"
)

// secretCommands keep, show and change credentials. A credential is read from standard input or
// asked for: on the command line it would stay in the shell's history.
func (a *App) secretCommands() []*cobra.Command {
	k := dossier.KindNamed("secret")
	var in wire.NewSecret
	var kind, device string
	add := &cobra.Command{Use: "add", Short: "Keep a secret; it is asked for, or read from standard input", Args: cobra.NoArgs}
	add.Flags().StringVar(&in.Name, "name", "", "what it opens")
	add.Flags().StringVar(&kind, "kind", "password", "password, door-code, pairing-code, key or licence-key")
	add.Flags().StringVar(&device, "device", "", "the device it belongs to")
	add.Flags().StringVar(&in.Note, "note", "", "where it is used; never the secret itself")
	add.RunE = func(cmd *cobra.Command, _ []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		if in.Name == "" {
			return wrongUse("say what it opens with --name")
		}
		if device != "" {
			r, err := find(d, dossier.KindNamed("device"), []string{device})
			if err != nil {
				return err
			}
			in.Device = dossier.ID[dossier.Device](r.Key())
		}
		in.Kind = dossier.SecretKind(kind)
		if in.Body, err = a.secretText("Secret: "); err != nil {
			return err
		}
		made, err := a.client().AddSecret(cmd.Context(), a.household, in)
		if err == nil {
			a.say("Kept %s (%s).", made.Name, made.ID[len(made.ID)-6:])
		}
		return err
	}
	var why string
	reveal := &cobra.Command{Use: "reveal NAME", Short: "Show a secret, with a reason that stays in the journal", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeRecords(k),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), k, args)
			if err != nil {
				return err
			}
			if why == "" {
				return wrongUse("say why with --why; it stays in the journal")
			}
			shown, err := a.client().RevealSecret(cmd.Context(), a.household, dossier.ID[dossier.Secret](r.Key()), why)
			if err == nil {
				a.say("%s", shown.Body)
			}
			return err
		}}
	reveal.Flags().StringVar(&why, "why", "", "the reason")
	var body wire.SecretBody
	rotate := &cobra.Command{Use: "rotate NAME", Short: "Put another credential in place of the old one", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeRecords(k),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), k, args)
			if err != nil {
				return err
			}
			if body.Body, err = a.secretText("New secret: "); err != nil {
				return err
			}
			now, err := a.client().RotateSecret(cmd.Context(), a.household, dossier.ID[dossier.Secret](r.Key()), body)
			if err == nil {
				a.say("%s is changed.", now.Name)
			}
			return err
		}}
	rotate.Flags().StringVar(&body.Why, "why", "", "why it was changed")
	return []*cobra.Command{add, reveal, rotate}
}

// attachmentCommands add files to records and write them out again.
func (a *App) attachmentCommands() []*cobra.Command {
	k := dossier.KindNamed("attachment")
	var subject, caption, out string
	add := &cobra.Command{Use: "add FILE", Short: "Keep a photograph or a text file with a record", Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
		d, err := a.home(cmd.Context())
		if err != nil {
			return err
		}
		if subject == "" || caption == "" {
			return wrongUse("say what it belongs to with --about kind/name, and what is to be seen with --caption")
		}
		ref, err := findRef(d, subject)
		if err != nil {
			return err
		}
		body, err := os.ReadFile(args[0])
		if err != nil {
			return fmt.Errorf("read the file: %w", err)
		}
		made, err := a.client().AddAttachment(cmd.Context(), a.household, wire.NewAttachment{Subject: ref, Caption: caption, FileName: filepath.Base(args[0])}, body)
		if err == nil {
			a.say("Kept %s with %s (%s, %d kB).", made.Caption, d.FullLabel(ref), made.ID[len(made.ID)-6:], (made.Bytes+999)/1000)
		}
		return err
	}}
	add.Flags().StringVar(&subject, "about", "", "the record it belongs to, as kind/name")
	add.Flags().StringVar(&caption, "caption", "", "what is to be seen")
	save := &cobra.Command{Use: "save CAPTION", Short: "Write an attachment to a file", Args: cobra.ExactArgs(1), ValidArgsFunction: a.completeRecords(k),
		RunE: func(cmd *cobra.Command, args []string) error {
			_, r, err := a.recordNamed(cmd.Context(), k, args)
			if err != nil {
				return err
			}
			if out == "" {
				return wrongUse("say the file to write with --to")
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
				a.say("Written to %s.", out)
			}
			return err
		}}
	save.Flags().StringVar(&out, "to", "", "file to write; it must not be there yet")
	return []*cobra.Command{add, save}
}
