<script setup lang="ts">
import { useRoute } from 'vue-router'
import { api, must } from '../../api/client'
import { me } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import { when } from '../../words'
import RecordsPage from '../records/RecordsPage.vue'

/** The next visit with what it must bring, what is outstanding before the door closes, then all visits, waits and dates. */
const code = String(useRoute().params.code)
const path = { code }
const { data, failure, reload } = useResource(async () => {
  const [kit, owed, overview, here] = await Promise.all([must(api.GET('/api/v1/households/{code}/kit', { params: { path } })), must(api.GET('/api/v1/households/{code}/departure', { params: { path } })),
    must(api.GET('/api/v1/households/{code}/overview', { params: { path } })), me.session?.onSite ? must(api.GET('/api/v1/households/{code}/arrival', { params: { path } })) : []])
  return { kit, owed, here, mayWrite: overview.mayWrite }
}, { household: code })
const { failure: refusal, busy, act } = useAction()
const sorts = { part: 'Parts', tool: 'Tools', bench: 'To prepare beforehand' } as const
const ready = (what: string, is: boolean) => act(async () => {
  await must(api.POST('/api/v1/households/{code}/kit/ready', { params: { path }, body: { what, ready: is } }))
  await reload()
})
</script>

<template>
  <div class="page stack">
    <h1>Visits, long tasks and dates</h1>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <template v-else>
      <section class="sheet stack" aria-labelledby="next">
        <h2 id="next">{{ data.kit.visit?.id ? `Next visit: ${when(data.kit.starts)}, ${data.kit.technician}` : 'No visit is planned' }}</h2>
        <p v-if="data.kit.visit?.id"><router-link :to="`/households/${code}/records/visit/${data.kit.visit.id}`">{{ data.kit.visit.label }}</router-link></p>
        <p v-if="data.kit.accessNotes"><strong>Getting in:</strong> {{ data.kit.accessNotes }}</p>
        <template v-for="(title, sort) in sorts" :key="sort">
          <div v-if="data.kit.supplies.some((s) => s.sort === sort)" class="stack-s">
            <h3>{{ title }}</h3>
            <ul class="plain ruled">
              <li v-for="s in data.kit.supplies.filter((one) => one.sort === sort)" :key="s.what" class="supply">
                <label class="check"><input type="checkbox" :checked="s.ready" :disabled="busy || !data.mayWrite || !data.kit.visit?.id" @change="ready(s.what, !s.ready)" /><span><strong>{{ s.what }}</strong> <StateMark :state="s.ready ? 'proven' : 'untried'" :word="s.ready ? 'ready' : 'not ready'" /></span></label>
                <p class="small quiet">{{ s.because.join(', ') }}<template v-if="s.about.length">: {{ s.about.map((a) => a.label).join(', ') }}</template></p>
              </li>
            </ul>
          </div>
        </template>
        <div v-if="data.kit.proves.length" class="stack-s"><h3>To prove the remedies of open issues</h3><ul class="plain ruled"><li v-for="t in data.kit.proves" :key="t.id"><router-link :to="`/households/${code}/proving/${t.id}`">{{ t.label }}</router-link></li></ul></div>
        <p v-if="!data.kit.supplies.length" class="quiet">Nothing recorded calls for anything to bring or arrange.</p>
        <ProblemNote v-if="refusal" :failure="refusal" />
      </section>
      <section v-if="data.here.length" class="sheet stack-s" aria-labelledby="here">
        <h2 id="here">Where this Kaiku is</h2>
        <ul class="plain ruled"><li v-for="(r, n) in data.here" :key="n"><StateMark v-if="r.differs" state="warning" word="differs" /> {{ r.sentence }}</li></ul>
      </section>
      <section class="sheet stack-s" aria-labelledby="leaving">
        <h2 id="leaving">Before you leave</h2>
        <ul v-if="data.owed.length" class="plain ruled"><li v-for="(o, n) in data.owed" :key="n"><router-link v-if="o.about?.id" :to="`/households/${code}/records/${o.about.kind}/${o.about.id}`">{{ o.sentence }}</router-link><template v-else>{{ o.sentence }}</template></li></ul>
        <p v-else>Nothing is outstanding. You can leave.</p>
      </section>
    </template>
  </div>
  <RecordsPage :kinds="['visit', 'long-task', 'due']" untitled />
</template>

<style scoped>
.supply p { padding-left: 30px; }
</style>
