<script setup lang="ts">
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, type Schemas } from '../../api/client'
import FindingList from '../../parts/FindingList.vue'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import { dropSupposed, supposed, supposedSteps } from '../../supposed'
import { counted } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

/** What supposed changes would do, side by side with the home as it is; they are then made in one write, or dropped. */
const code = String(useRoute().params.code)
const path = { code }
const mine = computed(() => (supposed.code === code ? supposed.changes : []))
const { data, failure, reload } = useResource(async () => {
  const overview = await must(api.GET('/api/v1/households/{code}/overview', { params: { path } }))
  const preview = mine.value.length ? await must(api.POST('/api/v1/households/{code}/preview', { params: { path }, body: { changes: supposedSteps.value } })) : undefined
  return { mayWrite: overview.mayWrite, preview }
}, { household: code })
watch(() => mine.value.length, () => void reload())
const preview = computed(() => data.value?.preview)
const { failure: refusal, busy, act } = useAction()

/** What would be another than now: what it is about, how it is, how it would be. */
const rows = computed(() => {
  const p = preview.value
  if (!p) return []
  const proven = (c: Schemas['Coverage']) => `${c.proven} of ${c.required}`
  const test = (t: Schemas['PreviewTest']) => `${t.title}, ${t.about.label}`
  return [
    ...(proven(p.before) === proven(p.after) ? [] : [{ what: 'Required tests proven', now: proven(p.before), then: proven(p.after), why: '' }]),
    ...p.stale.map((t) => ({ what: test(t), now: 'proven', then: 'stale', why: t.sentence ?? '' })),
    ...p.inDoubt.map((t) => ({ what: test(t), now: 'proven', then: 'in doubt', why: t.sentence ?? '' })),
    ...p.proven.map((t) => ({ what: test(t), now: 'not proven', then: 'proven again', why: '' })),
    ...p.asked.map((t) => ({ what: test(t), now: 'not asked for', then: 'required', why: '' })),
    ...p.dropped.map((t) => ({ what: test(t), now: 'proven', then: 'no longer asked for', why: '' })),
    ...p.load.map((c) => ({ what: `Load of ${c.what}`, now: c.before ?? 'not asked for', then: c.after ?? 'no longer asked for', why: '' })),
    ...p.plays.map((c) => ({ what: c.what, now: c.before ?? 'no path leads there', then: c.after ?? 'no path would lead there', why: '' })),
  ]
})
const differs = computed(() => rows.value.length + (preview.value?.found.length ?? 0) + (preview.value?.gone.length ?? 0) > 0)

const make = () => act(async () => {
  const changes = supposedSteps.value
  const made = await must(api.POST('/api/v1/households/{code}/preview/make', { params: { path }, body: { changes, asOf: preview.value!.revision } }))
  dropSupposed()
  supposed.made = made.revision
})
</script>

<template>
  <div class="page stack">
    <h1>Suppose</h1>
    <p v-if="!mine.length && supposed.made && supposed.code === code" class="said" role="status">Made in revision {{ supposed.made }}. <router-link :to="`/households/${code}/journal`">The journal</router-link> can undo it as a whole.</p>
    <p v-if="!mine.length" class="sheet">Try a change before it is made: open a record, change it and press <em>Suppose it</em>, or take one of the changes that <router-link :to="`/households/${code}/load`">the load of the network</router-link> proposes. Every page then shows this home as it would be.</p>
    <template v-else>
      <section class="sheet stack-s" aria-label="Supposed changes">
        <h2>{{ counted(mine.length, 'supposed change') }}</h2>
        <ol class="steps"><li v-for="(s, n) in mine" :key="n"><span class="row between"><span class="grow">{{ s.said }}</span><v-btn size="small" variant="text" :aria-label="`Drop: ${s.said}`" @click="dropSupposed(n)">Drop</v-btn></span></li></ol>
        <label class="check"><input v-model="supposed.on" type="checkbox">Show all pages of this home as they would be</label>
      </section>
      <ProblemNote v-if="failure && data" :failure="failure" />
      <LoadState v-if="!data" :failure="failure" @again="reload" />
      <template v-else-if="preview">
        <section class="sheet stack-s" aria-label="What would be different">
          <h2>What would be different</h2>
          <p v-if="preview.sentence">{{ preview.sentence }}</p>
          <p v-if="!differs">Nothing of what is found, carried, played or proven would be different.</p>
          <div v-if="rows.length" class="compare">
            <div class="head small" aria-hidden="true"><span>What</span><span>Now</span><span>Then</span></div>
            <div v-for="r in rows" :key="r.what + r.then" class="line"><span>{{ r.what }}<span v-if="r.why" class="small quiet"><br>{{ r.why }}</span></span><span><span class="only small quiet">Now: </span>{{ r.now }}</span><strong><span class="only small quiet">Then: </span>{{ r.then }}</strong></div>
          </div>
        </section>
        <section v-if="preview.found.length" class="sheet stack-s"><h2>Would be found as well</h2><FindingList :findings="preview.found" :code="code" /></section>
        <section v-if="preview.gone.length" class="sheet stack-s"><h2>Would no longer be found</h2><FindingList :findings="preview.gone" :code="code" /></section>
        <section v-if="preview.again.length" class="sheet stack-s"><h2>To prove again, about {{ counted(preview.minutes, 'minute') }}</h2><ol class="steps"><li v-for="s in preview.again" :key="s.act + s.at.id">{{ s.sentence }}</li></ol></section>
      </template>
      <ProblemNote v-if="refusal" :failure="refusal" />
      <div class="row"><v-btn v-if="data?.mayWrite" color="primary" :disabled="busy || !preview" @click="make">Make {{ mine.length > 1 ? 'them all' : 'it' }} in one write</v-btn><v-btn variant="outlined" @click="dropSupposed()">Drop {{ mine.length > 1 ? 'all' : 'it' }}</v-btn></div>
    </template>
  </div>
</template>

<style scoped>
.steps { margin: 0; padding-left: 26px; }
.steps li { padding: 4px 0; }
.said { border-left: 4px solid rgb(var(--v-theme-primary)); padding: 8px 14px; background: rgb(var(--v-theme-surface)); }
.head, .line { display: grid; grid-template-columns: minmax(0, 2fr) minmax(0, 1fr) minmax(0, 1fr); gap: 4px 16px; padding: 7px 0; border-bottom: 1px solid rgb(var(--v-theme-line)); }
.head { font-weight: 600; }
.line:last-child { border-bottom: 0; }
.only { display: none; }
@media (max-width: 720px) { .head { display: none; } .line { grid-template-columns: 1fr; } .only { display: inline; } }
</style>
