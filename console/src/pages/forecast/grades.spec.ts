import { expect, test } from 'vitest'
import type { Schemas } from '../../api/client'
import { gradeWords, markOf, outcomeWords, playingTime } from './grades'

type Cell = Schemas['ForecastCell']
const cell = (grade: Cell['grade'], ...outcomes: Cell['shares'][number]['outcome'][]) => ({ grade, shares: outcomes.map((outcome) => ({ outcome, items: 1, hours: 1, percent: 0 })) }) as Cell

test('a folder that is silent throughout is called silent, and one of which a part does not play is not', () => {
  expect(markOf(cell('none', 'silent'))).toEqual({ state: 'silent', word: 'silent' })
  expect(markOf(cell('none', 'silent', 'unplayable')).word).toBe('does not play')
  expect(markOf(cell('partly', 'as-is', 'silent')).word).toBe('plays in part')
  expect(markOf(cell('in-doubt', 'unplayable', 'not-known')).word).toBe('part not known')
})

test('no two grades and no two outcomes have the same word', () => {
  for (const words of [Object.values(gradeWords), Object.values(outcomeWords)]) expect(new Set(words).size).toBe(words.length)
})

test('playing time has a tenth of an hour below ten hours', () => {
  expect([0.25, 9.94, 10, 1234.5].map(playingTime)).toEqual(['0.3 h', '9.9 h', '10 h', '1235 h'])
})
