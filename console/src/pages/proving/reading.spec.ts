import { expect, test } from 'vitest'
import { nothingTyped, readingOf } from './reading'

test('a reading is complete or there is none', () => {
  const typed = (t: object) => ({ ...nothingTyped(), ...t })
  expect(readingOf('jump', typed({ asked: '0:30:00', seen: ' 0:33:05 ', after: '3' }))).toEqual({ asked: '0:30:00', seen: '0:33:05', afterS: 3 })
  expect(readingOf('jump', typed({ asked: '0:30:00', seen: '0:30:02' }))).toEqual({ asked: '0:30:00', seen: '0:30:02' })
  expect(readingOf('jump', typed({ asked: '0:30:00', after: '3' }))).toBeUndefined()
  expect(readingOf('standing-still', typed({ asked: '0:02:00', seen: '0:58:00' }))).toBeUndefined()
  expect(readingOf('standing-still', typed({ asked: '0:02:00', seen: '0:58:00', after: '56,5' }))).toEqual({ asked: '0:02:00', seen: '0:58:00', afterS: 56.5 })
  expect(readingOf('standing-still', typed({ asked: '0:02:00', seen: '0:58:00', after: 'soon' }))).toBeUndefined()
  expect(readingOf('lips', typed({ frames: '-4', rate: '240' }))).toEqual({ frames: -4, rate: 240 })
  expect(readingOf('lips', typed({ frames: '0', rate: '240' }))).toEqual({ frames: 0, rate: 240 })
  expect(readingOf('lips', typed({ frames: '4' }))).toBeUndefined()
})
