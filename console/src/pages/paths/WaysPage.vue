<script setup lang="ts">
import { computed, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import FindingList from '../../parts/FindingList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import RecurringNote from '../../parts/RecurringNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { stateWords } from '../load/shares'

/** By which ways a device can get what is wished for, what stands against each, and one press to record one. */
type Way = Schemas['ProposedWay']
const route = useRoute()
const router = useRouter()
const code = String(route.params.code)
const device = computed(() => String(route.query.device ?? ''))
const { data, failure, reload } = useResource(async () => {
  const path = { code }
  const [{ records: devices }, overview, ways] = await Promise.all([must(api.GET('/api/v1/households/{code}/devices', { params: { path } })), must(api.GET('/api/v1/households/{code}/overview', { params: { path } })),
    device.value ? must(api.GET('/api/v1/households/{code}/devices/{id}/ways', { params: { path: { code, id: device.value } } })) : undefined])
  const plays = ['player', 'renderer', 'screen', 'receiver']
  return { devices: devices.filter((d) => d.id === device.value || d.roles?.some((r) => plays.includes(r))).map((d) => ({ value: d.id!, title: d.name })), mayWrite: overview.mayWrite, ways }
}, { household: code })
const { failure: refusal, busy, act } = useAction()

const stateOf = (w: Way) => (!w.possible ? { state: 'impossible', word: 'not possible now' } : w.recorded ? { state: 'as-recorded', word: 'recorded' } : { state: 'unproven', word: 'nothing known against it' })
const wished = computed(() => data.value?.ways?.wished ?? [])
const choose = (id: string) => router.replace({ query: { device: id } })
watch(device, reload)
const take = (w: Way) => act(async () => {
  const path = await must(api.POST('/api/v1/households/{code}/paths', { params: { path: { code } }, body: w.draft as Schemas['PathInput'] }))
  await router.push(`/households/${code}/paths/${path.id}/card`)
})
</script>

<template>
  <div class="page stack">
    <h1>Ways for a device</h1>
    <p class="quiet">How a device can get what is wished for in its room: what keeps each way from working, what would play, whether the network carries it, and what the way cannot do. Each was tried in a copy of the record; nothing was sent.</p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <v-select :model-value="device || undefined" :items="data.devices" label="Device" variant="outlined" hide-details @update:model-value="choose" />
      <ProblemNote v-if="refusal" :failure="refusal" />
      <section v-for="g in wished" :key="g.what" class="stack" :aria-label="g.said">
        <h2>{{ g.said }}</h2>
        <article v-for="(w, n) in g.ways" :key="`${w.kind} ${w.source.id}`" class="sheet stack-s">
          <div class="row between"><h3>{{ n + 1 }}. {{ w.said }}</h3><StateMark v-bind="stateOf(w)" /></div>
          <div class="small quiet">{{ w.source.label }}<template v-if="w.recorded">; <router-link :to="`/households/${code}/records/path/${w.recorded.id}`">{{ w.recorded.label }}</router-link></template></div>
          <FindingList v-if="w.blocks.length" :findings="w.blocks" :code="code" />
          <template v-else>
            <dl class="facts">
              <dt>Plays</dt><dd>{{ w.plays }}</dd>
              <dt>Load</dt><dd><StateMark :state="w.load" :word="stateWords[w.load]" /> <span class="small">{{ w.loadSaid }}</span></dd>
              <dt>Device</dt><dd>{{ w.able }} {{ w.finds }}</dd>
              <template v-if="w.loses.length"><dt>Mind</dt><dd>{{ w.loses.join('; ') }}</dd></template>
              <template v-if="w.open.length"><dt>To do first</dt><dd><ol class="plain"><li v-for="o in w.open" :key="o">{{ o }}</li></ol></dd></template>
              <template v-if="w.fallBack"><dt>Fall-back</dt><dd>{{ w.fallBack.label }}</dd></template>
            </dl>
            <FindingList v-if="w.minds.length" :findings="w.minds" :code="code" />
            <div v-if="data.mayWrite && !w.recorded"><v-btn variant="outlined" size="small" :loading="busy" @click="take(w)">Record this way</v-btn></div>
          </template>
        </article>
      </section>
      <RecurringNote v-if="data.ways" :code="code" enough />
      <section v-if="data.ways?.without.length" class="sheet stack-s" aria-label="Other ways">
        <h2>What this home has no source for</h2>
        <ul class="plain ruled small"><li v-for="o in data.ways.without" :key="o.kind">{{ o.said }}</li></ul>
      </section>
    </template>
  </div>
</template>
