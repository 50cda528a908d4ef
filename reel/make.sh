#!/bin/bash
# Makes the sample clips anew, in clips/. They are committed, so this is needed only when they are to be others. It takes about two
# minutes and Debian's packages ffmpeg and fonts-dejavu-core. Everything in the clips is drawn and computed here.
set -euo pipefail
cd "$(dirname "$0")"
rm -rf clips && mkdir clips
font=/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf
mono=/usr/share/fonts/truetype/dejavu/DejaVuSansMono-Bold.ttf
run() { ffmpeg -nostdin -loglevel error -y "$@"; }

# picture WIDTH HEIGHT RATE SECONDS LABEL: a frame at the very edge and one at 5 % of each side, a circle, the time code, what it is, a mark that
# goes round once in four seconds, and a flash at each full second, as long as the beep.
picture() {
	local w=$1 h=$2 r=$3 s=$4 label=$5
	echo "color=c=0x12191D:s=${w}x${h}:r=${r}:d=${s},\
drawbox=x=0:y=0:w=iw:h=ih:c=0xE7BF6B:t=2,\
drawbox=x=iw*0.05:y=ih*0.05:w=iw*0.9:h=ih*0.9:c=0x8CC3D8:t=2,\
drawbox=x='mod(t\,4)/4*${w}':y=ih*0.86:w=iw*0.02:h=ih*0.05:c=0xC3A8DF:t=fill,\
drawbox=x=iw*0.42:y=ih*0.10:w=iw*0.16:h=ih*0.16:c=white:t=fill:enable='lt(mod(t\,1)\,0.08)',\
drawtext=fontfile=${mono}:fontsize=h/6:fontcolor=white:x=(w-tw)/2:y=h*0.36:timecode='00\:00\:00\:00':r=${r},\
drawtext=fontfile=${font}:fontsize=h/18:fontcolor=0xE7E2D8:x=(w-tw)/2:y=h*0.62:text='${label}',\
drawtext=fontfile=${font}:fontsize=h/3:fontcolor=0x33424B:x=w*0.04:y=h*0.30:text='○'"
}
# A beep of 80 ms at each full second, as long as the flash.
beep() { echo "aevalsrc=exprs='0.4*sin(2*PI*1000*t)*lt(mod(t\,1)\,0.08)|0.4*sin(2*PI*1000*t)*lt(mod(t\,1)\,0.08)':s=${2:-48000}:d=$1"; }
# The beep goes round six loudspeakers, a second each: front left, front right, centre, bass, left, right.
round() {
	local all="" n
	for n in 0 1 2 3 4 5; do all+="0.4*sin(2*PI*$([ $n = 3 ] && echo 60 || echo 1000)*t)*lt(mod(t\,1)\,$([ $n = 3 ] && echo 0.5 || echo 0.08))*eq(floor(mod(t\,6))\,$n)|"; done
	echo "aevalsrc=exprs='${all%|}':channel_layout=5.1:s=48000:d=$1"
}
x264="-c:v libx264 -preset slow -crf 30 -pix_fmt yuv420p -bf 2"
cat > /tmp/kaiku-chapters <<'C'
;FFMETADATA1
title=Kaiku sample
[CHAPTER]
TIMEBASE=1/1
START=0
END=20
title=First
[CHAPTER]
TIMEBASE=1/1
START=20
END=40
title=Second
[CHAPTER]
TIMEBASE=1/1
START=40
END=60
title=Third
C
for n in $(seq 0 59); do printf '%d\n00:00:%02d,000 --> 00:00:%02d,900\nSubtitle %d\n\n' $((n + 1)) "$n" "$n" "$n"; done > clips/kaiku-sample-h264-1080p25-aac.srt

run -f lavfi -i "$(picture 1920 1080 25 60 'H.264, 1080p25, AAC')" -f lavfi -i "$(beep 60)" -i /tmp/kaiku-chapters -map_metadata 2 -map_chapters 2 -map 0 -map 1 \
	$x264 -profile:v high -level 4.0 -g 50 -c:a aac -b:a 64k -movflags +faststart clips/kaiku-sample-h264-1080p25-aac.mp4
