import type { Known } from './values'

/**
 * How an address begins in the segment that a form names (or in the form's own prefix, or in the
 * home's only segment): the octets that the prefix fixes.
 */
export function addressStart(draft: Record<string, unknown>, known: Known): string {
  const segments = known.segment ?? []
  const segment = segments.find((s) => s.id === draft.segment) ?? (segments.length === 1 ? segments[0] : undefined)
  return startOf(String(draft.prefix ?? segment?.prefix ?? ''))
}

export function startOf(prefix: string): string {
  const m = /^(\d+)\.(\d+)\.(\d+)\.\d+\/(\d+)$/.exec(prefix)
  if (!m) return ''
  const octets = m.slice(1, 4).slice(0, Math.floor(Number(m[4]) / 8))
  return octets.length ? octets.join('.') + '.' : ''
}
