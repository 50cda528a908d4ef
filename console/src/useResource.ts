import { onScopeDispose, shallowRef, watch, type ShallowRef, type WatchSource } from 'vue'
import { asFailure, Failure } from './api/client'

export interface Resource<T> {
  data: ShallowRef<T | undefined>
  failure: ShallowRef<Failure | undefined>
  reload: () => Promise<void>
}

/** Loads something and loads it again when a source changes; the last call wins. */
export function useResource<T>(load: () => Promise<T>, on: WatchSource[] = []): Resource<T> {
  const data = shallowRef<T>()
  const failure = shallowRef<Failure>()
  let turn = 0
  async function reload() {
    const mine = ++turn
    try {
      const got = await load()
      if (mine !== turn) return
      data.value = got
      failure.value = undefined
    } catch (e) {
      if (mine === turn) failure.value = asFailure(e) as Failure
    }
  }
  watch(on, reload, { immediate: true })
  onScopeDispose(() => { turn = -1 })
  return { data, failure, reload }
}
