<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDisplay } from 'vuetify'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { counted, plain } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import ForecastCell from './ForecastCell.vue'
import TriedMarks from './TriedMarks.vue'
import { gradeWords, markOf, playingTime } from './grades'

/** What of each folder plays on which device, before anybody tries. */
type Cell = Schemas['ForecastCell']
const route = useRoute()
const router = useRouter()
const code = String(route.params.code)
const { width } = useDisplay()
const { data, failure, reload } = useResource(async () => {
  const path = { params: { path: { code } } }
  const [forecast, overview] = await Promise.all([must(api.GET('/api/v1/households/{code}/forecast', path)), must(api.GET('/api/v1/households/{code}/overview', path))])
  return { ...forecast, mayWrite: overview.mayWrite }
}, { household: code })
const { failure: refusal, busy, act } = useAction()
/** Puts what would be worth converting on the list of converted copies, as wanted. */
const want = (a: Schemas['ForecastAhead']) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/converted-copies', { params: { path: { code } }, body: { folder: a.folder.id, title: 'All of this form', items: a.items, for: a.for.map((d) => d.id), from: a.from, into: a.into, state: 'wanted', gigabytesBefore: a.before, gigabytesAfter: a.after } }))
  await reload()
})

const cells = computed(() => new Map(data.value?.cells.map((c) => [`${c.device} ${c.folder}`, c])))
const at = (device: string, folder: string): Cell | undefined => cells.value.get(`${device} ${folder}`)
const grid = computed(() => width.value >= 900 && (data.value?.folders.length ?? 0) <= 6)
const open = computed(() => at(String(route.query.device ?? ''), String(route.query.folder ?? '')))
const isOpen = (c: Cell) => c === open.value
const press = (c: Cell) => router.replace({ query: isOpen(c) ? {} : { device: c.device, folder: c.folder } })
const label = (id: string) => [...data.value!.devices, ...data.value!.folders].find((n) => n.id === id)?.label ?? ''
const below = (c: Cell) => [c.shares.length > 1 || c.unread ? c.said : '', c.evidence ? `known by: ${plain(c.evidence)}` : ''].filter(Boolean).join('; ') || c.why
</script>

<template>
  <div class="page stack">
    <h1>What plays</h1>
    <p class="quiet">Worked out from the formats in each folder and from what each device decodes, on the path that serves it best. Below it is how the tests of that path stand, whatever was played in them. Shares are of hours.</p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <p v-if="!data.cells.length" class="sheet quiet">No path leads to a folder yet. Record the paths and the folders of their sources; <span class="mono">kaiku folder read</span> reads what is in them.</p>
      <ul v-if="data.cells.length" class="plain row small" aria-label="Marks"><li v-for="(word, grade) in gradeWords" :key="grade"><StateMark :state="grade" :word="word" /></li></ul>
      <div v-if="data.cells.length && grid" class="sheet">
        <table class="grid">
          <thead><tr><th scope="col">Device</th><th v-for="f in data.folders" :key="f.id" scope="col"><router-link :to="`/households/${code}/folders/${f.id}`">{{ f.label }}</router-link></th></tr></thead>
          <tbody>
            <tr v-for="d in data.devices" :key="d.id">
              <th scope="row"><router-link :to="`/households/${code}/records/device/${d.id}`">{{ d.label }}</router-link></th>
              <td v-for="{ folder, c } in data.folders.map((f) => ({ folder: f.id, c: at(d.id, f.id) }))" :key="folder">
                <button v-if="c" type="button" class="cell" :aria-expanded="isOpen(c)" @click="press(c)"><StateMark v-bind="markOf(c)" /><span class="small">{{ below(c) }}</span><TriedMarks :cell="c" /></button>
                <span v-else class="small quiet">no path</span>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <section v-if="grid && open" class="sheet" :aria-label="`${label(open.folder)} on ${label(open.device)}`"><ForecastCell :cell="open" :device="label(open.device)" :folder="label(open.folder)" :code="code" heading="h2" /></section>
      <template v-if="!grid">
        <section v-for="d in data.devices" :key="d.id" class="sheet stack-s" :aria-label="d.label">
          <h2>{{ d.label }}</h2>
          <ul class="plain ruled">
            <li v-for="c in data.cells.filter((one) => one.device === d.id)" :key="c.folder" class="stack-s">
              <button type="button" class="cell" :aria-expanded="isOpen(c)" @click="press(c)"><span class="row between"><strong>{{ label(c.folder) }}</strong><StateMark v-bind="markOf(c)" /></span><span class="small">{{ below(c) }}</span><TriedMarks :cell="c" /></button>
              <ForecastCell v-if="isOpen(c)" :cell="c" :device="d.label" :folder="label(c.folder)" :code="code" heading="h3" />
            </li>
          </ul>
        </section>
      </template>
      <section v-if="data.converters.length" class="sheet stack-s" aria-label="Converting">
        <h2>Converting pictures</h2>
        <p v-for="c in data.converters" :key="c.source.id" class="row"><StateMark v-if="c.short" state="warning" word="warning" /><span class="grow">{{ c.said }}</span></p>
      </section>
      <section v-if="data.ahead.length" class="sheet stack-s" aria-label="Converting ahead">
        <h2>Converting ahead of time</h2>
        <ul class="plain ruled"><li v-for="(a, n) in data.ahead" :key="n" class="stack-s">
          <div><strong>{{ a.folder.label }}</strong>: {{ a.from }} <span class="quiet">into</span> {{ a.into }}</div>
          <div class="small quiet">{{ a.said }}</div>
          <div v-if="a.listed" class="small"><router-link :to="`/households/${code}/records/converted-copy`">On the list of converted copies</router-link></div>
          <div v-else-if="data.mayWrite"><v-btn variant="outlined" size="small" :loading="busy" @click="want(a)">Put it on the list</v-btn></div>
        </li></ul>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <section v-if="data.helps.length" class="sheet stack-s" aria-label="What would help">
        <h2>What would help most</h2>
        <p class="small quiet">Each line is one change alone, with what would then play as it is and does not now; of subtitles, with the films that may have others.</p>
        <ol class="plain ruled"><li v-for="h in data.helps" :key="h.said" class="row between"><span class="grow">{{ h.said }}</span><span class="num small"><template v-if="h.hours">{{ playingTime(h.hours) }}, </template>{{ counted(h.items, 'item') }}</span></li></ol>
      </section>
    </template>
  </div>
</template>

<style scoped>
.grid th[scope='row'] { font-size: 1rem; min-width: 130px; }
.grid tbody tr:last-child th { border-bottom: 0; }
.grid td { padding: 4px 8px 4px 0; min-width: 120px; }
.cell { display: grid; gap: 2px; width: 100%; min-height: 44px; padding: 6px 8px; text-align: left; color: inherit; background: none; border: 1px solid rgb(var(--v-theme-line)); border-radius: 6px; cursor: pointer; font: inherit; }
.cell[aria-expanded='true'] { border-color: rgb(var(--v-theme-primary)); box-shadow: inset 0 0 0 1px rgb(var(--v-theme-primary)); }
</style>
