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

/** Hours of playing time, in the unit that tells most. */
export function playingTime(hours: number): string {
  if (hours < 1 / 60) return `${Math.max(1, Math.round(hours * 3600))} s`
  if (hours < 1) return `${Math.round(hours * 60)} min`
  return `${hours < 10 ? hours.toFixed(1) : Math.round(hours)} h`
}

/** A number of bytes in MB or GB (10^6 and 10^9 bytes). */
export const sized = (bytes: number) => (bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`)