run -f lavfi -i "$(picture 1920 1080 50 12 'H.264, 1080p50, AAC')" -f lavfi -i "$(beep 12)" $x264 -profile:v high -level 4.2 -g 100 -c:a aac -b:a 64k -movflags +faststart clips/kaiku-sample-h264-1080p50-aac.mp4
run -f lavfi -i "$(picture 1280 720 25 12 'H.264, 720p25, AAC, index at the end')" -f lavfi -i "$(beep 12)" $x264 -profile:v main -level 3.1 -g 50 -c:a aac -b:a 64k clips/kaiku-sample-h264-720p25-aac-index-last.mp4
run -f lavfi -i "$(picture 1920 1080 25 12 'HEVC 10 bit, HDR, 1080p25, AAC')" -f lavfi -i "$(beep 12)" -i clips/kaiku-sample-h264-1080p25-aac.srt -map 0 -map 1 -map 2 -t 12 \
	-c:v libx265 -preset fast -crf 32 -pix_fmt yuv420p10le -profile:v main10 -color_primaries bt2020 -color_trc smpte2084 -colorspace bt2020nc \
	-x265-params log-level=error:hdr10=1:colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc:master-display="G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)":max-cll="1000,400" \
	-c:a aac -b:a 64k -c:s srt clips/kaiku-sample-hevc10-hdr-1080p25-aac.mkv
run -f lavfi -i "$(picture 3840 2160 25 6 'HEVC 10 bit, 2160p25, AAC')" -f lavfi -i "$(beep 6)" -c:v libx265 -preset fast -crf 34 -pix_fmt yuv420p10le -profile:v main10 -tag:v hvc1 -x265-params log-level=error \
	-c:a aac -b:a 64k -movflags +faststart clips/kaiku-sample-hevc10-2160p25-aac.mp4
run -f lavfi -i "$(picture 720 576 25 12 'MPEG-2, 576i25, AC-3')" -f lavfi -i "$(beep 12)" -c:v mpeg2video -q:v 12 -pix_fmt yuv420p -flags +ilme+ildct -top 1 -g 12 -aspect 16:9 -c:a ac3 -b:a 96k -f mpegts clips/kaiku-sample-mpeg2-576i25-ac3.ts
run -f lavfi -i "$(picture 1920 1080 25 12 'H.264, 1080p25, AC-3 5.1')" -f lavfi -i "$(round 12)" $x264 -profile:v high -level 4.0 -g 50 -c:a ac3 -b:a 256k -f mpegts clips/kaiku-sample-h264-1080p25-ac3-51.ts
run -f lavfi -i "$(picture 720 576 25 12 'MPEG-4, 576p25, MP3')" -f lavfi -i "$(beep 12)" -c:v libxvid -q:v 8 -g 100 -aspect 16:9 -c:a libmp3lame -b:a 96k clips/kaiku-sample-mpeg4-576p25-mp3.avi
run -f lavfi -i "$(picture 1280 720 25 12 'VP9, 720p25, Opus')" -f lavfi -i "$(beep 12)" -c:v libvpx-vp9 -crf 45 -b:v 0 -deadline good -cpu-used 4 -g 50 -pix_fmt yuv420p -c:a libopus -b:a 48k clips/kaiku-sample-vp9-720p25-opus.webm
tone() { echo "aevalsrc=exprs='0.3*sin(2*PI*440*t)*lt(mod(t\,1)\,0.5)|0.3*sin(2*PI*554.37*t)*gt(mod(t\,1)\,0.5)':s=$1:d=$2"; } # left, then right, in each second
run -f lavfi -i "$(tone 44100 8)" -metadata title='Sample FLAC 16 bit 44.1 kHz' -c:a flac -sample_fmt s16 clips/kaiku-sample-flac-16-44.flac
run -f lavfi -i "$(tone 96000 3)" -metadata title='Sample FLAC 24 bit 96 kHz' -c:a flac -sample_fmt s32 -bits_per_raw_sample 24 clips/kaiku-sample-flac-24-96.flac
run -f lavfi -i "$(tone 44100 15)" -metadata title='Sample MP3' -c:a libmp3lame -b:a 128k clips/kaiku-sample-mp3.mp3
run -f lavfi -i "$(tone 44100 15)" -metadata title='Sample Ogg Vorbis' -c:a libvorbis -q:a 3 clips/kaiku-sample-vorbis.ogg
run -f lavfi -i "$(tone 44100 15)" -metadata title='Sample AAC' -c:a aac -b:a 96k clips/kaiku-sample-aac.m4a
run -f lavfi -i "$(picture 1920 1080 25 1 'JPEG, 1920 x 1080')" -frames:v 1 -q:v 8 clips/kaiku-sample-jpeg.jpg
du -cb clips/* | tail -n 1
