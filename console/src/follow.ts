import type { Schemas } from './api/client'

export type Job = Schemas['Job']
export type News =
  | { kind: 'state'; connected: boolean | undefined }
  | { kind: 'change'; household: string }
  | { kind: 'job'; job: Job }
  | { kind: 'reset' }

/** Follows the service's events for ever, and comes back by itself after each end of the stream. */
export function follow(tell: (news: News) => void) {
  let wait = 1000
  open()

  function open() {
    const source = new EventSource('/api/v1/events')
    source.addEventListener('open', () => {
      wait = 1000
      tell({ kind: 'state', connected: true })
    })
    source.addEventListener('change', (e) => tell({ kind: 'change', household: (JSON.parse((e as MessageEvent<string>).data) as { household: string }).household }))
    source.addEventListener('job', (e) => tell({ kind: 'job', job: (JSON.parse((e as MessageEvent<string>).data) as { job: Job }).job }))
    source.addEventListener('reset', () => tell({ kind: 'reset' }))
    source.addEventListener('error', () => {
      tell({ kind: 'state', connected: false })
      if (source.readyState !== EventSource.CLOSED) return // the browser comes back by itself
      // Closed for good, such as by an answer that is no stream: begin anew, ever more slowly.
      setTimeout(open, wait)
      wait = Math.min(wait * 2, 10_000)
    })
  }
}
