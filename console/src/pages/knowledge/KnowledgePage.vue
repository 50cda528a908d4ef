<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, must, sendBytes, type Schemas } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { capital, counted, when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

/** What the firm knows of models of devices and of programs; it counts in every home. */
type Change = Schemas['KnowledgeChange']
const { data, failure, reload } = useResource(async () => {
  const [known, edits] = await Promise.all([must(api.GET('/api/v1/knowledge')), must(api.GET('/api/v1/knowledge/changes'))])
  return { known, edits }
})
const mayChange = computed(() => ['lead', 'coordinator'].includes(me.session?.person.role ?? ''))
const { failure: refusal, busy, act } = useAction()
const type = { 'Content-Type': 'application/vnd.kaiku.knowledge+json' }
const waiting = ref<{ text: string; changes: Change[] }>()
const said = ref('')
const removing = ref('')

const look = (event: Event) => act(async () => {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const text = await file.text()
  input.value = ''
  said.value = ''
  waiting.value = { text, changes: await sendBytes<Change[]>('/knowledge/compare', text, type) }
})
const take = () => act(async () => {
  const changes = await sendBytes<Change[]>('/knowledge', waiting.value!.text, type)
  waiting.value = undefined
  said.value = `Stored: ${counted(changes.length, 'change')}.`
  await reload()
})
const remove = (id: string) => act(async () => {
  await must(api.DELETE('/api/v1/knowledge/{id}', { params: { path: { id } } }))
  removing.value = ''
  await reload()
})
const lines = (c: Change) => [...c.gone.map((l) => `no longer: ${l}`), ...c.arrived.map((l) => `now: ${l}`)]
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <div class="row between"><h1>Models and versions</h1><a v-if="data?.known.sheets.length || data?.known.releases.length" href="/api/v1/knowledge/file" download="knowledge.json">Download all</a></div>
      <p class="quiet">What the firm knows of models of devices and of programs: what a model decodes by its data sheet, and the newest versions. It counts in every home.</p>
      <label v-if="mayChange" class="pick">{{ busy ? 'Reading …' : 'Add from a file' }}<input type="file" accept=".json,application/json" :disabled="busy" @change="look" /></label>
      <p v-if="said" role="status">{{ said }}</p>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <section v-if="waiting" class="sheet stack-s" aria-label="What the file changes">
        <h2>What the file changes</h2>
        <p v-if="!waiting.changes.length">The firm knows all of this already.</p>
        <ul v-else class="plain ruled"><li v-for="c in waiting.changes" :key="c.table + c.about"><strong>{{ c.about }}</strong>, {{ c.act }}<ul class="small quiet plain"><li v-for="l in lines(c)" :key="l">{{ l }}</li></ul></li></ul>
        <div class="row"><v-btn v-if="waiting.changes.length" color="primary" :loading="busy" @click="take">Store it for the firm</v-btn><v-btn variant="text" @click="waiting = undefined">Cancel</v-btn></div>
      </section>
      <LoadState v-if="!data" :failure="failure" @again="reload" />
      <template v-else>
        <p v-if="!data.known.sheets.length && !data.known.releases.length" class="sheet quiet">Nothing yet. A file of the form kaiku-knowledge/1 holds data sheets and versions; the guide shows an example.</p>
        <section v-if="data.known.releases.length" class="sheet stack-s" aria-label="Newest versions">
          <h2>Newest versions</h2>
          <ul class="plain ruled"><li v-for="r in data.known.releases" :key="r.id" class="row between">
            <span class="grow"><strong>{{ r.about }}</strong>: {{ r.newest || 'none' }}<template v-if="r.givenUp">, no longer maintained</template><br /><span class="small quiet">{{ r.source }}<template v-if="r.asOf">, {{ r.asOf }}</template></span></span>
            <template v-if="mayChange"><v-btn v-if="removing !== r.id" variant="text" size="small" :aria-label="`Remove ${r.about}`" @click="removing = r.id">Remove</v-btn><span v-else class="row"><v-btn color="error" size="small" @click="remove(r.id)">Remove it</v-btn><v-btn variant="text" size="small" @click="removing = ''">Cancel</v-btn></span></template>
          </li></ul>
        </section>
        <section v-for="s in data.known.sheets" :key="s.id" class="sheet stack-s" :aria-label="s.about">
          <div class="row between"><h2>{{ s.about }}</h2><span class="small quiet">{{ counted(s.lines.length, 'line') }}</span></div>
          <ul class="plain small"><li v-for="l in s.lines" :key="l">{{ capital(l) }}</li></ul>
          <p class="small quiet">Source: {{ s.source }}</p>
          <template v-if="mayChange"><div v-if="removing === s.id" class="row"><span>It will no longer count in any home.</span><v-btn color="error" size="small" @click="remove(s.id)">Remove it</v-btn><v-btn variant="text" size="small" @click="removing = ''">Cancel</v-btn></div>
            <div v-else><v-btn variant="text" size="small" :aria-label="`Remove ${s.about}`" @click="removing = s.id">Remove</v-btn></div></template>
        </section>
        <section v-if="data.edits.length" class="sheet stack-s" aria-label="Who changed what">
          <h2>Who changed what</h2>
          <ul class="plain ruled"><li v-for="(e, n) in data.edits" :key="n"><span class="small quiet">{{ when(e.at) }}, {{ e.by }}</span><ul class="plain small"><li v-for="c in e.changes" :key="c.about">{{ capital(c.act) }}: {{ c.about }}</li></ul></li></ul>
        </section>
      </template>
    </div>
  </v-main>
</template>
