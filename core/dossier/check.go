package dossier

import (
	"fmt"
	"net/netip"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Fault says why a write is refused. Pointer leads into the record.
type Fault struct {
	Subject Ref
	Pointer string
	Code    FaultCode
	Values  map[string]string
}

// FaultCode names what is wrong with a write.
type FaultCode string

// Codes of faults.
const (
	FaultStillUsed     FaultCode = "still-used"        // values: by (kind), label
	FaultUnknownRecord FaultCode = "unknown-record"    // values: kind, id
	FaultWrongKind     FaultCode = "wrong-kind"        // values: kind, allowed
	FaultNotUnique     FaultCode = "not-unique"        // values: value, kind, within
	FaultRequired      FaultCode = "required"          // no values
	FaultNotListed     FaultCode = "not-in-list"       // values: value, allowed
	FaultRange         FaultCode = "out-of-range"      // values: value, from, to
	FaultSelf          FaultCode = "refers-to-itself"  // no values
	FaultWrongDevice   FaultCode = "other-device"      // the adapter belongs to another device
	FaultWrongSource   FaultCode = "other-source"      // the folder belongs to another source
	FaultProtocol      FaultCode = "other-protocol"    // values: kind, protocol, allowed
	FaultCopyLater     FaultCode = "copy-later"        // the copy of the settings was taken after the change
	FaultNoCopy        FaultCode = "no-copy"           // a reset without a copy of the settings, or what is lost with them
	FaultNoLosses      FaultCode = "no-losses"         // a rebuild that does not say what it loses
	FaultNotAFollowUp  FaultCode = "not-a-follow-up"   // values: value
	FaultHome          FaultCode = "household-missing" // a dossier has exactly one household record
	FaultBadID         FaultCode = "bad-id"            // values: value
)

// Faults is all that is wrong with a write.
type Faults []Fault

func (f Faults) Error() string {
	parts := make([]string, len(f))
	for i, one := range f {
		parts[i] = fmt.Sprintf("%s %s: %s", one.Subject, one.Pointer, one.Code)
	}
	return strings.Join(parts, "; ")
}

// Settle carries the removals between old and next through to the records that refer to what
// was removed, as each reference declares: it clears, removes along, or reports the fault.
func Settle(old, next *Dossier) Faults {
	for i := range next.Paths {
		if p := &next.Paths[i]; len(p.Folders) > 0 {
			p.NoFolders = false
		}
	}
	var faults Faults
	for again := true; again; {
		again = false
		gone := removedRefs(old, next)
		if len(gone) == 0 {
			return nil
		}
		for _, k := range Kinds {
			rows := k.In(next)
			for i := rows.Len() - 1; i >= 0; i-- {
				r := rows.At(i)
				fell, fault := settleRecord(next, k, r, gone)
				again = again || fell
				faults = append(faults, fault...)
			}
		}
		if len(faults) > 0 {
			return faults
		}
	}
	return nil
}

func removedRefs(old, next *Dossier) map[Ref]bool {
	gone := map[Ref]bool{}
	for _, k := range Kinds {
		for _, id := range k.In(next).missing(k.In(old)) {
			gone[Ref{k.Name, id}] = true
		}
	}
	return gone
}

func settleRecord(next *Dossier, k *Kind, r Record, gone map[Ref]bool) (fell bool, faults Faults) {
	rows := k.In(next)
	for _, f := range k.Fields {
		for _, ref := range f.refs(reflect.ValueOf(r)) {
			if !gone[ref] {
				continue
			}
			switch f.OnRemove {
			case Cascade:
				rows.remove(r.Key())
				return true, nil
			case Clear:
				current, _ := rows.Lookup(r.Key())
				p := pointerTo(current)
				f.clear(reflect.ValueOf(p), ref)
				if path, ok := p.(*Path); ok && f.Name == "folders" && len(path.Folders) == 0 {
					path.NoFolders = true // none left must not come to mean all
				}
				rows.PutAny(p)
			default:
				faults = append(faults, Fault{Subject: ref, Code: FaultStillUsed,
					Values: map[string]string{"by": k.Name, "label": k.Label(next, r)}})
			}
		}
	}
	return false, faults
}

// clear takes the reference out of the member.
func (f Field) clear(record reflect.Value, ref Ref) {
	v := f.In(record)
	if !f.List {
		v.SetZero()
		return
	}
	kept := reflect.MakeSlice(v.Type(), 0, v.Len())
	for i := range v.Len() {
		if one := appendRef(nil, f, v.Index(i)); len(one) == 0 || one[0] != ref {
			kept = reflect.Append(kept, v.Index(i))
		}
	}
	v.Set(kept)
}

// checker is a record kind with invariants of its own.
type checker interface{ check(*Dossier, func(Fault)) }

// Check returns what is wrong with next in the records that entries name: required members,
// words outside their list, references to nothing, names used twice, and each kind's own
// invariants. There are few: a technician must be able to record a broken home.
func Check(next *Dossier, entries []Entry) Faults {
	var faults Faults
	given := namesGiven{}
	if len(next.Household) != 1 {
		return Faults{{Code: FaultHome}}
	}
	for _, e := range entries {
		if e.Act == Removed {
			continue
		}
		k := KindNamed(e.Subject.Kind)
		r, _ := k.In(next).Lookup(e.Subject.ID)
		report := func(f Fault) { f.Subject = e.Subject; faults = append(faults, f) }
		if !validID(e.Subject.ID) {
			report(Fault{Pointer: "/id", Code: FaultBadID, Values: map[string]string{"value": e.Subject.ID}})
		}
		for _, f := range k.Fields {
			checkField(next, k, r, f, given, len(entries) > manyNames, report)
		}
		if c, ok := r.(checker); ok {
			c.check(next, report)
		}
	}
	return faults
}

// validID accepts the lower-case text form of a UUIDv7 (RFC 9562, section 5.7).
func validID(s string) bool {
	if len(s) != 36 || s[14] != '7' || !strings.ContainsRune("89ab", rune(s[19])) {
		return false
	}
	for i, c := range s {
		if dash := i == 8 || i == 13 || i == 18 || i == 23; dash != (c == '-') || !dash && !strings.ContainsRune("0123456789abcdef", c) {
			return false
		}
	}
	return true
}

func checkField(d *Dossier, k *Kind, r Record, f Field, given namesGiven, many bool, report func(Fault)) {
	v := f.In(reflect.ValueOf(r))
	pointer := "/" + f.Name
	if f.Required && v.IsZero() && v.Kind() != reflect.Int && v.Kind() != reflect.Float64 && f.Name != "id" {
		report(Fault{Pointer: pointer, Code: FaultRequired})
	}
	for _, ref := range f.refs(reflect.ValueOf(r)) {
		if len(f.Kinds) > 0 && !slices.Contains(f.Kinds, ref.Kind) {
			report(Fault{Pointer: pointer, Code: FaultWrongKind, Values: map[string]string{"kind": ref.Kind, "allowed": strings.Join(f.Kinds, ", ")}})
		}
		if !d.Has(ref) {
			report(Fault{Pointer: pointer, Code: FaultUnknownRecord, Values: map[string]string{"kind": ref.Kind, "id": ref.ID}})
		}
	}
	checkWords(f, v, pointer, report)
	if f.Unique != "" && !v.IsZero() {
		if many && given.to(d, k, r, f) || !many && NameGiven(d, k, r, f) {
			report(Fault{Pointer: pointer, Code: FaultNotUnique, Values: map[string]string{"value": v.String(), "kind": k.Name, "within": f.Unique}})
		}
	}
}

// Unlisted returns a fault for each word in a value of this member that is not on its list.
func (f Field) Unlisted(value any) Faults {
	var out Faults
	checkWords(f, reflect.ValueOf(value), "/"+f.Name, func(one Fault) { out = append(out, one) })
	return out
}

// checkWords holds the words of closed lists against them, in groups too.
func checkWords(f Field, v reflect.Value, pointer string, report func(Fault)) {
	if f.Enum == nil && f.Group == nil {
		return
	}
	if f.List {
		one := f
		one.List = false
		for i := range v.Len() {
			at := pointer
			if f.Group != nil {
				at += "/" + strconv.Itoa(i)
			}
			checkWords(one, v.Index(i), at, report)
		}
		return
	}
	for _, g := range f.Group {
		checkWords(g, g.In(v), pointer+"/"+g.Name, report)
	}
	if w := v.String(); f.Enum != nil && w != "" && !slices.Contains(f.Enum, w) {
		report(Fault{Pointer: pointer, Code: FaultNotListed, Values: map[string]string{"value": w, "allowed": strings.Join(f.Enum, ", ")}})
	}
}

// NameGiven reports whether another record of the kind has this record's name, its member f, under
// the same owner. Names that differ only in case count as the same: people say them aloud.
func NameGiven(d *Dossier, k *Kind, r Record, f Field) bool {
	owner := func(r Record) any {
		if f.Unique == "household" {
			return nil
		}
		of, _ := k.Field(f.Unique)
		return of.Get(r)
	}
	rows := k.In(d)
	for i := range rows.Len() {
		o := rows.At(i)
		if o.Key() != r.Key() && owner(o) == owner(r) &&
			strings.EqualFold(f.In(reflect.ValueOf(o)).String(), f.In(reflect.ValueOf(r)).String()) {
			return true
		}
	}
	return false
}

// manyNames is how many records are checked together before it pays to index their names.
const manyNames = 8

// namesGiven counts the names of kinds, by kind, member, owner and name.
type namesGiven map[nameKey]map[nameOf]int

type nameKey struct{ kind, member string }

type nameOf struct {
	owner any
	name  string
}

// to is NameGiven by an index that is made when it is first needed.
func (g namesGiven) to(d *Dossier, k *Kind, r Record, f Field) bool {
	of := func(r Record) nameOf {
		var owner any
		if f.Unique != "household" {
			field, _ := k.Field(f.Unique)
			owner = field.Get(r)
		}
		return nameOf{owner, folded(f.In(reflect.ValueOf(r)).String())}
	}
	key := nameKey{k.Name, f.Name}
	if g[key] == nil {
		g[key] = map[nameOf]int{}
		rows := k.In(d)
		for i := range rows.Len() {
			g[key][of(rows.At(i))]++
		}
	}
	return g[key][of(r)] > 1
}

// folded is the same for texts that strings.EqualFold takes for the same.
func folded(s string) string {
	return strings.Map(func(r rune) rune {
		least := r
		for o := unicode.SimpleFold(r); o != r; o = unicode.SimpleFold(o) {
			least = min(least, o)
		}
		return least
	}, s)
}

func (s Segment) check(_ *Dossier, report func(Fault))    { checkPool(s.PoolFirst, s.PoolLast, report) }
func (o DHCPServer) check(_ *Dossier, report func(Fault)) { checkPool(o.PoolFirst, o.PoolLast, report) }

func checkPool(first, last netip.Addr, report func(Fault)) {
	if first.IsValid() != last.IsValid() {
		report(Fault{Pointer: "/poolLast", Code: FaultRequired})
	}
	if first.IsValid() && last.IsValid() && last.Less(first) {
		report(Fault{Pointer: "/poolLast", Code: FaultRange, Values: map[string]string{
			"value": last.String(), "from": first.String(), "to": "the end of the segment"}})
	}
}

func (r Restriction) check(_ *Dossier, report func(Fault)) {
	if (r.From == "") != (r.Until == "") {
		report(Fault{Pointer: "/until", Code: FaultRequired})
	}
}

func (o Opening) check(_ *Dossier, report func(Fault)) {
	if o.LastPort != 0 && o.LastPort < o.Port {
		report(Fault{Pointer: "/lastPort", Code: FaultRange, Values: map[string]string{
			"value": strconv.Itoa(o.LastPort), "from": strconv.Itoa(o.Port), "to": "65535"}})
	}
}

func (e RegisterEntry) check(d *Dossier, report func(Fault)) {
	if (e.From == "") != (e.Until == "") {
		report(Fault{Pointer: "/until", Code: FaultRequired})
	}
	if e.Device == e.Server {
		report(Fault{Pointer: "/server", Code: FaultSelf})
	}
	for _, o := range d.RegisterEntries {
		if o.ID != e.ID && o.Device == e.Device && o.Server == e.Server {
			report(Fault{Pointer: "/device", Code: FaultNotUnique, Values: map[string]string{"value": d.Label(e.Device.Ref()), "kind": "register-entry", "within": "server"}})
		}
	}
}

func (s Setting) check(d *Dossier, report func(Fault)) {
	for _, o := range d.Settings {
		if o.ID != s.ID && o.Subject == s.Subject && strings.EqualFold(o.Name, s.Name) {
			report(Fault{Pointer: "/name", Code: FaultNotUnique, Values: map[string]string{"value": s.Name, "kind": "setting", "within": "subject"}})
		}
	}
}

func (l Link) check(_ *Dossier, report func(Fault)) {
	if l.Near == l.Far {
		report(Fault{Pointer: "/far", Code: FaultSelf})
	}
}

func (c Change) check(d *Dossier, report func(Fault)) {
	for _, one := range c.Done {
		if !slices.Contains(c.FollowUps, one) {
			report(Fault{Pointer: "/done", Code: FaultNotAFollowUp, Values: map[string]string{"value": string(one)}})
		}
	}
	switch s, ok := d.SettingsCopies.Get(c.SettingsCopy); {
	case ok && s.Device != c.Device:
		report(Fault{Pointer: "/settingsCopy", Code: FaultWrongDevice})
	case ok && !c.At.IsZero() && s.TakenAt.After(c.At):
		report(Fault{Pointer: "/settingsCopy", Code: FaultCopyLater})
	case !ok && c.Effect == EffectReset && c.Losses == "":
		report(Fault{Pointer: "/settingsCopy", Code: FaultNoCopy})
	}
	if slices.Contains(c.FollowUps, FollowUpRebuild) && c.Losses == "" {
		report(Fault{Pointer: "/losses", Code: FaultNoLosses})
	}
}

func (s Source) check(d *Dossier, report func(Fault)) {
	if i, ok := d.Interfaces.Get(s.Interface); ok && i.Device != s.Device {
		report(Fault{Pointer: "/interface", Code: FaultWrongDevice})
	}
	for _, p := range d.Paths {
		if p.Source == s.ID && !p.Retired {
			p.held(s, "/protocol", report)
		}
	}
}

// held reports a source that does not speak what the path needs.
func (p Path) held(s Source, pointer string, report func(Fault)) {
	if any := p.Kind.Speaks(); any != nil && !slices.Contains(any, s.Protocol) {
		report(Fault{Pointer: pointer, Code: FaultProtocol, Values: map[string]string{"kind": string(p.Kind), "protocol": string(s.Protocol), "allowed": strings.Join(words(any...), ", ")}})
	}
}

func (p Path) check(d *Dossier, report func(Fault)) {
	for _, id := range p.Folders {
		if f, ok := d.Folders.Get(id); ok && f.Source != p.Source {
			report(Fault{Pointer: "/folders", Code: FaultWrongSource})
		}
	}
	if s, ok := d.Sources.Get(p.Source); ok && !p.Retired {
		p.held(s, "/kind", report)
	}
	if p.FallBack == p.ID {
		report(Fault{Pointer: "/fallBack", Code: FaultSelf})
	}
}
