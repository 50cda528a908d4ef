import 'fake-indexeddb/auto'
import { expect, test } from 'vitest'
import { draftOf, dropDraft, dropDrafts, keepDraft } from './drafts'

const draft = (place: string, name: string) => ({ place, at: 1, key: 'k', etag: '"7"', values: { name } })

test('the newest draft of each place is kept, and dropped alone or all together', async () => {
  await keepDraft(draft('H-0001/room/new', 'attic'))
  await keepDraft(draft('H-0001/room/new', 'attic, dry'))
  await keepDraft(draft('H-0001/device/new', 'lamp'))
  expect((await draftOf('H-0001/room/new'))?.values).toEqual({ name: 'attic, dry' })
  await dropDraft('H-0001/room/new')
  expect(await draftOf('H-0001/room/new')).toBeUndefined()
  expect((await draftOf('H-0001/device/new'))?.etag).toBe('"7"')
  await dropDrafts() // whoever logs in next shall not read what was typed before
  expect(await draftOf('H-0001/device/new')).toBeUndefined()
})
