package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/matching"
	"kaiku/core/proving"
)

// BrowseSource asks to look into a source as devices would.
type BrowseSource struct {
	As      []dossier.ID[dossier.Device] `json:"as,omitzero" maxItems:"8" doc:"The devices; none for an unknown device."`
	Against dossier.ID[dossier.Source]   `json:"against,omitzero" doc:"Another source, to compare the titles with."`
}

// SourceBrowse is what a source shows, by device side by side.
type SourceBrowse struct {
	Source  Named        `json:"source" doc:"The source."`
	Views   []SourceView `json:"views" doc:"What each device is shown, in the order asked."`
	Folders []FolderSide `json:"folders" doc:"The folders of all views, with the count in each."`
	Against *SourceView  `json:"against,omitzero" doc:"The other source."`
	// MissingHere are titles of the other source, MissingThere titles of this one.
	MissingHere  []MissingTitle `json:"missingHere" doc:"Titles of the other source that this one does not show."`
	MissingThere []MissingTitle `json:"missingThere" doc:"Titles of this source that the other one does not show."`
}

// SourceView is what one device is shown.
type SourceView struct {
	Source   Named          `json:"source" doc:"The source that was browsed."`
	As       Named          `json:"as,omitzero" doc:"The device; nothing for an unknown device."`
	Agent    string         `json:"agent,omitzero" doc:"What was announced about the asking device."`
	Name     string         `json:"name,omitzero" doc:"The name that the source shows."`
	Ended    matching.Ended `json:"ended" enum:"answered,empty,refused,denied,silent,broken,stopped,not-asked" doc:"How it ended."`
	Sentence string         `json:"sentence" doc:"The same in words."`
	Remark   string         `json:"remark,omitzero" doc:"How the source seems to treat the device, compared with an unknown one."`
	Folders  []SeenFolder   `json:"folders" doc:"The folders at its top."`
}

// SeenFolder is one folder as it is shown.
type SeenFolder struct {
	Name    string              `json:"name" doc:"Its title."`
	Content dossier.ContentKind `json:"content,omitzero" doc:"What it contains, judged by most of its items."`
	Items   int                 `json:"items" doc:"How many items are in it and below it."`
	Whole   bool                `json:"whole" doc:"The count is complete."`
	Titles  []string            `json:"titles" doc:"The titles, the first 5,000."`
}

// FolderSide is one folder in several views.
type FolderSide struct {
	Folder string `json:"folder" doc:"Its title."`
	Items  []int  `json:"items" doc:"How many items each view shows; -1 where it is not shown."`
	Differ bool   `json:"differ,omitzero" doc:"The views differ."`
}

// MissingTitle is a title that one source shows and another does not.
type MissingTitle struct {
	Folder string `json:"folder" doc:"The folder it is in."`
	Title  string `json:"title" doc:"The title."`
}

// Sayings are the words of a look into a source.
type Sayings struct {
	Asked      func(matching.Question) string
	Recognised func(matching.Recognition) string
}

// Views makes the views that a scan asks for: of each device, of an unknown device, and of the
// other source.
func (in BrowseSource) Views(source dossier.ID[dossier.Source], view func(dossier.ID[dossier.Source], dossier.ID[dossier.Device]) (matching.View, error)) (views []matching.View, unknown, against *matching.View, err error) {
	one, err := view(source, "")
	if err != nil {
		return nil, nil, nil, err
	}
	unknown = &one
	for _, as := range in.As {
		v, err := view(source, as)
		if err != nil {
			return nil, nil, nil, err
		}
		views = append(views, v)
	}
	if len(in.As) == 0 {
		views, unknown = []matching.View{one}, nil
	}
	if in.Against != "" {
		other, err := view(in.Against, "")
		if err != nil {
			return nil, nil, nil, err
		}
		against = &other
	}
	return views, unknown, against, nil
}

// SourceBrowseOf puts views of one source together: what an unknown device is shown tells how the
// source takes each device; the first view is compared with another source if there is one.
func SourceBrowseOf(d *dossier.Dossier, views []matching.View, unknown, against *matching.View, words Sayings) SourceBrowse {
	say := words.Asked
	out := SourceBrowse{Views: []SourceView{}, Folders: []FolderSide{}, MissingHere: []MissingTitle{}, MissingThere: []MissingTitle{}}
	for _, v := range views {
		one := viewOf(d, v, say)
		if unknown != nil {
			one.Remark = words.Recognised(matching.Recognised(v, *unknown))
		}
		out.Views = append(out.Views, one)
		out.Source = out.Views[0].Source
	}
	for _, s := range matching.SideBySide(views) {
		out.Folders = append(out.Folders, FolderSide(s))
	}
	if against == nil || len(views) == 0 {
		return out
	}
	other := viewOf(d, *against, say)
	out.Against = &other
	for _, m := range matching.MissingFrom(*against, views[0]) {
		out.MissingHere = append(out.MissingHere, MissingTitle(m))
	}
	for _, m := range matching.MissingFrom(views[0], *against) {
		out.MissingThere = append(out.MissingThere, MissingTitle(m))
	}
	return out
}

