import type { Schemas } from '../../api/client'

export type Coverage = Schemas['Coverage']
/** Where tests stand, from the bottom of a strip to its top; the theme has a colour of each name. */
export const layers = ['proven', 'marginal', 'waived', 'failed', 'inDoubt', 'stale', 'untried'] as const
export const colourOf = (layer: (typeof layers)[number]) => (layer === 'inDoubt' ? 'doubt' : layer)

export interface Block { x: number; width: number; y: number; height: number; layer: (typeof layers)[number] }

/**
 * The blocks of one room's strip: each day reaches to the next one, the last to now. x and width are shares of the whole time,
 * y and height shares of the most tests that the room ever had, counted from the top.
 */
export function blocksOf(history: Schemas['CoverageHistory'], room: number, now: number): Block[] {
  const days = history.days.map((d) => ({ at: Date.parse(d.at), coverage: d.rooms.find((r) => r.room === room)?.coverage }))
  const first = days[0]?.at ?? now
  const span = Math.max(now - first, 1)
  const most = Math.max(...days.map((d) => d.coverage?.required ?? 0), 1)
  const out: Block[] = []
  days.forEach((d, i) => {
    const until = days[i + 1]?.at ?? now
    let below = 0
    for (const layer of layers) {
      const n = d.coverage?.[layer] ?? 0
      if (!n) continue
      below += n
      out.push({ x: (d.at - first) / span, width: (until - d.at) / span, y: 1 - below / most, height: n / most, layer })
    }
  })
  return out
}
