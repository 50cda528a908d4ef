import { records, type AnyRecord } from '../../api/client'
import type { Known } from './values'
import { kindNamed } from '../../me'

/** All records of the named kinds. */
export async function loadKinds(code: string, kinds: string[]): Promise<Known> {
  const lists = await Promise.all(kinds.map((name) => loadAll(code, name)))
  return Object.fromEntries(kinds.map((name, n) => [name, lists[n] ?? []]))
}

async function loadAll(code: string, name: string): Promise<AnyRecord[]> {
  if (name === 'household') return [(await records<AnyRecord>('GET', `/households/${code}`)).data]
  const all: AnyRecord[] = []
  for (;;) {
    const { data } = await records<{ records: AnyRecord[] }>('GET', `/households/${code}/${kindNamed(name)?.plural}?limit=200&after=${all.at(-1)?.id ?? ''}`)
    all.push(...data.records)
    if (data.records.length < 200) return all
  }
}

export function recordPath(code: string, kind: string, id = ''): `/households/${string}` {
  if (kind === 'household') return `/households/${code}`
  return `/households/${code}/${kindNamed(kind)?.plural}${id ? '/' + id : ''}`
}
