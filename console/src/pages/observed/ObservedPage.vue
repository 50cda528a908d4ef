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

/** What was seen on the home's network, beside the record; taken over by a tap. */
const code = String(useRoute().params.code)
const path = { code }
const { data, failure, reload } = useResource(async () => {
  const [seen, overview, rooms] = await Promise.all([must(api.GET('/api/v1/households/{code}/observations', { params: { path } })),
    must(api.GET('/api/v1/households/{code}/overview', { params: { path } })), must(api.GET('/api/v1/households/{code}/rooms', { params: { path } }))])
  return { seen, mayWrite: overview.mayWrite, rooms: rooms.map((r) => ({ title: r.name, value: r.id })) }
}, { household: code })
const said = ref('')
const { failure: refusal, busy, act } = useAction()
const { job, share, start, stop } = useJob(code, 'gather', () => must(api.POST('/api/v1/households/{code}/observations/gather', { params: { path } })), ended)
const groups: { standing: Host['standing']; title: string; what: string }[] = [
  { standing: 'unsure', title: 'Which device is this?', what: 'Something speaks for a recorded device, and nothing unique proves it.' },
  { standing: 'new', title: 'Not recorded yet', what: 'No recorded device is like these.' },
  { standing: 'changed', title: 'Says something else, or more', what: 'Recorded devices, with what the network says of them.' },
  { standing: 'not-seen', title: 'Recorded, and silent', what: 'Silence is no proof that something is gone.' },
  { standing: 'as-recorded', title: 'As recorded', what: '' },
]
const shown = computed(() => groups.map((g) => ({ ...g, hosts: data.value?.seen.hosts.filter((h) => h.standing === g.standing) ?? [] })).filter((g) => g.hosts.length))

function ended(j: Job) {
  if (j.failed) said.value = `${j.failed.detail} ${j.failed.remedy}`
  else said.value = j.state === 'stopped' ? 'Stopped. What was seen until then is kept.' : ''
  void reload()
}

const look = () => act(async () => { said.value = ''; await start() })
const halt = () => act(async () => { await stop() })
const take = (what: Omit<Schemas['TakeOver'], 'look'>) => act(async () => {
  const done = await must(api.POST('/api/v1/households/{code}/observations/take', { params: { path }, body: { look: data.value!.seen.look!, ...what } }))
  said.value = `${counted(done.values, 'value')} taken over.`
  await reload()
})
const say = (what: Omit<Schemas['SayOfHosts'], 'look'>) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/observations/say', { params: { path }, body: { look: data.value!.seen.look!, ...what } }))
  await reload()
})
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Seen on the network</h1><router-link :to="`/households/${code}/devices`">All devices</router-link></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <section class="sheet stack" aria-label="The look">
        <div class="row between">
          <div>
            <p v-if="data.seen.look"><strong>Looked {{ when(data.seen.ended) }}</strong> by {{ data.seen.by }}<template v-if="data.seen.with"> with {{ data.seen.with }}</template><template v-if="data.seen.short">; stopped before its end</template></p>
            <p v-else><strong>Nobody has looked yet.</strong> A look takes seconds and writes nothing.</p>
            <p v-if="data.seen.look" class="small quiet">{{ data.seen.looked.map((l) => `${l.segment.label} from ${l.from}`).join(', ') }}<template v-if="data.seen.unseen.length">. Nobody has looked into {{ data.seen.unseen.map((s) => s.label).join(', ') }}</template><template v-if="data.seen.before && when(data.seen.before)">. Before that {{ when(data.seen.before) }}</template></p>
          </div>
          <div class="row">
            <v-btn v-if="!job && me.session?.onSite && data.mayWrite" :variant="data.seen.look ? 'outlined' : 'flat'" color="primary" :prepend-icon="mdiRadar" :disabled="busy" @click="look">Look at the network</v-btn>
            <v-btn v-if="job" variant="outlined" :prepend-icon="mdiStopCircleOutline" @click="halt">Stop</v-btn>
            <v-btn v-if="data.seen.counts.sure && data.mayWrite" color="primary" :disabled="busy" @click="take({ sure: true })">Take over {{ counted(data.seen.counts.sure, 'sure value') }}</v-btn>
          </div>
        </div>
        <div v-if="job" role="status" class="stack-s"><span>{{ counted(job.seen ?? 0, 'host') }} seen<template v-if="job.doing">, {{ job.doing }} …</template> <span class="quiet">started by {{ job.by }}</span></span><v-progress-linear :model-value="share" color="primary" aria-label="Look under way" /></div>
        <p v-if="!me.session?.onSite" class="small quiet">This Kaiku does not stand in the home. On a laptop there: <span class="mono">kaiku observation gather -H {{ code }}</span></p>
        <p v-if="said" role="status" class="said">{{ said }}</p>
        <ProblemNote v-if="refusal" :failure="refusal" />
        <details v-if="data.seen.answers.length"><summary>What was asked</summary><ul class="plain small asked"><li v-for="(a, n) in data.seen.answers" :key="n">{{ a.sentence }}</li></ul></details>
      </section>
      <section v-for="g in shown" :key="g.standing" class="stack" :aria-labelledby="`g-${g.standing}`">
        <div><h2 :id="`g-${g.standing}`">{{ g.title }} ({{ g.hosts.length }})</h2><p v-if="g.what" class="small quiet">{{ g.what }}</p></div>
        <HostCard v-for="h in g.hosts" :key="h.key" :host="h" :code="code" :rooms="data.rooms" :may-write="data.mayWrite" :busy="busy" @take="take" @say="say" />
      </section>
      <p v-if="data.seen.look && !shown.length" class="sheet">Nothing answered in the segments that were looked at. That says nothing of what is there: radios may be kept apart, or nothing was on.</p>
    </template>
  </div>
</template>

<style scoped>
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 6px 12px; }
.asked { padding: 8px 0 0 18px; }
.asked li { padding: 3px 0; }
summary { cursor: pointer; min-height: 32px; }
</style>
