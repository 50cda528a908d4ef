import type { Schemas } from '../../api/client'

export type Outcome = Schemas['RoundResult']['outcome']

/** Outcomes of a test in the order in which they are offered. */
export const outcomes: Record<Outcome, string> = { pass: 'Passed', marginal: 'Marginal', fail: 'Failed', impossible: 'Could not be tested' }

/** Says how many of each there are, the best first: 4 passed, 1 failed. */
export function sum(list: Outcome[]): string {
  const parts = (Object.keys(outcomes) as Outcome[]).map((o) => [list.filter((one) => one === o).length, outcomes[o].toLowerCase()] as const)
  return parts.filter(([n]) => n > 0).map(([n, word]) => `${n} ${word}`).join(', ')
}
