import { computed, onScopeDispose, shallowRef } from 'vue'
import { api, must } from './api/client'
import type { Job } from './follow'
import { onChange, onJob } from './live'

/** Long work of one kind under way in a home, whoever started it and in whatever window. */
export function useJob(code: string, kind: Job['kind'], begin: () => Promise<Job>, ended: (job: Job) => void) {
  const job = shallowRef<Job>()
  const path = { code }
  let mine = '' // id of the job this page started or saw running: its end is reported here

  async function look() {
    const all = (await must(api.GET('/api/v1/households/{code}/jobs', { params: { path } }))).filter((j) => j.kind === kind)
    const running = all.find((j) => j.state === 'running')
    const done = all.find((j) => j.id === mine && j.state !== 'running')
    job.value = running
    if (running) mine = running.id
    else if (done) { mine = ''; ended(done) }
  }

  async function start() {
    job.value = await begin()
    mine = job.value.id
    await look() // it may have ended before its first event was heard
  }

  const stop = () => must(api.POST('/api/v1/households/{code}/jobs/{id}/stop', { params: { path: { code, id: mine } } }))

  const unhearJobs = onJob((j) => {
    if (j.household !== code || j.kind !== kind) return
    if (j.state === 'running') { job.value = j; mine = j.id } else void look().catch(() => undefined)
  })
  const unhear = onChange((household) => { if (household === undefined) void look().catch(() => undefined) })
  onScopeDispose(() => { unhearJobs(); unhear() })
  void look().catch(() => undefined) // the page itself says that nothing answers

  const share = computed(() => (job.value?.of ? (100 * job.value.done) / job.value.of : 0))
  return { job, share, start, stop }
}
