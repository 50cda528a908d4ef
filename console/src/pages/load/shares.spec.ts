import { describe, expect, it } from 'vitest'
import { barOf, flowSaid } from './shares'

const flow = { path: { id: 'p', kind: 'path', label: 'films' }, mbps: 0, way: [], links: [], gaps: [] as string[] }

describe('what is taken', () => {
  it.each([[0, '0 %'], [0.004, 'less than 1 %'], [0.5, '50 %'], [1.236, '124 %']])('says %d as %s', (share, said) => expect(barOf(share)).toBe(said))
  it('says what a path needs and how that is known', () => expect(flowSaid({ ...flow, mbps: 17.28, known: 'estimated' })).toBe('needs 17.3 Mb/s (estimated) with a fifth to spare.'))
  it('says the way, and then what is missing', () => {
    const way = [{ kind: 'device', id: '1', label: 'server' }, { kind: 'device', id: '2', label: 'screen' }]
    expect(flowSaid({ ...flow, mbps: 4, known: 'read', way, gaps: ['No rate.', 'No disk.'] })).toBe('needs 4.00 Mb/s (read) with a fifth to spare: server → screen. No rate. No disk.')
    expect(flowSaid({ ...flow, way, gaps: ['No format.'] })).toBe('server → screen. No format.')
    expect(flowSaid({ ...flow, gaps: ['No chain of links.'] })).toBe('No chain of links.')
  })
  it('says that nothing goes over the network', () => expect(flowSaid(flow)).toBe('is played where the files are.'))
})
