import type { Schemas } from '../../api/client'

type Cell = Schemas['ForecastCell']

/** The most that may be said of a whole folder on a device, in words. */
export const gradeWords: Record<Cell['grade'], string> = {
  plays: 'plays as it is', converted: 'plays, some converted', partly: 'plays in part', none: 'does not play', 'in-doubt': 'part not known', 'not-known': 'not known',
}

/** The mark and the word for a cell. A film without its sound is not said not to play. */
export function markOf(cell: Cell): { state: string; word: string } {
  const silent = cell.grade === 'none' && cell.shares.every((s) => s.outcome === 'silent')
  return silent ? { state: 'silent', word: 'silent' } : { state: cell.grade, word: gradeWords[cell.grade] }
}

/** What becomes of a format on a path, in words. */
export const outcomeWords: Record<Cell['lines'][number]['outcome'], string> = {
  'as-is': 'as it is', repackaged: 'repackaged', 'sound-converted': 'sound converted', 'picture-converted': 'picture converted', silent: 'silent', unplayable: 'does not play', 'not-known': 'not known',
}

/** Hours of playing time, with a tenth where that still tells something. */
export const playingTime = (hours: number) => `${hours < 10 ? hours.toFixed(1) : Math.round(hours)} h`
