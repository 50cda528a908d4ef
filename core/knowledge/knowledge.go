// Package knowledge holds what Kaiku knows beside a home's record: the firm's tables, and what scans
// last saw of the home. It is a value with a revision; what is computed with it can be kept until
// the revision is another.
package knowledge

import (
	"time"

	"kaiku/core/dossier"
)

// Knowledge is what is known beside the record of a home.
type Knowledge struct {
	Revision uint64
	Seen     []Seen   // of this home
	Recipes  []Recipe // of the firm
}

// Seen is a member of a record of which the latest scan saw another value than the recorded one.
type Seen struct {
	Subject  dossier.Ref
	Member   string
	Recorded string
	Seen     string
	At       time.Time
}
