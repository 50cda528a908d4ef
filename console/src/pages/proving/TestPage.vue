<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, must } from '../../api/client'
import { me, personName } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import OutboxNote from '../../parts/OutboxNote.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import { capital, counted, plain, when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'
import RecordSheet from './RecordSheet.vue'

const route = useRoute()
const router = useRouter()
const code = String(route.params.code)
const id = String(route.params.test)
const { data, failure, reload } = useResource(async () => {
  const path = { code }
  const [plan, { records: attempts }, { records: files }] = await Promise.all([must(api.GET('/api/v1/households/{code}/tests', { params: { path } })), must(api.GET('/api/v1/households/{code}/attempts', { params: { path } })), must(api.GET('/api/v1/households/{code}/attachments', { params: { path } }))])
  const [kind, subject] = id.split(':')
  return { revision: plan.revision, test: plan.tests.find((t) => t.id === id), pictures: files.filter((f) => f.subject.kind === 'attempt' && f.width), attempts: attempts.filter((a) => a.test === kind && a.subjects.some((s) => s.id === subject)).reverse() }
}, { household: code })
const test = computed(() => data.value?.test)
const recording = ref(false)
const kept = ref('') // what waits on this device to be sent
const asOf = ref(0)
function begin() { asOf.value = data.value?.revision ?? 0; recording.value = true }
const whose = (by?: string, at?: string) => [by, at && when(at)].filter(Boolean).join(', ')
const pictureOf = (file: string, size = 'full') => `/api/v1/households/${code}/attachments/${file}/body?size=${size}`
const symptom = ref('')
const opening = ref(false)
const { failure: refusal, act } = useAction()

const openIssue = () => act(async () => {
  const made = await must(api.POST('/api/v1/households/{code}/issues', { params: { path: { code } }, body: { symptom: symptom.value, test: id } }))
  await router.push(`/households/${code}/issues/${made.record.id}`)
})

function startIssue() {
  opening.value = true
  symptom.value = `${test.value?.title}: ${test.value?.about.label} ${plain(test.value?.status ?? '')}`
}

const why = ref('')
const until = ref('')
const setting = ref(false)
const setAside = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/waivers/set', { params: { path: { code } }, body: { test: id, why: why.value, ...(until.value && { until: until.value }) } }))
  setting.value = false
  await reload()
})
const require = () => act(async () => {
  await must(api.POST('/api/v1/households/{code}/waivers/end', { params: { path: { code } }, body: { test: id } }))
  await reload()
})
const leads = computed(() => me.session?.person.role === 'lead')

