import { ref } from 'vue'
import { post, type NewParcel } from '../../outbox'
import { recordPath } from '../records/useRecords'

/** Puts what a quick form made into the outbox, then says that it is done. */
export function useWalkForm(code: string, room: string, done: () => void) {
  const busy = ref(false)

  async function hand(parcels: Omit<NewParcel, 'code' | 'room'>[]) {
    busy.value = true
    try {
      for (const p of parcels) await post({ ...p, code, room })
      done()
    } finally {
      busy.value = false
    }
  }

  /** A new record of a kind. */
  const added = (kind: string, title: string, body: Record<string, unknown>) => ({ title, method: 'POST' as const, path: recordPath(code, kind), body: stripped(body) })
  return { busy, hand, added }
}

/** Without what was left empty. */
export function stripped(body: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(Object.entries(body).filter(([, v]) => v !== '' && v !== undefined && v !== null && !(Array.isArray(v) && !v.length)))
}

/** A number as people type it, or undefined. */
export function typed(text: string): number | undefined {
  const n = Number(text.trim().replace(',', '.'))
  return text.trim() && Number.isFinite(n) ? n : undefined
}

/** The label after this one: A1 is followed by A2, P09 by P10. */
export function nextLabel(label: string, by = 1): string {
  return /\d+$/.test(label) ? label.replace(/\d+$/, (n) => String(Number(n) + by).padStart(n.length, '0')) : by ? `${label} ${by + 1}` : label
}
