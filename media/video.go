package media

import (
	"encoding/binary"

	"github.com/bluenviron/mediacommon/v2/pkg/codecs/av1"
	"github.com/bluenviron/mediacommon/v2/pkg/codecs/h264"
	"github.com/bluenviron/mediacommon/v2/pkg/codecs/h265"

	"kaiku/core/dossier"
	"kaiku/core/format"
)

// Transfer characteristics (ISO/IEC 23091-2, 8.2) of high dynamic range, and those that say nothing.
const (
	transferReserved    = 0
	transferUnspecified = 2
	transferPQ          = 16
	transferHLG         = 18
)

// transfer sets the dynamic range by the transfer characteristics. Pictures of 8 bits are SDR where nothing is said.
func transfer(e *dossier.FormatEntry, t int) {
	switch t {
	case transferPQ:
		if e.Range == "" || e.Range == dossier.SDR {
			e.Range = dossier.PQ
		}
	case transferHLG:
		e.Range = dossier.HLG
	case transferReserved, transferUnspecified:
		if e.Range == "" && e.BitDepth == 8 {
			e.Range = dossier.SDR
		}
	default:
		if e.Range == "" {
			e.Range = dossier.SDR
		}
	}
}

var chromas = []dossier.Chroma{dossier.Chroma400, dossier.Chroma420, dossier.Chroma422, dossier.Chroma444}

func chroma(idc uint32) dossier.Chroma {
	if int(idc) < len(chromas) {
		return chromas[idc]
	}
	return ""
}

func answer(yes bool) dossier.Answer {
	if yes {
		return dossier.Yes
	}
	return dossier.No
}

// mostSide bounds the sides of a picture that are believed.
const mostSide = 1 << 15

func size(e *dossier.FormatEntry, width, height int) {
	if width > 0 && height > 0 && width <= mostSide && height <= mostSide {
		e.Width, e.Height = width, height
	}
}

func rate(e *dossier.FormatEntry, fps float64) {
	if fps > 0.01 && fps <= 1000 {
		e.FrameRate = fps
	}
}

// spsH264 reads a sequence parameter set of H.264. withRate takes the frame rate from it too, where the container
// does not say. What cannot be read leaves the entry as it was.
func spsH264(e *dossier.FormatEntry, nalu []byte, withRate bool) bool {
	var s h264.SPS
	if len(nalu) < 4 || len(nalu) > 4096 || s.Unmarshal(nalu) != nil {
		return false
	}
	e.Video = dossier.H264
	constraints := int(nalu[2])
	e.Profile, e.Level = format.H264(int(s.ProfileIdc), constraints, int(s.LevelIdc))
	size(e, s.Width(), s.Height())
	e.Interlaced = answer(!s.FrameMbsOnlyFlag)
	e.BitDepth, e.Chroma = int(s.BitDepthLumaMinus8)+8, chroma(s.ChromaFormatIdc)
	if s.ProfileIdc < 100 && s.ProfileIdc != 44 { // 7.4.2.1.1: inferred to be 4:2:0
		e.Chroma = dossier.Chroma420
	}
	e.ReferenceFrames = int(s.MaxNumRefFrames)
	t := transferUnspecified
	if s.VUI != nil {
		if s.VUI.ColourDescriptionPresentFlag {
			t = int(s.VUI.TransferCharacteristics)
		}
		if s.VUI.TimingInfo != nil && withRate {
			rate(e, s.FPS())
		}
	}
	transfer(e, t)
	return true
}

func spsHEVC(e *dossier.FormatEntry, nalu []byte, withRate bool) bool {
	var s h265.SPS
	if len(nalu) < 4 || len(nalu) > 4096 || s.Unmarshal(nalu) != nil {
		return false
	}
	e.Video = dossier.HEVC
	p := s.ProfileTierLevel
	e.Profile, e.Level = format.HEVC(int(p.GeneralProfileIdc), p.GeneralTierFlag == 1, int(p.GeneralLevelIdc))
	size(e, s.Width(), s.Height())
	e.Interlaced = answer(p.GeneralInterlacedSourceFlag && !p.GeneralProgressiveSourceFlag || s.VUI != nil && s.VUI.FieldSeqFlag)
	e.BitDepth, e.Chroma = int(s.BitDepthLumaMinus8)+8, chroma(s.ChromaFormatIdc)
	if n := len(s.MaxDecPicBufferingMinus1); n > 0 {
		e.ReferenceFrames = int(s.MaxDecPicBufferingMinus1[n-1])
	}
	t := transferUnspecified
	if s.VUI != nil {
		if s.VUI.ColourDescriptionPresentFlag {
			t = int(s.VUI.TransferCharacteristics)
		}
		if s.VUI.TimingInfo != nil && withRate {
			rate(e, s.FPS())
		}
	}
	transfer(e, t)
	return true
}

