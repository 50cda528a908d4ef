<script setup lang="ts">
import { computed } from 'vue'
import CoverageBar from '../../parts/CoverageBar.vue'
import { counted, when } from '../../words'
import type { Row } from './useHouseholds'
import { nounOf } from '../../me'

/** One household in the list; where words were looked for, with where they are. */
const props = defineProps<{ home: Row }>()

const open = computed(() => [
  props.home.blockers && counted(props.home.blockers, 'blocker'), props.home.openIssues && counted(props.home.openIssues, 'open issue'),
  props.home.dueOn && `due ${when(`${props.home.dueOn}T12:00:00`, false)}`, props.home.longTaskAt && `long task until ${when(props.home.longTaskAt)}`,
].filter(Boolean))

function place(f: NonNullable<Row['found']>[number]): string {
  const own: Record<string, string> = { household: '', issue: `/issues/${f.id}`, handover: `/handover/${f.id}`, attempt: '/proving', waiver: '/proving' }
  return `/households/${props.home.code}${own[f.kind] ?? `/records/${f.kind}/${f.id}`}`
}
</script>

<template>
  <div>
    <router-link data-row :to="`/households/${home.code}`" class="row-link home">
      <span class="mono code">{{ home.code }}</span>
      <span class="grow"><strong>{{ home.name }}</strong><br /><span class="small quiet">{{ home.custodian }}<template v-if="home.offeredTo">, offered to {{ home.offeredTo }}</template></span></span>
      <span class="bar"><CoverageBar :coverage="home.coverage" brief /></span>
      <span class="small open"><span v-for="o in open" :key="o">{{ o }}</span></span>
    </router-link>
    <ul v-if="home.found?.length" class="plain small found">
      <li v-for="f in home.found" :key="f.id"><router-link :to="place(f)"><span class="quiet">{{ nounOf(f.kind) }}</span> {{ f.label }}</router-link><template v-if="!f.label.includes(f.text)">: {{ f.text }}</template></li>
    </ul>
  </div>
</template>

<style scoped>
.home { display: flex; gap: 16px; align-items: center; min-height: 44px; }
.code { width: 72px; flex: none; }
.bar { width: 220px; flex: none; }
.open { width: 150px; flex: none; text-align: right; }
.open span { display: block; }
.found { margin: 2px 0 8px 88px; }
.found li { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; line-height: 28px; }
@media (max-width: 899px) { .home { flex-wrap: wrap; gap: 6px 12px; } .bar { width: 55%; } .open { flex: 1; } .found { margin-left: 0; } .found li { white-space: normal; } .found a { display: inline-block; min-height: 28px; } }
</style>
