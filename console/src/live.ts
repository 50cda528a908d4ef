import { reactive } from 'vue'
import { follow, type Job, type News } from './follow'

/** Whether changes of others arrive; undefined until it is known. */
export const live = reactive<{ connected: boolean | undefined }>({ connected: undefined })

type Listener = (household: string | undefined) => void
const listeners = new Set<Listener>()
const jobListeners = new Set<(job: Job) => void>()
let lost = false
let begun = false

/** Calls back with the household that changed, or with undefined when anything may have. */
export function onChange(listener: Listener): () => void {
  begin()
  listeners.add(listener)
  return () => listeners.delete(listener)
}

/** Calls back with every step of long work, in any household. */
export function onJob(listener: (job: Job) => void): () => void {
  begin()
  jobListeners.add(listener)
  return () => jobListeners.delete(listener)
}

/** Begins to follow; called once someone is logged in. */
export function begin() {
  if (begun) return
  begun = true
  if (typeof SharedWorker === 'undefined') return follow(hear) // phones have none, and few tabs
  const worker = new SharedWorker(new URL('./live.worker.ts', import.meta.url), { type: 'module', name: 'kaiku-live' })
  worker.port.onmessage = (m: MessageEvent<News>) => hear(m.data)
  addEventListener('pagehide', () => worker.port.postMessage('bye'))
  worker.port.start()
}

function hear(news: News) {
  if (news.kind === 'state') {
    live.connected = news.connected
    if (news.connected === false) lost = true
    if (news.connected && lost) {
      lost = false
      tell(undefined) // what happened meanwhile is asked for
    }
    return
  }
  if (news.kind === 'job') {
    for (const l of [...jobListeners]) l(news.job)
    // What the firm knows has changed, which counts in every home.
    if (news.job.kind === 'lists' && news.job.state !== 'running') tell(undefined)
    return
  }
  tell(news.kind === 'change' ? news.household : undefined)
}

function tell(household: string | undefined) {
  for (const l of [...listeners]) l(household)
}
