package wire

import (
	"time"

	"kaiku/core/matching"
)

// BothEnds holds the two ends of each path against each other and against what the latest scan saw.
type BothEnds struct {
	Scan  string     `json:"scan,omitzero" doc:"Id of the latest scan; empty if the network was never scanned."`
	Paths []PathEnds `json:"paths" doc:"The paths in use, those whose ends differ first."`
}

// PathEnds are the two ends of one path.
type PathEnds struct {
	Path      Named              `json:"path" doc:"The path."`
	Device    Named              `json:"device" doc:"The device that plays."`
	Source    Named              `json:"source" doc:"Where the media come from."`
	Agreement matching.Agreement `json:"agreement" enum:"device-differs,record-behind,one-says,agree" doc:"The worst of the rows that could be compared."`
	SeenAt    *time.Time         `json:"seenAt,omitempty" doc:"When the server was looked for by a scan, if it was."`
	Said      string             `json:"said" doc:"What a scan saw of the server: that it answered, that it did not, or that nobody looked."`
	Rows      []EndRow           `json:"rows" doc:"What both ends have to have alike, as far as any of it is known."`
}

// EndRow is one member as the record of the server, the device and the latest scan have it.
type EndRow struct {
	Member    matching.EndMember `json:"member" enum:"address,port,name,locator,account,clock" doc:"What it is."`
	Title     string             `json:"title" doc:"The same in words."`
	Server    []string           `json:"server" doc:"As the server has it, by the record; of several any will do."`
	Device    []string           `json:"device" doc:"As it is entered on the device, by the record."`
	Seen      []string           `json:"seen" doc:"As the latest scan saw it at the server."`
	Agreement matching.Agreement `json:"agreement" enum:"device-differs,record-behind,one-says,agree" doc:"How they go together."`
	Said      string             `json:"said" doc:"What differs and what to do about it; empty if nothing is to be done."`
	Correct   []string           `json:"correct" doc:"Ids of the differences of the scan that, once recorded, bring the record in line with what was seen."`
}
