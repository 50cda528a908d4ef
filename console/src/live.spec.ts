import { beforeEach, expect, test, vi } from 'vitest'
import type { News } from './follow'

const line = vi.hoisted(() => ({ hear: undefined as ((n: News) => void) | undefined, begun: 0 }))
vi.mock('./follow', () => ({ follow: (hear: (n: News) => void) => { line.hear = hear; line.begun++ } }))

beforeEach(() => {
  vi.resetModules()
  line.begun = 0
})

test('listeners hear which household changed, and reload everything after a lost connection', async () => {
  const { live, onChange } = await import('./live')
  const heard: (string | undefined)[] = []
  const stop = onChange((h) => heard.push(h))
  line.hear!({ kind: 'state', connected: true })
  expect(heard).toEqual([])
  line.hear!({ kind: 'change', household: 'H-0001' } as News)
  line.hear!({ kind: 'state', connected: false })
  expect(live.connected).toBe(false)
  line.hear!({ kind: 'state', connected: true })
  line.hear!({ kind: 'state', connected: true })
  line.hear!({ kind: 'reset' } as News)
  expect(heard).toEqual(['H-0001', undefined, undefined])
  stop()
  line.hear!({ kind: 'change', household: 'H-0002' } as News)
  expect(heard).toHaveLength(3)
})

test('all listeners share one connection, and stopping one while news is delivered does not affect the rest', async () => {
  const { onChange, onJob } = await import('./live')
  const heard: string[] = []
  const stops = [onChange(() => { heard.push('a'); stops[1]!() }), onChange(() => heard.push('b')), onChange(() => heard.push('c'))]
  onJob((j) => heard.push(j.id))
  line.hear!({ kind: 'change', household: 'H-0001' } as News)
  line.hear!({ kind: 'job', job: { id: 'job 1' } } as News)
  expect(heard).toEqual(['a', 'b', 'c', 'job 1'])
  expect(line.begun).toBe(1)
})

test('when what the firm knows has changed, everything is asked for anew', async () => {
  const { onChange } = await import('./live')
  const heard: (string | undefined)[] = []
  onChange((h) => heard.push(h))
  const lists = (state: string, kind = 'lists') => line.hear!({ kind: 'job', job: { id: 'job 2', kind, state } } as News)
  lists('running')
  lists('ended', 'scan')
  expect(heard).toEqual([])
  lists('ended')
  expect(heard).toEqual([undefined])
})
