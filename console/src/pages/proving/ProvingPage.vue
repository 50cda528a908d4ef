<script setup lang="ts">
import { mdiPlayCircleOutline, mdiStopCircleOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas, type Test } from '../../api/client'
import type { Job } from '../../follow'
import { me } from '../../me'
import CoverageBar from '../../parts/CoverageBar.vue'
import LoadState from '../../parts/LoadState.vue'
import UnfinishedList from '../../parts/UnfinishedList.vue'
import OutboxNote from '../../parts/OutboxNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { counted, floorName, plain, when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import CoverageStrips from './CoverageStrips.vue'
import NightlyPart from './NightlyPart.vue'
import RecordSheet from './RecordSheet.vue'
import TestRow from './TestRow.vue'
import { useJob } from '../../useJob'

const code = String(useRoute().params.code)
const { data: plan, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/tests', { params: { path: { code } } })), { household: code })
const automatic = computed(() => plan.value?.tests.filter((t) => t.by === 'automatic') ?? [])
const byEye = computed(() => plan.value?.tests.filter((t) => t.by !== 'automatic') ?? [])
const unfolded = ref(false) // whether advised tests that were not tried are shown
const folded = (t: Test) => !t.required && t.status === 'untried' && !unfolded.value
const walk = computed(() => groupByRoom(byEye.value.filter((t) => !folded(t))))
const advised = computed(() => byEye.value.filter((t) => !t.required && t.status === 'untried').length)
const recording = ref<Test>()
const asOf = ref(0) // revision of the plan that the test was chosen from: the result depends on its facts
const begin = (t: Test) => { recording.value = t; asOf.value = plan.value?.revision ?? 0 }
const said = ref('')
const history = ref(false) // whether the strips were asked for

function groupByRoom(tests: Test[]): { name: string; tests: Test[] }[] {
  const groups: { name: string; tests: Test[] }[] = []
  for (const t of tests) {
    const name = t.room?.label ? `${floorName(t.floor)}, ${t.room.label}` : 'No room recorded'
    if (groups.at(-1)?.name !== name) groups.push({ name, tests: [] })
    groups.at(-1)?.tests.push(t)
  }
  return groups
}

const { job, share, start, stop } = useJob(code, 'run-tests', () => must(api.POST('/api/v1/households/{code}/tests/run', { params: { path: { code } }, body: {} })), ended)
const { failure: refusal, busy, act } = useAction()
const run = () => act(async () => { said.value = ''; await start() })
// Being found again and again is searched for beside everything else, for half an hour.
const patient = computed(() => automatic.value.filter((t) => t.kind === 'stays-found'))
const long = computed(() => automatic.value.filter((t) => t.kind === 'long-play'))
const { job: playing, start: beginPlaying, stop: endPlaying } = useJob(code, 'long-play', () => must(api.POST('/api/v1/households/{code}/tests/run', { params: { path: { code } }, body: { tests: long.value.map((t) => t.id) } })), ended)
const playLong = () => act(async () => { said.value = ''; await beginPlaying() })
const haltPlaying = () => act(async () => { await endPlaying() })
const { job: search, start: beginSearch, stop: endSearch } = useJob(code, 'keep-searching', () => must(api.POST('/api/v1/households/{code}/tests/run', { params: { path: { code } }, body: { tests: patient.value.map((t) => t.id) } })), ended)
const keepSearching = () => act(async () => { said.value = ''; await beginSearch() })
const haltSearch = () => act(async () => { await endSearch() })
const halt = () => act(async () => { await stop() })

function ended(j: Job) {
  const made = j.made ?? []
  if (j.state === 'stopped') said.value = `Stopped; ${counted(made.length, 'attempt')} recorded.`
  else if (j.failed) said.value = `${j.failed.detail} ${j.failed.remedy}`
  else tell(made)
  if (j.leftOut) said.value += ` ${counted(j.leftOut, 'test')} left out, because something that they need has failed.`
  void reload()
}

function tell(made: Schemas['AttemptMade'][]) {
  const passed = made.filter((m) => m.attempt.outcome === 'pass').length
  const closed = made.flatMap((m) => m.closed ?? [])
  said.value = `${passed} of ${made.length} passed.` + (closed.length ? ` Issues closed because their tests have passed: ${closed.map((c) => c.label).join(', ')}.` : '')
}

async function recorded(m: Schemas['AttemptMade']) {
  recording.value = undefined
  tell([m])
  said.value = `Recorded: ${m.test.title.toLowerCase()} of ${m.test.about.label} is now ${plain(m.test.status)}.` + (m.closed?.length ? ` Issue closed because this test has passed: ${m.closed.map((c) => c.label).join(', ')}.` : '')
  await reload()
}
</script>

<template>
  <div class="page stack">
    <h1>Proving</h1>
    <OutboxNote />
    <LoadState v-if="!plan" :failure="failure" @again="reload" />
    <p v-else-if="!plan.tests.length" class="sheet">No tests are planned yet. They follow from the paths: <router-link :to="`/households/${code}/paths`">record one.</router-link></p>
    <template v-else>
      <div class="sheet stack-s">
        <CoverageBar :coverage="plan.coverage" />
        <details v-if="plan.reproof.length">
          <summary><span><strong>{{ counted(plan.reproof.length, 'step') }}</strong> to prove everything, about {{ counted(plan.minutes, 'minute') }}</span></summary>
          <ol class="steps"><li v-for="s in plan.reproof" :key="s.act + s.at.id">{{ s.sentence }} <span class="small quiet">{{ counted(s.tests.length + (s.shows?.length ?? 0), 'test') }}, {{ counted(s.minutes, 'minute') }}</span></li></ol>
        </details>
        <details @toggle="(e) => (history = history || (e.target as HTMLDetailsElement).open)">
          <summary>How it came about, room by room</summary>
          <CoverageStrips v-if="history" :code="code" />
        </details>
        <div v-if="plan.reproof.length"><v-btn variant="outlined" :to="`/households/${code}/proving/round`">Go through them one by one</v-btn></div>
        <p class="row small">Results on paper: <a :href="`/api/v1/households/${code}/sheet/results`">for the firm (PDF)</a><a :href="`/api/v1/households/${code}/sheet/customer`">for the customer (PDF)</a><a :href="`/api/v1/households/${code}/sheet/table`">as a table (CSV)</a></p>
      </div>
      <section v-if="plan.unfinished?.length" class="sheet stack-s" aria-labelledby="unfinished"><h2 id="unfinished">Changes that are not finished</h2><p class="small quiet">Until they are, what was proven on their devices is in doubt.</p><UnfinishedList :unfinished="plan.unfinished" :code="code" /></section>
      <p v-if="said" class="said" role="status">{{ said }}</p>
      <section class="sheet stack" aria-labelledby="machine">
        <div class="row between">
          <h2 id="machine">Automatic tests</h2>
          <v-btn v-if="!job && me.session?.onSite" color="primary" :prepend-icon="mdiPlayCircleOutline" :disabled="busy" @click="run">Run {{ counted(automatic.filter((t) => !t.lasts).length, 'test') }}</v-btn>
          <v-btn v-if="job" variant="outlined" :prepend-icon="mdiStopCircleOutline" @click="halt">Stop</v-btn>
        </div>
        <p v-if="!me.session?.onSite" class="small quiet">This Kaiku is not on the home's network. On a laptop there, run <span class="mono">kaiku test run -H {{ code }}</span></p>
        <div v-if="job" role="status" class="stack-s"><span>{{ job.done }} of {{ job.of }} done<template v-if="job.doing">: {{ job.doing }} …</template> <span class="quiet">started by {{ job.by }}</span></span><v-progress-linear :model-value="share" color="primary" aria-label="Tests running" /></div>
        <div v-if="patient.length && me.session?.onSite" class="row">
          <v-btn v-if="!search" variant="outlined" :disabled="busy" @click="keepSearching">Search for half an hour</v-btn>
          <template v-else><span role="status">Searching since {{ when(search.startedAt) }}, for half an hour.</span><v-btn variant="outlined" @click="haltSearch">Stop searching</v-btn></template>
        </div>
        <div v-if="long.length && me.session?.onSite" class="row">
          <v-btn v-if="!playing" variant="outlined" :disabled="busy" @click="playLong">Play for an hour</v-btn>
          <template v-else><span role="status">Playing since {{ when(playing.startedAt) }}, for an hour. The screens are in use until then.</span><v-btn variant="outlined" @click="haltPlaying">Stop playing</v-btn></template>
        </div>
        <ProblemNote v-if="refusal" :failure="refusal" />
        <ul class="plain ruled"><li v-for="t in automatic" :key="t.id"><TestRow :test="t" :code="code" :recordable="!!t.undone" @record="begin(t)" /></li></ul>
      </section>
      <NightlyPart :code="code" :on-site="!!me.session?.onSite" />
      <section v-for="g in walk" :key="g.name" class="sheet stack">
        <h2>{{ g.name }}</h2>
        <ul class="plain ruled"><li v-for="t in g.tests" :key="t.id"><TestRow :test="t" :code="code" recordable @record="begin(t)" /></li></ul>
      </section>
      <div v-if="advised" class="row"><v-btn variant="outlined" :aria-expanded="unfolded" @click="unfolded = !unfolded">{{ unfolded ? 'Hide advised tests' : `Show ${counted(advised, 'advised test')}` }}</v-btn></div>
    </template>
    <RecordSheet v-if="recording" :test="recording" :code="code" :as-of="asOf" @done="recorded" @kept="(s) => { recording = undefined; said = s }" @leave="recording = undefined" />
  </div>
</template>

<style scoped>
.steps { margin: 6px 0 0; padding-left: 26px; }
.steps li { padding: 3px 0; }
summary { min-height: 44px; display: flex; align-items: center; gap: 8px; cursor: pointer; }
summary::before { content: '▸'; }
details[open] > summary::before { content: '▾'; }
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 8px 14px; background: rgb(var(--v-theme-surface)); }
</style>
