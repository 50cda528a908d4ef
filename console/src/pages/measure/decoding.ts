import type { Schemas } from '../../api/client'

type Question = Schemas['DecodingQuestion']

/** What the browser says of one question; null where it does not say, or not for certain. */
export async function answerOf(q: Question, browser: { capabilities?: Pick<MediaCapabilities, 'decodingInfo'>; canPlay: (type: string) => string }): Promise<boolean | null> {
  const asked = { type: 'file' as const, ...(q.width ? { video: { contentType: q.type, width: q.width, height: q.height ?? 0, framerate: q.frameRate ?? 25, bitrate: q.bitsPerSecond ?? 1, ...inRange[q.range ?? 'sdr'] } } : { audio: { contentType: q.type, channels: String(q.channels ?? 2), samplerate: q.sampleRate ?? 48000 } }) }
  try {
    if (browser.capabilities) {
      const info = await browser.capabilities.decodingInfo(asked)
      // What it decodes but not smoothly it does not play: neither yes nor no would be true.
      return info.supported && !info.smooth ? null : info.supported
    }
  } catch {
    // It does not know this way of asking, or not this type.
  }
  // The older way says nothing of a dynamic range, and "maybe" does not count as an answer.
  if (q.range && q.range !== 'sdr') return null
  const can = browser.canPlay(q.type)
  return can === 'probably' ? true : can === '' ? false : null
}

const inRange: Record<string, object> = {
  sdr: {}, pq: { transferFunction: 'pq', colorGamut: 'rec2020', hdrMetadataType: 'smpteSt2086' }, hlg: { transferFunction: 'hlg', colorGamut: 'rec2020' },
}

/** Asks this browser all questions, one after the other. */
export async function answers(questions: Question[]): Promise<(boolean | null)[]> {
  const probe = document.createElement('video')
  const out = []
  for (const q of questions) out.push(await answerOf(q, { capabilities: navigator.mediaCapabilities, canPlay: (type) => probe.canPlayType(type) }))
  return out
}
