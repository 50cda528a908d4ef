package dossier

import "slices"

// Vocabulary is a list of terms beside which other words may stand: those are kept as they were read,
// and nothing is known of them.
type Vocabulary interface{ Terms() []string }

// FormatEntry is one row of a folder's format mix: what files of one form have in common. Of a size, a
// rate or a number of frames that differs among them it holds the greatest.
type FormatEntry struct {
	Container       Container      `json:"container" title:"Container" doc:"The container."`
	Video           VideoCodec     `json:"video,omitzero" title:"Video codec" doc:"How the picture is coded; empty if there is none."`
	Profile         VideoProfile   `json:"profile,omitzero" title:"Profile" doc:"Profile of the video codec."`
	Level           string         `json:"level,omitzero" maxLength:"20" title:"Level" doc:"Level of the video codec as its standard writes it, such as 4.1; with the word high for the high tier."`
	Width           int            `json:"width,omitzero" minimum:"0" title:"Width (px)" doc:"Picture width in pixels."`
	Height          int            `json:"height,omitzero" minimum:"0" title:"Height (px)" doc:"Picture height in pixels."`
	FrameRate       float64        `json:"frameRate,omitzero" minimum:"0" title:"Frames per second" doc:"Frames per second."`
	Interlaced      Answer         `json:"interlaced,omitzero" title:"Interlaced" doc:"Whether the picture is interlaced."`
	BitDepth        int            `json:"bitDepth,omitzero" minimum:"0" maximum:"16" title:"Bit depth" doc:"Bits per sample of the picture."`
	Chroma          Chroma         `json:"chroma,omitzero" title:"Chroma" doc:"Chroma sampling."`
	Range           DynamicRange   `json:"range,omitzero" title:"Dynamic range" doc:"Dynamic range of the picture."`
	ReferenceFrames int            `json:"referenceFrames,omitzero" minimum:"0" title:"Reference frames" doc:"How many frames the decoder has to keep."`
	Sound           SoundCodec     `json:"sound,omitzero" title:"Sound codec" doc:"How the sound of the first or default track is coded; empty if there is none."`
	Channels        int            `json:"channels,omitzero" minimum:"0" maximum:"64" title:"Channels" doc:"Number of channels; 6 for 5.1."`
	SampleRate      int            `json:"sampleRate,omitzero" minimum:"0" title:"Sampling rate (Hz)" doc:"Sampling rate of the sound in Hz."`
	SoundBits       int            `json:"soundBits,omitzero" minimum:"0" maximum:"64" title:"Bits of the sound" doc:"Bits per sample of the sound, where it is coded without loss."`
	OtherSound      []SoundCodec   `json:"otherSound,omitzero" title:"Other sound tracks" doc:"Codecs of the other sound tracks."`
	SoundLanguages  []string       `json:"soundLanguages,omitzero" title:"Languages of the sound" doc:"Languages of the sound tracks, as BCP 47 writes them."`
	Subtitles       SubtitleForm   `json:"subtitles,omitzero" title:"Subtitles" doc:"Form of the first or default subtitles; empty if there are none."`
	SubtitlesIn     SubtitlePlace  `json:"subtitlesIn,omitzero" title:"Subtitles are" doc:"Inside the file or in a file beside it."`
	OtherSubtitles  []SubtitleForm `json:"otherSubtitles,omitzero" title:"Other subtitles" doc:"Forms of the other subtitles."`
	SubtitlesFor    []string       `json:"subtitlesFor,omitzero" title:"Languages of the subtitles" doc:"Languages of the subtitles, as BCP 47 writes them."`
	Items           int            `json:"items,omitzero" minimum:"0" title:"Items" doc:"How many items have this format."`
	Hours           float64        `json:"hours,omitzero" minimum:"0" title:"Hours" doc:"Their total length in hours."`
	Gigabytes       float64        `json:"gigabytes,omitzero" minimum:"0" title:"Size (GB)" doc:"Their total size in GB (10^9 bytes)."`
	AverageMbps     float64        `json:"averageMbps,omitzero" minimum:"0" title:"Average (Mb/s)" doc:"Average bit rate of the heaviest in Mb/s."`
	PeakMbps        float64        `json:"peakMbps,omitzero" minimum:"0" title:"Peak (Mb/s)" doc:"Highest bit rate over 30 s, in Mb/s."`
	Needed2Mbps     float64        `json:"needed2Mbps,omitzero" minimum:"0" title:"Rate needed after 2 s (Mb/s)" doc:"The least constant rate at which the heaviest plays without a stall after a wait of 2 s, read from the file."`
	Needed5Mbps     float64        `json:"needed5Mbps,omitzero" minimum:"0" title:"Rate needed after 5 s (Mb/s)" doc:"The same after a wait of 5 s."`
	Needed10Mbps    float64        `json:"needed10Mbps,omitzero" minimum:"0" title:"Rate needed after 10 s (Mb/s)" doc:"The same after a wait of 10 s."`
	Needed30Mbps    float64        `json:"needed30Mbps,omitzero" minimum:"0" title:"Rate needed after 30 s (Mb/s)" doc:"The same after a wait of 30 s."`
	Heaviest        string         `json:"heaviest,omitzero" maxLength:"400" title:"Heaviest file" doc:"The file that needs the highest rate."`
	HeaviestAt      float64        `json:"heaviestAt,omitzero" minimum:"0" title:"Heaviest minute (s)" doc:"Where its heaviest minute begins, in seconds from the start."`
}

