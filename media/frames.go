package media

import (
	"encoding/binary"

	"github.com/bluenviron/mediacommon/v2/pkg/codecs/vp9"

	"kaiku/core/dossier"
)

// firstFrame reads from the first frame of a picture what its container did not say.
func firstFrame(e *dossier.FormatEntry, b []byte) {
	switch e.Video {
	case dossier.VP9:
		var h vp9.Header
		if len(b) > 0 && h.Unmarshal(b) == nil && h.ColorConfig != nil {
			e.Profile = dossier.VideoProfile("profile-" + string('0'+rune(h.Profile)))
			e.BitDepth = int(h.ColorConfig.BitDepth)
			switch {
			case h.ColorConfig.SubsamplingX && h.ColorConfig.SubsamplingY:
				e.Chroma = dossier.Chroma420
			case h.ColorConfig.SubsamplingX:
				e.Chroma = dossier.Chroma422
			default:
				e.Chroma = dossier.Chroma444
			}
		}
	case dossier.MPEG4:
		visual(e, b)
		visualLayer(e, b)
	case dossier.MJPEG:
		jpegFrame(e, b)
	case dossier.MPEG1, dossier.MPEG2, dossier.H264, dossier.HEVC:
		fps := e.FrameRate
		elementary(e, e.Video, b)
		if fps > 0 {
			e.FrameRate = fps // the container's word
		}
	}
}

// wantsFrame reports whether the container left open what the first frame says.
func wantsFrame(e dossier.FormatEntry) bool {
	switch e.Video {
	case dossier.VP9, dossier.MPEG4, dossier.MPEG1, dossier.MPEG2, dossier.H264, dossier.HEVC:
		return e.Profile == "" || e.BitDepth == 0
	case dossier.MJPEG:
		return e.BitDepth == 0
	}
	return false
}

// visualLayer reads the type of a layer of MPEG-4 visual (ISO/IEC 14496-2, 6.2.3 and table 6-10), which names the
// profile where no sequence header does.
func visualLayer(e *dossier.FormatEntry, b []byte) {
	for i := 0; e.Profile == "" && i+6 <= len(b); i++ {
		if b[i] == 0 && b[i+1] == 0 && b[i+2] == 1 && b[i+3]>>4 == 2 {
			switch kind := b[i+4]<<1 | b[i+5]>>7; kind {
			case 1:
				e.Profile = dossier.ProfileSimple
			case 17:
				e.Profile = dossier.ProfileAdvancedSimple
			}
		}
	}
}

// jpegFrame reads the frame header of a JPEG (ISO/IEC 10918-1, B.2.2).
func jpegFrame(e *dossier.FormatEntry, b []byte) {
	for i := 2; i+12 < len(b) && b[i] == 0xff; {
		marker, length := b[i+1], int(binary.BigEndian.Uint16(b[i+2:]))
		if marker >= 0xc0 && marker <= 0xc3 {
			e.BitDepth, e.Range, e.Interlaced = int(b[i+4]), dossier.SDR, dossier.No
			if marker == 0xc0 {
				e.Profile = dossier.ProfileBaseline
			}
			if b[i+9] == 1 || i+15 > len(b) {
				e.Chroma = dossier.Chroma400
				return
			}
			across, down := b[i+11]>>4/max(1, b[i+14]>>4), b[i+11]&15/max(1, b[i+14]&15) // luma to chroma
			switch {
			case across == 2 && down == 2:
				e.Chroma = dossier.Chroma420
			case across == 2 && down == 1:
				e.Chroma = dossier.Chroma422
			case across == 1 && down == 1:
				e.Chroma = dossier.Chroma444
			}
			return
		}
		i += 2 + length
	}
}
