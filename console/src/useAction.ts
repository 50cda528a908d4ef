import { ref, type Ref } from 'vue'
import { asFailure, type Failure } from './api/client'

export interface Action {
  failure: Ref<Failure | undefined>
  busy: Ref<boolean>
  act: (work: () => Promise<unknown>) => Promise<void>
}

/** Something a person sets going: while it runs it is busy, and why it failed stays to be shown. */
export function useAction(): Action {
  const failure = ref<Failure>()
  const busy = ref(false)
  async function act(work: () => Promise<unknown>) {
    busy.value = true
    failure.value = undefined
    try {
      await work()
    } catch (e) {
      failure.value = asFailure(e) as Failure
    } finally {
      busy.value = false
    }
  }
  return { failure, busy, act }
}
