<script setup lang="ts">
import { computed } from 'vue'
import { api, must } from '../../api/client'
import { me } from '../../me'
import CoverageBar from '../../parts/CoverageBar.vue'
import LoadState from '../../parts/LoadState.vue'
import { counted } from '../../words'
import { useResource } from '../../useResource'
import { having } from '../households/having'
import TodoList from './TodoList.vue'

const { data: today, failure, reload } = useResource(() => must(api.GET('/api/v1/today')), { any: true })
const firm = computed(() => having.value.map((h) => ({ ...h, n: today.value?.firm?.[h.value] ?? 0 })).filter((h) => h.n))
const first = computed(() => me.session?.person.name.split(' ')[0] ?? '')
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <h1>Today, {{ first }}</h1>
      <LoadState v-if="!today" :failure="failure" @again="reload" />
      <div v-else class="columns">
        <section class="sheet stack" aria-labelledby="waiting">
          <h2 id="waiting">To do</h2>
          <TodoList v-if="today.waiting.length" :todos="today.waiting" with-home />
          <p v-else class="quiet">Nothing to do. <router-link to="/households">Go to the households.</router-link></p>
          <template v-if="today.others.length"><h2>With others</h2><TodoList :todos="today.others" with-home /></template>
        </section>
        <div class="stack">
        <section v-if="firm.length" class="sheet stack-s" aria-labelledby="firm">
          <h2 id="firm">Homes with</h2>
          <ul class="plain ruled"><li v-for="f in firm" :key="f.value"><router-link :to="`/households?with=${f.value}`" class="row-link row between"><span>{{ f.title }}</span><span class="num">{{ f.n }}</span></router-link></li></ul>
        </section>
        <section v-if="today.held.length || !firm.length" class="sheet stack" aria-labelledby="held">
          <h2 id="held">Your homes</h2>
          <ul v-if="today.held.length" class="plain ruled">
            <li v-for="h in today.held" :key="h.id">
              <router-link :to="`/households/${h.code}`" class="row-link stack-s">
                <div class="row between"><strong>{{ h.name }}</strong><span class="mono">{{ h.code }}</span></div>
                <CoverageBar :coverage="h.coverage" brief />
                <div class="small quiet">{{ counted(h.openIssues, 'open issue') }}<template v-if="h.blockers">, {{ counted(h.blockers, 'blocker') }}</template><template v-if="h.offeredTo">, offered to {{ h.offeredTo }}</template></div>
              </router-link>
            </li>
          </ul>
          <p v-else class="quiet">You are custodian of no home.</p>
        </section>
        </div>
      </div>
    </div>
  </v-main>
</template>

<style scoped>
.columns { display: grid; grid-template-columns: minmax(0, 3fr) minmax(0, 2fr); gap: 16px; align-items: start; }
@media (max-width: 899px) { .columns { grid-template-columns: minmax(0, 1fr); } }
</style>