// DecodingEntry is one row of a decoding profile: what a device can decode of one format, and up to what.
// A limit that is empty is not known.
type DecodingEntry struct {
	Part            FormatPart   `json:"part" title:"Part" doc:"The part of a file that it is about."`
	Format          FormatTerm   `json:"format" minLength:"1" title:"Format" doc:"Container, codec or form of subtitles."`
	Profile         VideoProfile `json:"profile,omitzero" title:"Profile" doc:"The highest profile of the video codec."`
	Level           string       `json:"level,omitzero" maxLength:"20" title:"Up to level" doc:"The highest level, as the codec's standard writes it."`
	Width           int          `json:"width,omitzero" minimum:"0" title:"Up to width (px)" doc:"The greatest width in pixels."`
	Height          int          `json:"height,omitzero" minimum:"0" title:"Up to height (px)" doc:"The greatest height in pixels."`
	FrameRate       float64      `json:"frameRate,omitzero" minimum:"0" title:"Up to frames per second" doc:"The most frames per second."`
	Interlaced      Answer       `json:"interlaced,omitzero" title:"Interlaced" doc:"Whether it decodes interlaced pictures."`
	BitDepth        int          `json:"bitDepth,omitzero" minimum:"0" maximum:"16" title:"Up to bit depth" doc:"The most bits per sample of the picture."`
	Chroma          Chroma       `json:"chroma,omitzero" title:"Up to chroma" doc:"The finest chroma sampling."`
	Range           DynamicRange `json:"range,omitzero" title:"Dynamic range" doc:"The dynamic range beside SDR that it shows as it is meant."`
	ReferenceFrames int          `json:"referenceFrames,omitzero" minimum:"0" title:"Up to reference frames" doc:"The most frames that it keeps."`
	Channels        int          `json:"channels,omitzero" minimum:"0" maximum:"64" title:"Up to channels" doc:"The most channels."`
	SampleRate      int          `json:"sampleRate,omitzero" minimum:"0" title:"Up to sampling rate (Hz)" doc:"The highest sampling rate in Hz."`
	SoundBits       int          `json:"soundBits,omitzero" minimum:"0" maximum:"64" title:"Up to bits of the sound" doc:"The most bits per sample of the sound."`
	RateMbps        float64      `json:"rateMbps,omitzero" minimum:"0" title:"Up to rate (Mb/s)" doc:"The highest bit rate in Mb/s."`
	Able            Answer       `json:"able" title:"Can decode" doc:"Whether the device can decode it."`
	Limits          string       `json:"limits,omitzero" title:"Other limits" doc:"Limits that the other members cannot say, in words."`
	Evidence        Evidence     `json:"evidence" title:"Known by" doc:"How it is known."`
}

// Container is the form of a file in which its tracks are kept.
type Container string

