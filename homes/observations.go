package homes

import "kaiku/core/dossier"

// Observations are what machines saw of each test of a home with each fault of the practice house: core/suspects/testdata/seen.json.
type Observations struct {
	Home   *dossier.Dossier
	Faults map[string][]SeenOfTest
}

// SeenOfTest is what a machine saw of one test.
type SeenOfTest struct {
	Test     string
	Outcome  dossier.Outcome
	Observed dossier.Observed
}
