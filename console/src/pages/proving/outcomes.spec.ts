import { expect, it } from 'vitest'
import { sum } from './outcomes'

it('counts outcomes, the best first, and names none that there is not', () => {
  expect(sum(['fail', 'pass', 'pass'])).toBe('2 passed, 1 failed')
  expect(sum(['impossible', 'marginal'])).toBe('1 marginal, 1 could not be tested')
  expect(sum(['computed', 'pass'])).toBe('1 passed, 1 to be computed')
  expect(sum([])).toBe('')
})
