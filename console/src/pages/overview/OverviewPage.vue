<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, must } from '../../api/client'
import CoverageBar from '../../parts/CoverageBar.vue'
import FindingList from '../../parts/FindingList.vue'
import UnfinishedList from '../../parts/UnfinishedList.vue'
import LoadState from '../../parts/LoadState.vue'
import StateMark from '../../parts/StateMark.vue'
import { counted, plain } from '../../words'
import { useResource } from '../../useResource'
import TodoList from '../today/TodoList.vue'
import CustodyCard from './CustodyCard.vue'

const code = String(useRoute().params.code)
const base = `/households/${code}`
const { data: o, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/overview', { params: { path: { code } } })), { household: code })
const blockers = computed(() => o.value?.findings.filter((f) => f.severity === 'blocker').length ?? 0)
</script>

<template>
  <div class="page">
    <LoadState v-if="!o" :failure="failure" @again="reload" />
    <div v-else class="grid">
      <header class="head"><h1>{{ o.household.name }}</h1><p class="quiet small address">{{ o.household.address }}</p></header>

      <section class="sheet stack-s next" aria-labelledby="next">
        <h2 id="next">To do next</h2>
        <TodoList v-if="o.next.length" :todos="o.next.slice(0, 4)" />
        <p v-else class="quiet">Nothing is open. <router-link v-if="!o.coverage.required" :to="`${base}/paths`">Record a path to start proving.</router-link></p>
      </section>

      <section class="sheet stack-s" aria-labelledby="notproven">
        <h2 id="notproven"><router-link :to="`${base}/proving`" class="row-link">Not proven</router-link></h2>
        <CoverageBar :coverage="o.coverage" />
        <ul class="plain wide-only">
          <li v-for="t in o.notProven.slice(0, 4)" :key="t.id" class="line"><router-link :to="`${base}/proving/${t.id}`" class="row-link"><StateMark :state="t.status" quiet /> {{ t.title }}, {{ t.about.label }}</router-link></li>
        </ul>
        <p v-if="o.notProven.length > 4" class="small quiet wide-only">and {{ o.notProven.length - 4 }} more</p>
      </section>

      <section class="sheet stack-s" aria-labelledby="open">
        <h2 id="open"><router-link :to="`${base}/issues`" class="row-link">Open issues</router-link></h2>
        <ul v-if="o.issues.length" class="plain stack-s">
          <li v-for="i in o.issues.slice(0, 3)" :key="i.record.id"><router-link :to="`${base}/issues/${i.record.id}`" class="row-link"><StateMark :state="i.record.state" :word="plain(i.record.state)" /> <span>{{ i.record.symptom }}</span></router-link></li>
        </ul>
        <p v-else class="quiet">No issue is open.</p>
        <p v-if="blockers"><a href="#findings" class="row-link"><StateMark state="blocker" :word="counted(blockers, 'blocker')" /> <span class="quiet small">by automatic checks</span></a></p>
      </section>

      <CustodyCard :overview="o" :code="code" @changed="reload" />

      <section v-if="o.unfinished?.length" class="sheet stack-s wide" aria-labelledby="unfinished"><h2 id="unfinished">Changes that are not finished</h2><UnfinishedList :unfinished="o.unfinished" :code="code" /></section>

      <section v-if="o.wishes.length" class="sheet stack-s wide" aria-labelledby="wishes">
        <h2 id="wishes"><router-link :to="`${base}/records/wish`" class="row-link">Wishes</router-link></h2>
        <ul class="plain stack-s"><template v-for="w in o.wishes" :key="w.wish.id"><li v-for="p in w.places" :key="p.sentence" class="wish"><StateMark :state="p.status" :word="plain(p.status)" /> <span>{{ p.sentence }}<span v-if="!w.needed" class="small quiet"> welcome, not needed</span></span></li></template></ul>
      </section>

      <section v-if="o.findings.length" id="findings" class="sheet stack wide" aria-labelledby="found"><h2 id="found">Automatic checks</h2><FindingList :findings="o.findings" :code="code" /></section>
      <section class="sheet stack-s wide" aria-labelledby="home">
        <h2 id="home"><router-link :to="`${base}/records/household/${o.household.id}`" class="row-link">The home</router-link></h2>
        <dl>
          <template v-for="c in o.household.contacts" :key="c.name"><dt>{{ c.name }}</dt><dd>{{ [c.phone, c.email, c.note].filter(Boolean).join(' · ') }}</dd></template>
          <template v-if="o.household.accessNotes"><dt>Getting in</dt><dd>{{ o.household.accessNotes }}</dd></template>
          <dt>Recorded</dt><dd>{{ counted(o.counts.room ?? 0, 'room') }}, {{ counted(o.counts.segment ?? 0, 'segment') }}, {{ counted(o.counts.device ?? 0, 'device') }}, {{ counted(o.counts.path ?? 0, 'path') }}, {{ counted(o.counts.attempt ?? 0, 'attempt') }}</dd>
        </dl>
      </section>
    </div>
  </div>
</template>

<style scoped>
.grid { display: grid; grid-template-columns: 1fr 1fr; gap: 14px; align-items: stretch; }
.head, .wide { grid-column: 1 / -1; }
.line { padding: 3px 0; }
.wish { display: flex; gap: 10px; flex-wrap: wrap; }
dl { display: grid; grid-template-columns: max-content minmax(0, 1fr); gap: 4px 16px; }
dt { font-weight: 600; }
@media (max-width: 899px) {
  .grid { grid-template-columns: minmax(0, 1fr); gap: 10px; }
  .wide-only, .address { display: none; }
  dl { grid-template-columns: minmax(0, 1fr); }
}
</style>
