package dossier

import (
	"fmt"
	"net"
	"strings"
	"time"
)

// Enum is a closed list of words. Values returns them in the order a form should offer them.
type Enum interface{ Values() []string }

func words[T ~string](all ...T) []string {
	out := make([]string, len(all))
	for i, w := range all {
		out[i] = string(w)
	}
	return out
}

// speaks says, for each kind of path, what a source must speak for it.
var speaks = []struct {
	kind PathKind
	any  []Protocol
}{
	{AVPull, []Protocol{ProtocolUPnPAV}},
	{AVPush, []Protocol{ProtocolUPnPAV}},
	{OwnPlayer, []Protocol{ProtocolHTTP, ProtocolHLS}},
	{Share, []Protocol{ProtocolSMB, ProtocolNFS}},
	{Copy, []Protocol{ProtocolSMB, ProtocolNFS, ProtocolHTTP, ProtocolUPnPAV}},
	{Stream, []Protocol{ProtocolHTTP, ProtocolHLS, ProtocolRTSP}},
	{StreamList, []Protocol{ProtocolM3U}},
	{Tuner, []Protocol{ProtocolHTTP, ProtocolRTSP, ProtocolUPnPAV}},
	{Feed, []Protocol{ProtocolHTTP}},
}

// Date is a day without a time, as ISO 8601 writes it, or "" for none.
type Date string

// ParseDate reads a day written as 2026-03-31.
func ParseDate(s string) (Date, error) {
	t, err := time.Parse(time.DateOnly, strings.TrimSpace(s))
	if err != nil || t.Year() < 1970 {
		return "", fmt.Errorf("%q is not a date; write it as 2026-03-31", s)
	}
	return Date(t.Format(time.DateOnly)), nil
}

// MarshalText writes the canonical form.
func (d Date) MarshalText() ([]byte, error) { return []byte(d), nil }

// UnmarshalText reads a day; empty text means none.
func (d *Date) UnmarshalText(b []byte) error {
	return readText(d, b, ParseDate)
}

// Clock is a time of day as 20:30, or "" for none.
type Clock string

// ParseClock reads a time of day of the 24-hour clock.
func ParseClock(s string) (Clock, error) {
	t, err := time.Parse("15:04", strings.TrimSpace(s))
	if err != nil {
		return "", fmt.Errorf("%q is not a time of day; write it as 20:30", s)
	}
	return Clock(t.Format("15:04")), nil
}

// MarshalText writes the canonical form.
func (c Clock) MarshalText() ([]byte, error) { return []byte(c), nil }

// UnmarshalText reads a time of day; empty text means none.
func (c *Clock) UnmarshalText(b []byte) error {
	return readText(c, b, ParseClock)
}

// HardwareAddr is an EUI-48 in lower case with colons, or "" for unknown.
type HardwareAddr string

// ParseHardwareAddr accepts an EUI-48 with colons, hyphens or dots, or bare.
func ParseHardwareAddr(s string) (HardwareAddr, error) {
	text := strings.TrimSpace(s)
	if len(text) == 12 && !strings.ContainsAny(text, ":-.") {
		text = text[0:4] + "." + text[4:8] + "." + text[8:12]
	}
	hw, err := net.ParseMAC(text)
	if err != nil || len(hw) != 6 {
		return "", fmt.Errorf("%q is not a MAC address; write it as 02:4b:49:00:00:10", s)
	}
	return HardwareAddr(hw.String()), nil
}

// MarshalText writes the canonical form.
func (h HardwareAddr) MarshalText() ([]byte, error) { return []byte(h), nil }

// UnmarshalText reads any common spelling; empty text means unknown.
func (h *HardwareAddr) UnmarshalText(b []byte) error {
	return readText(h, b, ParseHardwareAddr)
}

// readText reads the text form of a value; empty text means none.
func readText[T ~string](into *T, b []byte, parse func(string) (T, error)) (err error) {
	if *into = ""; len(b) > 0 {
		*into, err = parse(string(b))
	}
	return err
}
