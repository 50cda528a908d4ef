import { beforeEach, expect, test, vi } from 'vitest'
import { effectScope, type EffectScope } from 'vue'
import { Failure } from './api/client'
import { useResource, type Follows } from './useResource'

const change = vi.hoisted(() => ({ tell: undefined as ((household?: string) => void) | undefined, following: 0 }))
vi.mock('./live', () => ({
  onChange: (listener: (household?: string) => void) => {
    change.tell = listener
    change.following++
    return () => { change.following-- }
  },
}))

let scope: EffectScope
const used = <T>(load: () => Promise<T>, follows?: Follows) => scope.run(() => useResource(load, follows))!
const flush = () => vi.advanceTimersByTimeAsync(0)

beforeEach(() => {
  vi.useFakeTimers()
  change.following = 0
  scope = effectScope()
})

test('the latest call wins, in whatever order the answers arrive', async () => {
  const answers: ((v: string) => void)[] = []
  const r = used(() => new Promise<string>((resolve) => answers.push(resolve)))
  void r.reload()
  answers[1]!('new')
  await flush()
  answers[0]!('old')
  await flush()
  expect(r.data.value).toBe('new')
})

test('a failure is shown, keeps what was there, and goes with the next answer', async () => {
  let fails = false
  const r = used(() => (fails ? Promise.reject(new TypeError('gone')) : Promise.resolve('data')))
  await flush()
  fails = true
  await r.reload()
  expect(r.failure.value).toBeInstanceOf(Failure)
  expect(r.failure.value!.problem.code).toBe('unreachable')
  expect(r.data.value).toBe('data')
  fails = false
  await r.reload()
  expect(r.failure.value).toBeUndefined()
})

test.each<[string, Follows, (string | undefined)[], number]>([
  ['its household', { household: 'H-0001' }, ['H-0001'], 1],
  ['another household', { household: 'H-0001' }, ['H-0002'], 0],
  ['anything, after the line was gone', { household: 'H-0001' }, [undefined], 1],
  ['any household', { any: true }, ['H-0002'], 1],
  ['nothing', {}, ['H-0001', undefined], 0],
  ['a form under the hand', { household: 'H-0001', paused: () => true }, ['H-0001', undefined], 0],
  ['several writes of one moment', { household: 'H-0001' }, ['H-0001', 'H-0001', 'H-0001'], 1],
])('it follows %s', async (_, follows, news, times) => {
  const load = vi.fn(() => Promise.resolve(1))
  used(load, follows)
  await flush()
  load.mockClear()
  for (const n of news) change.tell!(n)
  await vi.advanceTimersByTimeAsync(500)
  expect(load).toHaveBeenCalledTimes(times)
})

test('a page that is left asks for nothing more and takes no late answer', async () => {
  let late!: (v: string) => void
  const load = vi.fn(() => new Promise<string>((resolve) => { late = resolve }))
  const r = used(load, { household: 'H-0001' })
  change.tell!('H-0001')
  scope.stop()
  late('late')
  await vi.advanceTimersByTimeAsync(500)
  expect(load).toHaveBeenCalledTimes(1)
  expect(r.data.value).toBeUndefined()
  expect(change.following).toBe(0)
})
