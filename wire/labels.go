package wire

// Label is what was read from a photograph of a device's label.
type Label struct {
	Codes           []LabelCode `json:"codes" doc:"The codes that were read."`
	Serial          string      `json:"serial,omitzero" doc:"What looks like the serial number."`
	HardwareAddress string      `json:"hardwareAddress,omitzero" doc:"What looks like the MAC address, in canonical form."`
}

// LabelCode is one code on a label.
type LabelCode struct {
	Sort string `json:"sort" doc:"Sort of code, such as code 128 or qr code."`
	Text string `json:"text" doc:"What it says."`
}
