import { expect, test } from 'vitest'
import type { Schemas } from '../../api/client'
import { gradeWords, markOf, outcomeWords, playingTime, sized } from './grades'

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

test('playing time has the unit that tells most', () => {
  expect([0.0001, 0.01, 0.25, 1, 9.94, 10, 1234.5].map(playingTime)).toEqual(['1 s', '36 s', '15 min', '1.0 h', '9.9 h', '10 h', '1235 h'])
})

test('sizes are decimal, as disks are sold', () => {
  expect([0, 14883, 999_949_999, 1e9, 4.7e12].map(sized)).toEqual(['0.0 MB', '0.0 MB', '999.9 MB', '1.0 GB', '4700.0 GB'])
})