// Containers: ISO/IEC 14496-12 and its kin, RFC 9559, WebM, ISO/IEC 13818-1 as stream and as program,
// and those of sound and of pictures. DVDVideo and BDVideo are structures of directories.
const (
	MP4       Container = "mp4"
	QuickTime Container = "quicktime"
	Matroska  Container = "matroska"
	WebM      Container = "webm"
	MPEGTS    Container = "mpeg-ts"
	M2TS      Container = "m2ts"
	MPEGPS    Container = "mpeg-ps"
	AVI       Container = "avi"
	ASF       Container = "asf"
	DVDVideo  Container = "dvd-video"
	BDVideo   Container = "bd-video"
	Ogg       Container = "ogg"
	FLACFile  Container = "flac"
	MPEGAudio Container = "mpeg-audio"
	ADTS      Container = "adts"
	Wave      Container = "wav"
	AIFF      Container = "aiff"
	JPEG      Container = "jpeg"
	PNG       Container = "png"
	GIF       Container = "gif"
	WebP      Container = "webp"
	HEIF      Container = "heif"
	TIFF      Container = "tiff"
)

// Terms lists the containers.
func (Container) Terms() []string {
	return words(MP4, QuickTime, Matroska, WebM, MPEGTS, M2TS, MPEGPS, AVI, ASF, DVDVideo, BDVideo, Ogg, FLACFile, MPEGAudio, ADTS, Wave, AIFF, JPEG, PNG, GIF, WebP, HEIF, TIFF)
}

// VideoCodec is how a picture is coded.
type VideoCodec string

// Video codecs: ISO/IEC 11172-2, 13818-2, 14496-2, 14496-10 and 23008-2, ITU-T H.266, RFC 6386,
// VP9, AV1, SMPTE 421M, Theora, motion JPEG, IEC 61834.
const (
	MPEG1  VideoCodec = "mpeg-1"
	MPEG2  VideoCodec = "mpeg-2"
	MPEG4  VideoCodec = "mpeg-4"
	H264   VideoCodec = "h264"
	HEVC   VideoCodec = "hevc"
	VVC    VideoCodec = "vvc"
	VP8    VideoCodec = "vp8"
	VP9    VideoCodec = "vp9"
	AV1    VideoCodec = "av1"
	VC1    VideoCodec = "vc-1"
	Theora VideoCodec = "theora"
	MJPEG  VideoCodec = "mjpeg"
	DV     VideoCodec = "dv"
)

// Terms lists the video codecs.
func (VideoCodec) Terms() []string {
	return words(H264, HEVC, AV1, VP9, MPEG2, MPEG4, VC1, VP8, MPEG1, VVC, Theora, MJPEG, DV)
}

// VideoProfile is a profile of a video codec; which belong to which, core/format says.
type VideoProfile string

// Profiles, by the names of the codecs' standards.
const (
	ProfileConstrainedBaseline VideoProfile = "constrained-baseline"
	ProfileBaseline            VideoProfile = "baseline"
	ProfileExtended            VideoProfile = "extended"
	ProfileSimple              VideoProfile = "simple"
	ProfileAdvancedSimple      VideoProfile = "advanced-simple"
	ProfileAdvanced            VideoProfile = "advanced"
	ProfileMain                VideoProfile = "main"
	ProfileHigh                VideoProfile = "high"
	ProfileMain10              VideoProfile = "main-10"
	ProfileHigh10              VideoProfile = "high-10"
	ProfileHigh422             VideoProfile = "high-4:2:2"
	ProfileHigh444             VideoProfile = "high-4:4:4"
	Profile422                 VideoProfile = "4:2:2"
	ProfileRangeExtensions     VideoProfile = "range-extensions"
	ProfileProfessional        VideoProfile = "professional"
	Profile0                   VideoProfile = "profile-0"
	Profile1                   VideoProfile = "profile-1"
	Profile2                   VideoProfile = "profile-2"
	Profile3                   VideoProfile = "profile-3"
)

// Terms lists the profiles.
func (VideoProfile) Terms() []string {
	return words(ProfileConstrainedBaseline, ProfileBaseline, ProfileExtended, ProfileSimple, ProfileAdvancedSimple, ProfileAdvanced, ProfileMain, ProfileHigh, ProfileMain10,
		ProfileHigh10, ProfileHigh422, ProfileHigh444, Profile422, ProfileRangeExtensions, ProfileProfessional, Profile0, Profile1, Profile2, Profile3)
}

// Chroma is how finely colour is sampled.
type Chroma string

// Chroma samplings, the coarser first.
const (
	Chroma400 Chroma = "4:0:0"
	Chroma420 Chroma = "4:2:0"
	Chroma422 Chroma = "4:2:2"
	Chroma444 Chroma = "4:4:4"
)

