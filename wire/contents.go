package wire

import (
	"time"

	"kaiku/core/contents"
	"kaiku/core/dossier"
	"kaiku/core/titles"
)

// ReadFolder asks for a reading of a folder.
type ReadFolder struct {
	Place         string `json:"place,omitzero" maxLength:"1000" doc:"Where it is read: smb://10.20.4.10/media/Films or nfs://10.20.4.10/media/Films, with an address of the home. Empty for where the folder's source has it."`
	HeadsOnly     bool   `json:"headsOnly,omitzero" doc:"Do not read any file for the rate that it needs."`
	ShareUser     string `json:"shareUser,omitzero" maxLength:"80" doc:"The user as whom a share is opened; empty for a guest."`
	SharePassword string `json:"sharePassword,omitzero" maxLength:"200" writeOnly:"true" doc:"That user's password. It is used for this reading only and is not kept."`
}

// FolderContents is what the newest reading of a folder found.
type FolderContents struct {
	Folder   Named          `json:"folder" doc:"The folder."`
	Ended    time.Time      `json:"ended,omitzero" doc:"When the newest reading ended; empty if there has been none."`
	By       string         `json:"by,omitzero" doc:"Who read it."`
	With     string         `json:"with,omitzero" doc:"The machine that read it; empty for the Kaiku on the home's network."`
	Place    string         `json:"place,omitzero" doc:"Where it was read."`
	Stopped  bool           `json:"stopped,omitzero" doc:"It was stopped, or the folder stopped answering: what is here is what was read until then."`
	Said     string         `json:"said" doc:"How much there is, in words."`
	Recorded bool           `json:"recorded" doc:"The folder's record has the same mix of formats and number of items."`
	MayWrite bool           `json:"mayWrite" doc:"Whether the person who asks may have it read and recorded."`
	Mix      []MixLine      `json:"mix" doc:"The formats, those with most hours first."`
	Troubles []FileTrouble  `json:"troubles" doc:"Why files could not be read, and how many."`
	Covers   int            `json:"covers,omitzero" doc:"Pictures that belong to a film or an album."`
	Ignored  int            `json:"ignored,omitzero" doc:"Files that were not looked at: not media by name, or hidden."`
	Left     int            `json:"left,omitzero" doc:"Items that are counted in the mix and not kept one by one."`
	Found    int            `json:"found" doc:"How many of the items that are kept fit what was asked."`
	Files    []FileLine     `json:"files" doc:"The items that fit, 100 at most."`
	Places   []string       `json:"places" doc:"Where the files can probably be read in the home, by what is recorded: shares and exports."`
	Listing  *FolderListing `json:"listing,omitzero" doc:"How the list of the folder's server differs from what lies in it; empty if the server was not asked."`
}

// FolderListing says how the list of a folder's server differs from what lies in the folder. Both were read one right after the
// other.
type FolderListing struct {
	Said     string            `json:"said" doc:"How much differs, in words, or why nothing is compared."`
	Compared bool              `json:"compared" doc:"Whether the two could be compared."`
	Whole    bool              `json:"whole,omitzero" doc:"The server sent all that it lists, for certain; if not, what is not listed may stand on a part that it did not send, and nothing is recorded."`
	Recorded bool              `json:"recorded,omitzero" doc:"The folder's record has this comparison."`
	Sorts    []DifferenceCount `json:"sorts" doc:"How many titles differ in which way."`
	Found    int               `json:"found" doc:"How many differences fit what was asked."`
	Lines    []TitleDifference `json:"lines" doc:"The differences that fit, 100 at most."`
}

// DifferenceCount is how many titles differ in one way.
type DifferenceCount struct {
	Sort   titles.Sort `json:"sort" enum:"not-listed,listed-as-other,listed-twice,not-on-disk" doc:"In which way."`
	Said   string      `json:"said" doc:"That in words."`
	Titles int         `json:"titles" doc:"How many."`
}

// TitleDifference is one title that differs.
type TitleDifference struct {
	Sort  titles.Sort `json:"sort" enum:"not-listed,listed-as-other,listed-twice,not-on-disk" doc:"In which way."`
	Said  string      `json:"said" doc:"That in words."`
	Title string      `json:"title" doc:"The path of the file; of what is not on the disk, where it is listed."`
	Cause string      `json:"cause,omitzero" doc:"The likely cause, in words; empty if none is known."`
}

// MixLine is one format of a folder.
type MixLine struct {
	Items     int     `json:"items" doc:"Items of this format."`
	Hours     float64 `json:"hours,omitzero" doc:"Their playing time in hours."`
	Container string  `json:"container" doc:"The container, in words."`
	Picture   string  `json:"picture,omitzero" doc:"How the picture is coded, in words."`
	Sound     string  `json:"sound,omitzero" doc:"How the sound is coded, and the subtitles, in words."`
	Needs     string  `json:"needs,omitzero" doc:"The rate that it needs, and how that is known."`
}

// FileTrouble is one reason why files could not be read.
type FileTrouble struct {
	Trouble contents.Trouble `json:"trouble" doc:"The reason."`
	Said    string           `json:"said" doc:"The reason in words."`
	Items   int              `json:"items" doc:"How many of the items that are kept."`
}

// FileLine is one item of a folder.
type FileLine struct {
	Path    string           `json:"path" doc:"From the folder on."`
	Bytes   int64            `json:"bytes" doc:"Its size."`
	Length  string           `json:"length,omitzero" doc:"Its playing time, in words."`
	Format  string           `json:"format,omitzero" doc:"Its format, in words."`
	Needs   string           `json:"needs,omitzero" doc:"The rate that it needs, if it was read for it."`
	Trouble contents.Trouble `json:"trouble,omitzero" doc:"Why it could not be read."`
	Said    string           `json:"said,omitzero" doc:"That in words, or what else is odd about it."`
}

// ContentsQuery says which items of a folder are wanted.
type ContentsQuery struct {
	Search  string           `query:"search" maxLength:"200" doc:"Part of the path or of the format in words; upper and lower case are the same."`
	Trouble contents.Trouble `query:"trouble" maxLength:"40" doc:"Only those with this trouble; any for all that have one."`
	Format  int              `query:"format" minimum:"0" doc:"Only those of the format that has this place in the mix, from 1 on; 0 for all."`
	From    int              `query:"from" minimum:"0" doc:"How many that fit are left out at the beginning."`
	Differs titles.Sort      `query:"differs" enum:"not-listed,listed-as-other,listed-twice,not-on-disk" doc:"Of the comparison with the server's list, only what differs in this way."`
	After   int              `query:"after" minimum:"0" doc:"How many differences that fit are left out at the beginning."`
}

// ContentsRecorded says what was recorded of a folder's contents.
type ContentsRecorded struct {
	Folder   dossier.ID[dossier.Folder] `json:"folder" doc:"The folder."`
	Revision uint64                     `json:"revision" doc:"The revision of the home after it."`
}

// RecordContents names the reading that is recorded.
type RecordContents struct {
	Read time.Time `json:"read" doc:"When the reading that is meant ended, as its contents say."`
}
