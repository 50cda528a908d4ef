package papers

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/emersion/go-vcard"

	"kaiku/core/dossier"
	"kaiku/wording"
)

// WriteVCard writes contacts as vCard 4.0 (RFC 6350), one card each.
func WriteVCard(contacts []dossier.Contact) ([]byte, error) {
	var out bytes.Buffer
	e := vcard.NewEncoder(&out)
	for _, c := range contacts {
		card := vcard.Card{}
		card.SetValue(vcard.FieldVersion, "4.0")
		card.SetValue(vcard.FieldFormattedName, wording.Safe(c.Name))
		for field, value := range map[string]string{vcard.FieldTelephone: c.Phone, vcard.FieldEmail: c.Email, vcard.FieldNote: c.Note} {
			if value != "" {
				card.SetValue(field, wording.Safe(value))
			}
		}
		if err := e.Encode(card); err != nil {
			return nil, fmt.Errorf("write vCard of %s: %w", c.Name, err)
		}
	}
	return out.Bytes(), nil
}

// ReadVCard reads the contacts of a vCard file of version 2.1 to 4.0. Of several numbers or
// addresses the preferred one counts. Cards without a name are left out.
func ReadVCard(text string) ([]dossier.Contact, error) {
	decoder := vcard.NewDecoder(strings.NewReader(text))
	var out []dossier.Contact
	for {
		card, err := decoder.Decode()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("read vCard: %w", err)
		}
		if len(out) == MaxLines {
			return nil, fmt.Errorf("it has more than %d cards", MaxLines)
		}
		name := card.PreferredValue(vcard.FieldFormattedName)
		if n := card.Name(); name == "" && n != nil {
			name = strings.TrimSpace(n.GivenName + " " + n.FamilyName)
		}
		if name == "" {
			continue
		}
		out = append(out, dossier.Contact{Name: name, Phone: strings.TrimPrefix(card.PreferredValue(vcard.FieldTelephone), "tel:"),
			Email: card.PreferredValue(vcard.FieldEmail), Note: card.PreferredValue(vcard.FieldNote)})
	}
}