func viewOf(d *dossier.Dossier, v matching.View, say func(matching.Question) string) SourceView {
	out := SourceView{Source: Named{v.Source.Ref(), d.FullLabel(v.Source.Ref())}, Agent: v.Agent, Name: v.Name, Ended: v.Asked.Ended, Sentence: say(v.Asked), Folders: []SeenFolder{}}
	if v.As != "" {
		out.As = Named{v.As.Ref(), d.FullLabel(v.As.Ref())}
	}
	for _, f := range v.Folders {
		out.Folders = append(out.Folders, SeenFolder{f.Name, f.Content, f.Items, f.Whole, append([]string{}, f.Titles...)})
	}
	return out
}

// PreviewStep is one change to preview.
type PreviewStep struct {
	Verb    string         `json:"verb" enum:"add,set,remove" doc:"What would be done."`
	Kind    string         `json:"kind" minLength:"1" doc:"Kind of the record."`
	ID      string         `json:"id,omitzero" doc:"Its id; for a new record none is needed."`
	Members map[string]any `json:"members,omitzero" doc:"The members that it would have; for a change only those that would be others."`
}

// PreviewChanges asks what changes would do.
type PreviewChanges struct {
	Changes []PreviewStep `json:"changes" minItems:"1" maxItems:"50" doc:"The changes, in their order."`
}

// MakeSupposed asks to make changes that were supposed, in one write.
type MakeSupposed struct {
	Changes []PreviewStep `json:"changes" minItems:"1" maxItems:"50" doc:"The changes, in their order."`
	AsOf    uint64        `json:"asOf" minimum:"1" doc:"Revision of the home for which they were supposed; what others changed since is not written over."`
}

// Made is what came of several changes.
type Made struct {
	Revision uint64  `json:"revision" doc:"Revision in which they were made; it can be undone as a whole."`
	Records  []Named `json:"records" doc:"The records that were added or changed."`
}

// PreviewTest is one test that a change would touch.
type PreviewTest struct {
	ID       string `json:"id" doc:"Identity of the test."`
	Title    string `json:"title" doc:"What it is called."`
	About    Named  `json:"about" doc:"What it is about."`
	Required bool   `json:"required" doc:"Whether the home is proven only with it."`
	Sentence string `json:"sentence,omitzero" doc:"Why its proof would no longer hold."`
}

// PreviewChange is something that would be another than now.
type PreviewChange struct {
	What   string `json:"what" doc:"What it is about."`
	Before string `json:"before,omitzero" doc:"How it is now; empty if it is not there now."`
	After  string `json:"after,omitzero" doc:"How it would be; empty if it would no longer be there."`
}

// Preview is what changes would do to what is proven. Nothing of it is stored.
type Preview struct {
	Revision uint64           `json:"revision" doc:"Revision of the home with which it is compared."`
	Sentence string           `json:"sentence" doc:"The whole in one sentence; empty if nothing proven would change."`
	Before   proving.Coverage `json:"before" doc:"Required tests by where they stand now."`
	After    proving.Coverage `json:"after" doc:"The same after the changes."`
	Stale    []PreviewTest    `json:"stale" doc:"Proven tests that would become stale."`
	InDoubt  []PreviewTest    `json:"inDoubt" doc:"Proven tests that would be in doubt."`
	Proven   []PreviewTest    `json:"proven" doc:"Tests whose old proof would be good again."`
	Asked    []PreviewTest    `json:"asked" doc:"Required tests that the plan would ask for as well."`
	Dropped  []PreviewTest    `json:"dropped" doc:"Proven tests that the plan would no longer ask for."`
	Found    []Finding        `json:"found" doc:"What would be found as well."`
	Gone     []Finding        `json:"gone" doc:"What would no longer be found."`
	Load     []PreviewChange  `json:"load" doc:"Paths and busy sets of which the network would carry more or less easily."`
	Plays    []PreviewChange  `json:"plays" doc:"Folders of which a device would play more or less."`
	Again    []ProofStep      `json:"again" doc:"The fewest acts that would prove again what would be lost."`
	Minutes  int              `json:"minutes" doc:"How many minutes they take."`
}
