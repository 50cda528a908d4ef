package wording

import "kaiku/core/entry"

// Entries are the words for what is keyed in on a device.
var Entries = map[entry.What]string{
	entry.WiFi: "Join this Wi-Fi network", entry.Cable: "Plug in the network cable", entry.Network: "How the device is connected is not recorded",
	entry.Choose: "Choose this server in the list", entry.Address: "Address of the server", entry.Port: "Port", entry.Locator: "Share or path on the server",
	entry.Link: "Address to enter", entry.Code: "Pairing code", entry.Key: "Key of this device, on the page of the list", entry.Login: "Log-in name", entry.Password: "Password",
	entry.Consent: "Let other devices send media to this one", entry.ByItself: "Nothing to enter: it works without finding a server",
}
