package proving

import (
	"time"

	"kaiku/core/dossier"
)

// Result is what a machine saw when it carried out a test. Observed is the code of what was
// seen, Values are measured (the name carries the unit), Said are particulars for the sentence.
type Result struct {
	Test     string
	Outcome  dossier.Outcome
	Observed dossier.Observed
	Values   map[string]float64
	Said     map[string]string
	At       time.Time
}
