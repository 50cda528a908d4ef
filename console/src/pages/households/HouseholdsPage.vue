<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import { me } from '../../me'
import CoverageBar from '../../parts/CoverageBar.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { counted } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

const router = useRouter()
const { data: rows, failure, reload } = useResource(loadAll, { any: true })
const wanted = ref('')
const shown = computed(() => {
  const w = wanted.value.trim().toLowerCase()
  return rows.value?.filter((h) => !w || [h.code, h.name, h.custodian].some((s) => s.toLowerCase().includes(w)))
})
const mayBegin = computed(() => me.session?.person.role !== 'observer')
const beginning = ref(false)
const code = ref('')
const name = ref('')
const { failure: refusal, act } = useAction()

async function loadAll(): Promise<Schemas['HouseholdRow'][]> {
  const all: Schemas['HouseholdRow'][] = []
  for (;;) {
    const page = await must(api.GET('/api/v1/households', { params: { query: { limit: 200, after: all.at(-1)?.code ?? '' } } }))
    all.push(...page)
    if (page.length < 200) return all
  }
}

const begin = () => act(async () => {
  await must(api.POST('/api/v1/households', { body: { code: code.value.trim(), name: name.value.trim() } }))
  await router.push(`/households/${code.value.trim()}`)
})
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <div class="row between"><h1>Households</h1>
        <v-btn v-if="mayBegin && !beginning" color="primary" :prepend-icon="mdiPlus" @click="beginning = true">Begin a household</v-btn></div>
      <form v-if="beginning" class="sheet stack" @submit.prevent="begin">
        <h2>Begin a household</h2>
        <div class="fields">
          <v-text-field v-model="code" label="Code" placeholder="H-0042" :error-messages="refusal?.faultAt('/code')" />
          <v-text-field v-model="name" label="Name" placeholder="What colleagues call this home" :error-messages="refusal?.faultAt('/name')" />
        </div>
        <p class="small quiet">You become its custodian.</p>
        <ProblemNote v-if="refusal" :failure="refusal" />
        <div class="row"><v-btn type="submit" color="primary" :disabled="!code || !name">Begin</v-btn><v-btn variant="text" @click="beginning = false">Leave it</v-btn></div>
      </form>
      <LoadState v-if="!rows" :failure="failure" @again="reload" />
      <template v-else>
        <v-text-field v-model="wanted" label="Code, name or custodian" clearable density="compact" class="search" />
        <p v-if="!shown?.length" class="sheet quiet">{{ rows.length ? 'No household fits that.' : 'No household yet. Begin the first one.' }}</p>
        <ul v-else class="plain sheet ruled">
          <li v-for="h in shown" :key="h.id">
            <router-link :to="`/households/${h.code}`" class="row-link home">
              <span class="mono code">{{ h.code }}</span>
              <span class="grow"><strong>{{ h.name }}</strong><br /><span class="small quiet">{{ h.custodian }}<template v-if="h.offeredTo">, offered to {{ h.offeredTo }}</template></span></span>
              <span class="bar"><CoverageBar :coverage="h.coverage" brief /></span>
              <span class="small open">{{ counted(h.openIssues, 'open issue') }}<template v-if="h.blockers"><br />{{ counted(h.blockers, 'blocker') }}</template></span>
            </router-link>
          </li>
        </ul>
      </template>
    </div>
  </v-main>
</template>

<style scoped>
.search { max-width: 380px; }
.fields { display: grid; grid-template-columns: 160px minmax(0, 1fr); gap: 12px; }
.home { display: flex; gap: 16px; align-items: center; min-height: 44px; }
.code { width: 72px; flex: none; }
.bar { width: 220px; flex: none; }
.open { width: 110px; flex: none; text-align: right; }
@media (max-width: 899px) { .home { flex-wrap: wrap; gap: 6px 12px; } .bar { width: 55%; } .open { flex: 1; } .fields { grid-template-columns: minmax(0, 1fr); } }
</style>
