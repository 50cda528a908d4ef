<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { capital, plain, when } from '../../words'
import { answers } from './decoding'
import { measure, type Progress } from './measure'

/** Any browser in the home measures where it stands: no account, ten seconds, a live picture. */
const code = String(useRoute().params.code)
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/measure/{code}', { params: { path: { code } } })))
const { failure: refusal, busy, act } = useAction()
const progress = ref<Progress>()
const done = ref<Schemas['ReadingRecord'][]>()
const conditions = ref('')
const other = ref(false) // whether this browser is beside the device instead of in it
const phases = { latency: 'Round-trip time', down: 'Download rate', up: 'Upload rate' } as const
const top = computed(() => Math.max(1, ...(progress.value?.points ?? []).map((p) => p.mbps)))
const line = computed(() => (progress.value?.points ?? []).map((p) => `${(p.share * 600).toFixed(1)},${(116 - (p.mbps / top.value) * 104).toFixed(1)}`).join(' '))
const unit: Record<string, string> = { mbps: 'Mb/s', ms: 'ms', percent: '%' }
const said = (r: Schemas['ReadingRecord']) => `${plain(r.what.slice(0, r.what.lastIndexOf('-')))}: ${r.value < 100 ? r.value.toFixed(1) : Math.round(r.value)} ${unit[r.what.slice(r.what.lastIndexOf('-') + 1)] ?? ''}`

const playsHere = ref(false)
const declared = ref<string[]>()
const { failure: declined, busy: asking, act: ask } = useAction()

const declare = () => ask(async () => {
  const place = { params: { path: { code } } }
  const { questions } = await must(api.GET('/api/v1/measure/{code}/decoding', place))
  const said = await answers(questions)
  declared.value = (await must(api.POST('/api/v1/measure/{code}/decoding', { ...place, body: { answers: said as boolean[], playsHere: playsHere.value } }))).lines
})

const begin = () => act(async () => {
  done.value = undefined
  const run = await must(api.POST('/api/v1/measure/{code}/begin', { params: { path: { code } } }))
  const got = await measure(code, run.run, (p) => { progress.value = p })
  const answer = await must(api.POST('/api/v1/measure/{code}/end', { params: { path: { code } }, body: { run: run.run, ...got, ...(other.value && { with: 'a browser beside it' }), ...(conditions.value && { conditions: conditions.value }) } }))
  done.value = answer.readings
  progress.value = undefined
})
</script>

<template>
  <v-main id="main">
    <div class="page stack narrow">
      <h1>Measure here</h1>
      <LoadState v-if="!data" :failure="failure" @again="reload" />
      <template v-else>
        <section class="sheet stack">
          <p>This measures how well <strong>{{ data.place }}</strong> reaches the Kaiku in this home. It takes ten seconds; keep this page in the foreground. Nothing leaves the home.</p>
          <template v-if="!busy">
            <label class="check"><input v-model="other" type="checkbox" /> This is another device, held beside it</label>
            <v-text-field v-model="conditions" label="Conditions (optional)" placeholder="evening, door closed" />
            <div><v-btn color="primary" size="large" @click="begin">{{ done ? 'Measure again' : 'Measure' }}</v-btn></div>
          </template>
          <div v-else class="stack-s" role="status">
            <strong>{{ progress ? phases[progress.phase] : 'Starting' }} …</strong>
            <svg viewBox="0 0 600 120" class="graph" aria-hidden="true" preserveAspectRatio="none"><line x1="0" x2="600" y1="116" y2="116" class="base" vector-effect="non-scaling-stroke" /><polyline :points="line" class="run" vector-effect="non-scaling-stroke" /></svg>
            <span class="now">{{ progress?.now ?? '' }}</span>
          </div>
          <ProblemNote v-if="refusal" :failure="refusal" />
        </section>
        <section v-if="done" class="sheet stack-s" aria-labelledby="kept"><h2 id="kept">Measured and recorded</h2>
          <ul class="plain"><li v-for="r in done" :key="r.id">{{ said(r) }}</li></ul>
          <p class="small quiet">A browser cannot measure packet loss. On a laptop, run <span class="mono">kaiku reading take</span></p>
        </section>
        <section v-if="data.ofDevice" class="sheet stack" aria-labelledby="decodes">
          <h2 id="decodes">What this browser decodes</h2>
          <p>The browser is asked about each format that matters, and what it answers is recorded for <strong>{{ data.place }}</strong>. Do this only in the browser of the device itself.</p>
          <label class="check"><input v-model="playsHere" type="checkbox" /> It plays its films and music in this browser</label>
          <div><v-btn color="primary" variant="outlined" :loading="asking" @click="declare">Ask this browser</v-btn></div>
          <ProblemNote v-if="declined" :failure="declined" />
          <div v-if="declared" role="status"><h3>Recorded</h3><ul class="plain small"><li v-for="l in declared" :key="l">{{ capital(l) }}</li></ul></div>
        </section>
        <p class="small quiet">The code expires at {{ when(data.ends) }}.</p>
      </template>
    </div>
  </v-main>
</template>

<style scoped>
.narrow { max-width: 640px; }
.graph { width: 100%; height: 120px; background: rgb(var(--v-theme-background)); border-radius: 4px; }
.base { stroke: rgb(var(--v-theme-line)); }
.run { fill: none; stroke: rgb(var(--v-theme-primary)); stroke-width: 2.5; }
.now { font-size: 1.5rem; font-weight: 650; font-variant-numeric: tabular-nums; }
</style>
