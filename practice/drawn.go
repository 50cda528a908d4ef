package practice

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"kaiku/practice/layout"
)

// ability is what a screen can decode, whatever it says of it: media types, and codecs as RFC 6381 names them, each of
// which it decodes in all of its containers.
type ability struct{ types, codecs []string }

func (a ability) decodes(kind string) (plays, heard bool) {
	able := func(codec string) bool {
		return slices.ContainsFunc(a.codecs, func(d string) bool { return covers(d, codec) })
	}
	of := made[kind]
	return slices.Contains(a.types, kind) && (len(of) == 0 || able(of[0])), len(of) < 2 || able(of[1])
}

// spellings are media types that mean the same: the registered one, and those that are in use beside it.
var spellings = map[string][]string{
	"video/mp4": {"video/mp4", "video/x-m4v"}, "video/x-matroska": {"video/x-matroska", "video/matroska"}, "audio/flac": {"audio/flac", "audio/x-flac"}, "audio/mpeg": {"audio/mpeg"}, "image/jpeg": {"image/jpeg"},
}

// drawnCodecs are what a drawn screen may decode; of each family one or none. A screen without sound of its own has none of the last two.
var drawnCodecs = [][]string{{"", "avc1.42C00A", "avc1.4D4028", "avc1.640029", "avc1.640033"}, {"", "hvc1.1.6.L120.90", "hvc1.2.4.L153.B0"}, {"", "mp4a.40.2"}, {"", "ec-3"}}

// Drawn makes a house with a server and as many screens as is said, each of which decodes what the seed says, and says so
// in one of the ways in which the standards let it: the type alone or with codecs, in any case and order, with white space
// around parameters (RFC 9110, 5.6.6), with the entries of other transports and of everything (ConnectionManager:1, 2.5.2)
// among the others, and some twice. It may say less than it can.
func Drawn(seed uint64, octet byte, screens int) *House {
	r := rand.New(rand.NewPCG(seed, 0)) //nolint:gosec // the same house from the same seed
	h := empty(octet)
	h.Gateway = h.put(1, layout.GatewayPort, &Device{Name: "Orre OR-7 Pier", Type: "InternetGatewayDevice:2", Make: "Orre", Model: "OR-7 Pier", HostName: "pier", Software: "Pier/3.1"}, &upnp{services: gatewayServices})
	h.Server = h.server(10, layout.ServerPort, &Device{Name: layout.ServerName, Make: "Tuulkivi", Model: "TK-4 Cellar", HostName: "granite", Software: "Ahtola/2.6"}, granite)
	for n := range screens {
		a := &ability{}
		for _, family := range drawnCodecs {
			if c := family[r.IntN(len(family))]; c != "" {
				a.codecs = append(a.codecs, c)
			}
		}
		for _, t := range []string{"video/mp4", "video/x-matroska", "audio/flac", "audio/mpeg", "image/jpeg"} {
			if r.IntN(3) > 0 {
				a.types = append(a.types, t)
			}
		}
		if len(a.types) == 0 {
			a.types = []string{"image/jpeg"}
		}
		d := &Device{Name: fmt.Sprintf("Screen %d", n+1), Make: "Norrvik", Model: "NV-D", HostName: fmt.Sprintf("screen-%d", n+1), Software: "Norrvik/3.1", able: a}
		h.screen(byte(20+n), d, a.said(r)...)
	}
	return h
}

// said is how a screen says what it can decode.
func (a ability) said(r *rand.Rand) (out []string) {
	if r.IntN(4) == 0 {
		out = append(out, "http-get:*:*:*") // everything: it says nothing
	}
	if r.IntN(4) == 0 {
		out = append(out, "rtsp-rtp-udp:*:video/mp2t:*")
	}
	for _, t := range a.types {
		one := spellings[t][r.IntN(len(spellings[t]))]
		if r.IntN(3) == 0 {
			one = strings.ToUpper(one[:1]) + one[1:6] + strings.ToUpper(one[6:])
		}
		if codecs := slices.Clone(a.codecs); strings.HasPrefix(t, "video/") && len(codecs) > 0 && r.IntN(4) > 0 {
			r.Shuffle(len(codecs), func(i, k int) { codecs[i], codecs[k] = codecs[k], codecs[i] })
			codecs = codecs[:1+r.IntN(len(codecs))]
			one += []string{";codecs=", "; codecs=", " ; Codecs="}[r.IntN(3)] + `"` + strings.Join(codecs, []string{",", ", "}[r.IntN(2)]) + `"`
		}
		out = append(out, "http-get:*:"+one+":*")
		if r.IntN(5) == 0 {
			out = append(out, out[len(out)-1])
		}
	}
	r.Shuffle(len(out), func(i, k int) { out[i], out[k] = out[k], out[i] })
	return out
}

// Says returns what a screen says that it can decode, as ConnectionManager gives it.
func (d *Device) Says() []string { return slices.Clone(d.sinks) }
