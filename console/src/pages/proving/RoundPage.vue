<script setup lang="ts">
import { mdiCameraOutline } from '@mdi/js'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import { newId, outbox, post, sendOrKeep } from '../../outbox'
import LoadState from '../../parts/LoadState.vue'
import OutboxNote from '../../parts/OutboxNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { counted, floorName } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { outcomes, sum, type Outcome } from './outcomes'
import { photographOf } from './photographs'
import type { ClipReading } from './reading'
import ReadingFields from './ReadingFields.vue'
import SampleChoice from './SampleChoice.vue'
import WatchPart from './WatchPart.vue'

/** One step of the proof at a time: what to do, what to expect, and one tap where all is as expected. */
type Step = Schemas['ProofStep']
const code = String(useRoute().params.code)
const path = { code }
const { data, failure, reload } = useResource(async () => {
  const [plan, overview] = await Promise.all([must(api.GET('/api/v1/households/{code}/tests', { params: { path } })), must(api.GET('/api/v1/households/{code}/overview', { params: { path } }))])
  return { ...plan, mayWrite: overview.mayWrite }
}, { household: code })
const keyOf = (s: Step) => `${s.act} ${s.at.id} ${s.tests.join(' ')}`
const handed = reactive(new Set<string>()) // kept by the outbox, and not to be asked for again until it is known what came of them
const left = computed(() => data.value?.reproof.filter((s) => !handed.has(keyOf(s))) ?? [])
watch(() => outbox.parcels.length, async (n) => {
  if (n) return
  await reload()
  handed.clear()
})
const chosen = ref('')
const step = computed(() => left.value.find((s) => keyOf(s) === chosen.value) ?? left.value.find((s) => !s.machine) ?? left.value[0])
const minutes = computed(() => left.value.reduce((n, s) => n + s.minutes, 0))
const place = computed(() => (step.value ? left.value.indexOf(step.value) + 1 : 0))
const testOf = (id: string) => data.value?.tests.find((t) => t.id === id)
const where = (s: Step) => (s.room ? [floorName(s.floor), s.room.label].filter((one, n, both) => n > 0 || one.toLowerCase() !== both[1]!.toLowerCase()).join(', ') : '')

interface Other { outcome?: Outcome; reading?: ClipReading; note: string; photograph?: File }
const otherwise = reactive<Record<string, Other>>({})
const sample = ref('')
const watched = shallowRef<Schemas['WatchSeen']>() // what Kaiku saw of the server meanwhile
const open = ref('')
const asOf = ref(0) // revision of the home when the step was begun: the results depend on its facts
watch(() => step.value && keyOf(step.value), () => { for (const id in otherwise) delete otherwise[id]; open.value = ''; watched.value = undefined; asOf.value = data.value?.revision ?? 0 })
watch(data, (now) => { if (!asOf.value && now) asOf.value = now.revision })

const results = computed(() => step.value?.tests.map((test) => {
  const other = otherwise[test]
  return { id: newId(), test, ...(other?.reading ? { reading: other.reading } : { outcome: other?.outcome ?? ('pass' as Outcome) }), ...(other?.note && { note: other.note }), ...(watched.value?.values && Object.keys(watched.value.values).length && proves(test) && { values: watched.value.values }) }
}) ?? [])
const proves = (test: string) => test.split(':')[0] === watched.value?.test.split(':')[0]
const summed = computed(() => sum(results.value.map((r) => ('outcome' in r && r.outcome) || 'computed')))
const said = ref('')
const undoable = ref(0) // the revision that can be undone
const { failure: refusal, busy, act } = useAction()

function set(test: string, outcome: Outcome) {
  const kept = otherwise[test]
  if (outcome === 'pass' && !kept?.note && !kept?.photograph) delete otherwise[test]
  else otherwise[test] = { note: kept?.note ?? '', photograph: kept?.photograph, outcome }
}

