import { describe, expect, it } from 'vitest'
import { answerOf } from './decoding'

const picture = { type: 'video/mp4; codecs="hvc1.2.4.L153.90"', width: 3840, height: 2160, frameRate: 60, bitsPerSecond: 60e6, range: 'pq' as const }
const song = { type: 'audio/mpeg', channels: 2, sampleRate: 48000 }
const says = (supported: boolean, smooth: boolean, seen: unknown[] = []) => ({ capabilities: { decodingInfo: async (asked: unknown) => { seen.push(asked); return { supported, smooth, powerEfficient: true } as MediaCapabilitiesDecodingInfo } }, canPlay: () => 'probably' })

describe('what a browser says of itself', () => {
  it('is taken at its word', async () => {
    expect(await answerOf(picture, says(true, true))).toBe(true)
    expect(await answerOf(picture, says(false, false))).toBe(false)
    expect(await answerOf(picture, says(true, false))).toBe(null)
  })
  it('is asked with size, rate and dynamic range', async () => {
    const seen: { type: string; video?: Record<string, unknown>; audio?: Record<string, unknown> }[] = []
    await answerOf(picture, says(true, true, seen))
    await answerOf(song, says(true, true, seen))
    expect(seen[0]).toMatchObject({ type: 'file', video: { contentType: picture.type, width: 3840, height: 2160, framerate: 60, bitrate: 60e6, transferFunction: 'pq' } })
    expect(seen[1]).toMatchObject({ type: 'file', audio: { contentType: 'audio/mpeg', channels: '2', samplerate: 48000 } })
    expect(seen[1]!.video).toBeUndefined()
  })
  it('falls back to the older way, where "maybe" does not count as an answer', async () => {
    const older = (can: string) => ({ canPlay: () => can })
    expect(await answerOf(song, older('probably'))).toBe(true)
    expect(await answerOf(song, older('maybe'))).toBe(null)
    expect(await answerOf(song, older(''))).toBe(false)
    expect(await answerOf(picture, older('probably'))).toBe(null)
    const throws = { capabilities: { decodingInfo: () => Promise.reject(new TypeError('bad')) }, canPlay: () => 'probably' }
    expect(await answerOf(song, throws)).toBe(true)
  })
})
