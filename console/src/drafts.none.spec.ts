import { expect, test, vi } from 'vitest'

test('a browser that keeps nothing still lets people type', async () => {
  vi.stubGlobal('indexedDB', { open: () => { throw new DOMException('no', 'SecurityError') } })
  const { draftOf, keepDraft, dropDrafts } = await import('./drafts')
  await keepDraft({ place: 'p', at: 1, key: 'k', etag: '', values: {} })
  expect(await draftOf('p')).toBeUndefined()
  await dropDrafts()
})
