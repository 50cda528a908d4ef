/** What homes can have, as the list of households is narrowed by it. */
export const having = [
  { value: 'blockers', title: 'blockers' }, { value: 'open-issues', title: 'open issues' }, { value: 'unproven', title: 'tests not proven' },
  { value: 'failed', title: 'failed tests' }, { value: 'in-doubt', title: 'tests in doubt' }, { value: 'stale', title: 'stale tests' }, { value: 'not-served', title: 'wishes without a path' }, { value: 'waived', title: 'waived tests' },
  { value: 'review', title: 'waivers to review' }, { value: 'offered', title: 'an offered handover' }, { value: 'due', title: 'dates due within a fortnight' }, { value: 'long-tasks', title: 'running long tasks' },
]