// avcC reads a decoder configuration of H.264 (ISO/IEC 14496-15, 5.3.3.1).
func avcC(e *dossier.FormatEntry, b []byte) {
	e.Video = dossier.H264
	if len(b) < 8 {
		return
	}
	e.Profile, e.Level = format.H264(int(b[1]), int(b[2]), int(b[3]))
	if n := int(binary.BigEndian.Uint16(b[6:])); b[5]&0x1f > 0 && len(b) >= 8+n {
		spsH264(e, b[8:8+n], false)
	}
}

// hvcC reads a decoder configuration of HEVC (ISO/IEC 14496-15, 8.3.3.1).
func hvcC(e *dossier.FormatEntry, b []byte) {
	e.Video = dossier.HEVC
	if len(b) < 23 {
		return
	}
	e.Profile, e.Level = format.HEVC(int(b[1]&0x1f), b[1]&0x20 != 0, int(b[12]))
	e.Chroma, e.BitDepth = chroma(uint32(b[16]&3)), int(b[17]&7)+8
	arrays, rest := int(b[22]), b[23:]
	for range arrays {
		if len(rest) < 3 {
			return
		}
		kind, n := rest[0]&0x3f, int(binary.BigEndian.Uint16(rest[1:]))
		rest = rest[3:]
		for range n {
			if len(rest) < 2 {
				return
			}
			length := int(binary.BigEndian.Uint16(rest))
			if len(rest) < 2+length {
				return
			}
			if h265.NALUType(kind) == h265.NALUType_SPS_NUT && spsHEVC(e, rest[2:2+length], false) {
				return
			}
			rest = rest[2+length:]
		}
	}
}

// vpcC reads a codec configuration of VP8 and VP9 (VP codec ISO media file format binding), after its version.
func vpcC(e *dossier.FormatEntry, b []byte) {
	if len(b) < 6 {
		return
	}
	e.Interlaced = dossier.No // neither has fields
	if e.Video == dossier.VP9 {
		if d, ok := format.Codec("vp09." + two(int(b[0])) + "." + two(int(b[1]))); ok {
			e.Profile, e.Level = d.Profile, d.Level
		}
	}
	e.BitDepth = int(b[2] >> 4)
	if c := b[2] >> 1 & 7; c <= 3 {
		e.Chroma = []dossier.Chroma{dossier.Chroma420, dossier.Chroma420, dossier.Chroma422, dossier.Chroma444}[c]
	}
	transfer(e, int(b[4]))
}

func two(n int) string { return string([]byte{'0' + byte(n/10%10), '0' + byte(n%10)}) }

// av1C reads a codec configuration of AV1 (AV1 in ISO base media files, 2.3.3), with the sequence header in it.
func av1C(e *dossier.FormatEntry, b []byte) {
	e.Video = dossier.AV1
	if len(b) < 4 {
		return
	}
	e.Profile, e.Level = format.AV1Profile(int(b[1]>>5)), format.AV1Level(int(b[1]&0x1f))
	if b[2]&0x80 != 0 && e.Level != "" {
		e.Level += " high"
	}
	e.Interlaced = dossier.No
	switch {
	case b[2]&0x60 == 0x60:
		e.BitDepth = 12
	case b[2]&0x40 != 0:
		e.BitDepth = 10
	default:
		e.BitDepth = 8
	}
	switch {
	case b[2]&0x10 != 0:
		e.Chroma = dossier.Chroma400
	case b[2]&0x0c == 0x0c:
		e.Chroma = dossier.Chroma420
	case b[2]&0x08 != 0:
		e.Chroma = dossier.Chroma422
	default:
		e.Chroma = dossier.Chroma444
	}
	t := transferUnspecified
	var s av1.SequenceHeader
	if obu := b[4:]; len(obu) > 2 && len(obu) < 4096 && obu[0]>>3&0xf == 1 && s.Unmarshal(withoutSize(obu)) == nil {
		size(e, s.Width(), s.Height())
		if s.ColorConfig.ColorDescriptionPresentFlag {
			t = int(s.ColorConfig.TransferCharacteristics)
		}
	}
	transfer(e, t)
}

