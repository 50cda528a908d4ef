import type { AnyRecord, Kind, Member } from '../../api/client'
import { me, personName } from '../../me'
import { plain, when } from '../../words'

/** All records of the kinds a page needs, by kind and id, for names of references. */
export type Known = Record<string, AnyRecord[]>

export function kindNamed(name: string): Kind | undefined {
  return me.kinds.find((k) => k.name === name)
}

export function labelOf(kind: Kind | undefined, record: AnyRecord | undefined): string {
  if (!kind || !record) return ''
  return kind.members.filter((m) => m.label).map((m) => String(record[m.name] ?? '')).join(' ')
}

export function nameOf(known: Known, kindName: string, id: unknown): string {
  const record = known[kindName]?.find((r) => r.id === id)
  return labelOf(kindNamed(kindName), record) || (id ? 'a record that is gone' : '')
}

/** A member's value as people say it. */
export function say(member: Member, value: unknown, known: Known): string {
  if (value === undefined || value === null || value === '') return ''
  if (Array.isArray(value)) return value.map((v) => say({ ...member, list: false }, v, known)).join(', ')
  switch (member.type) {
    case 'yes-no': return value ? 'yes' : ''
    case 'time': return when(String(value))
    case 'reference': {
      if (member.refers === 'person') return personName(value)
      if (member.refers === 'any') { const r = value as { kind: string; id: string }; return `${plain(r.kind)} ${nameOf(known, r.kind, r.id)}` }
      return nameOf(known, member.refers ?? '', value)
    }
    case 'group': return (member.group ?? []).map((g) => say(g, (value as Record<string, unknown>)[g.name], known)).filter(Boolean).join(' · ')
    case 'map': return Object.entries(value as Record<string, unknown>).map(([k, v]) => `${k} ${String(v)}`).join(', ')
    case 'text': return member.enum?.length ? plain(String(value)) : String(value)
  }
  return String(value)
}

/** Which kinds must be loaded to say the references of a kind. */
export function kindsNeeded(kind: Kind): string[] {
  return [...new Set(kind.members.flatMap((m) => (m.refers && m.refers !== 'person' && m.refers !== 'any' ? [m.refers] : [])))]
}

export function isMono(member: Member): boolean {
  return ['address', 'prefix', 'hardware-address'].includes(member.type) || ['port', 'locator', 'udn', 'serial'].includes(member.name)
}
