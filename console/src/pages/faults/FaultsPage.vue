<script setup lang="ts">
import { computed } from 'vue'
import { api, must } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { plain } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

/** What the faults of all homes together show: one fault in several homes, what keeps coming back, and how the odds of suspects follow from it. */
const { data, failure, reload } = useResource(async () => {
  const [shared, recurring, odds] = await Promise.all([must(api.GET('/api/v1/faults/shared')), must(api.GET('/api/v1/faults/recurring')), must(api.GET('/api/v1/faults/odds'))])
  return { shared, recurring, odds }
})
const mayChange = computed(() => ['lead', 'coordinator'].includes(me.session?.person.role ?? ''))
const { failure: refusal, busy, act } = useAction()
const keep = (id: string, kept: boolean) => act(async () => {
  await must(api.PUT('/api/v1/faults/{id}/odds', { params: { path: { id } }, body: { kept } }))
  await reload()
})
const homesOf = (from: { household: string }[]) => [...new Set(from.map((f) => f.household))]
</script>

<template>
  <v-main id="main">
    <div class="page stack">
      <h1>Faults in all homes</h1>
      <LoadState v-if="!data" :failure="failure" @again="reload" />
      <template v-else>
        <section class="sheet stack" aria-labelledby="shared">
          <h2 id="shared">One fault in several homes</h2>
          <p v-if="!data.shared.length" class="quiet">No fault shows in two homes that have a model or a program in common.</p>
          <article v-for="s in data.shared" :key="s.mode + s.what" class="stack-s">
            <h3>{{ s.title }}: {{ s.what }}</h3>
            <p>{{ s.sentence }}.</p>
            <p><strong>Remedy:</strong> {{ s.remedy }}</p>
            <ul class="plain ruled">
              <li v-for="h in s.homes" :key="h.household + h.issue?.id">
                <div class="row between"><span><router-link :to="`/households/${h.household}/issues/${h.issue?.id}`">{{ h.household }} {{ h.name }}: {{ h.issue?.label }}</router-link></span><StateMark v-if="h.state" :state="h.state" :word="plain(h.state)" /></div>
                <div class="small">{{ h.found ? 'Found here.' : `Suspected, about ${Math.round(100 * (h.probability ?? 0))} %.` }} {{ h.do }}</div>
              </li>
              <li v-for="h in s.besides" :key="h.household"><div><router-link :to="`/households/${h.household}`">{{ h.household }} {{ h.name }}</router-link> has the same</div><div class="small">{{ h.do }}</div></li>
            </ul>
          </article>
        </section>
        <section class="sheet stack-s" aria-labelledby="recurring">
          <h2 id="recurring">What keeps coming back</h2>
          <p v-if="!data.recurring.length" class="quiet">No fault was recorded with a remedy yet. Choose "It was this" at an issue to record one.</p>
          <ul class="plain ruled"><li v-for="l in data.recurring" :key="l.kind + l.what"><strong>{{ l.what }}</strong>: {{ l.sentence }}<div v-for="m in l.modes" :key="m" class="small quiet">{{ m }}</div></li></ul>
        </section>
        <section class="sheet stack-s" aria-labelledby="odds">
          <h2 id="odds">What was learned</h2>
          <p class="quiet">Every issue that a test has closed, with its fault recorded, moves the odds by which faults are suspected. Reopening the issue takes that back.</p>
          <p v-if="!data.odds.length">All odds are as they came.</p>
          <ProblemNote v-if="refusal" :failure="refusal" />
          <ul class="plain ruled">
            <li v-for="o in data.odds" :key="o.mode" class="row between">
              <div><strong>{{ o.title }}</strong><div>{{ o.sentence }}</div><div v-if="o.from.length" class="small quiet">Found in <template v-for="(h, n) in homesOf(o.from)" :key="h">{{ n ? ', ' : '' }}<router-link :to="`/households/${h}/issues`">{{ h }}</router-link></template></div></div>
              <v-btn v-if="mayChange" size="small" variant="outlined" :disabled="busy" @click="keep(o.mode, !o.kept)">{{ o.kept ? 'Follow what is found' : 'Keep as it came' }}</v-btn>
            </li>
          </ul>
        </section>
      </template>
    </div>
  </v-main>
</template>
