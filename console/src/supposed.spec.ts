import { beforeEach, expect, test, vi } from 'vitest'

let store: Record<string, string>

/** A page that has just been opened in the tab, which keeps what the page before it left. */
async function page(): Promise<typeof import('./supposed')> {
  vi.resetModules()
  return import('./supposed')
}
const change = (name: string) => ({ said: name, steps: [{ verb: 'set' as const, kind: 'device', id: 'd', members: { name } }] })
const read = (header: Record<string, string>) => {
  const text = header['Kaiku-Suppose']
  if (!text) return undefined
  const bytes = Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (c) => c.charCodeAt(0))
  return JSON.parse(new TextDecoder().decode(bytes)) as unknown
}

beforeEach(() => {
  store = {}
  vi.stubGlobal('sessionStorage', { getItem: (k: string) => store[k] ?? null, setItem: (k: string, v: string) => { store[k] = v } })
})

test('what is supposed goes with every request of that home, and with no other', async () => {
  const { suppose, supposeHeader, supposed } = await page()
  expect(supposeHeader('/households/H-0001/load')).toEqual({})
  suppose('H-0001', change('Größe ✓'))
  expect(read(supposeHeader('http://here/api/v1/households/H-0001/load?x=1'))).toEqual(change('Größe ✓').steps)
  expect(read(supposeHeader('/households/H-0001'))).toHaveLength(1)
  expect(supposeHeader('/households/H-0001/preview'), 'the comparison is with the home as it is').toEqual({})
  expect(supposeHeader('/households/H-0001/preview/make')).toEqual({})
  for (const url of ['/households/H-0002/load', '/households/H-00011/load', '/households', '/people']) expect(supposeHeader(url), url).toEqual({})
  supposed.on = false
  expect(supposeHeader('/households/H-0001/load')).toEqual({})
})

test('it outlives the page in its tab, and what was supposed elsewhere is dropped', async () => {
  const first = await page()
  first.suppose('H-0001', change('one'))
  first.suppose('H-0001', change('two'))
  await vi.waitFor(() => expect(store['kaiku-supposed']).toContain('two'))
  const second = await page()
  expect(second.supposing('H-0001')).toBe(true)
  second.dropSupposed(0)
  expect(second.supposed.changes.map((s) => s.said)).toEqual(['two'])
  second.suppose('H-0002', change('three'))
  expect(second.supposing('H-0001')).toBe(false)
  expect(second.supposed.changes.map((s) => s.said)).toEqual(['three'])
  second.dropSupposed()
  expect(second.supposed.on).toBe(false)
})

test('a tab that keeps nothing, or something else, begins with nothing', async () => {
  store['kaiku-supposed'] = '{broken'
  expect((await page()).supposed.changes).toEqual([])
  vi.stubGlobal('sessionStorage', { getItem: () => { throw new Error('not here') }, setItem: () => { throw new Error('not here') } })
  const { suppose, supposing } = await page()
  suppose('H-0001', change('one'))
  expect(supposing('H-0001')).toBe(true)
})