function read(test: string, reading?: ClipReading) {
  const kept = otherwise[test]
  if (reading) otherwise[test] = { note: kept?.note ?? '', photograph: kept?.photograph, reading }
  else if (otherwise[test]?.reading) delete otherwise[test].reading
}

const other = (test: string) => (otherwise[test] ??= { outcome: 'pass', note: '' })
function choose(test: string, e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (file) other(test).photograph = file
}
const marked = (test: string) => (otherwise[test]?.reading ? 'computed' : otherwise[test]?.outcome ?? 'pass')

const record = (s: Step) => act(async () => {
  const sent = results.value
  const body = { results: sent, asOf: asOf.value, ...(sample.value && { sample: sample.value }) } // when it was done is said by the outbox, or is now
  const key = newId()
  const what = summed.value
  const room = s.room?.id ?? ''
  const pictures = await Promise.all(sent.flatMap((r) => {
    const file = otherwise[r.test]?.photograph
    return file ? [photographOf(code, room, r.id, newId(), otherwise[r.test]?.note || `${testOf(r.test)?.title}, ${testOf(r.test)?.about.label}`, file)] : []
  }))
  undoable.value = 0
  const made = await sendOrKeep(() => must(api.POST('/api/v1/households/{code}/attempts/round', { params: { path, header: { 'Idempotency-Key': key } }, body })),
    { code, room, title: `${s.sentence}: ${what}`, method: 'POST', path: `/households/${code}/attempts/round`, body, headers: { 'Idempotency-Key': key } })
  chosen.value = ''
  if (made) {
    undoable.value = made.revision
    setTimeout(() => { if (undoable.value === made.revision) undoable.value = 0 }, 60_000)
    said.value = `Recorded: ${what}.`
    const closed = made.attempts.flatMap((m) => m.closed ?? [])
    if (closed.length) said.value += ` Issues closed because their tests have passed: ${closed.map((c) => c.label).join(', ')}.`
    await reload()
  } else {
    handed.add(keyOf(s))
    said.value = `Kept on this device: ${what}.`
  }
  for (const p of pictures) await post(p)
})

const undo = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/journal/{revision}/undo', { params: { path: { code, revision: undoable.value } } }))
  undoable.value = 0
  said.value = 'Taken back.'
  await reload()
})

function skip(s: Step) {
  const next = left.value[(left.value.indexOf(s) + 1) % left.value.length]
  chosen.value = next ? keyOf(next) : ''
}
</script>

