<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import { me, nounOf } from '../../me'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useAction } from '../../useAction'
import LoadState from '../../parts/LoadState.vue'
import { when } from '../../words'
import { useResource } from '../../useResource'

const route = useRoute()
const code = String(route.params.code)
const record = typeof route.query.record === 'string' ? route.query.record : ''
const all = ref<Schemas['JournalEntry'][]>([])
const more = ref(true)
const mayWrite = ref(false)
const word = ref('')
const by = ref<string | null>(null)
const since = ref('')
const people = computed(() => me.people.map((p) => ({ value: p.id, title: p.name })))
watch([by, since], () => void reload())
const undoing = ref('')
const { failure: refusal, act } = useAction()
const { data, failure, reload } = useResource(first, { household: code })

/** The newest page; what was added since is shown above, older pages are asked for again. */
async function first() {
  const [got, overview] = await Promise.all([page(), must(api.GET('/api/v1/households/{code}/overview', { params: { path: { code } } }))])
  all.value = got
  mayWrite.value = overview.mayWrite
  return got
}

const number = (e: Schemas['JournalEntry']) => `${e.revision}.${e.n}`
const undo = (e: Schemas['JournalEntry']) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/journal/{revision}/{n}/undo', { params: { path: { code, revision: e.revision, n: e.n } } }))
  undoing.value = ''
  await reload()
})

/** Whether the entry is the newest of a revision with several, all of which can be undone. */
const heads = (e: Schemas['JournalEntry'], n: number) => all.value[n - 1]?.revision !== e.revision && all.value[n + 1]?.revision === e.revision && all.value.every((o) => o.revision !== e.revision || o.plain || o.follows)
const undoAll = (revision: number) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/journal/{revision}/undo', { params: { path: { code, revision } } }))
  undoing.value = ''
  await reload()
})

async function earlier() {
  all.value = [...all.value, ...(await page(all.value.at(-1)?.revision))]
}


async function page(before = 0) {
  const got = await must(api.GET('/api/v1/households/{code}/journal', { params: { path: { code }, query: { limit: 50, ...(before && { before }), ...(record && { record }), ...(word.value && { word: word.value }), ...(by.value && { by: by.value }), ...(since.value && { since: new Date(since.value + 'T00:00').toISOString() }) } } }))
  more.value = got.length === 50
  return got
}
</script>

<template>
  <div class="page stack">
    <h1>Journal</h1>
    <p v-if="record" class="small">One record only. <router-link :to="`/households/${code}/journal`">Show all.</router-link></p>
    <form class="finder" role="search" @submit.prevent="reload"><v-text-field v-model="word" label="A word in a value or reason" hide-details clearable class="word" @click:clear="word = ''; reload()" /><v-select v-model="by" :items="people" label="By" hide-details clearable class="by" /><v-text-field v-model="since" type="date" label="Since" hide-details clearable class="since" @click:clear="since = ''" /><v-btn type="submit" variant="outlined">Find</v-btn></form>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <ol v-else class="plain sheet ruled">
      <li v-for="(e, n) in all" :key="`${e.revision}.${e.n}`" class="entry">
        <span class="mono small quiet rev">{{ e.revision }}.{{ e.n }}</span>
        <div class="grow">
          <div><strong>{{ nounOf(e.subject.kind) }} {{ e.label }}</strong> {{ e.act }} <span class="quiet small">{{ when(e.at) }}, {{ e.byName }}{{ e.doneAt ? `, done ${when(e.doneAt)}` : '' }}</span></div>
          <div v-if="e.why" class="small">because {{ e.why }}</div>
          <div v-if="undoing === number(e)" class="row"><span>Write the reverse of this entry? Both entries stay in the journal.</span><v-btn color="primary" size="small" @click="undo(e)">Undo</v-btn><v-btn variant="text" size="small" @click="undoing = ''">Cancel</v-btn></div>
          <div v-if="undoing === `${e.revision}` && heads(e, n)" class="row"><span>Write the reverse of all entries of revision {{ e.revision }}?</span><v-btn color="primary" size="small" @click="undoAll(e.revision)">Undo all</v-btn><v-btn variant="text" size="small" @click="undoing = ''">Cancel</v-btn></div>
          <ProblemNote v-if="undoing === `${e.revision}` && heads(e, n) && refusal" :failure="refusal" />
          <ProblemNote v-if="undoing === number(e) && refusal" :failure="refusal" />
          <ul class="plain small what"><li v-for="m in e.members?.slice(0, 6)" :key="m">{{ m }}</li><li v-if="(e.members?.length ?? 0) > 6" class="quiet">and {{ (e.members?.length ?? 0) - 6 }} more</li></ul>
        </div>
        <v-btn v-if="mayWrite && heads(e, n) && undoing !== `${e.revision}`" variant="text" size="small" @click="undoing = `${e.revision}`">Undo all of {{ e.revision }}</v-btn>
        <v-btn v-if="mayWrite && e.plain && undoing !== number(e)" variant="text" size="small" :aria-label="`Undo entry ${number(e)}`" @click="undoing = number(e)">Undo</v-btn>
      </li>
      <li v-if="!all.length" class="quiet">No entry matches.</li>
    </ol>
    <div v-if="data && more"><v-btn variant="outlined" @click="earlier">Earlier</v-btn></div>
  </div>
</template>

<style scoped>
.finder { display: grid; grid-template-columns: minmax(0, 4fr) minmax(0, 3fr) minmax(0, 2fr) auto; gap: 10px; align-items: center; }
@media (max-width: 899px) { .finder { grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); } .word { grid-column: 1 / -1; } .finder .v-btn { justify-self: start; } }
.entry { display: flex; gap: 12px; }
.rev { width: 46px; flex: none; padding-top: 2px; }
.what { color: rgba(var(--v-theme-on-surface), .85); overflow-wrap: anywhere; }
</style>
