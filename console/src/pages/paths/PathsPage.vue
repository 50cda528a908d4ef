<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import FindingList from '../../parts/FindingList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import RecipeSteps from '../../parts/RecipeSteps.vue'
import { plain, when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

type Need = Schemas['Prerequisite']
const code = String(useRoute().params.code)
const { data, failure, reload } = useResource(async () => {
  const path = { code }
  const [{ records: paths, labels }, needed, overview, findings] = await Promise.all([must(api.GET('/api/v1/households/{code}/paths', { params: { path } })),
    must(api.GET('/api/v1/households/{code}/needed', { params: { path } })), must(api.GET('/api/v1/households/{code}/overview', { params: { path } })),
    must(api.GET('/api/v1/households/{code}/findings', { params: { path } }))])
  const waking = await must(api.GET('/api/v1/households/{code}/waking', { params: { path } }))
  return { paths, needed, waking, mayWrite: overview.mayWrite, findings: findings.filter((f) => f.subjects[0]?.kind === 'path'), name: (id: string) => labels[id] ?? 'not known' }
}, { household: code })
const wakes: Record<Schemas['Waking']['state'], { state: string; word: string }> = {
  cannot: { state: 'blocker', word: 'cannot be woken' }, 'not-known': { state: 'not-known', word: 'not known' }, should: { state: 'untried', word: 'should work' }, seen: { state: 'as-recorded', word: 'seen to work' }, 'stays-awake': { state: 'as-recorded', word: 'does not sleep' },
}
const sides = computed(() => ['server', 'network', 'device', 'account'].map((side) => ({ side, needs: data.value?.needed.filter((n) => n.side === side) ?? [] })).filter((s) => s.needs.length))
const { failure: refusal, act } = useAction()

const tick = (n: Need, verb: 'tick' | 'untick' | 'refuse') => act(async () => {
  const body = { what: n.what, subject: { kind: n.subject.kind, id: n.subject.id } }
  await must(api.POST(`/api/v1/households/{code}/needed/${verb}`, { params: { path: { code } }, body }))
  await reload()
})

function end(e: Schemas['End'] | undefined): string {
  if (!e) return 'not recorded'
  return [e.name, e.address && `${e.address}${e.port ? ':' + e.port : ''}`, e.locator].filter(Boolean).join(' ') || 'not recorded'
}

function proof(n: Need): string {
  if (n.reset && !n.met) return 'ticked before the device was reset'
  return n.provedBy ? `proven by ${n.provedBy.split(':')[0]}` : n.recorded && !n.doneBy ? 'as it is recorded' : n.met && !n.doneBy ? 'all steps set' : n.doneBy ? `${n.doneBy}, ${when(n.doneAt, false)}` : n.refused ? (n.refused === 1 ? 'refused once' : `refused ${n.refused} times`) : ''
}
</script>

<template>
  <div class="page stack">
    <div class="row between"><h1>Paths</h1><v-btn v-if="data?.mayWrite" color="primary" :prepend-icon="mdiPlus" :to="`/households/${code}/records/path/new`">Add a path</v-btn></div>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <p class="row"><router-link :to="`/households/${code}/paths/ways`">Ways for a device</router-link><router-link v-if="data.paths.length" :to="`/households/${code}/load`">Whether the network carries them</router-link><router-link v-if="data.paths.length" :to="`/households/${code}/paths/ends`">Whether both ends agree</router-link><router-link v-if="data.paths.length" :to="`/households/${code}/paths/openings`">Openings in firewalls</router-link></p>
      <section v-if="data.findings.length" class="sheet"><FindingList :findings="data.findings" :code="code" /></section>
      <p v-if="!data.paths.length" class="sheet quiet">No path yet. A path says how a device gets its media from a source; Kaiku derives the tests and prerequisites from it.</p>
      <ul class="plain stack">
        <li v-for="p in data.paths" :key="p.id" class="sheet stack-s">
          <div class="row between"><h2><router-link :to="`/households/${code}/records/path/${p.id}`">{{ p.name }}</router-link></h2><span class="small quiet">{{ p.kind }}, found by {{ plain(p.foundBy) }}<template v-if="p.retired">, retired</template></span></div>
          <div class="ends">
            <div><div class="small quiet">{{ data.name(p.source) }}</div><div class="mono">{{ end(p.serverEnd) }}</div></div>
            <svg viewBox="0 0 60 12" width="60" height="12" role="img" aria-label="goes to"><path d="M2 6h52M48 1l7 5-7 5" fill="none" stroke="currentColor" stroke-width="1.6" /></svg>
            <div><div class="small quiet">{{ data.name(p.device) }}, as entered there</div><div class="mono">{{ end(p.deviceEnd) }}</div></div>
          </div>
          <div><router-link :to="`/households/${code}/paths/${p.id}/card`" class="small">What to enter on {{ data.name(p.device) }}</router-link></div>
          <div v-if="p.folders?.length" class="small quiet">Folders: {{ p.folders.map(data.name).join(', ') }}</div>
        </li>
      </ul>
      <section v-for="s in sides" :key="s.side" class="sheet stack" :aria-labelledby="`side-${s.side}`">
        <h2 :id="`side-${s.side}`">Prerequisites: {{ s.side }}</h2>
        <ul class="plain ruled">
          <li v-for="n in s.needs" :key="n.what + n.subject.id" class="need">
            <label class="grow"><input type="checkbox" :checked="n.met" :disabled="!data.mayWrite || !!n.provedBy || (n.recorded && !n.doneBy)" @change="tick(n, n.met ? 'untick' : 'tick')" />
              <span><strong>{{ n.title }}</strong> <span class="quiet small">at {{ n.subject.label }}</span><br /><span class="small quiet">{{ n.why }}</span></span></label>
            <span class="small state">{{ proof(n) }}</span>
            <v-btn v-if="data.mayWrite && !n.met" variant="text" size="small" @click="tick(n, 'refuse')">Refused</v-btn>
            <div v-if="n.steps?.length" class="steps"><RecipeSteps :steps="n.steps" :code="code" :may-write="data.mayWrite" @changed="reload" /></div>
          </li>
        </ul>
      </section>
      <section v-if="data.waking.length" class="sheet stack-s" aria-label="Sleep and wake">
        <h2>Sleep and wake</h2>
        <ul class="plain ruled">
          <li v-for="w in data.waking" :key="w.sleeper.id + w.by?.id">
            <div class="row between"><strong>{{ w.sleeper.label }}</strong><StateMark v-bind="wakes[w.state]" /></div>
            <div class="small">{{ w.said }}<template v-if="w.hasFiles"> It has the files.</template></div>
            <div class="small quiet">{{ w.paths.map((p) => p.label).join(', ') }}</div>
          </li>
        </ul>
      </section>
      <ProblemNote v-if="refusal" :failure="refusal" />
    </template>
  </div>
</template>

<style scoped>
.ends { display: grid; grid-template-columns: 1fr 60px 1fr; gap: 14px; align-items: end; }
.need { display: flex; gap: 12px; align-items: center; }
.need label { display: flex; gap: 12px; align-items: flex-start; cursor: pointer; }
.need input { width: 20px; height: 20px; margin: 2px 0 0; flex: none; accent-color: rgb(var(--v-theme-primary)); }
.state { text-align: right; }
.need { flex-wrap: wrap; }
.need > label { flex: 1; }
.steps { flex-basis: 100%; padding-left: 32px; }
@media (max-width: 899px) { .ends { grid-template-columns: minmax(0, 1fr); } .ends svg { transform: rotate(90deg); margin: 6px 0 6px 10px; width: 30px; } .need { flex-wrap: wrap; } .need label { flex-basis: 100%; } }
</style>
