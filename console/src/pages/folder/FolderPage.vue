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
type Query = { search?: string; trouble?: Schemas['FileTrouble']['trouble'] | 'any'; format?: number; from?: number; differs?: Schemas['DifferenceCount']['sort']; after?: number }
const route = useRoute()
const code = String(route.params.code)
const path = { code, id: String(route.params.id) }
const query = ref<Query>({})
const words = ref('')
const place = ref<string | null>(null)
const user = ref('')
const password = ref('')
const said = ref('')
const { data, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/folders/{id}/contents', { params: { path, query: query.value } })), { household: code })
const { failure: refusal, busy, act } = useAction()
const { job, share, start, stop } = useJob(code, 'read-folder', () => must(api.POST('/api/v1/households/{code}/folders/{id}/contents/read', { params: { path }, body: place.value ? { place: place.value, ...(user.value && { shareUser: user.value, sharePassword: password.value }) } : {} })), ended)

function ended(j: Job) {
  if (j.failed) said.value = `${j.failed.detail} ${j.failed.remedy}`
  else said.value = j.state === 'stopped' ? 'Stopped. What had been read by then is kept and is not read again.' : ''
  void reload()
}
const read = () => act(async () => { said.value = ''; await start(); password.value = '' })
const halt = () => act(async () => { await stop() })
const record = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/folders/{id}/contents/record', { params: { path }, body: { read: data.value!.ended! } }))
  said.value = 'The mix of formats and the number of items are recorded.'
  await reload()
})
const recordListing = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/folders/{id}/contents/record-listing', { params: { path }, body: { read: data.value!.ended! } }))
  said.value = 'What is missing from the list of the server is recorded.'
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
          <div v-if="data.ended && !data.stopped && !data.recorded && data.mayWrite && !job" class="row"><v-btn color="primary" :disabled="busy" @click="record">Record this mix</v-btn></div>
        </div>
        <form v-if="me.session?.onSite && data.mayWrite" class="reading" @submit.prevent="job ? halt() : read()">
          <v-combobox v-model="place" :items="data.places" :disabled="!!job" label="Where the files are" hint="A share or an export in the home. Left empty, the folder is read from its own source." persistent-hint clearable />
          <template v-if="place?.startsWith('smb:')"><v-text-field v-model="user" :disabled="!!job" label="User of the share" hint="Left empty, it is opened as a guest." persistent-hint autocomplete="off" /><v-text-field v-model="password" :disabled="!!job" label="That user's password" hint="Used for this reading only, and not kept." persistent-hint type="password" autocomplete="off" /></template>
          <v-btn v-if="job" type="submit" variant="outlined" :prepend-icon="mdiStopCircleOutline">Stop</v-btn>
          <v-btn v-else type="submit" :variant="data.ended ? 'outlined' : 'flat'" color="primary" :prepend-icon="mdiFolderSearchOutline" :disabled="busy">Read the folder</v-btn>
        </form>
        <div v-if="job" role="status" class="stack-s"><span class="place">{{ job.done }} of {{ counted(job.of, 'file') }}<template v-if="job.doing">, {{ job.doing }} …</template> <span class="quiet">started by {{ job.by }}</span></span><v-progress-linear :model-value="share" color="primary" aria-label="Reading in progress" /></div>
        <p v-if="data.recorded" class="small quiet">The folder's record has this mix and this number of items.</p>
        <p v-if="!me.session?.onSite" class="small quiet">This Kaiku is not on the home's network. On a laptop there, run <span class="mono">kaiku folder read "{{ data.folder.label }}" -H {{ code }}</span></p>
        <p v-if="said" role="status" class="said">{{ said }}</p>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <section v-if="data.ended && !data.stopped" class="sheet stack-s" aria-label="On the disk and on the list">
        <div class="row between"><h2>What the server lists of it</h2><v-btn v-if="data.listing?.whole && !data.listing.recorded && data.mayWrite && !job" color="primary" :disabled="busy" @click="recordListing">Record this comparison</v-btn></div>
        <p v-if="!data.listing" class="small quiet">The server was not asked for its list with this reading. It is asked when the files are read at a share or an export<template v-if="data.mayWrite">, or on a laptop with <span class="mono">kaiku folder compare</span></template>.</p>
        <template v-else>
          <p>{{ data.listing.said }}</p>
          <p v-if="data.listing.compared && !data.listing.whole" class="small">The server did not say for certain that this is its whole list. What is not listed may stand on a part that it did not send; nothing can be recorded from it.</p>
          <p v-if="data.listing.compared && data.listing.whole && !data.listing.sorts.length" class="small">Nothing differs.</p>
          <p v-if="data.listing.recorded" class="small quiet">The folder's record has this comparison.</p>
          <ul v-if="data.listing.sorts.length" class="plain ruled">
            <li v-for="s in data.listing.sorts" :key="s.sort" class="row between line"><StateMark state="warning" word="warning" /><span class="grow">{{ s.said }}</span><v-btn variant="text" size="small" :disabled="busy" :aria-pressed="query.differs === s.sort" @click="ask({ ...query, differs: query.differs === s.sort ? undefined : s.sort, after: undefined })">{{ counted(s.titles, 'title') }}</v-btn></li>
          </ul>
          <template v-if="data.listing.found">
            <p class="small quiet" role="status"><template v-if="data.listing.lines.length < data.listing.found">{{ (query.after ?? 0) + 1 }} to {{ (query.after ?? 0) + data.listing.lines.length }} of </template>{{ counted(data.listing.found, 'difference') }}</p>
            <ul class="plain ruled"><li v-for="(l, n) in data.listing.lines" :key="n"><div class="place">{{ l.title }}</div><div class="small quiet">{{ l.said }}<template v-if="l.cause">, likely because: {{ l.cause }}</template></div></li></ul>
            <v-btn v-if="data.listing.found > (query.after ?? 0) + data.listing.lines.length" variant="outlined" size="small" :disabled="busy" @click="ask({ ...query, after: (query.after ?? 0) + data.listing.lines.length })">Show the next ones</v-btn>
          </template>
        </template>
      </section>
      <section v-if="data.mix.length" class="sheet stack-s" aria-label="Formats">
        <h2>Formats</h2>
        <ul class="plain ruled">
          <li v-for="(m, n) in data.mix" :key="n" class="row between line">
            <div class="grow"><div>{{ [m.container, m.picture, m.sound].filter(Boolean).join('; ') }}</div><div v-if="m.needs" class="small quiet">Needs {{ m.needs }}</div></div>
            <span v-if="m.hours" class="num small">{{ playingTime(m.hours) }}</span><v-btn variant="text" size="small" :disabled="busy" :aria-pressed="query.format === n + 1" @click="ask({ format: n + 1 })">{{ counted(m.items, 'item') }}</v-btn>
          </li>
        </ul>
        <p class="small"><router-link :to="`/households/${code}/forecast`">What plays on which device</router-link><span class="quiet"> goes by what is recorded of the folder.</span></p>
      </section>
      <section v-if="data.troubles.length" class="sheet stack-s" aria-label="Not readable">
        <h2>Files that could not be read</h2>
        <ul class="plain ruled"><li v-for="t in data.troubles" :key="t.trouble" class="row between line"><StateMark state="warning" word="warning" /><span class="grow">{{ t.said }}</span><v-btn variant="text" size="small" :disabled="busy" @click="ask({ trouble: t.trouble })">{{ counted(t.items, 'file') }}</v-btn></li></ul>
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
.line { flex-wrap: nowrap; }
.reading { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(100%, 260px), 1fr)); gap: 12px; align-items: start; }
.reading > :first-child { grid-column: 1 / -1; }
.reading > .v-btn { justify-self: start; }
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 6px 12px; }
</style>
