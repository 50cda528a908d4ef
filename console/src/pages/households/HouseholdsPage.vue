<script setup lang="ts">
import { mdiMagnify, mdiPlus, mdiTableArrowDown } from '@mdi/js'
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useDisplay } from 'vuetify'
import { api, must } from '../../api/client'
import { saveCsv } from '../../csv'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { useRowKeys } from '../../rowKeys'
import { useAction } from '../../useAction'
import HouseholdRow from './HouseholdRow.vue'
import { having } from './having'
import { sorts, useHouseholds } from './useHouseholds'

const router = useRouter()
const { data: rows, failure, reload, words, sort, custodian, withWhat, more, showMore, everything, asked } = useHouseholds()
useRowKeys()

// What is typed is asked for once the hand rests.
const typed = ref(words.value)
let rest: ReturnType<typeof setTimeout> | undefined
watch(typed, (v) => { clearTimeout(rest); rest = setTimeout(() => { words.value = v?.trim() ?? '' }, 200) })
onScopeDispose(() => clearTimeout(rest))

const people = computed(() => me.people.filter((p) => !p.suspended && p.role !== 'observer').map((p) => ({ value: p.login, title: p.name })))
const mayBegin = computed(() => me.session?.person.role !== 'observer')
const { width } = useDisplay()
const unfolded = ref(!!(withWhat.value.length || custodian.value || sort.value))
const beginning = ref(false)
const code = ref('')
const name = ref('')
const { failure: refusal, act } = useAction()

const begin = () => act(async () => {
  const made = await must(api.POST('/api/v1/households', { body: { name: name.value.trim(), ...(code.value.trim() && { code: code.value.trim() }) } }))
  await router.push(`/households/${made.code}`)
})
const save = () => act(async () => saveCsv('households', [['Code', 'Name', 'Custodian', 'Required tests', 'Proven', 'Failed', 'Stale', 'Waived', 'Blockers', 'Open issues', 'Offered to', 'Next due date', 'Changed'],
  ...(await everything()).map((h) => [h.code, h.name, h.custodian, h.coverage.required, h.coverage.proven, h.coverage.failed, h.coverage.stale, h.coverage.waived, h.blockers, h.openIssues, h.offeredTo ?? '', h.dueOn ?? '', h.changedAt])]))
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <div class="row between"><h1>Households</h1>
        <v-btn v-if="mayBegin && !beginning" color="primary" :prepend-icon="mdiPlus" @click="beginning = true">Add a household</v-btn></div>
      <form v-if="beginning" class="sheet stack" @submit.prevent="begin">
        <h2>Add a household</h2>
        <div class="fields">
          <v-text-field v-model="code" label="Code (optional)" hint="Left empty: the next free code" persistent-hint :error-messages="refusal?.faultAt('/code')" />
          <v-text-field v-model="name" label="Name" placeholder="What colleagues call this home" :error-messages="refusal?.faultAt('/name')" />
        </div>
        <p class="small quiet">You become its custodian.</p>
        <div class="row"><v-btn type="submit" color="primary" :disabled="!name">Add</v-btn><v-btn variant="text" @click="beginning = false">Cancel</v-btn></div>
      </form>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <div class="tools" :class="{ narrow: width < 900, unfolded }">
        <v-text-field v-model="typed" data-search label="Find" :prepend-inner-icon="mdiMagnify" placeholder="Telephone, code, serial, address, issue …" clearable density="compact" class="words" />
        <v-btn v-if="width < 900" variant="text" class="fold" :aria-expanded="unfolded" @click="unfolded = !unfolded">{{ unfolded ? 'Hide' : 'Filter and sort' }}</v-btn>
        <template v-if="width >= 900 || unfolded">
          <v-select v-model="withWhat" :items="having" label="With" multiple clearable density="compact" class="with" />
          <v-select :model-value="custodian || null" :items="people" label="Custodian" clearable density="compact" @update:model-value="custodian = $event ?? ''" />
          <v-select :model-value="sort || 'code'" :items="sorts" label="Sorted by" density="compact" @update:model-value="sort = $event === 'code' ? '' : $event" />
          <v-btn variant="outlined" :prepend-icon="mdiTableArrowDown" class="csv" @click="save">CSV</v-btn>
        </template>
      </div>
      <LoadState v-if="!rows" :failure="failure" @again="reload" />
      <template v-else>
        <ProblemNote v-if="failure" :failure="failure" />
        <p v-if="!rows.length" class="sheet quiet">{{ asked ? 'No household matches.' : 'No household yet. Add the first one.' }}</p>
        <ul v-else class="plain sheet ruled"><li v-for="h in rows" :key="h.id"><HouseholdRow :home="h" /></li></ul>
        <div v-if="more" class="row"><v-btn variant="outlined" @click="showMore">Show more</v-btn><span class="small quiet">{{ rows.length }} shown</span></div>
        <p class="small quiet keys">Keys: / to search, arrows to move, Enter to open.</p>
      </template>
    </div>
  </v-main>
</template>

<style scoped>
.tools { display: grid; grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) minmax(0, 3fr) minmax(0, 3fr) auto; gap: 12px; align-items: start; }
.csv { min-height: 40px; }
.fields { display: grid; grid-template-columns: 160px minmax(0, 1fr); gap: 12px; }
.narrow { grid-template-columns: minmax(0, 1fr) auto; gap: 8px; }
.narrow .fold { min-height: 44px; }
.narrow.unfolded .with { grid-column: 1 / -1; }
.narrow.unfolded { grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); }
@media (max-width: 899px) { .fields { grid-template-columns: minmax(0, 1fr); } .csv { min-height: 44px; justify-self: start; } }
@media (hover: none) { .keys { display: none; } }
</style>
