<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useRoute } from 'vue-router'
import { api, must, records, type Issue, type Schemas } from '../../api/client'
import { me, personName } from '../../me'
import LoadState from '../../parts/LoadState.vue'
import ProblemNote from '../../parts/ProblemNote.vue'
import StateMark from '../../parts/StateMark.vue'
import SuspectsPart from './SuspectsPart.vue'
import { capital, noon, plain, when } from '../../words'
import { useAction } from '../../useAction'
import { useResource } from '../../useResource'

const route = useRoute()
const code = String(route.params.code)
const id = String(route.params.id)
const { data: issue, failure, reload } = useResource(() => must(api.GET('/api/v1/households/{code}/issues/{id}/view', { params: { path: { code, id } } })), { household: code })
const record = computed(() => issue.value?.record)

interface Ask { member: string; label: string; needed?: boolean; person?: boolean; day?: boolean; issue?: boolean }
/** What each step asks for. */
const asks: Record<string, { word: string; ask: Ask[] }> = {
  take: { word: 'Take in hand', ask: [{ member: 'nextStep', label: 'Your next step' }] },
  next: { word: 'Next step', ask: [{ member: 'nextStep', label: 'Next step', needed: true }] },
  try: { word: 'Note a try', ask: [{ member: 'what', label: 'What was done', needed: true }, { member: 'showed', label: 'What it showed' }] },
  wait: { word: 'Put on hold', ask: [{ member: 'on', label: 'Waiting for', needed: true }, { member: 'until', label: 'Promised by', day: true }] },
  give: { word: 'Give to', ask: [{ member: 'to', label: 'New owner', needed: true, person: true }] },
  remedy: { word: 'Remedied', ask: [{ member: 'remedy', label: 'Remedy', needed: true }, { member: 'cause', label: 'Cause' }] },
  close: { word: 'Close', ask: [{ member: 'why', label: 'Reason (optional if its test has passed)' }] },
  join: { word: 'Same as another', ask: [{ member: 'with', label: 'The issue of which it is one more symptom', needed: true, issue: true }] },
  reopen: { word: 'Reopen', ask: [{ member: 'why', label: 'Why', needed: true }] },
}
const step = ref('')
const said = ref<Record<string, string>>({})
const { failure: refusal, act } = useAction()
const ready = computed(() => asks[step.value]?.ask.every((a) => !a.needed || said.value[a.member]) ?? false)
const people = computed(() => me.people.filter((p) => p.role !== 'observer').map((p) => ({ title: p.name, value: p.id })))

/** The suspect that it was: recorded with the remedy, so that it counts among what keeps coming back. */
const fault = shallowRef<Schemas['Suspect']>()
function found(s: Schemas['Suspect']) {
  begin('remedy')
  fault.value = s
  said.value = { remedy: s.remedy, cause: `${s.title}, ${s.about.label}` }
  window.scrollTo({ top: 0 })
}

/** The other issues that are not closed. */
const others = ref<{ title: string; value: string }[]>([])
async function findOthers() {
  const { records: all } = await must(api.GET('/api/v1/households/{code}/issues', { params: { path: { code } } }))
  others.value = all.filter((i) => i.id !== id && i.state !== 'closed').map((i) => ({ title: i.symptom, value: i.id! }))
}

function begin(name: string) {
  if (name === 'join') void act(findOthers)
  step.value = name
  fault.value = undefined
  said.value = {}
  refusal.value = undefined
}

const take = () => act(async () => {
  const body: Record<string, unknown> = {}
  if (step.value === 'remedy' && fault.value) Object.assign(body, { fault: fault.value.mode, faultAt: { kind: fault.value.about.kind, id: fault.value.about.id } })
  for (const a of asks[step.value]?.ask ?? []) {
    const v = said.value[a.member]
    if (v) body[a.member] = a.day ? noon(v) : v
  }
  issue.value = (await records<Issue>('POST', `/households/${code}/issues/${id}/${step.value}`, body)).data
  step.value = ''
})
</script>

