import type { AnyRecord, Kind, Member } from '../../api/client'
import { kindNamed, personName, nounOf } from '../../me'
import { plain, when } from '../../words'

/** All records of the kinds a page needs, by kind and id, for names of references. */
export type Known = Record<string, AnyRecord[]>

/** The words of a member's closed list, as a form offers them. */
export function choicesOf(kind: string, member: string): { title: string; value: string }[] {
  return (kindNamed(kind)?.members.find((m) => m.name === member)?.enum ?? []).map((v) => ({ title: plain(v), value: v }))
}

/** What people call a record: its labelled members, joined; a reference by what it refers to. */
export function labelOf(kind: Kind | undefined, record: AnyRecord | undefined, known: Known = {}): string {
  if (!kind || !record) return ''
  return kind.members.filter((m) => m.label).map((m) => (m.type === 'time' ? when(String(record[m.name]), false) : m.type === 'reference' ? say(m, record[m.name], known) : m.enum?.length ? plain(String(record[m.name] ?? '')) : String(record[m.name] ?? ''))).filter(Boolean).join(' ')
}

/** The member that names the record within which labels of a kind are given, such as the device of an adapter. */
export function ownerOf(kind: Kind | undefined): Member | undefined {
  return kind?.members.find((m) => m.rule === 'fixed' && m.type === 'reference' && !m.label && m.refers !== 'any' && m.refers !== 'person')
}

/** The name with that of its owner, such as "granite server eth0". */
export function fullName(known: Known, kindName: string, record: AnyRecord | undefined): string {
  const kind = kindNamed(kindName)
  const owner = ownerOf(kind)
  const within = owner && record ? nameOf(known, owner.refers ?? '', record[owner.name]) : ''
  return [within, labelOf(kind, record, known)].filter(Boolean).join(' ')
}

export function nameOf(known: Known, kindName: string, id: unknown): string {
  if (!id) return ''
  const record = known[kindName]?.find((r) => r.id === id)
  return record ? fullName(known, kindName, record) : 'a record that is gone'
}

/** A member's value as people say it. */
export function say(member: Member, value: unknown, known: Known): string {
  if (value === undefined || value === null || value === '') return ''
  if (Array.isArray(value)) return value.map((v) => say({ ...member, list: false }, v, known)).join(member.type === 'group' ? '; ' : ', ')
  switch (member.type) {
    case 'yes-no': return value ? 'yes' : ''
    case 'time': return when(String(value))
    case 'date': return when(`${String(value)}T12:00:00`, false)
    case 'reference': {
      if (member.refers === 'person') return personName(value)
      if (member.refers === 'any') { const r = value as { kind: string; id: string }; return r.kind ? `${nounOf(r.kind)} ${known[r.kind] ? nameOf(known, r.kind, r.id) : ''}`.trim() : '' }
      return nameOf(known, member.refers ?? '', value)
    }
    case 'group': {
      const group = member.group ?? []
      return group.map((g) => sayPart(g, (value as Record<string, unknown>)[g.name], known, group.length > 8)).filter(Boolean).join(' · ')
    }
    case 'map': return Object.entries(value as Record<string, unknown>).map(([k, v]) => `${k} ${String(v)}`).join(', ')
    case 'text': return member.enum?.length ? plain(String(value)) : String(value)
  }
  return String(value)
}

/** Kinds that a reference to any kind is offered from, where the member does not say. */
const anyKinds = ['room', 'device', 'interface', 'segment', 'source', 'path', 'outlet', 'line', 'software', 'issue']

export function kindsFor(member: Member): string[] {
  if (member.refers === 'any') return member.kinds?.length ? member.kinds : anyKinds
  return member.refers && member.refers !== 'person' ? [member.refers] : []
}

/** Which kinds must be loaded to say and to choose the references of a kind, with their owners. */
export function kindsNeeded(kind: Kind): string[] {
  const out = new Set<string>()
  const need = (name: string) => {
    if (out.has(name)) return
    out.add(name)
    const k = kindNamed(name)
    for (const m of k?.members ?? []) if (m.label || m === ownerOf(k)) kindsFor(m).forEach(need)
  }
  kind.members.flatMap(kindsFor).forEach(need)
  return [...out]
}

export function isMono(member: Member): boolean {
  return ['address', 'prefix', 'hardware-address'].includes(member.type) || ['port', 'locator', 'udn', 'serial', 'sha256', 'sealedAs'].includes(member.name)
}

/** A value of a group: among many its title stands before it, unless it is a text that speaks for itself. */
function sayPart(g: Member, value: unknown, known: Known, many: boolean): string {
  if (g.type === 'yes-no') return value ? g.title.toLowerCase() : ''
  const said = say(g, value, known)
  return many && value && said && (g.type !== 'text' || ['yes', 'no'].includes(said)) ? `${g.title} ${said}` : said
}
