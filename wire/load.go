package wire

import (
	"kaiku/core/dossier"
	"kaiku/core/load"
)

// Load is what a home's paths ask of its network.
type Load struct {
	Alone   []LoadCase   `json:"alone" doc:"Each path that is in use, alone."`
	Sets    []LoadCase   `json:"sets" doc:"Each busy set."`
	Uplinks []LoadUplink `json:"uplinks" doc:"What can be watched elsewhere at once, over each internet line of which an upload rate is recorded."`
}

// LoadCase is what one path, or several in use at once, ask of the network.
type LoadCase struct {
	Name    string       `json:"name" doc:"Name of the busy set or of the path."`
	Set     string       `json:"set,omitzero" doc:"Id of the busy set, if it is one."`
	Paths   []Named      `json:"paths" doc:"The paths in use at once."`
	State   load.State   `json:"state" enum:"room-left,tight,overloaded,not-known" doc:"The worst of what is taken: up to 70 %, up to 90 %, more, or not known."`
	Said    string       `json:"said" doc:"The same in words, with what is taken most."`
	Uses    []LoadUse    `json:"uses" doc:"All that carries something, the most taken first."`
	Flows   []LoadFlow   `json:"flows" doc:"What each path carries, and which way it goes."`
	AtOnce  int          `json:"atOnce" doc:"Of one path: how many streams as heavy fit over its way at once; -1 if that is not known."`
	Surest  *Named       `json:"surest,omitzero" doc:"The device at which a reading would help most to make this certain."`
	Changes []LoadChange `json:"changes" doc:"Single changes that leave more room, the best first."`

	Converting []LoadConverting `json:"converting" doc:"What the paths may ask of the power of their sources to convert pictures, where they do."`
}

// LoadConverting is what paths in use at once may ask of one source's power to convert pictures.
type LoadConverting struct {
	Source Named   `json:"source" doc:"The source."`
	Paths  []Named `json:"paths" doc:"The paths that may need it, each with its heaviest."`
	Mpx    float64 `json:"mpx" doc:"What that takes, in Mpx/s; estimated."`
	Power  float64 `json:"power,omitzero" doc:"What the source manages by the record, in Mpx/s."`
	State  string  `json:"state" enum:"enough,too-little,not-known" doc:"Whether it is enough for all of them at once."`
	Said   string  `json:"said" doc:"The same in words."`
}

// LoadUse is how much of one thing is taken.
type LoadUse struct {
	Kind    load.MediumKind `json:"kind" enum:"wire,channel,mains-wiring,line-down,disk" doc:"A cable in one direction, a Wi-Fi channel, the mains wiring, the internet line into the home, or the storage of the machine that has the files."`
	Label   string          `json:"label" doc:"What it is."`
	Link    string          `json:"link,omitzero" doc:"Id of the link, of a cable."`
	Links   []string        `json:"links" doc:"Ids of the links that share it."`
	Share   float64         `json:"share" doc:"The part that is taken; more than 1 if more is asked for than there is."`
	State   load.State      `json:"state" enum:"room-left,tight,overloaded,not-known" doc:"What that means."`
	Known   dossier.Known   `json:"known,omitzero" enum:"measured,read,declared,data-sheet,estimated,assumed" doc:"How that is known, by the weakest of what it rests on."`
	AtLeast bool            `json:"atLeast" doc:"Something on it is not known, so that it may be more."`
	Mbps    float64         `json:"mbps,omitzero" doc:"What it carries at most in Mb/s; 0 for what is shared by air time."`
	Said    string          `json:"said" doc:"The same in words."`
	By      []LoadPart      `json:"by" doc:"What each path takes of it."`
}

// LoadPart is what one path takes of one thing.
type LoadPart struct {
	Path  Named         `json:"path" doc:"The path."`
	Share float64       `json:"share" doc:"The part that it takes."`
	Rate  float64       `json:"rate" doc:"What would get through if nothing else went over it, in Mb/s."`
	Known dossier.Known `json:"known" enum:"measured,read,declared,data-sheet,estimated,assumed" doc:"How that is known."`
}

// LoadFlow is what one path carries.
type LoadFlow struct {
	Path   Named         `json:"path" doc:"The path."`
	Mbps   float64       `json:"mbps" doc:"What the heaviest of it needs with a fifth to spare, in Mb/s; 0 if that is not known."`
	Known  dossier.Known `json:"known,omitzero" enum:"measured,read,declared,data-sheet,estimated,assumed" doc:"How that is known."`
	Folder *Named        `json:"folder,omitzero" doc:"The folder that needs most."`
	Way    []Named       `json:"way" doc:"The devices that it passes, from where the files are to where they are played."`
	Links  []string      `json:"links" doc:"Ids of the links of its way."`
	Gaps   []string      `json:"gaps" doc:"What is not known about it."`
}

// LoadChange is one change that leaves more room.
type LoadChange struct {
	Kind    load.ChangeKind `json:"kind" enum:"wire-device,run-cable,other-channel,replace-link,faster-ports,lighter-copies,move-files,snooping-on,cast-to-each" doc:"What sort of change it is."`
	Said    string          `json:"said" doc:"What to do."`
	Subject Ref             `json:"subject" doc:"The record that it is about."`
	Share   float64         `json:"share" doc:"How much of the most taken would then be taken."`
	State   load.State      `json:"state" enum:"room-left,tight,overloaded,not-known" doc:"What that means."`
	Then    string          `json:"then" doc:"The same in words."`
	Steps   []PreviewStep   `json:"steps" doc:"The changes of records by which it can be supposed, and recorded once it is done. Empty for files to be converted: what comes of that is read from them."`
}

// LoadUplink is what can be watched elsewhere at once, over one internet line.
type LoadUplink struct {
	Line  Named         `json:"line" doc:"The line."`
	Mbps  float64       `json:"mbps" doc:"What is left for it, in Mb/s: four fifths of the upload rate."`
	Known dossier.Known `json:"known" enum:"measured,read,declared,data-sheet,estimated,assumed" doc:"How the upload rate is known: measured, or assumed from the contract."`
	Said  string        `json:"said" doc:"How many streams of which quality fit."`
	Fits  []LoadFits    `json:"fits" doc:"The same for each quality, the best first."`
}

// LoadFits is how many streams of one quality fit.
type LoadFits struct {
	Lines  int     `json:"lines" doc:"Lines of the picture."`
	Mbps   float64 `json:"mbps" doc:"What one usually needs, in Mb/s; assumed."`
	AtOnce int     `json:"atOnce" doc:"How many fit at once."`
}
