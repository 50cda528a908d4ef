package papers

import "strings"

// WiFiCode returns the text that a phone reads from a code to join a Wi-Fi network with a password
// (WPA3 Specification 3.0, section 7.1), and whether it contains characters that readers treat
// differently: the specification writes them as percent codes, cameras in use expect a backslash, which
// is what stands here.
func WiFiCode(ssid, password string) (text string, caution bool) {
	escape := strings.NewReplacer(`\`, `\\`, `;`, `\;`, `,`, `\,`, `"`, `\"`, `:`, `\:`)
	caution = escape.Replace(ssid+password) != ssid+password || strings.Contains(ssid+password, "%")
	return "WIFI:T:WPA;S:" + escape.Replace(ssid) + ";P:" + escape.Replace(password) + ";;", caution
}
