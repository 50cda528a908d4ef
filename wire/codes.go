package wire

import (
	"time"

	"kaiku/core/dossier"
)

// NewInvite asks for a code with which any browser in the home can measure.
type NewInvite struct {
	Room    dossier.ID[dossier.Room]   `json:"room,omitzero" doc:"The room that is measured in."`
	Device  dossier.ID[dossier.Device] `json:"device,omitzero" doc:"The device at which to measure, or which measures itself."`
	Minutes int                        `json:"minutes,omitzero" minimum:"0" maximum:"240" doc:"How long the code is valid; 30 by default."`
}

// Code is a code that brings a browser in, once or for a while.
type Code struct {
	Code    string    `json:"code" doc:"The code."`
	Address string    `json:"address" doc:"Where a browser opens it."`
	Ends    time.Time `json:"ends" doc:"When it expires."`
	QR      []string  `json:"qr" doc:"The address as a QR code: a string a row, 1 dark and 0 light."`
}

// Measuring is what a browser with a code gets.
type Measuring struct {
	Place    string    `json:"place" doc:"What is measured: the device, or the room."`
	OfDevice bool      `json:"ofDevice" doc:"Whether it is a device, which can also say what it decodes."`
	Ends     time.Time `json:"ends" doc:"When the code expires."`
	EchoPort int       `json:"echoPort,omitzero" doc:"UDP port that sends back what it is sent during a run; none if nothing does."`
}

// MeasureRun is one measurement under way. There is one at a time.
type MeasureRun struct {
	Run string `json:"run" minLength:"1" maxLength:"40" doc:"Identity of the run."`
}

// MeasureResult is what a browser or a laptop measured; what is left out it could not.
type MeasureResult struct {
	MeasureRun
	LatencyMs   *float64 `json:"latencyMs,omitempty" minimum:"0" maximum:"60000" doc:"Median round-trip time, in milliseconds."`
	JitterMs    *float64 `json:"jitterMs,omitempty" minimum:"0" maximum:"60000" doc:"Mean difference from one time to the next, in milliseconds (RFC 3550, section 6.4.1)."`
	LossPercent *float64 `json:"lossPercent,omitempty" minimum:"0" maximum:"100" doc:"Packets that did not come back, in percent."`
	DownMbps    *float64 `json:"downMbps,omitempty" minimum:"0" maximum:"100000" doc:"Throughput towards the device, in Mb/s."`
	With        string   `json:"with,omitzero" maxLength:"80" doc:"What measured, such as a laptop; empty for the device itself."`
	Conditions  string   `json:"conditions,omitzero" maxLength:"400" doc:"The conditions."`
}

// Measured is what was stored of a run.
type Measured struct {
	Readings []dossier.Reading `json:"readings" doc:"The readings as stored."`
}

// UpRate is the throughput from the device as the service saw it arrive.
type UpRate struct {
	UpMbps   float64 `json:"upMbps" doc:"In Mb/s, the slow start left out."`
	Measured bool    `json:"measured" doc:"Whether enough arrived to tell a rate."`
}

// DecodingQuestions is what a browser is asked about what it decodes.
type DecodingQuestions struct {
	Place     string             `json:"place" doc:"The device whose browser it is."`
	Questions []DecodingQuestion `json:"questions" doc:"The questions; answers stand at the same places."`
}

// DecodingQuestion is one of them, in the terms of Media Capabilities.
type DecodingQuestion struct {
	Type          string               `json:"type" doc:"Media type with the name of the codec."`
	Width         int                  `json:"width,omitzero" doc:"Width of the picture in pixels."`
	Height        int                  `json:"height,omitzero" doc:"Height of the picture in pixels."`
	FrameRate     float64              `json:"frameRate,omitzero" doc:"Frames per second."`
	BitsPerSecond int                  `json:"bitsPerSecond,omitzero" doc:"Bit rate of the picture."`
	Range         dossier.DynamicRange `json:"range,omitzero" doc:"Dynamic range of the picture."`
	Channels      int                  `json:"channels,omitzero" doc:"Channels of the sound."`
	SampleRate    int                  `json:"sampleRate,omitzero" doc:"Sampling rate of the sound in Hz."`
}

// DecodingAnswers is what a browser answered.
type DecodingAnswers struct {
	Answers   []*bool `json:"answers" maxItems:"200" doc:"For each question whether it decodes that; null where it did not say."`
	PlaysHere bool    `json:"playsHere,omitzero" doc:"Whether the device plays its media in this browser, so that what the browser does not decode the device does not play."`
}

// DecodingDeclared is what was recorded of that.
type DecodingDeclared struct {
	Lines []string `json:"lines" doc:"What was recorded, in words."`
}
