package knowledge

import (
	"fmt"
	"strings"

	"kaiku/core/dossier"
)

// Recipe is the firm's own list of steps for one program or one model of device: what to set, in which
// order, and why.
type Recipe struct {
	Name     string `json:"name" yaml:"name" minLength:"1" maxLength:"120" doc:"Name of the recipe."`
	Software string `json:"software,omitzero" yaml:"software,omitempty" maxLength:"120" doc:"Name of the program that it is for."`
	Make     string `json:"make,omitzero" yaml:"make,omitempty" maxLength:"80" doc:"Make of the device that it is for."`
	Model    string `json:"model,omitzero" yaml:"model,omitempty" maxLength:"80" doc:"Model of the device that it is for."`
	Note     string `json:"note,omitzero" yaml:"note,omitempty" maxLength:"2000" doc:"What to know before starting."`
	Steps    []Step `json:"steps" yaml:"steps" maxItems:"100" doc:"The steps, in the order of work."`
}

// Step is one step of a recipe: a setting and the value that it must have.
type Step struct {
	Menu    string `json:"menu,omitzero" yaml:"menu,omitempty" maxLength:"200" doc:"Where in the menus the setting is found."`
	Setting string `json:"setting" yaml:"setting" minLength:"1" maxLength:"120" doc:"Name of the setting, as the menu shows it."`
	Value   string `json:"value" yaml:"value" minLength:"1" maxLength:"200" doc:"The value that it must have."`
	Why     string `json:"why,omitzero" yaml:"why,omitempty" maxLength:"400" doc:"Why it must have that value."`
	For     string `json:"for,omitzero" yaml:"for,omitempty" maxLength:"60" doc:"Code of the prerequisite that the step helps to meet, such as folders-added."`
}

// Check returns what is wrong with a recipe. Needs are the codes of prerequisites that a step can name.
func (r Recipe) Check(needs []string) dossier.Faults {
	var out dossier.Faults
	fault := func(pointer string, code dossier.FaultCode, values ...string) {
		f := dossier.Fault{Pointer: pointer, Code: code, Values: map[string]string{}}
		for i := 0; i+1 < len(values); i += 2 {
			f.Values[values[i]] = values[i+1]
		}
		out = append(out, f)
	}
	if strings.TrimSpace(r.Name) == "" {
		fault("/name", dossier.FaultRequired)
	}
	if r.Software == "" && r.Model == "" {
		fault("/software", dossier.FaultRequired)
	}
	if len(r.Steps) == 0 {
		fault("/steps", dossier.FaultRequired)
	}
	seen := map[string]bool{}
	for n, s := range r.Steps {
		at := fmt.Sprintf("/steps/%d/", n)
		if strings.TrimSpace(s.Setting) == "" {
			fault(at+"setting", dossier.FaultRequired)
		}
		if strings.TrimSpace(s.Value) == "" {
			fault(at+"value", dossier.FaultRequired)
		}
		if key := strings.ToLower(s.Setting); seen[key] {
			fault(at+"setting", dossier.FaultNotUnique, "value", s.Setting, "kind", "step")
		} else {
			seen[key] = true
		}
		known := s.For == ""
		for _, need := range needs {
			known = known || need == s.For
		}
		if !known {
			fault(at+"for", dossier.FaultNotListed, "value", s.For, "allowed", strings.Join(needs, ", "))
		}
	}
	return out
}

// Fits lists the records of a home that a recipe is for: programs of its name, and devices of its model
// and, where it says one, of its make.
func (r Recipe) Fits(d *dossier.Dossier) []dossier.Ref {
	var out []dossier.Ref
	same := func(a, b string) bool { return strings.EqualFold(strings.TrimSpace(a), strings.TrimSpace(b)) }
	for _, s := range d.Software {
		if r.Software != "" && same(s.Name, r.Software) {
			out = append(out, s.ID.Ref())
		}
	}
	for _, v := range d.Devices {
		if r.Model != "" && same(v.Model, r.Model) && (r.Make == "" || same(v.Make, r.Make)) {
			out = append(out, v.ID.Ref())
		}
	}
	return out
}
