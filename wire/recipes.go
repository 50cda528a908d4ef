package wire

import (
	"time"

	"kaiku/core/entry"
)

// RecipeStep is one step of a recipe in a home.
type RecipeStep struct {
	Recipe  string    `json:"recipe" doc:"Name of the recipe."`
	At      Named     `json:"at" doc:"The program or device that it is set on."`
	Menu    string    `json:"menu,omitzero" doc:"Where in the menus the setting is found."`
	Setting string    `json:"setting" doc:"Name of the setting."`
	Value   string    `json:"value" doc:"The value that it must have."`
	Why     string    `json:"why,omitzero" doc:"Why it must have that value."`
	For     string    `json:"for,omitzero" doc:"Code of the prerequisite that it helps to meet."`
	Found   string    `json:"found,omitzero" doc:"The value that is recorded now."`
	Set     bool      `json:"set" doc:"Whether this value is recorded and was confirmed since the last reset."`
	SetAt   time.Time `json:"setAt,omitzero" doc:"When it was last confirmed."`
}

// SetRecipeStep says which step of a recipe is set now.
type SetRecipeStep struct {
	Recipe  string `json:"recipe" minLength:"1" maxLength:"120" doc:"Name of the recipe."`
	Setting string `json:"setting" minLength:"1" maxLength:"120" doc:"Name of the setting."`
	Subject Ref    `json:"subject" doc:"The program or device that it is set on."`
}

// EntryCard is what has to be keyed in on a device for one path.
type EntryCard struct {
	Path    Named        `json:"path" doc:"The path."`
	Device  Named        `json:"device" doc:"The device."`
	Room    Named        `json:"room,omitzero" doc:"The room it stands in."`
	Segment Named        `json:"segment,omitzero" doc:"The segment whose Wi-Fi network it joins."`
	Lines   []EntryLine  `json:"lines" doc:"What to key in, in the order of work."`
	Steps   []RecipeStep `json:"steps" doc:"The firm's steps for this device."`
	Missing int          `json:"missing" doc:"Lines for which it is not recorded what to key in."`
}

// EntryLine is one thing to key in, or to choose.
type EntryLine struct {
	What    entry.What `json:"what" enum:"wifi,cable,network,choose,address,port,locator,link,code,login,password,consent,by-itself" doc:"What it is."`
	Title   string     `json:"title" doc:"The same in words."`
	Value   string     `json:"value,omitzero" doc:"What to key in."`
	Others  []string   `json:"others,omitzero" doc:"Values that would do as well."`
	Secret  Named      `json:"secret,omitzero" doc:"The secret that holds the value."`
	Known   bool       `json:"known" doc:"Whether it is recorded what to key in."`
	Entered string     `json:"entered,omitzero" doc:"What is recorded as entered on the device, where it differs."`
}

// WiFiCode is a Wi-Fi network with its password, as a code to scan.
type WiFiCode struct {
	SSID    string   `json:"ssid" doc:"Name of the Wi-Fi network."`
	QR      []string `json:"qr" doc:"QR code (ISO/IEC 18004), one text a row: 1 is dark, 0 light."`
	Caution bool     `json:"caution" doc:"The name or the password contains characters that some cameras misread."`
}
