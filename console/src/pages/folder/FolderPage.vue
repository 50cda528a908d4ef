<script setup lang="ts">
import { mdiFolderSearchOutline, mdiMagnify, mdiStopCircleOutline } from '@mdi/js'
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import type { Job } from '../../follow'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { useJob } from '../../useJob'
import { useResource } from '../../useResource'
import { counted, when } from '../../words'
import { playingTime, sized } from '../forecast/grades'

/** What lies in a folder, by its newest reading; it can be read anew, and recorded. */
type Query = { search?: string; trouble?: Schemas['FileTrouble']['trouble'] | 'any'; format?: number; from?: number }
const route = useRoute()
const code = String(route.params.code)
const path = { code, id: String(route.params.id) }
const query = ref<Query>({})
const words = ref('')
const said = ref('')
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/folders/{id}/contents', { params: { path, query: query.value } })), { household: code })
const { failure: refusal, busy, act } = useAction()
const { job, share, start, stop } = useJob(code, 'read-folder', () => must(api.POST('/api/v1/households/{code}/folders/{id}/contents/read', { params: { path }, body: {} })), ended)

function ended(j: Job) {
  if (j.failed) said.value = `${j.failed.detail} ${j.failed.remedy}`
  else said.value = j.state === 'stopped' ? 'Stopped. What had been read by then is kept and is not read again.' : ''
  void reload()
}
const read = () => act(async () => { said.value = ''; await start() })
const halt = () => act(async () => { await stop() })
const record = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/folders/{id}/contents/record', { params: { path }, body: { read: data.value!.ended! } }))
  said.value = 'The mix of formats and the number of items are recorded.'
  await reload()
})
const ask = (q: Query) => act(async () => { query.value = q; await reload() })
const search = () => ask({ ...(words.value && { search: words.value }) })
</script>

<template>
  <div class="page stack">
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <div class="row between"><h1>What is in {{ data.folder.label }}</h1><router-link :to="`/households/${code}/records/folder/${path.id}`">The folder's record</router-link></div>
      <section class="sheet stack" aria-label="The reading">
        <div class="row between">
          <div class="grow">
            <p><strong>{{ data.said }}</strong></p>
            <p v-if="data.ended" class="small quiet">Read {{ when(data.ended) }} by {{ data.by }}<template v-if="data.with"> with {{ data.with }}</template>, at <span class="mono place">{{ data.place }}</span></p>
            <p v-if="data.stopped" class="small">The reading was stopped before it had finished; nothing can be recorded from it.</p>
            <p v-if="data.covers || data.ignored" class="small quiet">Not counted: <template v-if="data.covers">{{ counted(data.covers, 'picture') }} of films or albums</template><template v-if="data.covers && data.ignored">, </template><template v-if="data.ignored">{{ counted(data.ignored, 'other file') }}</template>.</p>
          </div>
          <div class="row">
            <v-btn v-if="!job && me.session?.onSite && data.mayWrite" :variant="data.ended ? 'outlined' : 'flat'" color="primary" :prepend-icon="mdiFolderSearchOutline" :disabled="busy" @click="read">Read the folder</v-btn>
            <v-btn v-if="job" variant="outlined" :prepend-icon="mdiStopCircleOutline" @click="halt">Stop</v-btn>
            <v-btn v-if="data.ended && !data.stopped && !data.recorded && data.mayWrite && !job" color="primary" :disabled="busy" @click="record">Record this mix</v-btn>
          </div>
        </div>
        <div v-if="job" role="status" class="stack-s"><span class="place">{{ job.done }} of {{ counted(job.of, 'file') }}<template v-if="job.doing">, {{ job.doing }} …</template> <span class="quiet">started by {{ job.by }}</span></span><v-progress-linear :model-value="share" color="primary" aria-label="Reading in progress" /></div>
        <p v-if="data.recorded" class="small quiet">The folder's record has this mix and this number of items.</p>
        <p v-if="!me.session?.onSite" class="small quiet">This Kaiku is not on the home's network. On a laptop there, run <span class="mono">kaiku folder read "{{ data.folder.label }}" -H {{ code }}</span></p>
        <p v-if="said" role="status" class="said">{{ said }}</p>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <section v-if="data.mix.length" class="sheet stack-s" aria-label="Formats">
        <h2>Formats</h2>
        <ul class="plain ruled">
          <li v-for="(m, n) in data.mix" :key="n" class="row between">
            <div class="grow"><div>{{ [m.container, m.picture, m.sound].filter(Boolean).join('; ') }}</div><div v-if="m.needs" class="small quiet">Needs {{ m.needs }}</div></div>
            <span v-if="m.hours" class="num small">{{ playingTime(m.hours) }}</span><v-btn variant="text" size="small" :disabled="busy" :aria-pressed="query.format === n + 1" @click="ask({ format: n + 1 })">{{ counted(m.items, 'item') }}</v-btn>
          </li>
        </ul>
        <p class="small"><router-link :to="`/households/${code}/forecast`">What plays on which device</router-link><span class="quiet"> goes by what is recorded of the folder.</span></p>
      </section>
      <section v-if="data.troubles.length" class="sheet stack-s" aria-label="Not readable">
        <h2>Files that could not be read</h2>
        <ul class="plain ruled"><li v-for="t in data.troubles" :key="t.trouble" class="row between"><StateMark state="warning" word="warning" /><span class="grow">{{ t.said }}</span><v-btn variant="text" size="small" :disabled="busy" @click="ask({ trouble: t.trouble })">{{ counted(t.items, 'file') }}</v-btn></li></ul>
      </section>
      <section v-if="data.ended" class="sheet stack-s" aria-label="Files">
        <div class="row between"><h2>Files</h2><v-btn v-if="query.search || query.trouble || query.format || query.from" variant="text" size="small" :disabled="busy" @click="words = ''; ask({})">Show all</v-btn></div>
        <form role="search" @submit.prevent="search"><v-text-field v-model="words" label="Name or format" :prepend-inner-icon="mdiMagnify" density="compact" hide-details clearable @click:clear="words = ''; ask({})" /></form>
        <p class="small quiet" role="status">{{ counted(data.found, 'file') }}<template v-if="data.files.length < data.found">, {{ (query.from ?? 0) + 1 }} to {{ (query.from ?? 0) + data.files.length }} shown</template><template v-if="data.left">; {{ counted(data.left, 'further item') }} are in the formats above only</template></p>
        <ul class="plain ruled">
          <li v-for="f in data.files" :key="f.path">
            <div class="place">{{ f.path }}</div>
            <div class="small quiet">{{ [f.said, f.format, f.length, sized(f.bytes), f.needs && `needs ${f.needs}`].filter(Boolean).join(' · ') }}</div>
          </li>
        </ul>
        <v-btn v-if="data.found > (query.from ?? 0) + data.files.length" variant="outlined" size="small" :disabled="busy" @click="ask({ ...query, from: (query.from ?? 0) + data.files.length })">Show the next ones</v-btn>
      </section>
    </template>
  </div>
</template>

<style scoped>
.place { overflow-wrap: anywhere; }
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 6px 12px; }
</style>
