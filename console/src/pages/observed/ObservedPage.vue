<script setup lang="ts">
import { mdiRadar, mdiStopCircleOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import type { Job } from '../../follow'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { useJob } from '../../useJob'
import { useResource } from '../../useResource'
import { counted, when } from '../../words'
import HostCard from './HostCard.vue'

type Host = Schemas['Observed']

/** What was seen on the home's network, compared with the record; a tap records it. */
const code = String(useRoute().params.code)
const path = { code }
const { data, failure, reload } = useResource(async () => {
  const [seen, overview, { records: rooms }] = await Promise.all([must(api.GET('/api/v1/households/{code}/scans', { params: { path } })),
    must(api.GET('/api/v1/households/{code}/overview', { params: { path } })), must(api.GET('/api/v1/households/{code}/rooms', { params: { path } }))])
  return { seen, mayWrite: overview.mayWrite, rooms: rooms.map((r) => ({ title: r.name, value: r.id })) }
}, { household: code })
const said = ref('')
const recorded = ref<number>() // the revision by which values were recorded last; it can be undone
const listing = ref(false) // whether the certain values are listed, to be recorded
const only = ref<string>() // the one host to scan next
const seconds = ref(0)
const { failure: refusal, busy, act } = useAction()
const { job, share, start, stop } = useJob(code, 'scan', () => must(api.POST('/api/v1/households/{code}/scans/run', { params: { path }, body: { ...(only.value && { only: only.value }), ...(seconds.value && { seconds: seconds.value }) } })), ended)
const groups: { status: Host['status']; title: string; what: string }[] = [
  { status: 'unsure', title: 'Which device is this?', what: 'Something points to a recorded device, but nothing unique proves it.' },
  { status: 'new', title: 'Not recorded yet', what: 'These match no recorded device.' },
  { status: 'changed', title: 'Differs from the record', what: 'Recorded devices for which the scan found something new or different.' },
  { status: 'not-seen', title: 'Recorded, not seen', what: 'A device that does not answer may still be there.' },
  { status: 'as-recorded', title: 'As recorded', what: '' },
]
const shown = computed(() => groups.map((g) => ({ ...g, hosts: data.value?.seen.hosts.filter((h) => h.status === g.status) ?? [] })).filter((g) => g.hosts.length))

function ended(j: Job) {
  if (j.failed) said.value = `${j.failed.detail} ${j.failed.remedy}`
  else said.value = j.state === 'stopped' ? 'Stopped. What had been seen by then is kept.' : ''
  void reload()
}

const scan = (host?: string, time = 0) => act(async () => { said.value = ''; recorded.value = undefined; only.value = host; seconds.value = time; await start() })
const halt = () => act(async () => { await stop() })
const take = (what: Omit<Schemas['RecordSeen'], 'scan'>) => act(async () => {
  const done = await must(api.POST('/api/v1/households/{code}/scans/record', { params: { path }, body: { scan: data.value!.seen.scan!, ...what } }))
  said.value = `${counted(done.values, 'value')} recorded.`
  recorded.value = done.revision
  listing.value = false
  await reload()
})
const undo = () => act(async () => {
  const done = await must(api.POST('/api/v1/households/{code}/journal/{revision}/undo', { params: { path: { code, revision: recorded.value! } } }))
  said.value = `Taken back. The journal keeps both.${done.offerAgain ? ' The handover on offer at the time is still outdated: offer it again.' : ''}`
  recorded.value = undefined
  await reload()
})
/** What would be recorded without review, host by host. */
const certain = computed(() => data.value?.seen.hosts.map((h) => ({ host: h, values: h.differences.filter((d) => d.certain && !d.ignored && d.relation !== 'same') })).filter((h) => h.values.length) ?? [])
const say = (what: Omit<Schemas['ReviewHosts'], 'scan'>) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/scans/review', { params: { path }, body: { scan: data.value!.seen.scan!, ...what } }))
  await reload()
})
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Seen on the network</h1><router-link :to="`/households/${code}/devices`">All devices</router-link></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <section class="sheet stack" aria-label="The scan">
        <div class="row between">
          <div>
            <p v-if="data.seen.scan"><strong>Scanned {{ when(data.seen.ended) }}</strong> by {{ data.seen.by }}<template v-if="data.seen.with"> with {{ data.seen.with }}</template><template v-if="data.seen.short">; not complete, so what it did not see may still be there</template></p>
            <p v-else><strong>Not scanned yet.</strong> A scan takes seconds and changes nothing in the record.</p>
            <p v-if="data.seen.scan" class="small quiet">{{ data.seen.segments.map((l) => `${l.segment.label} from ${l.from}`).join(', ') }}<template v-if="data.seen.notScanned.length"> · Not scanned: {{ data.seen.notScanned.map((s) => s.label).join(', ') }}</template><template v-if="data.seen.before && when(data.seen.before)"> · Previous scan {{ when(data.seen.before) }}</template></p>
            <p v-for="n in data.seen.notes" :key="n" class="small seen-note">{{ n }}</p>
          </div>
          <div class="row">
            <v-btn v-if="!job && me.session?.onSite && data.mayWrite" :variant="data.seen.scan ? 'outlined' : 'flat'" color="primary" :prepend-icon="mdiRadar" :disabled="busy" @click="scan()">Scan the network</v-btn>
            <v-btn v-if="!job && me.session?.onSite && data.mayWrite && data.seen.scan" variant="text" :disabled="busy" @click="scan(undefined, 40)">Scan for 40 seconds</v-btn>
            <v-btn v-if="job" variant="outlined" :prepend-icon="mdiStopCircleOutline" @click="halt">Stop</v-btn>
            <v-btn v-if="data.seen.counts.certain && data.mayWrite" color="primary" :disabled="busy || listing" @click="listing = true">Record {{ counted(data.seen.counts.certain, 'certain value') }} …</v-btn>
          </div>
        </div>
        <div v-if="job" role="status" class="stack-s"><span>{{ counted(job.seen ?? 0, 'host') }} seen<template v-if="job.doing">, {{ job.doing }} …</template> <span class="quiet">started by {{ job.by }}</span></span><v-progress-linear :model-value="share" color="primary" aria-label="Scan in progress" /></div>
        <p v-if="!me.session?.onSite" class="small quiet">This Kaiku is not on the home's network. On a laptop there, run <span class="mono">kaiku scan run -H {{ code }}</span></p>
        <div v-if="listing" class="stack-s certain" role="region" aria-label="Values to be recorded">
          <p><strong>These values would be recorded.</strong> Each is new, or the device or the network itself decides it.</p>
          <template v-for="h in certain" :key="h.host.key">
            <strong class="small">{{ h.host.called }} <span class="mono quiet">{{ h.host.address }}</span></strong>
            <ul class="plain small"><li v-for="d in h.values" :key="d.id">{{ d.record.label }}, {{ d.title }}: <template v-if="d.recorded"><span class="was">{{ d.recorded }}</span> → </template>{{ d.after }}</li></ul>
          </template>
          <div class="row"><v-btn color="primary" :disabled="busy" @click="take({ certain: true })">Record these</v-btn><v-btn variant="text" @click="listing = false">Cancel</v-btn></div>
        </div>
        <p v-if="said" role="status" class="said">{{ said }} <v-btn v-if="recorded" variant="text" size="small" :disabled="busy" @click="undo">Undo</v-btn></p>
        <ProblemNote v-if="refusal" :failure="refusal" />
        <details v-if="data.seen.answers.length"><summary>Requests and answers</summary><ul class="plain small asked"><li v-for="(a, n) in data.seen.answers" :key="n">{{ a.sentence }}</li></ul></details>
      </section>
      <section v-for="g in shown" :key="g.status" class="stack" :aria-labelledby="`g-${g.status}`">
        <div><h2 :id="`g-${g.status}`">{{ g.title }} ({{ g.hosts.length }})</h2><p v-if="g.what" class="small quiet">{{ g.what }}</p></div>
        <HostCard v-for="h in g.hosts" :key="h.key" :host="h" :code="code" :rooms="data.rooms" :may-write="data.mayWrite" :busy="busy" :may-scan="!job && !!me.session?.onSite && data.mayWrite" @take="take" @say="say" @scan="scan(h.address, 30)" />
      </section>
      <p v-if="data.seen.scan && !shown.length" class="sheet">Nothing answered in the scanned segments. That does not show that nothing is there: the access point may isolate its clients, or everything was switched off.</p>
    </template>
  </div>
</template>

<style scoped>
.seen-note { overflow-wrap: anywhere; }
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 6px 12px; }
.certain { border: 1px solid rgb(var(--v-theme-line)); border-radius: 6px; padding: 12px; }
.certain li { overflow-wrap: anywhere; }
.was { text-decoration: line-through; text-decoration-thickness: 1px; }
.asked { padding: 8px 0 0 18px; }
.asked li { padding: 3px 0; }
summary { cursor: pointer; min-height: 32px; }
</style>
