import { onScopeDispose, shallowRef, type ShallowRef } from 'vue'
import { asFailure, Failure } from './api/client'
import { onChange } from './live'

export interface Resource<T> {
  data: ShallowRef<T | undefined>
  failure: ShallowRef<Failure | undefined>
  reload: () => Promise<void>
}

/** What a resource follows: one household by its code, every household, or nothing. */
export interface Follows {
  household?: string
  any?: boolean
  /** While true, changes of others are not shown: a form must not move under the hand. */
  paused?: () => boolean
}

/** Loads something, and loads it again when it changes on the server; the last call wins. */
export function useResource<T>(load: () => Promise<T>, follows: Follows = {}): Resource<T> {
  const data = shallowRef<T>()
  const failure = shallowRef<Failure>()
  let turn = 0
  let soon: ReturnType<typeof setTimeout> | undefined

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

  const unfollow = onChange((household) => {
    const concerned = household === undefined || follows.any || household === follows.household
    if (!concerned || (!follows.any && !follows.household) || follows.paused?.()) return
    clearTimeout(soon)
    soon = setTimeout(() => void reload(), 80) // several writes of one moment are asked for once
  })
  onScopeDispose(() => {
    turn = -1
    clearTimeout(soon)
    unfollow()
  })
  void reload()
  return { data, failure, reload }
}