// Terms lists the samplings.
func (Chroma) Terms() []string { return words(Chroma400, Chroma420, Chroma422, Chroma444) }

// DynamicRange is between which lights a picture is made.
type DynamicRange string

// Dynamic ranges: PQ and HLG of ITU-R BT.2100, PQ with dynamic metadata of SMPTE ST 2094. With a base
// layer, a device without knowledge of the metadata shows the picture as PQ, or as what it names.
const (
	SDR           DynamicRange = "sdr"
	HLG           DynamicRange = "hlg"
	PQ            DynamicRange = "pq"
	PQDynamic     DynamicRange = "pq-dynamic"
	PQDynamicOnly DynamicRange = "pq-dynamic-without-base"
)

// Terms lists the ranges.
func (DynamicRange) Terms() []string { return words(SDR, HLG, PQ, PQDynamic, PQDynamicOnly) }

// SoundCodec is how sound is coded.
type SoundCodec string

// Sound codecs: PCM, ISO/IEC 11172-3 and 14496-3, ETSI TS 102 366 (AC-3, E-AC-3), TS 103 190 (AC-4) and
// TS 102 114 (Coherent Acoustics), MLP, and the open ones. An AC-3 that carries objects is E-AC-3 with
// joint object coding (TS 103 420).
const (
	PCM         SoundCodec = "pcm"
	ADPCM       SoundCodec = "adpcm"
	MP2         SoundCodec = "mp2"
	MP3         SoundCodec = "mp3"
	AAC         SoundCodec = "aac-lc"
	HEAAC       SoundCodec = "he-aac"
	AC3         SoundCodec = "ac-3"
	EAC3        SoundCodec = "e-ac-3"
	EAC3Objects SoundCodec = "e-ac-3-joc"
	AC4         SoundCodec = "ac-4"
	MLP         SoundCodec = "mlp"
	DCA         SoundCodec = "dca"
	DCALossless SoundCodec = "dca-lossless"
	FLAC        SoundCodec = "flac"
	ALAC        SoundCodec = "alac"
	Vorbis      SoundCodec = "vorbis"
	Opus        SoundCodec = "opus"
)

// Terms lists the sound codecs.
func (SoundCodec) Terms() []string {
	return words(AAC, HEAAC, MP3, AC3, EAC3, EAC3Objects, AC4, MLP, DCA, DCALossless, FLAC, ALAC, PCM, ADPCM, Vorbis, Opus, MP2)
}

// SubtitleForm is how subtitles are written.
type SubtitleForm string

// Forms of subtitles. The first three are all that is known of some.
const (
	SubtitleText   SubtitleForm = "text"
	SubtitleStyled SubtitleForm = "styled-text"
	SubtitleImage  SubtitleForm = "image"
	SubRip         SubtitleForm = "srt"
	WebVTT         SubtitleForm = "webvtt"
	TimedText      SubtitleForm = "3gpp-timed-text"
	TTML           SubtitleForm = "ttml"
	SubStation     SubtitleForm = "ass"
	Teletext       SubtitleForm = "teletext"
	ClosedCaptions SubtitleForm = "cea-608"
	DVDSubpicture  SubtitleForm = "dvd-subpicture"
	BDPresentation SubtitleForm = "bd-presentation"
	DVBSubtitle    SubtitleForm = "dvb-subtitle"
)

// Terms lists the forms.
func (SubtitleForm) Terms() []string {
	return words(SubtitleText, SubtitleStyled, SubtitleImage, SubRip, WebVTT, TimedText, TTML, SubStation, Teletext, ClosedCaptions, DVDSubpicture, BDPresentation, DVBSubtitle)
}

// SubtitlePlace is where subtitles are.
type SubtitlePlace string

// Places of subtitles.
const (
	SubtitlesInside SubtitlePlace = "inside"
	SubtitlesBeside SubtitlePlace = "beside"
)

// Values lists the places.
func (SubtitlePlace) Values() []string { return words(SubtitlesInside, SubtitlesBeside) }

// FormatTerm is a container, a codec or a form of subtitles, by the part of the file.
type FormatTerm string

// Terms lists all of them.
func (FormatTerm) Terms() []string {
	return slices.Concat(Container("").Terms(), VideoCodec("").Terms(), SoundCodec("").Terms(), SubtitleForm("").Terms())
}
