package dossier

import (
	"maps"
	"slices"
)

// Value is one value that a finding rests on: names and addresses as they are recorded, codes of a
// list of the record, a quantity, or phrases that say what was worked out. Exactly one of these is set.
type Value struct {
	Names   []string `json:"names,omitzero" doc:"Names, addresses and numbers of records, as recorded."`
	Codes   []string `json:"codes,omitzero" doc:"Words of a closed list of the record, such as films or blocked."`
	Number  float64  `json:"number,omitzero" doc:"The quantity, in its unit."`
	Unit    Unit     `json:"unit,omitzero" enum:"1,Mb/s,dBm,%,W,s" doc:"Unit of the number; 1 for a count."`
	Known   Known    `json:"known,omitzero" enum:"measured,read,declared,data-sheet,estimated,assumed" doc:"How the quantity is known; empty if the record does not say."`
	Phrases []Phrase `json:"phrases,omitzero" doc:"What was worked out."`
}

// Phrase is a part of a sentence: a code, and the names that its words speak of.
type Phrase struct {
	Code string            `json:"code" doc:"What is said."`
	Of   map[string]string `json:"of,omitzero" doc:"Names that it speaks of."`
}

// Unit is the unit of a quantity.
type Unit string

// Units. Mb/s are 10^6 bit/s.
const (
	UnitCount   Unit = "1"
	UnitMbps    Unit = "Mb/s"
	UnitDbm     Unit = "dBm"
	UnitPercent Unit = "%"
	UnitWatt    Unit = "W"
	UnitSecond  Unit = "s"
	UnitMpx     Unit = "Mpx/s" // pixels decoded and encoded, in millions
)

// Values lists the units.
func (Unit) Values() []string {
	return words(UnitCount, UnitMbps, UnitDbm, UnitPercent, UnitWatt, UnitSecond, UnitMpx)
}

// Named is a value of names as they are recorded.
func Named(names ...string) Value { return Value{Names: names} }

// Coded is a value of words of a closed list.
func Coded[T ~string](list ...T) Value { return Value{Codes: words(list...)} }

// Counted is a count of records.
func Counted(n int) Value { return Value{Number: float64(n), Unit: UnitCount} }

// Amount is a quantity. Known is empty if the record does not say how it is known.
func Amount(n float64, unit Unit, known Known) Value {
	return Value{Number: n, Unit: unit, Known: known}
}

// Said is a value of one phrase about names, given as slot and name in turn.
func Said(code string, of ...string) Value {
	p := Phrase{Code: code}
	for i := 0; i+1 < len(of); i += 2 {
		if p.Of == nil {
			p.Of = map[string]string{}
		}
		p.Of[of[i]] = of[i+1]
	}
	return Value{Phrases: []Phrase{p}}
}

// And returns the value with the names, codes and phrases of another after its own.
func (v Value) And(o Value) Value {
	v.Names, v.Codes, v.Phrases = append(v.Names, o.Names...), append(v.Codes, o.Codes...), append(v.Phrases, o.Phrases...)
	return v
}

// Once returns the value with each phrase only where it first stands.
func (v Value) Once() Value {
	var once []Phrase
	for _, p := range v.Phrases {
		if !slices.ContainsFunc(once, func(o Phrase) bool { return o.Code == p.Code && maps.Equal(o.Of, p.Of) }) {
			once = append(once, p)
		}
	}
	v.Phrases = once
	return v
}
