import 'fake-indexeddb/auto'
import { IDBFactory } from 'fake-indexeddb'
import { beforeEach, expect, test, vi } from 'vitest'

type Outbox = typeof import('./outbox')

const petri = { person: { id: 'petri' } }
let sent: { path: string; headers: Record<string, string>; body: string }[]
let answer: (path: string) => Response | Promise<Response>
const ok = () => new Response('{}', { status: 200 })

/** A page that has just been opened in a browser, which keeps what the page before it left. */
async function page(who: unknown = petri): Promise<Outbox> {
  vi.resetModules()
  const { me } = await import('./me')
  me.session = who as typeof me.session
  return import('./outbox')
}

const write = (title: string) => ({ code: 'H-0001', room: 'r', title, method: 'POST' as const, path: `/households/H-0001/${title}` as const, body: { title } })
const settled = async (box: Outbox) => vi.waitFor(() => expect(box.outbox.sending).toBe(false))

beforeEach(() => {
  vi.useRealTimers()
  vi.stubGlobal('indexedDB', new IDBFactory())
  vi.stubGlobal('addEventListener', () => undefined)
  sent = []
  answer = ok
  vi.stubGlobal('fetch', async (path: string, init: { headers: Record<string, string>; body: Blob }) => {
    sent.push({ path, headers: init.headers, body: await init.body.text() })
    return answer(path)
  })
})

test('writes are sent in their order, each once under a key of its own and with when it was done', async () => {
  const box = await page()
  await box.post(write('one'))
  await box.post(write('two'))
  await settled(box)
  expect(sent.map((s) => s.path)).toEqual(['/api/v1/households/H-0001/one', '/api/v1/households/H-0001/two'])
  expect(sent[0]!.body).toBe('{"title":"one"}')
  expect(new Set(sent.map((s) => s.headers['Idempotency-Key'])).size).toBe(2)
  for (const s of sent) {
    expect(s.headers['Idempotency-Key']).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/)
    expect(Date.now() - Date.parse(s.headers['Kaiku-Done-At']!)).toBeLessThan(60_000)
    expect(Math.abs(Date.now() - Date.parse(s.headers['Kaiku-Clock']!))).toBeLessThan(60_000)
  }
  expect(box.outbox.parcels).toEqual([])
  expect(box.outbox.sentAt).not.toBe('')
})

test('without a line nothing is lost, also when the page is thrown away, and it is sent under the same key', async () => {
  answer = () => Promise.reject(new TypeError('gone'))
  const box = await page()
  await box.post(write('one'))
  await box.post(write('two'))
  await settled(box)
  expect(box.outbox.why).toBe('no connection')
  expect(box.outbox.kept).toBe(true)
  expect(new Set(sent.map((s) => s.path)).size, 'the second waits for the first').toBe(1)
  const key = sent[0]!.headers['Idempotency-Key']

  answer = ok
  sent = []
  const next = await page()
  await next.begin()
  await vi.waitFor(() => expect(next.outbox.parcels).toEqual([]))
  expect(sent.map((s) => s.path.at(-1))).toEqual(['e', 'o'])
  expect(sent[0]!.headers['Idempotency-Key']).toBe(key)
  const after = await page()
  await after.begin()
  await settled(after)
  expect(after.outbox.parcels, 'what was sent is not kept').toEqual([])
})

test('what one person wrote is not sent by the next', async () => {
  answer = () => Promise.reject(new TypeError('gone'))
  const box = await page()
  await box.post(write('one'))
  await settled(box)
  sent = []
  answer = ok
  const other = await page({ person: { id: 'maarit' } })
  await other.begin()
  await settled(other)
  expect(sent).toEqual([])
  expect(other.outbox.parcels).toEqual([])
})

test.each([[401, 'you are logged out'], [429, 'Kaiku cannot accept it now'], [503, 'Kaiku cannot accept it now']])('an answer of %i is tried again later', async (status, why) => {
  answer = () => new Response('{}', { status })
  const box = await page()
  await box.post(write('one'))
  await settled(box)
  expect(box.outbox.why).toBe(why)
  expect(box.waiting.value).toHaveLength(1)
  expect(box.refused.value).toHaveLength(0)
})

test('what the server refuses stays for the person, does not hold up the rest, and can be sent again', async () => {
  answer = (path) => (path.endsWith('one') ? new Response(JSON.stringify({ code: 'not-valid', title: 't', detail: 'd', remedy: 'r', status: 422, type: '' }), { status: 422 }) : ok())
  const box = await page()
  await box.post(write('one'))
  await box.post(write('two'))
  await settled(box)
  expect(box.refused.value.map((p) => [p.title, p.refused?.code])).toEqual([['one', 'not-valid']])
  expect(box.waiting.value).toEqual([])

  const next = await page() // also when the page was thrown away
  await next.begin()
  expect(next.refused.value.map((p) => p.title)).toEqual(['one'])
  answer = ok
  await next.tryAgain(next.refused.value[0]!)
  await vi.waitFor(() => expect(next.outbox.parcels).toEqual([]))
})

test('a browser that keeps nothing says so, and sends all the same', async () => {
  vi.stubGlobal('indexedDB', { open: () => { throw new DOMException('no', 'SecurityError') } })
  const box = await page()
  await box.post(write('one'))
  await vi.waitFor(() => expect(box.outbox.parcels).toEqual([]))
  expect(box.outbox.kept).toBe(false)
  expect(sent).toHaveLength(1)
})

test('the pause before it is tried again grows from two seconds to a minute', async () => {
  vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
  vi.stubGlobal('indexedDB', { open: () => { throw new DOMException('no', 'SecurityError') } })
  answer = () => new Response('{}', { status: 503 })
  const box = await page()
  await box.post(write('one'))
  for (const pause of [2000, 4000, 8000, 16000, 32000, 60000, 60000]) {
    await vi.advanceTimersByTimeAsync(0)
    expect(box.outbox.sending).toBe(false)
    const before = sent.length
    await vi.advanceTimersByTimeAsync(pause - 1)
    expect(sent).toHaveLength(before)
    await vi.advanceTimersByTimeAsync(1)
    expect(sent).toHaveLength(before + 1)
  }
})

test('a write is sent straight away where possible, kept when offline or behind others, and a refusal is passed on', async () => {
  const box = await page()
  expect(await box.sendOrKeep(async () => 'made', write('one'))).toBe('made')
  expect(box.outbox.parcels).toEqual([])
  answer = () => Promise.reject(new TypeError('gone'))
  expect(await box.sendOrKeep(() => Promise.reject(new TypeError('gone')), write('two'))).toBeUndefined()
  expect(box.outbox.parcels.map((p) => p.title)).toEqual(['two'])
  let asked = false
  expect(await box.sendOrKeep(async () => { asked = true }, write('three'))).toBeUndefined()
  expect(asked, 'it overtakes nothing that waits').toBe(false)
  expect(box.outbox.parcels.map((p) => p.title)).toEqual(['two', 'three'])
  const other = await page()
  const { Failure } = await import('./api/client')
  const refusal = new Failure({ type: '', title: 'No', status: 422, code: 'not-valid', detail: 'no', remedy: '' })
  await expect(other.sendOrKeep(() => Promise.reject(refusal), write('four'))).rejects.toBe(refusal)
})