<template>
  <div class="page stack">
    <h1>Round</h1>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <OutboxNote />
      <p v-if="said" class="said row between" role="status"><span>{{ said }}</span><v-btn v-if="undoable" size="small" variant="outlined" :disabled="busy" @click="undo">Take back</v-btn></p>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <p v-if="!step" class="sheet">Every required test is proven or waived. <router-link :to="`/households/${code}/proving`">All tests</router-link></p>
      <template v-else>
        <p class="quiet">Step {{ place }} of {{ left.length }}, about {{ counted(minutes, 'minute') }} to go</p>
        <section class="sheet stack" :aria-label="step.sentence">
          <div><p v-if="where(step)" class="small quiet">{{ where(step) }}</p><h2>{{ step.sentence }}</h2></div>
          <p v-if="step.machine">Kaiku does this by itself. <router-link :to="`/households/${code}/proving`">Run the automatic tests</router-link></p>
          <template v-else>
            <WatchPart v-if="step.watch && data.mayWrite && me.session?.onSite" :key="step.watch" :code="code" :test="step.watch" @seen="(s) => (watched = s)" />
            <ul class="plain ruled">
              <li v-for="id in step.tests" :key="id" class="stack-s">
                <div class="test"><span><strong>{{ testOf(id)?.title }}</strong><span v-if="step.at.kind !== 'path'" class="quiet">, {{ testOf(id)?.about.label }}</span><br /><span class="small">{{ testOf(id)?.expected }}</span></span>
                  <v-btn v-if="data.mayWrite" variant="outlined" size="small" :aria-expanded="open === id" @click="open = open === id ? '' : id"><StateMark v-if="otherwise[id]?.outcome" :state="otherwise[id].outcome" :word="outcomes[otherwise[id].outcome]" /><template v-else>{{ otherwise[id]?.reading ? 'Computed' : 'Otherwise' }}</template></v-btn></div>
                <div v-if="open === id" class="stack-s">
                  <div class="choices"><button v-for="(word, o) in outcomes" :key="o" type="button" :aria-pressed="marked(id) === o" @click="set(id, o)"><StateMark :state="o" :word="word" /></button></div>
                  <details v-if="testOf(id)?.reading"><summary>{{ testOf(id)?.reading === 'lips' ? 'From a film of the sample clip' : 'From time codes of the sample clip' }}</summary><ReadingFields :reads="testOf(id)!.reading!" @read="(r) => read(id, r)" /></details>
                  <v-text-field :model-value="otherwise[id]?.note ?? ''" label="What you saw" density="compact" hide-details @update:model-value="(words: string) => { other(id).note = words }" />
                  <label class="pick"><v-icon :icon="mdiCameraOutline" size="20" /> {{ otherwise[id]?.photograph?.name ?? 'Take or choose a photograph' }}<input type="file" accept="image/*" capture="environment" @change="(e) => choose(id, e)" /></label>
                </div>
              </li>
            </ul>
            <details v-if="data.mayWrite"><summary>{{ sample ? `Played: ${sample}` : 'A sample clip was played' }}</summary><SampleChoice v-model="sample" /></details>
            <p v-if="step.shows?.length" class="small quiet">This is enough for {{ counted(step.shows.length, 'further test') }} on other paths.</p>
            <div v-if="data.mayWrite" class="does">
              <v-btn color="primary" size="x-large" block :disabled="busy" @click="record(step)">{{ Object.keys(otherwise).length ? `Record: ${summed}` : step.tests.length > 1 ? `All ${step.tests.length} as expected` : 'As expected' }}</v-btn>
              <v-btn v-if="left.length > 1" variant="text" block @click="skip(step)">Later</v-btn>
            </div>
          </template>
        </section>
        <section v-if="left.length > 1" class="sheet stack-s" aria-label="All steps">
          <h2>All steps</h2>
          <ol class="steps"><li v-for="s in left" :key="keyOf(s)"><button type="button" class="plainlink" :aria-current="s === step ? 'step' : undefined" @click="chosen = keyOf(s)">{{ s.sentence }}</button> <span class="small quiet">{{ where(s) }}{{ where(s) ? ', ' : '' }}{{ counted(s.minutes, 'minute') }}</span></li></ol>
        </section>
      </template>
    </template>
  </div>
</template>

<style scoped>
.test { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 12px; align-items: start; }
summary { min-height: 44px; display: flex; align-items: center; gap: 8px; cursor: pointer; }
summary::before { content: '▸'; }
details[open] > summary::before { content: '▾'; }
.choices { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
.choices button { min-height: 56px; border: 1.5px solid rgb(var(--v-theme-line)); border-radius: 6px; background: rgb(var(--v-theme-background)); font: inherit; cursor: pointer; }
.choices button[aria-pressed='true'] { border-color: rgb(var(--v-theme-primary)); border-width: 3px; }
.does { display: grid; gap: 4px; position: sticky; z-index: 2; bottom: 0; padding: 8px 0; background: rgb(var(--v-theme-surface)); }
@media (max-width: 720px) { .does { bottom: 59px; } }
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 8px 14px; background: rgb(var(--v-theme-surface)); }
.steps { margin: 0; padding-left: 26px; }
.steps li { padding: 6px 0; }
.plainlink { background: none; border: 0; padding: 6px 0; font: inherit; color: rgb(var(--v-theme-primary)); text-decoration: underline; text-align: left; cursor: pointer; }
.steps [aria-current] { font-weight: 700; }
</style>
