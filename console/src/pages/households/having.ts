/** What homes can have, as the list of households is narrowed by it. */
export const having = [
  { value: 'blockers', title: 'blockers' }, { value: 'open-issues', title: 'open issues' }, { value: 'unproven', title: 'tests not proven' },
  { value: 'failed', title: 'failed tests' }, { value: 'stale', title: 'stale tests' }, { value: 'excepted', title: 'excepted tests' },
  { value: 'review', title: 'exceptions to look at again' }, { value: 'offered', title: 'a handover on offer' }, { value: 'due', title: 'dates due within a fortnight' }, { value: 'waits', title: 'running waits' },
]