async function recorded() {
  recording.value = false
  kept.value = ''
  await reload()
}
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="`/households/${code}/proving`">Proving</router-link></p>
    <LoadState v-if="!data" :failure="failure" @again="reload" />
    <p v-else-if="!test" class="sheet">This test is no longer in the plan: its path has been removed or changed.</p>
    <template v-else>
      <div class="row between"><h1>{{ test.title }}: {{ test.about.label }}</h1><StateMark :state="test.status" /></div>
      <OutboxNote />
      <p v-if="kept" role="status">{{ kept }}</p>
      <section class="sheet stack">
        <dl class="facts">
          <dt>Why</dt><dd>{{ capital(test.why) }}.</dd>
          <dt>Expected</dt><dd>{{ test.expected }}</dd>
          <dt>To do</dt><dd>{{ test.do }}</dd>
          <dt>Where</dt><dd>{{ [test.device.label, test.room?.label].filter(Boolean).join(', ') }}</dd>
        </dl>
        <p v-if="test.undone">A machine could not do it: {{ test.undone }}. Do it by hand and record what you see.</p>
        <div v-if="test.changes?.length"><h3>Changes since it was proven</h3><ul class="plain"><li v-for="c in test.changes" :key="c.sentence">{{ c.sentence }} <span class="small quiet">{{ whose(c.by, c.when) }}</span></li></ul></div>
        <div v-if="test.doubts?.length"><h3>What speaks against the proof</h3><ul class="plain"><li v-for="d in test.doubts" :key="d.sentence"><router-link v-if="d.about.label" :to="`/households/${code}/records/${d.about.kind}/${d.about.id}`">{{ d.sentence }}</router-link><template v-else>{{ d.sentence }}</template> <span class="small quiet">{{ whose(d.by, d.when) }}</span></li></ul></div>
        <p v-if="test.look"><strong>Where to look.</strong> {{ test.look }}</p>
        <p v-if="test.again">To be sure again: {{ test.again.sentence }} ({{ counted(test.again.minutes, 'minute') }}).</p>
        <p v-if="test.waiver">Waived by {{ test.waiver.by }}: {{ test.waiver.record.why }}<template v-if="test.waiver.record.until">. Review on {{ test.waiver.record.until }}</template></p>
        <div class="row">
          <v-btn :color="test.by === 'automatic' ? undefined : 'primary'" :variant="test.by === 'automatic' ? 'outlined' : 'flat'" @click="begin">{{ test.by === 'automatic' ? 'Record what the screen shows' : 'Record' }}</v-btn>
          <v-btn v-if="(test.status === 'failed' || test.status === 'marginal') && !test.openIssues?.length && !opening" variant="outlined" @click="startIssue">Open an issue</v-btn>
          <v-btn v-if="leads && !test.waiver && test.status !== 'proven' && !setting" variant="outlined" @click="setting = true">Waive</v-btn>
          <v-btn v-if="leads && test.waiver" variant="outlined" @click="require">End the waiver</v-btn>
          <router-link v-for="i in test.openIssues" :key="i.id" :to="`/households/${code}/issues/${i.id}`">Issue: {{ i.label }}</router-link>
        </div>
        <form v-if="setting" class="stack" @submit.prevent="setAside">
          <v-text-field v-model="why" v-first label="Reason (the customer may read it)" />
          <v-text-field v-model="until" type="date" label="Review on (optional)" />
          <ProblemNote v-if="refusal" :failure="refusal" />
          <div class="row"><v-btn type="submit" color="primary" :disabled="!why">Waive</v-btn><v-btn variant="text" @click="setting = false">Cancel</v-btn></div>
        </form>
        <form v-if="opening" class="stack" @submit.prevent="openIssue">
          <v-text-field v-model="symptom" v-first label="Symptom, as observed" />
          <ProblemNote v-if="refusal" :failure="refusal" />
          <div class="row"><v-btn type="submit" color="primary" :disabled="!symptom">Open issue</v-btn><v-btn variant="text" @click="opening = false">Cancel</v-btn></div>
        </form>
      </section>
      <section class="sheet stack" aria-labelledby="attempts">
        <h2 id="attempts">Attempts</h2>
        <p v-if="!data.attempts.length" class="quiet">None yet.</p>
        <ul class="plain ruled">
          <li v-for="a in data.attempts" :key="a.id">
            <div class="row"><StateMark :state="a.outcome" /><span class="quiet small">{{ when(a.at) }}, {{ personName(a.by) }}, by {{ a.how }}<template v-if="a.id === test.attempt"> — decides the status</template></span></div>
            <div v-if="data.pictures.some((p) => p.subject.id === a.id)" class="row"><a v-for="p in data.pictures.filter((one) => one.subject.id === a.id)" :key="p.id" :href="pictureOf(p.id)" target="_blank" rel="noopener" :aria-label="p.caption"><img :src="pictureOf(p.id, 'small')" :alt="p.caption" loading="lazy" class="shot" /></a></div>
            <div v-if="a.note || a.conditions">{{ [a.note, a.conditions].filter(Boolean).join(' · ') }}</div>
          </li>
        </ul>
      </section>
    </template>
    <RecordSheet v-if="recording && test" :test="test" :code="code" :as-of="asOf" @done="recorded" @kept="(s) => { recording = false; kept = s }" @leave="recording = false" />
  </div>
</template>

<style scoped>
.shot { max-height: 96px; border-radius: 4px; }
</style>
