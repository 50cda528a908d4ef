import type { Schemas } from '../../api/client'

/** How much is taken, in words. */
export const stateWords: Record<Schemas['LoadCase']['state'], string> = { 'room-left': 'room left', tight: 'tight', overloaded: 'overloaded', 'not-known': 'not known' }

/** A part in per cent. */
export const barOf = (share: number) => (share > 0 && share < 0.005 ? 'less than 1 %' : `${Math.round(100 * share)} %`)

/** What the heaviest of a path needs and how that is known, the way that it takes, and what is not known of it. */
export function flowSaid(f: Schemas['LoadFlow']): string {
  const need = f.mbps ? `needs ${f.mbps.toPrecision(3)} Mb/s (${f.known}) with a fifth to spare` : f.gaps.length ? '' : 'is played where the files are'
  const way = f.way.length > 1 ? f.way.map((d) => d.label).join(' → ') : ''
  const flow = [need, way].filter(Boolean).join(': ')
  return [flow && `${flow}.`, ...f.gaps].filter(Boolean).join(' ')
}
