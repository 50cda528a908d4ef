import type { Schemas, Test } from '../../api/client'

export type Reading = NonNullable<Test['reading']>
export type ClipReading = Schemas['ClipReading']

/** What is asked for, by what a sample clip shows for the test. */
export const asks: Record<Exclude<Reading, 'lips'>, { asked: string; seen: string; after: string }> = {
  jump: { asked: 'Jumped to', seen: 'Time code on the screen', after: 'Seconds after the jump' },
  'going-on': { asked: 'Time code where it was stopped', seen: 'Time code where it went on', after: 'Seconds it had played when you read it' },
  'standing-still': { asked: 'First time code', seen: 'Second time code', after: 'Seconds between the two, by a clock' },
}

/** What was typed, as numbers and text; undefined while something is missing. */
export interface Typed { asked: string; seen: string; after: string; frames: string; rate: string }
export const nothingTyped = (): Typed => ({ asked: '', seen: '', after: '', frames: '', rate: '' })

const number = (s: string) => (s.trim() === '' ? undefined : Number(s.trim().replace(',', '.')))

export function readingOf(reads: Reading, t: Typed): ClipReading | undefined {
  if (reads === 'lips') {
    const frames = number(t.frames), rate = number(t.rate)
    return frames === undefined || rate === undefined || !Number.isFinite(frames) || !(rate > 0) ? undefined : { frames, rate }
  }
  const after = number(t.after)
  if (!t.asked.trim() || !t.seen.trim() || (after !== undefined && !(after >= 0)) || (reads === 'standing-still' && !after)) return undefined
  return { asked: t.asked.trim(), seen: t.seen.trim(), ...(after && { afterS: after }) }
}
