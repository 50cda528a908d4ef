import { describe, expect, it } from 'vitest'
import { barOf, needOf } from './shares'

const flow = { path: { id: 'p', kind: 'path', label: 'films' }, mbps: 0, way: [], links: [], gaps: [] as string[] }

describe('what is taken', () => {
  it.each([[0, '0 %'], [0.004, 'less than 1 %'], [0.5, '50 %'], [1.236, '124 %']])('says %d as %s', (share, said) => expect(barOf(share)).toBe(said))
  it('says what a path needs and how that is known', () => expect(needOf({ ...flow, mbps: 17.28, known: 'estimated' })).toBe('needs 17.3 Mb/s (estimated) with a fifth to spare'))
  it('says what is missing before anything else', () => expect(needOf({ ...flow, mbps: 4, gaps: ['No chain of links.', 'No rate.'] })).toBe('No chain of links. No rate.'))
  it('says that nothing goes over the network', () => expect(needOf(flow)).toBe('is played where the files are'))
})