<template>
  <div class="page stack">
    <p class="small"><router-link :to="`/households/${code}/issues`">Issues</router-link></p>
    <LoadState v-if="!issue || !record" :failure="failure" @again="reload" />
    <template v-else>
      <div class="row between"><h1>{{ record.symptom }}</h1><StateMark :state="record.state" :word="plain(record.state)" /></div>
      <section class="sheet stack">
        <dl class="facts">
          <template v-if="issue.urgency"><dt>Urgency</dt><dd><strong>{{ plain(issue.urgency) }}</strong><div v-for="x in issue.because" :key="x" class="small">{{ x }}</div></dd></template>
          <template v-if="issue.proofOff"><dt>Proof</dt><dd><StateMark :state="issue.proofOff" /> <span class="small">This issue was closed when its test passed, but that test no longer counts as proven. Repeat the test or reopen the issue.</span></dd></template>
          <dt>Owner</dt><dd>{{ issue.owner || 'none yet' }}</dd>
          <template v-if="record.state !== 'closed'"><dt>Next step</dt><dd>{{ record.nextStep || 'nothing noted' }}</dd></template>
          <template v-if="record.waitingOn"><dt>Waiting for</dt><dd>{{ record.waitingOn }}<template v-if="when(record.promisedUntil)">, promised by {{ when(record.promisedUntil, false) }}</template></dd></template>
          <dt>Opened</dt><dd>{{ when(record.openedAt) }} by {{ issue.openedBy }}<template v-if="record.reporter">, reported by {{ record.reporter }}</template></dd>
          <template v-if="issue.test"><dt>Test</dt><dd><router-link :to="`/households/${code}/proving/${issue.test.id}`">{{ issue.test.title }}, {{ issue.test.about.label }}</router-link> <StateMark :state="issue.test.status" /></dd></template>
          <template v-if="issue.sameAs?.id"><dt>Same as</dt><dd><router-link :to="`/households/${code}/issues/${issue.sameAs.id}`">{{ issue.sameAs.label }}</router-link></dd></template>
          <template v-if="issue.also.length"><dt>Also</dt><dd><div v-for="o in issue.also" :key="o.id"><router-link :to="`/households/${code}/issues/${o.id}`">{{ o.label }}</router-link></div></dd></template>
          <template v-if="record.cause"><dt>Cause</dt><dd>{{ record.cause }}</dd></template>
          <template v-if="issue.fault"><dt>Fault</dt><dd>{{ issue.fault }}</dd></template>
          <template v-if="record.remedy"><dt>Remedy</dt><dd>{{ record.remedy }}, {{ when(record.remediedAt) }}</dd></template>
          <template v-if="issue.test?.look"><dt>Where to look</dt><dd>{{ issue.test.look }}</dd></template>
          <template v-if="record.state === 'closed'"><dt>Closed</dt><dd>{{ when(record.closedAt) }}, {{ record.closedWhy || (issue.sameAs?.id ? 'as one more symptom of another issue' : 'its test passed after the remedy') }}</dd></template>
        </dl>
        <p v-if="record.state === 'remedied'" class="small">It closes by itself when {{ issue.test ? issue.test.title.toLowerCase() : 'its test' }} passes.</p>
        <div v-if="!step" class="row"><v-btn v-for="s in issue.steps" :key="s" :variant="s === issue.steps[0] ? 'flat' : 'outlined'" :color="s === issue.steps[0] ? 'primary' : undefined" @click="begin(s)">{{ asks[s]?.word ?? capital(s) }}</v-btn></div>
        <form v-else class="stack" @submit.prevent="take">
          <h2>{{ asks[step]?.word }}</h2>
          <p v-if="step === 'remedy' && fault" class="small">Recorded as: {{ fault.title }}, at {{ fault.about.label }}.</p>
          <template v-for="(a, n) in asks[step]?.ask" :key="a.member">
            <v-select v-if="a.issue" v-model="said[a.member]" :items="others" :label="a.label" no-data-text="No other issue is open" />
            <v-select v-else-if="a.person" v-model="said[a.member]" :items="people" :label="a.label" />
            <v-text-field v-else v-model="said[a.member]" v-first="n === 0" :label="a.label" :type="a.day ? 'date' : 'text'" :error-messages="refusal?.faultAt('/' + a.member)" />
          </template>
          <ProblemNote v-if="refusal" :failure="refusal" />
          <div class="row"><v-btn type="submit" color="primary" :disabled="!ready">{{ asks[step]?.word }}</v-btn><v-btn variant="text" @click="step = ''">Cancel</v-btn></div>
        </form>
      </section>
      <SuspectsPart v-if="record.state !== 'closed'" :code="code" :issue="id" :may-write="issue.steps.length > 0" @found="found" />
      <section class="sheet stack" aria-labelledby="tries">
        <h2 id="tries">Tries</h2>
        <p v-if="!record.tries?.length" class="quiet">Nothing has been tried yet.</p>
        <ol class="plain ruled"><li v-for="(t, n) in record.tries" :key="t.id"><div>{{ t.what }}</div><div v-if="t.showed">Showed: {{ t.showed }}</div><div class="small quiet">{{ when(t.at) }}, {{ issue.triedBy[n] || personName(t.by) }}</div></li></ol>
      </section>
    </template>
  </div>
</template>
