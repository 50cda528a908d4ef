import type { Schemas } from '../../api/client'

/** How much is taken, in words. */
export const stateWords: Record<Schemas['LoadCase']['state'], string> = { 'room-left': 'room left', tight: 'tight', overloaded: 'overloaded', 'not-known': 'not known' }

/** A part in per cent. */
export const barOf = (share: number) => (share > 0 && share < 0.005 ? 'less than 1 %' : `${Math.round(100 * share)} %`)

/** What the heaviest of a path needs, and how that is known. */
export function needOf(f: Schemas['LoadFlow']): string {
  if (f.gaps.length) return f.gaps.join(' ')
  if (!f.mbps) return 'is played where the files are'
  return `needs ${f.mbps.toPrecision(3)} Mb/s (${f.known}) with a fifth to spare`
}
