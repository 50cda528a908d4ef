import { computed, reactive } from 'vue'
import { asFailure, Failure, failureOf, type Problem } from './api/client'
import { me } from './me'
import { supposing } from './supposed'

/**
 * Writes on their way to the server, kept in the browser until it has them: a cellar without a
 * line loses nothing. They are sent in their order, each under a key of its own, so that one that
 * was sent twice is written once, and each says when it was done.
 */
export interface Parcel {
  n: number
  who: string
  code: string
  room: string // id of the room it is about, or ''
  title: string // what it is, for people
  method: 'POST' | 'PATCH'
  path: string
  headers: Record<string, string>
  body: Blob
  doneAt: string
  refused?: Problem
}

/** The path begins below the address of the API. */
export type NewParcel = Pick<Parcel, 'code' | 'room' | 'title' | 'method'> & { path: `/households/${string}`; body: unknown; headers?: Record<string, string> }

const name = 'kaiku-outbox'
let opened: Promise<IDBDatabase> | undefined

/** What the pages show of it. Kept is false where the browser keeps nothing: then it is gone with the page. */
export const outbox = reactive<{ parcels: Parcel[]; sending: boolean; why: string; kept: boolean; sentAt: string }>({ parcels: [], sending: false, why: '', kept: true, sentAt: '' })
export const waiting = computed(() => outbox.parcels.filter((p) => !p.refused))
export const refused = computed(() => outbox.parcels.filter((p) => p.refused))

/** Ids of records are made here, so that what comes after can refer to them (UUIDv7, RFC 9562). */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  const now = Date.now()
  for (let i = 0; i < 6; i++) bytes[i] = Math.floor(now / 2 ** (8 * (5 - i))) & 0xff
  bytes[6] = (bytes[6]! & 0x0f) | 0x70
  bytes[8] = (bytes[8]! & 0x3f) | 0x80
  const hex = Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

function open(): Promise<IDBDatabase> {
  opened ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(name, 1)
    request.onupgradeneeded = () => request.result.createObjectStore('parcels', { keyPath: 'n', autoIncrement: true })
    request.onsuccess = () => resolve(request.result)
    request.onerror = () => reject(request.error ?? new Error('nothing can be kept here'))
  })
  return opened
}

async function run<T>(work: (s: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const db = await open()
  return new Promise<T>((resolve, reject) => {
    const t = db.transaction('parcels', 'readwrite', { durability: 'strict' })
    const request = work(t.objectStore('parcels'))
    t.oncomplete = () => resolve(request.result)
    t.onabort = () => reject(t.error ?? new Error('not kept'))
  })
}

let made = 0 // counts down for parcels that only this page holds

/** Takes a write in, and sends what waits. It returns once the browser has kept it. */
export async function post(p: NewParcel): Promise<void> {
  if (supposing(p.code)) throw new Failure({ type: '', title: 'Nothing is written while supposing', status: 400, code: 'suppose-only-reads', detail: 'Changes are only supposed, so nothing is written.', remedy: 'Make the supposed changes or drop them, then try again.' })
  const isFile = p.body instanceof Blob
  const parcel = {
    who: me.session?.person.id ?? '', code: p.code, room: p.room, title: p.title, method: p.method, path: p.path, doneAt: new Date().toISOString(),
    body: isFile ? (p.body as Blob) : new Blob([JSON.stringify(p.body)]),
    headers: { 'Content-Type': isFile ? 'application/octet-stream' : p.method === 'PATCH' ? 'application/merge-patch+json' : 'application/json', 'Idempotency-Key': newId(), ...p.headers },
  }
  try {
    const n = (await run((s) => s.add(parcel))) as number
    outbox.parcels.push({ ...parcel, n })
  } catch {
    outbox.kept = false
    outbox.parcels.push({ ...parcel, n: --made })
  }
  void send()
}

/** Sends a write at once and returns its answer or, without a line or while others wait before it, takes it in and returns nothing. */
export async function sendOrKeep<T>(write: () => Promise<T>, p: NewParcel): Promise<T | undefined> {
  try {
    if (outbox.parcels.length) throw new TypeError('what was done before waits to be sent')
    return await write()
  } catch (e) {
    const failed = asFailure(e)
    if (!(failed instanceof Failure) || failed.problem.status) throw e // it was answered
    await post(p)
    return undefined
  }
}

let begun = ''

/** Reads what was kept when the page was last open, and begins to send. Called once someone is logged in. */
export async function begin() {
  const who = me.session?.person.id ?? ''
  if (begun === who) return
  if (!begun) addEventListener('online', () => void send())
  begun = who
  try {
    const kept = (await run((s) => s.getAll())) as Parcel[]
    const known = new Set(outbox.parcels.map((p) => p.n))
    outbox.parcels = [...kept.filter((p) => p.who === who && !known.has(p.n)), ...outbox.parcels.filter((p) => p.who === who)]
  } catch {
    outbox.kept = false
  }
  void send()
}

let again: ReturnType<typeof setTimeout> | undefined
let pause = 2000

/** Sends what waits, in its order. What the server refuses stays for the person; without an answer it is tried again. */
export async function send() {
  if (outbox.sending) return
  outbox.sending = true
  clearTimeout(again)
  try {
    for (let p = waiting.value[0]; p; p = waiting.value[0]) {
      const said = await one(p)
      if (said === 'sent') {
        pause = 2000
        continue
      }
      if (said === 'refused') continue
      outbox.why = said
      again = setTimeout(() => void send(), pause)
      pause = Math.min(pause * 2, 60000)
      return
    }
    outbox.why = ''
  } finally {
    outbox.sending = false
  }
}

async function one(p: Parcel): Promise<string> {
  let response: Response
  let text: string
  try {
    response = await fetch('/api/v1' + p.path, { method: p.method, headers: { ...p.headers, 'Kaiku-Done-At': p.doneAt, 'Kaiku-Clock': new Date().toISOString() }, body: p.body })
    text = await response.text()
  } catch {
    return 'no connection'
  }
  if (response.status === 401) return 'you are logged out'
  if (response.status === 429 || response.status >= 500) return 'Kaiku cannot accept it now'
  if (response.ok) {
    await drop(p)
    outbox.sentAt = new Date().toISOString()
    return 'sent'
  }
  p.refused = failureOf(text).problem
  await keep(p)
  return 'refused'
}

async function keep(p: Parcel) {
  if (p.n > 0) await run((s) => s.put({ ...p, headers: { ...p.headers }, refused: p.refused && (JSON.parse(JSON.stringify(p.refused)) as Problem) })).catch(() => undefined)
}

/** Throws a write away. */
export async function drop(p: Parcel) {
  outbox.parcels = outbox.parcels.filter((o) => o.n !== p.n)
  if (p.n > 0) await run((s) => s.delete(p.n)).catch(() => undefined)
}

/** Sends again what was refused, usually after the cause was removed. */
export async function tryAgain(p: Parcel) {
  const mine = outbox.parcels.find((o) => o.n === p.n)
  if (!mine) return
  delete mine.refused
  await keep(mine)
  await send()
}