// withoutSize takes the size out of an open bitstream unit that has one (AV1, 5.3).
func withoutSize(obu []byte) []byte {
	if obu[0]&0x02 == 0 {
		return obu
	}
	for i := 1; i < len(obu) && i < 9; i++ {
		if obu[i]&0x80 == 0 {
			return append([]byte{obu[0] &^ 0x02}, obu[i+1:]...)
		}
	}
	return obu
}

// sequenceMPEG reads the sequence header of MPEG-1 and MPEG-2 (ISO/IEC 13818-2, 6.2.2.1 and 6.2.2.3) that begins b.
func sequenceMPEG(e *dossier.FormatEntry, b []byte) bool {
	if len(b) < 12 || b[0] != 0 || b[1] != 0 || b[2] != 1 || b[3] != 0xb3 {
		return false
	}
	e.Video, e.BitDepth, e.Chroma, e.Range, e.Interlaced = dossier.MPEG1, 8, dossier.Chroma420, dossier.SDR, dossier.No
	width, height := int(b[4])<<4|int(b[5])>>4, int(b[5]&0xf)<<8|int(b[6])
	rates := []float64{0, 24000.0 / 1001, 24, 25, 30000.0 / 1001, 30, 50, 60000.0 / 1001, 60}
	fps := 0.0
	if i := int(b[7] & 0xf); i < len(rates) {
		fps = rates[i]
	}
	next := b[12:]
	if b[11]&2 != 0 { // an intra matrix, whose last bit lies in the byte after
		next = skip(next, 64)
	}
	if i := 64 * int(b[11]>>1&1); i < len(b[11:]) && b[11+i]&1 != 0 {
		next = skip(next, 64)
	}
	for i := 0; i+10 <= len(next) && i < 4096; i++ {
		if next[i] == 0 && next[i+1] == 0 && next[i+2] == 1 && next[i+3] == 0xb5 && next[i+4]>>4 == 1 {
			x := next[i+4:]
			e.Video = dossier.MPEG2
			e.Profile, e.Level = mpeg2Profile(x[0]&0x0f, x[1]>>4)
			e.Interlaced = answer(x[1]&0x08 == 0)
			if c := x[1] >> 1 & 3; c > 0 {
				e.Chroma = chromas[c]
			}
			width |= int(x[1]&1)<<13 | int(x[2]>>7)<<12
			height |= int(x[2]>>5&3) << 12
			fps *= float64(x[5]>>5&3+1) / float64(x[5]&0x1f+1)
			break
		}
	}
	size(e, width, height)
	rate(e, fps)
	return true
}

func skip(b []byte, n int) []byte { return b[min(n, len(b)):] }

// mpeg2Profile reads profile_and_level_indication (tables 8-2 and 8-3).
func mpeg2Profile(profile, level byte) (dossier.VideoProfile, string) {
	if profile&0x08 != 0 { // the escape: 4:2:2 at main or high level
		return dossier.Profile422, map[byte]string{5: "main", 2: "high"}[level]
	}
	return map[byte]dossier.VideoProfile{5: dossier.ProfileSimple, 4: dossier.ProfileMain, 1: dossier.ProfileHigh}[profile&7],
		map[byte]string{10: "low", 8: "main", 6: "high-1440", 4: "high"}[level]
}

// elementary reads what it can of a stream of pictures with start codes, and reports whether it found what it needs.
func elementary(e *dossier.FormatEntry, of dossier.VideoCodec, b []byte) bool {
	for i := 0; i+5 <= len(b); i++ {
		if b[i] != 0 || b[i+1] != 0 || b[i+2] != 1 {
			continue
		}
		switch of {
		case dossier.H264:
			if b[i+3]&0x1f == 7 && spsH264(e, unit(b[i+3:]), true) {
				return true
			}
		case dossier.HEVC:
			if b[i+3]>>1&0x3f == 33 && spsHEVC(e, unit(b[i+3:]), true) {
				return true
			}
		case dossier.MPEG1, dossier.MPEG2:
			if b[i+3] == 0xb3 && sequenceMPEG(e, b[i:]) {
				return true
			}
		default:
			return true
		}
	}
	return false
}

// unit returns the bytes up to the next start code.
func unit(b []byte) []byte {
	for i := 0; i+3 <= len(b); i++ {
		if b[i] == 0 && b[i+1] == 0 && b[i+2] <= 1 {
			return b[:i]
		}
	}
	return b
}
