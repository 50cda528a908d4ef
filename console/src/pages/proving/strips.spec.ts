import { expect, test } from 'vitest'
import { blocksOf } from './strips'

const none = { required: 0, proven: 0, marginal: 0, failed: 0, inDoubt: 0, stale: 0, untried: 0, waived: 0, notServed: 0 }
const day = (at: string, ...rooms: object[]) => ({ at, revision: 1, rooms: rooms.map((c, room) => ({ room, coverage: { ...none, ...c } })) })

test('each day reaches to the next, and the last to now', () => {
  const history = { rooms: [], days: [day('2026-11-01T00:00:00Z', { required: 4, untried: 4 }), day('2026-11-03T00:00:00Z', { required: 4, proven: 3, failed: 1 })] }
  expect(blocksOf(history, 0, Date.parse('2026-11-05T00:00:00Z'))).toEqual([
    { x: 0, width: 0.5, y: 0, height: 1, layer: 'untried' },
    { x: 0.5, width: 0.5, y: 0.25, height: 0.75, layer: 'proven' },
    { x: 0.5, width: 0.5, y: 0, height: 0.25, layer: 'failed' },
  ])
})

test('a room added later is empty until then, and an empty history is fine', () => {
  const history = { rooms: [], days: [day('2026-11-01T00:00:00Z'), day('2026-11-02T00:00:00Z', { required: 2, untried: 2 })] }
  expect(blocksOf(history, 0, Date.parse('2026-11-03T00:00:00Z'))).toEqual([{ x: 0.5, width: 0.5, y: 0, height: 1, layer: 'untried' }])
  expect(blocksOf({ rooms: [], days: [] }, 0, 0)).toEqual([])
})
