<script setup lang="ts">
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { when } from '../../words'

/** Both ends of each path beside each other and beside what the latest scan saw at the server; what differs comes first. */
type Ends = Schemas['PathEnds']
const code = String(useRoute().params.code)
const path = { code }
const { data, failure, reload } = useResource(async () => {
  const [both, overview] = await Promise.all([must(api.GET('/api/v1/households/{code}/ends', { params: { path } })), must(api.GET('/api/v1/households/{code}/overview', { params: { path } }))])
  return { ...both, mayWrite: overview.mayWrite }
}, { household: code })
const { failure: refusal, busy, act } = useAction()
const marks: Record<Ends['agreement'], { state: string; word: string }> = {
  'device-differs': { state: 'blocker', word: 'the ends differ' }, 'record-behind': { state: 'changed', word: 'the record is behind' }, 'one-says': { state: 'not-known', word: 'not compared' }, agree: { state: 'as-recorded', word: 'agree' },
}
const missing = (p: Ends) => p.rows.flatMap((r) => r.correct)
const record = (p: Ends) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/scans/record', { params: { path }, body: { scan: data.value!.scan!, differences: missing(p) } }))
  await reload()
})
</script>

<template>
  <div class="page stack">
    <h1>Both ends</h1>
    <p class="quiet">These settings have to match at both ends of a path. Each is shown as it is recorded for the server, as it is entered on the device, and as the latest scan found it.</p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <p v-if="!data.scan" class="sheet">The network was never scanned: what the servers have now is not known. <router-link :to="`/households/${code}/devices/observed`">Scan the network</router-link></p>
      <p v-if="!data.paths.length" class="sheet quiet">No path in use has two ends.</p>
      <section v-for="p in data.paths" :key="p.path.id" class="sheet stack-s" :aria-label="p.path.label">
        <div class="row between"><h2><router-link :to="`/households/${code}/records/path/${p.path.id}`">{{ p.path.label }}</router-link></h2><StateMark v-bind="marks[p.agreement]" /></div>
        <p class="small quiet">{{ p.source.label }} to {{ p.device.label }}. {{ p.said }}<template v-if="p.seenAt"> Scanned {{ when(p.seenAt) }}.</template></p>
        <div class="ends" role="table" :aria-label="`Both ends of ${p.path.label}`">
          <div class="line head" role="row"><span role="columnheader">What</span><span role="columnheader">Server, as recorded</span><span role="columnheader">Entered on the device</span><span role="columnheader">Seen at the server</span></div>
          <div v-for="r in p.rows" :key="r.member" class="line" :class="{ differs: r.agreement === 'device-differs' || r.agreement === 'record-behind' }" role="row">
            <span role="rowheader"><strong>{{ r.title }}</strong></span>
            <span v-for="[who, said] in [['Server', r.server], ['Device', r.device], ['Seen', r.seen]] as [string, string[]][]" :key="who" role="cell"><span class="who small quiet">{{ who }} </span><span :class="said.length ? 'mono' : 'quiet'">{{ said.join(' or ') || '–' }}</span></span>
            <span v-if="r.said" class="said small" role="cell">{{ r.said }}</span>
          </div>
        </div>
        <div v-if="data.mayWrite && missing(p).length"><v-btn variant="outlined" size="small" :disabled="busy" @click="record(p)">Record what was seen</v-btn></div>
      </section>
      <ProblemNote v-if="refusal" :failure="refusal" />
    </template>
  </div>
</template>

<style scoped>
.line { display: grid; grid-template-columns: 7rem repeat(3, minmax(0, 1fr)); gap: 4px 16px; padding: 6px 0; border-top: 1px solid rgb(var(--v-theme-line)); overflow-wrap: anywhere; }
.head { border-top: 0; font-size: .875rem; opacity: .75; }
.differs { border-left: 4px solid rgb(var(--v-theme-marginal)); padding-left: 8px; margin-left: -12px; }
.said { grid-column: 2 / -1; }
.who { display: none; }
@media (max-width: 720px) {
  .head { display: none; }
  .line { grid-template-columns: minmax(0, 1fr); }
  .said { grid-column: 1; }
  .who { display: inline-block; width: 4.5rem; }
}
</style>
