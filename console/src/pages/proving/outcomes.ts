import type { Schemas } from '../../api/client'

export type Outcome = NonNullable<Schemas['RoundResult']['outcome']>

/** Outcomes of a test in the order in which they are offered. */
export const outcomes: Record<Outcome, string> = { pass: 'Passed', marginal: 'Marginal', fail: 'Failed', impossible: 'Could not be tested' }

/** Says how many of each there are, the best first: 4 passed, 1 failed. What follows from a reading is not known before it is recorded. */
export function sum(list: (Outcome | 'computed')[]): string {
  const words = { ...outcomes, computed: 'to be computed' }
  const parts = (Object.keys(words) as (keyof typeof words)[]).map((o) => [list.filter((one) => one === o).length, words[o].toLowerCase()] as const)
  return parts.filter(([n]) => n > 0).map(([n, word]) => `${n} ${word}`).join(', ')
}
