import type { AnyRecord, Member } from '../../api/client'

/** A member that two people changed to different values; keep is what the person chose. */
export interface Clash { member: Member; mine: unknown; theirs: unknown; keep?: 'mine' | 'theirs' }

/** A value as it is sent: what is empty is nothing. */
export function tidy(m: Member, v: unknown): unknown {
  if (v === '' || v === null || v === undefined || (Array.isArray(v) && v.length === 0)) return undefined
  if (m.type === 'yes-no' && v === false) return undefined
  if (m.type === 'group' && Array.isArray(v)) return v.map((row) => tidyGroup(m, row as Record<string, unknown>) ?? {})
  if (m.type === 'group') return tidyGroup(m, v as Record<string, unknown>)
  return v
}

function tidyGroup(m: Member, row: Record<string, unknown>): Record<string, unknown> | undefined {
  const kept = (m.group ?? []).flatMap((g) => { const v = tidy(g, row[g.name]); return v === undefined ? [] : [[g.name, v] as const] })
  return kept.length ? Object.fromEntries(kept) : undefined
}

const same = (m: Member, a: unknown, b: unknown) => JSON.stringify(tidy(m, a)) === JSON.stringify(tidy(m, b))

/** Only what differs is sent; what was emptied is cleared. */
export function patchOf(members: Member[], base: AnyRecord, draft: Record<string, unknown>, isNew: boolean): Record<string, unknown> {
  const out: Record<string, unknown> = {}
  for (const m of members) {
    const now = tidy(m, draft[m.name])
    if (isNew ? now !== undefined : !same(m, now, base[m.name])) out[m.name] = now ?? null
  }
  return out
}

/** Theirs where I changed nothing, mine where they changed nothing, and what both changed. */
export function clashesOf(members: Member[], base: AnyRecord, draft: Record<string, unknown>, theirs: AnyRecord): { merged: Record<string, unknown>; clashes: Clash[] } {
  const merged = { ...draft }
  const clashes: Clash[] = []
  for (const m of members) {
    const mine = draft[m.name]
    const their = theirs[m.name]
    if (same(m, mine, base[m.name])) merged[m.name] = their
    else if (!same(m, their, base[m.name]) && !same(m, mine, their)) clashes.push({ member: m, mine, theirs: their })
  }
  return { merged, clashes }
}
