<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import LoadState from '../../parts/LoadState.vue'
import { plain, when } from '../../words'
import { useResource } from '../../useResource'

const route = useRoute()
const code = String(route.params.code)
const record = typeof route.query.record === 'string' ? route.query.record : ''
const all = ref<Schemas['JournalEntry'][]>([])
const more = ref(true)
const { data, failure, reload } = useResource(first, { household: code })

/** The newest page; what was added since is shown above, older pages are asked for again. */
async function first() {
  const got = await page()
  all.value = got
  return got
}

async function earlier() {
  all.value = [...all.value, ...(await page(all.value.at(-1)?.revision))]
}


async function page(before = 0) {
  const got = await must(api.GET('/api/v1/households/{code}/journal', { params: { path: { code }, query: { limit: 50, ...(before && { before }), ...(record && { record }) } } }))
  more.value = got.length === 50
  return got
}
</script>

<template>
  <div class="page stack">
    <h1>Journal</h1>
    <p v-if="record" class="small">Of one record. <router-link :to="`/households/${code}/journal`">Show all.</router-link></p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <ol v-else class="plain sheet ruled">
      <li v-for="e in all" :key="`${e.revision}.${e.n}`" class="entry">
        <span class="mono small quiet rev">{{ e.revision }}.{{ e.n }}</span>
        <div class="grow">
          <div><strong>{{ plain(e.subject.kind) }} {{ e.label }}</strong> {{ e.act }} <span class="quiet small">{{ when(e.at) }}, {{ e.byName }}</span></div>
          <div v-if="e.why" class="small">because {{ e.why }}</div>
          <ul class="plain small what"><li v-for="m in e.members?.slice(0, 6)" :key="m">{{ m }}</li><li v-if="(e.members?.length ?? 0) > 6" class="quiet">and {{ (e.members?.length ?? 0) - 6 }} more</li></ul>
        </div>
      </li>
    </ol>
    <div v-if="data && more"><v-btn variant="outlined" @click="earlier">Earlier</v-btn></div>
  </div>
</template>

<style scoped>
.entry { display: flex; gap: 12px; }
.rev { width: 46px; flex: none; padding-top: 2px; }
.what { color: rgba(var(--v-theme-on-surface), .85); overflow-wrap: anywhere; }
</style>
